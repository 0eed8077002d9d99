#include "tanzen/methods/constrained/quadratic_program.hpp"

#include "tanzen/numeric/constants.hpp"
#include "tanzen/numeric/factors.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace tanzen::methods {
namespace {

constexpr double rounding = std::numeric_limits<double>::epsilon();

/// One side of a row or of a variable's bounds: normal · x >= limit, with the normal turned where the side is an upper
/// one.
struct Side {
  Index place = -1; ///< a row, or the number of rows + a variable
  bool is_upper = false;
  bool is_equality = false;
};

/// The active set with the factors J and R of the paper's section 4: J = L^-T Q, and R the triangle of the normals in
/// the columns of J.
class ActiveSet {
 public:
  ActiveSet(const CholeskyFactors& factors, Index n)
      : basis_(Matrix::Identity(n, n)), triangle_(Matrix::Zero(n, n)), turned_(n) {
    // L^-T, column by column of the identity.
    for (Index k = 0; k < n; ++k) {
      Vector column = basis_.col(k);
      factors.solve_upper_in_place(column);
      basis_.col(k) = column;
    }
  }

  [[nodiscard]] Index size() const { return static_cast<Index>(sides_.size()); }
  [[nodiscard]] const Side& operator[](Index k) const { return sides_[static_cast<std::size_t>(k)]; }
  [[nodiscard]] bool has(Index place) const {
    return std::ranges::any_of(sides_, [&](const Side& side) { return side.place == place; });
  }

  /// z and r for a normal: how x goes, and how the multipliers fall, for each unit of the new one's.
  void look_along(const Vector& normal, Vector& step, Vector& falls) {
    const Index n = basis_.rows(), q = size();
    turned_.noalias() = basis_.transpose() * normal;
    step.noalias() = basis_.rightCols(n - q) * turned_.tail(n - q);
    falls = turned_.head(q);
    for (Index i = q; i-- > 0;) {
      for (Index j = i + 1; j < q; ++j) falls[i] -= triangle_(i, j) * falls[j];
      falls[i] /= triangle_(i, i);
    }
  }
  /// The part of the normal looked at last that the active ones do not span, beside the whole, by the Hessian's
  /// inverse.
  [[nodiscard]] double independence() const {
    const Index n = basis_.rows();
    const double whole = turned_.norm();
    return whole > 0 ? turned_.tail(n - size()).norm() / whole : 0;
  }

  /// Takes in the side whose normal was looked at last.
  void add(const Side& side) {
    const Index n = basis_.rows(), q = size();
    for (Index j = n - 1; j > q; --j) rotate(j - 1, j, turned_[j - 1], turned_[j]);
    triangle_.col(q).head(q + 1) = turned_.head(q + 1);
    sides_.push_back(side);
  }

  void drop(Index place) {
    const Index q = size();
    sides_.erase(sides_.begin() + place);
    for (Index j = place; j + 1 < q; ++j) triangle_.col(j).head(j + 2) = triangle_.col(j + 1).head(j + 2);
    for (Index j = place; j + 1 < q; ++j) {
      double& low = triangle_(j, j);
      double& high = triangle_(j + 1, j);
      const auto [c, s] = rotate(j, j + 1, low, high);
      for (Index k = j + 1; k + 1 < q; ++k) {
        const double a = triangle_(j, k), b = triangle_(j + 1, k);
        triangle_(j, k) = c * a + s * b;
        triangle_(j + 1, k) = c * b - s * a;
      }
    }
  }

 private:
  struct Rotation {
    double cosine, sine;
  };
  /// Turns two columns of J so that `b` becomes zero and `a` the length of both.
  Rotation rotate(Index first, Index second, double& a, double& b) {
    const double length = std::hypot(a, b);
    if (length == 0) return {1, 0};
    const double c = a / length, s = b / length;
    a = length;
    b = 0;
    for (Index i = 0; i < basis_.rows(); ++i) {
      const double u = basis_(i, first), v = basis_(i, second);
      basis_(i, first) = c * u + s * v;
      basis_(i, second) = c * v - s * u;
    }
    return {c, s};
  }

  Matrix basis_;
  Matrix triangle_;
  Vector turned_; ///< J' normal
  std::vector<Side> sides_;
};

QuadraticSolution failure(QuadraticSolution::Status status, std::vector<Index> conflict = {}) {
  QuadraticSolution solution;
  solution.status = status;
  solution.conflict = std::move(conflict);
  return solution;
}

/// One search, from the minimum without limits to its end.
class DualSearch {
 public:
  DualSearch(const QuadraticProgram& program, const CholeskyFactors& factors)
      : program_(program), n_(program.gradient.size()), m_(program.rows.rows()), active_(factors, n_),
        sizes_(program.rows.rowwise().norm()) {
    solution_.x = -program.gradient;
    factors.solve_in_place(solution_.x);
  }

  QuadraticSolution find() {
    using enum QuadraticSolution::Status;
    for (Index place = 0; place < m_ + n_; ++place) {
      if (lower(place) > upper(place)) return failure(infeasible, {place});
    }
    const Index most = 50 * (n_ + m_) + 100;
    solution_.status = solved;
    for (;;) {
      const Side next = most_violated();
      if (next.place < 0) break;
      if (solution_.iterations > most) {
        solution_.status = unfinished;
        break;
      }
      if (!take_in(next)) {
        solution_.status = infeasible;
        break;
      }
    }
    solution_.row_multipliers.setZero(m_);
    solution_.bound_multipliers.setZero(n_);
    for (Index k = 0; k < active_.size(); ++k) {
      const Side& side = active_[k];
      const double y =
          side.is_upper ? multipliers_[static_cast<std::size_t>(k)] : -multipliers_[static_cast<std::size_t>(k)];
      if (side.place < m_)
        solution_.row_multipliers[side.place] = y;
      else
        solution_.bound_multipliers[side.place - m_] = y;
    }
    return std::move(solution_);
  }

