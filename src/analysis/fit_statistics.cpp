#include "tanzen/analysis/fit_statistics.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/expression/tape.hpp"
#include "tanzen/numeric/constants.hpp"
#include "tanzen/numeric/orthogonal.hpp"
#include "tanzen/problem/definition.hpp"
#include "tanzen/statistics/distributions.hpp"

#include <algorithm>
#include <cmath>
#include <compare>
#include <fmt/format.h>
#include <memory>

namespace tanzen {
namespace {

/// How many standard errors an interval reaches to each side.
double reach_of(Index degrees, double confidence) {
  return degrees < 1 ? not_known : student_quantile(static_cast<double>(degrees), 0.5 + 0.5 * confidence);
}

const LossSum& loss_of(const Problem& problem) {
  const auto* loss = dynamic_cast<const LossSum*>(problem.scalarization().get());
  if (loss == nullptr || problem.parts().residuals == 0)
    throw ProblemError(fmt::format("{} is no fit: it has no residuals that are summed", problem.name()));
  return *loss;
}

/// The model around the answer: weighted residuals, and of their derivatives by the parameters the triangle of the QR
/// factors, gathered in blocks (Golub and Van Loan, 2013, section 5.2).
class Linearized {
 public:
  const LossSum& loss;
  Vector residuals;
  std::vector<Index> free; ///< parameters that no bound holds
  Matrix triangle;         ///< of the free ones: it has the lengths and the singular values of their columns

  Linearized(const Problem& problem, const Vector& x)
      : loss(loss_of(problem)), worker_(problem.bundle()->worker()), x_(x),
        before_(problem.parts().all() - problem.parts().residuals) {
    const Index m = problem.parts().residuals, n = x.size();
    residuals.resize(m);
    Matrix all = Matrix::Zero(n, n), stacked;
    Vector gradient = Vector::Zero(n);
    each_block([&](Index first, const Vector& values, const Matrix& rows) {
      const Index count = values.size();
      const Vector weights = weights_of(first, count), own = weights.cwiseProduct(values);
      residuals.segment(first, count) = own;
      stacked.resize(n + count, n);
      stacked << all, weights.asDiagonal() * rows;
      gradient += stacked.bottomRows(count).transpose() *
                  own.unaryExpr([&](double residual) { return loss.loss().slope(residual); });
      all = triangle_of(stacked);
    });
    const Bounds& bounds = problem.bounds();
    for (Index i = 0; i < n; ++i) {
      const double near = 1e-10 * (1 + std::abs(x[i]));
      const bool at_lower = x[i] <= bounds.lower()[i] + near, at_upper = x[i] >= bounds.upper()[i] - near;
      const bool is_fixed = bounds.lower()[i] == bounds.upper()[i];
      if (is_fixed || (at_lower && gradient[i] > 0) || (at_upper && gradient[i] < 0)) continue;
      free.push_back(i);
    }
    triangle = all(Eigen::all, free);
    if (!triangle.allFinite() || !residuals.allFinite())
      throw ProblemError(fmt::format("the model of {} is no number at some rows of the data", problem.name()));
  }

  /// How long each row is, times `half`: squared.
  [[nodiscard]] Vector lengths_of_rows(const Matrix& half) const {
    Vector lengths(residuals.size());
    each_block([&](Index first, const Vector& values, const Matrix& rows) {
      lengths.segment(first, values.size()) =
          (weights_of(first, values.size()).asDiagonal() * rows(Eigen::all, free) * half).rowwise().squaredNorm();
    });
    return lengths;
  }

  /// How many residuals have a weight.
  [[nodiscard]] Index counting() const {
    Index count = 0;
    for (Index k = 0; k < residuals.size(); ++k) count += loss.weight(k) > 0;
    return count;
  }

