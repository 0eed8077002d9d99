#include "tanzen/problem/noise.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/numeric/random.hpp"

#include <array>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

constexpr std::array<std::pair<std::string_view, NoiseKind>, 3> kinds_of_noise = {
    {{"normal", NoiseKind::normal}, {"flat", NoiseKind::flat}, {"heavy", NoiseKind::heavy}}};

class NoisyFunction final : public VectorFunction {
 public:
  NoisyFunction(FunctionPointer function, const Noise& noise) : function_(std::move(function)), noise_(noise) {}

  [[nodiscard]] Index dimension() const override { return function_->dimension(); }
  [[nodiscard]] Index outputs() const override { return function_->outputs(); }
  [[nodiscard]] Derivatives derivatives() const override { return Derivatives::none; }
  [[nodiscard]] std::unique_ptr<FunctionWorker> worker(const Waiting& waiting) const override {
    return std::make_unique<Worker>(function_->worker(waiting), noise_);
  }
  [[nodiscard]] bool is_concurrent() const override { return function_->is_concurrent(); }
  [[nodiscard]] bool depends_on_order() const override { return true; }

 private:
  class Worker final : public FunctionWorker {
   public:
    Worker(std::unique_ptr<FunctionWorker> exact, const Noise& noise)
        : exact_(std::move(exact)), noise_(noise), random_(noise.seed, {"noise"}) {}

    double value(const Vector& x) override { return with_noise(exact_->value(x)); }
    void outputs(const Vector& x, Vector& outputs) override {
      exact_->outputs(x, outputs);
      for (double& output : outputs) output = with_noise(output);
    }

   private:
    double with_noise(double exact) {
      const double drawn = noise_.level * draw();
      return noise_.relative ? exact * (1 + drawn) : exact + drawn;
    }
    double draw() {
      switch (noise_.kind) {
      case NoiseKind::normal: return random_.normal();
      case NoiseKind::flat: return random_.uniform(-1, 1);
      case NoiseKind::heavy: break;
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

Noise Noise::parse(std::string_view text) {
  const auto pieces = split(text, ':');
  std::vector<std::string> words;
  for (const auto& [word, kind] : kinds_of_noise) {
    words.emplace_back(word);
    if (pieces.front() != word || pieces.size() != 2) continue;
    const bool relative = pieces[1].ends_with('%');
    const auto level = read_number(relative ? std::string_view(pieces[1]).substr(0, pieces[1].size() - 1) : pieces[1]);
    if (level && *level >= 0 && std::isfinite(*level))
      return {.kind = kind, .level = relative ? *level / 100 : *level, .relative = relative};
  }
  throw InputError(fmt::format("'{}' is no noise: write a kind and its level, as in normal:0.01 or, relative to the "
                               "value, normal:1% (there are {}){}",
                               clipped(text, 40), joined(words, ", "), did_you_mean(pieces.front(), words)));
}

std::string Noise::text() const {
  const std::string_view word = kinds_of_noise[static_cast<std::size_t>(kind)].first;
  return relative ? fmt::format("{}:{}%", word, number_text(100 * level))
                  : fmt::format("{}:{}", word, number_text(level));
}

FunctionPointer make_noisy(FunctionPointer function, const Noise& noise) {
  return std::make_shared<NoisyFunction>(std::move(function), noise);
}

} // namespace tanzen
