#pragma once

/// What is wrong with a problem or a method, and what a run shows: checks of derivatives and of own methods, kinds of
/// points, diagnoses, fits with their statistics.
#include "tanzen/analysis/conformance.hpp"
#include "tanzen/analysis/convergence.hpp"
#include "tanzen/analysis/diagnosis.hpp"
#include "tanzen/analysis/fitting.hpp"
#include "tanzen/analysis/global_check.hpp"
#include "tanzen/analysis/point_kind.hpp"
#include "tanzen/analysis/proved_stationary_points.hpp"
#include "tanzen/analysis/stationary_points.hpp"
#include "tanzen/problem/derivative_check.hpp"
#include "tanzen/tanzen.hpp"
