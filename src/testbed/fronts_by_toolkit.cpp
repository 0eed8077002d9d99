#include "groups.hpp"
#include "numbers.hpp"
#include "toolkit_fronts.hpp"

#include "tanzen/base/errors.hpp"

#include <cmath>
#include <fmt/format.h>

/// The nine functions of Huband, Hingston, Barone and While (2006): variables are turned step by step into places on a
/// front and a distance from it.
namespace tanzen::testbed {
namespace {

using Values = std::vector<Expr>;

Index positions(Index m) {
  return 2 * (m - 1);
}

// Transformations of one value (table XI).

Expr flat(const Expr& y, double a, double b, double c) {
  return a + min(0, floor(y - b)) * a * (b - y) / b - min(0, floor(c - y)) * (1 - a) * (y - c) / (1 - c);
}

Expr leaning_on(const Expr& y, const Expr& other) {
  constexpr double a = 0.98 / 49.98, b = 0.02, c = 50;
  const Expr v = a - (1 - 2 * other) * abs(floor(0.5 - other) + a);
  return pow(y, b + (c - b) * v);
}

Expr shifted(const Expr& y) {
  constexpr double a = 0.35;
  return abs(y - a) / abs(floor(a - y) + a);
}

Expr deceptive(const Expr& y) {
  constexpr double a = 0.35, b = 0.001, c = 0.05;
  return 1 + (abs(y - a) - b) * (floor(y - a + b) * (1 - c + (a - b) / b) / (a - b) +
                                 floor(a + b - y) * (1 - c + (1 - a - b) / b) / (1 - a - b) + 1 / b);
}

Expr many_minima(const Expr& y, double a, double b, double c) {
  const Expr part = abs(y - c) / (2 * (floor(c - y) + c));
  return (1 + cos((4 * a + 2) * pi * (0.5 - part)) + 4 * b * pow(part, 2)) / (b + 2);
}

// Reductions of several values to one; `from` and `end` count from 0.

Expr weighted_mean(const Values& y, std::size_t from, std::size_t end, bool by_place) {
  Expr sum = 0;
  double weights = 0;
  for (std::size_t i = from; i < end; ++i) {
    const double weight = by_place ? 2 * static_cast<double>(i + 1) : 1;
    sum += weight * y[i];
    weights += weight;
  }
  return sum / weights;
}

Expr entangled(const Values& y, std::size_t from, std::size_t end, std::size_t a) {
  const std::size_t count = end - from;
  Expr sum = 0;
  for (std::size_t j = 0; j < count; ++j) {
    sum += y[from + j];
    for (std::size_t k = 0; k + 2 <= a; ++k) sum += abs(y[from + j] - y[from + (j + k + 1) % count]);
  }
  const double half = std::ceil(static_cast<double>(a) / 2);
  return sum /
         (static_cast<double>(count) / static_cast<double>(a) * half * (1 + 2 * static_cast<double>(a) - 2 * half));
}

/// What one function does with its variables in [0, 1]: `k` of them are for places.
struct Toolkit {
  std::size_t k;
  std::size_t m;

