#include "tanzen/methods/catalogue.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/specification.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/methods/constrained/augmented_lagrangian.hpp"
#include "tanzen/methods/constrained/interior_point.hpp"
#include "tanzen/methods/constrained/linear_model.hpp"
#include "tanzen/methods/constrained/penalty.hpp"
#include "tanzen/methods/constrained/sequential_quadratic.hpp"
#include "tanzen/methods/direct/hill_climb.hpp"
#include "tanzen/methods/direct/implicit_filtering.hpp"
#include "tanzen/methods/direct/mesh_adaptive.hpp"
#include "tanzen/methods/direct/nelder_mead.hpp"
#include "tanzen/methods/direct/pattern_search.hpp"
#include "tanzen/methods/direct/powell.hpp"
#include "tanzen/methods/direct/quadratic_model.hpp"
#include "tanzen/methods/direct/rosenbrock_rotation.hpp"
#include "tanzen/methods/direct/spsa.hpp"
#include "tanzen/methods/fit/derivative_free_fit.hpp"
#include "tanzen/methods/fit/dogleg.hpp"
#include "tanzen/methods/fit/gauss_newton.hpp"
#include "tanzen/methods/fit/levenberg_marquardt.hpp"
#include "tanzen/methods/fit/variable_projection.hpp"
#include "tanzen/methods/fronts/boundary_intersection.hpp"
#include "tanzen/methods/fronts/chebyshev.hpp"
#include "tanzen/methods/fronts/decomposition.hpp"
#include "tanzen/methods/fronts/direct_multisearch.hpp"
#include "tanzen/methods/fronts/epsilon_constraint.hpp"
#include "tanzen/methods/fronts/generalized_differential.hpp"
#include "tanzen/methods/fronts/hypervolume_selection.hpp"
#include "tanzen/methods/fronts/nondominated_sorting.hpp"
#include "tanzen/methods/fronts/reference_points.hpp"
#include "tanzen/methods/fronts/weighted_sum.hpp"
#include "tanzen/methods/global/annealing.hpp"
#include "tanzen/methods/global/basin_hopping.hpp"
#include "tanzen/methods/global/branch_and_bound.hpp"
#include "tanzen/methods/global/dividing_rectangles.hpp"
#include "tanzen/methods/global/generalized_annealing.hpp"
#include "tanzen/methods/global/multistart.hpp"
#include "tanzen/methods/global/random_search.hpp"
#include "tanzen/methods/global/single_linkage.hpp"
#include "tanzen/methods/global/surrogate.hpp"
#include "tanzen/methods/gradient/adaptive.hpp"
#include "tanzen/methods/gradient/bundle.hpp"
#include "tanzen/methods/gradient/conjugate_gradient.hpp"
#include "tanzen/methods/gradient/coordinate_descent.hpp"
#include "tanzen/methods/gradient/gradient_descent.hpp"
#include "tanzen/methods/gradient/gradient_sampling.hpp"
#include "tanzen/methods/gradient/lbfgs.hpp"
#include "tanzen/methods/gradient/lbfgs_bounded.hpp"
#include "tanzen/methods/gradient/momentum.hpp"
#include "tanzen/methods/gradient/newton.hpp"
#include "tanzen/methods/gradient/quasi_newton.hpp"
#include "tanzen/methods/gradient/trust_region.hpp"
#include "tanzen/methods/gradient/variance_reduced.hpp"
#include "tanzen/methods/line/one_variable.hpp"
#include "tanzen/methods/population/adaptive_differential_evolution.hpp"
#include "tanzen/methods/population/cma_es.hpp"
#include "tanzen/methods/population/cross_entropy.hpp"
#include "tanzen/methods/population/differential_evolution.hpp"
#include "tanzen/methods/population/evolution_strategy.hpp"
#include "tanzen/methods/population/genetic.hpp"
#include "tanzen/methods/population/particle_swarm.hpp"

#include <algorithm>
#include <fmt/format.h>

