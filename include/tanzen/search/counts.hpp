#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <string_view>

namespace tanzen {

/// What a run spends. The words stand in files, and their order in results files: append, never reorder.
enum class Spent : std::uint8_t {
  evaluations, ///< visits of points, those of differences included
  gradients,   ///< exact gradients: one for each function differentiated; all residuals of a fit are one function
  hessians,    ///< exact Hessians, likewise
};

inline constexpr std::array<Spent, 3> all_spent = {Spent::evaluations, Spent::gradients, Spent::hessians};
/// By the place of each kind: trace columns, JSON keys and columns of results files are called so.
inline constexpr std::array<std::string_view, all_spent.size()> spent_words = {"evaluations", "gradients", "hessians"};

/// How much of everything has been spent.
class Counts {
 public:
  using Numbers = std::array<std::int64_t, all_spent.size()>;

  constexpr Counts() = default;
  constexpr explicit Counts(const Numbers& numbers) : numbers_(numbers) {}

  constexpr std::int64_t& operator[](Spent kind) { return numbers_[static_cast<std::size_t>(kind)]; }
  constexpr const std::int64_t& operator[](Spent kind) const { return numbers_[static_cast<std::size_t>(kind)]; }
  [[nodiscard]] constexpr const Numbers& numbers() const { return numbers_; }
  constexpr bool operator==(const Counts&) const = default;

  /// All as evaluations: a gradient charged by a weight, a Hessian as `variables` gradients.
  [[nodiscard]] constexpr double cost(double gradient_weight, double variables) const {
    const auto count = [this](Spent kind) { return static_cast<double>((*this)[kind]); };
    return count(Spent::evaluations) + gradient_weight * (count(Spent::gradients) + variables * count(Spent::hessians));
  }

 private:
  Numbers numbers_{};
};

} // namespace tanzen
