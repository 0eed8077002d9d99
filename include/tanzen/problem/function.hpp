#pragma once

#include "tanzen/expression/tape.hpp"
#include "tanzen/numeric/vector.hpp"

#include <functional>
#include <memory>
#include <stdexcept>

namespace tanzen {

/// Which derivatives a function brings along.
enum class Derivatives { none, gradient, hessian };

/// An evaluation that broke down and gave no value, where the next one may well succeed: a crash, a timeout, an answer
/// that is no number. A run counts it and goes on; any other exception ends the run.
class BrokenEvaluation : public std::runtime_error {
 public:
  using std::runtime_error::runtime_error;
};

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
  /// The values at the columns of `points`, with the same bits as one at a time; expressions are much faster so.
  virtual void values(const Matrix& points, Vector& values);
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
  /// Whether workers of several threads may be called at once.
  [[nodiscard]] virtual bool is_concurrent() const { return false; }
  /// Whether a value hangs on how many a worker has computed before: then one run keeps to one worker.
  [[nodiscard]] virtual bool depends_on_order() const { return false; }
  /// Whether `values` of many points is cheaper than one at a time, and never throws.
  [[nodiscard]] virtual bool has_batch() const { return false; }
};

using FunctionPointer = std::shared_ptr<const ScalarFunction>;

/// Several functions of one point, with exact derivatives: the residuals of a sum of squares. Immutable, shared
/// between threads; each thread brings a Worker.
class VectorFunction {
 public:
  using Worker = Tape::Workspace;

  VectorFunction(const Graph& graph, std::span<const NodeId> outputs) : tape_(graph, outputs) {}

  [[nodiscard]] Index dimension() const { return tape_.dimension(); }
  [[nodiscard]] Index outputs() const { return tape_.outputs(); }
  [[nodiscard]] Worker worker() const { return tape_.workspace(); }
  /// All outputs at `x`; `values` is resized where it must be.
  void values(const Vector& x, Worker& worker, Vector& values) const;
  /// All outputs, and their Jacobian: row i is the gradient of output i. Cost: one reverse sweep an output.
  void jacobian(const Vector& x, Worker& worker, Vector& values, Matrix& jacobian) const;

 private:
  Tape tape_;
};

/// An expression as a function, with all derivatives.
[[nodiscard]] FunctionPointer make_function(const Expression& expression);

/// Whether a callable may be called from several threads at once.
enum class Calls { one_at_a_time, concurrent };

/// A callable that nothing is known about.
[[nodiscard]] FunctionPointer make_opaque_function(Index dimension, std::function<double(const Vector&)> callable,
                                                   Calls calls = Calls::one_at_a_time);

} // namespace tanzen
