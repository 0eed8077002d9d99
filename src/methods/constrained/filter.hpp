#pragma once

#include <algorithm>
#include <utility>
#include <vector>

namespace tanzen::methods {

/// Pairs of violation and barrier function that no later iterate may be as bad as (section 2.3).
class Filter {
 public:
  void clear() { pairs_.clear(); }
  void add(double violation, double value) { pairs_.push_back({(1 - margin) * violation, value - margin * violation}); }
  [[nodiscard]] bool accepts(double violation, double value) const {
    return std::ranges::none_of(pairs_,
                                [&](const auto& pair) { return violation >= pair.first && value >= pair.second; });
  }
  static constexpr double margin = 1e-5;

 private:
  std::vector<std::pair<double, double>> pairs_;
};

} // namespace tanzen::methods
