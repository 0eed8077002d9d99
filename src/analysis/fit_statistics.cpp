#include "tanzen/analysis/fit_statistics.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/expression/tape.hpp"
#include "tanzen/problem/definition.hpp"

#include <algorithm>
#include <boost/math/distributions/fisher_f.hpp>
#include <boost/math/distributions/students_t.hpp>
#include <cmath>
#include <Eigen/QR>
#include <Eigen/SVD>
#include <fmt/format.h>
#include <functional>
#include <map>

namespace tanzen {
namespace {

constexpr double unknown = std::numeric_limits<double>::quiet_NaN();

double student_quantile(Index degrees, double confidence) {
  if (degrees < 1) return unknown;
  const boost::math::students_t distribution(static_cast<double>(degrees));
  return boost::math::quantile(distribution, 0.5 + 0.5 * confidence);
}

const LossSum& loss_of(const Problem& problem) {
  const auto* loss = dynamic_cast<const LossSum*>(problem.scalarization().get());
  if (loss == nullptr || problem.parts().residuals == 0)
    throw ProblemError(fmt::format("{} is no fit: it has no residuals that are summed", problem.name()));
  return *loss;
}

/// The model around the answer: weighted residuals, and their derivatives by the parameters that are free.
struct Linearized {
  const LossSum& loss;
  Vector weights, residuals;
  std::vector<Index> free;
  Matrix rows; ///< of the free parameters

