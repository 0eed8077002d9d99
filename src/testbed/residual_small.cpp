#include "residual_functions.hpp"

#include <cmath>
#include <numbers>

/// The problems of Moré, Garbow and Hillstrom (1981) with a fixed number of variables: sums of squares, with the
/// paper's numbers, starts and minima.
namespace tanzen::testbed {
namespace {

using Residuals = std::vector<Expr>;
using residual_tables::at, residual_tables::box, residual_tables::from;

Residuals freudenstein_roth(const TracedPoint& x) {
  return {-13 + x[0] + ((5 - x[1]) * x[1] - 2) * x[1], -29 + x[0] + ((x[1] + 1) * x[1] - 14) * x[1]};
}

Residuals powell_badly_scaled(const TracedPoint& x) {
  return {1e4 * x[0] * x[1] - 1, exp(-x[0]) + exp(-x[1]) - 1.0001};
}

Residuals brown_badly_scaled(const TracedPoint& x) {
  return {x[0] - 1e6, x[1] - 2e-6, x[0] * x[1] - 2};
}

Residuals beale(const TracedPoint& x) {
  const double wanted[] = {1.5, 2.25, 2.625};
  Residuals r;
  for (int i = 0; i < 3; ++i) r.push_back(wanted[i] - x[0] * (1 - pow(x[1], i + 1)));
  return r;
}

Residuals jennrich_sampson(const TracedPoint& x) {
  Residuals r;
  for (int i = 1; i <= 10; ++i) r.push_back(2 + 2 * i - (exp(i * x[0]) + exp(i * x[1])));
  return r;
}

Residuals helical_valley(const TracedPoint& x) {
  const double turn = 2 * std::numbers::pi;
  // The paper's angle: arctan(x2/x1)/(2 pi), and half a turn more where x1 is negative.
  const Expr angle = atan(x[1] / x[0]) / turn + choose(x[0] < 0, 0.5, 0);
  return {10 * (x[2] - 10 * angle), 10 * (sqrt(pow(x[0], 2) + pow(x[1], 2)) - 1), x[2]};
}

Residuals bard(const TracedPoint& x) {
  const double y[] = {0.14, 0.18, 0.22, 0.25, 0.29, 0.32, 0.35, 0.39, 0.37, 0.58, 0.73, 0.96, 1.34, 2.10, 4.39};
  Residuals r;
  for (int i = 1; i <= 15; ++i) {
    const double u = i, v = 16 - i, w = std::min(u, v);
    r.push_back(y[i - 1] - (x[0] + u / (v * x[1] + w * x[2])));
  }
  return r;
}

Residuals gaussian(const TracedPoint& x) {
  const double y[] = {0.0009, 0.0044, 0.0175, 0.0540, 0.1295, 0.2420, 0.3521, 0.3989,
                      0.3521, 0.2420, 0.1295, 0.0540, 0.0175, 0.0044, 0.0009};
  Residuals r;
  for (int i = 1; i <= 15; ++i) {
    const double t = (8.0 - i) / 2;
    r.push_back(x[0] * exp(-x[1] * pow(t - x[2], 2) / 2) - y[i - 1]);
  }
  return r;
}

Residuals meyer(const TracedPoint& x) {
  const double y[] = {34780, 28610, 23650, 19630, 16370, 13720, 11540, 9744,
                      8261,  7030,  6005,  5147,  4427,  3820,  3307,  2872};
  Residuals r;
  for (int i = 1; i <= 16; ++i) r.push_back(x[0] * exp(x[1] / (45.0 + 5 * i + x[2])) - y[i - 1]);
  return r;
}

Residuals gulf(const TracedPoint& x) {
  Residuals r;
  for (int i = 1; i <= 99; ++i) {
    const double t = i / 100.0, y = 25 + std::pow(-50 * std::log(t), 2.0 / 3);
    r.push_back(exp(-pow(abs(y - x[1]), x[2]) / x[0]) - t);
  }
  return r;
}

Residuals box_three(const TracedPoint& x) {
  Residuals r;
  for (int i = 1; i <= 10; ++i) {
    const double t = 0.1 * i;
    r.push_back(exp(-t * x[0]) - exp(-t * x[1]) - x[2] * (std::exp(-t) - std::exp(-10 * t)));
  }
  return r;
}

Residuals powell_singular(const TracedPoint& x) {
  return {x[0] + 10 * x[1], std::sqrt(5.0) * (x[2] - x[3]), pow(x[1] - 2 * x[2], 2),
          std::sqrt(10.0) * pow(x[0] - x[3], 2)};
}

Residuals wood(const TracedPoint& x) {
  return {10 * (x[1] - pow(x[0], 2)),
          1 - x[0],
          std::sqrt(90.0) * (x[3] - pow(x[2], 2)),
          1 - x[2],
          std::sqrt(10.0) * (x[1] + x[3] - 2),
          (x[1] - x[3]) / std::sqrt(10.0)};
}

Residuals kowalik_osborne(const TracedPoint& x) {
  const double y[] = {0.1957, 0.1947, 0.1735, 0.1600, 0.0844, 0.0627, 0.0456, 0.0342, 0.0323, 0.0235, 0.0246};
  const double u[] = {4, 2, 1, 0.5, 0.25, 0.167, 0.125, 0.1, 0.0833, 0.0714, 0.0625};
  Residuals r;
  for (int i = 0; i < 11; ++i)
    r.push_back(y[i] - x[0] * (u[i] * u[i] + u[i] * x[1]) / (u[i] * u[i] + u[i] * x[2] + x[3]));
  return r;
}

Residuals brown_dennis(const TracedPoint& x) {
  Residuals r;
  for (int i = 1; i <= 20; ++i) {
    const double t = i / 5.0;
    r.push_back(pow(x[0] + t * x[1] - std::exp(t), 2) + pow(x[2] + x[3] * std::sin(t) - std::cos(t), 2));
  }
  return r;
}

Residuals osborne_1(const TracedPoint& x) {
  const double y[] = {0.844, 0.908, 0.932, 0.936, 0.925, 0.908, 0.881, 0.850, 0.818, 0.784, 0.751,
                      0.718, 0.685, 0.658, 0.628, 0.603, 0.580, 0.558, 0.538, 0.522, 0.506, 0.490,
                      0.478, 0.467, 0.457, 0.448, 0.438, 0.431, 0.424, 0.420, 0.414, 0.411, 0.406};
  Residuals r;
  for (int i = 0; i < 33; ++i) {
    const double t = 10.0 * i;
    r.push_back(y[i] - (x[0] + x[1] * exp(-t * x[3]) + x[2] * exp(-t * x[4])));
  }
  return r;
}

Residuals biggs_exp6(const TracedPoint& x) {
  Residuals r;
  for (int i = 1; i <= 13; ++i) {
    const double t = 0.1 * i, y = std::exp(-t) - 5 * std::exp(-10 * t) + 3 * std::exp(-4 * t);
    r.push_back(x[2] * exp(-t * x[0]) - x[3] * exp(-t * x[1]) + x[5] * exp(-t * x[4]) - y);
  }
  return r;
}

Residuals osborne_2(const TracedPoint& x) {
  const double y[] = {1.366, 1.191, 1.112, 1.013, 0.991, 0.885, 0.831, 0.847, 0.786, 0.725, 0.746, 0.679, 0.608,
                      0.655, 0.616, 0.606, 0.602, 0.626, 0.651, 0.724, 0.649, 0.649, 0.694, 0.644, 0.624, 0.661,
                      0.612, 0.558, 0.533, 0.495, 0.500, 0.423, 0.395, 0.375, 0.372, 0.391, 0.396, 0.405, 0.428,
                      0.429, 0.523, 0.562, 0.607, 0.653, 0.672, 0.708, 0.633, 0.668, 0.645, 0.632, 0.591, 0.559,
                      0.597, 0.625, 0.739, 0.710, 0.729, 0.720, 0.636, 0.581, 0.428, 0.292, 0.162, 0.098, 0.054};
  Residuals r;
  for (int i = 0; i < 65; ++i) {
    const double t = i / 10.0;
    r.push_back(y[i] - (x[0] * exp(-t * x[4]) + x[1] * exp(-pow(t - x[8], 2) * x[5]) +
                        x[2] * exp(-pow(t - x[9], 2) * x[6]) + x[3] * exp(-pow(t - x[10], 2) * x[7])));
  }
  return r;
}

} // namespace

std::vector<TestFunction> small_residual_functions() {
  using enum Trait;
  using residual_tables::problem;
  return {
      problem(2,
              {"freudenstein-roth", "a cubic pair: most starts end in the local minimum", {smooth, multimodal, valley}},
              2, freudenstein_roth, from({0.5, -2}), box({-20, -10}, {20, 10}),
              at({5, 4}, 0, {{Coordinates{11.41277900, -0.89680525}, 48.98425368}})),
      problem(3, {"powell-badly-scaled", "two variables of very different size", {smooth, valley, ill_conditioned}}, 2,
              powell_badly_scaled, from({0, 1}), box({-1, -1}, {10, 10}),
              at({1.0981593296998175e-05, 9.1061467398665241}, 0)),
      problem(4, {"brown-badly-scaled", "a million beside a millionth", {smooth, ill_conditioned}}, 2,
              brown_badly_scaled, from({1, 1}), box({0, -1}, {2e6, 1}), at({1e6, 2e-6}, 0)),
      problem(5, {"beale", "a flat valley with steep corners", {smooth, valley}}, 2, beale, from({1, 1}),
              box({-4.5, -4.5}, {4.5, 4.5}), at({3, 0.5}, 0)),
      problem(6, {"jennrich-sampson", "ten sums of exponentials that no pair fits", {smooth, valley, ill_conditioned}},
              2, jennrich_sampson, from({0.3, 0.4}), box({-1, -1}, {1, 1}),
              at({0.2578252136703641, 0.2578252136703641}, 124.3621823556148)),
      problem(7, {"helical-valley", "a valley that winds like a screw", {valley, non_differentiable}}, 3,
              helical_valley, from({-1, 0, 0}), box({-2, -2, -2}, {2, 2, 2}), at({1, 0, 0}, 0)),
      problem(8, {"bard", "fifteen measurements, three parameters", {smooth}}, 3, bard, from({1, 1, 1}),
              box({-1, 0.1, 0.1}, {2, 3, 3}),
              at({0.08241055974978892, 1.1330360920297213, 2.3436951786425375}, 0.00821487730657896)),
      problem(9, {"gaussian-bell", "a bell curve through fifteen measurements", {smooth}}, 3, gaussian,
              from({0.4, 1, 0}), box({0, 0.1, -1}, {1, 3, 1}), at({0.3989561378, 1.0000190845, 0}, 1.127932770e-8)),
      problem(10, {"meyer", "a thermistor's resistance: a very narrow valley", {smooth, valley, ill_conditioned}}, 3,
              meyer, from({0.02, 4000, 250}), box({0, 3000, 200}, {0.1, 8000, 400}),
              at({0.0056096364709374317, 6181.3463462998398, 345.22363462458986}, 87.945855170702956)),
      problem(11, {"gulf-research", "a fit with a real exponent", {smooth, ill_conditioned, plateau}}, 3, gulf,
              from({5, 2.5, 0.15}), box({0.1, 0, 0.1}, {100, 25.6, 5}), at({50, 25, 1.5}, 0)),
      problem(12, {"box-exponentials", "exponentials that can change places", {smooth, multimodal, ill_conditioned}}, 3,
              box_three, from({0, 10, 20}), box({-2, -2, -10}, {20, 20, 30}),
              at({1, 10, 1}, 0, {{Coordinates{10, 1, -1}, 0}})),
      problem(13, {"powell-singular", "a Hessian that is singular at the minimum", {smooth, plateau, valley}}, 4,
              powell_singular, from({3, -1, 0, 1}), box({-4, -4, -4, -4}, {5, 5, 5, 5}), at({0, 0, 0, 0}, 0)),
      problem(14, {"wood", "two curved valleys tied together", {smooth, valley}}, 4, wood, from({-3, -1, -3, -1}),
              box({-10, -10, -10, -10}, {10, 10, 10, 10}), at({1, 1, 1, 1}, 0)),
      problem(15, {"kowalik-osborne", "an enzyme's rate over eleven measurements", {smooth, valley}}, 4,
              kowalik_osborne, from({0.25, 0.39, 0.415, 0.39}), box({0, 0, 0, 0}, {0.42, 0.42, 0.42, 0.42}),
              at({0.1928069346, 0.1912823287, 0.1230565069, 0.1360623307}, 3.075056039e-4)),
      problem(
          16, {"brown-dennis", "large residuals", {smooth}}, 4, brown_dennis, from({25, 5, -5, -1}),
          box({-100, -15, -20, -20}, {100, 25, 20, 20}),
          at({-11.594439904762165, 13.203630051207202, -0.4034394881768595, 0.23677877445573625}, 85822.20162635627)),
      problem(17, {"osborne-1", "two decays through 33 measurements", {smooth, ill_conditioned}}, 5, osborne_1,
              from({0.5, 1.5, -1, 0.01, 0.02}), box({0, 0, -3, 0, 0}, {3, 3, 0, 0.1, 0.1}),
              at({0.3754100521, 1.9358469127, -1.4646871366, 0.01286753464, 0.02212269966}, 5.464894697e-5)),
      problem(18, {"biggs-exponentials", "three exponentials to be found again", {smooth, multimodal, ill_conditioned}},
              6, biggs_exp6, from({1, 2, 1, 1, 1, 1}), box({0, 0, 0, 0, 0, 0}, {20, 20, 20, 20, 20, 20}),
              at({1, 10, 1, 5, 4, 3}, 0,
                 {{Coordinates{1.7114159938, 17.6831983097, 1.1631436599, 5.1865616036, 1.7114159938, 1.1631436599},
                   5.6556499255e-3}})),
      problem(19, {"osborne-2", "a decay and three bells through 65 measurements", {smooth, multimodal}}, 11, osborne_2,
              from({1.3, 0.65, 0.65, 0.7, 0.6, 3, 5, 7, 2, 4.5, 5.5}),
              box({0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0}, {3, 3, 3, 3, 3, 10, 10, 10, 5, 7, 7}),
              at({1.30997716, 0.431553795, 0.633661699, 0.599430532, 0.754183219, 0.904288598, 1.36581182, 4.82369882,
                  2.39868486, 4.56887460, 5.67534147},
                 4.013773629e-2)),
  };
}

} // namespace tanzen::testbed
