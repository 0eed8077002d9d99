#pragma once

#include "tanzen/expression/operation.hpp"
#include "tanzen/interval/enclosure.hpp"

#include <cstdint>

namespace tanzen {

/// What is known of a slot of an interval tape besides its range, as bits: those of BoxTraits.
namespace marks {
inline constexpr std::uint8_t nowhere = 1, partly = 2, at_edge = 4, kink = 8, jump = 16;
}

/// A slot's range with its marks.
template <class Range, class Marks>
struct MarkedSlot {
  Range& range;
  Marks& marks;

  [[nodiscard]] bool is(std::uint8_t bits) const { return (marks & bits) != 0; }
  void mark_if(bool is_so, std::uint8_t bits) { marks = static_cast<std::uint8_t>(is_so ? marks | bits : marks); }
};
using Operand = MarkedSlot<const Enclosure, const std::uint8_t>;
using Result = MarkedSlot<Enclosure, std::uint8_t>;

/// Whether an operation has a smooth value everywhere, so that it marks nothing where its operands have no marks.
[[nodiscard]] bool has_no_marks(Operation operation, std::int32_t exponent);

/// The range of an operation over those of its operands, one that it does not have being anything without marks;
/// `exponent` is that of an integer power.
void find_range(Operation operation, std::int32_t exponent, const Operand& a, const Operand& b, const Operand& c,
                Result found);

} // namespace tanzen
