#include "tanzen/methods/direct/nelder_mead.hpp"

#include "tanzen/search/relative_gradient.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace tanzen::methods {
namespace {

struct Coefficients {
  double reflection = 1;
  double expansion = 2;
  double contraction = 0.5;
  double shrinkage = 0.5;

  static Coefficients of_dimension(double n) {
    if (n < 2) return {};
    return {1, 1 + 2 / n, 0.75 - 1 / (2 * n), 1 - 1 / n};
  }
};

/// The vertices, best first, and where trial points come from.
class Simplex {
 public:
  Simplex(Evaluator& evaluate, const Start& start, const Vector& edges, const Coefficients& coefficients)
      : evaluate_(evaluate), coefficients_(coefficients), n_(start.point.size()), points_(n_, n_ + 1), values_(n_ + 1),
        order_(static_cast<std::size_t>(n_) + 1), centroid_(n_), trial_(n_), other_(n_) {
    points_.colwise() = start.point;
    values_[0] = start.value;
    for (Index j = 0; j < n_; ++j) {
      const double upper = evaluate.bounds().upper()[j], lower = evaluate.bounds().lower()[j];
      double& coordinate = points_(j, j + 1);
      const double edge = edges[j];
      const bool fits = coordinate + edge <= upper && coordinate + edge >= lower;
      const bool upwards = upper - coordinate >= coordinate - lower;
      const double length = std::abs(edge);
      if (fits)
        coordinate += edge;
      else
        coordinate = upwards ? std::min(coordinate + length, upper) : std::max(coordinate - length, lower);
      trial_ = points_.col(j + 1);
      values_[j + 1] = evaluate(trial_);
    }
    std::iota(order_.begin(), order_.end(), Index{0});
    sort();
  }

  [[nodiscard]] const Vector& best_point() {
    best_ = points_.col(order_.front());
    return best_;
  }
  [[nodiscard]] double best_value() const { return values_[order_.front()]; }
  /// Between the best and the worst value that there are; NaN where some vertex has none.
  [[nodiscard]] double spread() const {
    const double spread = values_[order_.back()] - values_[order_.front()];
    return std::isfinite(spread) ? spread : std::numeric_limits<double>::quiet_NaN();
  }

  /// The largest distances of vertices from the best one, by coordinate.
  [[nodiscard]] const Vector& widths() {
    const auto best = points_.col(order_.front());
    other_ = (points_.col(0) - best).cwiseAbs();
    for (Index k = 1; k < points_.cols(); ++k) other_ = other_.cwiseMax((points_.col(k) - best).cwiseAbs());
    return other_;
  }

  void improve() {
    const Index worst = order_.back();
    const double second_worst = values_[order_[order_.size() - 2]];
    centroid_ = (points_.rowwise().sum() - points_.col(worst)) / static_cast<double>(n_);

    const double reflected = try_at(coefficients_.reflection, trial_);
    if (reflected < best_value()) {
      const double expanded = try_at(coefficients_.reflection * coefficients_.expansion, other_);
      if (expanded < reflected)
        replace_worst(other_, expanded);
      else
        replace_worst(trial_, reflected);
    } else if (reflected < second_worst) {
      replace_worst(trial_, reflected);
    } else {
      const bool outside = reflected < values_[worst];
      const double factor = coefficients_.contraction * (outside ? coefficients_.reflection : -1);
      const double contracted = try_at(factor, other_);
      const bool good = outside ? contracted <= reflected : contracted < values_[worst];
      if (good)
        replace_worst(other_, contracted);
      else
        shrink();
    }
  }

 private:
  /// The value at centroid + factor * (centroid - worst), within the bounds.
  double try_at(double factor, Vector& point) {
    point = centroid_ + factor * (centroid_ - points_.col(order_.back()));
    evaluate_.bounds().project(point);
    return evaluate_(point);
  }

  /// Puts a better vertex in the worst one's place; among equals it comes last (Lagarias et al., 1998).
  void replace_worst(const Vector& point, double value) {
    const Index place = order_.back();
    points_.col(place) = point;
    values_[place] = value;
    order_.pop_back();
    const auto after =
        std::upper_bound(order_.begin(), order_.end(), value, [this](double v, Index k) { return v < values_[k]; });
    order_.insert(after, place);
  }

  void shrink() {
    const Index best = order_.front();
    for (std::size_t k = 1; k < order_.size(); ++k) {
      const Index j = order_[k];
      points_.col(j) = points_.col(best) + coefficients_.shrinkage * (points_.col(j) - points_.col(best));
      trial_ = points_.col(j);
      values_[j] = evaluate_(trial_);
    }
    sort();
  }

  void sort() {
    // By value, and by place among equals: what a stable sort gives, without its memory.
    std::sort(order_.begin(), order_.end(),
              [this](Index a, Index b) { return values_[a] != values_[b] ? values_[a] < values_[b] : a < b; });
  }

  Evaluator& evaluate_;
  Coefficients coefficients_;
  Index n_;
  Matrix points_;
  Vector values_;
  std::vector<Index> order_;
  Vector centroid_, trial_, other_, best_;
};

/// The size given, or a tenth of the region along each variable, which may differ much in their units.
Vector first_edges(const std::optional<double>& size, const Evaluator& evaluate) {
  if (size) return Vector::Constant(evaluate.dimension(), *size);
  return 0.1 * evaluate.problem().sampling_box().width();
}

} // namespace

MethodCard NelderMead::card() {
  return {.title = "simplex search",
          .family = "derivative-free",
          .source =
              "Nelder and Mead, 1965; order rules of Lagarias et al., 1998; adaptive coefficients of Gao and Han, 2012",
          .limits = "points outside are moved onto them (Box, 1965)",
          .summary =
              "No derivatives, few variables, a function that is not too rugged. It can stall far from a minimum "
              "when there are many variables.",
          .needs = Derivatives::none,
          .able = {.bounds = true}};
}

void NelderMead::settings(Settings& list) {
  list.add("size", size)
      .positive()
      .unset_means("a tenth of the region along each variable")
      .means("edge of the first simplex");
  list.add("adaptive", adaptive).means("coefficients that adapt to the dimension");
  list.add("collapse", collapse)
      .at_least(0)
      .means("done when the simplex is smaller than this, relative to each variable's size");
  list.add("restarts", restarts).at_least(0).means("most new simplices around the best point after a collapse");
}

Search NelderMead::search(Evaluator& evaluate, Start start) const {
  const auto n = static_cast<double>(start.point.size());
  const Coefficients coefficients = adaptive ? Coefficients::of_dimension(n) : Coefficients{};
  Vector edges = first_edges(size, evaluate);
  for (Index restart = 0;; ++restart) {
    Simplex simplex(evaluate, start, edges, coefficients);
    for (bool has_collapsed = false; !has_collapsed;) {
      simplex.improve();
      const Vector& widths = simplex.widths();
      const Vector& best = simplex.best_point();
      has_collapsed = relative_size(evaluate.problem(), best, widths) <= collapse;
      const double gained = start.value - simplex.best_value();
      const bool is_last = restart >= restarts || (restart > 0 && !(gained > 1e-12 * std::abs(start.value)));
      Iteration now(best, simplex.best_value());
      now.column("simplex_size", widths.maxCoeff()).column("spread", simplex.spread());
      if (restarts > 0) now.column("restart", static_cast<double>(restart));
      if (has_collapsed && is_last) now.settled("the simplex has collapsed to the best point");
      co_yield now;
    }
    start.point = simplex.best_point();
    start.value = simplex.best_value();
    edges *= restart == 0 ? -0.1 : -1.0;
  }
}

} // namespace tanzen::methods
