#pragma once

/// Problems, tables, outcomes and traces in files.
#include "tanzen/files/front_file.hpp"
#include "tanzen/files/named_problem.hpp"
#include "tanzen/files/outcome_file.hpp"
#include "tanzen/files/population_file.hpp"
#include "tanzen/files/problem_file.hpp"
#include "tanzen/files/table_file.hpp"
#include "tanzen/files/trace_file.hpp"
#include "tanzen/files/write_file.hpp"
#include "tanzen/tanzen.hpp"
