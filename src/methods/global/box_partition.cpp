#include "box_partition.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen::methods {

using Order = ProblemOverBoxes::Order;

namespace {
constexpr double worth_it = 0.1; ///< by how much a part is to become narrower before other ways are tried
}

BoxPartition::BoxPartition(ProblemOverBoxes& problem, double width, std::size_t record)
    : problem_(problem), n_(problem.dimension()), region_(problem.region()), width_(width), centre_(n_),
      most_recorded_(record) {
  queue_.push({region_, -infinity, infinity, 1, std::vector<char>(n_, 0), std::vector<char>(n_, 0)});
  const bool has_values = !problem_.look_at(region_, Order::value).nowhere;
  const double range = has_values ? problem_.value().width() : 0;
  scale_ = range > 0 && range < 1 ? range : 1;
}

double BoxPartition::bound() const {
  double least = best_;
  if (!queue_.empty()) least = std::min(least, queue_.top().lower);
  for (const Part& part : final_) least = std::min(least, part.lower);
  return least;
}

bool BoxPartition::step(Vector& point, double tolerance) {
  Part part = queue_.top();
  queue_.pop();
  if (part.lower > best_) return false;
  ++looked_at_;
  if (reduce(part) == Verdict::thrown_away) return false;
  last_width_ = width_of(part);
  choose_point(part, point);
  constexpr double narrowest = 1e-13;
  const bool is_narrow = last_width_ <= width_ && (best_ - part.lower <= tolerance || last_width_ <= narrowest);
  if (is_narrow || is_flat(part, tolerance) || !cut(std::move(part))) final_.push_back(std::move(part));
  return true;
}

/// Whether all of the part's points have the best value, as nearly as that is wanted: it need not be cut.
bool BoxPartition::is_flat(const Part& part, double tolerance) {
  (void)problem_.look_at(part.sides, Order::value);
  const double upper = std::min(part.upper, problem_.value().upper);
  return problem_.has_values() && upper - best_ <= tolerance && best_ - part.lower <= tolerance;
}

/// The part's middle; where values jump, the lowest of it and the corners, on which a jump may lie.
void BoxPartition::choose_point(const Part& part, Vector& point) {
  constexpr std::size_t most_sides = 4;
  point.resize(static_cast<Index>(n_));
  for (std::size_t i = 0; i < n_; ++i) point[static_cast<Index>(i)] = part.sides[i].middle();
  (void)problem_.look_at(part.sides, Order::value);
  if (problem_.is_continuous() || n_ > most_sides || problem_.rows() > 0) return;
  double best = problem_.highest_at(point);
  Vector corner(point.size());
  for (std::size_t place = 0; place < (std::size_t{1} << n_); ++place) {
    for (std::size_t i = 0; i < n_; ++i)
      corner[static_cast<Index>(i)] = ((place >> i) & 1) != 0 ? part.sides[i].upper : part.sides[i].lower;
    const double value = problem_.highest_at(corner);
    if (value >= best) continue;
    best = value;
    point = corner;
  }
}

bool BoxPartition::touches_lower(const Part& part, std::size_t i) const {
  return part.sides[i].lower <= region_[i].lower && part.without_lower[i] == 0;
}
bool BoxPartition::touches_upper(const Part& part, std::size_t i) const {
  return part.sides[i].upper >= region_[i].upper && part.without_upper[i] == 0;
}

double BoxPartition::relative_width(const Part& part, std::size_t i) const {
  const Enclosure& side = part.sides[i];
  return side.is_point() ? 0 : side.width() / std::max(side.magnitude(), problem_.typical_size(i));
}

double BoxPartition::width_of(const Part& part) const {
  double widest = 0;
  for (std::size_t i = 0; i < n_; ++i) widest = std::max(widest, relative_width(part, i));
  return widest;
}

