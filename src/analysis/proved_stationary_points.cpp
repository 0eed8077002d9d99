#include "tanzen/analysis/proved_stationary_points.hpp"

#include "stationary_checks.hpp"
#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/interval/derivative_tapes.hpp"
#include "tanzen/interval/interval_tape.hpp"
#include "tanzen/interval/zeros.hpp"
#include "tanzen/problem/value_and_rows.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

/// By what the gradients of function and constraints are divided, so that their weights are of one size: a power of
/// two, which rounds nothing.
double size_of_slopes(const Problem& problem, Index part) {
  const Box box = problem.sampling_box();
  const std::unique_ptr<FunctionWorker> worker = problem.bundle()->worker();
  const auto row = static_cast<Index>(problem.objectives().size()) + part - 1;
  Matrix jacobian;
  double size = 0;
  for (const double place : {0.5, 0.21, 0.83}) {
    const Vector point = box.lower + place * box.width();
    if (part > 0) worker->jacobian(point, jacobian);
    const double here =
        part > 0 ? jacobian.row(row).cwiseAbs().maxCoeff() : problem.gradient(point).cwiseAbs().maxCoeff();
    if (std::isfinite(here)) size = std::max(size, here);
  }
  return size > 0 ? std::exp2(std::clamp(std::round(std::log2(size)), -60.0, 60.0)) : 1;
}

/// The function's and the constraints' sum, weighted by further variables; the function alone where there are no
/// constraints.
Expression lagrangian(const Problem& problem, const std::vector<double>& sizes) {
  const Expressions parts = value_and_rows(problem).value();
  const Index n = problem.dimension();
  const auto m = static_cast<Index>(problem.constraints().size());
  if (m == 0) return parts[0];
  return Expression::traced(n + 1 + m, [&](const TracedPoint& all) {
    std::vector<Expr> x;
    for (Index i = 0; i < n; ++i) x.push_back(all[i]);
    const std::vector<Expr> values = parts.at(TracedPoint(std::move(x)));
    Expr sum = all[n] / sizes[0] * values[0];
    for (Index k = 0; k < m; ++k) {
      const auto at = static_cast<std::size_t>(k);
      sum += all[n + 1 + k] / sizes[at + 1] * (values[at + 1] - problem.constraints()[at].lower);
    }
    return sum;
  });
}

/// The equations of Fritz John: the Lagrangian's gradient by the variables and the weights of the constraints is zero,
/// and the squares of all weights add up to one.
class FritzJohn final : public IntervalSystem {
 public:
  FritzJohn(const Expression& sum, Index variables)
      : tape_(sum), work_(tape_.workspace()), derivatives_(sum), n_(static_cast<std::size_t>(variables)),
        size_(static_cast<std::size_t>(sum.dimension())) {}

  [[nodiscard]] std::size_t size() const override { return size_; }

  Sight evaluate(std::span<const Enclosure> box, std::span<Enclosure> values, std::span<Enclosure> jacobian) override {
    const BoxTraits traits = tape_.evaluate(box, IntervalTape::Order::hessian, work_);
    if (traits.nowhere) return Sight::nowhere;
    for (std::size_t i = 0; i < size_; ++i) {
      const auto row = static_cast<Index>(i);
      values[i] = traits.is_continuous() ? tape_.slope(row, work_) : intervals::everything;
      for (std::size_t j = 0; j < size_; ++j) jacobian[i * size_ + j] = tape_.bend(row, static_cast<Index>(j), work_);
    }
    if (size_ > n_) { // the row of the function's weight is exchanged
      values[n_] = Enclosure(-1);
      for (std::size_t j = n_; j < size_; ++j) values[n_] = values[n_] + square(box[j]);
      for (std::size_t j = 0; j < size_; ++j) jacobian[n_ * size_ + j] = j < n_ ? Enclosure(0) : Enclosure(2) * box[j];
    }
    return traits.is_smooth() ? Sight::slopes : Sight::values;
  }

  bool contract(std::span<Enclosure> box) override {
    if (derivatives_.is_empty()) return true;
    for (std::size_t i = 0; i < size_; ++i) {
      if (i != n_ && !derivatives_.contract(static_cast<Index>(i), box)) return false;
    }
    return true;
  }

  /// The inertia of the Lagrangian's Hessian, bordered by the constraints' gradients.
  [[nodiscard]] Inertia bordered(std::span<const Enclosure> box) {
    (void)tape_.evaluate(box, IntervalTape::Order::hessian, work_);
    std::vector<std::size_t> kept;
    for (std::size_t i = 0; i < size_; ++i) {
      if (i != n_) kept.push_back(i);
    }
    std::vector<Enclosure> matrix;
    for (const std::size_t i : kept) {
      for (const std::size_t j : kept) {
        const bool is_corner = i > n_ && j > n_;
        matrix.push_back(is_corner ? Enclosure(0) : tape_.bend(static_cast<Index>(i), static_cast<Index>(j), work_));
      }
    }
    return inertia(matrix, static_cast<Index>(kept.size()));
  }

