#pragma once

#include "tanzen/numeric/constants.hpp"
#include "tanzen/search/found_minima.hpp"
#include "tanzen/search/incumbent.hpp"
#include "tanzen/search/ledger.hpp"
#include "tanzen/search/proof.hpp"
#include "tanzen/search/visitor.hpp"

#include <cmath>
#include <cstdint>
#include <functional>
#include <limits>
#include <memory>
#include <optional>
#include <span>

namespace tanzen {

/// What the bundle gives at several points, a column a point. Borrows the evaluator's memory until its next batch.
struct Evaluations {
  Matrix parts = {};  ///< a row a part: objectives to be minimized, constraints, residuals; NaN where there is no value
  Vector values = {}; ///< by the scalarization of the view; infinite where there is none
  Vector violations = {}; ///< the largest of each point's constraints; infinite where there is no value
  PartCounts counts;

  [[nodiscard]] auto objectives() const { return parts.topRows(counts.objectives); }
};

/// What a method asks: a view of a problem's bundle by one scalarization. It counts, keeps the limits to the
/// evaluation, remembers the best feasible point, and turns what is no number into infinity. Values are those to
/// minimize, whatever the sense. Belongs to one run and one thread; throws RunEnded when the run is over.
///
/// Views of one run share its ledger, incumbent and events: `with` gives one that looks by another scalarization, for a
/// method that runs another one inside. Whatever the view, an evaluation is one visit of a point, and counts once.
class Evaluator {
 public:
  Evaluator(const Problem& problem, const StopRules& rules, DerivativeMode derivative, Team team = {},
            std::function<bool()> asked_to_stop = {});
  Evaluator(const Evaluator&) = delete;
  Evaluator& operator=(const Evaluator&) = delete;
  ~Evaluator();

  /// The same bundle, ledger and incumbent by another scalarization, which must outlive the view. This one must too.
  [[nodiscard]] Evaluator with(const Scalarization& other) const;

  struct ValueAndGradient {
    double value = 0;
    const Vector& gradient; ///< valid until the next gradient
  };

  /// The value at `x`; infinity where there is none. Counts one evaluation.
  double operator()(const Vector& x) {
    check_length(x);
    if (!is_short_) return at(x).value;
    ledger_->spend_evaluation();
    return noted(x, sign_ * visitor_->value(x));
  }

  /// All parts at `x`, valid until the next evaluation by this view. Counts one evaluation.
  const Evaluation& at(const Vector& x);

  /// The values at the columns of `points`: the same values, counts and best point as one after the other, computed
  /// as a batch, and by the team's threads where the objective may be called from several at once.
  void values(const Matrix& points, Vector& values);
  /// All parts at the columns of `points`, likewise.
  const Evaluations& at(const Matrix& points);

  /// The gradient of the view's value at `x`, valid until the next one. Counts one gradient if exact, however many
  /// parts there are; otherwise n + 1 (forward) or 2 n (central) evaluations. Allocates nothing after the first.
  const Vector& gradient(const Vector& x);

  /// The gradient of the mean term of some rows of data, times the number of all rows: what the whole sum's gradient is
  /// on average. For the problem's own view, with exact gradients; of a problem that is no sum the gradient itself. The
  /// rows of a whole sum count as one gradient, be it in one call or in many.
  const Vector& row_gradient(const Vector& x, std::span<const Index> rows);
  /// How many rows of data the objective is a sum over; 1 of one that is none.
  [[nodiscard]] Index rows() const;

  /// Both at once: one evaluation and one gradient if exact, otherwise n + 1 or 2 n + 1 evaluations.
  ValueAndGradient value_and_gradient(const Vector& x);

  /// The Hessian of the view's value at `x`. Counts one Hessian if exact; otherwise differences of gradients at their
  /// cost.
  const Matrix& hessian(const Vector& x);

  /// The Hessian at `x` times `direction`, into `product`. Exact where the bundle has a Hessian, and then counted as
  /// one gradient, whose cost it has within a factor of two; otherwise a difference of two gradients at their cost,
  /// with `at_x` the gradient at `x` (which may be the evaluator's own).
  void hessian_times(const Vector& x, const Vector& at_x, const Vector& direction, Vector& product);

  /// The gradients of all parts at `x`, a row a part in the order of the parts, valid until the next. Exact it counts a
  /// gradient for each objective and constraint and one for all residuals; otherwise n or 2 n evaluations in all, and
  /// one more where `parts` at x are not handed over. The two below are rows of it.
  const Matrix& jacobian(const Vector& x, const Vector* parts = nullptr);
  [[nodiscard]] auto constraint_rows() const { return jacobian_.middleRows(counts_.objectives, counts_.constraints); }
  [[nodiscard]] auto residual_rows() const { return jacobian_.bottomRows(counts_.residuals); }

  /// The gradients of the residuals at `x` in blocks of rows, from the first residual on, at the cost of `jacobian`: of
  /// long tables without the memory for all of them. `parts` at x are looked at for differences alone.
  void visit_residual_rows(const Vector& x, const Vector& parts,
                           const std::function<void(Index first, const Matrix& rows)>& visit);

