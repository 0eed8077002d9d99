#include "tanzen/problem/noise.hpp"

#include "tanzen/numeric/random.hpp"

namespace tanzen {
namespace {

class NoisyFunction final : public ScalarFunction {
 public:
  NoisyFunction(FunctionPointer function, const Noise& noise) : function_(std::move(function)), noise_(noise) {}

  [[nodiscard]] Index dimension() const override { return function_->dimension(); }
  [[nodiscard]] Derivatives derivatives() const override { return Derivatives::none; }
  [[nodiscard]] std::unique_ptr<FunctionWorker> worker() const override {
    return std::make_unique<Worker>(function_->worker(), noise_);
  }
  [[nodiscard]] bool is_concurrent() const override { return function_->is_concurrent(); }
  [[nodiscard]] bool depends_on_order() const override { return true; }

 private:
  class Worker final : public FunctionWorker {
   public:
    Worker(std::unique_ptr<FunctionWorker> exact, const Noise& noise)
        : exact_(std::move(exact)), noise_(noise), random_(noise.seed, {"noise"}) {}

    double value(const Vector& x) override {
      const double exact = exact_->value(x);
      const double drawn = noise_.level * draw();
      return noise_.relative ? exact * (1 + drawn) : exact + drawn;
    }

   private:
    double draw() {
      switch (noise_.kind) {
      case NoiseKind::gaussian: return random_.normal();
      case NoiseKind::uniform: return random_.uniform(-1, 1);
      case NoiseKind::cauchy: break;
      }
      return random_.cauchy();
    }

    std::unique_ptr<FunctionWorker> exact_;
    Noise noise_;
    RandomStream random_;
  };

  FunctionPointer function_;
  Noise noise_;
};

} // namespace

FunctionPointer make_noisy(FunctionPointer function, const Noise& noise) {
  return std::make_shared<NoisyFunction>(std::move(function), noise);
}

} // namespace tanzen
