#include "tanzen/problem/differences.hpp"
#include "tanzen/search/evaluator.hpp"

#include "evaluator_run.hpp"

#include <algorithm>
#include <cmath>

namespace tanzen {

const Vector& Evaluator::gradient(const Vector& x) {
  check_length(x);
  const bool at_start = is_first_at_start(x);
  if (!exact_) {
    difference_gradient(x, central_ ? 0 : (*this)(x));
  } else if (is_short_) {
    short_gradient(x);
    (void)visitor_->was_broken(); // no value was asked for
  } else {
    weighted_gradient(x);
  }
  note_gradient(x, at_start);
  return gradient_;
}

Index Evaluator::rows() const {
  return is_short_ && is_own_ && exact_ ? std::max<Index>(1, problem().objective().rows()) : 1;
}

const Vector& Evaluator::row_gradient(const Vector& x, std::span<const Index> rows) {
  const Index all = this->rows();
  if (all == 1) return gradient(x);
  check_length(x);
  row_gradients_ += static_cast<Index>(rows.size());
  for (; row_gradients_ >= all; row_gradients_ -= all) ledger_->spend(Spent::gradients);
  gradient_.resize(dimension_);
  visitor_->derive(x, false, gradient_, [&](FunctionWorker& worker) { worker.row_gradient(x, rows, gradient_); });
  gradient_ *= sign_ * static_cast<double>(all) / static_cast<double>(rows.size());
  note_gradient(x, false);
  return gradient_;
}

Evaluator::ValueAndGradient Evaluator::value_and_gradient(const Vector& x) {
  check_length(x);
  const bool at_start = is_first_at_start(x);
  double value = 0;
  if (exact_ && is_short_) {
    ledger_->spend_evaluation();
    value = noted(x, short_gradient(x));
  } else {
    value = value_then_gradient(x);
  }
  note_gradient(x, at_start);
  return {value, gradient_};
}

double Evaluator::value_then_gradient(const Vector& x) {
  const double value = (*this)(x);
  if (!exact_) {
    difference_gradient(x, value);
    return value;
  }
  ledger_->spend(Spent::gradients);
  slopes_.resize(counts_.all());
  scalarization_->slopes(evaluation_, slopes_);
  turn_objectives(slopes_);
  visitor_->derive(x, true, gradient_,
                   [&](FunctionWorker& worker) { worker.weighted_gradient(x, slopes_, gradient_); });
  return value;
}

void Evaluator::find_slopes(const Vector& x) {
  parts_.resize(counts_.all());
  visitor_->derive(x, true, parts_, [&](FunctionWorker& worker) { worker.outputs(x, parts_); });
  turn_objectives(parts_);
  evaluation_ = Evaluation(parts_, counts_);
  slopes_.resize(counts_.all());
  scalarization_->slopes(evaluation_, slopes_);
}

double Evaluator::short_gradient(const Vector& x) {
  ledger_->spend(Spent::gradients);
  gradient_.resize(dimension_);
  const double value = visitor_->value_and_gradient(x, gradient_);
  if (sign_ < 0) gradient_ = -gradient_;
  return sign_ * value;
}

void Evaluator::weighted_gradient(const Vector& x) {
  ledger_->spend(Spent::gradients);
  gradient_.resize(dimension_);
  find_slopes(x);
  turn_objectives(slopes_);
  visitor_->derive(x, true, gradient_,
                   [&](FunctionWorker& worker) { worker.weighted_gradient(x, slopes_, gradient_); });
}

void Evaluator::shared_difference_gradient(const Vector& x, double value) {
  const Index each = central_ ? 2 : 1;
  Matrix points = x.replicate(1, each * dimension_);
  Vector gaps(dimension_), at_points;
  for (Index i = 0; i < dimension_; ++i) {
    const double lower = bounds().lower()[i], upper = bounds().upper()[i];
    const DifferencePair pair = central_ ? central_pair(x[i], lower, upper) : forward_pair(x[i], lower, upper);
    if (central_) points(i, 2 * i) = pair.down;
    points(i, each * i + each - 1) = pair.up;
    gaps[i] = pair.up - pair.down;
  }
  values(points, at_points);
  for (Index i = 0; i < dimension_; ++i) {
    const double down_value = central_ ? at_points[2 * i] : value;
    gradient_[i] = gaps[i] == 0 ? 0 : (at_points[each * i + each - 1] - down_value) / gaps[i];
  }
}

void Evaluator::difference_gradient(const Vector& x, double value) {
  gradient_.resize(dimension_);
  if (visitor_->is_shared(!is_short_)) {
    shared_difference_gradient(x, value);
    return;
  }
  probe_ = x;
  for (Index i = 0; i < dimension_; ++i) {
    const double lower = bounds().lower()[i], upper = bounds().upper()[i];
    const DifferencePair pair = central_ ? central_pair(x[i], lower, upper) : forward_pair(x[i], lower, upper);
    double down_value = value;
    if (central_) {
      probe_[i] = pair.down;
      down_value = (*this)(probe_);
    }
    probe_[i] = pair.up;
    const double up_value = (*this)(probe_);
    probe_[i] = x[i];
    // A variable that its bounds hold fast has no slope to follow.
    gradient_[i] = pair.up == pair.down ? 0 : (up_value - down_value) / (pair.up - pair.down);
  }
}

bool Evaluator::is_first_at_start(const Vector& x) {
  if (run_->gradient_asked) return false;
  run_->gradient_asked = true;
  return is_own_ && incumbent_->found_at() == 1 && x == incumbent_->point();
}

void Evaluator::note_gradient(const Vector& x, bool at_start) {
  if (at_start) run_->start_gradient_norm = bounds().projected_gradient_norm(x, gradient_);
  // The sum is a number where all entries are, and is found much faster than by asking each.
  if (!std::isfinite(gradient_.sum())) ++visitor_->events().broken_gradients;
}

const Matrix& Evaluator::hessian(const Vector& x) {
  check_length(x);
  if (exact_hessian_ && is_short_) {
    static const Vector one = Vector::Ones(1);
    ledger_->spend(Spent::hessians);
    hessian_.resize(dimension_, dimension_);
    visitor_->derive(x, false, hessian_, [&](FunctionWorker& worker) { worker.weighted_hessian(x, one, hessian_); });
    if (sign_ < 0) hessian_ = -hessian_;
    return hessian_;
  }
  if (exact_hessian_) {
    find_slopes(x);
    (void)weighted_hessian(x, slopes_);
    if (scalarization_->bends(evaluation_, slopes_)) {
      visitor_->derive(x, true, jacobian_, [&](FunctionWorker& worker) { worker.jacobian(x, jacobian_); });
      hessian_ += jacobian_.transpose() * slopes_.asDiagonal() * jacobian_;
    }
    return hessian_;
  }
  hessian_.resize(dimension_, dimension_);
  moved_ = x;
  for (Index i = 0; i < dimension_; ++i) {
    const DifferencePair pair = central_pair(x[i], bounds().lower()[i], bounds().upper()[i]);
    if (pair.up == pair.down) {
      hessian_.col(i).setZero(); // a variable that its bounds hold fast
      continue;
    }
    moved_[i] = pair.down;
    hessian_.col(i) = -gradient(moved_);
    moved_[i] = pair.up;
    hessian_.col(i) += gradient(moved_);
    hessian_.col(i) /= pair.up - pair.down;
    moved_[i] = x[i];
  }
  symmetrize(hessian_);
  return hessian_;
}

const Matrix& Evaluator::weighted_hessian(const Vector& x, const Vector& weights) {
  check_length(x);
  ledger_->spend(Spent::hessians);
  hessian_.resize(dimension_, dimension_);
  probe_ = weights;
  turn_objectives(probe_);
  visitor_->derive(x, true, hessian_, [&](FunctionWorker& worker) { worker.weighted_hessian(x, probe_, hessian_); });
  return hessian_;
}

void Evaluator::hessian_times(const Vector& x, const Vector& at_x, const Vector& direction, Vector& product) {
  check_length(x);
  if (exact_hessian_) {
    ledger_->spend(Spent::gradients);
    product.resize(dimension_);
    if (is_short_) {
      static const Vector one = Vector::Ones(1);
      visitor_->derive(x, false, product,
                       [&](FunctionWorker& worker) { worker.weighted_hessian_times(x, one, direction, product); });
      if (sign_ < 0) product = -product;
      return;
    }
    find_slopes(x);
    turn_objectives(slopes_);
    visitor_->derive(x, true, product, [&](FunctionWorker& worker) {
      worker.weighted_hessian_times(x, slopes_, direction, product);
      if (!scalarization_->bends(evaluation_, slopes_)) return;
      worker.jacobian_times(x, direction, moved_);
      moved_.array() *= slopes_.array();
      worker.weighted_gradient(x, moved_, probe_);
      product += probe_;
    });
    return;
  }
  // Nocedal and Wright, 2006, equation 8.20, with the step in proportion to the point.
  const double length = direction.norm();
  if (length == 0) {
    product.setZero(dimension_);
    return;
  }
  const double step = std::sqrt(std::numeric_limits<double>::epsilon()) * (1 + x.norm()) / length;
  product = at_x; // kept before the evaluator's own gradient changes
  moved_ = x + step * direction;
  product = (gradient(moved_) - product) / step;
}

const Matrix& Evaluator::jacobian(const Vector& x, const Vector* parts) {
  check_length(x);
  if (!exact_) {
    difference_jacobian(x, parts);
    return jacobian_;
  }
  ledger_->spend(Spent::gradients, counts_.objectives + counts_.constraints + (counts_.residuals > 0 ? 1 : 0));
  jacobian_.resize(counts_.all(), dimension_);
  visitor_->derive(x, true, jacobian_, [&](FunctionWorker& worker) { worker.jacobian(x, jacobian_); });
  for (Index k = 0; k < counts_.objectives; ++k) {
    if (signs_[k] < 0) jacobian_.row(k) = -jacobian_.row(k);
  }
  return jacobian_;
}

void Evaluator::visit_residual_rows(const Vector& x, const Vector& parts,
                                    const std::function<void(Index first, const Matrix& rows)>& visit) {
  check_length(x);
  if (!exact_ || counts_.all() != counts_.residuals) {
    (void)jacobian(x, &parts);
    visit(0, residual_rows());
    return;
  }
  ledger_->spend(Spent::gradients);
  Vector is_whole = Vector::Ones(1);
  visitor_->derive(x, true, is_whole, [&](FunctionWorker& worker) {
    worker.visit_jacobian(x, [&](Index first, const Vector&, const Matrix& rows) { visit(first, rows); });
  });
  if (is_whole[0] != 1) visit(0, Matrix::Constant(counts_.residuals, dimension_, is_whole[0])); // it broke down
}

void Evaluator::difference_jacobian(const Vector& x, const Vector* parts) {
  jacobian_.resize(counts_.all(), dimension_);
  Vector here;
  if (!central_) here = parts != nullptr ? *parts : Vector(at(x).parts());
  moved_ = x;
  for (Index i = 0; i < dimension_; ++i) {
    const double lower = bounds().lower()[i], upper = bounds().upper()[i];
    const DifferencePair pair = central_ ? central_pair(x[i], lower, upper) : forward_pair(x[i], lower, upper);
    if (pair.up == pair.down) {
      jacobian_.col(i).setZero(); // a variable that its bounds hold fast
      continue;
    }
    moved_[i] = pair.up;
    jacobian_.col(i) = at(moved_).parts();
    moved_[i] = pair.down;
    jacobian_.col(i) -= central_ ? Vector(at(moved_).parts()) : here;
    jacobian_.col(i) /= pair.up - pair.down;
    moved_[i] = x[i];
  }
}

} // namespace tanzen
