#pragma once

#include "tanzen/numeric/vector.hpp"
#include "tanzen/problem/waiting.hpp"

#include <functional>
#include <memory>
#include <span>
#include <stdexcept>
#include <vector>

namespace tanzen {

class Expressions;

/// Which derivatives a function brings along.
enum class Derivatives { none, gradient, hessian };

/// An evaluation that broke down and gave no value, where the next one may well succeed: a crash, a timeout, an answer
/// that is no number. A run counts it and goes on; any other exception ends the run.
class BrokenEvaluation : public std::runtime_error {
 public:
  using std::runtime_error::runtime_error;
};

/// Is shown some outputs with their gradients, a row each, and the number of the first of them; they are gone
/// afterwards.
using JacobianVisitor = std::function<void(Index first, const Vector& outputs, const Matrix& rows)>;

/// What one thread evaluates a function with: it owns the scratch memory, and borrows the function, which must outlive
/// it. Not to be shared. Values are those of the function as it was given, in the user's sense.
///
/// An evaluation is one of three things: finite values; outside the function's domain, told by NaN or an infinity;
/// broken, told by an exception. Derivatives throw ProblemError where the function has none.
class FunctionWorker {
 public:
  FunctionWorker() = default;
  FunctionWorker(const FunctionWorker&) = delete;
  FunctionWorker& operator=(const FunctionWorker&) = delete;
  virtual ~FunctionWorker() = default;

  /// The first output: the short way for a function that has one.
  virtual double value(const Vector& x) = 0;
  /// It at the columns of `points`, with the same bits as one at a time; expressions are much faster so.
  virtual void values(const Matrix& points, Vector& values);
  /// Fills the gradient of the first output and returns its value.
  virtual double gradient(const Vector& x, Vector& gradient);

  /// All outputs; `outputs` is resized where it must be.
  virtual void outputs(const Vector& x, Vector& outputs);
  /// All outputs at the columns of `points`: a row an output.
  virtual void outputs(const Matrix& points, Matrix& outputs);
  /// The gradient of sum over k of weights[k] * output k: one reverse sweep, whatever the number of outputs. Free of a
  /// new forward sweep where the last call was of this point.
  virtual void weighted_gradient(const Vector& x, const Vector& weights, Vector& gradient);
  /// Row k is the gradient of output k.
  virtual void jacobian(const Vector& x, Matrix& jacobian);
  /// Shows outputs and Jacobian in blocks, from the first on, by one sweep. By default all of them at once.
  virtual void visit_jacobian(const Vector& x, const JacobianVisitor& visit);
  /// The Jacobian times a direction. By default the Jacobian at its cost.
  virtual void jacobian_times(const Vector& x, const Vector& direction, Vector& product);
  /// The Hessian of sum over k of weights[k] * output k. By default a product for each variable.
  virtual void weighted_hessian(const Vector& x, const Vector& weights, Matrix& hessian);
  /// That Hessian times a direction.
  virtual void weighted_hessian_times(const Vector& x, const Vector& weights, const Vector& direction, Vector& product);

  // Of a function that is a sum over data, or has an output for each row of them: by the places of some rows alone, at
  // their share of the cost. They throw ProblemError where the function has no rows.
  /// The gradient of the sum of those rows' terms, of a function of one output.
  virtual void row_gradient(const Vector& x, std::span<const Index> rows, Vector& gradient);
  /// The outputs of those rows, in their order.
  virtual void row_outputs(const Vector& x, std::span<const Index> rows, Vector& outputs);
  /// The gradient of the weighted sum of those outputs.
  virtual void row_weighted_gradient(const Vector& x, std::span<const Index> rows, const Vector& weights,
                                     Vector& gradient);

 protected:
  Vector scratch_; ///< for the ways that go by another one
};

/// A function of a point with one value or several: the bundle of a problem, or one part of it. Immutable, shared
/// between threads.
class VectorFunction {
 public:
  VectorFunction() = default;
  VectorFunction(const VectorFunction&) = delete;
  VectorFunction& operator=(const VectorFunction&) = delete;
  virtual ~VectorFunction() = default;

  [[nodiscard]] virtual Index dimension() const = 0;
  [[nodiscard]] virtual Index outputs() const { return 1; }
  [[nodiscard]] virtual Derivatives derivatives() const = 0;
  /// `waiting` is how long an evaluation may wait for something outside. A function made of others hands it on to
  /// theirs.
  [[nodiscard]] virtual std::unique_ptr<FunctionWorker> worker(const Waiting& waiting) const = 0;
  /// One that waits as long as it takes.
  [[nodiscard]] std::unique_ptr<FunctionWorker> worker() const { return worker(Waiting()); }
  /// Whether workers of several threads may be called at once.
  [[nodiscard]] virtual bool is_concurrent() const { return false; }
  /// Whether a value hangs on how many a worker has computed before: then one run keeps to one worker.
  [[nodiscard]] virtual bool depends_on_order() const { return false; }
  /// Whether many points at once are cheaper than one at a time, and never throw.
  [[nodiscard]] virtual bool has_batch() const { return false; }
  /// How many rows of data it is a sum over, or has outputs for; 0 where it is no such function.
  [[nodiscard]] virtual Index rows() const { return 0; }
};

using FunctionPointer = std::shared_ptr<const VectorFunction>;

/// Expressions as a function on one tape with shared parts, with all derivatives.
[[nodiscard]] FunctionPointer make_function(const Expressions& expressions);

/// Whether a callable may be called from several threads at once.
enum class Calls { one_at_a_time, concurrent };

/// A callable that nothing is known about.
[[nodiscard]] FunctionPointer make_opaque_function(Index dimension, std::function<double(const Vector&)> callable,
                                                   Calls calls = Calls::one_at_a_time);

/// A callable with its derivatives. Throws ProblemError where one of the first two is missing, and an evaluation where
/// a derivative has another size than it was handed over with.
[[nodiscard]] FunctionPointer make_opaque_function(Index dimension, std::function<double(const Vector&)> value,
                                                   std::function<void(const Vector& x, Vector& gradient)> gradient,
                                                   std::function<void(const Vector& x, Matrix& hessian)> hessian,
                                                   Calls calls = Calls::one_at_a_time);

/// A callable that answers a point with several values at once. `values` is handed over with `outputs` entries.
[[nodiscard]] FunctionPointer make_opaque_function(Index dimension, Index outputs,
                                                   std::function<void(const Vector& x, Vector& values)> callable,
                                                   Calls calls = Calls::one_at_a_time);

/// The outputs of several functions of the same variables, one after the other. Derivatives as far as all have them.
/// Throws ProblemError where they have not the same number of variables.
[[nodiscard]] FunctionPointer stacked(std::vector<FunctionPointer> functions);

/// A function with derivatives by central differences of all outputs at once, cut at no bounds: 2 n evaluations for a
/// Jacobian. For looking at a point; runs take differences themselves, where they count.
[[nodiscard]] FunctionPointer with_differences(FunctionPointer function);

} // namespace tanzen
