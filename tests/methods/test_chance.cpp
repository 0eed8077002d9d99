// What theory says of methods that draw lots, where the objective has no say.
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/numeric/constants.hpp"
#include "tanzen/search/run.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <vector>

using namespace tanzen;

namespace {

/// The generations of a method to which every new member is better than all before it, whatever it is; each a matrix
/// with a member a column.
std::vector<Matrix> drifting_generations(const Method& method, Index n, Index members, Index generations,
                                         double bound) {
  std::vector<Matrix> seen;
  Index next = members;
  double value = 0;
  const Problem falling = Problem::black_box(n, [&](const Vector&) { return value -= 1; })
                              .region(Vector(Vector::Zero(n)), Vector(Vector::Ones(n)))
                              .bounds(Vector(Vector::Constant(n, -bound)), Vector(Vector::Constant(n, bound)))
                              .observed([&](const Vector& x, double) {
                                if (next == members) {
                                  seen.emplace_back(n, members);
                                  next = 0;
                                }
                                seen.back().col(next++) = x;
                              });
  StopRules stop{.evaluations = members * (generations + 1)};
  stop.gradient_tolerance.reset();
  (void)run(falling, method, {.stop = stop});
  REQUIRE(static_cast<Index>(seen.size()) == generations + 1);
  return seen;
}

/// The variance of the members, in the mean over the coordinates.
double variance(const Matrix& points) {
  const Matrix centred = points.colwise() - points.rowwise().mean();
  return centred.squaredNorm() / static_cast<double>(points.cols() * points.rows());
}

/// By what the variance is multiplied in a generation, in the geometric mean over all of them.
double growth(const std::vector<Matrix>& generations) {
  const double whole = variance(generations.back()) / variance(generations.front());
  return std::pow(whole, 1 / static_cast<double>(generations.size() - 1));
}

} // namespace