/// Throws the part away, or narrows it and raises its bound as far as that is worth while.
BoxPartition::Verdict BoxPartition::reduce(Part& part) {
  constexpr int most_rounds = 10;
  for (int round = 0; round < most_rounds; ++round) {
    const double before = width_of(part);
    Verdict verdict = Verdict::as_it_is;
    for (const auto& way :
         {&BoxPartition::reduce_by_values, &BoxPartition::reduce_by_slopes, &BoxPartition::reduce_by_curvatures}) {
      recorded_ = part.sides;
      verdict = (this->*way)(part);
      record(part, verdict == Verdict::thrown_away);
      if (verdict != Verdict::as_it_is) break;
    }
    if (verdict == Verdict::thrown_away || verdict == Verdict::as_it_is) return verdict;
    if (width_of(part) > (1 - worth_it) * before) break;
  }
  // What is left may have a higher bound than what it was cut from.
  const bool has_values = !problem_.look_at(part.sides, Order::gradient).nowhere && !problem_.is_infeasible();
  if (has_values) part.lower = std::max(part.lower, problem_.value().lower);
  if (has_values && !(part.lower > best_)) return Verdict::narrower;
  record(part, true);
  return Verdict::thrown_away;
}

/// By what values, and those of the constraints, may be.
BoxPartition::Verdict BoxPartition::reduce_by_values(Part& part) {
  const bool has_values = !problem_.look_at(part.sides, Order::gradient).nowhere;
  if (problem_.is_infeasible()) return thrown_away(Proof::Reason::constraint);
  if (has_values) part.lower = std::max(part.lower, problem_.value().lower);
  if (!has_values || part.lower > best_) return thrown_away(Proof::Reason::value);
  const double before = width_of(part);
  reason_ = Proof::Reason::constraint;
  if (!problem_.contract_by_rows(part.sides)) return Verdict::thrown_away;
  record(part, false);
  reason_ = Proof::Reason::value;
  if (!problem_.contract_by_value(best_, part.sides)) return Verdict::thrown_away;
  const double after = width_of(part);
  if (after == before) return Verdict::as_it_is;
  if (after < (1 - worth_it) * before) return Verdict::narrower;
  if (problem_.look_at(part.sides, Order::gradient).nowhere) return Verdict::thrown_away;
  return Verdict::as_it_is;
}

/// By where the value rises or falls all over the part.
BoxPartition::Verdict BoxPartition::reduce_by_slopes(Part& part) {
  if (!problem_.is_inside() || !problem_.is_continuous()) return Verdict::as_it_is;
  problem_.clear_multipliers();
  reason_ = Proof::Reason::slope;
  bool has_moved = false;
  for (std::size_t i = 0; i < n_; ++i) {
    const Enclosure g = problem_.slope(i);
    if (!(g.lower > 0) && !(g.upper < 0)) continue;
    // It rises, or falls: only the face on that side can have a minimizer.
    const bool rises = g.lower > 0;
    if (part.sides[i].is_point() && !is_free(part, i)) {
      const bool at_lower = touches_lower(part, i), at_upper = touches_upper(part, i);
      if (at_lower && at_upper) continue; // the region has no width here
      if ((at_lower && !rises) || (at_upper && rises)) return Verdict::thrown_away;
      continue;
    }
    if (!(rises ? touches_lower(part, i) : touches_upper(part, i))) return Verdict::thrown_away;
    part.sides[i] = rises ? Enclosure(region_[i].lower) : Enclosure(region_[i].upper);
    has_moved = true;
  }
  return has_moved ? Verdict::narrower : Verdict::as_it_is;
}

