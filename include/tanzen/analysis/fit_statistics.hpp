#pragma once

#include "tanzen/problem/problem.hpp"

#include <optional>
#include <string>
#include <vector>

namespace tanzen {

/// One parameter of a fit, as far as the data determine it.
struct ParameterEstimate {
  std::string name = {};
  double value = 0;
  double error = 0;            ///< standard error; NaN where the data do not determine it, or a bound holds it
  double lower = 0, upper = 0; ///< of the interval; NaN likewise
  bool is_held = false;        ///< it sits on a bound, with the sum falling beyond
};

/// Where rows repeat the same values of the predictors: whether the residuals are larger than the repeats explain.
struct LackOfFit {
  Index groups = 0; ///< of repeated rows
  double ratio = 0; ///< F
  double p = 1;     ///< chance of so large a ratio where the model is right
};

/// What a fit says of its parameters and its data.
struct FitStatistics {
  double sum = 0;               ///< of the losses of the weighted residuals
  Index observations = 0;       ///< residuals whose weight is not 0
  Index degrees_of_freedom = 0; ///< observations less parameters that are free; statistics need at least 1
  double residual_sd = 0;       ///< of the weighted residuals; NaN without degrees of freedom
  double r_squared = 0; ///< about the weighted means; NaN where a model has no column of observations on its left
  std::vector<ParameterEstimate> parameters = {};
  Matrix covariance = {}; ///< of all parameters; NaN in rows and columns of those without an error
  Matrix correlation = {};
  /// Directions that the data do not determine: unit vectors of the parameters in units in which each changes the
  /// residuals alike.
  std::vector<Vector> undetermined = {};
  Vector residuals =
      {}; ///< weighted, row by row and in a row by equation: observed less fitted where the model says so
  Vector leverages = {}; ///< how far a row alone pulls its own fitted value, 0 to 1
  Vector studentized =
      {}; ///< residuals in their own standard errors, by the other rows; NaN where it alone determines something
  /// Residuals whose studentized one is larger than chance would make that of any row in one of twenty data sets
  /// (Bonferroni's bound: Cook and Weisberg, 1982, section 2.2.2); the largest first.
  std::vector<Index> stand_out = {};
  std::optional<LackOfFit> lack_of_fit = {};
};

/// The statistics of a fit at its answer, by the model linearized there: covariance s^2 (J'J)^-1 and Student's t for
/// squares (Seber and Wild, 1989, sections 2.1 and 5.1), the sandwich of Huber (1981, equation 6.5 of section 7.6) for
/// other losses; externally studentized residuals (Cook and Weisberg, 1982, section 2.2). Parameters that a bound
/// holds count as fixed. Errors of the data count by their proportions; their size is estimated.
///
/// Cost: one Jacobian and m n^2; it counts in no run. Throws ProblemError for what is no fit.
[[nodiscard]] FitStatistics fit_statistics(const Problem& problem, const Vector& parameters, double confidence = 0.95);

/// A fitted value with its standard error, by the linearized model.
struct Prediction {
  double value = 0;
  double error = 0;             ///< of the model's value; NaN where a parameter has none
  double half_width = 0;        ///< of the confidence interval of the model's value
  double half_width_of_new = 0; ///< of the interval for a new observation; NaN where its error is not known there
};

/// What a fitted model says, counted from 0, at values of the table's columns. Requires a problem built from models.
[[nodiscard]] Prediction predict(const Problem& problem, const FitStatistics& fit, const Vector& columns,
                                 Index equation = 0, double confidence = 0.95);

} // namespace tanzen
