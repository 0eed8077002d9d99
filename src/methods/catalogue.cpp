#include "tanzen/methods/catalogue.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/specification.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/methods/direct/nelder_mead.hpp"
#include "tanzen/methods/gradient/adaptive.hpp"
#include "tanzen/methods/gradient/conjugate_gradient.hpp"
#include "tanzen/methods/gradient/coordinate_descent.hpp"
#include "tanzen/methods/gradient/gradient_descent.hpp"
#include "tanzen/methods/gradient/lbfgs.hpp"
#include "tanzen/methods/gradient/lbfgs_bounded.hpp"
#include "tanzen/methods/gradient/momentum.hpp"
#include "tanzen/methods/gradient/newton.hpp"
#include "tanzen/methods/gradient/quasi_newton.hpp"
#include "tanzen/methods/gradient/trust_region.hpp"
#include "tanzen/methods/line/one_variable.hpp"
#include "tanzen/methods/population/differential_evolution.hpp"

#include <algorithm>
#include <fmt/format.h>

namespace tanzen {

MethodCatalogue& MethodCatalogue::add(Method method) {
  const auto same = std::ranges::find(methods_, method.name(), &Method::name);
  if (same != methods_.end())
    *same = std::move(method);
  else
    methods_.push_back(std::move(method));
  return *this;
}

std::vector<std::string> MethodCatalogue::names() const {
  std::vector<std::string> names;
  for (const Method& method : methods_) names.push_back(method.name());
  return names;
}

const Method& MethodCatalogue::find(std::string_view name) const {
  const auto found = std::ranges::find(methods_, name, &Method::name);
  if (found == methods_.end()) {
    throw InputError(fmt::format("there is no method '{}'{}", clipped(name, 40), did_you_mean(name, names())));
  }
  return *found;
}

Method MethodCatalogue::parse(std::string_view specification) const {
  const Specification parsed = Specification::parse(specification);
  Method method = find(parsed.name);
  for (const auto& [name, value] : parsed.options) method = method.with(name, value);
  return method;
}

const MethodCatalogue& standard_methods() {
  static const MethodCatalogue catalogue = [] {
    MethodCatalogue methods;
    methods.add("gradient-descent", methods::GradientDescent{});
    methods.add("momentum", methods::Momentum{});
    methods.add("nesterov", methods::Nesterov{});
    methods.add("coordinate-descent", methods::CoordinateDescent{});
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
    methods.add("golden-section", methods::GoldenSection{});
    methods.add("parabolic", methods::Parabolic{});
    methods.add("cubic", methods::Cubic{});
    methods.add("interval-scan", methods::IntervalScan{});
    methods.add("nelder-mead", methods::NelderMead{});
    methods.add("differential-evolution", methods::DifferentialEvolution{});
    return methods;
  }();
  return catalogue;
}

Method method(std::string_view name, const SettingValues& settings) {
  return standard_methods().find(name).with(settings);
}

} // namespace tanzen