/// By second derivatives, and bounds that slopes give.
BoxPartition::Verdict BoxPartition::reduce_by_curvatures(Part& part) {
  if (!problem_.is_continuous()) return Verdict::as_it_is;
  const bool is_inside = problem_.is_inside(), is_smooth = problem_.is_smooth();
  problem_.clear_multipliers();
  if (!is_inside) problem_.set_multipliers(part.sides);
  if (is_smooth) (void)problem_.look_at(part.sides, Order::hessian);
  const double before = width_of(part);
  part.upper = infinity;
  reason_ = Proof::Reason::convexity;
  if (!reduce_by_bounds(part, is_smooth)) return Verdict::thrown_away;
  if (!is_inside && is_smooth && problem_.set_best_multipliers() && !reduce_by_bounds(part, true))
    return Verdict::thrown_away;
  if (width_of(part) < (1 - worth_it) * before) return Verdict::narrower;
  if (!is_smooth || !is_inside) return Verdict::as_it_is;
  bool all_free = true;
  for (std::size_t i = 0; i < n_; ++i) {
    if (part.sides[i].is_point()) continue;
    if (!is_free(part, i))
      all_free = false;
    else if (problem_.bend(i, i).upper < 0)
      return thrown_away(Proof::Reason::curvature); // no minimum where it is concave
  }
  if (!all_free) return Verdict::as_it_is;
  reason_ = Proof::Reason::newton;
  const IntervalNewton::Result result = newton(part.sides);
  if (result == IntervalNewton::Result::no_zero) return Verdict::thrown_away;
  return result == IntervalNewton::Result::nothing ? Verdict::as_it_is : Verdict::narrower;
}

/// Of the value, or the Lagrangian with the multipliers that were set. False where nothing of the part is left.
bool BoxPartition::reduce_by_bounds(Part& part, bool is_smooth) {
  const Enclosure range = problem_.range_from_middle(part.sides);
  part.lower = std::max(part.lower, range.lower);
  if (problem_.is_inside()) part.upper = range.upper;
  if (part.lower > best_) {
    reason_ = Proof::Reason::value;
    return false;
  }
  return !is_smooth || problem_.narrow_by_convexity(best_, part.sides, part.lower);
}

/// What the part has lost of what was recorded of it last, in slices along one variable after the other.
void BoxPartition::record(const Part& part, bool is_thrown_away) {
  const auto keep = [&](const Sides& sides) {
    if (removed_.size() >= most_recorded_) return;
    Proof::Removed removed{Vector(static_cast<Index>(n_)), Vector(static_cast<Index>(n_)), reason_};
    for (std::size_t i = 0; i < n_; ++i) {
      removed.lower[static_cast<Index>(i)] = sides[i].lower;
      removed.upper[static_cast<Index>(i)] = sides[i].upper;
    }
    removed_.push_back(std::move(removed));
  };
  if (is_thrown_away) {
    keep(recorded_);
    return;
  }
  for (std::size_t i = 0; i < n_ && removed_.size() < most_recorded_; ++i) {
    for (const Enclosure& lost :
         {Enclosure(recorded_[i].lower, part.sides[i].lower), Enclosure(part.sides[i].upper, recorded_[i].upper)}) {
      if (!(lost.lower < lost.upper)) continue;
      Sides slice = recorded_;
      slice[i] = lost;
      keep(slice);
    }
    recorded_[i] = part.sides[i];
  }
}

/// On the slopes of the sides that are no points; the last look was at the box, with its Hessian.
IntervalNewton::Result BoxPartition::newton(Sides& sides) {
  free_.clear();
  for (std::size_t i = 0; i < n_; ++i) {
    if (!sides[i].is_point()) free_.push_back(i);
  }
  if (free_.empty()) return IntervalNewton::Result::nothing;
  jacobian_.clear();
  slopes_.clear();
  moving_.clear();
  centre_.clear();
  for (const std::size_t i : free_) {
    for (const std::size_t j : free_) jacobian_.push_back(problem_.bend(i, j));
    moving_.push_back(sides[i]);
    centre_.push_back(sides[i].middle());
  }
  Sides middle = sides;
  for (std::size_t a = 0; a < free_.size(); ++a) middle[free_[a]] = centre_[a];
  (void)problem_.look_at(middle, Order::gradient);
  if (!problem_.is_continuous()) return IntervalNewton::Result::nothing;
  for (const std::size_t i : free_) slopes_.push_back(problem_.slope(i));
  const IntervalNewton::Result result = newton_.take(jacobian_, slopes_, centre_, moving_);
  for (std::size_t a = 0; a < free_.size(); ++a) sides[free_[a]] = moving_[a];
  return result;
}

