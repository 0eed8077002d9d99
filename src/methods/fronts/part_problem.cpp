#include "part_problem.hpp"
#include "tanzen/numeric/constants.hpp"

#include <utility>

namespace tanzen::methods {
namespace {

/// A linear function of the parts: what one reverse sweep is asked for.
class LinearOfParts final : public Scalarization {
 public:
  Vector factors;

  [[nodiscard]] double value(const Evaluation& at) const override { return factors.dot(at.parts()); }
  void slopes(const Evaluation&, Vector& by_part) const override { by_part = factors; }
};

class PartFunction final : public VectorFunction {
 public:
  PartFunction(Evaluator& outer, const PartProblem& part) : outer_(outer) {
    const PartCounts counts = outer.part_counts();
    const Index own = part.of_objectives.rows(), rows = own + counts.constraints;
    all_ = Matrix::Zero(rows, counts.all());
    all_.topLeftCorner(own, counts.objectives) = part.of_objectives;
    all_.block(own, counts.objectives, counts.constraints, counts.constraints).setIdentity();
    extras_ = Matrix::Zero(rows, part.of_extras.cols());
    extras_.topRows(part.of_extras.rows()) = part.of_extras;
    constants_ = Vector::Zero(rows);
    constants_.head(part.constants.size()) = part.constants;
  }

  [[nodiscard]] Index dimension() const override { return outer_.dimension() + extras_.cols(); }
  [[nodiscard]] Index outputs() const override { return all_.rows(); }
  [[nodiscard]] Derivatives derivatives() const override {
    if (outer_.uses_differences()) return Derivatives::none;
    return outer_.has_hessian() ? Derivatives::hessian : Derivatives::gradient;
  }
  [[nodiscard]] std::unique_ptr<FunctionWorker> worker(const Waiting& /*waiting*/) const override {
    return std::make_unique<Worker>(*this);
  }
  /// The evaluator's own order is kept.
  [[nodiscard]] bool depends_on_order() const override { return true; }

 private:
  class Worker final : public FunctionWorker {
   public:
    explicit Worker(const PartFunction& function) : of_(function), view_(of_.outer_.with(linear_)) {}

    double value(const Vector& x) override {
      visit(x);
      return seen_[0];
    }
    void outputs(const Vector& x, Vector& outputs) override {
      visit(x);
      outputs = seen_;
    }
    double gradient(const Vector& x, Vector& gradient) override {
      visit(x);
      weighted_gradient(x, Vector::Unit(of_.all_.rows(), 0), gradient);
      return seen_[0];
    }
    void weighted_gradient(const Vector& x, const Vector& weights, Vector& gradient) override {
      const Index n = of_.outer_.dimension();
      linear_.factors = of_.all_.transpose() * weights;
      gradient.resize(x.size());
      gradient.head(n) = view_.gradient(x.head(n));
      gradient.tail(x.size() - n) = of_.extras_.transpose() * weights;
    }
    void jacobian(const Vector& x, Matrix& jacobian) override {
      const Index n = of_.outer_.dimension();
      jacobian.resize(of_.all_.rows(), x.size());
      jacobian.leftCols(n) = of_.all_ * of_.outer_.jacobian(x.head(n));
      jacobian.rightCols(x.size() - n) = of_.extras_;
    }
    void weighted_hessian(const Vector& x, const Vector& weights, Matrix& hessian) override {
      const Index n = of_.outer_.dimension();
      hessian.setZero(x.size(), x.size());
      hessian.topLeftCorner(n, n) = of_.outer_.weighted_hessian(x.head(n), of_.all_.transpose() * weights);
    }
    void weighted_hessian_times(const Vector& x, const Vector& weights, const Vector& direction,
                                Vector& product) override {
      Matrix hessian;
      weighted_hessian(x, weights, hessian);
      product = hessian * direction;
    }

   private:
    /// One visit of the bundle, unless the point is the one that was visited last, whatever the extras are.
    void visit(const Vector& x) {
      const Index n = of_.outer_.dimension();
      if (at_.size() != n || at_ != x.head(n)) {
        at_ = x.head(n);
        parts_ = of_.outer_.at(at_).parts();
      }
      seen_ = of_.all_ * parts_ + of_.extras_ * x.tail(x.size() - n) + of_.constants_;
    }

    const PartFunction& of_;
    LinearOfParts linear_;
    Evaluator view_;
    Vector at_, parts_, seen_;
  };

  Evaluator& outer_;
  Matrix all_, extras_;
  Vector constants_;
};

} // namespace

Problem problem_of(Evaluator& outer, const PartProblem& part) {
  const Problem& whole = outer.problem();
  const Index n = whole.dimension(), extras = part.of_extras.cols();
  std::vector<Constraint> rows = part.limits;
  rows.insert(rows.end(), whole.constraints().begin(), whole.constraints().end());
  const auto widened = [&](const Vector& values, double beyond) {
    Vector all = Vector::Constant(n + extras, beyond);
    all.head(n) = values;
    return all;
  };
  const Bounds& bounds = whole.bounds();
  const Box region = whole.region();
  Problem made = Problem::from_bundle(std::make_shared<PartFunction>(outer, part), {Objective()}, std::move(rows))
                     .named(whole.name())
                     .region(widened(region.lower, -1), widened(region.upper, 1));
  if (bounds.any()) made = made.bounds(widened(bounds.lower(), -infinity), widened(bounds.upper(), infinity));
  return made;
}

} // namespace tanzen::methods
