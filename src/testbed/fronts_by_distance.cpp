#include "distances.hpp"
#include "fronts.hpp"
#include "numbers.hpp"

#include "groups.hpp"

#include "tanzen/base/errors.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

/// Any number of objectives (Deb, Thiele, Laumanns and Zitzler, 2005): places on the front by the first variables, the
/// distance from it by the others.
namespace tanzen::testbed {
namespace {

struct Many {
  const char* title;
  const char* formula;
  std::vector<Trait> traits;
  Index tail; ///< variables besides the M - 1 places
  std::function<Objectives(const TracedPoint& x, Index m)> objectives;
  std::function<std::optional<KnownFront>(Index m)> front;
};

Expr rugged_distance(const TracedPoint& x, Index m) {
  return 100 * (static_cast<double>(x.size() - m + 1) + ripples(x, m - 1, 0.5, 20, 1));
}

Expr squared_distance(const TracedPoint& x, Index m) {
  return sum_from(x, m - 1, [](const Expr& t) { return pow(t - 0.5, 2); });
}

Objectives plane_of(const TracedPoint& x, Index m, const Expr& g) {
  Objectives f;
  for (Index k = 0; k < m; ++k) {
    Expr product = 0.5 * (1 + g);
    for (Index i = 0; i < m - 1 - k; ++i) product *= x[i];
    if (k > 0) product *= 1 - x[m - 1 - k];
    f.push_back(product);
  }
  return f;
}

/// `angle(i)` is what x[i] is in quarter turns.
Objectives sphere_of(Index m, const Expr& g, const std::function<Expr(Index)>& angle) {
  Objectives f;
  for (Index k = 0; k < m; ++k) {
    Expr product = 1 + g;
    for (Index i = 0; i < m - 1 - k; ++i) product *= cos(angle(i) * (pi / 2));
    if (k > 0) product *= sin(angle(m - 1 - k) * (pi / 2));
    f.push_back(product);
  }
  return f;
}

Objectives curve_of(const TracedPoint& x, Index m, const Expr& g) {
  return sphere_of(m, g, [&](Index i) { return i == 0 ? x[0] : (1 + 2 * g * x[i]) / (2 * (1 + g)); });
}

std::optional<KnownFront> sphere_front(Index m) {
  const auto points = [m](Index count) -> Matrix {
    Matrix made = simplex_points(m, count);
    for (Index k = 0; k < made.cols(); ++k) made.col(k).normalize();
    return made;
  };
  if (m == 2)
    return plane_front("f1^2 + f2^2 = 1", {{[](double t) { return PlanePoint{std::sin(t), std::cos(t)}; }, 0, pi / 2}});
  return space_front("sum f[i]^2 = 1", Vector::Zero(m), Vector::Ones(m), points,
                     [](const Vector& f) { return f.squaredNorm() >= 1; });
}

std::optional<KnownFront> simplex_front(Index m) {
  if (m == 2)
    return plane_front(
        "f1 + f2 = 0.5", [](double t) { return 0.5 - t; }, 0, 0.5);
  return space_front(
      "sum f[i] = 0.5", Vector::Zero(m), Vector::Constant(m, 0.5),
      [m](Index count) -> Matrix { return 0.5 * simplex_points(m, count); },
      [](const Vector& f) { return f.sum() >= 0.5; });
}

/// Of more than three objectives it is no curve: what lies off the distance's minimum is nondominated too (Huband et
/// al., 2006, section IV.C).
std::optional<KnownFront> curve_front(Index m) {
  if (m == 2) return sphere_front(2);
  if (m > 3) return std::nullopt;
  const double half = std::sqrt(0.5);
  const auto points = [half](Index count) -> Matrix {
    Matrix made(3, count);
    for (Index k = 0; k < count; ++k) {
      const double angle = pi / 2 * static_cast<double>(k) / static_cast<double>(count - 1);
      made.col(k) << half * std::cos(angle), half * std::cos(angle), std::sin(angle);
    }
    return made;
  };
  return space_front("f1 = f2, f1^2 + f2^2 + f3^2 = 1", Vector::Zero(3), Vector{{half, half, 1}}, points,
                     [half](const Vector& f) {
                       const double near = std::min(1.0, std::min(f[0], f[1]) / half);
                       return near * near + f[2] * f[2] >= 1;
                     });
}

Objectives pieces(const TracedPoint& x, Index m) {
  const Expr g = 1 + 9 / static_cast<double>(x.size() - m + 1) * sum_from(x, m - 1, [](const Expr& t) { return t; });
  Objectives f;
  Expr h = static_cast<double>(m);
  for (Index i = 0; i + 1 < m; ++i) {
    f.push_back(x[i]);
    h -= x[i] / (1 + g) * (1 + sin(3 * pi * x[i]));
  }
  f.push_back((1 + g) * h);
  return f;
}

std::optional<KnownFront> pieces_front(Index m) {
  static const auto gain = std::make_shared<RunningLeast>([](double t) { return -t * (1 + std::sin(3 * pi * t)); });
  const auto last = [m](const Vector& f) {
    double value = 2 * static_cast<double>(m);
    for (Index i = 0; i + 1 < m; ++i) value += (*gain)(f[i]);
    return value;
  };
  if (m == 2)
    return plane_front(
        "f2 = 4 - f1 (1 + sin(3 pi f1)), as far as it is nondominated",
        [](double t) { return 4 - t * (1 + std::sin(3 * pi * t)); }, 0, 1);
  Vector nadir = Vector::Constant(m, gain->place(1)), ideal = Vector::Zero(m);
  nadir[m - 1] = 2 * static_cast<double>(m);
  ideal[m - 1] = last(Vector::Ones(m));
  const auto points = [m, last](Index count) -> Matrix {
    const Index steps = steps_for(count, m - 1);
    const std::vector<double> places = gain->places(steps);
    Matrix made(m, static_cast<Index>(std::lround(std::pow(steps, m - 1))));
    for (Index k = 0; k < made.cols(); ++k) {
      Index rest = k;
      for (Index i = 0; i + 1 < m; ++i, rest /= steps) made(i, k) = places[static_cast<std::size_t>(rest % steps)];
      made(m - 1, k) = last(made.col(k));
    }
    return made;
  };
  return space_front("f[M] = 2 M - sum f[i] (1 + sin(3 pi f[i])), as far as it is nondominated", ideal, nadir, points,
                     [m, last](const Vector& f) { return f[m - 1] >= last(f); });
}

/// Sums over M stretches of the variables, each by a function of one.
Objectives by_stretch(const TracedPoint& x, Index m, const std::function<Expr(const Expr&)>& term, bool mean) {
  Objectives f;
  for (Index k = 0; k < m; ++k) {
    const Index first = k * x.size() / m, end = (k + 1) * x.size() / m;
    Expr sum = 0;
    for (Index i = first; i < end; ++i) sum += term(x[i]);
    f.push_back(mean ? sum / static_cast<double>(end - first) : sum);
  }
  return f;
}

/// The limits are on the objectives alone, and more of any breaks none: what lies above a point that keeps them keeps
/// them too.
bool keeps_lines(const Vector& f) {
  const Index m = f.size();
  const Vector most = f.cwiseMin(1);
  Vector low = most.head(m - 1);
  std::sort(low.begin(), low.end());
  return most[m - 1] + 4 * low[0] >= 1 && 2 * most[m - 1] + low[0] + low[1] >= 1;
}

std::optional<KnownFront> lines_front(Index m) {
  Vector nadir = Vector::Constant(m, 0.75);
  nadir[m - 1] = 1;
  const auto points = [m](Index count) -> Matrix {
    // A line where all but the last are alike, and below a third of the last a face for each that is less than the
    // others.
    const Index side = std::max<Index>(2, static_cast<Index>(std::sqrt(static_cast<double>(count / m))));
    std::vector<Vector> made;
    for (Index k = 0; k <= side; ++k) {
      const double part = static_cast<double>(k) / static_cast<double>(side), last = 1.0 / 3 + 2.0 / 3 * part;
      Vector on_line = Vector::Constant(m, (1 - last) / 4);
      on_line[m - 1] = last;
      made.push_back(on_line);
      const double low = part / 3, sum = 1 - 2 * low, least = (1 - low) / 4;
      for (Index j = 0; j < side; ++j)
        for (Index which = 0; which + 1 < m; ++which) {
          const double small = least + (sum / 2 - least) * static_cast<double>(j) / static_cast<double>(side);
          Vector on_face = Vector::Constant(m, sum - small);
          on_face[which] = small;
          on_face[m - 1] = low;
          made.push_back(on_face);
        }
    }
    Matrix all(m, static_cast<Index>(made.size()));
    for (std::size_t k = 0; k < made.size(); ++k) all.col(static_cast<Index>(k)) = made[k];
    return all;
  };
  return space_front("where f[M] + 4 f[j] = 1, or 2 f[M] + f[i] + f[j] = 1 for the least two", Vector::Zero(m), nadir,
                     points, keeps_lines);
}

std::optional<KnownFront> arc_front(Index m) {
  if (m == 2) return sphere_front(2);
  const auto points = [m](Index count) -> Matrix {
    Matrix made(m, count);
    for (Index k = 0; k < count; ++k) {
      const double angle = pi / 2 * static_cast<double>(k) / static_cast<double>(count - 1);
      made.col(k).setConstant(std::cos(angle));
      made(m - 1, k) = std::sin(angle);
    }
    return made;
  };
  return space_front("f[j]^2 + f[M]^2 = 1 for all j", Vector::Zero(m), Vector::Ones(m), points,
                     [m](const Vector& f) { return std::pow(f.head(m - 1).minCoeff(), 2) + f[m - 1] * f[m - 1] >= 1; });
}

std::vector<Many> many_of_2005() {
  return {
      {"linear front behind 11^k - 1 local ones",
       "f = products of x[1..M-1], g = 100 (k + sum (x[i] - 0.5)^2 - cos(20 pi (x[i] - 0.5))), all times (1 + g)/2",
       {Trait::multimodal, Trait::smooth},
       5,
       [](const TracedPoint& x, Index m) { return plane_of(x, m, rugged_distance(x, m)); },
       simplex_front},
      {"front on a sphere",
       "f = products of cos and sin of x[1..M-1] pi/2, g = sum (x[i] - 0.5)^2, all times 1 + g",
       {Trait::unimodal, Trait::smooth},
       10,
       [](const TracedPoint& x, Index m) {
         return sphere_of(m, squared_distance(x, m), [&](Index i) { return x[i]; });
       },
       sphere_front},
      {"front on a sphere behind 3^k - 1 local ones",
       "as dtlz-2 with the g of dtlz-1",
       {Trait::multimodal, Trait::smooth},
       10,
       [](const TracedPoint& x, Index m) { return sphere_of(m, rugged_distance(x, m), [&](Index i) { return x[i]; }); },
       sphere_front},
      {"front on a sphere whose points crowd at its rim",
       "as dtlz-2 with x[i]^100 for the places",
       {Trait::unimodal, Trait::smooth},
       10,
       [](const TracedPoint& x, Index m) {
         return sphere_of(m, squared_distance(x, m), [&](Index i) { return pow(x[i], 100); });
       },
       sphere_front},
      {"front that is a curve",
       "as dtlz-2 with (1 + 2 g x[i])/(2 (1 + g)) for the places from the second on",
       {Trait::unimodal, Trait::smooth},
       10,
       [](const TracedPoint& x, Index m) { return curve_of(x, m, squared_distance(x, m)); },
       curve_front},
      {"front that is a curve, hard to come near",
       "as dtlz-5 with g = sum x[i]^0.1",
       {Trait::unimodal},
       10,
       [](const TracedPoint& x, Index m) {
         return curve_of(x, m, sum_from(x, m - 1, [](const Expr& t) { return pow(t, 0.1); }));
       },
       curve_front},
      {"front in 2^(M-1) pieces",
       "f[i] = x[i], g = 1 + 9 mean of the others, f[M] = (1 + g) (M - sum f[i]/(1 + g) (1 + sin(3 pi f[i])))",
       {Trait::multimodal},
       20,
       pieces,
       pieces_front},
      {"front of a line and faces",
       "f[j] = mean of the j-th stretch of x; f[M] + 4 f[j] >= 1, 2 f[M] + f[i] + f[j] >= 1",
       {Trait::unimodal, Trait::smooth, Trait::constrained},
       0,
       [](const TracedPoint& x, Index m) {
         return by_stretch(
             x, m, [](const Expr& t) { return t; }, true);
       },
       lines_front},
      {"front that is a curve on limits",
       "f[j] = sum of x^0.1 over the j-th stretch; f[M]^2 + f[j]^2 >= 1",
       {Trait::unimodal, Trait::constrained},
       0,
       [](const TracedPoint& x, Index m) {
         return by_stretch(
             x, m, [](const Expr& t) { return pow(t, 0.1); }, false);
       },
       arc_front},
  };
}

/// What a stretch gives is an objective, so the limits are said of those.
Objectives limits_of(int number, const Objectives& f) {
  Objectives rows;
  const std::size_t last = f.size() - 1;
  for (std::size_t j = 0; j < last; ++j)
    rows.push_back(number == 8 ? f[last] + 4 * f[j] - 1 : pow(f[last], 2) + pow(f[j], 2) - 1);
  if (number == 9) return rows;
  Expr least = f[0] + f[1];
  for (std::size_t i = 0; i < last; ++i)
    for (std::size_t j = i + 1; j < last; ++j) least = min(least, f[i] + f[j]);
  rows.push_back(2 * f[last] + least - 1);
  return rows;
}

TestFunction many_function(int number, const Many& of) {
  TestFunction function;
  function.name = fmt::format("dtlz-{}", number);
  function.title = fmt::format("several objectives, {}: {}", number, of.title);
  function.formula = of.formula;
  function.source = "Deb, Thiele, Laumanns and Zitzler, 2005";
  function.traits = of.traits;
  function.traits.push_back(Trait::several_objectives);
  const bool is_limited = number >= 8;
  function.options = {{.name = "objectives",
                       .usual = 3,
                       .least = number == 8 ? 3.0 : 2.0,
                       .most = 10,
                       .is_whole = true,
                       .meaning = "how many"}};
  function.usual_dimension = [tail = of.tail](const OptionValues& options) {
    return tail > 0 ? objectives_of(options) + tail - 1 : 10 * objectives_of(options);
  };
  function.dimensions = Dimensions::from(3, function.usual_dimension({{"objectives", 3}}));
  function.objectives = [number, objectives = of.objectives](const TracedPoint& x, const OptionValues& options) {
    const Index m = objectives_of(options);
    if (x.size() < m)
      throw InputError(
          fmt::format("dtlz-{} of {} objectives needs at least {} variables, not {}", number, m, m, x.size()));
    return objectives(x, m);
  };
  if (is_limited)
    function.rows = [number, objectives = of.objectives](const TracedPoint& x, const OptionValues& options) {
      return limits_of(number, objectives(x, objectives_of(options)));
    };
  function.front = [front = of.front](Index, const OptionValues& options) { return front(objectives_of(options)); };
  function.region = everywhere(0, 1);
  function.region_is_bounds = true;
  return function;
}

} // namespace

std::vector<TestFunction> distance_front_functions() {
  std::vector<TestFunction> functions;
  int number = 0;
  for (const Many& many : many_of_2005()) functions.push_back(many_function(++number, many));
  return functions;
}

} // namespace tanzen::testbed
