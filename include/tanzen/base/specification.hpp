#pragma once

#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace tanzen {

/// A name with options, as problems and methods are named: `rosenbrock:dim=10,shift=3`.
struct Specification {
  std::string name = {};
  std::vector<std::pair<std::string, std::string>> options = {}; ///< in the order given

  /// Throws InputError for a text that has no name, an option without `=` or one given twice.
  [[nodiscard]] static Specification parse(std::string_view text);
};

} // namespace tanzen
