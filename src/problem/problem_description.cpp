// What is said of a problem besides its functions.
#include "tanzen/base/errors.hpp"
#include "tanzen/base/readable.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/problem/problem.hpp"

#include "problem_content.hpp"

#include <cmath>
#include <fmt/format.h>
#include <utility>

namespace tanzen {
namespace {

void check_order(const Vector& lower, const Vector& upper, const std::vector<Variable>& variables,
                 std::string_view what) {
  for (Index i = 0; i < lower.size(); ++i) {
    const std::string& name = variables[static_cast<std::size_t>(i)].name;
    if (std::isnan(lower[i]) || std::isnan(upper[i])) {
      throw ProblemError(fmt::format("a side of the {} of {} is not a number", what, name));
    }
    if (lower[i] > upper[i]) {
      throw ProblemError(fmt::format("the {} of {} are the wrong way round: lower {} is above upper {}", what, name,
                                     number_text(lower[i]), number_text(upper[i])));
    }
  }
}

} // namespace

Problem Problem::named(std::string name) const {
  check_readable(name, "the name of a problem");
  return changed([&](Content& content) { content.name = std::move(name); });
}

Problem Problem::titled(std::string title) const {
  check_readable(title, "the title of a problem");
  return changed([&](Content& content) { content.title = std::move(title); });
}

Problem Problem::sourced(std::string source) const {
  return changed([&](Content& content) { content.source = std::move(source); });
}

Problem Problem::with_traits(std::vector<std::string> traits) const {
  return changed([&](Content& content) { content.traits = std::move(traits); });
}

Problem Problem::variables(std::vector<Variable> variables) const {
  if (static_cast<Index>(variables.size()) != dimension()) {
    throw ProblemError(fmt::format("{} given for {}", counted(static_cast<long long>(variables.size()), "name"),
                                   counted(dimension(), "variable")));
  }
  for (const Variable& variable : variables) {
    check_readable(variable.name, "the variable");
    check_readable(variable.unit, "the unit");
    if (variable.scale && !(*variable.scale > 0 && std::isfinite(*variable.scale)))
      throw ProblemError(fmt::format("the scale of {} must be a number above 0; found {}", variable.name,
                                     number_text(*variable.scale)));
  }
  return changed([&](Content& content) { content.variables = std::move(variables); });
}

Problem Problem::region(const Coordinates& lower, const Coordinates& upper) const {
  Box box{checked_length(lower, "the lower side of the region"), checked_length(upper, "the upper side of the region")};
  check_order(box.lower, box.upper, variables(), "region limits");
  if (!box.lower.allFinite() || !box.upper.allFinite()) throw ProblemError("a region must be finite on every side");
  return changed([&](Content& content) { content.region = std::move(box); });
}

Problem Problem::bounds(const Coordinates& lower, const Coordinates& upper) const {
  Box box{checked_length(lower, "the lower bound"), checked_length(upper, "the upper bound")};
  check_order(box.lower, box.upper, variables(), "bounds");
  return changed([&](Content& content) { content.bounds = Bounds(std::move(box)); });
}

Problem Problem::start(const Coordinates& point) const {
  Vector start = checked_length(point, "the start");
  return changed([&](Content& content) { content.start = std::move(start); });
}

Problem Problem::minimized() const {
  return changed([](Content& content) { content.set_sense(Sense::minimize); });
}

Problem Problem::maximized() const {
  if (objectives().empty()) throw ProblemError(fmt::format("{} is a fit: its losses can only be minimized", name()));
  return changed([](Content& content) { content.set_sense(Sense::maximize); });
}

Problem Problem::known_minimum(const Coordinates& point, double value, bool global) const {
  KnownMinimum minimum{checked_length(point, "a known minimum"), value, global};
  return changed([&](Content& content) { content.minima.push_back(std::move(minimum)); });
}

Problem Problem::best_known(double value) const {
  return changed([&](Content& content) { content.best_known = value; });
}

Problem Problem::known_front(KnownFront front) const {
  const auto count = static_cast<Index>(objectives().size());
  if (count < 2 || front.ideal.size() != count || front.nadir.size() != count)
    throw ProblemError(fmt::format("a front of {} was given for {}", counted(front.ideal.size(), "objective"),
                                   counted(count, "objective")));
  if (!front.points || (count > 2 && !front.covers))
    throw ProblemError("a front needs its points, and of more than two objectives what it covers");
  auto shared = std::make_shared<const KnownFront>(std::move(front));
  return changed([&](Content& content) { content.front = std::move(shared); });
}

} // namespace tanzen
