#include "tanzen/methods/gradient/trust_region.hpp"

#include "tanzen/methods/line/patience.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {
namespace {

constexpr std::string_view collapsed = "no step within the trust region lowers the value any more";

using Subproblem = NewtonTrustRegion::Subproblem;

void add_settings(Settings& list, double& radius, double& accept) {
  list.add("radius", radius).positive().means("of the first trust region, in the variables' units");
  list.add("accept", accept)
      .above(0)
      .below(0.25)
      .means("least ratio of actual to predicted reduction for a step to be taken");
}

/// Brings each variable's unit of length down to 1 divided by the root of the largest curvature seen along it, so that
/// a ball in those units suits variables of any size.
void shorten_units(const Matrix& hessian, Vector& units) {
  for (Index i = 0; i < units.size(); ++i) {
    const double root = std::sqrt(std::abs(hessian(i, i)));
    if (root > 0 && std::isfinite(root)) units[i] = std::min(units[i], 1 / root);
    if (std::isinf(units[i])) units[i] = 1;
  }
}

/// When the region shrinks, and to what, and when a step counts as on its edge.
struct RegionRule {
  double poor, shrunk, edge;
};
constexpr RegionRule of_exact_hessian{0.25, 0.25, 1}; // Nocedal and Wright, 2006, algorithm 4.1
constexpr RegionRule of_rank_one{0.1, 0.5, 0.8};      // algorithm 6.2: the estimate needs the steps that it learns from

/// The region and how it follows the model's success.
class TrustRegion {
 public:
  TrustRegion(double radius, double accept, RegionRule rule = of_exact_hessian)
      : radius_(radius), accept_(accept), rule_(rule) {}

  [[nodiscard]] double radius() const { return radius_; }
  /// The last step's actual reduction divided by the predicted one.
  [[nodiscard]] double ratio() const { return ratio_; }
  [[nodiscard]] bool is_over() const { return is_over_; }

  /// Judges a step of `length` in the region's units, from one value to another, and adapts the radius; whether the
  /// step is taken. `moves` is false where the step is too short to change the point.
  [[nodiscard]] bool takes(double value, double next_value, const ModelStep& step, double length, bool moves) {
    ratio_ = reduction_ratio(value, next_value, step.predicted);
    const bool is_on_edge = step.on_edge || (rule_.edge < 1 && length > rule_.edge * radius_);
    if (!(ratio_ >= rule_.poor)) // no number is a failure as well
      radius_ = rule_.shrunk * std::min(radius_, length);
    else if (ratio_ > 0.75 && is_on_edge)
      radius_ *= 2;
    const bool is_taken = ratio_ > accept_ && moves;
    // A step that is refused shrinks the region, which is progress.
    const bool is_lost = is_taken && patience_.is_lost_after(value, next_value);
    is_over_ = !moves || !(step.predicted > 0) || is_lost;
    return is_taken;
  }

 private:
  /// Where both reductions drown in the rounding of the value they agree.
  static double reduction_ratio(double value, double next, double predicted) {
    const double rounding = 10 * std::numeric_limits<double>::epsilon() * std::abs(value);
    if (std::abs(value - next) <= rounding && predicted <= rounding) return 1;
    return (value - next) / predicted;
  }

  double radius_, accept_;
  RegionRule rule_;
  double ratio_ = 0;
  bool is_over_ = false;
  Patience patience_;
};

} // namespace

MethodCard NewtonTrustRegion::card() {
  return {.title = "Newton's method within a trust region",
          .family = "gradient",
          .source = "Moré and Sorensen, 1983; Powell, 1970; Steihaug, 1983; Nocedal and Wright, 2006, algorithm 4.1",
          .summary =
              "The steadiest of the Newton methods: it follows negative curvature away from saddles and converges "
              "quadratically near a minimum.",
          .needs = Derivatives::hessian};
}

void NewtonTrustRegion::settings(Settings& list) {
  list.add("subproblem", subproblem,
           {{"nearly-exact", Subproblem::nearly_exact},
            {"dogleg", Subproblem::dogleg},
            {"conjugate-gradients", Subproblem::conjugate_gradients}})
      .means("how the model is minimized within the region");
  list.add("scaling", scaling, {{"curvature", Scaling::curvature}, {"none", Scaling::none}})
      .means("lengths in units of each variable's curvature, or in its own");
  add_settings(list, radius, accept);
}

Search NewtonTrustRegion::search(Evaluator& evaluate, Start start) const {
  return subproblem == Subproblem::conjugate_gradients ? search_with_products(evaluate, std::move(start))
                                                       : search_with_hessian(evaluate, std::move(start));
}

