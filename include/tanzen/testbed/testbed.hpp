#pragma once

#include "tanzen/problem/problem.hpp"
#include "tanzen/testbed/test_function.hpp"

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace tanzen::testbed {

/// All test functions, in the order of the catalogue.
[[nodiscard]] const std::vector<TestFunction>& all();

[[nodiscard]] std::vector<std::string> names();

/// The options with a number that every function has besides its own: transforms of the variables.
[[nodiscard]] const std::vector<Option>& common_options();

/// Throws InputError, with the nearest name, where there is none of that name.
[[nodiscard]] const TestFunction& find(std::string_view name);

/// A test function as a problem of `dimension` variables (its usual number if 0), with options.
/// Throws InputError for a dimension that the function does not have, or an unknown option.
[[nodiscard]] Problem problem(std::string_view name, Index dimension = 0, const OptionValues& options = {},
                              const std::optional<Noise>& noise = {});

/// A problem as it is written: `rosenbrock` or `ellipsoid:dim=10,condition=1e6,noise=normal:0.01`.
[[nodiscard]] Problem parse_problem(std::string_view specification);

} // namespace tanzen::testbed