TEST_SUITE("chance alone") {
  TEST_CASE("differential evolution spreads its members as Zaharie's theorem says") {
    // Zaharie, 2002, for rand/1/bin: 1 + 2 p F^2 - 2 p / m + p^2 / m, with p the chance of a mutant's coordinate.
    constexpr Index n = 20, members = 400, generations = 6;
    for (const auto& [f, crossover] : {std::pair{0.5, 0.9}, {0.3, 1.0}, {0.8, 0.2}, {0.1, 0.5}}) {
      CAPTURE(f);
      CAPTURE(crossover);
      const Method evolution = method(
          "differential-evolution",
          {{"population", static_cast<double>(members)}, {"weight", f}, {"dither", 0.0}, {"crossover", crossover}});
      const double p = crossover + (1 - crossover) / n; // one coordinate is always the mutant's
      const double theory = 1 + 2 * p * f * f - 2 * p / members + p * p / members;
      CHECK(growth(drifting_generations(evolution, n, members, generations, 1e6)) ==
            doctest::Approx(theory).epsilon(0.015));
    }
  }

  TEST_CASE("simulated binary crossover keeps the mean and widens the population by its index") {
    // Of Deb and Agrawal's spread b: E b^2 = (k + 1) / 2 (1 / (k + 3) + 1 / (k - 1)). Half of the coordinates cross,
    // and parents drawn anew each time lose 1 / m.
    constexpr Index n = 40, members = 400, generations = 5;
    for (const double index : {2.5, 4.0, 8.0}) {
      CAPTURE(index);
      const Method genetic = method("genetic", {{"population", static_cast<double>(members)},
                                                {"elite", 0.0},
                                                {"tournament", 1.0},
                                                {"crossover", 1.0},
                                                {"crossover-index", index},
                                                {"mutation", 0.0}});
      const auto seen = drifting_generations(genetic, n, members, generations, 1e6);
      const double squared = 0.5 * (index + 1) * (1 / (index + 3) + 1 / (index - 1));
      const double theory = (1 + 0.5 * (squared - 1) / 2) * (1 - 1.0 / members);
      CHECK(growth(seen) == doctest::Approx(theory).epsilon(0.012));
      // The mean of all coordinates wanders by its own deviation, and no further.
      const double deviation = std::sqrt(variance(seen.back()) * generations / (members * n));
      CHECK(std::abs(seen.back().mean() - seen.front().mean()) < 4 * deviation);
    }
  }

  TEST_CASE("polynomial mutation adds the variance of its index") {
    // The change d, in parts of twice the region's width: E d^2 = 1 - 2 (k + 1) / (k + 2) + (k + 1) / (k + 3).
    constexpr Index n = 40, members = 400, generations = 5;
    for (const double index : {10.0, 20.0, 50.0}) {
      CAPTURE(index);
      const Method genetic = method("genetic", {{"population", static_cast<double>(members)},
                                                {"elite", 0.0},
                                                {"tournament", 1.0},
                                                {"crossover", 0.0},
                                                {"mutation", 1.0},
                                                {"mutation-index", index}});
      const auto seen = drifting_generations(genetic, n, members, generations, infinity);
      const double squared = 1 - 2 * (index + 1) / (index + 2) + (index + 1) / (index + 3);
      const double added = (variance(seen.back()) - variance(seen.front())) / generations;
      // Drawing parents anew loses 1 / m of what there is.
      const double lost = (variance(seen.back()) + variance(seen.front())) / 2 / members;
      CHECK(added + lost == doctest::Approx(4 * squared).epsilon(0.1));
    }
  }

  TEST_CASE("covariance matrix adaptation does not drift in its step where selection is by lot") {
    // The path of the step has the length of a normal vector then, so the step's logarithm changes by nothing in the
    // mean (Hansen, 2016, section 4).
    std::vector<double> changes;
    for (std::uint64_t seed = 1; seed <= 40; ++seed) {
      RandomStream lots(seed, {"lots"});
      const Problem lottery = Problem::black_box(8, [&](const Vector&) {
                                return lots.uniform();
                              }).region(Vector(Vector::Constant(8, -5)), Vector(Vector::Constant(8, 5)));
      const Outcome outcome = run(lottery, method("cma-es"), {.seed = seed, .stop = {.iterations = 40}});
      const auto sigma = outcome.trace.column("sigma");
      REQUIRE(sigma.size() == 41);
      changes.push_back(std::log(sigma.back() / sigma[1]));
    }
    double mean = 0, squares = 0;
    for (const double change : changes) mean += change / static_cast<double>(changes.size());
    for (const double change : changes) squares += std::pow(change - mean, 2) / static_cast<double>(changes.size() - 1);
    CHECK(std::abs(mean) < 3 * std::sqrt(squares / static_cast<double>(changes.size())));
    CHECK(std::sqrt(squares) < 1);
    CHECK(std::sqrt(squares) > 0.05); // it does move
  }

  TEST_CASE("annealing at one temperature visits points as Boltzmann's distribution says") {
    // Of x^2 + 4 y^2 at the temperature T the variances are T / 2 and T / 8 (Metropolis and others, 1953).
    constexpr double temperature = 0.5;
    const Problem bowl = Problem::from_formula("x^2 + 4*y^2").region({-4, -4}, {4, 4}).start({0.5, 0.5});
    const Method annealing = method("annealing", {{"temperature", temperature}, {"rounds", 8.0}, {"levels", 1.0}});
    constexpr int repeats = 600;
    double x_squared = 0, y_squared = 0, product = 0;
    for (int k = 1; k <= repeats; ++k) {
      const Outcome outcome = run(bowl, annealing, {.seed = static_cast<std::uint64_t>(k)});
      x_squared += std::pow(outcome.last_point[0], 2) / repeats;
      y_squared += std::pow(outcome.last_point[1], 2) / repeats;
      product += outcome.last_point.prod() / repeats;
    }
    // The deviation of a variance of 600 normal numbers is 6 %.
    CHECK(x_squared == doctest::Approx(temperature / 2).epsilon(0.18));
    CHECK(y_squared == doctest::Approx(temperature / 8).epsilon(0.18));
    CHECK(std::abs(product) < 3 * std::sqrt(x_squared * y_squared / repeats));
  }

  TEST_CASE("simultaneous perturbation falls in its steps and perturbations by Spall's exponents") {
    // On a line with one slope all estimates are that slope, so the steps are the gains alone.
    const Problem slope = Problem::from_formula("3*x").region(0, 1).start({0.5});
    StopRules stop{.iterations = 300};
    stop.gradient_tolerance.reset();
    const Outcome outcome =
        run(slope, method("spsa", {{"step", 0.02}, {"perturbation", 0.01}, {"steadying", 50.0}}), {.stop = stop});
    const auto steps = outcome.trace.column("step"), perturbations = outcome.trace.column("perturbation");
    for (const std::size_t k : {1U, 2U, 10U, 100U, 300U}) {
      CAPTURE(k);
      const auto before = static_cast<double>(k - 1);
      CHECK(steps[k] == doctest::Approx(0.02 * std::pow(51 / (51 + before), 0.602)));
      CHECK(perturbations[k] == doctest::Approx(0.01 / std::pow(1 + before, 0.101)));
    }
  }

  TEST_CASE("random search needs as many points as chance says") {
    // A part p of the region is good enough: after m points it was hit with the chance 1 - (1 - p)^m.
    const Problem corner = Problem::black_box(2, [](const Vector& x) { return x.maxCoeff() <= 0.1 ? 0.0 : 1.0; })
                               .region({0, 0}, {1, 1})
                               .start({1, 1});
    int hits = 0;
    constexpr int repeats = 500, points = 70;
    for (int k = 1; k <= repeats; ++k) {
      const Outcome outcome = run(corner, method("random-search"),
                                  {.seed = static_cast<std::uint64_t>(k), .stop = {.evaluations = points + 1}});
      hits += outcome.value == 0 ? 1 : 0;
    }
    const double chance = 1 - std::pow(0.99, points);
    CHECK(std::abs(hits - chance * repeats) < 3 * std::sqrt(repeats * chance * (1 - chance)));
  }
}
