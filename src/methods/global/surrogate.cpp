#include "tanzen/methods/global/surrogate.hpp"

#include "tanzen/methods/catalogue.hpp"
#include "tanzen/methods/direct/region_scale.hpp"
#include "tanzen/numeric/sampling.hpp"
#include "tanzen/search/run.hpp"

#include "gaussian_process.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace tanzen::methods {
namespace {

/// Logarithm of the expected improvement on `best` (equation 15), also where it is too small for a number.
double log_improvement(double best, double mean, double deviation) {
  if (!(deviation > 0)) return -1e6;
  const double u = (best - mean) / deviation;
  const double density = -0.5 * u * u - 0.5 * std::log(2 * std::numbers::pi);
  if (u < -20) return std::log(deviation) + density - 2 * std::log(-u); // the tail's first term
  const double chance = 0.5 * std::erfc(-u / std::numbers::sqrt2);
  return std::log(deviation) + std::log(u * chance + std::exp(density));
}

/// Where the next value may be: a box around the best point that grows with successes and shrinks with failures, its
/// sides as the model's lengths are (Eriksson, Pearce, Gardner, Turner and Poloczek, 2019, section 2). In the unit
/// cube.
class TrustBox {
 public:
  explicit TrustBox(Index n) : patience_(std::max<Index>(5, n)) {}

  void note(bool is_success) {
    successes_ = is_success ? successes_ + 1 : 0;
    failures_ = is_success ? 0 : failures_ + 1;
    if (successes_ == 3) side_ = std::min(2 * side_, 1.6);
    if (failures_ == patience_) side_ /= 2;
    if (successes_ == 3) successes_ = 0;
    if (failures_ == patience_) failures_ = 0;
  }
  [[nodiscard]] bool has_collapsed() const { return side_ < 1.0 / 128; }
  [[nodiscard]] Box around(const Vector& best, const Vector& lengths) const {
    const Vector half = 0.5 * side_ * lengths;
    return {(best - half).cwiseMax(0.0).cwiseMin(1.0), (best + half).cwiseMax(0.0).cwiseMin(1.0)};
  }

 private:
  double side_ = 0.8;
  Index successes_ = 0, failures_ = 0, patience_;
};

/// All values so far, in the unit cube, and where the next one is wanted.
class Exploration {
 public:
  Exploration(const Box& box, Index first, bool by_trust, bool has_noise)
      : box_(box), n_(box.dimension()), width_(region_scale(box)), plain_process_(n_, has_noise),
        log_process_(n_, has_noise), has_noise_(has_noise), first_(first) {
    if (by_trust) trust_.emplace(n_);
  }

  void add(const Vector& x, double value) {
    points_.conservativeResize(n_, points_.cols() + 1);
    points_.rightCols(1) = (x - box_.lower).cwiseQuotient(width_);
    values_.conservativeResize(points_.cols());
    values_[points_.cols() - 1] = value;
  }

  /// The place of the largest expected improvement; its size, as a part of the values' spread.
  double propose(Vector& x, RandomStream random) {
    const bool fits = points_.cols() >= next_fit_;
    if (fits) next_fit_ = points_.cols() < 3 * first_ ? points_.cols() + 1 : points_.cols() + points_.cols() / 10;
    model_values(fits);
    Index best = 0;
    modelled_.minCoeff(&best);
    room_ = trust_ ? trust_->around(points_.col(best), process_->relative_lengths())
                   : Box{Vector::Zero(n_), Vector::Ones(n_)};
    const Matrix places = candidates(points_.col(best), random);
    const auto prediction = process_->at(places);
    Vector gains(places.cols());
    for (Index k = 0; k < gains.size(); ++k)
      gains[k] = log_improvement(best_, prediction.mean[k], prediction.deviation[k]);
    Index chosen = 0;
    gains.maxCoeff(&chosen);
    const Outcome refined = refine(places.col(chosen));
    x = box_.lower + refined.point.cwiseProduct(width_);
    return std::exp(-refined.value);
  }

  /// Tells the trust box of the value that was proposed last, before it is added; whether it has to begin elsewhere.
  [[nodiscard]] bool has_collapsed_after(double value) {
    if (!trust_) return false;
    const double best = values_.minCoeff();
    trust_->note(value < best - 1e-3 * std::abs(best));
    return trust_->has_collapsed();
  }
  /// Forgets all values.
  void begin_anew() {
    points_.resize(n_, 0);
    values_.resize(0);
    next_fit_ = 0;
    trust_.emplace(n_);
  }

  [[nodiscard]] Index size() const { return points_.cols(); }
  [[nodiscard]] bool is_flat() const { return values_.maxCoeff() == values_.minCoeff(); }

 private:
  /// Values as the process models them: as they are, or by the logarithm of how far they lie above the best, whichever
  /// is the likelier (Jones, Schonlau and Welch, section 3, transform where the fit is poor). What is missing counts as
  /// the highest of the rest.
  void model_values(bool fits) {
    std::vector<double> sorted;
    for (const double value : values_) {
      if (std::isfinite(value)) sorted.push_back(value);
    }
    std::ranges::sort(sorted);
    const double cap = sorted.empty() ? 0 : sorted.back(), least = sorted.empty() ? 0 : sorted.front();
    const Vector plain = values_.unaryExpr([cap](double value) { return std::isfinite(value) ? value : cap; });
    const double middle = sorted.empty() ? 0 : sorted[sorted.size() / 2] - least;
    const double unit = 0.1 * middle;
    const Vector above = ((plain.array() - least) / unit).log1p();
    const double misfit = plain_process_.set(points_, scaled(plain), fits);
    double log_misfit = std::numeric_limits<double>::infinity();
    if (unit > 0) {
      // Of the same values: the likelihood of what they are, not of their logarithms.
      const auto count = static_cast<double>(plain.size());
      log_misfit = log_process_.set(points_, scaled(above), fits) + 2 * above.sum() +
                   2 * count * std::log(deviation_of(above) * (unit / deviation_of(plain)));
    }
    const bool is_log = log_misfit < misfit;
    process_ = is_log ? &log_process_ : &plain_process_;
    modelled_ = scaled(is_log ? above : plain);
    // The best of noisy values is a lucky one: then it is the best that the process says of them.
    best_ = has_noise_ ? process_->at(points_).mean.minCoeff() : modelled_.minCoeff();
  }

