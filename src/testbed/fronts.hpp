#pragma once

#include "tanzen/numeric/sampling.hpp"
#include "tanzen/testbed/test_function.hpp"

#include <array>
#include <functional>
#include <string>
#include <vector>

/// What the true fronts of the testbed are made of. All objectives are to be minimized.
namespace tanzen::testbed {

using PlanePoint = std::array<double, 2>;
using Objectives = std::vector<Expr>;

[[nodiscard]] inline Expr square(const Expr& x) {
  return pow(x, 2);
}

/// The option of functions that have any number of them.
[[nodiscard]] inline Index objectives_of(const OptionValues& options) {
  return static_cast<Index>(options.at("objectives"));
}

/// A stretch of a curve in the plane of two objectives, by a number that runs from one end to the other.
struct FrontCurve {
  std::function<PlanePoint(double)> at;
  double from = 0, to = 1;
};

/// The front of two objectives as what is nondominated of some curves.
[[nodiscard]] KnownFront plane_front(std::string stated, std::vector<FrontCurve> curves);
/// As a falling function of the first objective.
[[nodiscard]] KnownFront plane_front(std::string stated, std::function<double(double)> second, double from, double to);
/// As points that were computed.
[[nodiscard]] KnownFront plane_front(std::string stated, const Matrix& points);

/// Keeps, of very many points, those that have the lowest second objective in each of 20,000 steps of the first.
class LowestInSteps {
 public:
  LowestInSteps(double from, double to);
  void see(double first, double second);
  /// Those that no other one dominates, by the first objective.
  [[nodiscard]] Matrix front() const;

 private:
  double from_, step_;
  std::vector<PlanePoint> lowest_;
};

/// A front within the box from `ideal` to `nadir`.
[[nodiscard]] KnownFront space_front(std::string stated, Vector ideal, Vector nadir,
                                     std::function<Matrix(Index count)> points,
                                     std::function<bool(const Vector& objectives)> covers);

/// The front of three objectives of two variables, by their values on a grid of the region: what a point of objective
/// space is covered by is told in steps of a thousandth of its range.
[[nodiscard]] KnownFront gridded_front(const std::function<std::array<double, 3>(double, double)>& at, double from,
                                       double to);

/// Over how many steps a choice of the whole numbers 0 to `most` can be spread in `places` so that there are at most
/// `count` choices: at least 2.
[[nodiscard]] Index steps_for(Index count, Index places);

/// The least that a function has come down to from 0 on, looked up in 100,000 steps up to 1.
class RunningLeast {
 public:
  explicit RunningLeast(std::function<double(double)> function);
  /// The least value from 0 to x.
  [[nodiscard]] double operator()(double x) const;
  /// The first place of it.
  [[nodiscard]] double place(double x) const;
  /// So many places, evenly among those where it is reached for the first time.
  [[nodiscard]] std::vector<double> places(Index count) const;

 private:
  std::function<double(double)> function_;
  std::vector<double> least_;
  std::vector<double> places_;
};

} // namespace tanzen::testbed
