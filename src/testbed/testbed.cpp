#include "tanzen/testbed/testbed.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/specification.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/expression/formula.hpp"
#include "tanzen/problem/definition.hpp"
#include "tanzen/problem/transform.hpp"

#include "groups.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen::testbed {
namespace {

constexpr std::string_view dimension_option = "dim";

Index usual_dimension(const TestFunction& function, const OptionValues& options) {
  return function.usual_dimension ? function.usual_dimension(options) : function.dimensions.usual;
}

Index checked_dimension(const TestFunction& function, Index dimension, const OptionValues& options) {
  const auto& [least, most, usual, multiple_of] = function.dimensions;
  if (dimension == 0) return usual_dimension(function, options);
  if (dimension >= least && dimension <= most && dimension % multiple_of == 0) return dimension;
  std::string range = fmt::format("{} to {}", least, most);
  if (least == most)
    range = std::to_string(least);
  else if (most == Dimensions::any)
    range = fmt::format("{} or more", least);
  if (multiple_of > 1) range += fmt::format(" (in multiples of {})", multiple_of);
  throw InputError(fmt::format("{} exists for {} variables, not for {}", function.name, range, dimension));
}

/// The function's own options, then those of every function.
std::vector<Option> all_options(const TestFunction& function) {
  std::vector<Option> options = function.options;
  std::ranges::copy(common_options(), std::back_inserter(options));
  return options;
}

void check_option(const Option& option, const std::string& of, double value) {
  if (!(value >= option.least) || !std::isfinite(value))
    throw InputError(fmt::format("the option '{}' of {} must be at least {}; found {}", option.name, of,
                                 number_text(option.least), number_text(value)));
  if (value > option.most)
    throw InputError(fmt::format("the option '{}' of {} must be at most {}; found {}", option.name, of,
                                 number_text(option.most), number_text(value)));
  if (option.is_whole && value != std::round(value))
    throw InputError(
        fmt::format("the option '{}' of {} must be a whole number; found {}", option.name, of, number_text(value)));
}

OptionValues checked_options(const TestFunction& function, const OptionValues& given) {
  const std::vector<Option> options = all_options(function);
  OptionValues values;
  for (const Option& option : options) values[option.name] = option.usual;
  for (const auto& [name, value] : given) {
    const auto option = std::ranges::find(options, name, &Option::name);
    if (option == options.end()) {
      std::vector<std::string> known{std::string(dimension_option), "noise", "noise-seed"};
      for (const Option& each : options) known.push_back(each.name);
      throw InputError(fmt::format("{} has no option '{}' (it has {}){}", function.name, clipped(name, 40),
                                   joined(known, ", "), did_you_mean(name, known)));
    }
    check_option(*option, function.name, value);
    values[name] = value;
  }
  return values;
}

/// `rosenbrock:dim=10`: the name that reads back to the same problem.
std::string full_name(const TestFunction& function, Index dimension, const OptionValues& given,
                      const OptionValues& options, const std::optional<Noise>& noise) {
  std::vector<std::string> parts;
  if (dimension != usual_dimension(function, options))
    parts.push_back(fmt::format("{}={}", dimension_option, dimension));
  for (const auto& [name, value] : given) parts.push_back(fmt::format("{}={}", name, number_text(value)));
  if (noise) parts.push_back("noise=" + noise->text());
  return parts.empty() ? function.name : function.name + ":" + joined(parts, ",");
}

/// The value at any expressions of the variables: by the callable, or by the formula of the card.
Expr value_of(const TestFunction& function, const TracedPoint& z, const OptionValues& options) {
  if (function.value) return function.value(z, options);
  FormulaScope scope{.variables = {{"x", z.size()}}};
  for (const Option& option : function.options) scope.parameters[option.name] = options.at(option.name);
  return Formula::parse(function.formula).build(z, scope);
}

Problem problem_of_several(const TestFunction& function, const OptionValues& options, Index n) {
  auto graph = std::make_shared<Graph>(static_cast<std::size_t>(n));
  std::vector<NodeId> roots;
  std::vector<Objective> objectives;
  for (const Expr& each : function.objectives(TracedPoint(*graph), options)) {
    roots.push_back(each.node_in(*graph));
    objectives.push_back({.name = fmt::format("f{}", roots.size())});
  }
  const Expressions all(graph, roots);
  const Problem first = Problem::from_expression(Expression(graph, roots.front())).with_first_objective(objectives[0]);
  return first.with_objectives({objectives.begin() + 1, objectives.end()},
                               Expressions(graph, {roots.begin() + 1, roots.end()}));
}

Problem bare_problem(const TestFunction& function, const OptionValues& options, Index n) {
  if (function.fit) return build_problem(function.fit());
  if (function.objectives) return problem_of_several(function, options, n);
  if (function.residuals)
    return Problem::from_residuals(n, [&](const TracedPoint& x) { return function.residuals(x, options); });
  return Problem::from_function(n, [&](const TracedPoint& x) { return value_of(function, x, options); });
}

Transform transform_of(const OptionValues& options, Index n) {
  const double shift = options.at("shift");
  return {.shift = shift == 0 ? Vector() : Vector(Vector::Constant(n, shift)),
          .rotation = static_cast<std::uint64_t>(options.at("rotate")),
          .stretch = options.at("stretch"),
          .ripple = options.at("ripple") != 0,
          .lean = options.at("lean"),
          .bias = options.at("bias"),
          .placement = static_cast<std::uint64_t>(options.at("placement"))};
}

/// The words of its traits that a transform leaves, for grouping.
std::vector<std::string> trait_words(const TestFunction& function, const Transform& transform) {
  const bool is_turned = transform.rotation != 0 || transform.placement != 0;
  std::vector<std::string> words;
  for (const Trait trait : function.traits) {
    if (!is_turned || trait != Trait::separable) words.emplace_back(trait_word(trait));
  }
  return words;
}

/// Rows c1, c2, ...
std::vector<Constraint> named_relations(const std::vector<std::string>& texts) {
  std::vector<Constraint> rows;
  for (const std::string& text : texts) rows.push_back({.name = fmt::format("c{}", rows.size() + 1), .text = text});
  return rows;
}

/// Rows c1, c2, ... that are at least 0.
Problem with_rows(const Problem& problem, const TestFunction& function, const OptionValues& options) {
  auto graph = std::make_shared<Graph>(static_cast<std::size_t>(problem.dimension()));
  std::vector<NodeId> roots;
  std::vector<Constraint> rows;
  for (const Expr& each : function.rows(TracedPoint(*graph), options)) {
    roots.push_back(each.node_in(*graph));
    rows.push_back({.name = fmt::format("c{}", roots.size()), .lower = 0});
  }
  return problem.with_constraints(std::move(rows), Expressions(std::move(graph), std::move(roots)));
}

/// The function as its card says, before any transform.
Problem stated_problem(const TestFunction& function, const OptionValues& options, Index n) {
  Problem made =
      bare_problem(function, options, n).named(function.name).titled(function.title).sourced(function.source);
  const Box region = function.region ? function.region(n) : made.region();
  made = made.region(region.lower, region.upper);
  if (function.region_is_bounds) made = made.bounds(region.lower, region.upper);
  if (function.bounds) {
    const Box limits = function.bounds(n);
    made = made.bounds(limits.lower, limits.upper);
  }
  if (function.constraints) made = made.with_constraints(named_relations(function.constraints(n)));
  if (function.rows) made = with_rows(made, function, options);
  if (function.front) {
    if (auto front = function.front(n, options)) made = made.known_front(std::move(*front));
  }
  if (function.start) made = made.start(function.start(n));
  if (function.far_start.size() > 0 && options.at("far") != 0) made = made.start(Coordinates(function.far_start));
  if (!function.minima) return made;
  for (const KnownMinimum& minimum : function.minima(n)) {
    if (minimum.point.size() == n)
      made = made.known_minimum(minimum.point, minimum.value, minimum.global);
    else
      made = made.best_known(minimum.value);
  }
  return made;
}

} // namespace

