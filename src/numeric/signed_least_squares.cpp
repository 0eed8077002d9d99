#include "tanzen/numeric/signed_least_squares.hpp"

#include "tanzen/numeric/factors.hpp"

namespace tanzen {
namespace {

/// The shortest least-squares solution over the columns in the set, zero elsewhere.
Vector solved(const Matrix& columns, const Vector& gradient, const std::vector<bool>& in_set) {
  std::vector<Index> places;
  for (Index k = 0; k < columns.cols(); ++k) {
    if (in_set[static_cast<std::size_t>(k)]) places.push_back(k);
  }
  Vector all = Vector::Zero(columns.cols());
  if (places.empty()) return all;
  const Matrix some = columns(Eigen::all, places);
  all(places) = least_squares(some, gradient);
  return all;
}

} // namespace

Vector signed_least_squares(const Matrix& columns, const Vector& gradient, const std::vector<MultiplierSign>& signs) {
  const Index m = columns.cols();
  Matrix turned = columns;
  std::vector<bool> in_set(static_cast<std::size_t>(m)), is_free(static_cast<std::size_t>(m));
  for (Index k = 0; k < m; ++k) {
    const auto place = static_cast<std::size_t>(k);
    is_free[place] = in_set[place] = signs[place] == MultiplierSign::free;
    if (signs[place] == MultiplierSign::nonpositive) turned.col(k) = -turned.col(k);
  }
  Vector y = solved(turned, gradient, in_set);
  const double smallest = 1e-12 * (1 + gradient.norm());
  for (Index round = 0; round < 3 * m + 3; ++round) {
    const Vector slope = turned.transpose() * (gradient - turned * y);
    Index entering = -1;
    for (Index k = 0; k < m; ++k) {
      if (in_set[static_cast<std::size_t>(k)] || slope[k] <= smallest * turned.col(k).norm()) continue;
      if (entering < 0 || slope[k] > slope[entering]) entering = k;
    }
    if (entering < 0) break;
    in_set[static_cast<std::size_t>(entering)] = true;
    for (;;) {
      const Vector wanted = solved(turned, gradient, in_set);
      double part = 1;
      for (Index k = 0; k < m; ++k) {
        const auto place = static_cast<std::size_t>(k);
        if (in_set[place] && !is_free[place] && wanted[k] <= 0) part = std::min(part, y[k] / (y[k] - wanted[k]));
      }
      if (!(part < 1)) {
        y = wanted;
        break;
      }
      y += part * (wanted - y);
      for (Index k = 0; k < m; ++k) {
        const auto place = static_cast<std::size_t>(k);
        if (in_set[place] && !is_free[place] && y[k] <= 1e-15) {
          in_set[place] = false;
          y[k] = 0;
        }
      }
    }
  }
  for (Index k = 0; k < m; ++k) {
    if (signs[static_cast<std::size_t>(k)] == MultiplierSign::nonpositive) y[k] = -y[k];
  }
  return y;
}

Vector shortest_hull_weights(const Matrix& columns) {
  const Index n = columns.rows(), count = columns.cols();
  const double largest = columns.colwise().norm().maxCoeff();
  // The last row has the weights sum to 1, in units of the columns.
  const double unit = largest > 0 ? largest : 1;
  Matrix with_sum(n + 1, count);
  with_sum.topRows(n) = columns;
  with_sum.row(n).setConstant(unit);
  const std::vector<MultiplierSign> signs(static_cast<std::size_t>(count), MultiplierSign::nonnegative);
  return signed_least_squares(with_sum, unit * Vector::Unit(n + 1, n), signs);
}

} // namespace tanzen
