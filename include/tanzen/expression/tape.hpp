#pragma once

#include "tanzen/expression/dual.hpp"
#include "tanzen/expression/expression.hpp"

#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

namespace tanzen {

/// The operands of one step of a tape. Its result goes to the slot after the last one's; `a`, `b` and `c` are slots,
/// but for a power with a fixed exponent `b` holds that exponent.
struct Operands {
  NodeId a;
  NodeId b;
  NodeId c;
};

/// Successive steps that do the same operation, so that what to do is looked up once for all of them.
struct OperationRun {
  Operation operation;
  std::uint32_t count;
};

/// An expression, or several of the same variables, laid out as a list of steps for fast evaluation: ordered so that
/// equal operations stand together as far as what they need allows. The order changes no bit of any value.
///
/// Immutable and safe to share between threads; each thread brings its own Workspace. With N steps a
/// value costs N operations, a gradient at most four values whatever the dimension (reverse mode; Griewank
/// and Walther, 2008, section 3.2), a Hessian times a vector at most eight (forward over reverse, section 5.4).
class Tape {
 public:
  /// Memory that evaluations work in: made by `workspace()`, filled by `evaluate`.
  struct Workspace {
    std::vector<double> values = {};
    std::vector<double> adjoints = {};
    std::vector<rules::Dual> dual_values = {}; ///< grown at the first Hessian product
    std::vector<rules::Dual> dual_adjoints = {};
    Vector direction = {}; ///< of a Hessian's column, and the column
    Vector product = {};
  };

  explicit Tape(const Expression& expression);
  /// Several outputs over one graph, for residuals and constraints.
  Tape(const Graph& graph, std::span<const NodeId> outputs);

  [[nodiscard]] Index dimension() const { return static_cast<Index>(variables_); }
  [[nodiscard]] Index outputs() const { return static_cast<Index>(outputs_.size()); }
  [[nodiscard]] std::size_t steps() const { return steps_.size(); }
  [[nodiscard]] Workspace workspace() const;

  /// The first output at `x`; all outputs stay in the workspace for `output` and `add_gradient`.
  double evaluate(const Vector& x, Workspace& work) const;

  /// The k-th output of the last evaluation.
  [[nodiscard]] double output(Index k, const Workspace& work) const {
    return work.values[outputs_[static_cast<std::size_t>(k)]];
  }

  /// The gradient of sum over k of weights[k] * output k, at the point of the last evaluation.
  void weighted_gradient(std::span<const double> weights, Workspace& work, Vector& gradient) const;

  /// Value and gradient of the first output at `x`; `gradient` is resized where it must be.
  double gradient(const Vector& x, Workspace& work, Vector& gradient) const;

  /// How all outputs change at `x` along `direction`: the Jacobian times it, by one sweep.
  void jacobian_times(const Vector& x, const Vector& direction, Workspace& work, Vector& product) const;

  /// The Hessian of sum over k of weights[k] * output k at `x`, times `direction`, without the Hessian: one sweep there
  /// and one back whatever the number of outputs. `product` may be `direction`. Weights that are missing are zero.
  void hessian_times(const Vector& x, std::span<const double> weights, const Vector& direction, Workspace& work,
                     Vector& product) const;

  /// That Hessian itself: one product for each variable. Symmetric to the last bit.
  void hessian(const Vector& x, std::span<const double> weights, Workspace& work, Matrix& hessian) const;

 private:
  void lay_out(const Graph& graph, std::span<const NodeId> outputs);
  void append(Operation operation, const Operands& operands);
  void sweep_along(const Vector& x, const Vector& direction, Workspace& work) const;

  std::size_t variables_;
  std::vector<double> constants_;
  std::vector<Operands> steps_;
  std::vector<OperationRun> runs_; ///< of `steps_`, in order
  std::vector<NodeId> outputs_;    ///< slots
};

} // namespace tanzen
