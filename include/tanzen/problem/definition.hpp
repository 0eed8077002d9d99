#pragma once

#include "tanzen/problem/problem.hpp"

#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace tanzen {

/// One entry of a definition's variables: a number, or a vector of `count` that is used as x[1] to x[count].
struct VariableDefinition {
  std::string name = {};
  std::optional<Index> count = {};
  std::vector<double> start = {}; ///< one number for all elements, or one for each; empty where there is none
  std::optional<double> lower = {};
  std::optional<double> upper = {};
  std::optional<std::pair<double, double>> region = {}; ///< where starts are drawn, ends first and last
  std::string unit = {};
  std::optional<double> scale = {}; ///< typical size
};

/// A name with a text: a term or a constraint, in the order written.
struct NamedFormula {
  std::string name = {};
  std::string text = {};
};

/// One residual of each row of the data; bare names in the formulas are columns.
struct FitEquation {
  std::string model = {};    ///< an equation, left - right being the residual; or
  std::string residual = {}; ///< what is squared and summed over the rows
  std::string errors = {};   ///< a formula of the columns that residuals are divided by: `0.5`, `sd`, `0.02*celsius`
  std::string weights = {};  ///< a formula of the columns that squares are multiplied by, instead; 0 leaves a row out
};

/// Data and what is fitted to them: one equation, or several of the same parameters.
struct FitDefinition {
  std::string data = {}; ///< the name of the table, as written
  std::vector<FitEquation> equations = {};
  Loss loss = {};
  std::shared_ptr<const DataTable> table = {};
};

/// A problem whose values another program computes; how it is spoken to is said in the room `external`. Its objectives
/// are those of the definition, without text; constraints are written as limits alone: `<= 0.2`.
struct ProgramDefinition {
  std::vector<std::string> command = {}; ///< the program and its arguments
  double timeout = 10;                   ///< seconds for one value
  Index copies = 1;                      ///< that may run at once
  Index restarts = 20;                   ///< after crashes and timeouts, in one run
  std::string folder = {};               ///< where it runs; empty: here
  Index residuals = 0;                   ///< that it answers with
};

/// Makes the function of a program with so many of each part; the core cannot start one itself.
using ProgramMaker =
    std::function<FunctionPointer(Index dimension, const PartCounts& parts, const ProgramDefinition& program)>;

/// A problem as text: what a problem file says, and what it is written back from.
struct ProblemDefinition {
  std::string name = "unnamed";
  std::string title = {};
  std::vector<Objective> objectives = {}; ///< with their formulas; empty only where there are residuals
  std::vector<VariableDefinition> variables = {};
  std::map<std::string, double> parameters = {};
  std::vector<NamedFormula> terms = {};
  std::vector<NamedFormula> constraints = {};
  std::vector<KnownMinimum> minima = {};
  std::optional<FitDefinition> fit = {};
  std::optional<ProgramDefinition> program = {};
};

/// Whether its values come from another program, as its definition says.
[[nodiscard]] bool is_program(const Problem& problem);

/// Builds the problem, which keeps the definition. Throws InputError or TextError that names the part that is wrong;
/// also for a program without a maker.
[[nodiscard]] Problem build_problem(const ProblemDefinition& definition, const ProgramMaker& make_program = {});

/// What a fit's models say on their right sides, one an equation, of the parameters and then the table's columns.
/// Throws InputError where the definition is no fit, or an equation has no such side.
[[nodiscard]] Expressions fitted_models(const ProblemDefinition& definition);

/// The columns that the left sides of a fit's models name, one an equation; nothing for a side that is a formula, or a
/// residual.
[[nodiscard]] std::vector<std::optional<Index>> observed_columns(const FitDefinition& fit);

/// By how much larger than of weight 1 the error of an observation is at values of the columns, by the errors or
/// weights of an equation; NaN where they say nothing there.
[[nodiscard]] double observation_error(const FitDefinition& fit, Index equation, const Vector& columns);

/// The columns that a fit's right sides use, in the order of the table. Throws as `fitted_models`.
[[nodiscard]] std::vector<Index> predictor_columns(const ProblemDefinition& definition);

/// A problem as text: what it was built from, with the bounds, starts and regions that it has now; of one that was
/// built otherwise the parts are written out from their expressions. Building it again gives the same values to the
/// bit. Throws ProblemError where a part is opaque, or bounds, starts or regions cannot be said of a vector, and
/// InputError where the text would be longer than a formula may be.
[[nodiscard]] ProblemDefinition definition_of(const Problem& problem);

/// One line of what makes a problem what it is, for files that must know it again.
struct IdentityLine {
  std::string part = {}; ///< `objective`, `constraint capacity`, `bounds`, `data`, ...
  std::string text = {}; ///< as a person reads it; long ones as a digest
  bool operator==(const IdentityLine&) const = default;
};

/// All that makes a problem what it is: objectives, constraints, residuals, data, program, noise, variables, bounds,
/// region, start. Functions that are only called can be told apart by nothing but their number.
[[nodiscard]] std::vector<IdentityLine> identity_of(const Problem& problem);

} // namespace tanzen