Search NewtonTrustRegion::search_with_hessian(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size();
  NearlyExactStep exact(n);
  DoglegStep dogleg(n);
  TrustRegion region(radius, accept);
  Vector x = std::move(start.point);
  Vector g = evaluate.gradient(x), scaled_g(n), step(n), next(n);
  Vector units = Vector::Constant(n, std::numeric_limits<double>::infinity());
  Matrix hessian(n, n);
  const bool is_exact = subproblem == Subproblem::nearly_exact;
  const auto look_around = [&] {
    hessian = evaluate.hessian(x);
    if (scaling == Scaling::curvature)
      shorten_units(hessian, units);
    else
      units.setOnes();
    scaled_g = units.cwiseProduct(g);
    hessian = units.asDiagonal() * hessian * units.asDiagonal();
    if (is_exact) exact.prepare(hessian);
  };
  look_around();
  double value = start.value;
  for (;;) {
    const ModelStep model =
        is_exact ? exact.find(scaled_g, region.radius(), step) : dogleg.find(hessian, scaled_g, region.radius(), step);
    next = x + units.cwiseProduct(step);
    const double next_value = evaluate(next);
    if (region.takes(value, next_value, model, step.norm(), next != x)) {
      x.swap(next);
      value = next_value;
      g = evaluate.gradient(x);
      look_around();
    }
    co_yield Iteration(x, value)
        .gradient(g)
        .column("radius", region.radius())
        .column("ratio", region.ratio())
        .stalled(region.is_over() ? collapsed : std::string_view());
  }
}

Search NewtonTrustRegion::search_with_products(Evaluator& evaluate, Start start) const {
  const Index n = start.point.size();
  TruncatedStep truncated(n);
  TrustRegion region(radius, accept);
  Vector x = std::move(start.point);
  Vector g = evaluate.gradient(x), step(n), next(n);
  double value = start.value;
  for (;;) {
    const auto times = [&](const Vector& direction, Vector& product) {
      evaluate.hessian_times(x, g, direction, product);
    };
    const ModelStep model = truncated.find(times, g, region.radius(), step);
    next = x + step;
    const double next_value = evaluate(next);
    if (region.takes(value, next_value, model, step.norm(), next != x)) {
      x.swap(next);
      value = next_value;
      g = evaluate.gradient(x);
    }
    co_yield Iteration(x, value)
        .gradient(g)
        .column("radius", region.radius())
        .column("ratio", region.ratio())
        .column("inner", static_cast<double>(model.inner_iterations))
        .stalled(region.is_over() ? collapsed : std::string_view());
  }
}

MethodCard SymmetricRankOne::card() {
  return {.title = "symmetric rank-one quasi-Newton within a trust region",
          .family = "gradient",
          .source = "Conn, Gould and Toint, 1991; Nocedal and Wright, 2006, algorithm 6.2",
          .summary =
              "Quasi-Newton for functions that are not convex: its estimate of the Hessian may be indefinite, and "
              "converges to the true one.",
          .needs = Derivatives::gradient};
}

void SymmetricRankOne::settings(Settings& list) {
  add_settings(list, radius, accept);
}

Search SymmetricRankOne::search(Evaluator& evaluate, Start start) const {
  constexpr double least_part = 1e-8; // of equation 6.26: below it the update is skipped
  const Index n = start.point.size();
  TruncatedStep truncated(n);
  TrustRegion region(radius, accept, of_rank_one);
  Vector x = std::move(start.point);
  Vector g = evaluate.gradient(x), step(n), next(n), y(n), misfit(n);
  Matrix hessian = Matrix::Identity(n, n);
  bool is_fresh = true;
  double value = start.value;
  for (;;) {
    const auto times = [&](const Vector& direction, Vector& product) { product.noalias() = hessian * direction; };
    const ModelStep model = truncated.find(times, g, region.radius(), step);
    next = x + step;
    const auto [next_value, next_gradient] = evaluate.value_and_gradient(next);
    y = next_gradient - g;
    const bool is_sound = std::isfinite(next_value) && y.allFinite();
    if (is_fresh && is_sound && y.dot(step) > 0) hessian.diagonal().setConstant(y.squaredNorm() / y.dot(step));
    is_fresh = is_fresh && !is_sound;
    misfit = y;
    misfit.noalias() -= hessian * step;
    const double part = misfit.dot(step);
    if (is_sound && std::abs(part) >= least_part * step.norm() * misfit.norm() && part != 0) {
      for (Index j = 0; j < n; ++j) hessian.col(j) += misfit[j] / part * misfit;
    }
    if (region.takes(value, next_value, model, step.norm(), next != x)) {
      x.swap(next);
      value = next_value;
      g = next_gradient;
    }
    co_yield Iteration(x, value)
        .gradient(g)
        .column("radius", region.radius())
        .column("ratio", region.ratio())
        .column("inner", static_cast<double>(model.inner_iterations))
        .stalled(region.is_over() ? collapsed : std::string_view());
  }
}

} // namespace tanzen::methods
