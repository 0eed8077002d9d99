#pragma once

#include "tanzen/methods/population/population.hpp"
#include "tanzen/search/evaluator.hpp"

#include <algorithm>
#include <cmath>
#include <vector>

namespace tanzen::methods {

/// Values of a generation under noise (Hansen, Niederberger, Guzzella and Koumoutsakos, 2009, "A method for handling
/// uncertainty in evolutionary optimization", algorithms 1 and 2): some members are evaluated twice, and how far their
/// ranks move says how much noise decides. Where it decides too much each value is the mean of more evaluations, and
/// where they are many already the steps grow; where it does not, they are fewer again.
class Reevaluation {
 public:
  Reevaluation(Evaluator& evaluate, Index n, Index lambda)
      : evaluate_(evaluate), twice_(std::max<Index>(2, lambda / 10)), grow_(1 + 2 / (static_cast<double>(n) + 10)) {}

  /// Values to rank by: of those evaluated twice the mean of both.
  void values(const Matrix& points, Vector& values) {
    average(points, values);
    again_points_ = points.leftCols(twice_);
    average(again_points_, again_);
    measure(values);
    values.head(twice_) = 0.5 * (values.head(twice_) + again_);
    step_factor_ = 1;
    if (uncertainty_ > 0 && averaged_ < most_averaged)
      averaged_ = std::min(more * averaged_, most_averaged);
    else if (uncertainty_ > 0)
      step_factor_ = grow_;
    else
      averaged_ = std::max(averaged_ / more, 1.0);
  }

  /// Above 0 where noise decides too much.
  [[nodiscard]] double uncertainty() const { return uncertainty_; }
  /// How many evaluations a value is the mean of next.
  [[nodiscard]] double averaged() const { return std::round(averaged_); }
  [[nodiscard]] double step_factor() const { return step_factor_; }

 private:
  void average(const Matrix& points, Vector& values) {
    const auto times = static_cast<Index>(std::round(averaged_));
    evaluate_.values(points, values);
    for (Index k = 1; k < times; ++k) {
      evaluate_.values(points, more_);
      values += more_;
    }
    values /= static_cast<double>(times);
  }

  /// Algorithm 2: the ranks of old and new values among all of both, beside what changes would be usual.
  void measure(const Vector& values) {
    const Index lambda = values.size();
    all_.resize(2 * lambda);
    all_ << values, again_, values.tail(lambda - twice_);
    const auto rank = [&](double value) { return static_cast<double>((all_.array() < value).count()) + 1; };
    double sum = 0;
    for (Index k = 0; k < twice_; ++k) {
      const double before = rank(values[k]), after = rank(again_[k]);
      const double moved = std::abs(after - before) - (after == before ? 0 : 1);
      sum += 2 * moved - usual_change(after - (again_[k] > values[k] ? 1 : 0)) -
             usual_change(before - (values[k] > again_[k] ? 1 : 0));
    }
    uncertainty_ = sum / static_cast<double>(twice_);
  }

  /// The part of all changes that a rank could see which half of them, times theta, lie below: the percentile of
  /// |1 - rank|, |2 - rank|, ... of as many ranks as there are beside its own.
  [[nodiscard]] double usual_change(double rank) {
    constexpr double theta = 0.2;
    const Index others = all_.size() - 1;
    changes_.clear();
    for (Index k = 1; k <= others; ++k) changes_.push_back(std::abs(static_cast<double>(k) - rank));
    const auto place = static_cast<std::ptrdiff_t>(theta * 0.5 * static_cast<double>(others));
    std::nth_element(changes_.begin(), changes_.begin() + place, changes_.end());
    return changes_[static_cast<std::size_t>(place)];
  }

  static constexpr double more = 1.5, most_averaged = 30;

  Evaluator& evaluate_;
  Index twice_;
  double grow_;
  double averaged_ = 1, uncertainty_ = 0, step_factor_ = 1;
  Matrix again_points_;
  Vector again_, more_, all_;
  std::vector<double> changes_;
};

} // namespace tanzen::methods