namespace tanzen {

class MethodCatalogue::List final : public MethodSource, public std::enable_shared_from_this<List> {
 public:
  explicit List(std::vector<Method> all) : methods(std::move(all)) {}

  [[nodiscard]] const std::vector<Method>& all() const override { return methods; }
  [[nodiscard]] Method find(std::string_view name) const {
    const auto found = std::ranges::find(methods, name, &Method::name);
    if (found == methods.end()) {
      std::vector<std::string> names;
      for (const Method& method : methods) names.push_back(method.name());
      throw InputError(fmt::format("there is no method '{}'{}", clipped(name, 40), did_you_mean(name, names)));
    }
    return found->from(shared_from_this());
  }
  [[nodiscard]] Method parse(std::string_view specification) const override {
    const Specification parsed = Specification::parse(specification);
    Method method = find(parsed.name);
    for (const auto& [name, value] : parsed.options) method = method.with(name, value);
    return method;
  }

  std::vector<Method> methods;
};

MethodCatalogue::MethodCatalogue(std::vector<Method> methods) : list_(std::make_shared<List>(std::move(methods))) {}

MethodCatalogue& MethodCatalogue::add(Method method) {
  auto list = std::make_shared<List>(*list_);
  const auto same = std::ranges::find(list->methods, method.name(), &Method::name);
  if (same != list->methods.end())
    *same = std::move(method);
  else
    list->methods.push_back(std::move(method));
  list_ = std::move(list);
  return *this;
}

const std::vector<Method>& MethodCatalogue::all() const {
  return list_->methods;
}

std::vector<std::string> MethodCatalogue::names() const {
  std::vector<std::string> names;
  for (const Method& method : all()) names.push_back(method.name());
  return names;
}

Method MethodCatalogue::find(std::string_view name) const {
  return list_->find(name);
}

Method MethodCatalogue::parse(std::string_view specification) const {
  return list_->parse(specification);
}

const MethodCatalogue& standard_methods() {
  static const MethodCatalogue catalogue = [] {
    std::vector<Method> all;
    all.emplace_back("gradient-descent", methods::GradientDescent{});
    all.emplace_back("momentum", methods::Momentum{});
    all.emplace_back("nesterov", methods::Nesterov{});
    all.emplace_back("coordinate-descent", methods::CoordinateDescent{});
    all.emplace_back("variance-reduced", methods::VarianceReduced{});
    all.emplace_back("adagrad", methods::Adaptive<methods::AdaGradUpdate>{});
    all.emplace_back("adadelta", methods::Adaptive<methods::AdaDeltaUpdate>{});
    all.emplace_back("rmsprop", methods::Adaptive<methods::RmsPropUpdate>{});
    all.emplace_back("adam", methods::Adaptive<methods::AdamUpdate>{});
    all.emplace_back("amsgrad", methods::Adaptive<methods::AmsGradUpdate>{});
    all.emplace_back("adamax", methods::Adaptive<methods::AdaMaxUpdate>{});
    all.emplace_back("nadam", methods::Adaptive<methods::NadamUpdate>{});
    all.emplace_back("yogi", methods::Adaptive<methods::YogiUpdate>{});
    all.emplace_back("radam", methods::Adaptive<methods::RectifiedAdamUpdate>{});
    all.emplace_back("adabelief", methods::Adaptive<methods::AdaBeliefUpdate>{});
    all.emplace_back("conjugate-gradient", methods::ConjugateGradient{});
    all.emplace_back("bfgs", methods::Bfgs{});
    all.emplace_back("dfp", methods::Dfp{});
    all.emplace_back("sr1", methods::SymmetricRankOne{});
    all.emplace_back("lbfgs", methods::Lbfgs{});
    all.emplace_back("lbfgs-bounded", methods::LbfgsBounded{});
    all.emplace_back("newton", methods::Newton{});
    all.emplace_back("newton-trust-region", methods::NewtonTrustRegion{});
    all.emplace_back("truncated-newton", methods::TruncatedNewton{});
    all.emplace_back("bundle", methods::Bundle{});
    all.emplace_back("gradient-sampling", methods::GradientSampling{});
    all.emplace_back("golden-section", methods::GoldenSection{});
    all.emplace_back("parabolic", methods::Parabolic{});
    all.emplace_back("cubic", methods::Cubic{});
    all.emplace_back("interval-scan", methods::IntervalScan{});
    all.emplace_back("nelder-mead", methods::NelderMead{});
    all.emplace_back("hill-climb", methods::HillClimb{});
    all.emplace_back("pattern-search", methods::PatternSearch{});
    all.emplace_back("powell", methods::Powell{});
    all.emplace_back("rosenbrock-rotation", methods::RosenbrockRotation{});
    all.emplace_back("mesh-adaptive", methods::MeshAdaptive{});
    all.emplace_back("quadratic-model", methods::QuadraticModel{});
    all.emplace_back("implicit-filtering", methods::ImplicitFiltering{});
    all.emplace_back("spsa", methods::Spsa{});
    all.emplace_back("random-search", methods::RandomSearch{});
    all.emplace_back("multistart", methods::Multistart{});
    all.emplace_back("single-linkage", methods::SingleLinkage{});
    all.emplace_back("basin-hopping", methods::BasinHopping{});
    all.emplace_back("annealing", methods::Annealing{});
    all.emplace_back("generalized-annealing", methods::GeneralizedAnnealing{});
    all.emplace_back("branch-and-bound", methods::BranchAndBound{});
    all.emplace_back("direct", methods::DividingRectangles{});
    all.emplace_back("surrogate", methods::Surrogate{});
    all.emplace_back("differential-evolution", methods::DifferentialEvolution{});
    all.emplace_back("adaptive-differential-evolution", methods::AdaptiveDifferentialEvolution{});
    all.emplace_back("particle-swarm", methods::ParticleSwarm{});
    all.emplace_back("genetic", methods::Genetic{});
    all.emplace_back("evolution-strategy", methods::EvolutionStrategy{});
    all.emplace_back("cma-es", methods::CmaEs{});
    all.emplace_back("cross-entropy", methods::CrossEntropy{});
    all.emplace_back("augmented-lagrangian", methods::AugmentedLagrangian{});
    all.emplace_back("sequential-quadratic", methods::SequentialQuadratic{});
    all.emplace_back("interior-point", methods::InteriorPoint{});
    all.emplace_back("linear-model", methods::LinearModel{});
    all.emplace_back("penalty", methods::Penalty{});
    all.emplace_back("levenberg-marquardt", methods::LevenbergMarquardt{});
    all.emplace_back("gauss-newton", methods::GaussNewton{});
    all.emplace_back("dogleg", methods::Dogleg{});
    all.emplace_back("derivative-free-fit", methods::DerivativeFreeFit{});
    all.emplace_back("variable-projection", methods::VariableProjection{});
    all.emplace_back("nondominated-sorting", methods::NondominatedSorting{});
    all.emplace_back("reference-points", methods::ReferencePoints{});
    all.emplace_back("decomposition", methods::Decomposition{});
    all.emplace_back("hypervolume-selection", methods::HypervolumeSelection{});
    all.emplace_back("generalized-differential", methods::GeneralizedDifferential{});
    all.emplace_back("direct-multisearch", methods::DirectMultisearch{});
    all.emplace_back("weighted-sum", methods::WeightedSums{});
    all.emplace_back("epsilon-constraint", methods::EpsilonConstraint{});
    all.emplace_back("chebyshev", methods::Chebyshev{});
    all.emplace_back("boundary-intersection", methods::BoundaryIntersection{});
    return MethodCatalogue(std::move(all));
  }();
  return catalogue;
}

Method method(std::string_view name, const SettingValues& settings) {
  return standard_methods().find(name).with(settings);
}

} // namespace tanzen
