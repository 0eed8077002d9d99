#pragma once

#include "tanzen/problem/problem.hpp"

#include <cstdint>

namespace tanzen {

/// A change of variables that hides a problem's symmetries. A point x becomes, around the centre c of the region,
///
///   z = c + D L(R(Q (x - c - s)))
///
/// with a shift s, a random rotation Q, ripples R and a lean L along each coordinate (Hansen, Finck, Ros and Auger,
/// 2009, section 0.2, where they are T_osz and T_asy), and a stretch D. What is unset changes nothing.
struct Transform {
  Coordinates shift = {};      ///< moves the function; empty: nowhere
  std::uint64_t rotation = 0;  ///< seed of a random rotation about the region's centre; 0 is none
  double stretch = 1;          ///< ratio of the longest to the shortest coordinate's unit, evenly in the logarithm
  bool ripple = false;         ///< small waves along each coordinate
  double lean = 0;             ///< strength of powers on the positive side, more so for later coordinates
  double bias = 0;             ///< added to the first objective
  std::uint64_t placement = 0; ///< seed that puts the known minimum, or the centre, somewhere in the inner 60 % of the
                               ///< region and rotates, unless a rotation is given; 0 leaves it
};

/// The problem at the changed point, all its parts alike: objectives, constraints, residuals, with exact derivatives
/// where it has them; known minima, the start and, under a plain shift, region and bounds are carried along.
///
/// Throws ProblemError where a problem with bounds is rotated or distorted (they would no longer be a box), a rotation
/// is asked of more than 1,000 variables, or a bias of a sum of squares' residuals. Cost: expressions are built anew;
/// of a problem that is only called, n^2 for a point under a rotation.
[[nodiscard]] Problem transformed(const Problem& problem, const Transform& transform);

/// A random orthogonal matrix, uniform in the sense of Haar (Stewart, 1980).
[[nodiscard]] Matrix random_rotation(Index n, std::uint64_t seed);

} // namespace tanzen