  static double deviation_of(const Vector& values) {
    const double deviation = std::sqrt((values.array() - values.mean()).square().mean());
    return deviation > 0 ? deviation : 1;
  }
  /// With mean 0 and deviation 1.
  static Vector scaled(const Vector& values) { return (values.array() - values.mean()) / deviation_of(values); }

  /// Places all over the room, and near the best point.
  Matrix candidates(const Vector& best, RandomStream& random) const {
    constexpr Index spread = 400, near = 200;
    Matrix places(n_, spread + near);
    for (double& value : places.reshaped()) value = random.uniform();
    for (Index k = 0; k < spread; ++k) places.col(k) = room_.lower + room_.width().cwiseProduct(places.col(k));
    for (Index k = 0; k < near; ++k) {
      const double width = std::pow(10.0, random.uniform(-4, -0.5));
      for (Index j = 0; j < n_; ++j)
        places(j, spread + k) = std::clamp(best[j] + width * random.normal(), room_.lower[j], room_.upper[j]);
    }
    return places;
  }

  [[nodiscard]] Outcome refine(const Vector& from) const {
    const Problem wanted = Problem::black_box(n_, [this](const Vector& u) {
                             const auto prediction = process_->at(u);
                             return -log_improvement(best_, prediction.mean[0], prediction.deviation[0]);
                           }).bounds(room_.lower, room_.upper);
    return run(wanted, method("quadratic-model", {{"radius", 0.02}}),
               {.start = Coordinates(from), .stop = {.evaluations = 20 + 10 * n_}});
  }

  Box box_;
  Index n_;
  Vector width_;
  GaussianProcess plain_process_, log_process_;
  bool has_noise_;
  const GaussianProcess* process_ = nullptr; ///< of the two the one that is used
  std::optional<TrustBox> trust_;
  Box room_; ///< where the next value may be
  Index first_, next_fit_ = 0;
  Matrix points_;
  Vector values_, modelled_;
  double best_ = 0;
};

} // namespace

MethodCard Surrogate::card() {
  return {
      .title = "Gaussian process with expected improvement",
      .family = "global",
      .source =
          "Jones, Schonlau and Welch, 1998; Rasmussen and Williams, 2006; logarithm of the improvement: Ament et al., "
          "2023; trust box: Eriksson et al., 2019",
      .limits = "only the region within them is searched",
      .summary =
          "Values that take minutes, of up to some tens of variables: it thinks long about where the next one is worth "
          "most. Not for exact minima.",
      .needs = Derivatives::none,
      .able = {.bounds = true}};
}

void Surrogate::settings(Settings& list) {
  list.add("first", first)
      .at_least(3)
      .at_most(1000)
      .unset_means("4 n + 4")
      .means("points of a Latin hypercube to begin with");
  list.add("look", look,
           {{"by-variables", Look::by_variables}, {"everywhere", Look::everywhere}, {"trust-box", Look::trust_box}})
      .means("where the next value may be: all over the region, or near the best; by-variables: near from 11 on");
  list.add("noise", noise).means("the values carry noise, whose share is fitted with the model");
  list.add("most-points", most_points).between(4, 5000).means("done when the model holds so many");
  list.add("improvement", improvement).at_least(0).means("done when less is to be expected, in the values' deviations");
}

Search Surrogate::search(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size(), begin = first.value_or(4 * n + 4);
  const Box box = evaluate.problem().sampling_box();
  Exploration exploration(box, begin, look == Look::trust_box || (look == Look::by_variables && n > 10), noise);
  exploration.add(start.point, start.value);
  Vector values, x = start.point, best = start.point;
  Index held = 1;
  double best_value = start.value;
  const auto note = [&](const Vector& point, double value) {
    exploration.add(point, value);
    if (value < best_value) {
      best = point;
      best_value = value;
    }
  };
  const auto sample = [&](RandomStream random) {
    const Matrix points = latin_hypercube_points(box, begin, random);
    evaluate.values(points, values);
    for (Index k = 0; k < begin; ++k) note(points.col(k), values[k]);
    held += begin;
  };
  sample(start.random.child({"first"}));
  for (std::int64_t iteration = 0;; ++iteration) {
    const double expected = exploration.propose(x, start.random.child({"candidates", iteration}));
    evaluate.bounds().project(x); // rounding alone could leave them
    const double value = evaluate(x);
    const bool has_collapsed = exploration.has_collapsed_after(value);
    note(x, value);
    ++held;
    Iteration now(best, best_value);
    now.column("expected", expected).column("points", static_cast<double>(held));
    if (exploration.is_flat()) now.settled("all values are the same");
    if (expected < improvement) now.settled("no improvement is to be expected");
    if (held >= most_points) now.at_limit("the model holds as many points as are allowed");
    co_yield now;
    if (!has_collapsed) continue;
    exploration.begin_anew();
    sample(start.random.child({"anew", iteration}));
  }
}

} // namespace tanzen::methods
