#include "groups.hpp"
#include "numbers.hpp"
#include "tanzen/numeric/constants.hpp"

#include <cmath>
#include <fmt/format.h>

/// Problems with constraints and any number of variables.
namespace tanzen::testbed {
namespace {

/// The same two coordinates in every pair.
std::function<Vector(Index)> pairs_of(double first, double second) {
  return [=](Index n) {
    Vector point(n);
    for (Index i = 0; i < n; ++i) point[i] = i % 2 == 0 ? first : second;
    return point;
  };
}

/// One relation for each pair, `{0}` and `{1}` standing for the numbers of its variables.
std::function<std::vector<std::string>(Index)> for_each_pair(std::string relation) {
  return [relation = std::move(relation)](Index n) {
    std::vector<std::string> rows;
    for (Index i = 1; i < n; i += 2) rows.push_back(fmt::format(fmt::runtime(relation), i, i + 1));
    return rows;
  };
}

/// A minimum that is the only one known.
std::function<std::vector<KnownMinimum>(Index)> one_minimum(std::function<Vector(Index)> point,
                                                            std::function<double(Index)> value) {
  return [=](Index n) { return std::vector<KnownMinimum>{{point(n), value(n), true}}; };
}

double sum_of_inverses(Index n) {
  double sum = 0;
  for (Index i = n; i >= 1; --i) sum += 1 / number(i);
  return sum;
}

TestFunction function_of(std::string name, std::string title, std::string formula, std::string source) {
  return {.name = std::move(name),
          .title = std::move(title),
          .formula = std::move(formula),
          .source = std::move(source),
          .traits = {Trait::smooth, Trait::constrained},
          .dimensions = Dimensions::from(2, 10)};
}

TestFunction chained_valley() {
  TestFunction f =
      function_of("chained-valley-on-rows", "a curved valley along the rows of a trigonometric-exponential system",
                  "sum(i = 1..n-1, 100*(x[i]^2 - x[i+1])^2 + (x[i] - 1)^2)", "Luksan and Vlcek, 1999, problem 5.1");
  f.dimensions = Dimensions::from(3, 10);
  f.constraints = [](Index n) {
    std::vector<std::string> rows;
    for (Index k = 1; k + 2 <= n; ++k)
      rows.push_back(fmt::format("3*x[{1}]^3 + 2*x[{2}] - 5 + sin(x[{1}] - x[{2}])*sin(x[{1}] + x[{2}]) + 4*x[{1}] - "
                                 "x[{0}]*exp(x[{0}] - x[{1}]) - 3 = 0",
                                 k, k + 1, k + 2));
    return rows;
  };
  f.region = everywhere(-2, 2);
  f.start = pairs_of(-1.2, 1);
  f.minima = [](Index n) {
    std::vector<KnownMinimum> minima = at_constant(1, 0)(n);
    // Where local methods end from the standard start, whatever the number of variables; worked out for ten.
    if (n == 10)
      minima.push_back(
          {Vector{{-0.9505563573613093, 0.9139008176388945, 0.9890905176644905, 0.9985592422681152, 0.9998087408802769,
                   0.9999745932450962, 0.9999966246997651, 0.999999551252415, 0.999999944919149, 0.9999999300651202}},
           6.232458632437464, false});
    return minima;
  };
  return f;
}

TestFunction parabolas() {
  TestFunction f =
      function_of("paired-parabolas", "each pair of variables on a parabola", "sum(i = 1..n/2, (1 - x[2*i-1])^2)",
                  "Hock and Schittkowski, 1981, problem 6, once for each pair of variables");
  f.dimensions.multiple_of = 2;
  f.constraints = for_each_pair("10*(x[{1}] - x[{0}]^2) = 0");
  f.region = everywhere(-2, 2);
  f.start = pairs_of(-1.2, 1);
  f.minima = at_constant(1, 0);
  return f;
}

TestFunction parabola_limits() {
  TestFunction f = function_of("paired-parabola-limits", "each pair of variables above a parabola, and a bowl below it",
                               "sum(i = 1..n/2, (x[2*i-1] - 5)^2 + x[2*i]^2 - 25)",
                               "Hock and Schittkowski, 1981, problem 11, once for each pair of variables");
  f.dimensions.multiple_of = 2;
  f.constraints = for_each_pair("x[{0}]^2 <= x[{1}]");
  f.region = everywhere(-1, 6);
  f.start = pairs_of(4.9, 0.1);
  // On the parabola (u - 5)^2 + u^4 is least where 2 (u - 5) + 4 u^3 = 0.
  double u = 1.2;
  for (int k = 0; k < 20; ++k) u -= (2 * (u - 5) + 4 * u * u * u) / (2 + 12 * u * u);
  f.minima = one_minimum(pairs_of(u, u * u),
                         [u](Index n) { return number(n / 2) * ((u - 5) * (u - 5) + u * u * u * u - 25); });
  return f;
}

/// Cost-to-go weights P of x_{k+1} = x_k + u_k with the cost of x_k^2 + u_k^2: P_k = 1 + P_{k+1} / (1 + P_{k+1}).
std::vector<double> cost_to_go(Index steps) {
  std::vector<double> weights(static_cast<std::size_t>(steps) + 1, 1.0);
  for (std::size_t k = weights.size() - 1; k-- > 0;) weights[k] = 1 + weights[k + 1] / (1 + weights[k + 1]);
  return weights;
}

TestFunction regulator() {
  TestFunction f =
      function_of("linear-regulator", "a state steered to zero, states and inputs in turn", "1 + sum(i = 1..n, x[i]^2)",
                  "Bertsekas, 2005, section 4.1: linear system and quadratic cost, in discrete time");
  f.traits = {Trait::smooth, Trait::convex, Trait::constrained};
  f.dimensions.multiple_of = 2;
  f.constraints = [](Index n) {
    // In turn u_0, x_1, u_1, x_2, ..., from x_0 = 1.
    std::vector<std::string> rows{"x[2] = 1 + x[1]"};
    for (Index i = 3; i < n; i += 2) rows.push_back(fmt::format("x[{}] = x[{}] + x[{}]", i + 1, i - 1, i));
    return rows;
  };
  f.region = everywhere(-2, 2);
  f.start = [](Index n) { return Vector(Vector::Ones(n)); };
  const auto solution = [](Index n) {
    const std::vector<double> weights = cost_to_go(n / 2);
    Vector point(n);
    double state = 1;
    for (Index k = 0; k < n / 2; ++k) {
      const double next = weights[static_cast<std::size_t>(k) + 1];
      point[2 * k] = -next / (1 + next) * state;
      point[2 * k + 1] = state += point[2 * k];
    }
    return point;
  };
  f.minima = one_minimum(solution, [](Index n) { return cost_to_go(n / 2).front(); });
  return f;
}

TestFunction shares_of_squares() {
  TestFunction f = function_of("shares-of-squares", "shares of one whole, each at a cost that grows with its square",
                               "sum(i = 1..n, i*x[i]^2)", "Ibaraki and Katoh, 1988, section 2.1: resource allocation");
  f.traits = {Trait::smooth, Trait::convex, Trait::separable, Trait::constrained};
  f.constraints = [](Index) { return std::vector<std::string>{"sum(i = 1..n, x[i]) = 1"}; };
  f.region = everywhere(0, 1);
  f.region_is_bounds = true;
  f.start = [](Index n) { return Vector(Vector::Constant(n, 0.5)); };
  const auto shares = [](Index n) {
    Vector point(n);
    for (Index i = 0; i < n; ++i) point[i] = 1 / (number(i + 1) * sum_of_inverses(n));
    return point;
  };
  f.minima = one_minimum(shares, [](Index n) { return 1 / sum_of_inverses(n); });
  return f;
}

TestFunction plane_on_ellipsoid() {
  TestFunction f = function_of("plane-in-an-ellipsoid", "a plane whose lowest point in an ellipsoid is sought",
                               "sum(i = 1..n, x[i])", "Bertsekas, 1999, section 3.1: Lagrange's rule");
  f.traits = {Trait::smooth, Trait::convex, Trait::constrained};
  f.constraints = [](Index) { return std::vector<std::string>{"sum(i = 1..n, i*x[i]^2) <= 1"}; };
  f.region = everywhere(-1, 1);
  f.start = [](Index n) { return Vector(Vector::Constant(n, 0.5)); };
  const auto touched = [](Index n) {
    Vector point(n);
    for (Index i = 0; i < n; ++i) point[i] = -1 / (number(i + 1) * std::sqrt(sum_of_inverses(n)));
    return point;
  };
  f.minima = one_minimum(touched, [](Index n) { return -std::sqrt(sum_of_inverses(n)); });
  return f;
}

TestFunction entropy() {
  TestFunction f = function_of("least-informed", "the shares of largest entropy, of a given mean",
                               "sum(i = 1..n, x[i]*log(x[i]))", "Jaynes, 1957");
  f.traits = {Trait::smooth, Trait::convex, Trait::constrained};
  f.constraints = [](Index n) {
    return std::vector<std::string>{"sum(i = 1..n, x[i]) = 1",
                                    fmt::format("sum(i = 1..n, i*x[i]) = {}", 0.5 * number(n + 1))};
  };
  f.bounds = [](Index n) { return Box{Vector::Constant(n, 1e-12), Vector::Constant(n, infinity)}; };
  f.region = everywhere(0, 1);
  f.start = [](Index n) { return Vector(Vector::Constant(n, 0.5)); };
  f.minima = one_minimum([](Index n) { return Vector(Vector::Constant(n, 1 / number(n))); },
                         [](Index n) { return -std::log(number(n)); });
  return f;
}

} // namespace

std::vector<TestFunction> scalable_constrained_functions() {
  return {chained_valley(),    parabolas(),          parabola_limits(), regulator(),
          shares_of_squares(), plane_on_ellipsoid(), entropy()};
}

} // namespace tanzen::testbed
