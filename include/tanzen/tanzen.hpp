#pragma once

/// What most programs need: problems, methods, runs. Files, figures, campaigns and the command line have headers of
/// their own.
#include "tanzen/base/errors.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/problem/problem.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/testbed/testbed.hpp"
#include "tanzen/version.hpp"
