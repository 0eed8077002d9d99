#pragma once

#include "tanzen/interval/enclosure.hpp"
#include "tanzen/numeric/vector.hpp"

#include <cstddef>
#include <optional>
#include <span>
#include <vector>

namespace tanzen {

/// A step of Newton's method over a box, for as many equations as unknowns: that of Hansen and Sengupta (1981), first
/// on the equations as they are, then multiplied by an approximate inverse (Hansen and Walster, 2004, sections 11.2 to
/// 11.5). No zero in the box is lost by it.
///
/// Cost: m^3 products of intervals. Reuse it: its memory is kept from step to step.
class IntervalNewton {
 public:
  enum class Result {
    no_zero,  ///< nothing is left of the box
    nothing,  ///< the box is as it was
    narrower, ///< zeros lie in the narrower box alone
    one_zero, ///< the box held exactly one zero, and the narrower one holds it
  };
  /// A part of the box without zeros, across one unknown, where there is one on both sides of it.
  struct Gap {
    std::size_t unknown;
    Enclosure without;
  };

  /// `jacobian` encloses the derivatives over the box, row by row; `values` what the equations are at `centre`, a point
  /// of the box. Requires that the equations have continuous derivatives there. `box` is narrowed.
  Result take(std::span<const Enclosure> jacobian, std::span<const Enclosure> values, std::span<const double> centre,
              std::span<Enclosure> box);

  /// The widest that the last step found.
  [[nodiscard]] const std::optional<Gap>& gap() const { return gap_; }

 private:
  bool find_inverse(std::span<const Enclosure> jacobian);
  Result sweep(std::span<const Enclosure> jacobian, std::span<const Enclosure> values, std::span<const double> centre,
               std::span<Enclosure> box, bool multiplied);
  void fill_row(std::size_t i, std::span<const Enclosure> jacobian, std::span<const Enclosure> values, bool multiplied);
  void note_gap(std::size_t i, const Enclosure& right, const Enclosure& pivot, double centre, Enclosure& side);

  std::size_t m_ = 0;
  Matrix inverse_;
  std::vector<Enclosure> row_, start_, other_;
  Enclosure right_;
  std::optional<Gap> gap_;
};

/// How many eigenvalues of every symmetric matrix within an enclosure are negative and positive, as far as that is
/// certain: by the congruence that makes its middle diagonal (Sylvester's law of inertia) and circles of Gershgorin.
struct Inertia {
  Index negative = 0, unknown = 0, positive = 0;
};
/// `matrix` holds n rows of n numbers. Cost: n^3 products of intervals and the eigenvectors of one matrix.
[[nodiscard]] Inertia inertia(std::span<const Enclosure> matrix, Index n);

/// How far along each coordinate x'Hx <= 1 reaches at most, whichever symmetric matrix H within an enclosure it is.
/// Nothing where not all of them are certain to be positive definite. Cost: that of `inertia`.
[[nodiscard]] std::optional<std::vector<double>> reach_of_bowl(std::span<const Enclosure> matrix, Index n);

} // namespace tanzen
