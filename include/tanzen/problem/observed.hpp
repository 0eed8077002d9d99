#pragma once

#include "tanzen/problem/function.hpp"

#include <functional>

namespace tanzen {

/// Told each point where a value was asked for, alone or with its gradient, and the value: the first of several.
using EvaluationListener = std::function<void(const Vector& point, double value)>;

/// A function whose evaluations are listened to; otherwise the same, derivatives included. The listener is called from
/// whichever thread evaluates.
[[nodiscard]] FunctionPointer make_observed(FunctionPointer function, EvaluationListener listener);

} // namespace tanzen
