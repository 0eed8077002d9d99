#pragma once

#include "tanzen/testbed/test_function.hpp"

#include <vector>

/// The groups of the testbed: one function of this list each.
namespace tanzen::testbed {

[[nodiscard]] std::vector<TestFunction> quadratic_functions();
[[nodiscard]] std::vector<TestFunction> small_residual_functions();
[[nodiscard]] std::vector<TestFunction> scalable_residual_functions();
[[nodiscard]] std::vector<TestFunction> plane_valley_functions();
[[nodiscard]] std::vector<TestFunction> plane_rugged_functions();
[[nodiscard]] std::vector<TestFunction> scalable_multimodal_functions();
[[nodiscard]] std::vector<TestFunction> tabled_functions();
[[nodiscard]] std::vector<TestFunction> one_variable_functions();
[[nodiscard]] std::vector<TestFunction> constrained_plane_functions();
[[nodiscard]] std::vector<TestFunction> constrained_few_functions();
[[nodiscard]] std::vector<TestFunction> constrained_several_functions();
[[nodiscard]] std::vector<TestFunction> constrained_design_functions();
[[nodiscard]] std::vector<TestFunction> scalable_constrained_functions();
[[nodiscard]] std::vector<TestFunction> decay_fits();
[[nodiscard]] std::vector<TestFunction> growth_fits();
[[nodiscard]] std::vector<TestFunction> saturation_fits();
[[nodiscard]] std::vector<TestFunction> waves_fits();
[[nodiscard]] std::vector<TestFunction> laws_fits();
[[nodiscard]] std::vector<TestFunction> plane_front_functions();
[[nodiscard]] std::vector<TestFunction> paired_front_functions();
[[nodiscard]] std::vector<TestFunction> distance_front_functions();
[[nodiscard]] std::vector<TestFunction> walking_front_functions();
[[nodiscard]] std::vector<TestFunction> curved_front_functions();
[[nodiscard]] std::vector<TestFunction> constrained_front_functions();

} // namespace tanzen::testbed
