#pragma once

#include "tanzen/testbed/test_function.hpp"

#include <cstdint>
#include <optional>

namespace tanzen::testbed {

/// A change of variables that hides a function's symmetries. A point x becomes, around the centre c of the region,
///
///   z = c + D A(T(R (x - c - s)))
///
/// with a shift s, a random rotation R, the oscillating distortion T and the asymmetric distortion A of Hansen, Finck,
/// Ros and Auger (2009, section 0.2), and a scaling D. Known minima are carried along by its inverse.
class Transform {
 public:
  /// The options that every test function has besides its own, for cards and messages.
  [[nodiscard]] static const std::vector<Option>& options();

  /// Reads them for a problem of `n` variables. Throws InputError where the function cannot be transformed so.
  Transform(const TestFunction& function, const OptionValues& options, Index n);

  [[nodiscard]] bool is_identity() const;
  [[nodiscard]] TracedPoint apply(const TracedPoint& x) const;
  /// Where a point of the untransformed function has gone.
  [[nodiscard]] Vector carry(const Vector& point) const;
  /// The region: moved by a plain shift, else where it was.
  [[nodiscard]] Box region() const { return region_; }
  [[nodiscard]] double bias() const { return bias_; }

 private:
  void place_instance(const TestFunction& function, std::uint64_t instance);

  Index n_;
  Box region_;
  Vector center_;
  Vector shift_;
  std::optional<Matrix> rotation_;
  bool oscillating_ = false;
  double asymmetry_ = 0;
  double scaling_ = 1;
  double bias_ = 0;
};

/// A random orthogonal matrix, uniform in the sense of Haar (Stewart, 1980).
[[nodiscard]] Matrix random_rotation(Index n, std::uint64_t seed);

} // namespace tanzen::testbed
