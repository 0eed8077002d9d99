#include "tanzen/numeric/sampling.hpp"

#include "tanzen/base/errors.hpp"

#include <boost/random/sobol.hpp>
#include <cmath>
#include <fmt/format.h>
#include <numeric>

namespace tanzen {
namespace {

/// Columns in the unit cube to columns in the box.
Matrix stretched(Matrix unit, const Box& box) {
  return ((unit.array().colwise() * box.width().array()).colwise() + box.lower.array()).matrix();
}

} // namespace

Matrix uniform_points(const Box& box, Index count, RandomStream random) {
  Matrix unit(box.dimension(), count);
  for (double& value : unit.reshaped()) value = random.uniform();
  return stretched(std::move(unit), box);
}

Matrix latin_hypercube_points(const Box& box, Index count, RandomStream random) {
  Matrix unit(box.dimension(), count);
  for (Index i = 0; i < unit.rows(); ++i) {
    const std::vector<Index> order = random_order(count, random);
    for (Index j = 0; j < count; ++j) {
      const auto interval = static_cast<double>(order[static_cast<std::size_t>(j)]);
      unit(i, j) = (interval + random.uniform()) / static_cast<double>(count);
    }
  }
  return stretched(std::move(unit), box);
}

Matrix sobol_points(const Box& box, Index count, RandomStream random) {
  constexpr Index most_dimensions = 3667;
  if (box.dimension() > most_dimensions) {
    throw InputError(
        fmt::format("Sobol points exist up to {} dimensions here, not {}", most_dimensions, box.dimension()));
  }
  boost::random::sobol sequence(static_cast<std::size_t>(box.dimension()));
  Vector moved(box.dimension());
  for (double& value : moved) value = random.uniform();

  Matrix unit(box.dimension(), count);
  for (Index j = 0; j < count; ++j) {
    for (Index i = 0; i < unit.rows(); ++i) {
      const double drawn = static_cast<double>(sequence() >> 11) * 0x1.0p-53;
      const double sum = drawn + moved[i];
      unit(i, j) = sum - std::floor(sum);
    }
  }
  return stretched(std::move(unit), box);
}

std::vector<Index> random_order(Index count, RandomStream& random) {
  std::vector<Index> order(static_cast<std::size_t>(count));
  std::iota(order.begin(), order.end(), Index{0});
  for (Index i = count - 1; i > 0; --i) {
    std::swap(order[static_cast<std::size_t>(i)], order[static_cast<std::size_t>(random.below(i + 1))]);
  }
  return order;
}

namespace {

/// How many ways there are to share `parts` among `places`.
double ways_to_share(Index parts, Index places) {
  double number = 1;
  for (Index k = 1; k < places; ++k) number *= static_cast<double>(parts + k) / static_cast<double>(k);
  return number;
}

} // namespace

Matrix simplex_lattice(Index dimension, Index parts) {
  Matrix points(dimension, static_cast<Index>(std::lround(ways_to_share(parts, dimension))));
  std::vector<Index> entries(static_cast<std::size_t>(dimension), 0);
  entries.back() = parts;
  for (Index k = 0; k < points.cols(); ++k) {
    for (Index i = 0; i < dimension; ++i)
      points(i, k) = static_cast<double>(entries[static_cast<std::size_t>(i)]) / static_cast<double>(parts);
    // The next one in lexicographic order: the last entry that is not zero gives one to its left, the rest goes to the
    // end.
    std::size_t at = entries.size() - 1;
    while (at > 0 && entries[at] == 0) --at;
    if (at == 0) break;
    const Index rest = entries[at] - 1;
    entries[at] = 0;
    ++entries[at - 1];
    entries.back() = rest;
  }
  return points;
}

Matrix simplex_points(Index dimension, Index count) {
  Index parts = 1;
  while (ways_to_share(parts + 1, dimension) <= static_cast<double>(count)) ++parts;
  return simplex_lattice(dimension, parts);
}

} // namespace tanzen