 private:
  [[nodiscard]] Vector weights_of(Index first, Index count) const {
    Vector weights(count);
    for (Index k = 0; k < count; ++k) weights[k] = loss.weight(first + k);
    return weights;
  }
  /// Residuals and their derivatives, before the weights, in blocks.
  template <class Visit>
  void each_block(Visit&& visit) const {
    worker_->visit_jacobian(x_, [&](Index first, const Vector& outputs, const Matrix& rows) {
      const Index skipped = std::max<Index>(0, before_ - first), count = outputs.size() - skipped;
      if (count > 0) visit(first + skipped - before_, outputs.tail(count), rows.bottomRows(count));
    });
  }

  std::unique_ptr<FunctionWorker> worker_;
  Vector x_;
  Index before_; ///< parts that are no residuals
};

/// s^2 of the covariance: of squares the residual variance, of other losses Huber's (1981, section 7.6, equation 6.5).
double variance_of(const Linearized& model, Index degrees) {
  const Loss& loss = model.loss.loss();
  const auto m = static_cast<double>(model.counting());
  const auto n = static_cast<double>(model.free.size());
  if (degrees < 1) return not_known;
  if (loss.kind == Loss::Kind::squares) return model.residuals.squaredNorm() / static_cast<double>(degrees);
  double squares = 0, bends = 0, bends_squared = 0;
  for (const double r : model.residuals) {
    const double slope = 0.5 * loss.slope(r), bend = 0.5 * loss.bend(r);
    squares += slope * slope;
    bends += bend;
    bends_squared += bend * bend;
  }
  const double mean = bends / m, spread = bends_squared / m - mean * mean;
  if (!(mean > 0)) return not_known;
  const double correction = 1 + n / m * spread / (mean * mean);
  return correction * correction * squares / static_cast<double>(degrees) / (mean * mean);
}

/// The columns that the models observe; empty where one has none of its own on its left.
std::vector<Index> observed_in(const Problem& problem) {
  const auto& definition = problem.definition();
  std::vector<Index> observed;
  if (definition == nullptr || !definition->fit) return observed;
  for (const auto& column : observed_columns(*definition->fit)) {
    if (!column) return {};
    observed.push_back(*column);
  }
  return observed;
}

double r_squared(const Problem& problem, const Linearized& model) {
  const std::vector<Index> observed = observed_in(problem);
  const auto each = static_cast<Index>(observed.size());
  double about_means = 0;
  for (Index k = 0; k < each; ++k) {
    const auto values = problem.definition()->fit->table->rows.col(observed[static_cast<std::size_t>(k)]);
    const auto squared = [&](Index row) { return std::pow(model.loss.weight(row * each + k), 2); };
    double sum = 0, weights = 0;
    for (Index row = 0; row < values.size(); ++row) {
      sum += squared(row) * values[row];
      weights += squared(row);
    }
    for (Index row = 0; row < values.size(); ++row)
      about_means += squared(row) * std::pow(values[row] - sum / weights, 2);
  }
  return about_means > 0 ? 1 - model.residuals.squaredNorm() / about_means : not_known;
}

/// Residuals of one equation at rows with the same values of all predictors, by the ratio of what they leave to what
/// they explain (Draper and Smith, 1981, section 1.5).
std::optional<LackOfFit> lack_of_fit(const Problem& problem, const Linearized& model) {
  if (observed_in(problem).empty() || model.loss.loss().kind != Loss::Kind::squares) return std::nullopt;
  const ProblemDefinition& definition = *problem.definition();
  const DataTable& table = *definition.fit->table;
  const auto each = static_cast<Index>(definition.fit->equations.size());
  const std::vector<Index> predictors = predictor_columns(definition);
  std::vector<Index> order; // rows that share their predictors, and the equation, side by side
  for (Index k = 0; k < model.residuals.size(); ++k)
    if (model.loss.weight(k) != 0) order.push_back(k);
  const auto compare = [&](Index one, Index other) {
    if (one % each != other % each) return one % each <=> other % each;
    for (const Index column : predictors) {
      const double a = table.rows(one / each, column), b = table.rows(other / each, column);
      if (a != b) return a < b ? std::strong_ordering::less : std::strong_ordering::greater;
    }
    return std::strong_ordering::equal;
  };
  std::ranges::sort(order, [&](Index one, Index other) { return compare(one, other) < 0; });
  double pure = 0;
  Index groups = 0, repeats = 0, repeated = 0;
  for (std::size_t first = 0, end = 0; first < order.size(); first = end) {
    while (end < order.size() && compare(order[first], order[end]) == 0) ++end;
    ++groups;
    if (end - first < 2) continue;
    ++repeated;
    // Of rows that share the model's value the residuals differ as the observations do.
    const std::vector<Index> members(order.begin() + static_cast<std::ptrdiff_t>(first),
                                     order.begin() + static_cast<std::ptrdiff_t>(end));
    const Vector own = model.residuals(members);
    pure += (own.array() - own.mean()).square().sum();
    repeats += static_cast<Index>(members.size()) - 1;
  }
  const Index lacking = groups - static_cast<Index>(model.free.size());
  if (repeats < 1 || lacking < 1 || !(pure > 0)) return std::nullopt;
  LackOfFit lack{.groups = repeated};
  lack.ratio = std::max(0.0, model.residuals.squaredNorm() - pure) / static_cast<double>(lacking) /
               (pure / static_cast<double>(repeats));
  lack.p = fisher_tail(static_cast<double>(lacking), static_cast<double>(repeats), lack.ratio);
  return lack;
}

/// Residuals in their own standard errors: of squares by the variance without the row, of other losses by the spread of
/// the middle residuals, which no single row moves.
Vector studentized(const Linearized& model, const FitStatistics& fit) {
  const Index m = model.residuals.size();
  Vector all = Vector::Constant(m, not_known);
  if (fit.degrees_of_freedom < 2) return all;
  const bool is_squares = model.loss.loss().kind == Loss::Kind::squares;
  const double rest = model.residuals.squaredNorm();
  double spread = 0;
  if (!is_squares) {
    Vector sizes = model.residuals.cwiseAbs();
    const auto middle = sizes.begin() + m / 2;
    std::nth_element(sizes.begin(), middle, sizes.end());
    spread = *middle / 0.6745;
  }
  for (Index row = 0; row < m; ++row) {
    const double left = 1 - fit.leverages[row], residual = model.residuals[row];
    if (!(left > 1e-12) || model.loss.weight(row) == 0) continue;
    const double without = (rest - residual * residual / left) / static_cast<double>(fit.degrees_of_freedom - 1);
    const double variance = is_squares ? without : spread * spread;
    if (variance > 0) all[row] = residual / std::sqrt(variance * left);
  }
  return all;
}

} // namespace

FitStatistics fit_statistics(const Problem& problem, const Vector& parameters, double confidence) {
  constexpr double negligible = 1e-10; // of the largest singular value, of columns of length 1
  Linearized model(problem, parameters);
  const Index n = parameters.size(), m = model.residuals.size();
  const auto k = static_cast<Index>(model.free.size());
  FitStatistics fit{.observations = model.counting()};
  for (const double r : model.residuals) fit.sum += model.loss.loss().value(r);
  const Vector lengths = model.triangle.colwise().norm();
  const Vector units = lengths.unaryExpr([](double length) { return length > 0 ? length : 1.0; });
  const auto [singular, directions] = singular_directions(model.triangle * units.cwiseInverse().asDiagonal());
  Index rank = 0;
  while (rank < singular.size() && singular[rank] > negligible * std::max(singular[0], 1e-300)) ++rank;
  fit.degrees_of_freedom = fit.observations - rank;
  const double variance = variance_of(model, fit.degrees_of_freedom);
  fit.residual_sd = fit.degrees_of_freedom > 0
                        ? std::sqrt(model.residuals.squaredNorm() / static_cast<double>(fit.degrees_of_freedom))
                        : not_known;
  fit.r_squared = r_squared(problem, model);
  fit.lack_of_fit = lack_of_fit(problem, model);

  // A parameter that an undetermined direction moves has no error.
  Vector moved = Vector::Zero(k);
  for (Index j = rank; j < k; ++j) {
    Vector direction = Vector::Zero(n);
    direction(model.free) = directions.col(j);
    fit.undetermined.push_back(direction);
    moved = moved.cwiseMax(directions.col(j).cwiseAbs());
  }
  // (J'J)^-1 = half half', and row times half are the rows of J's orthonormal factor.
  const Matrix half =
      units.cwiseInverse().asDiagonal() * directions.leftCols(rank) * singular.head(rank).cwiseInverse().asDiagonal();
  const Matrix of_free = variance * half * half.transpose();
  fit.covariance = fit.correlation = Matrix::Constant(n, n, not_known);
  const double quantile = reach_of(fit.degrees_of_freedom, confidence);
  for (Index i = 0; i < n; ++i)
    fit.parameters.push_back(
        {problem.variables()[static_cast<std::size_t>(i)].name, parameters[i], not_known, not_known, not_known, true});
  const auto is_known = [&](Index j) { return moved[j] <= 1e-6; };
  for (Index a = 0; a < k; ++a) {
    const Index i = model.free[static_cast<std::size_t>(a)];
    ParameterEstimate& estimate = fit.parameters[static_cast<std::size_t>(i)];
    estimate.is_held = false;
    if (!is_known(a)) continue;
    estimate.error = std::sqrt(of_free(a, a));
    estimate.lower = parameters[i] - quantile * estimate.error;
    estimate.upper = parameters[i] + quantile * estimate.error;
    for (Index b = 0; b < k; ++b) {
      if (!is_known(b)) continue;
      const Index j = model.free[static_cast<std::size_t>(b)];
      fit.covariance(i, j) = of_free(a, b);
      fit.correlation(i, j) = a == b ? 1 : of_free(a, b) / std::sqrt(of_free(a, a) * of_free(b, b));
    }
  }
  fit.leverages = model.lengths_of_rows(half);
  fit.studentized = studentized(model, fit);
  fit.residuals = std::move(model.residuals);
  const double limit = reach_of(fit.degrees_of_freedom - 1, 1 - 0.05 / static_cast<double>(fit.observations));
  for (Index row = 0; row < m; ++row)
    if (std::abs(fit.studentized[row]) > limit) fit.stand_out.push_back(row);
  std::ranges::stable_sort(fit.stand_out, std::ranges::greater(),
                           [&](Index row) { return std::abs(fit.studentized[row]); });
  return fit;
}

Prediction predict(const Problem& problem, const FitStatistics& fit, const Vector& columns, Index equation,
                   double confidence) {
  const auto& definition = problem.definition();
  if (definition == nullptr || !definition->fit)
    throw ProblemError(fmt::format("{} is no fit: it predicts nothing", problem.name()));
  const Expressions models = fitted_models(*definition);
  const auto n = static_cast<Index>(fit.parameters.size());
  Vector point(n + columns.size());
  for (Index i = 0; i < n; ++i) point[i] = fit.parameters[static_cast<std::size_t>(i)].value;
  point.tail(columns.size()) = columns;
  const Tape tape(models[equation]);
  Tape::Workspace work = tape.workspace();
  Vector gradient;
  Prediction prediction{.value = tape.gradient(point, work, gradient)};
  double variance = 0;
  for (Index i = 0; i < n; ++i) {
    if (fit.parameters[static_cast<std::size_t>(i)].is_held) continue;
    for (Index j = 0; j < n; ++j) {
      if (fit.parameters[static_cast<std::size_t>(j)].is_held || gradient[i] == 0 || gradient[j] == 0) continue;
      variance += gradient[i] * fit.covariance(i, j) * gradient[j];
    }
  }
  const double quantile = reach_of(fit.degrees_of_freedom, confidence);
  prediction.error = std::sqrt(std::max(variance, 0.0));
  if (std::isnan(variance)) prediction.error = not_known;
  prediction.half_width = quantile * prediction.error;
  prediction.half_width_of_new =
      quantile * std::hypot(prediction.error, fit.residual_sd * observation_error(*definition->fit, equation, columns));
  return prediction;
}

} // namespace tanzen
