#include "fronts.hpp"
#include "numbers.hpp"

#include "groups.hpp"

#include <cmath>

/// Two and three objectives of a few variables: the classics.
namespace tanzen::testbed {
namespace {

struct Classic {
  const char* name;
  const char* title;
  const char* formula;
  const char* source;
  std::vector<Trait> traits;
  Dimensions dimensions;
  double lower, upper;
  std::function<Objectives(const TracedPoint& x)> objectives;
  std::function<KnownFront(Index n)> front;
};

TestFunction made(Classic classic) {
  TestFunction function;
  function.name = classic.name;
  function.title = classic.title;
  function.formula = classic.formula;
  function.source = classic.source;
  function.traits = std::move(classic.traits);
  function.traits.push_back(Trait::several_objectives);
  function.dimensions = classic.dimensions;
  function.objectives = [objectives = std::move(classic.objectives)](const TracedPoint& x, const OptionValues&) {
    return objectives(x);
  };
  function.front = [front = std::move(classic.front)](Index n, const OptionValues&) { return std::optional(front(n)); };
  function.region = everywhere(classic.lower, classic.upper);
  function.region_is_bounds = true;
  return function;
}

/// Poloni's functions are sums of one of each variable.
PlanePoint poloni_part(double x, const std::array<double, 4>& by) {
  return {by[0] * std::sin(x) + by[1] * std::cos(x), by[2] * std::sin(x) + by[3] * std::cos(x)};
}
constexpr std::array poloni_first = {0.5, -2.0, 1.5, -1.0}, poloni_second = {1.0, -1.5, 2.0, -0.5};

Objectives poloni(const TracedPoint& x) {
  const PlanePoint a = poloni_part(1, poloni_first), b = poloni_part(2, poloni_second);
  const Expr first = 0.5 * sin(x[0]) - 2 * cos(x[0]) + sin(x[1]) - 1.5 * cos(x[1]);
  const Expr second = 1.5 * sin(x[0]) - cos(x[0]) + 2 * sin(x[1]) - 0.5 * cos(x[1]);
  return {1 + square(a[0] + b[0] - first) + square(a[1] + b[1] - second), square(x[0] + 3) + square(x[1] + 1)};
}

KnownFront poloni_front(Index) {
  static const Matrix points = [] {
    constexpr Index side = 4000;
    const PlanePoint a = poloni_part(1, poloni_first), b = poloni_part(2, poloni_second);
    std::vector<PlanePoint> of_x, of_y;
    std::vector<double> at;
    for (Index k = 0; k <= side; ++k) {
      at.push_back(-pi + 2 * pi * static_cast<double>(k) / static_cast<double>(side));
      of_x.push_back(poloni_part(at.back(), poloni_first));
      of_y.push_back(poloni_part(at.back(), poloni_second));
    }
    LowestInSteps lowest(1, 20);
    for (std::size_t i = 0; i < at.size(); ++i)
      for (std::size_t j = 0; j < at.size(); ++j) {
        const double first = a[0] + b[0] - of_x[i][0] - of_y[j][0], second = a[1] + b[1] - of_x[i][1] - of_y[j][1];
        const double value = 1 + first * first + second * second;
        if (value < 20) lowest.see(value, (at[i] + 3) * (at[i] + 3) + (at[j] + 1) * (at[j] + 1));
      }
    return lowest.front();
  }();
  return plane_front("computed from values on a grid of 4,000 x 4,000 points", points);
}

Objectives kursawe(const TracedPoint& x) {
  Expr first = 0, second = 0;
  for (Index i = 0; i + 1 < x.size(); ++i) first -= 10 * exp(-0.2 * sqrt(square(x[i]) + square(x[i + 1])));
  for (Index i = 0; i < x.size(); ++i) second += pow(abs(x[i]), 0.8) + 5 * sin(pow(x[i], 3));
  return {first, second};
}

KnownFront kursawe_front(Index) {
  static const Matrix points = [] {
    // Only here can a nondominated point lie: at 0 both are low, and what lowers the second more is near -1.15.
    constexpr std::size_t side = 251;
    std::vector<double> at, alone;
    for (std::size_t k = 0; k < side; ++k) {
      const double x = -1.25 + 0.005 * static_cast<double>(k);
      at.push_back(k + 1 == side ? 0 : x);
      alone.push_back(std::pow(std::abs(at.back()), 0.8) + 5 * std::sin(std::pow(at.back(), 3)));
    }
    Matrix pair(side, side);
    for (std::size_t i = 0; i < side; ++i)
      for (std::size_t j = 0; j < side; ++j)
        pair(static_cast<Index>(i), static_cast<Index>(j)) = -10 * std::exp(-0.2 * std::hypot(at[i], at[j]));
    LowestInSteps lowest(-20, -14);
    for (std::size_t j = 0; j < side; ++j)
      for (std::size_t i = 0; i < side; ++i)
        for (std::size_t k = 0; k <= i; ++k) {
          const auto row = static_cast<Index>(j);
          lowest.see(pair(static_cast<Index>(i), row) + pair(row, static_cast<Index>(k)),
                     alone[i] + alone[j] + alone[k]);
        }
    return lowest.front();
  }();
  return plane_front("computed from values on a grid of 251 x 251 x 251 points", points);
}

Objectives schaffer_in_pieces(const TracedPoint& x) {
  const Expr& t = x[0];
  return {choose(t <= 1, -t, choose(t <= 3, t - 2, choose(t <= 4, 4 - t, t - 4))), square(t - 5)};
}

Expr distance_to(const TracedPoint& x, double place) {
  Expr sum = 0;
  for (Index i = 0; i < x.size(); ++i) sum += square(x[i] - place);
  return sum;
}

std::array<double, 3> viennet_first(double x, double y) {
  return {x * x + (y - 1) * (y - 1), x * x + (y + 1) * (y + 1) + 1, (x - 1) * (x - 1) + y * y + 2};
}
std::array<double, 3> viennet_second(double x, double y) {
  const auto s = [](double t) { return t * t; };
  return {s(x - 2) / 2 + s(y + 1) / 13 + 3, s(x + y - 3) / 36 + s(-x + y + 2) / 8 - 17,
          s(x + 2 * y - 1) / 175 + s(2 * y - x) / 17 - 13};
}
std::array<double, 3> viennet_third(double x, double y) {
  const double r = x * x + y * y;
  const auto s = [](double t) { return t * t; };
  return {0.5 * r + std::sin(r), s(3 * x - 2 * y + 4) / 8 + s(x - y + 1) / 27 + 15, 1 / (r + 1) - 1.1 * std::exp(-r)};
}

template <std::array<double, 3> (*function)(double, double)>
KnownFront viennet_front(double half) {
  static const KnownFront front = gridded_front(function, -half, half);
  return front;
}

std::vector<Classic> classics_of_two() {
  return {
      {"schaffer-parabolas",
       "Schaffer's two parabolas",
       "f1 = x^2, f2 = (x - 2)^2",
       "Schaffer, 1985",
       {Trait::smooth, Trait::convex, Trait::unimodal},
       Dimensions::exactly(1),
       -1000,
       1000,
       [](const TracedPoint& x) {
         return Objectives{square(x[0]), square(x[0] - 2)};
       },
       [](Index) {
         return plane_front("x from 0 to 2", {{[](double t) { return PlanePoint{t * t, (t - 2) * (t - 2)}; }, 0, 2}});
       }},
      {"schaffer-pieces",
       "Schaffer's function in pieces",
       "f1 = -x to 1, x - 2 to 3, 4 - x to 4, x - 4 above; f2 = (x - 5)^2",
       "Schaffer, 1985",
       {Trait::non_differentiable, Trait::multimodal},
       Dimensions::exactly(1),
       -5,
       10,
       schaffer_in_pieces,
       [](Index) {
         return plane_front("x from 1 to 2 and from 4 to 5", {{[](double t) {
                                                                 return PlanePoint{t - 2, (t - 5) * (t - 5)};
                                                               },
                                                               1, 2},
                                                              {[](double t) {
                                                                 return PlanePoint{t - 4, (t - 5) * (t - 5)};
                                                               },
                                                               4, 5}});
       }},
      {"fonseca-fleming",
       "two bells, whose front is not convex",
       "f1 = 1 - exp(-sum (x[i] - 1/sqrt(n))^2), f2 = 1 - exp(-sum (x[i] + 1/sqrt(n))^2)",
       "Fonseca and Fleming, 1995",
       {Trait::smooth, Trait::unimodal},
       Dimensions::from(1, 3),
       -4,
       4,
       [](const TracedPoint& x) {
         const double place = 1 / std::sqrt(static_cast<double>(x.size()));
         return Objectives{1 - exp(-distance_to(x, place)), 1 - exp(-distance_to(x, -place))};
       },
       [](Index) {
         return plane_front("all x alike, from -1/sqrt(n) to 1/sqrt(n)",
                            {{[](double t) {
                                return PlanePoint{1 - std::exp(-(t - 1) * (t - 1)), 1 - std::exp(-(t + 1) * (t + 1))};
                              },
                              -1, 1}});
       }},
      {"kursawe",
       "Kursawe's function: a front in pieces",
       "f1 = sum -10 exp(-0.2 sqrt(x[i]^2 + x[i+1]^2)), f2 = sum |x[i]|^0.8 + 5 sin(x[i]^3)",
       "Kursawe, 1991",
       {Trait::non_differentiable, Trait::multimodal},
       Dimensions::exactly(3),
       -5,
       5,
       kursawe,
       kursawe_front},
      {"poloni",
       "Poloni's function: a front in two pieces",
       "f1 = 1 + (A1 - B1)^2 + (A2 - B2)^2, f2 = (x[1] + 3)^2 + (x[2] + 1)^2, B1 = 0.5 sin x[1] - 2 cos x[1] + sin "
       "x[2] - 1.5 cos x[2], "
       "B2 = 1.5 sin x[1] - cos x[1] + 2 sin x[2] - 0.5 cos x[2], A1 and A2 the same at (1, 2)",
       "Poloni, 1997; both turned to be minimized",
       {Trait::smooth, Trait::multimodal},
       Dimensions::exactly(2),
       -pi,
       pi,
       poloni,
       poloni_front},
      {"binh",
       "two distances",
       "f1 = x[1]^2 + x[2]^2, f2 = (x[1] - 5)^2 + (x[2] - 5)^2",
       "Binh, 1996",
       {Trait::smooth, Trait::convex, Trait::unimodal},
       Dimensions::exactly(2),
       -5,
       10,
       [](const TracedPoint& x) {
         return Objectives{distance_to(x, 0), distance_to(x, 5)};
       },
       [](Index) {
         return plane_front("both x alike, from 0 to 5", {{[](double t) {
                                                             return PlanePoint{2 * t * t, 2 * (t - 5) * (t - 5)};
                                                           },
                                                           0, 5}});
       }},
      {"lis-eiben",
       "two roots of distances, whose front is not convex",
       "f1 = (x[1]^2 + x[2]^2)^(1/8), f2 = ((x[1] - 0.5)^2 + (x[2] - 0.5)^2)^(1/4)",
       "Lis and Eiben, 1997",
       {Trait::non_differentiable, Trait::unimodal},
       Dimensions::exactly(2),
       -5,
       10,
       [](const TracedPoint& x) {
         return Objectives{pow(distance_to(x, 0), 0.125), pow(distance_to(x, 0.5), 0.25)};
       },
       [](Index) {
         return plane_front(
             "both x alike, from 0 to 0.5",
             {{[](double t) {
                 // Even in the first objective, dense where the second is steep.
                 const double x = 0.5 * std::pow(1 - (1 - t) * (1 - t), 4);
                 return PlanePoint{std::pow(2 * x * x, 0.125), std::pow(2 * (x - 0.5) * (x - 0.5), 0.25)};
               },
               0, 1}});
       }},
      {"valenzuela-1",
       "a hill and a bowl",
       "f1 = 1/(x[1]^2 + x[2]^2 + 1), f2 = x[1]^2 + 3 x[2]^2 + 1",
       "Valenzuela-Rendón and Uresti-Charre, 1997",
       {Trait::smooth, Trait::unimodal},
       Dimensions::exactly(2),
       -3,
       3,
       [](const TracedPoint& x) {
         return Objectives{1 / (distance_to(x, 0) + 1), square(x[0]) + 3 * square(x[1]) + 1};
       },
       [](Index) {
         return plane_front("x[2] = 0 and x[1] from 0 to 3, then x[1] = 3 and x[2] from 0 to 3",
                            {{[](double t) {
                                return PlanePoint{1 / (t * t + 1), t * t + 1};
                              },
                              0, 3},
                             {[](double t) {
                                return PlanePoint{1 / (10 + t * t), 10 + 3 * t * t};
                              },
                              0, 3}});
       }},
      {"valenzuela-2",
       "a slope and a parabola",
       "f1 = x[1] + x[2] + 1, f2 = x[1]^2 + 2 x[2] - 1",
       "Valenzuela-Rendón and Uresti-Charre, 1997",
       {Trait::smooth, Trait::convex, Trait::unimodal},
       Dimensions::exactly(2),
       -3,
       3,
       [](const TracedPoint& x) {
         return Objectives{x[0] + x[1] + 1, square(x[0]) + 2 * x[1] - 1};
       },
       [](Index) {
         return plane_front("x[2] = -3, x[1] from -3 to 0", {{[](double t) {
                                                                return PlanePoint{t - 2, t * t - 7};
                                                              },
                                                              -3, 0}});
       }},
  };
}

std::vector<Classic> classics_of_three() {
  return {
      {"viennet-1",
       "three distances",
       "f1 = x[1]^2 + (x[2] - 1)^2, f2 = x[1]^2 + (x[2] + 1)^2 + 1, f3 = (x[1] - 1)^2 + x[2]^2 + 2",
       "Viennet, Fonteix and Marc, 1996",
       {Trait::smooth, Trait::convex, Trait::unimodal},
       Dimensions::exactly(2),
       -2,
       2,
       [](const TracedPoint& x) {
         return Objectives{square(x[0]) + square(x[1] - 1), square(x[0]) + square(x[1] + 1) + 1,
                           square(x[0] - 1) + square(x[1]) + 2};
       },
       [](Index) { return viennet_front<viennet_first>(2); }},
      {"viennet-2",
       "three long bowls",
       "f1 = (x[1] - 2)^2/2 + (x[2] + 1)^2/13 + 3, f2 = (x[1] + x[2] - 3)^2/36 + (-x[1] + x[2] + 2)^2/8 - 17, "
       "f3 = (x[1] + 2 x[2] - 1)^2/175 + (2 x[2] - x[1])^2/17 - 13",
       "Viennet, Fonteix and Marc, 1996",
       {Trait::smooth, Trait::convex, Trait::unimodal},
       Dimensions::exactly(2),
       -4,
       4,
       [](const TracedPoint& x) {
         return Objectives{square(x[0] - 2) / 2 + square(x[1] + 1) / 13 + 3,
                           square(x[0] + x[1] - 3) / 36 + square(-x[0] + x[1] + 2) / 8 - 17,
                           square(x[0] + 2 * x[1] - 1) / 175 + square(2 * x[1] - x[0]) / 17 - 13};
       },
       [](Index) { return viennet_front<viennet_second>(4); }},
      {"viennet-3",
       "three objectives, a front in pieces",
       "f1 = (x[1]^2 + x[2]^2)/2 + sin(x[1]^2 + x[2]^2), f2 = (3 x[1] - 2 x[2] + 4)^2/8 + (x[1] - x[2] + 1)^2/27 + 15, "
       "f3 = 1/(x[1]^2 + x[2]^2 + 1) - 1.1 exp(-x[1]^2 - x[2]^2)",
       "Viennet, Fonteix and Marc, 1996",
       {Trait::smooth, Trait::multimodal},
       Dimensions::exactly(2),
       -3,
       3,
       [](const TracedPoint& x) {
         const Expr r = square(x[0]) + square(x[1]);
         return Objectives{0.5 * r + sin(r), square(3 * x[0] - 2 * x[1] + 4) / 8 + square(x[0] - x[1] + 1) / 27 + 15,
                           1 / (r + 1) - 1.1 * exp(-r)};
       },
       [](Index) { return viennet_front<viennet_third>(3); }},
  };
}

} // namespace

std::vector<TestFunction> plane_front_functions() {
  std::vector<TestFunction> functions;
  for (auto group : {classics_of_two, classics_of_three})
    for (Classic& classic : group()) functions.push_back(made(std::move(classic)));
  return functions;
}

} // namespace tanzen::testbed
