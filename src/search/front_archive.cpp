#include "tanzen/search/front_archive.hpp"

#include "tanzen/numeric/sampling.hpp"

#include <algorithm>
#include <span>

namespace tanzen {
namespace {

/// Of three objectives, and of more, whose points take longer to compare.
constexpr Index samples_in_space = 65'536, samples_beyond = 16'384;

std::span<const double> numbers_of(VectorView objectives) {
  return {objectives.data(), static_cast<std::size_t>(objectives.size())};
}

/// The area that a front of two objectives covers. Its points leave a strip of about a part of their number; what is
/// left of it after twice as many points tells how wide it is (Richardson, 1911).
double area_of(const KnownFront& front, const Vector& reference) {
  constexpr Index count = 10'000;
  const double coarse = hypervolume(front.points(count), reference);
  return 2 * hypervolume(front.points(2 * count), reference) - coarse;
}

Vector widths(const Vector& lower, const Vector& upper) {
  return (upper - lower).unaryExpr([](double width) { return width > 0 ? width : 1.0; });
}

/// Objectives of 101 points of the region, to be minimized.
Matrix looked_at(const Problem& problem) {
  constexpr Index looked = 101;
  const Matrix points =
      uniform_points(problem.sampling_box(), looked, RandomStream(1, {"front reference", problem.name()}));
  Matrix values;
  problem.bundle()->worker()->outputs(points, values);
  Matrix objectives = values.topRows(problem.parts().objectives);
  for (Index k = 0; k < objectives.rows(); ++k)
    objectives.row(k) *= sign_of(problem.objectives()[static_cast<std::size_t>(k)].sense);
  return objectives;
}

} // namespace

std::optional<FrontBox> FrontBox::of(const Problem& problem) {
  if (const auto& front = problem.known_front()) {
    constexpr double beyond = 0.1;
    return FrontBox{front->ideal, front->nadir + beyond * widths(front->ideal, front->nadir)};
  }
  if (problem.bundle()->derivatives() == Derivatives::none) return std::nullopt;
  const Matrix seen = looked_at(problem);
  if (!seen.allFinite()) return std::nullopt;
  const Vector highest = seen.rowwise().maxCoeff(), lowest = seen.rowwise().minCoeff();
  return FrontBox{lowest - 0.5 * widths(lowest, highest), highest};
}

FrontArchive::FrontArchive(const Problem& problem) : box_(FrontBox::of(problem)) {
  if (box_) measure_with(problem, *box_);
}

void FrontArchive::measure_with(const Problem& problem, const FrontBox& box) {
  const KnownFront* front = problem.known_front().get();
  if (box.reference.size() == 2) {
    is_known_ = front != nullptr;
    if (is_known_) unit_ = 1 / area_of(*front, box.reference);
    return;
  }
  const Matrix samples =
      sobol_points({box.lower, box.reference}, box.reference.size() == 3 ? samples_in_space : samples_beyond,
                   RandomStream(1, {"front measure", problem.parts().objectives}));
  for (Index k = 0; k < samples.cols(); ++k) {
    if (front != nullptr && !front->covers(samples.col(k))) continue;
    open_.add({samples.col(k).data(), static_cast<std::size_t>(samples.rows())}, samples_++);
  }
  unit_ = front != nullptr ? 1 / static_cast<double>(std::max<std::size_t>(samples_, 1))
                           : (box.reference - box.lower).prod() / static_cast<double>(samples.cols());
}

bool FrontArchive::add(const Vector& x, VectorView objectives) {
  const bool is_new = objectives.size() == 2 ? add_to_plane(x, objectives) : add_to_space(x, objectives);
  if (is_new && box_) cover(objectives);
  return is_new;
}

bool FrontArchive::add_to_plane(const Vector& x, VectorView objectives) {
  // By rising first objective the second falls: the one before may cover the new point, those behind may be covered.
  const auto behind =
      std::ranges::upper_bound(points_, objectives[0], {}, [](const FrontPoint& p) { return p.objectives[0]; });
  auto first = behind;
  if (first != points_.begin()) {
    const FrontPoint& before = *std::prev(first);
    if (before.objectives[1] <= objectives[1]) return false;
    if (before.objectives[0] == objectives[0]) --first;
  }
  const auto last =
      std::find_if(behind, points_.end(), [&](const FrontPoint& p) { return p.objectives[1] < objectives[1]; });
  points_.insert(points_.erase(first, last), {x, objectives});
  return true;
}

bool FrontArchive::add_to_space(const Vector& x, VectorView objectives) {
  const auto numbers = numbers_of(objectives);
  if (tree_.has_at_or_below(numbers)) return false;
  dropped_.clear();
  tree_.take_at_or_above(numbers, dropped_);
  if (!dropped_.empty()) drop(dropped_);
  tree_.add(numbers, next_born_);
  points_.push_back({x, objectives});
  born_.push_back(next_born_++);
  return true;
}

void FrontArchive::drop(std::vector<std::size_t>& born) {
  std::ranges::sort(born);
  auto next = born.begin();
  auto kept = static_cast<std::size_t>(std::ranges::lower_bound(born_, *next) - born_.begin());
  for (std::size_t k = kept; k < points_.size(); ++k) {
    if (next != born.end() && born_[k] == *next) {
      ++next;
      continue;
    }
    points_[kept] = std::move(points_[k]);
    born_[kept++] = born_[k];
  }
  points_.resize(kept);
  born_.resize(kept);
}

void FrontArchive::cover(VectorView objectives) {
  if (objectives.size() == 2) {
    const double right = box_->reference[0] - objectives[0], up = box_->reference[1] - objectives[1];
    if (right > 0 && up > 0) area_.add(right, up);
    return;
  }
  dropped_.clear();
  open_.take_at_or_above(numbers_of(objectives), dropped_);
}

double FrontArchive::covered() const {
  if (!box_) return std::numeric_limits<double>::quiet_NaN();
  // The area of a front that was computed is known to some 1e-5.
  if (box_->reference.size() == 2) return is_known_ ? std::min(1.0, area_.area() * unit_) : area_.area();
  return static_cast<double>(samples_ - open_.size()) * unit_;
}

} // namespace tanzen
