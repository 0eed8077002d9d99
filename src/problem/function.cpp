#include "tanzen/problem/function.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/expression/block_tape.hpp"

#include <optional>

namespace tanzen {
namespace {

[[noreturn]] void no_derivative(const char* what) {
  throw ProblemError(std::string("the objective has no exact ") + what + ": it is an opaque function");
}

class TapeFunction final : public ScalarFunction {
 public:
  explicit TapeFunction(const Expression& expression) : expression_(expression), tape_(expression) {}

  [[nodiscard]] Index dimension() const override { return tape_.dimension(); }
  [[nodiscard]] Derivatives derivatives() const override { return Derivatives::hessian; }
  [[nodiscard]] std::unique_ptr<FunctionWorker> worker() const override { return std::make_unique<Worker>(*this); }
  [[nodiscard]] bool is_concurrent() const override { return true; }
  [[nodiscard]] bool has_batch() const override { return true; }

 private:
  class Worker final : public FunctionWorker {
   public:
    explicit Worker(const TapeFunction& function)
        : expression_(function.expression_), tape_(function.tape_), work_(tape_.workspace()) {}
    double value(const Vector& x) override { return tape_.evaluate(x, work_); }
    double gradient(const Vector& x, Vector& gradient) override { return tape_.gradient(x, work_, gradient); }
    void hessian(const Vector& x, Matrix& hessian) override { tape_.hessian(x, work_, hessian); }
    void hessian_times(const Vector& x, const Vector& direction, Vector& product) override {
      tape_.hessian_times(x, direction, work_, product);
    }

    void values(const Matrix& points, Vector& values) override {
      if (!blocks_) {
        blocks_.emplace(expression_);
        block_work_ = blocks_->workspace();
      }
      blocks_->evaluate(points, block_work_, values);
    }

   private:
    const Expression& expression_; ///< of the function, which outlives its workers
    const Tape& tape_;             ///< likewise
    Tape::Workspace work_;
    std::optional<BlockTape> blocks_; ///< made when first asked for
    BlockTape::Workspace block_work_;
  };

  Expression expression_;

  Tape tape_;
};

class OpaqueFunction final : public ScalarFunction {
 public:
  OpaqueFunction(Index dimension, std::function<double(const Vector&)> callable, Calls calls)
      : dimension_(dimension), callable_(std::move(callable)), calls_(calls) {}

  [[nodiscard]] Index dimension() const override { return dimension_; }
  [[nodiscard]] Derivatives derivatives() const override { return Derivatives::none; }
  [[nodiscard]] std::unique_ptr<FunctionWorker> worker() const override { return std::make_unique<Worker>(callable_); }
  [[nodiscard]] bool is_concurrent() const override { return calls_ == Calls::concurrent; }

 private:
  class Worker final : public FunctionWorker {
   public:
    explicit Worker(const std::function<double(const Vector&)>& callable) : callable_(callable) {}
    double value(const Vector& x) override { return callable_(x); }

   private:
    const std::function<double(const Vector&)>& callable_;
  };

  Index dimension_;
  std::function<double(const Vector&)> callable_;
  Calls calls_;
};

} // namespace

void VectorFunction::values(const Vector& x, Worker& worker, Vector& values) const {
  tape_.evaluate(x, worker);
  values.resize(outputs());
  for (Index i = 0; i < outputs(); ++i) values[i] = tape_.output(i, worker);
}

void VectorFunction::jacobian(const Vector& x, Worker& worker, Vector& values, Matrix& jacobian) const {
  this->values(x, worker, values);
  jacobian.resize(outputs(), dimension());
  std::vector<double> weights(static_cast<std::size_t>(outputs()), 0);
  Vector row(dimension());
  for (Index i = 0; i < outputs(); ++i) {
    weights[static_cast<std::size_t>(i)] = 1;
    tape_.weighted_gradient(weights, worker, row);
    weights[static_cast<std::size_t>(i)] = 0;
    jacobian.row(i) = row;
  }
}

void FunctionWorker::values(const Matrix& points, Vector& values) {
  values.resize(points.cols());
  for (Index k = 0; k < points.cols(); ++k) values[k] = value(points.col(k));
}

double FunctionWorker::gradient(const Vector& /*x*/, Vector& /*gradient*/) {
  no_derivative("gradient");
}
void FunctionWorker::hessian(const Vector& /*x*/, Matrix& /*hessian*/) {
  no_derivative("Hessian");
}
void FunctionWorker::hessian_times(const Vector& /*x*/, const Vector& /*direction*/, Vector& /*product*/) {
  no_derivative("Hessian");
}

FunctionPointer make_function(const Expression& expression) {
  return std::make_shared<TapeFunction>(expression);
}

FunctionPointer make_opaque_function(Index dimension, std::function<double(const Vector&)> callable, Calls calls) {
  return std::make_shared<OpaqueFunction>(dimension, std::move(callable), calls);
}

} // namespace tanzen
