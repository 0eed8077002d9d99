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

/// All values so far, in the unit cube, and where the next one is wanted.
class Exploration {
 public:
  Exploration(const Box& box, Index first)
      : box_(box), n_(box.dimension()), width_(region_scale(box)), process_(n_), first_(first) {}

  void add(const Vector& x, double value) {
    points_.conservativeResize(n_, points_.cols() + 1);
    points_.rightCols(1) = (x - box_.lower).cwiseQuotient(width_);
    values_.conservativeResize(points_.cols());
    values_[points_.cols() - 1] = value;
  }

  /// The place of the largest expected improvement; its size, as a part of the values' spread.
  double propose(Vector& x, RandomStream random) {
    model_values();
    const bool fits = points_.cols() >= next_fit_;
    if (fits) next_fit_ = points_.cols() < 3 * first_ ? points_.cols() + 1 : points_.cols() + points_.cols() / 10;
    process_.set(points_, modelled_, fits);
    const Matrix places = candidates(random);
    const auto prediction = process_.at(places);
    Vector gains(places.cols());
    for (Index k = 0; k < gains.size(); ++k)
      gains[k] = log_improvement(best_, prediction.mean[k], prediction.deviation[k]);
    Index chosen = 0;
    gains.maxCoeff(&chosen);
    const Outcome refined = refine(places.col(chosen));
    x = box_.lower + refined.point.cwiseProduct(width_);
    return std::exp(-refined.value);
  }

  [[nodiscard]] Index size() const { return points_.cols(); }
  [[nodiscard]] bool is_flat() const { return values_.maxCoeff() == values_.minCoeff(); }

 private:
  /// Values with mean 0 and deviation 1; what is missing or very high counts as the highest of the rest.
  void model_values() {
    std::vector<double> sorted;
    for (const double value : values_) {
      if (std::isfinite(value)) sorted.push_back(value);
    }
    std::ranges::sort(sorted);
    const double cap = sorted.empty() ? 0 : sorted.back();
    modelled_ = values_.unaryExpr([cap](double value) { return std::isfinite(value) ? value : cap; });
    const double mean = modelled_.mean();
    const double deviation = std::sqrt((modelled_.array() - mean).square().mean());
    modelled_ = (modelled_.array() - mean) / (deviation > 0 ? deviation : 1);
    best_ = modelled_.minCoeff();
  }

  /// Places all over the region, and near the best points.
  Matrix candidates(RandomStream& random) const {
    constexpr Index spread = 400, near = 200;
    Matrix places(n_, spread + near);
    for (double& value : places.reshaped()) value = random.uniform();
    Index best = 0;
    modelled_.minCoeff(&best);
    for (Index k = 0; k < near; ++k) {
      const double width = std::pow(10.0, random.uniform(-4, -0.5));
      for (Index j = 0; j < n_; ++j)
        places(j, spread + k) = std::clamp(points_(j, best) + width * random.normal(), 0.0, 1.0);
    }
    return places;
  }

  [[nodiscard]] Outcome refine(const Vector& from) const {
    const Problem wanted = Problem::black_box(n_, [this](const Vector& u) {
                             const auto prediction = process_.at(u);
                             return -log_improvement(best_, prediction.mean[0], prediction.deviation[0]);
                           }).bounds(Vector(Vector::Zero(n_)), Vector(Vector::Ones(n_)));
    return run(wanted, method("quadratic-model", {{"radius", 0.02}}),
               {.start = Coordinates(from), .stop = {.evaluations = 20 + 10 * n_}});
  }

  Box box_;
  Index n_;
  Vector width_;
  GaussianProcess process_;
  Index first_, next_fit_ = 0;
  Matrix points_;
  Vector values_, modelled_;
  double best_ = 0;
};

} // namespace

MethodCard Surrogate::card() {
  return {.title = "Gaussian process with expected improvement",
          .family = "global",
          .source = "Jones, Schonlau and Welch, 1998; Rasmussen and Williams, 2006",
          .limits = "only the region within them is searched",
          .summary =
              "Values that take minutes, of up to ten variables: it thinks long about where the next one is worth "
              "most. Not for exact minima.",
          .needs = Derivatives::none,
          .able = {.bounds = true, .most_variables = 10}};
}

void Surrogate::settings(Settings& list) {
  list.add("first", first)
      .at_least(3)
      .at_most(1000)
      .unset_means("4 n + 4")
      .means("points of a Latin hypercube to begin with");
  list.add("most-points", most_points).between(4, 5000).means("done when the model holds so many");
  list.add("improvement", improvement).at_least(0).means("done when less is to be expected, in the values' deviations");
}

Search Surrogate::search(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size(), begin = first.value_or(4 * n + 4);
  const Box box = evaluate.problem().sampling_box();
  Exploration exploration(box, begin);
  exploration.add(start.point, start.value);
  const Matrix sample = latin_hypercube_points(box, begin, start.random.child({"first"}));
  Vector values, x = start.point, best = start.point;
  double best_value = start.value;
  const auto note = [&](const Vector& point, double value) {
    exploration.add(point, value);
    if (value < best_value) {
      best = point;
      best_value = value;
    }
  };
  evaluate.values(sample, values);
  for (Index k = 0; k < begin; ++k) note(sample.col(k), values[k]);
  for (std::int64_t iteration = 0;; ++iteration) {
    const double expected = exploration.propose(x, start.random.child({"candidates", iteration}));
    evaluate.bounds().project(x); // rounding alone could leave them
    note(x, evaluate(x));
    Iteration now(best, best_value);
    now.column("expected", expected).column("points", static_cast<double>(exploration.size()));
    if (exploration.is_flat()) now.settled("all values are the same");
    if (expected < improvement) now.settled("no improvement is to be expected");
    if (exploration.size() >= most_points) now.at_limit("the model holds as many points as are allowed");
    co_yield now;
  }
}

} // namespace tanzen::methods
