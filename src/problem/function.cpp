#include "tanzen/problem/function.hpp"

#include "tanzen/base/errors.hpp"

namespace tanzen {
namespace {

[[noreturn]] void no_derivative(const char* what) {
  throw ProblemError(std::string("the objective has no exact ") + what + ": it is an opaque function");
}

} // namespace

void FunctionWorker::values(const Matrix& points, Vector& values) {
  values.resize(points.cols());
  for (Index k = 0; k < points.cols(); ++k) values[k] = value(points.col(k));
}

double FunctionWorker::gradient(const Vector& x, Vector& gradient) {
  outputs(x, scratch_);
  const double first = scratch_[0];
  weighted_gradient(x, Vector::Unit(scratch_.size(), 0), gradient);
  return first;
}

void FunctionWorker::outputs(const Vector& x, Vector& outputs) {
  outputs.resize(1);
  outputs[0] = value(x);
}

void FunctionWorker::outputs(const Matrix& points, Matrix& outputs) {
  Vector one;
  for (Index k = 0; k < points.cols(); ++k) {
    this->outputs(points.col(k), one);
    outputs.resize(one.size(), points.cols());
    outputs.col(k) = one;
  }
}

void FunctionWorker::weighted_gradient(const Vector& /*x*/, const Vector& /*weights*/, Vector& /*gradient*/) {
  no_derivative("gradient");
}

void FunctionWorker::jacobian(const Vector& x, Matrix& jacobian) {
  outputs(x, scratch_);
  const Index count = scratch_.size();
  jacobian.resize(count, x.size());
  Vector row;
  for (Index k = 0; k < count; ++k) {
    weighted_gradient(x, Vector::Unit(count, k), row);
    jacobian.row(k) = row;
  }
}

void FunctionWorker::visit_jacobian(const Vector& x, const JacobianVisitor& visit) {
  Matrix rows;
  Vector all;
  outputs(x, all);
  jacobian(x, rows);
  visit(0, all, rows);
}

void FunctionWorker::jacobian_times(const Vector& x, const Vector& direction, Vector& product) {
  Matrix rows;
  jacobian(x, rows);
  product = rows * direction;
}

void FunctionWorker::weighted_hessian(const Vector& x, const Vector& weights, Matrix& hessian) {
  const Index n = x.size();
  hessian.resize(n, n);
  for (Index j = 0; j < n; ++j) {
    weighted_hessian_times(x, weights, Vector::Unit(n, j), scratch_);
    hessian.col(j) = scratch_;
  }
  symmetrize(hessian);
}

void FunctionWorker::weighted_hessian_times(const Vector& /*x*/, const Vector& /*weights*/, const Vector& /*direction*/,
                                            Vector& /*product*/) {
  no_derivative("Hessian");
}

namespace {
[[noreturn]] void has_no_rows() {
  throw ProblemError("the function is no sum over data");
}
} // namespace

void FunctionWorker::row_gradient(const Vector& /*x*/, std::span<const Index> /*rows*/, Vector& /*gradient*/) {
  has_no_rows();
}

void FunctionWorker::row_outputs(const Vector& /*x*/, std::span<const Index> /*rows*/, Vector& /*outputs*/) {
  has_no_rows();
}

void FunctionWorker::row_weighted_gradient(const Vector& /*x*/, std::span<const Index> /*rows*/,
                                           const Vector& /*weights*/, Vector& /*gradient*/) {
  has_no_rows();
}

} // namespace tanzen
