#include "tanzen/problem/function.hpp"

#include "tanzen/base/errors.hpp"

namespace tanzen {
namespace {

class OpaqueFunction final : public VectorFunction {
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

class OpaqueBundle final : public VectorFunction {
 public:
  using Callable = std::function<void(const Vector&, Vector&)>;
  OpaqueBundle(Index dimension, Index outputs, Callable callable, Calls calls)
      : dimension_(dimension), outputs_(outputs), callable_(std::move(callable)), calls_(calls) {}

  [[nodiscard]] Index dimension() const override { return dimension_; }
  [[nodiscard]] Index outputs() const override { return outputs_; }
  [[nodiscard]] Derivatives derivatives() const override { return Derivatives::none; }
  [[nodiscard]] std::unique_ptr<FunctionWorker> worker() const override { return std::make_unique<Worker>(*this); }
  [[nodiscard]] bool is_concurrent() const override { return calls_ == Calls::concurrent; }

 private:
  class Worker final : public FunctionWorker {
   public:
    explicit Worker(const OpaqueBundle& bundle) : bundle_(bundle) {}
    double value(const Vector& x) override {
      outputs(x, scratch_);
      return scratch_[0];
    }
    void outputs(const Vector& x, Vector& outputs) override {
      outputs.resize(bundle_.outputs_);
      bundle_.callable_(x, outputs);
      if (outputs.size() != bundle_.outputs_) throw ProblemError("a callable changed the number of its values");
    }

   private:
    const OpaqueBundle& bundle_;
  };

  Index dimension_, outputs_;
  Callable callable_;
  Calls calls_;
};

} // namespace

FunctionPointer make_opaque_function(Index dimension, std::function<double(const Vector&)> callable, Calls calls) {
  return std::make_shared<OpaqueFunction>(dimension, std::move(callable), calls);
}

FunctionPointer make_opaque_function(Index dimension, Index outputs,
                                     std::function<void(const Vector& x, Vector& values)> callable, Calls calls) {
  if (outputs < 1) throw ProblemError("a function needs at least one value");
  return std::make_shared<OpaqueBundle>(dimension, outputs, std::move(callable), calls);
}

} // namespace tanzen
