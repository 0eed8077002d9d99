#include "numbers.hpp"
#include "residual_functions.hpp"

#include <cmath>
#include <numbers>

/// The problems of Moré, Garbow and Hillstrom (1981) with any number of variables: sums of squares, with the paper's
/// numbers, starts and minima. Where the paper gives a minimum for some dimensions only, only those have one here.
namespace tanzen::testbed {
namespace {

using Residuals = std::vector<Expr>;

Residuals watson(const TracedPoint& x) {
  Residuals r;
  for (int i = 1; i <= 29; ++i) {
    const double t = i / 29.0;
    Expr slope, sum;
    for (Index j = 0; j < x.size(); ++j) {
      if (j > 0) slope += number(j) * std::pow(t, number(j - 1)) * x[j];
      sum += std::pow(t, number(j)) * x[j];
    }
    r.push_back(slope - pow(sum, 2) - 1);
  }
  r.push_back(x[0]);
  r.push_back(x[1] - pow(x[0], 2) - 1);
  return r;
}

Residuals extended_rosenbrock(const TracedPoint& x) {
  Residuals r;
  for (Index i = 0; i + 1 < x.size(); i += 2) {
    r.push_back(10 * (x[i + 1] - pow(x[i], 2)));
    r.push_back(1 - x[i]);
  }
  return r;
}

Residuals extended_powell(const TracedPoint& x) {
  Residuals r;
  for (Index i = 0; i + 3 < x.size(); i += 4) {
    r.push_back(x[i] + 10 * x[i + 1]);
    r.push_back(std::sqrt(5.0) * (x[i + 2] - x[i + 3]));
    r.push_back(pow(x[i + 1] - 2 * x[i + 2], 2));
    r.push_back(std::sqrt(10.0) * pow(x[i] - x[i + 3], 2));
  }
  return r;
}

Residuals penalty_1(const TracedPoint& x) {
  Residuals r;
  Expr squares;
  for (Index i = 0; i < x.size(); ++i) {
    r.push_back(std::sqrt(1e-5) * (x[i] - 1));
    squares += pow(x[i], 2);
  }
  r.push_back(squares - 0.25);
  return r;
}

Residuals penalty_2(const TracedPoint& x) {
  const Index n = x.size();
  const double root = std::sqrt(1e-5);
  Residuals r{x[0] - 0.2};
  for (Index i = 2; i <= n; ++i) {
    const double y = std::exp(number(i) / 10) + std::exp(number(i - 1) / 10);
    r.push_back(root * (exp(x[i - 1] / 10) + exp(x[i - 2] / 10) - y));
  }
  for (Index i = n + 1; i < 2 * n; ++i) r.push_back(root * (exp(x[i - n] / 10) - std::exp(-0.1)));
  Expr sum;
  for (Index j = 1; j <= n; ++j) sum += number(n - j + 1) * pow(x[j - 1], 2);
  r.push_back(sum - 1);
  return r;
}

Residuals variably_dimensioned(const TracedPoint& x) {
  Residuals r;
  Expr sum;
  for (Index j = 0; j < x.size(); ++j) {
    r.push_back(x[j] - 1);
    sum += number(j + 1) * (x[j] - 1);
  }
  r.push_back(sum);
  r.push_back(pow(sum, 2));
  return r;
}

Residuals trigonometric(const TracedPoint& x) {
  const Index n = x.size();
  Expr cosines;
  for (Index j = 0; j < n; ++j) cosines += cos(x[j]);
  Residuals r;
  for (Index i = 1; i <= n; ++i) r.push_back(number(n) - cosines + number(i) * (1 - cos(x[i - 1])) - sin(x[i - 1]));
  return r;
}

Residuals brown_almost_linear(const TracedPoint& x) {
  const Index n = x.size();
  Expr sum, product = 1;
  for (Index j = 0; j < n; ++j) {
    sum += x[j];
    product *= x[j];
  }
  Residuals r;
  for (Index i = 0; i + 1 < n; ++i) r.push_back(x[i] + sum - number(n + 1));
  r.push_back(product - 1);
  return r;
}

Residuals discrete_boundary(const TracedPoint& x) {
  const Index n = x.size();
  const double h = 1 / number(n + 1);
  Residuals r;
  for (Index i = 0; i < n; ++i) {
    const Expr before = i > 0 ? x[i - 1] : Expr(0), after = i + 1 < n ? x[i + 1] : Expr(0);
    r.push_back(2 * x[i] - before - after + h * h * pow(x[i] + number(i + 1) * h + 1, 3) / 2);
  }
  return r;
}

Residuals discrete_integral(const TracedPoint& x) {
  const Index n = x.size();
  const double h = 1 / number(n + 1);
  const auto t = [&](Index i) { return number(i + 1) * h; };
  Residuals r;
  for (Index i = 0; i < n; ++i) {
    Expr lower, upper;
    for (Index j = 0; j <= i; ++j) lower += t(j) * pow(x[j] + t(j) + 1, 3);
    for (Index j = i + 1; j < n; ++j) upper += (1 - t(j)) * pow(x[j] + t(j) + 1, 3);
    r.push_back(x[i] + h * ((1 - t(i)) * lower + t(i) * upper) / 2);
  }
  return r;
}

Residuals broyden_tridiagonal(const TracedPoint& x) {
  const Index n = x.size();
  Residuals r;
  for (Index i = 0; i < n; ++i) {
    const Expr before = i > 0 ? x[i - 1] : Expr(0), after = i + 1 < n ? x[i + 1] : Expr(0);
    r.push_back((3 - 2 * x[i]) * x[i] - before - 2 * after + 1);
  }
  return r;
}

Residuals broyden_banded(const TracedPoint& x) {
  const Index n = x.size();
  Residuals r;
  for (Index i = 0; i < n; ++i) {
    Expr neighbours;
    for (Index j = std::max<Index>(0, i - 5); j <= std::min(n - 1, i + 1); ++j) {
      if (j != i) neighbours += x[j] * (1 + x[j]);
    }
    r.push_back(x[i] * (2 + 5 * pow(x[i], 2)) + 1 - neighbours);
  }
  return r;
}

/// The paper lets the number m of residuals free, at least n; here it is 2 n.
Index residual_count(Index n) {
  return 2 * n;
}

Residuals linear_full_rank(const TracedPoint& x) {
  const Index n = x.size(), m = residual_count(n);
  Expr sum;
  for (Index j = 0; j < n; ++j) sum += x[j];
  Residuals r;
  for (Index i = 0; i < m; ++i) r.push_back((i < n ? x[i] : Expr(0)) - 2 / number(m) * sum - 1);
  return r;
}

Residuals linear_rank_1(const TracedPoint& x) {
  const Index n = x.size(), m = residual_count(n);
  Expr sum;
  for (Index j = 0; j < n; ++j) sum += number(j + 1) * x[j];
  Residuals r;
  for (Index i = 1; i <= m; ++i) r.push_back(number(i) * sum - 1);
  return r;
}

Residuals linear_rank_1_zeros(const TracedPoint& x) {
  const Index n = x.size(), m = residual_count(n);
  Expr sum;
  for (Index j = 1; j + 1 < n; ++j) sum += number(j + 1) * x[j];
  Residuals r{Expr(-1)};
  for (Index i = 2; i < m; ++i) r.push_back(number(i - 1) * sum - 1);
  r.emplace_back(-1);
  return r;
}

Residuals chebyquad(const TracedPoint& x) {
  const Index n = x.size();
  std::vector<Expr> before(static_cast<std::size_t>(n), Expr(1)), now;
  for (Index j = 0; j < n; ++j) now.push_back(2 * x[j] - 1);
  Residuals r;
  for (Index i = 1; i <= n; ++i) {
    Expr mean;
    for (std::size_t j = 0; j < now.size(); ++j) mean += now[j];
    r.push_back(mean / number(n) + (i % 2 == 0 ? 1 / (number(i) * number(i) - 1) : 0));
    for (std::size_t j = 0; j < now.size(); ++j) {
      const Expr next = 2 * (2 * x[static_cast<Index>(j)] - 1) * now[j] - before[j];
      before[j] = now[j];
      now[j] = next;
    }
  }
  return r;
}

// Starts, regions and minima.

Vector repeated(Index n, std::initializer_list<double> pattern) {
  Vector point(n);
  for (Index i = 0; i < n; ++i) point[i] = *(pattern.begin() + i % static_cast<Index>(pattern.size()));
  return point;
}

Vector boundary_start(Index n) {
  Vector point(n);
  for (Index i = 1; i <= n; ++i) {
    const double t = number(i) / number(n + 1);
    point[i - 1] = t * (t - 1);
  }
  return point;
}

std::function<Vector(Index)> constant(double coordinate) {
  return [=](Index n) { return Vector::Constant(n, coordinate).eval(); };
}

Vector falling_start(Index n) {
  Vector point(n);
  for (Index i = 1; i <= n; ++i) point[i - 1] = 1 - number(i) / number(n);
  return point;
}

Vector chebyquad_start(Index n) {
  Vector point(n);
  for (Index i = 1; i <= n; ++i) point[i - 1] = number(i) / number(n + 1);
  return point;
}

/// The best value where the paper states one: no point is known.
std::vector<KnownMinimum> value_only(double value) {
  return {{Vector(), value, true}};
}

/// The local minimum is the paper's 2.79506e-5, where its start leads.
std::vector<KnownMinimum> trigonometric_minima(Index n) {
  std::vector<KnownMinimum> minima{{Vector::Zero(n), 0, true}};
  if (n == 10) {
    minima.push_back({Vector{{0.05515090434, 0.05684061744, 0.05876400246, 0.06099060944, 0.06362621458, 0.06684318052,
                              0.20816151762, 0.16436309493, 0.08500689881, 0.09143145575}},
                      2.7950561219e-5, false});
  }
  return minima;
}

std::vector<KnownMinimum> watson_minimum(Index n) {
  if (n == 6) return value_only(2.287670053552e-3);
  if (n == 9) return value_only(1.399760138098e-6);
  return n == 12 ? value_only(4.722381108e-10) : std::vector<KnownMinimum>{};
}

std::vector<KnownMinimum> penalty_1_minimum(Index n) {
  if (n == 4) return value_only(2.249977500095e-5);
  return n == 10 ? value_only(7.087651467090e-5) : std::vector<KnownMinimum>{};
}

std::vector<KnownMinimum> penalty_2_minimum(Index n) {
  if (n == 4) return value_only(9.3762930073555e-6);
  return n == 10 ? value_only(2.936605374e-4) : std::vector<KnownMinimum>{};
}

std::vector<KnownMinimum> linear_minimum(double value) {
  return value_only(value);
}

std::vector<KnownMinimum> chebyquad_minimum(Index n) {
  if (n <= 7 || n == 9) return value_only(0);
  if (n == 8) return value_only(3.516873725678e-3);
  return n == 10 ? value_only(4.772713e-3) : std::vector<KnownMinimum>{};
}

} // namespace

std::vector<TestFunction> scalable_residual_functions() {
  using enum Trait;
  using residual_tables::problem;
  const auto some = [](Index least, Index usual, Index most = 1000) { return Dimensions{least, most, usual}; };
  const auto groups_of = [](Index size, Index usual) { return Dimensions{size, Dimensions::any, usual, size}; };
  return {
      problem(20, {"watson", "a polynomial solution of a differential equation", {smooth, ill_conditioned}},
              some(2, 6, 31), watson, constant(0), everywhere(-2, 2), watson_minimum),
      problem(
          21, {"rosenbrock-pairs", "curved valleys side by side", {smooth, valley, ill_conditioned}}, groups_of(2, 10),
          extended_rosenbrock,
          [](Index n) {
            return repeated(n, {-1.2, 1});
          },
          everywhere(-2.048, 2.048), at_constant(1, 0)),
      problem(
          22, {"powell-quadruples", "singular minima side by side", {smooth, plateau, valley}}, groups_of(4, 8),
          extended_powell,
          [](Index n) {
            return repeated(n, {3, -1, 0, 1});
          },
          everywhere(-4, 5), at_constant(0, 0)),
      problem(
          23, {"penalty-1", "a weak pull to one point against a sphere", {smooth, ill_conditioned}}, some(1, 4),
          penalty_1, [](Index n) { return Vector::LinSpaced(n, 1, number(n)).eval(); }, everywhere(-5, 10),
          penalty_1_minimum),
      problem(24, {"penalty-2", "exponentials against an ellipsoid", {smooth, ill_conditioned}}, some(2, 4), penalty_2,
              constant(0.5), everywhere(-5, 5), penalty_2_minimum),
      problem(
          25,
          {"variably-dimensioned", "a bowl with one very stiff direction", {smooth, convex, unimodal, ill_conditioned}},
          some(1, 10), variably_dimensioned, falling_start, everywhere(-2, 4), at_constant(1, 0)),
      problem(
          26, {"trigonometric", "sines and cosines of all variables", {smooth, multimodal}}, some(1, 10), trigonometric,
          [](Index n) { return Vector::Constant(n, 1 / number(n)).eval(); }, everywhere(-1, 1), trigonometric_minima),
      problem(27, {"brown-almost-linear", "linear but for a product", {smooth, multimodal, valley}}, some(1, 10, 100),
              brown_almost_linear, constant(0.5), everywhere(-2, 2), at_constant(1, 0)),
      problem(28, {"discrete-boundary", "a boundary value problem by differences", {smooth}}, some(1, 10),
              discrete_boundary, boundary_start, everywhere(-1, 1), [](Index) { return value_only(0); }),
      problem(29, {"discrete-integral", "an integral equation by sums", {smooth}}, some(1, 10, 300), discrete_integral,
              boundary_start, everywhere(-1, 1), [](Index) { return value_only(0); }),
      problem(30, {"broyden-tridiagonal", "quadratic equations between neighbours", {smooth, multimodal}}, some(1, 10),
              broyden_tridiagonal, constant(-1), everywhere(-2, 2), [](Index) { return value_only(0); }),
      problem(31, {"broyden-banded", "cubic equations between seven neighbours", {smooth, multimodal}}, some(1, 10),
              broyden_banded, constant(-1), everywhere(-2, 2), [](Index) { return value_only(0); }),
      problem(32, {"linear-full-rank", "a linear fit", {smooth, convex, unimodal}}, some(1, 10, 300), linear_full_rank,
              constant(1), everywhere(-5, 5), [](Index n) { return linear_minimum(number(residual_count(n) - n)); }),
      problem(33,
              {"linear-rank-1", "a linear fit that determines one direction only", {smooth, convex, ill_conditioned}},
              some(1, 10, 300), linear_rank_1, constant(1), everywhere(-5, 5),
              [](Index n) {
                const double m = number(residual_count(n));
                return linear_minimum(m * (m - 1) / (2 * (2 * m + 1)));
              }),
      problem(34, {"linear-rank-1-zeros", "the same with columns and rows of zeros", {smooth, convex, ill_conditioned}},
              some(3, 10, 300), linear_rank_1_zeros, constant(1), everywhere(-5, 5),
              [](Index n) {
                const double m = number(residual_count(n));
                return linear_minimum((m * m + 3 * m - 6) / (2 * (2 * m - 3)));
              }),
      problem(35, {"chebyquad", "points for a quadrature of equal weights", {smooth, multimodal}}, some(1, 8, 50),
              chebyquad, chebyquad_start, everywhere(0, 1), chebyquad_minimum),
  };
}

} // namespace tanzen::testbed
