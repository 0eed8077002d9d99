#pragma once

#include "tanzen/testbed/test_function.hpp"

#include <vector>

/// The groups of the testbed: one file each, one function of this list each.
namespace tanzen::testbed {

[[nodiscard]] std::vector<TestFunction> quadratic_functions();
[[nodiscard]] std::vector<TestFunction> valley_functions();
[[nodiscard]] std::vector<TestFunction> multimodal_functions();

} // namespace tanzen::testbed