 private:
  IntervalTape tape_;
  IntervalTape::Workspace work_;
  DerivativeTapes derivatives_;
  std::size_t n_, size_;
};

/// On the tangent space of m constraints, whose gradients the inertia counts once on either side.
PointKind kind_of(const Inertia& bordered, Index n, Index m) {
  const Index positive = bordered.positive - m, negative = bordered.negative - m;
  if (bordered.unknown > 0) return PointKind::degenerate;
  if (positive > 0 && negative > 0) return PointKind::saddle;
  return positive == n - m ? PointKind::minimum : PointKind::maximum;
}

class Proving {
 public:
  explicit Proving(const Problem& problem)
      : problem_(problem), n_(problem.dimension()), m_(static_cast<Index>(problem.constraints().size())),
        region_(problem.sampling_box()), objective_(*problem.expression()), work_(objective_.workspace()) {
    for (Index part = 0; part <= m_; ++part) sizes_.push_back(m_ == 0 ? 1 : size_of_slopes(problem, part));
  }

  ProvedStationaryPoints find(const ProvedStationaryOptions& options) {
    FritzJohn system(lagrangian(problem_, sizes_), n_);
    std::vector<Enclosure> box;
    for (Index i = 0; i < n_; ++i) box.emplace_back(region_.lower[i], region_.upper[i]);
    if (m_ > 0) box.emplace_back(0, 1);
    for (Index k = 0; k < m_; ++k) box.emplace_back(-1, 1);
    const Zeros zeros = find_zeros(system, box, {.should_stop = options.should_stop});
    ProvedStationaryPoints all;
    all.looked_at = zeros.looked_at;
    for (const Zero& zero : zeros.zeros) add(zero, system, all);
    all.undecided += static_cast<Index>(zeros.undecided.size());
    all.complete = zeros.is_finished && all.undecided == 0;
    std::ranges::stable_sort(all.points, {}, &ProvedStationaryPoint::least_value);
    all.how = in_words(all, zeros.is_finished);
    return all;
  }

 private:
  void add(const Zero& zero, FritzJohn& system, ProvedStationaryPoints& all) {
    ProvedStationaryPoint found{
        .lower = Vector(n_), .upper = Vector(n_), .least_multipliers = Vector(m_), .most_multipliers = Vector(m_)};
    bool reaches_over = false;
    for (Index i = 0; i < n_; ++i) {
      const Enclosure& side = zero.box[static_cast<std::size_t>(i)];
      if (side.upper < region_.lower[i] || side.lower > region_.upper[i]) return;
      reaches_over = reaches_over || side.lower < region_.lower[i] || side.upper > region_.upper[i];
      found.lower[i] = side.lower;
      found.upper[i] = side.upper;
    }
    if (m_ > 0) {
      // The same point with all weights of the other sign is none of its own.
      const Enclosure& weight = zero.box[static_cast<std::size_t>(n_)];
      if (weight.upper < 0) return;
      if (weight.contains(0)) {
        ++all.undecided;
        return;
      }
      for (Index k = 0; k < m_; ++k) {
        const Enclosure ratio =
            -(zero.box[static_cast<std::size_t>(n_ + 1 + k)] / Enclosure(sizes_[static_cast<std::size_t>(k) + 1])) /
            (weight / Enclosure(sizes_[0]));
        found.least_multipliers[k] = ratio.lower;
        found.most_multipliers[k] = ratio.upper;
      }
    }
    all.at_edge += reaches_over;
    const std::span<const Enclosure> at(zero.box.data(), static_cast<std::size_t>(n_));
    (void)objective_.evaluate(at, IntervalTape::Order::value, work_);
    found.least_value = objective_.value(work_).lower;
    found.most_value = objective_.value(work_).upper;
    found.kind = kind_of(system.bordered(zero.box), n_, m_);
    all.points.push_back(std::move(found));
  }

  [[nodiscard]] static std::string in_words(const ProvedStationaryPoints& all, bool is_finished) {
    if (!all.complete)
      return fmt::format("not proved: of {} boxes {} are left of which nothing is known{}", all.looked_at,
                         all.undecided, is_finished ? "" : ", where it was stopped");
    const std::string others = all.at_edge == 0 ? "" : "; those on its edge may lie just beyond it";
    return fmt::format("proved, by {} boxes: no other stationary point lies in the region{}", all.looked_at, others);
  }

  const Problem& problem_;
  Index n_, m_;
  Box region_;
  std::vector<double> sizes_; ///< of function and constraints
  IntervalTape objective_;
  IntervalTape::Workspace work_;
};

} // namespace

ProvedStationaryPoints prove_stationary_points(const Problem& given, const ProvedStationaryOptions& options) {
  const Problem problem = given.unheard().exact();
  check_for_stationary_points(problem);
  if (!value_and_rows(problem))
    throw ProblemError(fmt::format("a proof needs a formula, and {} is none", problem.name()));
  return Proving(problem).find(options);
}

} // namespace tanzen
