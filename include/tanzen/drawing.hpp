#pragma once

/// Pictures, of runs and of one's own.
#include "tanzen/figure/figure.hpp"
#include "tanzen/figure/landscape_figure.hpp"
#include "tanzen/figure/render.hpp"
#include "tanzen/figure/solve_figure.hpp"
#include "tanzen/figure/sweep_figure.hpp"
#include "tanzen/tanzen.hpp"
