#pragma once

/// Many runs: plans, campaigns, sweeps and threads, results files, comparisons and reports.
#include "tanzen/comparison/comparison.hpp"
#include "tanzen/comparison/grouping.hpp"
#include "tanzen/comparison/verdict.hpp"
#include "tanzen/files/plan_file.hpp"
#include "tanzen/report/campaign_report.hpp"
#include "tanzen/results/results_file.hpp"
#include "tanzen/study/campaign.hpp"
#include "tanzen/study/run_jobs.hpp"
#include "tanzen/study/sweep.hpp"
#include "tanzen/tanzen.hpp"
