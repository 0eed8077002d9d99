#pragma once

#include "tanzen/problem/problem.hpp"

#include <functional>
#include <map>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace tanzen {

/// One entry of a definition's variables: a number, or a vector of `count` that is used as x[1] to x[count].
struct VariableDefinition {
  std::string name;
  std::optional<Index> count = {};
  std::vector<double> start = {}; ///< one number for all elements, or one for each; empty where there is none
  std::optional<double> lower = {};
  std::optional<double> upper = {};
  std::optional<std::pair<double, double>> region = {}; ///< where starts are drawn, ends first and last
  std::string unit = {};
};

/// A name with a text: a term or a constraint, in the order written.
struct NamedFormula {
  std::string name;
  std::string text;
};

/// Data and the formula whose squares are summed over its rows; bare names in it are columns.
struct FitDefinition {
  std::string data; ///< the name of the table, as written
  std::string residual;
  std::vector<std::string> columns = {};
  std::vector<std::vector<double>> rows = {};
};

/// An objective that another program computes; how it is spoken to is said in the room `external`.
struct ProgramDefinition {
  std::vector<std::string> command; ///< the program and its arguments
  double timeout = 10;              ///< seconds for one value
  Index copies = 1;                 ///< that may run at once
  Index restarts = 20;              ///< after crashes and timeouts, in all
  std::string folder = {};          ///< where it runs; empty: here
};

/// Makes the objective of a program; the core cannot start one itself.
using ProgramMaker = std::function<FunctionPointer(Index dimension, const ProgramDefinition& program)>;

/// A problem as text: what a problem file says, and what it is written back from.
struct ProblemDefinition {
  std::string name = "unnamed";
  std::string title = {};
  Sense sense = Sense::minimize;
  std::vector<std::string> objectives = {}; ///< empty only for a fit or a program
  std::vector<VariableDefinition> variables = {};
  std::map<std::string, double> parameters = {};
  std::vector<NamedFormula> terms = {};
  std::vector<NamedFormula> constraints = {};
  std::vector<KnownMinimum> minima = {};
  std::optional<FitDefinition> fit = {};
  std::optional<ProgramDefinition> program = {};
};

/// Builds the problem. Throws InputError or TextError that names the part that is wrong; also for a program without a
/// maker.
[[nodiscard]] Problem build_problem(const ProblemDefinition& definition, const ProgramMaker& make_program = {});

/// A problem as text, its objective written out from its expression: building it again gives the same values to the
/// bit. Throws ProblemError where the objective is opaque or there are constraints or several objectives, whose parts
/// a problem does not keep, and InputError where the text would be longer than a formula may be.
[[nodiscard]] ProblemDefinition definition_of(const Problem& problem);

} // namespace tanzen