  template <class Change>
  [[nodiscard]] Values distances(Values y, const Change& change) const {
    for (std::size_t i = k; i < y.size(); ++i) y[i] = change(y[i]);
    return y;
  }
  template <class Change>
  [[nodiscard]] static Values all(Values y, const Change& change) {
    for (Expr& each : y) each = change(each);
    return y;
  }
  /// Each place from its share of the first k, the distance from the rest.
  template <class Reduce>
  [[nodiscard]] Values reduced(const Values& y, const Reduce& reduce) const {
    Values t;
    const std::size_t share = k / (m - 1);
    for (std::size_t i = 0; i + 1 < m; ++i) t.push_back(reduce(y, i * share, (i + 1) * share));
    t.push_back(reduce(y, k, y.size()));
    return t;
  }
  [[nodiscard]] Values means(const Values& y, bool by_place = false) const {
    return reduced(
        y, [&](const Values& v, std::size_t from, std::size_t end) { return weighted_mean(v, from, end, by_place); });
  }
  [[nodiscard]] Values entanglements(const Values& y) const {
    return reduced(
        y, [&](const Values& v, std::size_t from, std::size_t end) { return entangled(v, from, end, end - from); });
  }
  [[nodiscard]] Values in_pairs(Values y) const {
    Values t(y.begin(), y.begin() + static_cast<std::ptrdiff_t>(k));
    for (std::size_t i = k; i + 1 < y.size(); i += 2) t.push_back(entangled(y, i, i + 2, 2));
    return t;
  }
};

Values first_steps(const Toolkit& kit, Values y) {
  y = kit.distances(std::move(y), shifted);
  y = kit.distances(std::move(y), [](const Expr& v) { return flat(v, 0.8, 0.75, 0.85); });
  return kit.means(Toolkit::all(std::move(y), [](const Expr& v) { return pow(v, 0.02); }), true);
}
Values paired_steps(const Toolkit& kit, Values y) {
  return kit.means(kit.in_pairs(kit.distances(std::move(y), shifted)));
}
Values wavy_steps(const Toolkit& kit, Values y) {
  return kit.means(Toolkit::all(std::move(y), [](const Expr& v) { return many_minima(v, 30, 10, 0.35); }));
}
Values deceptive_steps(const Toolkit& kit, Values y) {
  return kit.means(Toolkit::all(std::move(y), deceptive));
}
Values entangled_steps(const Toolkit& kit, Values y) {
  return kit.entanglements(kit.distances(std::move(y), shifted));
}
Values places_leaning(const Toolkit& kit, const Values& y) {
  Values t = y;
  for (std::size_t i = 0; i < kit.k; ++i) t[i] = leaning_on(y[i], weighted_mean(y, i + 1, y.size(), false));
  return kit.means(kit.distances(std::move(t), shifted));
}
Values distances_leaning(const Toolkit& kit, const Values& y) {
  Values t = y;
  for (std::size_t i = kit.k; i < y.size(); ++i) t[i] = leaning_on(y[i], weighted_mean(y, 0, i, false));
  return kit.means(kit.distances(std::move(t), shifted));
}
Values last_steps(const Toolkit& kit, const Values& y) {
  Values t = y;
  for (std::size_t i = 0; i + 1 < y.size(); ++i) t[i] = leaning_on(y[i], weighted_mean(y, i + 1, y.size(), false));
  for (std::size_t i = 0; i < t.size(); ++i) t[i] = i < kit.k ? deceptive(t[i]) : many_minima(t[i], 30, 95, 0.35);
  return kit.entanglements(t);
}

/// One of the shapes of table X that are alike but for the last objective: products of `inner` and one `outer`.
Values product_shape(const Values& x, const std::function<Expr(const Expr&)>& inner,
                     const std::function<Expr(const Expr&)>& outer) {
  const std::size_t m = x.size();
  Values h;
  for (std::size_t j = 0; j < m; ++j) {
    Expr product = 1;
    for (std::size_t i = 0; i + 1 < m - j; ++i) product *= inner(x[i]);
    if (j > 0) product *= outer(x[m - 1 - j]);
    h.push_back(product);
  }
  return h;
}
Values linear_shape(const Values& x) {
  return product_shape(
      x, [](const Expr& t) { return t; }, [](const Expr& t) { return 1 - t; });
}
Values concave_shape(const Values& x) {
  return product_shape(
      x, [](const Expr& t) { return sin(t * (pi / 2)); }, [](const Expr& t) { return cos(t * (pi / 2)); });
}
Values convex_shape(const Values& x) {
  return product_shape(
      x, [](const Expr& t) { return 1 - cos(t * (pi / 2)); }, [](const Expr& t) { return 1 - sin(t * (pi / 2)); });
}
Values mixed_shape(const Values& x) {
  Values h = convex_shape(x);
  h.back() = 1 - x[0] - cos(10 * pi * x[0] + pi / 2) / (10 * pi);
  return h;
}
Values broken_shape(const Values& x) {
  Values h = convex_shape(x);
  h.back() = 1 - x[0] * pow(cos(5 * pi * x[0]), 2);
  return h;
}

struct ToolkitRow {
  const char* title;
  const char* formula;
  std::vector<Trait> traits;
  Values (*steps)(const Toolkit& kit, Values y);
  Values (*shape)(const Values& x);
  std::optional<KnownFront> (*front)(Index m);
  bool in_pairs = false;
};

template <Values (*steps)(const Toolkit&, const Values&)>
Values by_value(const Toolkit& kit, Values y) {
  return steps(kit, y);
}

std::vector<ToolkitRow> toolkit_rows() {
  return {
      {"flat places, a bias, a front of waves",
       "shift, flat stretch and bias 0.02 of the distances, weighted means; convex and mixed",
       {Trait::unimodal, Trait::plateau},
       first_steps,
       mixed_shape,
       mixed_front},
      {"entangled pairs, a front in pieces",
       "shift, pairs that are not separable, means; convex and disconnected",
       {Trait::multimodal},
       paired_steps,
       broken_shape,
       broken_front,
       true},
      {"entangled pairs, a linear front",
       "as wfg-2; linear, degenerate",
       {Trait::unimodal},
       paired_steps,
       linear_shape,
       line_front,
       true},
      {"many minima in each variable",
       "waves of 30 minima, means; concave",
       {Trait::multimodal, Trait::separable},
       wavy_steps,
       concave_shape,
       ellipsoid_front},
      {"deceptive in each variable",
       "deceptive minima, means; concave",
       {Trait::deceptive, Trait::multimodal, Trait::separable},
       deceptive_steps,
       concave_shape,
       ellipsoid_front},
      {"all entangled",
       "shift, reductions that are not separable; concave",
       {Trait::unimodal},
       entangled_steps,
       concave_shape,
       ellipsoid_front},
      {"places that lean on all that follow",
       "bias of the places by the mean of what follows, shift, means; concave",
       {Trait::unimodal},
       by_value<places_leaning>,
       concave_shape,
       ellipsoid_front},
      {"distances that lean on all before",
       "bias of the distances by the mean of what is before, shift, means; concave",
       {Trait::unimodal},
       by_value<distances_leaning>,
       concave_shape,
       ellipsoid_front},
      {"all of it",
       "bias by what follows, deceptive places, many minima, reductions that are not separable; concave",
       {Trait::deceptive, Trait::multimodal},
       by_value<last_steps>,
       concave_shape,
       ellipsoid_front},
  };
}

void check_variables(int number, bool in_pairs, Index n, Index m) {
  const Index rest = n - positions(m);
  if (rest >= 1 && !(in_pairs && rest % 2 != 0)) return;
  throw InputError(
      fmt::format("wfg-{} of {} objectives has {} variables for places, and {} besides: dim={} is not possible", number,
                  m, positions(m), in_pairs ? "an even number" : "at least one", n));
}

Values objectives(const ToolkitRow& row, int number, const TracedPoint& x, Index m) {
  check_variables(number, row.in_pairs, x.size(), m);
  const Toolkit kit{static_cast<std::size_t>(positions(m)), static_cast<std::size_t>(m)};
  Values y;
  for (Index i = 0; i < x.size(); ++i) y.push_back(x[i] / (2 * static_cast<double>(i + 1)));
  const Values t = row.steps(kit, std::move(y));
  Values places;
  for (std::size_t i = 0; i + 1 < t.size(); ++i) {
    const double least = number == 3 && i > 0 ? 0 : 1; // the third's front is to be a line
    places.push_back(max(t.back(), least) * (t[i] - 0.5) + 0.5);
  }
  places.push_back(t.back());
  Values f = row.shape(places);
  for (std::size_t j = 0; j < f.size(); ++j) f[j] = t.back() + 2 * static_cast<double>(j + 1) * f[j];
  return f;
}

} // namespace

std::vector<TestFunction> curved_front_functions() {
  std::vector<TestFunction> functions;
  int number = 0;
  for (const ToolkitRow& row : toolkit_rows()) {
    ++number;
    TestFunction function;
    function.name = fmt::format("wfg-{}", number);
    function.title = fmt::format("several objectives by steps, {}: {}", number, row.title);
    function.formula = row.formula;
    function.source = "Huband, Hingston, Barone and While, 2006";
    function.traits = row.traits;
    for (const Trait trait : {Trait::non_differentiable, Trait::several_objectives}) function.traits.push_back(trait);
    function.options = {{.name = "objectives",
                         .usual = 2,
                         .least = 2,
                         .most = 10,
                         .is_whole = true,
                         .meaning = "how many; 2 less than twice so many variables are for places"}};
    function.usual_dimension = [](const OptionValues& options) { return positions(objectives_of(options)) + 20; };
    function.dimensions = Dimensions::from(4, 22);
    function.objectives = [row, number](const TracedPoint& x, const OptionValues& options) {
      return objectives(row, number, x, objectives_of(options));
    };
    function.front = [front = row.front](Index, const OptionValues& options) { return front(objectives_of(options)); };
    function.region = [](Index n) { return Box{Vector::Zero(n), twice_numbers(n)}; };
    function.region_is_bounds = true;
    functions.push_back(std::move(function));
  }
  return functions;
}

} // namespace tanzen::testbed
