#pragma once

#include "tanzen/expression/expression.hpp"
#include "tanzen/numeric/vector.hpp"

#include <functional>
#include <memory>

namespace tanzen {

/// Which derivatives a function brings along.
enum class Derivatives { none, gradient, hessian };

/// What one thread evaluates a function with: it owns the scratch memory. Not to be shared.
///
/// An evaluation is one of three things: a finite value; outside the function's domain, told by NaN or an
/// infinity; broken, told by an exception.
class FunctionWorker {
 public:
  FunctionWorker() = default;
  FunctionWorker(const FunctionWorker&) = delete;
  FunctionWorker& operator=(const FunctionWorker&) = delete;
  virtual ~FunctionWorker() = default;

  virtual double value(const Vector& x) = 0;
  /// Fills the exact gradient and returns the value. Throws ProblemError where the function has none.
  virtual double gradient(const Vector& x, Vector& gradient);
  /// The exact Hessian. Throws ProblemError where the function has none.
  virtual void hessian(const Vector& x, Matrix& hessian);
  /// The exact Hessian times a direction. Throws ProblemError where the function has none.
  virtual void hessian_times(const Vector& x, const Vector& direction, Vector& product);
};

/// A function of a point with one value: an objective or a constraint. Immutable, shared between threads.
class ScalarFunction {
 public:
  ScalarFunction() = default;
  ScalarFunction(const ScalarFunction&) = delete;
  ScalarFunction& operator=(const ScalarFunction&) = delete;
  virtual ~ScalarFunction() = default;

  [[nodiscard]] virtual Index dimension() const = 0;
  [[nodiscard]] virtual Derivatives derivatives() const = 0;
  [[nodiscard]] virtual std::unique_ptr<FunctionWorker> worker() const = 0;
};

using FunctionPointer = std::shared_ptr<const ScalarFunction>;

/// An expression as a function, with all derivatives.
[[nodiscard]] FunctionPointer make_function(const Expression& expression);

/// A callable that nothing is known about. It may be called from several threads at once.
[[nodiscard]] FunctionPointer make_opaque_function(Index dimension, std::function<double(const Vector&)> callable);

} // namespace tanzen