  /// The Hessian of sum over k of weights[k] * part k (objectives to be minimized): that of the Lagrangian. Counts one
  /// Hessian. Throws ProblemError where the bundle has none.
  const Matrix& weighted_hessian(const Vector& x, const Vector& weights);

  /// The view's scalarization: how the parts become its value.
  [[nodiscard]] const Scalarization& scalarization() const { return *scalarization_; }

  /// The gradient of the last call, as `gradient` returned it.
  [[nodiscard]] const Vector& last_gradient() const { return gradient_; }

  [[nodiscard]] Index dimension() const { return dimension_; }
  [[nodiscard]] const PartCounts& part_counts() const { return counts_; }
  [[nodiscard]] const Problem& problem() const;
  [[nodiscard]] const Bounds& bounds() const { return problem().bounds(); }
  [[nodiscard]] const Counts& counts() const { return ledger_->counts(); }
  [[nodiscard]] const Ledger& ledger() const { return *ledger_; }
  [[nodiscard]] Incumbent& incumbent() { return *incumbent_; }
  [[nodiscard]] const Incumbent& incumbent() const { return *incumbent_; }
  [[nodiscard]] Events events() const;
  /// How many evaluations the run may take in all; nothing where there is no limit.
  [[nodiscard]] std::optional<std::int64_t> evaluation_limit() const { return ledger_->evaluation_limit(); }
  /// How large a violation still counts as feasible.
  [[nodiscard]] double feasibility() const { return incumbent_->feasibility(); }
  /// The norm of the projected gradient at the start; NaN where the method did not ask for it first of all.
  [[nodiscard]] double start_gradient_norm() const;
  /// A local minimum that the method is sure of: it goes to the outcome's list.
  void found_minimum(const Vector& x, double value);
  [[nodiscard]] const FoundMinima& minima() const;
  /// What the method has proved: it goes to the outcome.
  void prove(Proof proof);
  [[nodiscard]] const std::optional<Proof>& proof() const;
  /// Whether gradients come from differences.
  [[nodiscard]] bool uses_differences() const { return !exact_; }
  /// Whether the view has exact Hessians.
  [[nodiscard]] bool has_hessian() const { return exact_hessian_; }
  /// What the run's points are asked with, for a look at one after the run that counts nowhere.
  [[nodiscard]] Visitor& visitor() { return *visitor_; }

 private:
  /// What all views of a run share.
  struct Run;

  Evaluator(Run& run, const Scalarization& scalarization, const Evaluator& like);
  template <class Point>
  double noted(const Point& x, double value) {
    if (!(std::abs(value) < infinity)) return note_no_number(x, value);
    if (value < incumbent_->bar()) incumbent_->note(x, value, ledger_->counts());
    return value;
  }
  double note_no_number(const Vector& x, double value);
  /// What a method asks for is compared with the problem before it is an index.
  template <class Points>
  void check_length(const Points& points) const {
    if (points.rows() != dimension_) [[unlikely]]
      wrong_length(points.rows());
  }
  [[noreturn]] void wrong_length(Index length) const;
  /// Fills `evaluation` from `parts`, and shows it to the incumbent.
  void note_parts(const Vector& x, Vector& parts, Evaluation& evaluation);
  /// What is of each part into what it is to be minimized, and back.
  void turn_objectives(Vector& by_part) const { by_part.head(signs_.size()).array() *= signs_.array(); }
  /// The exact gradient of the short way, and its value, which is noted nowhere; NaN where it broke down.
  double short_gradient(const Vector& x);
  /// The exact gradient of the view's value by the slopes of its parts.
  void weighted_gradient(const Vector& x);
  double value_then_gradient(const Vector& x);
  void difference_gradient(const Vector& x, double value);
  /// The same evaluations in the same order, by the team's threads.
  void shared_difference_gradient(const Vector& x, double value);
  void difference_jacobian(const Vector& x, const Vector* parts);
  /// The parts at `x`, for derivatives alone: it counts nothing and shows them to nobody.
  void find_slopes(const Vector& x);
  [[nodiscard]] bool is_first_at_start(const Vector& x);
  void note_gradient(const Vector& x, bool at_start);

  std::unique_ptr<Run> own_; ///< of the first view
  Run* run_;
  Ledger* ledger_;
  Incumbent* incumbent_;
  Visitor* visitor_;
  const Scalarization* scalarization_;
  PartCounts counts_;
  Index dimension_;
  bool is_own_;   ///< the view is by the problem's own scalarization
  bool is_short_; ///< and there are no constraints: the short way is enough
  double sign_;   ///< of the short way
  Vector signs_;  ///< of the objectives: -1 where one is maximized
  bool exact_;
  bool exact_hessian_;
  bool central_;

  Vector parts_;
  Vector slopes_;
  Evaluation evaluation_;
  Evaluations evaluations_;
  Vector gradient_;
  Vector probe_;            ///< for differences of values
  Vector moved_;            ///< for differences of gradients
  Index row_gradients_ = 0; ///< that have not been counted yet
  Matrix hessian_;
  Matrix jacobian_;
  Matrix batch_;
};

} // namespace tanzen
