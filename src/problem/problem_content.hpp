#pragma once

#include "tanzen/problem/problem.hpp"

namespace tanzen {

/// What a problem computes with.
struct ProblemFunctions {
  FunctionPointer bundle;    ///< all parts
  FunctionPointer objective; ///< the short way: one value; the bundle itself where that is as short
  std::shared_ptr<const Expressions> expressions = {};
  std::shared_ptr<const Expression> expression = {};
};

struct Problem::Content {
  std::string name = "unnamed";
  std::string title;
  std::string source;
  std::vector<std::string> traits;
  std::vector<Objective> objectives;
  std::vector<Constraint> constraints;
  Index residuals = 0;
  Loss loss;
  Vector weights;
  std::shared_ptr<const DataTable> table;
  std::shared_ptr<const Expressions> rows; ///< of the table: a row's residuals, of the variables and then the columns
  ProblemFunctions functions;
  ScalarizationPointer scalarization;
  std::vector<Noise> noise;
  ProblemFunctions exact;   ///< without the noise, where there is any
  ProblemFunctions unheard; ///< without listeners, where there are any
  std::vector<Variable> variables;
  Bounds bounds{0};
  std::optional<Box> region;
  std::optional<Vector> start;
  std::vector<KnownMinimum> minima;
  std::optional<double> best_known;
  std::shared_ptr<const KnownFront> front;
  std::shared_ptr<const ProblemDefinition> definition;
  PartCounts counts;

  [[nodiscard]] PartCounts parts() const {
    return {static_cast<Index>(objectives.size()), static_cast<Index>(constraints.size()), residuals};
  }
  /// The scalarization and the short way, from the bundle and the expressions.
  void assemble();
  void add_noise(const Noise& noise);
  void set_sense(Sense sense) {
    if (objectives.empty()) return;
    if (objectives.front().sense != sense) front.reset();
    objectives.front().sense = sense;
  }
};

template <class Change>
Problem Problem::changed(Change&& change) const {
  auto copy = std::make_shared<Content>(*content_);
  change(*copy);
  return Problem(std::move(copy));
}

} // namespace tanzen
