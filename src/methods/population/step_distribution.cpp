#include "step_distribution.hpp"

#include "tanzen/numeric/symmetric_eigen.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace tanzen::methods {

StrategyWeights::StrategyWeights(Index dimension, Index lambda) : parents(lambda / 2), raw(lambda) {
  const auto n = static_cast<double>(dimension);
  for (Index i = 0; i < lambda; ++i)
    raw[i] = std::log((static_cast<double>(lambda) + 1) / 2) - std::log(static_cast<double>(i + 1));
  weights = raw.head(parents) / raw.head(parents).sum();
  effective = 1 / weights.squaredNorm();
  path_rate = (effective + 2) / (n + effective + 5);
  damping = 1 + 2 * std::max(0.0, std::sqrt((effective - 1) / (n + 1)) - 1) + path_rate;
  expected_length = std::sqrt(n) * (1 - 1 / (4 * n) + 1 / (21 * n * n));
}

namespace {

/// What learns a covariance matrix has in common: the rates and weights of table 1, the path and the cumulation.
class CovarianceDistribution : public StepDistribution {
 public:
  CovarianceDistribution(Index dimension, const StrategyWeights& strategy, bool active, double faster)
      : strategy_(strategy), n_(static_cast<double>(dimension)), path_(Vector::Zero(dimension)) {
    const double effective = strategy.effective;
    path_rate_ = (4 + effective / n_) / (n_ + 4 + 2 * effective / n_);
    rank_one_ = std::min(1.0, faster * 2 / ((n_ + 1.3) * (n_ + 1.3) + effective));
    rank_many_ = std::min(1 - rank_one_,
                          faster * 2 * (0.25 + effective + 1 / effective - 2) / ((n_ + 2) * (n_ + 2) + effective));
    weights_ = Vector::Zero(strategy.raw.size());
    weights_.head(strategy.parents) = strategy.weights;
    if (active) add_negative_weights();
  }

  double log_change(double length) const override {
    return strategy_.path_rate / strategy_.damping * (length / strategy_.expected_length - 1);
  }
  double path_rate() const override { return strategy_.path_rate; }

 protected:
  /// Brings the path up to date and returns what the old matrix is multiplied with (equation 47).
  double cumulate(const Generation& generation) {
    path_ *= 1 - path_rate_;
    if (!generation.stalled)
      path_ += std::sqrt(path_rate_ * (2 - path_rate_) * strategy_.effective) * generation.mean_y;
    const double lost = generation.stalled ? rank_one_ * path_rate_ * (2 - path_rate_) : 0;
    return 1 + lost - rank_one_ - rank_many_ * weights_.sum();
  }
  /// The weight of the i-th best step; a negative one is scaled so that the matrix stays positive definite.
  [[nodiscard]] double weight(const Generation& generation, Index i) const {
    const double w = weights_[i];
    return w >= 0 ? w : w * n_ / (generation.z.col(i).squaredNorm() + 1e-300);
  }

  const StrategyWeights& strategy_;
  double n_;
  double path_rate_; ///< c_c
  double rank_one_;  ///< c_1
  double rank_many_; ///< c_mu
  Vector weights_;
  Vector path_; ///< p_c

 private:
  void add_negative_weights() { // equations 50 to 53
    const auto negative = strategy_.raw.tail(strategy_.raw.size() - strategy_.parents).cwiseMin(0.0);
    const double sum = -negative.sum();
    if (!(sum > 0) || !(rank_many_ > 0)) return;
    const double effective = sum * sum / negative.squaredNorm();
    const double most = std::min({1 + rank_one_ / rank_many_, 1 + 2 * effective / (strategy_.effective + 2),
                                  (1 - rank_one_ - rank_many_) / (n_ * rank_many_)});
    weights_.tail(negative.size()) = std::max(0.0, most) / sum * negative;
  }
};

class FullDistribution final : public CovarianceDistribution {
 public:
  FullDistribution(Index n, const StrategyWeights& strategy, bool active)
      : CovarianceDistribution(n, strategy, active, 1), matrix_(Matrix::Identity(n, n)), axes_(Matrix::Identity(n, n)),
        lengths_(Vector::Ones(n)), scaled_(n), eigen_(n) {
    lag_ = static_cast<Index>(std::max(1.0, 1 / ((rank_one_ + rank_many_) * n_ * 10)));
  }

  void transform(const Vector& z, Vector& y) override {
    scaled_ = lengths_.cwiseProduct(z);
    y.noalias() = axes_ * scaled_;
  }
  void whiten(const Vector& mean_z, Vector& whitened) override { whitened.noalias() = axes_ * mean_z; }
  void learn(const Generation& generation) override {
    const double kept = cumulate(generation);
    matrix_ *= kept;
    auto lower = matrix_.selfadjointView<Eigen::Lower>();
    lower.rankUpdate(path_, rank_one_);
    for (Index i = 0; i < generation.y.cols(); ++i) {
      if (weights_[i] != 0) lower.rankUpdate(generation.y.col(i), rank_many_ * weight(generation, i));
    }
    if (++age_ >= lag_) decompose();
  }
  void axis(Index k, Vector& step) const override { step = lengths_[k] * axes_.col(k); }
  void deviations(Vector& by_coordinate) const override { by_coordinate = matrix_.diagonal().cwiseSqrt(); }
  double longest_axis() const override { return lengths_[lengths_.size() - 1]; }
  double axis_ratio() const override { return lengths_[lengths_.size() - 1] / lengths_[0]; }

