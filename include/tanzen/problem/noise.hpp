#pragma once

#include "tanzen/problem/function.hpp"

#include <cstdint>

namespace tanzen {

enum class NoiseKind { gaussian, uniform, cauchy };

struct Noise {
  NoiseKind kind = NoiseKind::gaussian;
  double level = 0;      ///< standard deviation, half width, or scale
  bool relative = false; ///< multiplies the value by 1 + noise instead of adding it
  std::uint64_t seed = 1;
};

/// A function with noise on its values. The k-th value of a worker has the k-th noise of the seed, so that a run
/// repeats bit for bit. It has no derivatives: the slope of noise tells nothing.
[[nodiscard]] FunctionPointer make_noisy(FunctionPointer function, const Noise& noise);

} // namespace tanzen