std::optional<Trait> trait_from_word(std::string_view word) {
  for (int k = 0; k <= static_cast<int>(Trait::several_objectives); ++k) {
    if (trait_word(static_cast<Trait>(k)) == word) return static_cast<Trait>(k);
  }
  return std::nullopt;
}

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
  case Trait::constrained: return "constrained";
  case Trait::fit: return "fit";
  case Trait::several_objectives: return "several-objectives";
  }
  return "";
}

std::function<Box(Index)> everywhere(double lower, double upper) {
  return [=](Index n) { return Box{Vector::Constant(n, lower), Vector::Constant(n, upper)}; };
}

std::function<std::vector<KnownMinimum>(Index)> at_constant(double coordinate, double value) {
  return [=](Index n) { return std::vector{KnownMinimum{Vector::Constant(n, coordinate), value, true}}; };
}

const std::vector<Option>& common_options() {
  static const std::vector<Option> options = {
      {.name = "shift", .usual = 0, .meaning = "moves the function and its region by so much in every coordinate"},
      {.name = "rotate",
       .usual = 0,
       .least = 0,
       .meaning = "a seed of a random rotation about the region's centre; 0 is none"},
      {.name = "stretch",
       .usual = 1,
       .least = 1,
       .meaning = "ratio by which the coordinates' units differ, evenly in the logarithm"},
      {.name = "ripple", .usual = 0, .least = 0, .meaning = "1: small waves along each coordinate"},
      {.name = "lean", .usual = 0, .least = 0, .meaning = "strength of powers on the positive side"},
      {.name = "bias", .usual = 0, .meaning = "added to every value"},
      {.name = "placement",
       .usual = 0,
       .least = 0,
       .meaning = "a seed that places the minimum and rotates; 0 is as defined"},
  };
  return options;
}