 private:
  [[nodiscard]] double lower(Index place) const {
    return place < m_ ? program_.lower[place] : program_.least[place - m_];
  }
  [[nodiscard]] double upper(Index place) const {
    return place < m_ ? program_.upper[place] : program_.most[place - m_];
  }
  [[nodiscard]] double value(Index place) const {
    return place < m_ ? program_.rows.row(place).dot(solution_.x) : solution_.x[place - m_];
  }
  [[nodiscard]] double limit(const Side& side) const { return side.is_upper ? upper(side.place) : lower(side.place); }
  /// How far the side is broken: at most 0 where it is kept.
  [[nodiscard]] double broken(const Side& side) const {
    const double at = value(side.place);
    return side.is_upper ? at - upper(side.place) : lower(side.place) - at;
  }
  /// What rounding makes of a row's value.
  [[nodiscard]] double noise(Index place, double limit) const {
    const double terms = place < m_ ? program_.rows.row(place).cwiseAbs().dot(solution_.x.cwiseAbs())
                                    : std::abs(solution_.x[place - m_]);
    return 100 * rounding * (terms + std::abs(limit));
  }
  void set_normal(const Side& side) {
    if (side.place < m_)
      normal_ = program_.rows.row(side.place);
    else
      normal_ = Vector::Unit(n_, side.place - m_);
    if (side.is_upper) normal_ = -normal_;
  }

  /// Equalities before all else, then what is broken most for the size of its normal; none where all are kept.
  Side most_violated() const {
    Side worst;
    double most = 0;
    for (Index place = 0; place < m_ + n_; ++place) {
      const double low = lower(place), high = upper(place), at = value(place);
      const bool is_equality = low == high;
      const bool is_upper = at - high > low - at;
      const double by = std::max(at - high, low - at);
      if (!(by > noise(place, is_upper ? high : low)) || active_.has(place)) continue;
      if (std::ranges::find(kept_, place) != kept_.end()) continue;
      const double size = place < m_ ? std::max(sizes_[place], std::numeric_limits<double>::min()) : 1;
      const double weight = is_equality ? infinity : by / size;
      if (weight > most || (is_equality && !worst.is_equality)) {
        worst = {place, is_upper, is_equality};
        most = weight;
      }
    }
    return worst;
  }

  /// The paper's step 2, until the side holds. False where it cannot be kept together with those taken in.
  bool take_in(const Side& side) {
    double own = 0;
    set_normal(side);
    for (;;) {
      ++solution_.iterations;
      active_.look_along(normal_, step_, falls_);
      const bool is_spanned = active_.size() == n_ || active_.independence() <= 1e-11;
      if (own == 0 && is_spanned && broken(side) <= spanned_noise(side)) {
        kept_.push_back(side.place);
        return true;
      }
      const double negligible = falls_.size() > 0 ? 1e-12 * falls_.cwiseAbs().maxCoeff() : 0;
      Index blocking = -1;
      double shortest = infinity;
      for (Index k = 0; k < active_.size(); ++k) {
        if (active_[k].is_equality || !(falls_[k] > negligible)) continue;
        const double ratio = multipliers_[static_cast<std::size_t>(k)] / falls_[k];
        if (ratio < shortest) {
          shortest = ratio;
          blocking = k;
        }
      }
      const double full = is_spanned ? infinity : broken(side) / step_.dot(normal_);
      const double length = std::min(shortest, full);
      if (length == infinity) {
        note_conflict(side);
        return false;
      }
      if (full != infinity && length > 0) {
        solution_.x += length * step_;
        kept_.clear();
      }
      for (Index k = 0; k < active_.size(); ++k) {
        double& u = multipliers_[static_cast<std::size_t>(k)];
        u -= length * falls_[k];
        if (!active_[k].is_equality) u = std::max(u, 0.0);
      }
      own += length;
      if (full <= shortest) {
        active_.add(side);
        multipliers_.push_back(own);
        return true;
      }
      active_.drop(blocking);
      multipliers_.erase(multipliers_.begin() + blocking);
    }
  }

  /// What rounding may make of a side whose normal is a sum of active ones, each kept to its own rounding.
  [[nodiscard]] double spanned_noise(const Side& side) const {
    double sum = noise(side.place, limit(side));
    for (Index k = 0; k < active_.size(); ++k) sum += std::abs(falls_[k]) * noise(active_[k].place, limit(active_[k]));
    return 100 * sum;
  }

  /// The side's normal is a sum of active ones: no point keeps all of those with a part in it.
  void note_conflict(const Side& side) {
    const double largest = std::max(1.0, falls_.size() > 0 ? falls_.cwiseAbs().maxCoeff() : 0.0);
    for (Index k = 0; k < active_.size(); ++k) {
      if (std::abs(falls_[k]) > 1e-9 * largest) solution_.conflict.push_back(active_[k].place);
    }
    solution_.conflict.push_back(side.place);
    std::ranges::sort(solution_.conflict);
  }

  const QuadraticProgram& program_;
  Index n_, m_;
  ActiveSet active_;
  Vector sizes_;
  std::vector<double> multipliers_; ///< of the active sides, at least 0 but for equalities
  std::vector<Index> kept_;         ///< what those taken in keep here, but for rounding
  Vector normal_, step_, falls_;
  QuadraticSolution solution_;
};

} // namespace

QuadraticSolution solve(const QuadraticProgram& program) {
  CholeskyFactors factors(program.gradient.size());
  if (!factors.compute(program.hessian)) return failure(QuadraticSolution::Status::not_convex);
  return DualSearch(program, factors).find();
}

} // namespace tanzen::methods
