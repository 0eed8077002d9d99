#include "tanzen/problem/observed.hpp"

namespace tanzen {
namespace {

class ObservedFunction final : public VectorFunction {
 public:
  ObservedFunction(FunctionPointer function, EvaluationListener listener)
      : function_(std::move(function)), listener_(std::move(listener)) {}

  [[nodiscard]] Index dimension() const override { return function_->dimension(); }
  [[nodiscard]] Index outputs() const override { return function_->outputs(); }
  [[nodiscard]] Derivatives derivatives() const override { return function_->derivatives(); }
  [[nodiscard]] Index rows() const override { return function_->rows(); }
  [[nodiscard]] std::unique_ptr<FunctionWorker> worker(const Waiting& waiting) const override {
    return std::make_unique<Worker>(function_->worker(waiting), listener_);
  }

 private:
  class Worker final : public FunctionWorker {
   public:
    Worker(std::unique_ptr<FunctionWorker> inner, const EvaluationListener& listener)
        : inner_(std::move(inner)), listener_(listener) {}

    double value(const Vector& x) override { return told(x, inner_->value(x)); }
    double gradient(const Vector& x, Vector& gradient) override { return told(x, inner_->gradient(x, gradient)); }
    void outputs(const Vector& x, Vector& outputs) override {
      inner_->outputs(x, outputs);
      listener_(x, outputs[0]);
    }
    void weighted_gradient(const Vector& x, const Vector& weights, Vector& gradient) override {
      inner_->weighted_gradient(x, weights, gradient);
    }
    void jacobian(const Vector& x, Matrix& jacobian) override { inner_->jacobian(x, jacobian); }
    void visit_jacobian(const Vector& x, const JacobianVisitor& visit) override { inner_->visit_jacobian(x, visit); }
    void jacobian_times(const Vector& x, const Vector& direction, Vector& product) override {
      inner_->jacobian_times(x, direction, product);
    }
    void weighted_hessian(const Vector& x, const Vector& weights, Matrix& hessian) override {
      inner_->weighted_hessian(x, weights, hessian);
    }
    void weighted_hessian_times(const Vector& x, const Vector& weights, const Vector& direction,
                                Vector& product) override {
      inner_->weighted_hessian_times(x, weights, direction, product);
    }

    void row_gradient(const Vector& x, std::span<const Index> rows, Vector& gradient) override {
      inner_->row_gradient(x, rows, gradient);
    }
    void row_outputs(const Vector& x, std::span<const Index> rows, Vector& outputs) override {
      inner_->row_outputs(x, rows, outputs);
    }
    void row_weighted_gradient(const Vector& x, std::span<const Index> rows, const Vector& weights,
                               Vector& gradient) override {
      inner_->row_weighted_gradient(x, rows, weights, gradient);
    }

   private:
    double told(const Vector& x, double value) {
      listener_(x, value);
      return value;
    }

    std::unique_ptr<FunctionWorker> inner_;
    const EvaluationListener& listener_; ///< of the function, which outlives its workers
  };

  FunctionPointer function_;
  EvaluationListener listener_;
};

} // namespace

FunctionPointer make_observed(FunctionPointer function, EvaluationListener listener) {
  return std::make_shared<ObservedFunction>(std::move(function), std::move(listener));
}

} // namespace tanzen
