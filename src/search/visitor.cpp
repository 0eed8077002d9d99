#include "tanzen/search/visitor.hpp"

#include "tanzen/numeric/constants.hpp"

#include <algorithm>
#include <fmt/format.h>

namespace tanzen {
Visitor::Visitor(const Problem& problem, bool stops_on_broken, Team team, Waiting waiting)
    : problem_(&problem), is_one_(problem.bundle().get() == &problem.objective()), waiting_(std::move(waiting)),
      worker_(problem.objective().worker(waiting_)), stops_on_broken_(stops_on_broken), team_(std::move(team)) {}

void Visitor::objective_threw(const Vector& x, const char* what) const {
  throw RunEnded{Status::failed, fmt::format("the objective failed at {}: {}", point_text(x), what)};
}

void Visitor::note_broken(const Vector& x, const char* what) {
  if (stops_on_broken_) objective_threw(x, what);
  if (events_.broken++ == 0) events_.first_broken = what;
  is_broken_ = true;
}

double Visitor::value(const Vector& x) {
  try {
    return worker_->value(x);
  } catch (const BrokenEvaluation& error) {
    note_broken(x, error.what());
    return not_known;
  } catch (const std::exception& error) {
    objective_threw(x, error.what());
  }
}

double Visitor::value_and_gradient(const Vector& x, Vector& gradient) {
  try {
    return worker_->gradient(x, gradient);
  } catch (const BrokenEvaluation& error) {
    note_broken(x, error.what());
    gradient.setConstant(not_known);
    return not_known;
  } catch (const std::exception& error) {
    objective_threw(x, error.what());
  }
}

void Visitor::parts(const Vector& x, Vector& parts) {
  try {
    bundle_worker().outputs(x, parts);
  } catch (const BrokenEvaluation& error) {
    note_broken(x, error.what());
    parts.setConstant(problem_->bundle()->outputs(), not_known);
  } catch (const std::exception& error) {
    objective_threw(x, error.what());
  }
}

bool Visitor::is_shared(const VectorFunction& function) const {
  return team_.share && team_.size > 1 && function.is_concurrent() && !function.depends_on_order();
}

bool Visitor::is_batch(bool all_parts) const {
  return is_shared(function(all_parts)) || function(all_parts).has_batch();
}

void Visitor::batch(const Matrix& points, Index count, bool all_parts, Matrix& parts) {
  const Matrix some = count == points.cols() ? Matrix() : Matrix(points.leftCols(count));
  const Matrix& asked = count == points.cols() ? points : some;
  thrown_.clear();
  if (is_shared(function(all_parts))) {
    share_out(asked, all_parts, parts);
    return;
  }
  if (all_parts) {
    bundle_worker().outputs(asked, parts);
    return;
  }
  worker_->values(asked, values_);
  parts = values_.transpose();
}

void Visitor::share_out(const Matrix& points, bool all_parts, Matrix& parts) {
  // Parts small enough that slow points do not keep one thread busy alone, large enough for a batch.
  const auto count = static_cast<std::size_t>(points.cols());
  const std::size_t width = std::clamp<std::size_t>(count / (4 * team_.size), 1, 64);
  const std::size_t shares = (count + width - 1) / width;
  const VectorFunction& asked = function(all_parts);
  parts.resize(all_parts ? asked.outputs() : 1, points.cols());
  thrown_.assign(count, nullptr);
  std::vector<Mate>& mates = mates_[all_parts ? 1 : 0];
  while (mates.size() < shares) mates.push_back({asked.worker(waiting_), {}, {}, {}});
  const bool has_batch = asked.has_batch();
  team_.share(shares, [&](std::size_t share) {
    Mate& mate = mates[share];
    const std::size_t first = share * width, size = std::min(width, count - first);
    const auto from = static_cast<Index>(first), many = static_cast<Index>(size);
    mate.points = points.middleCols(from, many);
    if (has_batch) {
      if (all_parts) {
        mate.worker->outputs(mate.points, mate.parts);
        parts.middleCols(from, many) = mate.parts;
      } else {
        mate.worker->values(mate.points, mate.part);
        parts.row(0).segment(from, many) = mate.part;
      }
      return;
    }
    for (Index k = 0; k < many; ++k) {
      try {
        mate.worker->outputs(mate.points.col(k), mate.part);
        parts.col(from + k) = mate.part.head(parts.rows());
      } catch (...) {
        thrown_[first + static_cast<std::size_t>(k)] = std::current_exception();
      }
    }
  });
}

void Visitor::look_at(Index k, const Vector& x, Matrix& parts) {
  const auto place = static_cast<std::size_t>(k);
  if (place >= thrown_.size() || !thrown_[place]) return;
  try {
    std::rethrow_exception(thrown_[place]);
  } catch (const BrokenEvaluation& error) {
    note_broken(x, error.what());
    parts.col(k).setConstant(not_known);
  } catch (const std::exception& error) {
    objective_threw(x, error.what());
  }
}

} // namespace tanzen
