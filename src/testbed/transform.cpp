#include "transform.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/numeric/random.hpp"

#include <cmath>
#include <Eigen/QR>
#include <fmt/format.h>

namespace tanzen::testbed {
namespace {

constexpr Index most_rotated = 1000;

/// T_osz: smooth but for the origin, with small ripples in the logarithm of the size.
Expr oscillated(const Expr& y) {
  const Expr size = log(abs(y));
  const Condition is_positive = y > 0;
  const Expr first = choose(is_positive, 10, 5.5), second = choose(is_positive, 7.9, 3.1);
  return choose(y == 0, y, sign(y) * exp(size + 0.049 * (sin(first * size) + sin(second * size))));
}

/// T_asy: powers above one on the positive side, more so for later coordinates.
Expr stretched(const Expr& y, double strength) {
  return choose(y > 0, pow(y, 1 + strength * sqrt(y)), y);
}

/// The number that a rising function takes to `wanted`, by doubling and halving to the last bit.
template <class Function>
double inverse(Function&& function, double wanted) {
  if (wanted == 0) return 0;
  double low = -1, high = 1;
  while (function(low) > wanted) low *= 2;
  while (function(high) < wanted) high *= 2;
  for (int k = 0; k < 2000; ++k) {
    const double middle = 0.5 * (low + high);
    if (middle <= low || middle >= high) break;
    (function(middle) < wanted ? low : high) = middle;
  }
  return high;
}

} // namespace

Matrix random_rotation(Index n, std::uint64_t seed) {
  RandomStream random(seed, {"rotation", n});
  Matrix normal(n, n);
  for (double& value : normal.reshaped()) value = random.normal();
  const Eigen::HouseholderQR<Matrix> factors(normal);
  const Matrix q = factors.householderQ();
  // Signs from the triangle's diagonal make the distribution uniform.
  const Vector signs = factors.matrixQR().diagonal().unaryExpr([](double d) { return d < 0 ? -1.0 : 1.0; });
  return q * signs.asDiagonal();
}

const std::vector<Option>& Transform::options() {
  static const std::vector<Option> list = {
      {.name = "shift", .usual = 0, .meaning = "moves the function and its region by so much in every coordinate"},
      {.name = "rotate",
       .usual = 0,
       .least = 0,
       .meaning = "a seed of a random rotation about the region's centre; 0 is none"},
      {.name = "scaling",
       .usual = 1,
       .least = 1,
       .meaning = "squared ratio by which the coordinates are stretched, evenly in the logarithm"},
      {.name = "oscillate", .usual = 0, .least = 0, .meaning = "1: ripples along each coordinate"},
      {.name = "asymmetry", .usual = 0, .least = 0, .meaning = "strength of the powers on the positive side"},
      {.name = "bias", .usual = 0, .meaning = "added to every value"},
      {.name = "instance",
       .usual = 0,
       .least = 0,
       .meaning = "a seed that places the minimum and rotates; 0 is as defined"},
  };
  return list;
}

Transform::Transform(const TestFunction& function, const OptionValues& options, Index n)
    : n_(n), region_(function.region(n)), center_(region_.center()), shift_(Vector::Zero(n)) {
  const auto rotation_seed = static_cast<std::uint64_t>(options.at("rotate"));
  const auto instance = static_cast<std::uint64_t>(options.at("instance"));
  oscillating_ = options.at("oscillate") != 0;
  asymmetry_ = options.at("asymmetry");
  scaling_ = options.at("scaling");
  bias_ = options.at("bias");
  const bool moves_within = rotation_seed != 0 || instance != 0 || oscillating_ || asymmetry_ != 0 || scaling_ != 1;
  if (function.region_is_bounds && moves_within) {
    throw InputError(
        fmt::format("{} has its minimum within its bounds only: it can be shifted and biased, not rotated or distorted",
                    function.name));
  }
  if ((rotation_seed != 0 || instance != 0) && n > most_rotated) {
    throw InputError(fmt::format("a rotation takes {} squared numbers; it exists up to {} variables", n, most_rotated));
  }
  if (rotation_seed != 0) rotation_ = random_rotation(n, rotation_seed);
  const double shift = options.at("shift");
  shift_.setConstant(shift);
  region_.lower.array() += shift;
  region_.upper.array() += shift;
  if (instance != 0) place_instance(function, instance);
}

void Transform::place_instance(const TestFunction& function, std::uint64_t instance) {
  constexpr double inner_part = 0.6;
  if (!rotation_) rotation_ = random_rotation(n_, instance);
  const auto minima = function.minima(n_);
  const bool has_point = !minima.empty() && minima.front().point.size() == n_;
  const Vector before = has_point ? carry(minima.front().point) : Vector(region_.center());
  RandomStream random(instance, {"instance", function.name, n_});
  for (Index i = 0; i < n_; ++i) {
    const double width = region_.upper[i] - region_.lower[i];
    const double wanted = region_.lower[i] + width * (0.5 + inner_part * (random.uniform() - 0.5));
    shift_[i] += wanted - before[i];
  }
}

bool Transform::is_identity() const {
  return shift_.isZero(0) && !rotation_ && !oscillating_ && asymmetry_ == 0 && scaling_ == 1;
}

TracedPoint Transform::apply(const TracedPoint& x) const {
  std::vector<Expr> moved, turned;
  for (Index i = 0; i < n_; ++i) moved.push_back(x[i] - (center_[i] + shift_[i]));
  for (Index i = 0; rotation_ && i < n_; ++i) {
    Expr sum;
    for (Index j = 0; j < n_; ++j) sum += (*rotation_)(i, j) * moved[static_cast<std::size_t>(j)];
    turned.push_back(sum);
  }
  std::vector<Expr>& y = rotation_ ? turned : moved;
  for (Index i = 0; i < n_; ++i) {
    Expr& coordinate = y[static_cast<std::size_t>(i)];
    const double part = n_ > 1 ? static_cast<double>(i) / static_cast<double>(n_ - 1) : 0;
    if (oscillating_) coordinate = oscillated(coordinate);
    if (asymmetry_ != 0) coordinate = stretched(coordinate, asymmetry_ * part);
    coordinate = std::pow(scaling_, 0.5 * part) * coordinate + center_[i];
  }
  return TracedPoint(std::move(y));
}

Vector Transform::carry(const Vector& point) const {
  if (is_identity()) return point; // to the last digit
  Vector y = point - center_;
  for (Index i = 0; i < n_; ++i) {
    const double part = n_ > 1 ? static_cast<double>(i) / static_cast<double>(n_ - 1) : 0;
    y[i] /= std::pow(scaling_, 0.5 * part);
    // The same functions as above: of constants they are numbers.
    if (asymmetry_ != 0)
      y[i] = inverse([&](double v) { return stretched(Expr(v), asymmetry_ * part).constant(); }, y[i]);
    if (oscillating_) y[i] = inverse([](double v) { return oscillated(Expr(v)).constant(); }, y[i]);
  }
  if (rotation_) y = rotation_->transpose() * y;
  return y + center_ + shift_;
}

} // namespace tanzen::testbed
