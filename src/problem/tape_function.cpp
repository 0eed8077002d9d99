#include "tanzen/problem/function.hpp"

#include "tanzen/expression/block_tape.hpp"
#include "tanzen/expression/tape.hpp"

#include <algorithm>
#include <limits>
#include <optional>
#include <span>

namespace tanzen {
namespace {

std::span<const double> span_of(const Vector& weights) {
  return {weights.data(), static_cast<std::size_t>(weights.size())};
}

class TapeFunction final : public VectorFunction {
 public:
  explicit TapeFunction(const Expressions& expressions)
      : expressions_(expressions), tape_(expressions.graph(), expressions.roots()) {}

  [[nodiscard]] Index dimension() const override { return tape_.dimension(); }
  [[nodiscard]] Index outputs() const override { return tape_.outputs(); }
  [[nodiscard]] Derivatives derivatives() const override { return Derivatives::hessian; }
  [[nodiscard]] std::unique_ptr<FunctionWorker> worker(const Waiting& /*waiting*/) const override {
    return std::make_unique<Worker>(*this);
  }
  [[nodiscard]] bool is_concurrent() const override { return true; }
  [[nodiscard]] bool has_batch() const override { return true; }

 private:
  class Worker final : public FunctionWorker {
   public:
    explicit Worker(const TapeFunction& function)
        : expressions_(function.expressions_), tape_(function.tape_), work_(tape_.workspace()) {
      work_.values.front() = std::numeric_limits<double>::quiet_NaN(); // at no point yet
    }

    double value(const Vector& x) override { return tape_.evaluate(x, work_); }
    double gradient(const Vector& x, Vector& gradient) override { return tape_.gradient(x, work_, gradient); }
    void values(const Matrix& points, Vector& values) override { blocks().evaluate(points, block_work_, values); }
    void outputs(const Matrix& points, Matrix& outputs) override {
      blocks().evaluate_all(points, block_work_, outputs);
    }

    void outputs(const Vector& x, Vector& outputs) override {
      tape_.evaluate(x, work_);
      outputs.resize(tape_.outputs());
      for (Index k = 0; k < outputs.size(); ++k) outputs[k] = tape_.output(k, work_);
    }
    void weighted_gradient(const Vector& x, const Vector& weights, Vector& gradient) override {
      go_to(x);
      tape_.weighted_gradient(span_of(weights), work_, gradient);
    }
    void jacobian(const Vector& x, Matrix& jacobian) override {
      go_to(x);
      jacobian.resize(tape_.outputs(), tape_.dimension());
      scratch_.setZero(tape_.outputs());
      for (Index k = 0; k < tape_.outputs(); ++k) {
        scratch_[k] = 1;
        tape_.weighted_gradient(span_of(scratch_), work_, row_);
        scratch_[k] = 0;
        jacobian.row(k) = row_;
      }
    }
    void jacobian_times(const Vector& x, const Vector& direction, Vector& product) override {
      tape_.jacobian_times(x, direction, work_, product);
    }
    void weighted_hessian(const Vector& x, const Vector& weights, Matrix& hessian) override {
      tape_.hessian(x, span_of(weights), work_, hessian);
    }
    void weighted_hessian_times(const Vector& x, const Vector& weights, const Vector& direction,
                                Vector& product) override {
      tape_.hessian_times(x, span_of(weights), direction, work_, product);
    }

   private:
    void go_to(const Vector& x) {
      if (!std::equal(x.begin(), x.end(), work_.values.begin())) tape_.evaluate(x, work_);
    }
    const BlockTape& blocks() {
      if (!blocks_) {
        blocks_.emplace(expressions_.graph(), expressions_.roots());
        block_work_ = blocks_->workspace();
      }
      return *blocks_;
    }

    const Expressions& expressions_;
    const Tape& tape_;
    Tape::Workspace work_;
    Vector row_;
    std::optional<BlockTape> blocks_; ///< made when first asked for
    BlockTape::Workspace block_work_;
  };

  Expressions expressions_;
  Tape tape_;
};

} // namespace

FunctionPointer make_function(const Expressions& expressions) {
  return std::make_shared<TapeFunction>(expressions);
}

} // namespace tanzen