 private:
  void decompose() {
    age_ = 0;
    matrix_.triangularView<Eigen::StrictlyUpper>() = matrix_.transpose();
    eigen_.compute(matrix_);
    axes_ = eigen_.vectors();
    lengths_ = eigen_.values().cwiseMax(1e-300).cwiseSqrt();
  }

  Matrix matrix_;  ///< C, its lower half
  Matrix axes_;    ///< B
  Vector lengths_; ///< D
  Vector scaled_;
  SymmetricEigen eigen_;
  Index age_ = 0, lag_ = 1;
};

class SeparableDistribution final : public CovarianceDistribution {
 public:
  // With n numbers to learn instead of n (n + 1) / 2, it learns (n + 2) / 3 times as fast (Ros and Hansen, 2008).
  SeparableDistribution(Index n, const StrategyWeights& strategy, bool active)
      : CovarianceDistribution(n, strategy, active, (static_cast<double>(n) + 2) / 3), variances_(Vector::Ones(n)),
        lengths_(Vector::Ones(n)) {}

  void transform(const Vector& z, Vector& y) override { y = lengths_.cwiseProduct(z); }
  void whiten(const Vector& mean_z, Vector& whitened) override { whitened = mean_z; }
  void learn(const Generation& generation) override {
    variances_ *= cumulate(generation);
    variances_ += rank_one_ * path_.cwiseAbs2();
    for (Index i = 0; i < generation.y.cols(); ++i)
      variances_ += rank_many_ * weight(generation, i) * generation.y.col(i).cwiseAbs2();
    variances_ = variances_.cwiseMax(1e-300);
    lengths_ = variances_.cwiseSqrt();
  }
  void axis(Index k, Vector& step) const override { step = lengths_[k] * Vector::Unit(step.size(), k); }
  void deviations(Vector& by_coordinate) const override { by_coordinate = lengths_; }
  double longest_axis() const override { return lengths_.maxCoeff(); }
  double axis_ratio() const override { return lengths_.maxCoeff() / lengths_.minCoeff(); }

 private:
  Vector variances_, lengths_;
};

class LimitedDistribution final : public StepDistribution {
 public:
  LimitedDistribution(Index dimension, const StrategyWeights& strategy)
      : strategy_(strategy), n_(static_cast<double>(dimension)) {
    const auto lambda = static_cast<double>(strategy.raw.size());
    const auto memory = static_cast<Index>(4 + 3 * std::log(n_));
    directions_ = Matrix::Zero(dimension, memory);
    // In few variables the rates of the paper would exceed 1; there they are cut.
    rate_ = std::min(2 * lambda / n_, 0.5);
    for (Index j = 0; j < memory; ++j) {
      turning_.push_back(std::min(0.5, 1 / (std::pow(1.5, static_cast<double>(j)) * n_)));
      learning_.push_back(std::min(0.5, lambda / (std::pow(4.0, static_cast<double>(j)) * n_)));
    }
  }

  void transform(const Vector& z, Vector& y) override {
    y = z;
    for (Index j = 0; j < std::min(known_, directions_.cols()); ++j) {
      const double turning = turning_[static_cast<std::size_t>(j)];
      const double along = directions_.col(j).dot(y);
      y = (1 - turning) * y + turning * along * directions_.col(j);
    }
  }
  void whiten(const Vector& mean_z, Vector& whitened) override { whitened = mean_z; }
  void learn(const Generation& generation) override {
    for (Index j = 0; j < directions_.cols(); ++j) {
      const double rate = learning_[static_cast<std::size_t>(j)];
      directions_.col(j) =
          (1 - rate) * directions_.col(j) + std::sqrt(strategy_.effective * rate * (2 - rate)) * generation.mean_z;
    }
    ++known_;
  }
  double log_change(double length) const override { return rate_ / 2 * (length * length / n_ - 1); }
  double path_rate() const override { return rate_; }
  /// Each direction turns a step by a matrix of rank one: what they stretch a step by at most, all together.
  double longest_axis() const override {
    double most = 1;
    for (Index j = 0; j < std::min(known_, directions_.cols()); ++j) {
      const double turning = turning_[static_cast<std::size_t>(j)];
      most *= std::max(1.0, 1 + turning * (directions_.col(j).squaredNorm() - 1));
    }
    return most;
  }
  double axis_ratio() const override { return std::numeric_limits<double>::quiet_NaN(); }

 private:
  const StrategyWeights& strategy_;
  double n_;
  double rate_;
  std::vector<double> turning_, learning_; ///< c_d and c_c of each direction
  Matrix directions_;                      ///< one a column, from the fastest to the slowest
  Index known_ = 0;
};

} // namespace

std::unique_ptr<StepDistribution> StepDistribution::make(CmaEs::Form form, bool active, Index n,
                                                         const StrategyWeights& weights) {
  switch (form) {
  case CmaEs::Form::full: return std::make_unique<FullDistribution>(n, weights, active);
  case CmaEs::Form::separable: return std::make_unique<SeparableDistribution>(n, weights, active);
  case CmaEs::Form::limited: break;
  }
  return std::make_unique<LimitedDistribution>(n, weights);
}

} // namespace tanzen::methods
