#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <functional>
#include <vector>

using namespace tanzen;

namespace {

/// One coordinate of x^2 + 10 y^2 - x y, by the gradient alone: what a member's paper does to it, written out again.
struct Averages {
  double m = 0, v = 0, w = 0, t = 0;
};
using Paper = std::function<double(Averages&, double g)>; ///< the change of the coordinate

double mix(double rate, double old, double fresh) {
  return rate * old + (1 - rate) * fresh;
}

struct Member {
  const char* name;
  Paper paper;
};

const double b1 = 0.9, b2 = 0.999, eps = 1e-8, a = 0.01;

const std::vector<Member> adaptive_members{
    {"adagrad",
     [](Averages& s, double g) {
       s.v += g * g;
       return -0.1 / (std::sqrt(s.v) + eps) * g;
     }},
    {"adadelta",
     [](Averages& s, double g) {
       s.v = mix(0.95, s.v, g * g);
       const double move = -std::sqrt(s.w + 1e-6) / std::sqrt(s.v + 1e-6) * g;
       s.w = mix(0.95, s.w, move * move);
       return move;
     }},
    {"rmsprop",
     [](Averages& s, double g) {
       s.v = mix(0.9, s.v, g * g);
       return -a * g / (std::sqrt(s.v) + eps);
     }},
    {"adam",
     [](Averages& s, double g) {
       ++s.t;
       s.m = mix(b1, s.m, g);
       s.v = mix(b2, s.v, g * g);
       const double m = s.m / (1 - std::pow(b1, s.t)), v = s.v / (1 - std::pow(b2, s.t));
       return -a * m / (std::sqrt(v) + eps);
     }},
    {"amsgrad",
     [](Averages& s, double g) {
       s.m = mix(b1, s.m, g);
       s.v = mix(b2, s.v, g * g);
       s.w = std::max(s.w, s.v);
       return -a * s.m / (std::sqrt(s.w) + eps);
     }},
    {"adamax",
     [](Averages& s, double g) {
       ++s.t;
       s.m = mix(b1, s.m, g);
       s.v = std::max(b2 * s.v, std::abs(g));
       return -a / (1 - std::pow(b1, s.t)) * s.m / s.v;
     }},
    {"nadam",
     [](Averages& s, double g) {
       ++s.t;
       s.m = mix(b1, s.m, g);
       s.v = mix(b2, s.v, g * g);
       const double m = b1 * s.m / (1 - std::pow(b1, s.t + 1)) + (1 - b1) * g / (1 - std::pow(b1, s.t));
       const double v = b2 * s.v / (1 - std::pow(b2, s.t));
       return -a * m / (std::sqrt(v) + eps);
     }},
    {"yogi",
     [](Averages& s, double g) {
       s.m = mix(b1, s.m, g);
       const double side = s.v > g * g ? 1 : s.v < g * g ? -1 : 0;
       s.v -= (1 - b2) * side * g * g;
       return -a * s.m / (std::sqrt(s.v) + 1e-3);
     }},
    {"radam",
     [](Averages& s, double g) {
       ++s.t;
       s.m = mix(b1, s.m, g);
       s.v = mix(b2, s.v, g * g);
       const double m = s.m / (1 - std::pow(b1, s.t)), power = std::pow(b2, s.t);
       const double most = 2 / (1 - b2) - 1, length = most - 2 * s.t * power / (1 - power);
       if (length <= 4) return -a * m;
       const double r = std::sqrt((length - 4) * (length - 2) * most / ((most - 4) * (most - 2) * length));
       return -a * r * m / (std::sqrt(s.v / (1 - power)) + eps);
     }},
    {"adabelief",
     [](Averages& s, double g) {
       ++s.t;
       s.m = mix(b1, s.m, g);
       s.v = mix(b2, s.v, (g - s.m) * (g - s.m)) + eps;
       const double m = s.m / (1 - std::pow(b1, s.t)), v = s.v / (1 - std::pow(b2, s.t));
       return -a * m / (std::sqrt(v) + eps);
     }},
};

const Problem bowl = Problem::from_formula("x^2 + 10*y^2 - x*y");

/// Computed by hand on x^2 from x = 3, where the gradient is 2 x, to nine digits.
constexpr double adam_by_hand[] = {2.99, 2.98000089, 2.97000325};

} // namespace

TEST_SUITE("the adaptive family") {
  TEST_CASE("each member's first iterations are those of its paper, to the last digits") {
    for (const Member& member : adaptive_members) {
      CAPTURE(member.name);
      // Past the sixth iteration the rectified member leaves its first phase.
      const Outcome outcome = run(bowl, method(member.name),
                                  {.start = Coordinates{3, -2},
                                   .stop = {.iterations = 8, .gradient_tolerance = {}},
                                   .trace = {.points = true}});
      Vector x{{3, -2}};
      Averages first, second;
      for (std::size_t k = 1; k <= 8; ++k) {
        const Vector g = bowl.gradient(x);
        x += Vector{{member.paper(first, g[0]), member.paper(second, g[1])}};
        CHECK((outcome.trace.point(k) - x).norm() <= 1e-14 * x.norm());
      }
    }
  }

  TEST_CASE("the adaptive moments on a parabola go where a pocket calculator says") {
    const Outcome outcome = run(Problem::from_formula("x^2"), method("adam"),
                                {.start = Coordinates{3}, .stop = {.iterations = 3}, .trace = {.points = true}});
    // m1/(1-b1) = 6 and v1/(1-b2) = 36, so the first step is 0.01 * 6 / (6 + 1e-8).
    CHECK(outcome.trace.point(1)[0] == doctest::Approx(3 - 0.01 * 6 / (6 + 1e-8)).epsilon(1e-15));
    for (std::size_t k = 1; k <= 3; ++k)
      CHECK(outcome.trace.point(k)[0] == doctest::Approx(adam_by_hand[k - 1]).epsilon(1e-7));
  }

  TEST_CASE("no two members take the same path") {
    std::vector<Vector> ends;
    for (const Member& member : adaptive_members) {
      ends.push_back(
          run(bowl, method(member.name, {{"step", 0.05}}), {.start = Coordinates{3, -2}, .stop = {.iterations = 12}})
              .last_point);
    }
    for (std::size_t i = 0; i < ends.size(); ++i) {
      for (std::size_t j = 0; j < i; ++j) CHECK((ends[i] - ends[j]).norm() > 1e-6);
    }
  }

  TEST_CASE("a decaying step settles where a constant one ripples") {
    const RunOptions options{.start = Coordinates{3, -2}, .stop = {.iterations = 3000, .gradient_tolerance = {}}};
    const auto ends = [&](const SettingValues& settings) {
      return run(bowl, method("rmsprop", settings), options).last_value;
    };
    CHECK(ends({{"step", 0.05}, {"schedule", "inverse"}, {"decay", 0.02}}) < 0.1 * ends({{"step", 0.05}}));
  }

  TEST_CASE("each goes down to a minimum on its bound") {
    for (const Member& member : adaptive_members) {
      CAPTURE(member.name);
      const Outcome outcome =
          run(Problem::from_formula("(x - 3)^2 + y^2").bounds({-1, -1}, {1, 1}), method(member.name, {{"step", 0.3}}),
              {.start = Coordinates{0.5, 0.5}, .stop = {.iterations = 5000, .gradient_tolerance = {}}});
      CHECK(outcome.value == doctest::Approx(4).epsilon(1e-3));
      CHECK(outcome.violation == 0);
    }
  }
}
