#pragma once

#include "tanzen/figure/figure.hpp"

#include <vector>

namespace testing {

/// The layers of one kind on a panel, bottom first.
template <class Wanted>
std::vector<Wanted> layers_of(const tanzen::Panel& panel) {
  std::vector<Wanted> found;
  for (const tanzen::Layer& layer : panel.layers) {
    if (const auto* wanted = std::get_if<Wanted>(&layer)) found.push_back(*wanted);
  }
  return found;
}

} // namespace testing
