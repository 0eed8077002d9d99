#include "tanzen/problem/problem.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"

#include <fmt/format.h>

namespace tanzen {
namespace {

class OpaqueFunction final : public VectorFunction {
 public:
  OpaqueFunction(Index dimension, std::function<double(const Vector&)> callable, Calls calls)
      : dimension_(dimension), callable_(std::move(callable)), calls_(calls) {}

  [[nodiscard]] Index dimension() const override { return dimension_; }
  [[nodiscard]] Derivatives derivatives() const override { return Derivatives::none; }
  [[nodiscard]] std::unique_ptr<FunctionWorker> worker(const Waiting& /*waiting*/) const override {
    return std::make_unique<Worker>(callable_);
  }
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

/// What a user wrote down: values and derivatives.
struct WrittenFunction {
  std::function<double(const Vector&)> value;
  std::function<void(const Vector&, Vector&)> gradient;
  std::function<void(const Vector&, Matrix&)> hessian;
};

class DerivedFunction final : public VectorFunction {
 public:
  DerivedFunction(Index dimension, WrittenFunction written, Calls calls)
      : dimension_(dimension), written_(std::move(written)), calls_(calls) {}

  [[nodiscard]] Index dimension() const override { return dimension_; }
  [[nodiscard]] Derivatives derivatives() const override {
    return written_.hessian ? Derivatives::hessian : Derivatives::gradient;
  }
  [[nodiscard]] std::unique_ptr<FunctionWorker> worker(const Waiting& /*waiting*/) const override {
    return std::make_unique<Worker>(written_, dimension_);
  }
  [[nodiscard]] bool is_concurrent() const override { return calls_ == Calls::concurrent; }

 private:
  class Worker final : public FunctionWorker {
   public:
    Worker(const WrittenFunction& written, Index dimension) : written_(written), dimension_(dimension) {}
    double value(const Vector& x) override { return written_.value(x); }
    double gradient(const Vector& x, Vector& gradient) override {
      fill_gradient(x, gradient);
      return written_.value(x);
    }
    void weighted_gradient(const Vector& x, const Vector& weights, Vector& gradient) override {
      fill_gradient(x, gradient);
      gradient *= weights[0];
    }
    void weighted_hessian(const Vector& x, const Vector& weights, Matrix& hessian) override {
      if (!written_.hessian) throw ProblemError("the function has no Hessian");
      hessian.setZero(dimension_, dimension_);
      written_.hessian(x, hessian);
      if (hessian.rows() != dimension_ || hessian.cols() != dimension_)
        throw ProblemError(fmt::format("the Hessian written by hand is {} by {}; the function has {}", hessian.rows(),
                                       hessian.cols(), counted(dimension_, "variable")));
      hessian *= weights[0];
    }
    void weighted_hessian_times(const Vector& x, const Vector& weights, const Vector& direction,
                                Vector& product) override {
      weighted_hessian(x, weights, hessian_);
      product.noalias() = hessian_ * direction;
    }

   private:
    void fill_gradient(const Vector& x, Vector& gradient) const {
      gradient.setZero(dimension_);
      written_.gradient(x, gradient);
      if (gradient.size() != dimension_)
        throw ProblemError(fmt::format("the gradient written by hand has {}; the function has {}",
                                       counted(gradient.size(), "coordinate"), counted(dimension_, "variable")));
    }

    const WrittenFunction& written_;
    Index dimension_;
    Matrix hessian_;
  };

  Index dimension_;
  WrittenFunction written_;
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
  [[nodiscard]] std::unique_ptr<FunctionWorker> worker(const Waiting& /*waiting*/) const override {
    return std::make_unique<Worker>(*this);
  }
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

FunctionPointer make_opaque_function(Index dimension, std::function<double(const Vector&)> value,
                                     std::function<void(const Vector& x, Vector& gradient)> gradient,
                                     std::function<void(const Vector& x, Matrix& hessian)> hessian, Calls calls) {
  if (!value || !gradient) throw ProblemError("a function with derivatives needs its value and its gradient");
  return std::make_shared<DerivedFunction>(
      dimension, WrittenFunction{std::move(value), std::move(gradient), std::move(hessian)}, calls);
}

FunctionPointer make_opaque_function(Index dimension, Index outputs,
                                     std::function<void(const Vector& x, Vector& values)> callable, Calls calls) {
  if (outputs < 1) throw ProblemError("a function needs at least one value");
  return std::make_shared<OpaqueBundle>(dimension, outputs, std::move(callable), calls);
}

Problem Problem::black_box(Index dimension, std::function<double(const Vector&)> function, Calls calls) {
  return from_objective(make_opaque_function(checked_dimension(dimension), std::move(function), calls));
}

Problem Problem::with_derivatives(Index dimension, std::function<double(const Vector&)> value,
                                  std::function<void(const Vector&, Vector&)> gradient,
                                  std::function<void(const Vector&, Matrix&)> hessian, Calls calls) {
  return from_objective(make_opaque_function(checked_dimension(dimension), std::move(value), std::move(gradient),
                                             std::move(hessian), calls));
}

} // namespace tanzen
