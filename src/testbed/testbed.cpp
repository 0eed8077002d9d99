#include "tanzen/testbed/testbed.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/specification.hpp"
#include "tanzen/base/text.hpp"

#include "groups.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen::testbed {
namespace {

constexpr std::string_view dimension_option = "dim";

Index checked_dimension(const TestFunction& function, Index dimension) {
  const auto& [least, most, usual] = function.dimensions;
  if (dimension == 0) return usual;
  if (dimension >= least && dimension <= most) return dimension;
  std::string range = fmt::format("{} to {}", least, most);
  if (least == most)
    range = std::to_string(least);
  else if (most == Dimensions::any)
    range = fmt::format("{} or more", least);
  throw InputError(fmt::format("{} exists for {} variables, not for {}", function.name, range, dimension));
}

OptionValues checked_options(const TestFunction& function, const OptionValues& given) {
  OptionValues values;
  for (const Option& option : function.options) values[option.name] = option.usual;
  for (const auto& [name, value] : given) {
    const auto option = std::ranges::find(function.options, name, &Option::name);
    if (option == function.options.end()) {
      std::vector<std::string> known{std::string(dimension_option)};
      for (const Option& each : function.options) known.push_back(each.name);
      throw InputError(fmt::format("{} has no option '{}' (it has {}){}", function.name, clipped(name, 40),
                                   joined(known, ", "), did_you_mean(name, known)));
    }
    if (!(value >= option->least)) {
      throw InputError(fmt::format("the option '{}' of {} must be at least {}; found {}", name, function.name,
                                   number_text(option->least), number_text(value)));
    }
    values[name] = value;
  }
  return values;
}

/// `rosenbrock:dim=10`: the name that reads back to the same problem.
std::string full_name(const TestFunction& function, Index dimension, const OptionValues& given) {
  std::vector<std::string> parts;
  if (dimension != function.dimensions.usual) parts.push_back(fmt::format("{}={}", dimension_option, dimension));
  for (const auto& [name, value] : given) parts.push_back(fmt::format("{}={}", name, number_text(value)));
  return parts.empty() ? function.name : function.name + ":" + joined(parts, ",");
}

} // namespace

std::string_view trait_word(Trait trait) {
  switch (trait) {
  case Trait::smooth: return "smooth";
  case Trait::convex: return "convex";
  case Trait::separable: return "separable";
  case Trait::unimodal: return "unimodal";
  case Trait::multimodal: return "multimodal";
  case Trait::ill_conditioned: return "ill-conditioned";
  case Trait::plateau: return "plateau";
  case Trait::valley: return "valley";
  case Trait::deceptive: return "deceptive";
  case Trait::non_differentiable: return "non-differentiable";
  }
  return "";
}

std::function<Box(Index)> everywhere(double lower, double upper) {
  return [=](Index n) { return Box{Vector::Constant(n, lower), Vector::Constant(n, upper)}; };
}

std::function<std::vector<KnownMinimum>(Index)> at_constant(double coordinate, double value) {
  return [=](Index n) { return std::vector{KnownMinimum{Vector::Constant(n, coordinate), value, true}}; };
}

const std::vector<TestFunction>& all() {
  static const std::vector<TestFunction> functions = [] {
    std::vector<TestFunction> list;
    for (auto group : {quadratic_functions, valley_functions, multimodal_functions}) {
      std::ranges::move(group(), std::back_inserter(list));
    }
    return list;
  }();
  return functions;
}

std::vector<std::string> names() {
  std::vector<std::string> names;
  for (const TestFunction& function : all()) names.push_back(function.name);
  return names;
}

const TestFunction& find(std::string_view name) {
  const auto found = std::ranges::find(all(), name, &TestFunction::name);
  if (found == all().end()) {
    throw InputError(fmt::format("there is no test function '{}'{}", clipped(name, 40), did_you_mean(name, names())));
  }
  return *found;
}

Problem problem(std::string_view name, Index dimension, const OptionValues& given) {
  const TestFunction& function = find(name);
  const Index n = checked_dimension(function, dimension);
  const OptionValues options = checked_options(function, given);
  const Box region = function.region(n);
  Problem made = Problem::from_function(n, [&](const TracedPoint& x) { return function.value(x, options); })
                     .named(full_name(function, n, given))
                     .titled(function.title)
                     .sourced(function.source)
                     .region(region.lower, region.upper);
  if (function.region_is_bounds) made = made.bounds(region.lower, region.upper);
  if (function.start) made = made.start(function.start(n));
  for (const KnownMinimum& minimum : function.minima(n)) {
    made = made.known_minimum(minimum.point, minimum.value, minimum.global);
  }
  return made;
}

Problem parse_problem(std::string_view specification) {
  const Specification parsed = Specification::parse(specification);
  (void)find(parsed.name); // a wrong name is the first thing to hear of
  Index dimension = 0;
  OptionValues options;
  for (const auto& [name, text] : parsed.options) {
    const auto number = read_number(text);
    if (!number)
      throw InputError(
          fmt::format("the option '{}' of {} must be a number; found '{}'", name, parsed.name, clipped(text, 40)));
    if (name != dimension_option) {
      options[name] = *number;
      continue;
    }
    if (*number != std::round(*number) || *number < 1 || *number > Dimensions::any) {
      throw InputError(
          fmt::format("the dimension of {} must be a whole number from 1; found '{}'", parsed.name, clipped(text, 40)));
    }
    dimension = static_cast<Index>(*number);
  }
  return problem(parsed.name, dimension, options);
}

} // namespace tanzen::testbed
