#include "tanzen/numeric/random.hpp"
#include "tanzen/statistics/noise_level.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace tanzen;

namespace {

/// Nine values of a bent curve about 2, `spacing` apart, with noise of a standard deviation.
Vector measured(double spacing, double noise, RandomStream& random) {
  Vector values(9);
  for (Index k = 0; k < values.size(); ++k) {
    const double t = static_cast<double>(k - 4) * spacing;
    values[k] = 2 + t + 3 * t * t + noise * random.normal();
  }
  return values;
}

} // namespace

TEST_SUITE("noise in values") {
  TEST_CASE("its level is told to a factor of four, nine times in ten and more (Moré and Wild, 2011, section 4)") {
    RandomStream random(3, {"noise"});
    for (const double noise : {1e-2, 1e-6, 1e-12}) {
      int found = 0, right = 0;
      for (int k = 0; k < 300; ++k) {
        const NoiseLevel seen = noise_level(measured(0.1 * std::sqrt(noise), noise, random));
        if (seen.verdict != NoiseLevel::Verdict::found) continue;
        ++found;
        right += seen.level > noise / 4 && seen.level < 4 * noise;
      }
      CAPTURE(noise);
      CHECK(found >= 250);
      CHECK(right >= 0.95 * found);
    }
  }

  TEST_CASE("a smooth curve has none, however it bends, and says that its values lie too far apart") {
    Vector values(9);
    for (Index k = 0; k < 9; ++k) values[k] = std::exp(0.3 * static_cast<double>(k));
    const NoiseLevel seen = noise_level(values);
    CHECK(seen.verdict == NoiseLevel::Verdict::spacing_too_large);
    CHECK(seen.level == 0);
  }

  TEST_CASE("values that are equal say that they lie too close") {
    CHECK(noise_level(Vector::Constant(9, 3)).verdict == NoiseLevel::Verdict::spacing_too_small);
    Vector steps{{1, 1, 1, 1, 2, 2, 2, 2, 2}};
    CHECK(noise_level(steps).verdict == NoiseLevel::Verdict::spacing_too_small);
  }

  TEST_CASE("each order of differences is scaled so that noise alone has the same level in all") {
    RandomStream random(5, {"levels"});
    Vector sums = Vector::Zero(8);
    for (int k = 0; k < 4000; ++k) {
      Vector values(9);
      random.fill_normal(values);
      sums += noise_level(values).levels.cwiseAbs2() / 4000;
    }
    for (const double square : sums) CHECK(square == doctest::Approx(1).epsilon(0.15)); // their spread over 4,000 draws
  }
}
