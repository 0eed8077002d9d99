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

MethodCatalogue::MethodCatalogue() : list_(std::make_shared<List>()) {}

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
    MethodCatalogue methods;
    methods.add("gradient-descent", methods::GradientDescent{});
    methods.add("momentum", methods::Momentum{});
    methods.add("nesterov", methods::Nesterov{});
    methods.add("coordinate-descent", methods::CoordinateDescent{});
    methods.add("variance-reduced", methods::VarianceReduced{});
    methods.add("adagrad", methods::Adaptive<methods::AdaGradUpdate>{});
    methods.add("adadelta", methods::Adaptive<methods::AdaDeltaUpdate>{});
    methods.add("rmsprop", methods::Adaptive<methods::RmsPropUpdate>{});
    methods.add("adam", methods::Adaptive<methods::AdamUpdate>{});
    methods.add("amsgrad", methods::Adaptive<methods::AmsGradUpdate>{});
    methods.add("adamax", methods::Adaptive<methods::AdaMaxUpdate>{});
    methods.add("nadam", methods::Adaptive<methods::NadamUpdate>{});
    methods.add("yogi", methods::Adaptive<methods::YogiUpdate>{});
    methods.add("radam", methods::Adaptive<methods::RectifiedAdamUpdate>{});
    methods.add("adabelief", methods::Adaptive<methods::AdaBeliefUpdate>{});
    methods.add("conjugate-gradient", methods::ConjugateGradient{});
    methods.add("bfgs", methods::Bfgs{});
    methods.add("dfp", methods::Dfp{});
    methods.add("sr1", methods::SymmetricRankOne{});
    methods.add("lbfgs", methods::Lbfgs{});
    methods.add("lbfgs-bounded", methods::LbfgsBounded{});
    methods.add("newton", methods::Newton{});
    methods.add("newton-trust-region", methods::NewtonTrustRegion{});
    methods.add("truncated-newton", methods::TruncatedNewton{});
    methods.add("bundle", methods::Bundle{});
    methods.add("gradient-sampling", methods::GradientSampling{});
    methods.add("golden-section", methods::GoldenSection{});
    methods.add("parabolic", methods::Parabolic{});
    methods.add("cubic", methods::Cubic{});
    methods.add("interval-scan", methods::IntervalScan{});
    methods.add("nelder-mead", methods::NelderMead{});
    methods.add("hill-climb", methods::HillClimb{});
    methods.add("pattern-search", methods::PatternSearch{});
    methods.add("powell", methods::Powell{});
    methods.add("rosenbrock-rotation", methods::RosenbrockRotation{});
    methods.add("mesh-adaptive", methods::MeshAdaptive{});
    methods.add("quadratic-model", methods::QuadraticModel{});
    methods.add("implicit-filtering", methods::ImplicitFiltering{});
    methods.add("spsa", methods::Spsa{});
    methods.add("random-search", methods::RandomSearch{});
    methods.add("multistart", methods::Multistart{});
    methods.add("single-linkage", methods::SingleLinkage{});
    methods.add("basin-hopping", methods::BasinHopping{});
    methods.add("annealing", methods::Annealing{});
    methods.add("generalized-annealing", methods::GeneralizedAnnealing{});
    methods.add("branch-and-bound", methods::BranchAndBound{});
    methods.add("direct", methods::DividingRectangles{});
    methods.add("surrogate", methods::Surrogate{});
    methods.add("differential-evolution", methods::DifferentialEvolution{});
    methods.add("adaptive-differential-evolution", methods::AdaptiveDifferentialEvolution{});
    methods.add("particle-swarm", methods::ParticleSwarm{});
    methods.add("genetic", methods::Genetic{});
    methods.add("evolution-strategy", methods::EvolutionStrategy{});
    methods.add("cma-es", methods::CmaEs{});
    methods.add("cross-entropy", methods::CrossEntropy{});
    methods.add("augmented-lagrangian", methods::AugmentedLagrangian{});
    methods.add("sequential-quadratic", methods::SequentialQuadratic{});
    methods.add("interior-point", methods::InteriorPoint{});
    methods.add("linear-model", methods::LinearModel{});
    methods.add("penalty", methods::Penalty{});
    methods.add("levenberg-marquardt", methods::LevenbergMarquardt{});
    methods.add("gauss-newton", methods::GaussNewton{});
    methods.add("dogleg", methods::Dogleg{});
    methods.add("derivative-free-fit", methods::DerivativeFreeFit{});
    methods.add("variable-projection", methods::VariableProjection{});
    methods.add("nondominated-sorting", methods::NondominatedSorting{});
    methods.add("reference-points", methods::ReferencePoints{});
    methods.add("decomposition", methods::Decomposition{});
    methods.add("hypervolume-selection", methods::HypervolumeSelection{});
    methods.add("generalized-differential", methods::GeneralizedDifferential{});
    methods.add("direct-multisearch", methods::DirectMultisearch{});
    methods.add("weighted-sum", methods::WeightedSums{});
    methods.add("epsilon-constraint", methods::EpsilonConstraint{});
    methods.add("chebyshev", methods::Chebyshev{});
    methods.add("boundary-intersection", methods::BoundaryIntersection{});
    return methods;
  }();
  return catalogue;
}

Method method(std::string_view name, const SettingValues& settings) {
  return standard_methods().find(name).with(settings);
}

} // namespace tanzen
