#pragma once

#include "problem_over_boxes.hpp"
#include "tanzen/search/proof.hpp"

#include <cstdint>
#include <queue>
#include <vector>

namespace tanzen::methods {

/// The parts of a problem's region that may hold a global minimizer: boxes that wait, best first, and boxes that are
/// not cut any more. Values are those to minimize.
class BoxPartition {
 public:
  /// Keeps so many of the parts that it throws away.
  BoxPartition(ProblemOverBoxes& problem, double width, std::size_t record);

  /// What the width of an enclosure of a value is measured by: the value's size, or what the function's range in the
  /// region is, as far as that is below 1.
  [[nodiscard]] double size_of_value(double value) const { return std::max(std::abs(value), scale_); }

  /// The best value seen is no higher; what is above goes.
  void lower_best(double best) { best_ = std::min(best_, best); }
  [[nodiscard]] double best() const { return best_; }
  /// No feasible value of the region is below.
  [[nodiscard]] double bound() const;
  [[nodiscard]] bool is_empty() const { return queue_.empty(); }
  [[nodiscard]] std::size_t waiting() const { return queue_.size() + final_.size(); }
  [[nodiscard]] std::int64_t looked_at() const { return looked_at_; }
  /// How wide the last box was, relative to the variables.
  [[nodiscard]] double last_width() const { return last_width_; }

  /// Looks at the most promising box: throws it away, narrows it, or cuts it. True where a point of
  /// it, left in `point`, may be worth a value.
  bool step(Vector& point, double tolerance);

  [[nodiscard]] const std::vector<Proof::Removed>& removed() const { return removed_; }

  /// The boxes that are left, those that touch joined, each told by a Newton step on it as a whole.
  std::vector<Proof::MinimizerBox> minimizers();

 private:
  using Sides = ProblemOverBoxes::Sides;

  /// A part of the region that waits.
  struct Part {
    Sides sides;
    double lower = -infinity; ///< no feasible value in it is below
    double upper = infinity;  ///< no value in it is above, where all of it is feasible
    double width = 1;         ///< of what it was cut from
    /// By variable: whether the region's lower or upper face is no part of it any more, where it touches that face.
    std::vector<char> without_lower, without_upper;
  };
  struct LaterFirst {
    /// Of parts with one and the same bound the widest is first, so that none is cut to nothing before the others.
    bool operator()(const Part& a, const Part& b) const {
      return a.lower != b.lower ? a.lower > b.lower : a.width < b.width;
    }
  };
  enum class Verdict { thrown_away, narrower, as_it_is };

  [[nodiscard]] bool touches_lower(const Part& part, std::size_t i) const;
  [[nodiscard]] bool touches_upper(const Part& part, std::size_t i) const;
  /// Whether a minimizer in the part may move along a variable both ways without leaving the region.
  [[nodiscard]] bool is_free(const Part& part, std::size_t i) const {
    return !touches_lower(part, i) && !touches_upper(part, i);
  }
  [[nodiscard]] double relative_width(const Part& part, std::size_t i) const;
  [[nodiscard]] double width_of(const Part& part) const;

  [[nodiscard]] bool is_flat(const Part& part, double tolerance);
  void choose_point(const Part& part, Vector& point);
  Verdict reduce(Part& part);
  Verdict reduce_by_values(Part& part);
  Verdict reduce_by_slopes(Part& part);
  Verdict reduce_by_curvatures(Part& part);
  bool reduce_by_bounds(Part& part, bool is_smooth);
  Verdict thrown_away(Proof::Reason reason) {
    reason_ = reason;
    return Verdict::thrown_away;
  }
  void record(const Part& part, bool is_thrown_away);
  IntervalNewton::Result newton(Sides& sides);
  bool cut(Part&& part);
  void split_faces(Part&& part, std::size_t i);
  void join(Part&& part, std::vector<Part>& joined) const;

  ProblemOverBoxes& problem_;
  std::size_t n_;
  const Sides& region_;
  double width_;
  IntervalNewton newton_;
  std::vector<std::size_t> free_; ///< the sides that a Newton step moves
  std::vector<Enclosure> jacobian_, slopes_, moving_;
  std::vector<double> centre_;
  std::priority_queue<Part, std::vector<Part>, LaterFirst> queue_;
  std::vector<Part> final_; ///< that are not cut any more
  double best_ = infinity, last_width_ = 1, scale_ = 1;
  std::int64_t looked_at_ = 0;
  std::size_t most_recorded_;
  Proof::Reason reason_ = Proof::Reason::value; ///< of what the last part lost
  Sides recorded_;                              ///< what of the part has not been told yet
  std::vector<Proof::Removed> removed_;
};

} // namespace tanzen::methods
