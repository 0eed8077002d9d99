#include "tanzen/problem/function.hpp"

#include "tanzen/base/errors.hpp"

#include <algorithm>
#include <cassert>

namespace tanzen {
namespace {

class StackedFunction final : public VectorFunction {
 public:
  explicit StackedFunction(std::vector<FunctionPointer> functions) : functions_(std::move(functions)) {
    for (const auto& function : functions_) {
      if (function == nullptr) throw ProblemError("a part of a problem is no function");
      if (function->dimension() != functions_.front()->dimension())
        throw ProblemError("the parts of a problem must have the same variables");
      outputs_ += function->outputs();
      derivatives_ = std::min(derivatives_, function->derivatives());
    }
  }

  [[nodiscard]] Index dimension() const override { return functions_.front()->dimension(); }
  [[nodiscard]] Index outputs() const override { return outputs_; }
  [[nodiscard]] Derivatives derivatives() const override { return derivatives_; }
  [[nodiscard]] std::unique_ptr<FunctionWorker> worker(const Waiting& waiting) const override {
    return std::make_unique<Worker>(*this, waiting);
  }
  [[nodiscard]] bool is_concurrent() const override { return all(&VectorFunction::is_concurrent); }
  [[nodiscard]] bool depends_on_order() const override {
    return std::ranges::any_of(functions_, [](const auto& each) { return each->depends_on_order(); });
  }
  [[nodiscard]] bool has_batch() const override { return all(&VectorFunction::has_batch); }

 private:
  [[nodiscard]] bool all(bool (VectorFunction::*is_so)() const) const {
    return std::ranges::all_of(functions_, [&](const auto& each) { return (*each.*is_so)(); });
  }

  class Worker final : public FunctionWorker {
   public:
    Worker(const StackedFunction& stack, const Waiting& waiting) : outputs_(stack.outputs_) {
      for (const auto& function : stack.functions_) parts_.push_back({function->worker(waiting), function->outputs()});
    }
    double value(const Vector& x) override { return parts_.front().worker->value(x); }
    void values(const Matrix& points, Vector& values) override { parts_.front().worker->values(points, values); }
    double gradient(const Vector& x, Vector& gradient) override { return parts_.front().worker->gradient(x, gradient); }
    void outputs(const Vector& x, Vector& outputs) override {
      outputs.resize(outputs_);
      each([&](FunctionWorker& worker, Index first, Index size) {
        worker.outputs(x, part_);
        outputs.segment(first, size) = part_;
      });
    }
    void outputs(const Matrix& points, Matrix& outputs) override {
      outputs.resize(outputs_, points.cols());
      each([&](FunctionWorker& worker, Index first, Index size) {
        worker.outputs(points, rows_);
        outputs.middleRows(first, size) = rows_;
      });
    }
    void weighted_gradient(const Vector& x, const Vector& weights, Vector& gradient) override {
      gradient.setZero(x.size());
      each([&](FunctionWorker& worker, Index first, Index size) {
        worker.weighted_gradient(x, weights.segment(first, size), part_);
        gradient += part_;
      });
    }
    void jacobian(const Vector& x, Matrix& jacobian) override {
      jacobian.resize(outputs_, x.size());
      each([&](FunctionWorker& worker, Index first, Index size) {
        worker.jacobian(x, rows_);
        jacobian.middleRows(first, size) = rows_;
      });
    }
    void visit_jacobian(const Vector& x, const JacobianVisitor& visit) override {
      each([&](FunctionWorker& worker, Index first, Index /*size*/) {
        worker.visit_jacobian(
            x, [&](Index from, const Vector& outputs, const Matrix& rows) { visit(first + from, outputs, rows); });
      });
    }
    void weighted_hessian_times(const Vector& x, const Vector& weights, const Vector& direction,
                                Vector& product) override {
      product.setZero(x.size());
      each([&](FunctionWorker& worker, Index first, Index size) {
        worker.weighted_hessian_times(x, weights.segment(first, size), direction, part_);
        product += part_;
      });
    }

   private:
    struct Part {
      std::unique_ptr<FunctionWorker> worker;
      Index size;
    };
    template <class Visit>
    void each(Visit&& visit) {
      Index first = 0;
      for (Part& part : parts_) {
        visit(*part.worker, first, part.size);
        first += part.size;
      }
    }
    Index outputs_;
    std::vector<Part> parts_;
    Vector part_;
    Matrix rows_;
  };

  std::vector<FunctionPointer> functions_;
  Index outputs_ = 0;
  Derivatives derivatives_ = Derivatives::hessian;
};

} // namespace

FunctionPointer stacked(std::vector<FunctionPointer> functions) {
  assert(!functions.empty());
  if (functions.size() == 1) return functions.front();
  return std::make_shared<StackedFunction>(std::move(functions));
}

} // namespace tanzen
