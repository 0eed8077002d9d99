#pragma once

#include "tanzen/problem/problem.hpp"
#include "tanzen/search/ledger.hpp"
#include "tanzen/search/team.hpp"

#include <array>
#include <cstdint>
#include <exception>
#include <limits>
#include <memory>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace tanzen {

/// What went wrong on the way without ending the run.
struct Events {
  std::int64_t outside_domain = 0;   ///< evaluations that were NaN or infinite
  std::int64_t broken = 0;           ///< evaluations that broke down and gave no value
  std::int64_t outside_bounds = 0;   ///< points outside the bounds; they never count as best
  std::int64_t broken_gradients = 0; ///< gradients with an entry that is NaN or infinite
  std::string first_broken = {};     ///< what the first broken evaluation said
};

/// Asks a problem's functions, for all views of one run: what they throw becomes events, or ends the run. Values are in
/// the user's sense and NaN where an evaluation broke down. It counts nothing but events.
class Visitor {
 public:
  Visitor(const Problem& problem, bool stops_on_broken, Team team, Waiting waiting);

  /// The short way to the one value of a plain problem.
  double value(const Vector& x);
  /// The same with its gradient at once, of NaN where the evaluation broke down.
  double value_and_gradient(const Vector& x, Vector& gradient);
  /// All parts of the bundle.
  void parts(const Vector& x, Vector& parts);
  /// The first `count` columns of `points`, for the short way or all parts: a row a part. As a batch, or by the team,
  /// where the functions allow it; `is_batch` says whether they do.
  [[nodiscard]] bool is_batch(bool all_parts) const;
  void batch(const Matrix& points, Index count, bool all_parts, Matrix& parts);
  /// Whether points are shared out to the team's threads.
  [[nodiscard]] bool is_shared(bool all_parts) const { return is_shared(function(all_parts)); }
  /// To be called for each column of a batch when its turn has come: what the k-th evaluation threw counts from then.
  void look_at(Index k, const Vector& x, Matrix& parts);

  /// Asks for a derivative of the short way or of the bundle. What breaks down leaves NaN in `result`.
  template <class Ask, class Result>
  void derive(const Vector& x, bool all_parts, Result& result, Ask&& function) {
    try {
      function(all_parts ? bundle_worker() : *worker_);
    } catch (const BrokenEvaluation& error) {
      note_broken(x, error.what());
      is_broken_ = false;
      result.setConstant(std::numeric_limits<double>::quiet_NaN());
    } catch (const std::exception& error) {
      objective_threw(x, error.what());
    }
  }

  /// Whether the last value is missing because its evaluation broke down; asked once.
  [[nodiscard]] bool was_broken() { return std::exchange(is_broken_, false); }
  [[nodiscard]] Events& events() { return events_; }
  [[nodiscard]] FunctionWorker& short_way() { return *worker_; }
  [[nodiscard]] FunctionWorker& bundle_worker() {
    if (is_one_) return *worker_;
    if (!bundle_worker_) bundle_worker_ = problem_->bundle()->worker(waiting_);
    return *bundle_worker_;
  }

 private:
  /// What one thread of the team works with.
  struct Mate {
    std::unique_ptr<FunctionWorker> worker;
    Matrix points = {};
    Matrix parts = {};
    Vector part = {};
  };

  [[nodiscard]] const VectorFunction& function(bool all_parts) const {
    return all_parts ? *problem_->bundle() : problem_->objective();
  }
  [[nodiscard]] bool is_shared(const VectorFunction& function) const;
  void share_out(const Matrix& points, bool all_parts, Matrix& parts);
  void note_broken(const Vector& x, const char* what);
  [[noreturn]] void objective_threw(const Vector& x, const char* what) const;

  const Problem* problem_;
  bool is_one_; ///< the short way is the bundle
  Waiting waiting_;
  std::unique_ptr<FunctionWorker> worker_;
  std::unique_ptr<FunctionWorker> bundle_worker_; ///< made when first asked for
  bool stops_on_broken_;
  bool is_broken_ = false;
  Events events_;
  Team team_;
  std::array<std::vector<Mate>, 2> mates_; ///< for the short way, for the bundle; one a part of a batch
  std::vector<std::exception_ptr> thrown_; ///< by each evaluation of a batch
  Vector values_;
};

} // namespace tanzen
