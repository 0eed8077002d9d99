#pragma once

#include <bit>
#include <limits>

namespace tanzen::intervals {

/// Two numbers that are rounded at once, both upward: an interval's ends, the lower one with its sign turned.
using Pair = double __attribute__((vector_size(16)));

using PairBits = long long __attribute__((vector_size(16)));

[[nodiscard]] inline Pair size_of(Pair number) {
  constexpr long long all_but_sign = std::numeric_limits<long long>::max();
  return std::bit_cast<Pair>(std::bit_cast<PairBits>(number) & all_but_sign);
}
[[nodiscard]] inline Pair with_first_turned(Pair ends) {
  constexpr PairBits first_sign{std::numeric_limits<long long>::min(), 0};
  return std::bit_cast<Pair>(std::bit_cast<PairBits>(ends) ^ first_sign);
}

/// Below all numbers there is no sum or product, which is to be rounded upward.
[[nodiscard]] inline Pair number_of(Pair sum_or_product) {
  constexpr Pair lowest{-std::numeric_limits<double>::max(), -std::numeric_limits<double>::max()};
  return sum_or_product < lowest ? lowest : sum_or_product;
}

/// From what rounding to nearest made of sums or products, the next numbers above (Rump, Zimmermann, Boldo and
/// Melquiond, 2009, algorithm 2), or the second next near the least that there are.
[[nodiscard]] inline Pair next_above(Pair nearest) {
  constexpr double unit = 0x1p-53 * (1 + 0x1p-52), least = std::numeric_limits<double>::denorm_min();
  const Pair number = number_of(nearest);
  return number + (size_of(number) * unit + least);
}

/// The sums themselves where rounding left nothing out of them (Knuth's two-sum).
[[nodiscard]] inline Pair add_upward(Pair a, Pair b) {
  const Pair sum = a + b, part = sum - a, left_out = (a - (sum - part)) + (b - part);
  return left_out <= 0 ? sum : next_above(sum);
}

/// Zero times anything is zero, for an infinite end stands for large numbers.
[[nodiscard]] inline Pair multiply_upward(Pair a, Pair b) {
  return a == 0.0 || b == 0.0 ? Pair{0, 0} : next_above(a * b);
}

/// Of numbers of one and the same size, exact where they have few digits, such as whole ones.
[[nodiscard]] inline Pair square_upward(Pair a, Pair b) {
  constexpr long long lower_half = (1LL << 27) - 1; // of a number's digits: without them squares have no more than all
  constexpr double far_from_least = 0x1p-900;
  const Pair product = a * b, above = next_above(product);
  const PairBits few_digits = (std::bit_cast<PairBits>(a) & lower_half) == 0;
  return few_digits & ((size_of(product) > far_from_least) | (a == 0.0)) ? number_of(product) : above;
}

} // namespace tanzen::intervals
