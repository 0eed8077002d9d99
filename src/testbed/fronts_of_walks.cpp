#include "fronts.hpp"
#include "numbers.hpp"

#include "groups.hpp"

#include <cmath>
#include <fmt/format.h>

/// Two objectives whose nondominated points lie along a curve in the space of the variables that winds through all of
/// them: numbers 1 to 7 of Zhang, Zhou, Zhao, Suganthan, Liu and Tiwari (2009).
namespace tanzen::testbed {
namespace {

/// How far the j-th variable (counted from 1) lies from the curve.
using Away = std::function<Expr(const TracedPoint& x, Index j)>;

double share_of(const TracedPoint& x, Index j) {
  return static_cast<double>(j) / static_cast<double>(x.size());
}

Expr from_sine(const TracedPoint& x, Index j) {
  return x[j - 1] - sin(6 * pi * x[0] + share_of(x, j) * pi);
}

Expr from_growing_wave(const TracedPoint& x, Index j) {
  const double phase = share_of(x, j) * pi;
  const Expr height = 0.3 * pow(x[0], 2) * cos(24 * pi * x[0] + 4 * phase) + 0.6 * x[0];
  const Expr angle = 6 * pi * x[0] + phase;
  return x[j - 1] - height * (j % 2 == 1 ? cos(angle) : sin(angle));
}

Expr from_power(const TracedPoint& x, Index j) {
  const double power = 0.5 * (1 + 3.0 * static_cast<double>(j - 2) / static_cast<double>(x.size() - 2));
  return x[j - 1] - pow(x[0], power);
}

struct Walk {
  const char* title;
  const char* formula;
  std::vector<Trait> traits;
  Away away;
  /// What a distance counts; unset: its square.
  std::function<Expr(const Expr&)> term;
  /// The two objectives on the curve.
  std::function<std::pair<Expr, Expr>(const Expr& first)> on_curve;
  KnownFront (*front)();
  double reach = 1; ///< of the variables after the first
};

/// Means over the odd and the even variables after the first, times 2.
Objectives objectives_of(const Walk& walk, const TracedPoint& x) {
  Expr sums[2] = {0, 0};
  double counts[2] = {0, 0};
  for (Index j = 2; j <= x.size(); ++j) {
    const Expr away = walk.away(x, j);
    sums[j % 2] += walk.term ? walk.term(away) : pow(away, 2);
    counts[j % 2] += 1;
  }
  const auto [first, second] = walk.on_curve(x[0]);
  return {first + 2 / counts[1] * sums[1], second + 2 / counts[0] * sums[0]};
}

/// The third and the sixth count distances by a sum and a product.
Objectives rippled(const Walk& walk, const TracedPoint& x) {
  Expr sums[2] = {0, 0}, products[2] = {1, 1};
  double counts[2] = {0, 0};
  for (Index j = 2; j <= x.size(); ++j) {
    const Expr away = walk.away(x, j);
    sums[j % 2] += pow(away, 2);
    products[j % 2] *= cos(20 * away * pi / std::sqrt(static_cast<double>(j)));
    counts[j % 2] += 1;
  }
  const auto counted = [&](Index odd) { return 2 / counts[odd] * (4 * sums[odd] - 2 * products[odd] + 2); };
  const auto [first, second] = walk.on_curve(x[0]);
  return {first + counted(1), second + counted(0)};
}

std::pair<Expr, Expr> on_root(const Expr& t) {
  return {t, 1 - sqrt(t)};
}

KnownFront root_front() {
  return plane_front("f2 = 1 - sqrt(f1), f1 from 0 to 1", {{[](double t) { return PlanePoint{t * t, 1 - t}; }, 0, 1}});
}

KnownFront line_front() {
  return plane_front(
      "f2 = 1 - f1, f1 from 0 to 1", [](double t) { return 1 - t; }, 0, 1);
}

KnownFront dotted_front() {
  Matrix points(2, 21);
  for (Index k = 0; k <= 20; ++k) points.col(k) << static_cast<double>(k) / 20, 1 - static_cast<double>(k) / 20;
  return plane_front("the 21 points k/20, 1 - k/20", points);
}

KnownFront broken_front() {
  const auto on_line = [](double t) { return PlanePoint{t, 1 - t}; };
  return plane_front("(0, 1), and f2 = 1 - f1 for f1 from 1/4 to 1/2 and from 3/4 to 1",
                     {{on_line, 0, 0}, {on_line, 0.25, 0.5}, {on_line, 0.75, 1}});
}

std::vector<Walk> walks() {
  return {
      {"along a sine",
       "f1 = x[1] + 2 mean over odd j of y[j]^2, f2 = 1 - sqrt(x[1]) + 2 mean over even j of y[j]^2, y[j] = x[j] - "
       "sin(6 pi x[1] + j pi/n)",
       {Trait::multimodal},
       from_sine,
       {},
       on_root,
       root_front},
      {"along a growing wave",
       "as uf-1 with y[j] = x[j] - (0.3 x[1]^2 cos(24 pi x[1] + 4 j pi/n) + 0.6 x[1]) times cos (odd) or sin (even) of "
       "6 pi x[1] + j pi/n",
       {Trait::multimodal},
       from_growing_wave,
       {},
       on_root,
       root_front},
      {"along powers, rippled",
       "f1 = x[1] + 2/|J| (4 sum y^2 - 2 product cos(20 y pi/sqrt(j)) + 2) over odd j, f2 = 1 - sqrt(x[1]) + the same "
       "over even j, y[j] = x[j] - x[1]^(0.5 (1 + 3 (j - 2)/(n - 2)))",
       {Trait::multimodal},
       from_power,
       {},
       on_root,
       root_front},
      {"along a sine, distances that level off",
       "as uf-1 with |y|/(1 + exp(2 |y|)) for y^2, f2 = 1 - x[1]^2",
       {Trait::multimodal, Trait::non_differentiable},
       from_sine,
       [](const Expr& away) { return abs(away) / (1 + exp(2 * abs(away))); },
       [](const Expr& t) {
         return std::pair<Expr, Expr>{t, 1 - pow(t, 2)};
       },
       [] {
         return plane_front(
             "f2 = 1 - f1^2, f1 from 0 to 1", [](double t) { return 1 - t * t; }, 0, 1);
       },
       2},
      {"a front of 21 points",
       "f1 = x[1] + 0.15 |sin(20 pi x[1])| + 2 mean over odd j of h, f2 = 1 - x[1] + 0.15 |sin(20 pi x[1])| + over "
       "even j, h = 2 y^2 - cos(4 pi y) + 1",
       {Trait::multimodal, Trait::non_differentiable},
       from_sine,
       [](const Expr& away) { return 2 * pow(away, 2) - cos(4 * pi * away) + 1; },
       [](const Expr& t) {
         const Expr more = 0.15 * abs(sin(20 * pi * t));
         return std::pair<Expr, Expr>{t + more, 1 - t + more};
       },
       dotted_front},
      {"a front of a point and two pieces",
       "f1 = x[1] + max(0, 0.7 sin(4 pi x[1])) + 2 mean over odd j, f2 = 1 - x[1] + max(0, 0.7 sin(4 pi x[1])) + over "
       "even j, by a sum and a product as in uf-3",
       {Trait::multimodal, Trait::non_differentiable},
       from_sine,
       {},
       [](const Expr& t) {
         const Expr more = max(0, 0.7 * sin(4 * pi * t));
         return std::pair<Expr, Expr>{t + more, 1 - t + more};
       },
       broken_front},
      {"along a sine, a linear front",
       "f1 = x[1]^0.2 + 2 mean over odd j of y^2, f2 = 1 - x[1]^0.2 + 2 mean over even j of y^2, y as in uf-1",
       {Trait::multimodal},
       from_sine,
       {},
       [](const Expr& t) {
         const Expr root = pow(t, 0.2);
         return std::pair<Expr, Expr>{root, 1 - root};
       },
       line_front},
  };
}

} // namespace

std::vector<TestFunction> walking_front_functions() {
  std::vector<TestFunction> functions;
  int number = 0;
  for (const Walk& walk : walks()) {
    ++number;
    TestFunction function;
    function.name = fmt::format("uf-{}", number);
    function.title = fmt::format("two objectives, winding {}: {}", number, walk.title);
    function.formula = walk.formula;
    function.source = "Zhang, Zhou, Zhao, Suganthan, Liu and Tiwari, 2009";
    function.traits = walk.traits;
    function.traits.push_back(Trait::several_objectives);
    function.dimensions = Dimensions::from(3, 30);
    function.objectives = [walk, number](const TracedPoint& x, const OptionValues&) {
      return number == 3 || number == 6 ? rippled(walk, x) : objectives_of(walk, x);
    };
    function.front = [front = walk.front](Index, const OptionValues&) { return std::optional(front()); };
    function.region = [reach = walk.reach, within = number == 3](Index n) {
      Box box{Vector::Constant(n, within ? 0 : -reach), Vector::Constant(n, reach)};
      box.lower[0] = 0;
      box.upper[0] = 1;
      return box;
    };
    function.region_is_bounds = true;
    functions.push_back(std::move(function));
  }
  return functions;
}

} // namespace tanzen::testbed