const std::vector<TestFunction>& all() {
  static const std::vector<TestFunction> functions = [] {
    std::vector<TestFunction> list;
    for (auto group : {quadratic_functions,
                       small_residual_functions,
                       scalable_residual_functions,
                       plane_valley_functions,
                       plane_rugged_functions,
                       scalable_multimodal_functions,
                       tabled_functions,
                       one_variable_functions,
                       constrained_plane_functions,
                       constrained_few_functions,
                       constrained_several_functions,
                       constrained_design_functions,
                       scalable_constrained_functions,
                       decay_fits,
                       growth_fits,
                       saturation_fits,
                       waves_fits,
                       laws_fits,
                       plane_front_functions,
                       paired_front_functions,
                       distance_front_functions,
                       walking_front_functions,
                       curved_front_functions,
                       constrained_front_functions}) {
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

Problem problem(std::string_view name, Index dimension, const OptionValues& given, const std::optional<Noise>& noise) {
  const TestFunction& function = find(name);
  const OptionValues options = checked_options(function, given);
  const Index n = checked_dimension(function, dimension, options);
  const Transform transform = transform_of(options, n);
  Problem made =
      transformed(stated_problem(function, options, n), transform).named(full_name(function, n, given, options, noise));
  std::vector<std::string> words = trait_words(function, transform);
  if (noise && noise->level != 0) {
    made = made.noisy(*noise);
    words.emplace_back("noisy");
  }
  return made.with_traits(std::move(words));
}

Problem parse_problem(std::string_view specification) {
  const Specification parsed = Specification::parse(specification);
  (void)find(parsed.name); // a wrong name is the first thing to hear of
  Index dimension = 0;
  OptionValues options;
  std::optional<Noise> noise;
  std::uint64_t noise_seed = 1;
  for (const auto& [name, text] : parsed.options) {
    if (name == "noise") {
      noise = Noise::parse(text);
      continue;
    }
    const auto number = read_number(text);
    if (!number)
      throw InputError(
          fmt::format("the option '{}' of {} must be a number; found '{}'", name, parsed.name, clipped(text, 40)));
    if (name == "noise-seed") {
      if (!(*number >= 0 && *number <= 0x1p53 && *number == std::round(*number)))
        throw InputError(
            fmt::format("the noise-seed of {} must be a whole number; found '{}'", parsed.name, clipped(text, 40)));
      noise_seed = static_cast<std::uint64_t>(*number);
      continue;
    }
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
  if (noise) noise->seed = noise_seed;
  return problem(parsed.name, dimension, options, noise);
}

} // namespace tanzen::testbed
