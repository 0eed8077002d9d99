#include "tanzen/problem/function.hpp"

#include "tanzen/numeric/constants.hpp"
#include "tanzen/problem/differences.hpp"

namespace tanzen {
namespace {

class DifferencedFunction final : public VectorFunction {
 public:
  explicit DifferencedFunction(FunctionPointer function) : function_(std::move(function)) {}
  [[nodiscard]] Index dimension() const override { return function_->dimension(); }
  [[nodiscard]] Index outputs() const override { return function_->outputs(); }
  [[nodiscard]] Derivatives derivatives() const override { return Derivatives::gradient; }
  [[nodiscard]] std::unique_ptr<FunctionWorker> worker(const Waiting& waiting) const override {
    return std::make_unique<Worker>(function_->worker(waiting));
  }
  [[nodiscard]] bool is_concurrent() const override { return function_->is_concurrent(); }
  [[nodiscard]] bool depends_on_order() const override { return function_->depends_on_order(); }

 private:
  class Worker final : public FunctionWorker {
   public:
    explicit Worker(std::unique_ptr<FunctionWorker> inner) : inner_(std::move(inner)) {}
    double value(const Vector& x) override { return inner_->value(x); }
    void outputs(const Vector& x, Vector& outputs) override { inner_->outputs(x, outputs); }
    double gradient(const Vector& x, Vector& gradient) override {
      jacobian(x, jacobian_);
      gradient = jacobian_.row(0);
      return inner_->value(x);
    }
    void weighted_gradient(const Vector& x, const Vector& weights, Vector& gradient) override {
      jacobian(x, jacobian_);
      gradient = jacobian_.transpose() * weights;
    }
    void jacobian(const Vector& x, Matrix& jacobian) override {
      Vector moved = x, down, up;
      for (Index i = 0; i < x.size(); ++i) {
        const DifferencePair pair = central_pair(x[i], -infinity, infinity);
        moved[i] = pair.down;
        inner_->outputs(moved, down);
        moved[i] = pair.up;
        inner_->outputs(moved, up);
        moved[i] = x[i];
        jacobian.resize(up.size(), x.size());
        jacobian.col(i) = (up - down) / (pair.up - pair.down);
      }
    }

   private:
    std::unique_ptr<FunctionWorker> inner_;
    Matrix jacobian_;
  };

  FunctionPointer function_;
};

} // namespace

FunctionPointer with_differences(FunctionPointer function) {
  return std::make_shared<DifferencedFunction>(std::move(function));
}

} // namespace tanzen
