#include "tanzen/problem/scalarization.hpp"

#include <cmath>
#include <limits>

namespace tanzen {
namespace {

class PlainObjective final : public Scalarization {
 public:
  [[nodiscard]] double value(const Evaluation& at) const override { return at.objectives()[0]; }
  void slopes(const Evaluation& /*at*/, Vector& by_part) const override {
    by_part.setZero();
    by_part[0] = 1;
  }
};

/// The sum of log(1 + z) over many z >= 0, by one logarithm for many: of their product less 1, which is exact for small
/// z too, because nothing in it is subtracted.
class LogarithmSum {
 public:
  void add(double z) {
    if (!(z < large) || product_less_one_ > large) settle();
    product_less_one_ = (product_less_one_ + z) + product_less_one_ * z;
  }
  [[nodiscard]] double total() {
    settle();
    return sum_;
  }

 private:
  static constexpr double large = 1e150; // so that no product of two overflows

  void settle() {
    sum_ += std::log1p(product_less_one_);
    product_less_one_ = 0;
  }

  double sum_ = 0, product_less_one_ = 0;
};

class ScalarizedFunction final : public VectorFunction {
 public:
  ScalarizedFunction(FunctionPointer bundle, const PartCounts& counts, ScalarizationPointer scalarization)
      : bundle_(std::move(bundle)), counts_(counts), scalarization_(std::move(scalarization)) {}

  [[nodiscard]] Index dimension() const override { return bundle_->dimension(); }
  [[nodiscard]] Derivatives derivatives() const override { return bundle_->derivatives(); }
  [[nodiscard]] std::unique_ptr<FunctionWorker> worker(const Waiting& waiting) const override {
    return std::make_unique<Worker>(*this, waiting);
  }
  [[nodiscard]] bool is_concurrent() const override { return bundle_->is_concurrent(); }
  [[nodiscard]] bool depends_on_order() const override { return bundle_->depends_on_order(); }
  [[nodiscard]] Index rows() const override {
    return scalarization_->is_sum() && counts_.all() == counts_.residuals ? bundle_->rows() : 0;
  }

 private:
  class Worker final : public FunctionWorker {
   public:
    Worker(const ScalarizedFunction& function, const Waiting& waiting)
        : inner_(function.bundle_->worker(waiting)), counts_(function.counts_),
          scalarization_(*function.scalarization_),
          each_(function.rows() > 0 ? counts_.residuals / function.rows() : 0) {}

    double value(const Vector& x) override {
      inner_->outputs(x, parts_);
      return scalarization_.value(Evaluation(parts_, counts_));
    }
    double gradient(const Vector& x, Vector& gradient) override {
      const double at = value(x);
      find_slopes(1);
      inner_->weighted_gradient(x, slopes_, gradient);
      return at;
    }
    void weighted_gradient(const Vector& x, const Vector& weights, Vector& gradient) override {
      (void)this->gradient(x, gradient);
      gradient *= weights[0];
    }
    void row_gradient(const Vector& x, std::span<const Index> rows, Vector& gradient) override {
      if (each_ == 0) FunctionWorker::row_gradient(x, rows, gradient);
      inner_->row_outputs(x, rows, parts_);
      for (Index k = 0; k < parts_.size(); ++k) {
        const Index row = rows[static_cast<std::size_t>(k / each_)];
        parts_[k] = scalarization_.slope_of(row * each_ + k % each_, parts_[k]);
      }
      inner_->row_weighted_gradient(x, rows, parts_, gradient);
    }
    void weighted_hessian_times(const Vector& x, const Vector& weights, const Vector& direction,
                                Vector& product) override {
      (void)value(x);
      find_slopes(weights[0]);
      inner_->weighted_hessian_times(x, slopes_, direction, product);
      if (!scalarization_.bends(Evaluation(parts_, counts_), slopes_)) return;
      // The parts have been looked at: their memory serves for how they change.
      inner_->jacobian_times(x, direction, parts_);
      parts_.array() *= weights[0] * slopes_.array();
      inner_->weighted_gradient(x, parts_, bent_);
      product += bent_;
    }

   private:
    void find_slopes(double weight) {
      slopes_.resize(parts_.size());
      scalarization_.slopes(Evaluation(parts_, counts_), slopes_);
      if (weight != 1) slopes_ *= weight;
    }

    std::unique_ptr<FunctionWorker> inner_;
    PartCounts counts_;
    const Scalarization& scalarization_;
    Index each_; ///< residuals a row of data; 0 without any
    Vector parts_, slopes_, bent_;
  };

  FunctionPointer bundle_;
  PartCounts counts_;
  ScalarizationPointer scalarization_;
};

} // namespace

bool Scalarization::bends(const Evaluation& /*at*/, Vector& /*by_part*/) const {
  return false;
}

double Scalarization::slope_of(Index /*k*/, double /*residual*/) const {
  return std::numeric_limits<double>::quiet_NaN();
}

void TermSum::slopes(const Evaluation& at, Vector& by_part) const {
  by_part.setZero();
  by_part.tail(at.residuals().size()).setOnes();
}

double WeightedSum::value(const Evaluation& at) const {
  return weights_.dot(at.objectives());
}

void WeightedSum::slopes(const Evaluation& /*at*/, Vector& by_part) const {
  by_part.setZero();
  by_part.head(weights_.size()) = weights_;
}

double LossSum::value(const Evaluation& at) const {
  const auto residuals = at.residuals();
  double sum = 0;
  if (loss_.kind == Loss::Kind::squares && weights_.size() == 0) {
    for (const double r : residuals) sum += r * r;
    return sum;
  }
  if (loss_.kind == Loss::Kind::cauchy) {
    LogarithmSum logarithms;
    for (Index k = 0; k < residuals.size(); ++k) {
      const double scaled = weight(k) * residuals[k] / loss_.scale;
      logarithms.add(scaled * scaled);
    }
    return loss_.scale * loss_.scale * logarithms.total();
  }
  for (Index k = 0; k < residuals.size(); ++k) sum += loss_.value(weight(k) * residuals[k]);
  return sum;
}

void LossSum::slopes(const Evaluation& at, Vector& by_part) const {
  const auto residuals = at.residuals();
  by_part.setZero();
  auto slope = by_part.tail(residuals.size());
  for (Index k = 0; k < residuals.size(); ++k) slope[k] = slope_of(k, residuals[k]);
}

bool LossSum::bends(const Evaluation& at, Vector& by_part) const {
  const auto residuals = at.residuals();
  by_part.setZero();
  auto bend = by_part.tail(residuals.size());
  for (Index k = 0; k < residuals.size(); ++k) bend[k] = weight(k) * weight(k) * loss_.bend(weight(k) * residuals[k]);
  return true;
}

ScalarizationPointer plain_objective() {
  static const auto plain = std::make_shared<PlainObjective>();
  return plain;
}

FunctionPointer scalarized(FunctionPointer bundle, const PartCounts& counts, ScalarizationPointer scalarization) {
  return std::make_shared<ScalarizedFunction>(std::move(bundle), counts, std::move(scalarization));
}

} // namespace tanzen