std::vector<Proof::MinimizerBox> BoxPartition::minimizers() {
  std::vector<Part> joined;
  for (Part& part : final_) {
    if (part.lower <= best_) join(std::move(part), joined);
  }
  std::vector<Proof::MinimizerBox> told;
  for (Part& part : joined) {
    const bool is_one = problem_.holds_one_minimizer(part.sides);
    // A box that is alone has a point that takes the least value, if one does.
    (void)problem_.look_at(part.sides, Order::value);
    const bool is_some = joined.size() == 1 && problem_.has_least();
    Proof::MinimizerBox box{Vector(static_cast<Index>(n_)), Vector(static_cast<Index>(n_)),
                            is_one    ? Proof::Holds::one
                            : is_some ? Proof::Holds::some
                                      : Proof::Holds::unknown};
    for (std::size_t i = 0; i < n_; ++i) {
      box.lower[static_cast<Index>(i)] = part.sides[i].lower;
      box.upper[static_cast<Index>(i)] = part.sides[i].upper;
    }
    told.push_back(std::move(box));
  }
  return told;
}

/// Into two at the middle of a side: the one along which values change most, of those that are not much narrower than
/// the widest. Where the part touches faces of the region and is no longer wide, a face is split off first. False
/// where no double lies between the ends.
bool BoxPartition::cut(Part&& part) {
  constexpr double part_of_region = 0.3;
  for (std::size_t i = 0; i < n_; ++i) {
    if (part.sides[i].is_point() || is_free(part, i)) continue;
    if (part.sides[i].width() > part_of_region * region_[i].width()) continue;
    split_faces(std::move(part), i);
    return true;
  }
  const double widest = width_of(part);
  std::size_t chosen = n_;
  double most = -1;
  (void)problem_.look_at(part.sides, Order::gradient);
  for (std::size_t i = 0; i < n_; ++i) {
    if (part.sides[i].is_point() || relative_width(part, i) < 0.1 * widest) continue;
    const double change = problem_.slope(i).magnitude() * part.sides[i].width();
    const double weight = std::isfinite(change) ? change : relative_width(part, i);
    if (weight <= most) continue;
    most = weight;
    chosen = i;
  }
  if (chosen == n_) return false;
  part.upper = infinity;
  part.width = widest;
  const double at = part.sides[chosen].middle();
  if (!(at > part.sides[chosen].lower && at < part.sides[chosen].upper)) return false;
  Part upper = part;
  upper.sides[chosen].lower = at;
  part.sides[chosen].upper = at;
  queue_.push(std::move(part));
  queue_.push(std::move(upper));
  return true;
}

void BoxPartition::split_faces(Part&& part, std::size_t i) {
  for (const bool is_lower : {true, false}) {
    if (!(is_lower ? touches_lower(part, i) : touches_upper(part, i))) continue;
    Part face = part;
    face.sides[i] = is_lower ? Enclosure(region_[i].lower) : Enclosure(region_[i].upper);
    (is_lower ? part.without_lower : part.without_upper)[i] = 1;
    queue_.push(std::move(face));
  }
  queue_.push(std::move(part));
}

/// Into one of those that it touches, which then may touch others.
void BoxPartition::join(Part&& part, std::vector<Part>& joined) const {
  constexpr double near = 2;
  for (bool again = true; again;) {
    again = false;
    for (std::size_t k = 0; k < joined.size(); ++k) {
      bool touches = true;
      for (std::size_t i = 0; i < n_ && touches; ++i) {
        const double room = near * width_ * problem_.typical_size(i);
        const Enclosure &a = joined[k].sides[i], &b = part.sides[i];
        touches = a.lower <= b.upper + room && b.lower <= a.upper + room;
      }
      if (!touches) continue;
      for (std::size_t i = 0; i < n_; ++i) {
        part.sides[i] = hull(part.sides[i], joined[k].sides[i]);
        part.without_lower[i] = part.without_lower[i] != 0 && joined[k].without_lower[i] != 0;
        part.without_upper[i] = part.without_upper[i] != 0 && joined[k].without_upper[i] != 0;
      }
      joined.erase(joined.begin() + static_cast<std::ptrdiff_t>(k));
      again = true;
      break;
    }
  }
  joined.push_back(std::move(part));
}

} // namespace tanzen::methods
