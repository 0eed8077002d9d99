// Any text is either refused with a message or is a formula: its value is the same from both kinds of tapes, and its
// text parses back to the same function.
#include <tanzen/base/errors.hpp>
#include <tanzen/expression/block_tape.hpp>
#include <tanzen/expression/formula.hpp>
#include <tanzen/expression/symbolic.hpp>
#include <tanzen/expression/tape.hpp>

#include <bit>
#include <cmath>
#include <cstdint>
#include <cstdlib>
#include <string_view>

namespace {

using namespace tanzen;

void require(bool holds) {
  if (!holds) std::abort();
}

bool same(double a, double b) {
  return std::bit_cast<std::uint64_t>(a) == std::bit_cast<std::uint64_t>(b) || (std::isnan(a) && std::isnan(b));
}

void check(const Expression& expression) {
  const Tape tape(expression);
  auto work = tape.workspace();
  const Vector x = Vector::LinSpaced(tape.dimension(), -1.5, 2.5);
  Vector gradient;
  const double value = tape.gradient(x, work, gradient);

  const BlockTape blocks(expression);
  auto block_work = blocks.workspace();
  Vector values;
  blocks.evaluate(x, block_work, values);
  require(same(values[0], value));

  const std::string text = to_formula(expression, 100'000);
  FormulaScope scope;
  for (const auto& name : expression.variable_names()) scope.variables.push_back({name, {}});
  const Tape again(Formula::parse(text).expression(scope));
  auto again_work = again.workspace();
  require(same(again.evaluate(x, again_work), value));
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string_view text(reinterpret_cast<const char*>(data), size);
  try {
    const Formula formula = Formula::parse(text);
    FormulaScope scope{.variables = formula.variables(), .most_operations = 100'000}; // more is only slower
    check(formula.expression(scope));
  } catch (const InputError&) {
    // refused, with a message
  }
  return 0;
}
