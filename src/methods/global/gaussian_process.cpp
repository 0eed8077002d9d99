#include "gaussian_process.hpp"

#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"

#include <cmath>
#include <limits>

namespace tanzen::methods {

void GaussianProcess::correlate(const Matrix& a, const Matrix& b, Matrix& correlations) const {
  const Matrix scaled_a = inverse_lengths_.asDiagonal() * a, scaled_b = inverse_lengths_.asDiagonal() * b;
  correlations.noalias() = -2 * scaled_a.transpose() * scaled_b;
  correlations.colwise() += Vector(scaled_a.colwise().squaredNorm().transpose());
  correlations.rowwise() += scaled_b.colwise().squaredNorm();
  correlations = (5 * correlations.array().max(0.0)).sqrt().matrix();
  const auto distance = correlations.array(); // each is read before it is written over
  correlations = ((1 + distance + distance.square() / 3) * (-distance).exp()).matrix();
}

double GaussianProcess::factorize(const Vector& log_lengths, double log_nugget) {
  inverse_lengths_ = (-log_lengths).array().exp();
  correlate(points_, points_, correlations_);
  correlations_.diagonal().array() += std::exp(log_nugget);
  if (!factors_.compute(correlations_)) return std::numeric_limits<double>::infinity();
  const auto count = static_cast<double>(values_.size());
  solved_ones_.setOnes(values_.size());
  factors_.solve_in_place(solved_ones_);
  ones_ = solved_ones_.sum();
  mean_ = solved_ones_.dot(values_) / ones_;
  weights_ = values_.array() - mean_;
  factors_.solve_in_place(weights_);
  variance_ = std::max((values_.array() - mean_).matrix().dot(weights_) / count, 1e-300);
  return count * std::log(variance_) + factors_.log_determinant();
}

double GaussianProcess::set(const Matrix& points, const Vector& values, bool fits_lengths) {
  points_ = points;
  values_ = values;
  if (fits_lengths) {
    // Of many variables so few points tell one length for all.
    constexpr Index most_own = 20;
    const Index n = points.rows(), lengths = n <= most_own ? n : 1, parameters = has_noise_ ? lengths + 1 : lengths;
    const auto of_each = [&](const Vector& x) {
      return lengths == n ? Vector(x.head(n)) : Vector(Vector::Constant(n, x[0]));
    };
    // A length from a hundredth of the region to ten times it; noise up to as large as all else.
    Vector lower = Vector::Constant(parameters, std::log(0.01)), upper = Vector::Constant(parameters, std::log(10.0));
    if (has_noise_) {
      lower[lengths] = std::log(least_nugget);
      upper[lengths] = 0;
    }
    const Problem likelihood = Problem::black_box(parameters, [&](const Vector& x) {
                                 return factorize(of_each(x), has_noise_ ? x[lengths] : log_nugget_);
                               }).bounds(lower, upper);
    // The likelihood has several maxima: from the lengths that were, from short ones and from long ones.
    double best = std::numeric_limits<double>::infinity();
    Vector from(parameters);
    if (has_noise_) from[lengths] = log_nugget_;
    for (const Vector& start : {Vector(log_lengths_.head(lengths)), Vector(Vector::Constant(lengths, std::log(0.15))),
                                Vector(Vector::Constant(lengths, 0.0))}) {
      from.head(lengths) = start;
      const Outcome fit = run(likelihood, standard_methods().find("quadratic-model"),
                              {.start = Coordinates(from), .stop = {.evaluations = 40 + 10 * parameters}});
      if (!(fit.value < best)) continue;
      best = fit.value;
      log_lengths_ = of_each(fit.point);
      if (has_noise_) log_nugget_ = fit.point[lengths];
    }
  }
  double misfit = factorize(log_lengths_, log_nugget_);
  while (std::isinf(misfit) && log_lengths_[0] > -10) {
    log_lengths_.array() -= 0.5;
    misfit = factorize(log_lengths_, log_nugget_);
  }
  return misfit;
}

GaussianProcess::Prediction GaussianProcess::at(const Matrix& places) const {
  Matrix correlations;
  correlate(points_, places, correlations);
  Prediction prediction;
  prediction.mean = (correlations.transpose() * weights_).array() + mean_;
  const Vector missing = (1 - (correlations.transpose() * solved_ones_).array()).matrix();
  factors_.solve_lower_in_place(correlations);
  // Equation 9 of Jones, Schonlau and Welch, 1998; its last term is what the mean is uncertain by.
  prediction.deviation =
      (variance_ * (1 - correlations.colwise().squaredNorm().transpose().array() + missing.array().square() / ones_))
          .max(0.0)
          .sqrt();
  return prediction;
}

} // namespace tanzen::methods
