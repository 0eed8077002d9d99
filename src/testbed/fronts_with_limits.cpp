#include "fronts.hpp"
#include "numbers.hpp"

#include "groups.hpp"

#include <cmath>

/// Two objectives under constraints: the classics.
namespace tanzen::testbed {
namespace {

struct Limited {
  const char* name;
  const char* title;
  const char* formula;
  const char* source;
  std::vector<Trait> traits;
  std::vector<double> lower, upper;
  std::vector<std::string> constraints;
  std::function<Objectives(const TracedPoint& x)> objectives;
  std::function<KnownFront()> front;
};

KnownFront osyczka_kundu_front() {
  // The five stretches of Deb (2001, section 8.3.5); x4 = x6 = 0 on all.
  const auto at = [](double x1, double x2, double x3, double x5) {
    const auto s = [](double t) { return t * t; };
    return PlanePoint{-(25 * s(x1 - 2) + s(x2 - 2) + s(x3 - 1) + 16 + s(x5 - 1)), s(x1) + s(x2) + s(x3) + s(x5)};
  };
  return plane_front("five stretches with x[4] = x[6] = 0 (Deb, 2001, section 8.3.5)",
                     {{[=](double t) { return at(5, 1, t, 5); }, 1, 5},
                      {[=](double t) { return at(5, 1, t, 1); }, 1, 5},
                      {[=](double t) { return at(t, (t - 2) / 3, 1, 1); }, 4, 5},
                      {[=](double t) { return at(0, 2, t, 1); }, 1, 5},
                      {[=](double t) { return at(t, 2 - t, 1, 1); }, 0, 1}});
}

KnownFront tanaka_front() {
  const auto on_wave = [](double angle) {
    const double r = std::sqrt(1 + 0.1 * std::cos(16 * angle));
    const double x = r * std::sin(angle), y = r * std::cos(angle);
    const bool is_allowed = std::pow(x - 0.5, 2) + std::pow(y - 0.5, 2) <= 0.5;
    return is_allowed ? PlanePoint{x, y} : PlanePoint{2, 2}; // such a point is dominated
  };
  return plane_front("on the first constraint, as far as it is nondominated", {{on_wave, 0, pi / 2}});
}

std::vector<Limited> limited() {
  return {
      {"binh-korn",
       "two distances within two discs",
       "f1 = 4 x[1]^2 + 4 x[2]^2, f2 = (x[1] - 5)^2 + (x[2] - 5)^2",
       "Binh and Korn, 1997",
       {Trait::smooth, Trait::convex},
       {0, 0},
       {5, 3},
       {"(x[1] - 5)^2 + x[2]^2 <= 25", "(x[1] - 8)^2 + (x[2] + 3)^2 >= 7.7"},
       [](const TracedPoint& x) {
         return Objectives{4 * square(x[0]) + 4 * square(x[1]), square(x[0] - 5) + square(x[1] - 5)};
       },
       [] {
         return plane_front("both x alike from 0 to 3, then x[2] = 3 and x[1] from 3 to 5",
                            {{[](double t) {
                                return PlanePoint{8 * t * t, 2 * (t - 5) * (t - 5)};
                              },
                              0, 3},
                             {[](double t) {
                                return PlanePoint{4 * t * t + 36, (t - 5) * (t - 5) + 4};
                              },
                              3, 5}});
       }},
      {"tanaka",
       "the variables themselves, outside a wave",
       "f1 = x[1], f2 = x[2]",
       "Tanaka, Watanabe, Furukawa and Tanino, 1995",
       {Trait::smooth, Trait::multimodal},
       {0, 0},
       {pi, pi},
       {"x[1]^2 + x[2]^2 - 1 - 0.1*cos(16*atan2(x[1], x[2])) >= 0", "(x[1] - 0.5)^2 + (x[2] - 0.5)^2 <= 0.5"},
       [](const TracedPoint& x) {
         return Objectives{x[0], x[1]};
       },
       tanaka_front},
      {"osyczka-kundu",
       "six variables, six constraints, a front of five stretches",
       "f1 = -25 (x[1] - 2)^2 - (x[2] - 2)^2 - (x[3] - 1)^2 - (x[4] - 4)^2 - (x[5] - 1)^2, f2 = sum x[i]^2",
       "Osyczka and Kundu, 1995",
       {Trait::smooth, Trait::multimodal},
       {0, 0, 1, 0, 1, 0},
       {10, 10, 5, 6, 5, 10},
       {"x[1] + x[2] >= 2", "x[1] + x[2] <= 6", "x[2] - x[1] <= 2", "x[1] - 3*x[2] <= 2", "(x[3] - 3)^2 + x[4] <= 4",
        "(x[5] - 3)^2 + x[6] >= 4"},
       [](const TracedPoint& x) {
         Expr all = 0;
         for (Index i = 0; i < x.size(); ++i) all += square(x[i]);
         return Objectives{
             -25 * square(x[0] - 2) - square(x[1] - 2) - square(x[2] - 1) - square(x[3] - 4) - square(x[4] - 1), all};
       },
       osyczka_kundu_front},
      {"srinivas-deb",
       "a bowl and a slope within a disc",
       "f1 = 2 + (x[1] - 2)^2 + (x[2] - 1)^2, f2 = 9 x[1] - (x[2] - 1)^2",
       "Srinivas and Deb, 1994",
       {Trait::smooth, Trait::unimodal},
       {-20, -20},
       {20, 20},
       {"x[1]^2 + x[2]^2 <= 225", "x[1] - 3*x[2] + 10 <= 0"},
       [](const TracedPoint& x) {
         return Objectives{2 + square(x[0] - 2) + square(x[1] - 1), 9 * x[0] - square(x[1] - 1)};
       },
       [] {
         // The literature states the middle piece; both objectives go on falling along the limits.
         const auto at = [](double x, double y) {
           return PlanePoint{2 + (x - 2) * (x - 2) + (y - 1) * (y - 1), 9 * x - (y - 1) * (y - 1)};
         };
         return plane_front(
             "along the line from (1.1, 3.7) to (-2.5, 2.5), with x[1] = -2.5 to the disc, along that to x[1] = -4.84",
             {{[at](double y) { return at(3 * y - 10, y); }, 2.5, 3.7},
              {[at](double y) { return at(-2.5, y); }, 2.5, std::sqrt(218.75)},
              {[at](double x) { return at(x, std::sqrt(225 - x * x)); }, -5, -2.5}});
       }},
      {"deb-slope",
       "a slope and a quotient between two lines",
       "f1 = x[1], f2 = (1 + x[2])/x[1]",
       "Deb, 2001, section 8.3.1",
       {Trait::smooth, Trait::unimodal},
       {0.1, 0},
       {1, 5},
       {"x[2] + 9*x[1] >= 6", "9*x[1] - x[2] >= 1"},
       [](const TracedPoint& x) {
         return Objectives{x[0], (1 + x[1]) / x[0]};
       },
       [] {
         return plane_front("x[2] = 6 - 9 x[1] from x[1] = 7/18 to 2/3, then x[2] = 0",
                            {{[](double t) {
                                return PlanePoint{t, (7 - 9 * t) / t};
                              },
                              7.0 / 18, 2.0 / 3},
                             {[](double t) {
                                return PlanePoint{t, 1 / t};
                              },
                              2.0 / 3, 1}});
       }},
      {"belegundu",
       "two planes between two lines",
       "f1 = -2 x[1] + x[2], f2 = 2 x[1] + x[2]",
       "Belegundu, Murthy, Salagame and Constants, 1994",
       {Trait::smooth, Trait::convex},
       {0, 0},
       {5, 3},
       {"x[2] - x[1] <= 1", "x[1] + x[2] <= 7"},
       [](const TracedPoint& x) {
         return Objectives{-2 * x[0] + x[1], 2 * x[0] + x[1]};
       },
       [] {
         return plane_front("x[2] = 0, x[1] from 0 to 5", {{[](double t) { return PlanePoint{-2 * t, 2 * t}; }, 0, 5}});
       }},
      {"kita",
       "a parabola and a plane between three lines",
       "f1 = x[1]^2 - x[2], f2 = -x[1]/2 - x[2] - 1",
       "Kita, Yabumoto, Mori and Nishikawa, 1996; both turned to be minimized",
       {Trait::smooth, Trait::unimodal},
       {0, 0},
       {7, 7},
       {"x[1]/6 + x[2] <= 6.5", "x[1]/2 + x[2] <= 7.5", "5*x[1] + x[2] <= 30"},
       [](const TracedPoint& x) {
         return Objectives{square(x[0]) - x[1], -0.5 * x[0] - x[1] - 1};
       },
       [] {
         return plane_front("x[2] = 6.5 - x[1]/6, x[1] from 0 to 3",
                            {{[](double t) {
                                return PlanePoint{t * t - 6.5 + t / 6, -t / 3 - 7.5};
                              },
                              0, 3}});
       }},
  };
}

} // namespace

std::vector<TestFunction> constrained_front_functions() {
  std::vector<TestFunction> functions;
  for (Limited& each : limited()) {
    TestFunction function;
    function.name = each.name;
    function.title = each.title;
    function.formula = each.formula;
    function.source = each.source;
    function.traits = std::move(each.traits);
    for (const Trait trait : {Trait::constrained, Trait::several_objectives}) function.traits.push_back(trait);
    function.dimensions = Dimensions::exactly(static_cast<Index>(each.lower.size()));
    const Box box{Eigen::Map<const Vector>(each.lower.data(), function.dimensions.usual),
                  Eigen::Map<const Vector>(each.upper.data(), function.dimensions.usual)};
    function.region = [box](Index) { return box; };
    function.region_is_bounds = true;
    function.constraints = [constraints = std::move(each.constraints)](Index) { return constraints; };
    function.objectives = [objectives = std::move(each.objectives)](const TracedPoint& x, const OptionValues&) {
      return objectives(x);
    };
    function.front = [front = std::move(each.front)](Index, const OptionValues&) { return std::optional(front()); };
    functions.push_back(std::move(function));
  }
  return functions;
}

} // namespace tanzen::testbed