  Linearized(const Problem& problem, const Vector& x) : loss(loss_of(problem)) {
    const Index m = problem.parts().residuals;
    const auto worker = problem.bundle()->worker();
    Vector parts;
    Matrix jacobian;
    worker->outputs(x, parts);
    worker->jacobian(x, jacobian);
    weights.resize(m);
    for (Index k = 0; k < m; ++k) weights[k] = loss.weight(k);
    residuals = weights.cwiseProduct(parts.tail(m));
    const Matrix all = weights.asDiagonal() * jacobian.bottomRows(m);
    Vector slopes(m);
    for (Index k = 0; k < m; ++k) slopes[k] = loss.loss().slope(residuals[k]);
    const Vector gradient = all.transpose() * slopes;
    const Bounds& bounds = problem.bounds();
    for (Index i = 0; i < x.size(); ++i) {
      const double near = 1e-10 * (1 + std::abs(x[i]));
      const bool at_lower = x[i] <= bounds.lower()[i] + near, at_upper = x[i] >= bounds.upper()[i] - near;
      const bool is_fixed = bounds.lower()[i] == bounds.upper()[i];
      if (is_fixed || (at_lower && gradient[i] > 0) || (at_upper && gradient[i] < 0)) continue;
      free.push_back(i);
    }
    rows = all(Eigen::all, free);
    if (!rows.allFinite() || !residuals.allFinite())
      throw ProblemError(fmt::format("the model of {} is no number at some rows of the data", problem.name()));
  }
};

/// s^2 of the covariance: of squares the residual variance, of other losses Huber's (1981, section 7.6, equation 6.5).
double variance_of(const Linearized& model, Index degrees) {
  const Loss& loss = model.loss.loss();
  const auto m = static_cast<double>(model.residuals.size());
  const auto n = static_cast<double>(model.free.size());
  if (degrees < 1) return unknown;
  if (loss.kind == Loss::Kind::squares) return model.residuals.squaredNorm() / static_cast<double>(degrees);
  double squares = 0, bends = 0, bends_squared = 0;
  for (const double r : model.residuals) {
    const double slope = 0.5 * loss.slope(r), bend = 0.5 * loss.bend(r);
    squares += slope * slope;
    bends += bend;
    bends_squared += bend * bend;
  }
  const double mean = bends / m, spread = bends_squared / m - mean * mean;
  if (!(mean > 0)) return unknown;
  const double correction = 1 + n / m * spread / (mean * mean);
  return correction * correction * squares / static_cast<double>(degrees) / (mean * mean);
}

/// The column that the model's left side names; empty where it is no bare column.
Vector observed_in(const Problem& problem) {
  const auto& definition = problem.definition();
  if (definition == nullptr || !definition->fit || definition->fit->model.empty()) return {};
  const DataTable& table = *definition->fit->table;
  const std::string left = split(definition->fit->model, '=').front();
  const auto found = std::ranges::find(table.columns, left);
  return found == table.columns.end() ? Vector() : Vector(table.rows.col(found - table.columns.begin()));
}

double r_squared(const Problem& problem, const Linearized& model) {
  const Vector observed = observed_in(problem);
  if (observed.size() == 0) return unknown;
  const Vector squared = model.weights.cwiseAbs2();
  const double mean = squared.dot(observed) / squared.sum();
  const double about_mean = (squared.array() * (observed.array() - mean).square()).sum();
  return about_mean > 0 ? 1 - model.residuals.squaredNorm() / about_mean : unknown;
}

/// Rows with the same values of all columns but the observed one, by the ratio of what they leave to what they explain
/// (Draper and Smith, 1981, section 1.5).
std::optional<LackOfFit> lack_of_fit(const Problem& problem, const Linearized& model) {
  const auto& definition = problem.definition();
  if (observed_in(problem).size() == 0 || model.loss.loss().kind != Loss::Kind::squares) return std::nullopt;
  const DataTable& table = *definition->fit->table;
  const std::string left = split(definition->fit->model, '=').front();
  std::map<std::vector<double>, std::vector<Index>> groups;
  for (Index k = 0; k < table.rows.rows(); ++k) {
    std::vector<double> key;
    for (std::size_t c = 0; c < table.columns.size(); ++c)
      if (table.columns[c] != left && table.columns[c] != definition->fit->errors)
        key.push_back(table.rows(k, static_cast<Index>(c)));
    groups[key].push_back(k);
  }
  double pure = 0;
  Index repeats = 0, repeated = 0;
  for (const auto& [key, members] : groups) {
    if (members.size() < 2) continue;
    ++repeated;
    // Of rows that share the model's value the residuals differ as the observations do.
    const Vector own = model.residuals(members);
    pure += (own.array() - own.mean()).square().sum();
    repeats += static_cast<Index>(members.size()) - 1;
  }
  const Index lacking = static_cast<Index>(groups.size()) - static_cast<Index>(model.free.size());
  if (repeats < 1 || lacking < 1 || !(pure > 0)) return std::nullopt;
  LackOfFit lack{.groups = repeated};
  lack.ratio = std::max(0.0, model.residuals.squaredNorm() - pure) / static_cast<double>(lacking) /
               (pure / static_cast<double>(repeats));
  const boost::math::fisher_f distribution(static_cast<double>(lacking), static_cast<double>(repeats));
  lack.p = boost::math::cdf(boost::math::complement(distribution, lack.ratio));
  return lack;
}

/// The triangle of the QR factors of many rows, block by block (Golub and Van Loan, 2013, section 5.2), scaled by the
/// units of its columns: with it their singular values need no more memory than a block.
Matrix triangle_of(const Matrix& rows, const Vector& units) {
  constexpr Index block = 1024;
  const Index k = rows.cols();
  Matrix triangle = Matrix::Zero(k, k);
  for (Index first = 0; first < rows.rows(); first += block) {
    const Index count = std::min(block, rows.rows() - first);
    Matrix stacked(k + count, k);
    stacked << triangle, rows.middleRows(first, count) * units.cwiseInverse().asDiagonal();
    const Eigen::HouseholderQR<Matrix> factors(stacked);
    triangle = factors.matrixQR().topRows(k).triangularView<Eigen::Upper>();
  }
  return triangle;
}

/// Residuals in their own standard errors: of squares by the variance without the row, of other losses by the spread of
/// the middle residuals, which no single row moves.
Vector studentized(const Linearized& model, const FitStatistics& fit) {
  const Index m = model.residuals.size();
  Vector all = Vector::Constant(m, unknown);
  if (fit.degrees_of_freedom < 2) return all;
  const bool is_squares = model.loss.loss().kind == Loss::Kind::squares;
  Vector sizes = model.residuals.cwiseAbs();
  const auto middle = sizes.begin() + m / 2;
  std::nth_element(sizes.begin(), middle, sizes.end());
  const double spread = *middle / 0.6745, rest = model.residuals.squaredNorm();
  for (Index row = 0; row < m; ++row) {
    const double left = 1 - fit.leverages[row], residual = model.residuals[row];
    if (!(left > 1e-12)) continue;
    const double without = (rest - residual * residual / left) / static_cast<double>(fit.degrees_of_freedom - 1);
    const double variance = is_squares ? without : spread * spread;
    if (variance > 0) all[row] = residual / std::sqrt(variance * left);
  }
  return all;
}

} // namespace

FitStatistics fit_statistics(const Problem& problem, const Vector& parameters, double confidence) {
  constexpr double negligible = 1e-10; // of the largest singular value, of columns of length 1
  const Linearized model(problem, parameters);
  const Index n = parameters.size(), m = model.residuals.size();
  const auto k = static_cast<Index>(model.free.size());
  FitStatistics fit{.observations = m, .residuals = model.residuals};
  for (const double r : model.residuals) fit.sum += model.loss.loss().value(r);
  const Vector lengths = model.rows.colwise().norm();
  const Vector units = lengths.unaryExpr([](double length) { return length > 0 ? length : 1.0; });
  const Eigen::JacobiSVD<Matrix> svd(triangle_of(model.rows, units), Eigen::ComputeFullV);
  const Vector& singular = svd.singularValues();
  Index rank = 0;
  while (rank < singular.size() && singular[rank] > negligible * std::max(singular[0], 1e-300)) ++rank;
  fit.degrees_of_freedom = m - rank;
  const double variance = variance_of(model, fit.degrees_of_freedom);
  fit.residual_sd = fit.degrees_of_freedom > 0
                        ? std::sqrt(model.residuals.squaredNorm() / static_cast<double>(fit.degrees_of_freedom))
                        : unknown;
  fit.r_squared = r_squared(problem, model);
  fit.lack_of_fit = lack_of_fit(problem, model);

  // A parameter that an undetermined direction moves has no error.
  Vector moved = Vector::Zero(k);
  for (Index j = rank; j < k; ++j) {
    Vector direction = Vector::Zero(n);
    direction(model.free) = svd.matrixV().col(j);
    fit.undetermined.push_back(direction);
    moved = moved.cwiseMax(svd.matrixV().col(j).cwiseAbs());
  }
  // (J'J)^-1 = half half', and row times half are the rows of J's orthonormal factor.
  const Matrix half = units.cwiseInverse().asDiagonal() * svd.matrixV().leftCols(rank) *
                      singular.head(rank).cwiseInverse().asDiagonal();
  const Matrix of_free = variance * half * half.transpose();
  fit.covariance = fit.correlation = Matrix::Constant(n, n, unknown);
  const double quantile = student_quantile(fit.degrees_of_freedom, confidence);
  for (Index i = 0; i < n; ++i)
    fit.parameters.push_back(
        {problem.variables()[static_cast<std::size_t>(i)].name, parameters[i], unknown, unknown, unknown, true});
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
  fit.leverages.resize(m);
  for (Index row = 0; row < m; ++row) fit.leverages[row] = (model.rows.row(row) * half).squaredNorm();
  fit.studentized = studentized(model, fit);
  const double limit = student_quantile(fit.degrees_of_freedom - 1, 1 - 0.05 / static_cast<double>(m));
  for (Index row = 0; row < m; ++row)
    if (std::abs(fit.studentized[row]) > limit) fit.stand_out.push_back(row);
  std::ranges::stable_sort(fit.stand_out, std::ranges::greater(),
                           [&](Index row) { return std::abs(fit.studentized[row]); });
  return fit;
}

Prediction predict(const Problem& problem, const FitStatistics& fit, const Vector& columns, double confidence) {
  const auto& definition = problem.definition();
  if (definition == nullptr || !definition->fit)
    throw ProblemError(fmt::format("{} is no fit: it predicts nothing", problem.name()));
  const Expression model = fitted_model(*definition);
  const auto n = static_cast<Index>(fit.parameters.size());
  Vector point(n + columns.size());
  for (Index i = 0; i < n; ++i) point[i] = fit.parameters[static_cast<std::size_t>(i)].value;
  point.tail(columns.size()) = columns;
  const Tape tape(model);
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
  const double quantile = student_quantile(fit.degrees_of_freedom, confidence);
  prediction.error = std::sqrt(std::max(variance, 0.0));
  if (std::isnan(variance)) prediction.error = unknown;
  prediction.half_width = quantile * prediction.error;
  prediction.half_width_of_new = quantile * std::hypot(prediction.error, fit.residual_sd);
  return prediction;
}

} // namespace tanzen
