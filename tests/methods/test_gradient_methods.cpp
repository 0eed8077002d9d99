#include "support/traces.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/methods/gradient/trust_region_step.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "support/allocations.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace tanzen;

namespace {

/// Whether the run came to a stated minimum: the letter of one, or `-`.
char reached(const Problem& problem, double value) {
  const auto is_near = [value](double minimum) {
    return std::abs(value - minimum) <= (minimum == 0 ? 1e-10 : 1e-6 * std::abs(minimum));
  };
  if (problem.best_known() && is_near(*problem.best_known())) return 'g';
  for (const KnownMinimum& minimum : problem.known_minima()) {
    if (is_near(minimum.value)) return minimum.global ? 'g' : 'l';
  }
  return '-';
}

std::vector<std::string> standard_set() {
  std::vector<std::string> names;
  for (const auto& function : testbed::all()) {
    if (function.source.find("Garbow and Hillstrom, 1981") != std::string::npos) names.push_back(function.name);
  }
  return names;
}

} // namespace

TEST_SUITE("gradient methods") {
  TEST_CASE("the set of 1981 is solved from its standard starts") {
    const std::vector<std::string> names = standard_set();
    REQUIRE(names.size() == 35);
    const std::pair<const char*, int> allowed[] = {
        {"bfgs", 2}, {"newton-trust-region", 2}, {"lbfgs", 4}, {"truncated-newton", 4}, {"conjugate-gradient", 6}};
    for (const auto& [name, failures] : allowed) {
      CAPTURE(name);
      std::string missed;
      int missed_count = 0;
      for (const std::string& each : names) {
        const Problem problem = testbed::problem(each);
        const Outcome outcome =
            run(problem, method(name), {.stop = {.evaluations = 20'000, .gradient_tolerance = 1e-12}});
        if (reached(problem, outcome.value) != '-') continue;
        missed += " " + each;
        ++missed_count;
      }
      CAPTURE(missed);
      CHECK(missed_count <= failures);
    }
  }

  TEST_CASE("the curved valley costs no more than it should") {
    const Problem valley = testbed::problem("rosenbrock", 2);
    const RunOptions options{.start = Coordinates{-1.2, 1}, .stop = {.gradient_tolerance = 1e-8}};
    const auto solved = [&](const char* name, std::int64_t iterations, std::int64_t evaluations) {
      CAPTURE(name);
      const Outcome outcome = run(valley, method(name), options);
      CHECK(outcome.status == Status::gradient);
      CHECK(outcome.value < 1e-14);
      CHECK(outcome.iterations <= iterations);
      CHECK(outcome.counts[Spent::evaluations] <= evaluations);
    };
    solved("bfgs", 45, 60);
    solved("lbfgs", 45, 60);
    solved("newton", 25, 35);
    solved("newton-trust-region", 35, 36);
    solved("sr1", 70, 70);
    solved("conjugate-gradient", 50, 105);
    solved("lbfgs-bounded", 45, 70);
  }

  TEST_CASE("conjugate gradients with exact steps end on a quadratic in as many iterations as it has variables") {
    const Index n = 8;
    const Problem bowl = testbed::problem("ellipsoid", n, {{"condition", 100}, {"rotate", 3}});
    for (const char* formula : {"fletcher-reeves", "polak-ribiere", "hestenes-stiefel", "dai-yuan", "hager-zhang"}) {
      CAPTURE(formula);
      const Outcome outcome = run(bowl, method("conjugate-gradient", {{"formula", formula}, {"line", "exact"}}),
                                  testing::exactly(n, Vector(Vector::Constant(n, 2))));
      CHECK(outcome.last_value <= 1e-10 * outcome.start_value);
    }
  }

  TEST_CASE("Newton's method ends on a quadratic in one iteration, and quasi-Newton ones soon after n") {
    const Problem bowl = testbed::problem("ellipsoid", 4, {{"condition", 50}, {"rotate", 1}});
    const Coordinates start{2, -1, 3, 1};
    CHECK(run(bowl, method("newton"), testing::exactly(1, start)).last_value < 1e-20);
    for (const char* name : {"bfgs", "dfp", "lbfgs", "sr1"}) {
      CAPTURE(name);
      CHECK(run(bowl, method(name), testing::exactly(16, start)).last_value < 1e-8);
    }
  }

  TEST_CASE("Newton's path is carried along by a linear change of variables") {
    const Matrix turned = Matrix{{2, 1}, {-0.5, 3}};
    const Problem valley = testbed::problem("rosenbrock", 2);
    const Problem changed = Problem::from_function(2, [&](const auto& x) {
      const auto a = turned(0, 0) * x[0] + turned(0, 1) * x[1], b = turned(1, 0) * x[0] + turned(1, 1) * x[1];
      return 100 * pow(b - a * a, 2) + pow(1 - a, 2);
    });
    const Vector start{{1.2, 1}};
    const Vector changed_start = least_squares(turned, start);
    // The unmodified steps, where the Hessian is positive definite all along.
    const Outcome plain = run(valley, method("newton"), testing::exactly(6, start));
    const Outcome moved = run(changed, method("newton"), testing::exactly(6, changed_start));
    for (std::size_t k = 1; k <= 6; ++k) REQUIRE(plain.trace.column("shift")[k] == 0);
    for (std::size_t k = 0; k <= 6; ++k) {
      CHECK((turned * moved.trace.point(k) - plain.trace.point(k)).norm() <= 1e-8 * (1 + plain.trace.point(k).norm()));
    }
  }

  TEST_CASE("BFGS takes the same path on a shifted, turned and stretched bowl but for its first step's length") {
    // Rotation leaves the first step alone, so here the whole path is carried along.
    const Problem plain = testbed::problem("ellipsoid", 3, {{"condition", 20}});
    const Problem turned = testbed::problem("ellipsoid", 3, {{"condition", 20}, {"rotate", 5}});
    const Vector start{{1, -2, 0.5}};
    const Outcome a = run(plain, method("bfgs"), testing::exactly(8, start));
    const Problem rotation = testbed::problem("sphere", 3, {{"rotate", 5}});
    SymmetricEigen axes(3), flat(3);
    axes.compute(turned.hessian({0, 0, 0}));
    flat.compute(plain.hessian({0, 0, 0}));
    // The columns of both sets of axes belong together by their curvature, up to a sign that the bowl does not see.
    const Vector turned_start = axes.vectors() * flat.vectors().transpose() * start;
    const Outcome b = run(turned, method("bfgs"), testing::exactly(8, turned_start));
    for (std::size_t k = 0; k <= 8; ++k) {
      CHECK(b.trace.at(k, Trace::value) == doctest::Approx(a.trace.at(k, Trace::value)).epsilon(1e-6));
    }
  }

  TEST_CASE("momentum at its best contracts a quadratic by (root k - 1) / (root k + 1)") {
    const double k = 100;
    const Problem bowl = Problem::from_formula("(x^2 + 100*y^2)/2");
    const double root = std::sqrt(k);
    const double step = 4 / std::pow(1 + root, 2), momentum = std::pow((root - 1) / (root + 1), 2);
    const Outcome outcome =
        run(bowl, method("momentum", {{"step", step}, {"momentum", momentum}}), testing::exactly(200, {1, 1}));
    const double last = outcome.last_point.norm(), before = outcome.trace.point(150).norm();
    CHECK(std::pow(last / before, 1.0 / 50) == doctest::Approx((root - 1) / (root + 1)).epsilon(0.03));
  }

  TEST_CASE("accelerated descent keeps Nesterov's bound: 2 L |x0 - x*|^2 / (k + 1)^2") {
    const Problem bowl = testbed::problem("ellipsoid", 20, {{"condition", 1e4}});
    const double largest = symmetric_eigenvalues(bowl.hessian(Vector(Vector::Zero(20))))[19];
    const Vector start = Vector::Constant(20, 1);
    for (const bool restart : {false, true}) {
      const Outcome outcome =
          run(bowl, method("nesterov", {{"step", 1 / largest}, {"restart", restart}}), testing::exactly(300, start));
      for (std::size_t k = 1; k < outcome.trace.rows(); ++k) {
        const double bound = 2 * largest * start.squaredNorm() / std::pow(static_cast<double>(k) + 1, 2);
        CHECK(outcome.trace.at(k, Trace::value) <= bound);
      }
    }
  }

  TEST_CASE("a two-point step is the curvature of the last step") {
    const Problem bowl = Problem::from_formula("x^2 + 10*y^2");
    for (const bool is_long : {true, false}) {
      const Outcome outcome =
          run(bowl,
              method("gradient-descent",
                     {{"rule", is_long ? "barzilai-borwein-long" : "barzilai-borwein-short"}, {"step", 0.01}}),
              testing::exactly(6, {3, 1}));
      const auto steps = outcome.trace.column("step");
      for (std::size_t k = 2; k <= 6; ++k) {
        const Vector s = outcome.trace.point(k - 1) - outcome.trace.point(k - 2);
        const Vector y = bowl.hessian({0, 0}) * s;
        CHECK(steps[k] == doctest::Approx(is_long ? s.squaredNorm() / s.dot(y) : s.dot(y) / y.squaredNorm()));
      }
    }
  }

  TEST_CASE("Polyak's step needs the best value and goes to it") {
    const Problem bowl = Problem::from_formula("x^2 + 4*y^2 + 7");
    CHECK_THROWS_WITH_AS((void)run(bowl, method("gradient-descent", {{"rule", "polyak"}})),
                         doctest::Contains("the polyak rule needs the best value"), ProblemError);
    const Outcome outcome =
        run(bowl, method("gradient-descent", {{"rule", "polyak"}, {"best", 7}}), {.start = Coordinates{3, 1}});
    CHECK(outcome.converged());
    CHECK(outcome.value == doctest::Approx(7));
    const Problem hill = Problem::from_formula("7 - x^2 - 4*y^2").maximized().known_minimum({0, 0}, 7);
    CHECK(run(hill, method("gradient-descent", {{"rule", "polyak"}}), {.start = Coordinates{3, 1}}).value ==
          doctest::Approx(7));
  }

  TEST_CASE("coordinate descent solves a separable function in one sweep") {
    const Problem separable = Problem::from_formula("(x - 1)^4 + exp(y) - y + (z + 2)^2");
    CHECK(run(separable, method("coordinate-descent"), testing::exactly(1, {3, 2, 1})).last_value ==
          doctest::Approx(1).epsilon(1e-9));
    const Outcome greedy =
        run(separable, method("coordinate-descent", {{"order", "greedy"}}), testing::exactly(3, {3, 2, 1}));
    CHECK(greedy.last_value == doctest::Approx(1).epsilon(1e-9));
  }

  TEST_CASE("limited memory within bounds finds what limited memory finds without, and minima on bounds") {
    const Problem valley = testbed::problem("rosenbrock", 20);
    CHECK(run(valley, method("lbfgs-bounded"), {}).value < 1e-12);
    const Problem fenced = testbed::problem("rosenbrock", 2).bounds({-5, -5}, {0.5, 5});
    const Outcome outcome = run(fenced, method("lbfgs-bounded"), {.start = Coordinates{-1.2, 1}});
    CHECK(outcome.status == Status::gradient);
    CHECK(outcome.point[0] == 0.5);
    CHECK(outcome.point[1] == doctest::Approx(0.25));
    CHECK(outcome.counts[Spent::evaluations] < 60);
  }

  TEST_CASE("limited memory keeps to 2 m + 8 vectors") {
    const Index n = 400'000, memory = 5; // the run's own table of iterations is a quarter of a vector here
    const Problem valley = testbed::problem("rosenbrock-pairs", n);
    const testing::AllocationWatch watch;
    const auto worker = valley.objective().worker();
    const std::int64_t of_worker = watch.live_bytes(); // the run has one of its own
    const Outcome outcome = run(valley, method("lbfgs", {{"memory", memory}}), {.stop = {.iterations = 12}});
    const std::int64_t used = watch.peak_bytes() - 2 * of_worker;
    CHECK(static_cast<double>(used) / (8.0 * static_cast<double>(n)) <= 2 * memory + 8);
    CHECK(outcome.value < outcome.start_value);
  }

  TEST_CASE("second derivatives of an opaque function come from differences of gradients") {
    const Problem opaque = Problem::black_box(
        2, [](const Vector& x) { return 100 * std::pow(x[1] - x[0] * x[0], 2) + std::pow(1 - x[0], 2); });
    for (const char* name : {"newton", "newton-trust-region", "truncated-newton"}) {
      CAPTURE(name);
      const Outcome outcome =
          run(opaque, method(name),
              {.start = Coordinates{-1.2, 1}, .stop = {.evaluations = 5000, .gradient_tolerance = 1e-5}});
      CHECK(outcome.value < 1e-8);
      CHECK(outcome.counts[Spent::hessians] == 0);
    }
  }

  TEST_CASE("Newton's methods leave a saddle that has slope along its valley") {
    const Problem saddle = Problem::from_formula("x^2 - y^2 + y^4/4");
    for (const char* subproblem : {"nearly-exact", "conjugate-gradients"}) {
      const Outcome outcome =
          run(saddle, method("newton-trust-region", {{"subproblem", subproblem}}), {.start = Coordinates{1, 1e-3}});
      CHECK(outcome.value == doctest::Approx(-1));
    }
    // On the ridge itself the slope vanishes along it: only the model's curvature shows the way down.
    const Outcome ridge = run(saddle, method("newton-trust-region"), {.start = Coordinates{1, 0}});
    CHECK(ridge.value == doctest::Approx(-1));
  }
}

TEST_SUITE("kinks") {
  TEST_CASE("sampled gradients find minima at kinks, from twenty starts") {
    // The second is that of Burke, Lewis and Overton, 2005, section 4; the third of Charalambous and Conn.
    for (const char* formula : {"max(abs(x), 3*abs(y - 1))", "8*abs(x^2 - y) + (1 - x)^2",
                                "max(x^2 + y^4, (2 - x)^2 + (2 - y)^2, 2*exp(y - x))"}) {
      CAPTURE(std::string(formula));
      const double best = std::string_view(formula).starts_with("max(x^2") ? 1.9522244939 : 0;
      for (std::uint64_t repeat = 0; repeat < 20; ++repeat) {
        const Problem problem = Problem::from_formula(formula).region({-2, -2}, {2, 2});
        const Outcome outcome =
            run(problem, method("gradient-sampling"), {.repeat = repeat, .stop = {.evaluations = 20'000}});
        CHECK(outcome.value <= best + 1e-4);
        CHECK(outcome.value >= best - 1e-9);
        CHECK(outcome.counts[Spent::gradients] % 5 == 0); // the point and 2 n around it
      }
    }
  }

  TEST_CASE(
      "the bundle method comes to minima at kinks and creases to all digits, for few values, from twenty starts") {
    struct Row {
      const char* formula;
      double best;
      std::int64_t median;
    };
    // The last one is a crease that bends from variable to variable.
    for (const Row& row : {Row{"max(abs(x), 3*abs(y - 1))", 0, 80}, Row{"8*abs(x^2 - y) + (1 - x)^2", 0, 350},
                           Row{"max(x^2 + y^4, (2 - x)^2 + (2 - y)^2, 2*exp(y - x))", 1.95222449387, 150},
                           Row{"abs(a - 1) + 5*abs(b - a^2) + 5*abs(c - b^2) + 5*abs(d - c^2)", 0, 1000}}) {
      CAPTURE(std::string(row.formula));
      const Problem formula = Problem::from_formula(row.formula);
      const Problem problem = formula.region(Vector(Vector::Constant(formula.dimension(), -2)),
                                             Vector(Vector::Constant(formula.dimension(), 2)));
      std::vector<std::int64_t> spent;
      for (std::uint64_t repeat = 0; repeat < 20; ++repeat) {
        const Outcome outcome = run(problem, method("bundle"), {.repeat = repeat, .stop = {.evaluations = 20'000}});
        CHECK(outcome.value == doctest::Approx(row.best).epsilon(1e-9));
        spent.push_back(outcome.counts[Spent::evaluations]);
      }
      std::ranges::nth_element(spent, spent.begin() + 10);
      CHECK(spent[10] <= row.median);
    }
  }

  TEST_CASE("of smooth functions it is a quasi-Newton method, and in fifty variables it needs no matrix") {
    const Outcome smooth =
        run(testbed::problem("rosenbrock", 10), method("bundle"), {.stop = {.evaluations = 2000, .gap = 1e-8}});
    CHECK(smooth.status == Status::target);
    const Outcome cube =
        run(testbed::problem("largest-coordinate", 50), method("bundle"), {.stop = {.evaluations = 5000, .gap = 1e-6}});
    CHECK(cube.status == Status::target);
  }

  TEST_CASE("in ten variables they come to the corner of a cube, where quasi-Newton methods stay on a face") {
    const Problem cube = testbed::problem("largest-coordinate", 10);
    int sampled = 0, quasi_newton = 0;
    for (std::uint64_t repeat = 0; repeat < 10; ++repeat) {
      const RunOptions options{.repeat = repeat, .stop = {.evaluations = 20'000, .gap = 1e-4}};
      sampled += run(cube, method("gradient-sampling"), options).status == Status::target ? 1 : 0;
      quasi_newton += run(cube, method("lbfgs"), options).status == Status::target ? 1 : 0;
    }
    CHECK(sampled == 10);
    CHECK(quasi_newton < 10);
  }
}

TEST_SUITE("trust regions") {
  TEST_CASE("the nearly exact step fulfils the conditions of Moré and Sorensen for any curvature") {
    RandomStream random(5, {"trust"});
    for (int k = 0; k < 200; ++k) {
      const Index n = 1 + k % 6;
      Matrix hessian(n, n);
      Vector g(n);
      for (double& entry : hessian.reshaped()) entry = random.uniform(-1, 1);
      for (double& entry : g) entry = random.uniform(-1, 1);
      symmetrize(hessian);
      const double radius = random.uniform(0.01, 3);
      methods::NearlyExactStep solver(n);
      solver.prepare(hessian);
      Vector step;
      const auto model = solver.find(g, radius, step);
      CHECK(step.norm() <= radius * (1 + 1e-9));
      // (H + shift I) step = -g with shift >= 0 only on the edge, and H + shift I not indefinite.
      const double shift = -step.dot(hessian * step + g) / step.squaredNorm();
      CHECK((hessian * step + shift * step + g).norm() <= 1e-7 * (1 + g.norm()));
      CHECK(shift >= -1e-8);
      if (step.norm() < 0.999 * radius) CHECK(std::abs(shift) <= 1e-8);
      CHECK(symmetric_eigenvalues(hessian)[0] + shift >= -1e-7);
      CHECK(model.predicted == doctest::Approx(-(g.dot(step) + 0.5 * step.dot(hessian * step))).epsilon(1e-9));
    }
  }

  TEST_CASE("in the hard case the step goes to the edge along the least curvature") {
    const Matrix hessian = Vector{{-2, 1, 3}}.asDiagonal();
    const Vector g{{0, 1, 1}};
    methods::NearlyExactStep solver(3);
    solver.prepare(hessian);
    Vector step;
    const auto model = solver.find(g, 5, step);
    CHECK(model.on_edge);
    CHECK(step.norm() == doctest::Approx(5).epsilon(1e-9));
    CHECK(step[1] == doctest::Approx(-1.0 / 3));
    CHECK(step[2] == doctest::Approx(-1.0 / 5));
    // No gradient at all: the way down is the least curvature's alone.
    const auto flat = solver.find(Vector::Zero(3), 1, step);
    CHECK(std::abs(step[0]) == doctest::Approx(1));
    CHECK(flat.predicted == doctest::Approx(1));
  }

  TEST_CASE("a dogleg never predicts more than the exact step, nor less than steepest descent") {
    RandomStream random(6, {"dogleg"});
    for (int k = 0; k < 100; ++k) {
      Matrix root(3, 3);
      Vector g(3);
      for (double& entry : root.reshaped()) entry = random.uniform(-1, 1);
      for (double& entry : g) entry = random.uniform(-1, 1);
      const Matrix hessian = root * root.transpose() + 0.1 * Matrix::Identity(3, 3);
      const double radius = random.uniform(0.05, 4);
      methods::DoglegStep dogleg(3);
      methods::NearlyExactStep exact(3);
      methods::TruncatedStep truncated(3);
      exact.prepare(hessian);
      Vector step, other;
      const auto bent = dogleg.find(hessian, g, radius, step);
      CHECK(step.norm() <= radius * (1 + 1e-9));
      const double most = exact.find(g, radius, other).predicted;
      CHECK(bent.predicted <= most * (1 + 1e-9));
      const double along = std::min(g.squaredNorm() / g.dot(hessian * g), radius / g.norm());
      const double cauchy = along * g.squaredNorm() - 0.5 * along * along * g.dot(hessian * g);
      CHECK(bent.predicted >= cauchy * (1 - 1e-9));
      const auto times = [&](const Vector& direction, Vector& product) { product = hessian * direction; };
      const auto cg = truncated.find(times, g, radius, other);
      CHECK(cg.predicted >= cauchy * (1 - 1e-9));
      CHECK(cg.predicted == doctest::Approx(-(g.dot(other) + 0.5 * other.dot(hessian * other))).epsilon(1e-9));
    }
  }
}
