#pragma once

#include "tanzen/numeric/vector.hpp"

#include <array>
#include <concepts>
#include <cstdint>
#include <initializer_list>
#include <string>
#include <string_view>
#include <variant>

namespace tanzen {

/// One word or number of what a random stream is for.
class Purpose {
 public:
  Purpose(std::string_view word) : content_(word) {}
  Purpose(const char* word) : content_(std::string_view(word)) {}
  Purpose(const std::string& word) : content_(std::string_view(word)) {}
  template <std::integral T>
  Purpose(T number) : content_(static_cast<std::uint64_t>(number)) {}

  [[nodiscard]] const std::variant<std::string_view, std::uint64_t>& content() const { return content_; }

 private:
  std::variant<std::string_view, std::uint64_t> content_; ///< borrows the word
};

/// Random numbers from a counter-based generator (Threefry-4x64-20; Salmon, Moraes, Dror and Shaw, 2011)
/// keyed by a seed and what the numbers are for. Streams with different keys are independent; the same key
/// gives the same bits on every machine, in every thread, in any order of use.
///
/// Satisfies UniformRandomBitGenerator. A value: a copy goes on from the same place on its own.
class RandomStream {
 public:
  using result_type = std::uint64_t;

  explicit RandomStream(std::uint64_t seed, std::initializer_list<Purpose> purposes = {});

  /// A stream for a part of the work, independent of this one and of how far this one has been read.
  [[nodiscard]] RandomStream child(std::initializer_list<Purpose> purposes) const;

  static constexpr result_type min() { return 0; }
  static constexpr result_type max() { return ~result_type{0}; }
  result_type operator()();

  /// Uniform in [0, 1), a multiple of 2^-53.
  [[nodiscard]] double uniform();
  /// Uniform in [lower, upper); `lower` where both are equal.
  [[nodiscard]] double uniform(double lower, double upper) { return lower + (upper - lower) * uniform(); }
  /// Standard normal (ziggurat).
  [[nodiscard]] double normal();
  /// Gamma with scale 1 and a positive shape (Marsaglia and Tsang, 2000).
  [[nodiscard]] double gamma(double shape);
  /// Standard Cauchy, by inversion.
  [[nodiscard]] double cauchy();
  /// Uniform among 0 .. count-1, without bias; requires count > 0.
  [[nodiscard]] Index below(Index count);
  /// Fills with standard normal numbers.
  void fill_normal(Eigen::Ref<Vector> values);

 private:
  using Block = std::array<std::uint64_t, 4>;

  void absorb(std::initializer_list<Purpose> purposes);
  void absorb_block(const Block& block);

  Block key_;
  Block block_{};
  std::uint64_t counter_ = 0;
  unsigned used_ = 4;
};

} // namespace tanzen
