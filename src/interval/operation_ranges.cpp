#include "operation_ranges.hpp"

#include <cmath>

namespace tanzen {
namespace {

using intervals::everything;
using intervals::nothing;

bool is_half(double x) {
  return std::abs(x - std::trunc(x)) == 0.5;
}

double sign_of_number(double x) {
  return static_cast<double>((x > 0) - (x < 0));
}

/// Where an operand has no value it does not hold.
void comparison(Operation operation, const Operand& a, const Operand& b, Result& found) {
  using namespace marks;
  bool always = false, never = a.is(nowhere) || b.is(nowhere);
  const bool is_decided = never, overlap = !common(a.range, b.range).is_empty();
  if (!is_decided && operation == Operation::less) {
    always = a.range.upper < b.range.lower;
    never = a.range.lower >= b.range.upper;
  } else if (!is_decided && operation == Operation::less_equal) {
    always = a.range.upper <= b.range.lower;
    never = a.range.lower > b.range.upper;
  } else if (!is_decided) {
    always = a.range.is_point() && b.range.is_point() && a.range.lower == b.range.lower;
    never = !overlap;
  }
  const int either = a.marks | b.marks;
  const bool holds = always && (either & (partly | nowhere)) == 0;
  found.range = holds ? Enclosure(1) : never ? Enclosure(0) : Enclosure(0, 1);
  found.marks = either & (kink | jump);
  // Where the ends meet, a little beyond may be otherwise.
  found.mark_if((either & (partly | at_edge)) != 0 || !found.range.is_point() || (!is_decided && overlap), jump);
}

void selected(const Operand& condition, const Operand& where, const Operand& elsewhere, Result& found) {
  using namespace marks;
  const bool holds = !condition.is(nowhere | partly) && !condition.range.contains(0);
  const bool fails = !condition.is(nowhere | partly) && condition.range == Enclosure(0);
  if (holds || fails) {
    const Operand& taken = holds ? where : elsewhere;
    found.range = taken.range;
    found.marks = taken.marks;
    found.mark_if(condition.is(jump), jump);
    return;
  }
  found.range = where.is(nowhere)       ? elsewhere.range
                : elsewhere.is(nowhere) ? where.range
                                        : hull(where.range, elsewhere.range);
  found.marks = ((where.marks | elsewhere.marks | condition.marks) & (partly | at_edge)) | kink | jump;
  found.mark_if(where.is(nowhere) || elsewhere.is(nowhere), partly);
  found.mark_if(where.is(nowhere) && elsewhere.is(nowhere), nowhere);
}

/// What is said of a function with values over `domain` alone.
void restrict_to(const Enclosure& domain, const Enclosure& a, Result& found) {
  found.mark_if(a.lower < domain.lower || a.upper > domain.upper, marks::partly);
  found.mark_if(a.lower <= domain.lower || a.upper >= domain.upper, marks::at_edge);
  found.mark_if(common(a, domain).is_empty(), marks::nowhere);
}

/// Steps, which jump.
void step_of(Operation operation, const Enclosure& a, Result& found) {
  const auto by = [&](auto function) { found.range = {function(a.lower), function(a.upper)}; };
  bool may_jump = true;
  if (operation == Operation::sign) {
    by(sign_of_number);
    may_jump = a.contains(0);
  } else if (operation == Operation::floor) {
    by([](double x) { return std::floor(x); });
    may_jump = !found.range.is_point() || a.lower == found.range.lower;
  } else if (operation == Operation::ceil) {
    by([](double x) { return std::ceil(x); });
    may_jump = !found.range.is_point() || a.upper == found.range.upper;
  } else {
    by([](double x) { return std::round(x); });
    may_jump = !found.range.is_point() || is_half(a.lower) || is_half(a.upper);
  }
  found.mark_if(may_jump, marks::jump);
}

void logarithm(Operation operation, const Enclosure& a, Result& found) {
  found.range = operation == Operation::log ? log(a) : operation == Operation::log2 ? log2(a) : log10(a);
  found.mark_if(a.lower <= 0, marks::partly);
  found.mark_if(a.upper <= 0, marks::nowhere);
}

void quotient(const Enclosure& a, const Enclosure& b, Result& found) {
  found.range = a / b;
  found.mark_if(b.contains(0), marks::partly | marks::jump);
  found.mark_if(b == Enclosure(0), marks::nowhere);
}

/// A negative base has values at whole exponents alone: with another operand than a number nothing is said of them.
void power_of(const Enclosure& a, const Enclosure& b, Result& found) {
  using namespace marks;
  found.range = power(a, b);
  if (a.lower < 0) {
    found.mark_if(true, partly | jump);
    if (!b.is_point() || a.upper < 0) found.range = everything;
    found.mark_if(a.upper < 0 && b.is_point() && b.lower != std::round(b.lower), nowhere);
  }
  if (!a.contains(0)) return;
  found.mark_if(true, kink | at_edge);
  found.mark_if(b.lower <= 0, partly | jump);
}

void of_one(Operation operation, std::int32_t exponent, const Enclosure& a, Result& found) {
  using namespace marks;
  switch (operation) {
  case Operation::negate: found.range = -a; break;
  case Operation::absolute:
    found.range = abs(a);
    found.mark_if(a.contains(0), kink); // at an end too: the slope on the other side counts
    break;
  case Operation::sign:
  case Operation::floor:
  case Operation::ceil:
  case Operation::round: step_of(operation, a, found); break;
  case Operation::square_root:
    restrict_to({0, infinity}, a, found);
    found.range = sqrt(a);
    found.mark_if(a.lower <= 0, kink); // its slope has no bound
    break;
  case Operation::cube_root:
    found.range = cbrt(a);
    found.mark_if(a.contains(0), kink);
    break;
  case Operation::exp: found.range = exp(a); break;
  case Operation::log:
  case Operation::log2:
  case Operation::log10: logarithm(operation, a, found); break;
  case Operation::sin: found.range = sin(a); break;
  case Operation::cos: found.range = cos(a); break;
  case Operation::tan:
    found.range = tan(a);
    found.mark_if(found.range == everything, partly | jump);
    break;
  case Operation::asin:
  case Operation::acos:
    restrict_to({-1, 1}, a, found);
    found.range = operation == Operation::asin ? asin(a) : acos(a);
    found.mark_if(a.lower <= -1 || a.upper >= 1, kink);
    break;
  case Operation::atan: found.range = atan(a); break;
  case Operation::sinh: found.range = sinh(a); break;
  case Operation::cosh: found.range = cosh(a); break;
  case Operation::tanh: found.range = tanh(a); break;
  case Operation::square: found.range = square(a); break;
  case Operation::reciprocal: quotient(1, a, found); break;
  case Operation::integer_power:
    found.range = power(a, exponent);
    found.mark_if(exponent < 0 && a.contains(0), partly | jump);
    found.mark_if(exponent < 0 && a == Enclosure(0), nowhere);
    break;
  default: found.range = everything; found.mark_if(true, jump);
  }
}

void of_two(Operation operation, const Enclosure& a, const Enclosure& b, Result& found) {
  using namespace marks;
  switch (operation) {
  case Operation::add: found.range = a + b; break;
  case Operation::subtract: found.range = &a == &b ? Enclosure(0) : a - b; break;
  case Operation::multiply: found.range = a * b; break;
  case Operation::divide: quotient(a, b, found); break;
  case Operation::power: power_of(a, b, found); break;
  case Operation::atan2:
    found.range = atan2(a, b);
    found.mark_if(b.lower <= 0 && a.contains(0), jump);
    break;
  case Operation::minimum:
  case Operation::maximum:
    found.range = operation == Operation::minimum ? min(a, b) : max(a, b);
    found.mark_if(!common(a, b).is_empty(), kink);
    break;
  case Operation::hypot:
    found.range = hypot(a, b);
    found.mark_if(a.contains(0) && b.contains(0), kink);
    break;
  default: found.range = everything; found.mark_if(true, jump);
  }
}

} // namespace

bool has_no_marks(Operation operation, std::int32_t exponent) {
  switch (operation) {
  case Operation::negate:
  case Operation::exp:
  case Operation::sin:
  case Operation::cos:
  case Operation::atan:
  case Operation::sinh:
  case Operation::cosh:
  case Operation::tanh:
  case Operation::square:
  case Operation::add:
  case Operation::subtract:
  case Operation::multiply: return true;
  case Operation::integer_power: return exponent >= 0;
  default: return false;
  }
}

void find_range(Operation operation, std::int32_t exponent, const Operand& a, const Operand& b, const Operand& c,
                Result found) {
  switch (operation) {
  case Operation::less:
  case Operation::less_equal:
  case Operation::equal: comparison(operation, a, b, found); return;
  case Operation::select: selected(a, b, c, found); return;
  default: break;
  }
  found.marks = a.marks | b.marks;
  if (found.is(marks::nowhere)) {
    found.range = nothing;
  } else {
    if (operand_count(operation) == 1)
      of_one(operation, exponent, a.range, found);
    else
      of_two(operation, a.range, b.range, found);
    if (found.is(marks::nowhere)) found.range = nothing;
  }
}

} // namespace tanzen
