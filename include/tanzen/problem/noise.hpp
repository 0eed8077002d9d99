#pragma once

#include "tanzen/problem/function.hpp"

#include <cstdint>
#include <string>
#include <string_view>

namespace tanzen {

/// How noise is distributed: normally, evenly over an interval, or with heavy tails (Cauchy).
enum class NoiseKind { normal, flat, heavy };

struct Noise {
  NoiseKind kind = NoiseKind::normal;
  double level = 0;      ///< standard deviation, half width, or scale
  bool relative = false; ///< multiplies the value by 1 + noise instead of adding it
  std::uint64_t seed = 1;

  /// Reads `normal:0.01`, `flat:1%` (relative to the value), `heavy:0.1`. Throws InputError.
  [[nodiscard]] static Noise parse(std::string_view text);
  /// What `parse` reads; the seed is not in it.
  [[nodiscard]] std::string text() const;
};

/// A function with noise on each of its values. The k-th evaluation of a worker has the k-th noise of the seed, so that
/// a run repeats bit for bit. It has no derivatives: the slope of noise tells nothing.
[[nodiscard]] FunctionPointer make_noisy(FunctionPointer function, const Noise& noise);

} // namespace tanzen
