#include "tanzen/methods/catalogue.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/specification.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/methods/direct/nelder_mead.hpp"
#include "tanzen/methods/gradient/gradient_descent.hpp"
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
