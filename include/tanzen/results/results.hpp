#pragma once

#include <cstddef>
#include <cstdint>
#include <filesystem>
#include <functional>
#include <limits>
#include <optional>
#include <string_view>

#include "tanzen/study/campaign.hpp"

#include <map>
#include <span>
#include <string>
#include <vector>

namespace tanzen {

/// A problem as far as finished runs need it.
struct ResultsProblem {
  std::string label = {};
  Index dimension = 0;
  Sense sense = Sense::minimize;
  std::vector<std::string> traits = {};
  std::vector<Objective> objectives = {}; ///< their names and senses, where there are several
  std::vector<double> gaps = {};          ///< targets, from large to small
  double reference = 0;                   ///< the value that gaps are measured from, in the problem's sense
  bool reference_is_known = false;        ///< otherwise it is the best value of all runs

  /// `rosenbrock` of `rosenbrock:dim=10`.
  [[nodiscard]] std::string family() const;
  /// The value of an option of its label; empty where it has none.
  [[nodiscard]] std::string option(std::string_view name) const;
  /// Its label without an option: the same for problems that differ in it alone.
  [[nodiscard]] std::string label_without(std::string_view option) const;
  /// The options that its label gives; those of a file are in it, and not told.
  [[nodiscard]] std::vector<std::string> option_names() const;
};

/// Best values so far against cost, from a trace.
struct TraceProgress {
  std::vector<double> cost = {};
  std::vector<double> best = {}; ///< in the problem's sense; NaN where there is none
};
[[nodiscard]] TraceProgress trace_progress(const Trace& trace, double gradient_weight, Index dimension);

/// What finished runs are compared by. Costs are in evaluations, a gradient charged by the plan's weight and a Hessian
/// as n gradients.
struct ResultsRun {
  bool is_done = false;
  Status status = Status::failed;
  double value = 0; ///< best, in the problem's sense; NaN where there is none
  double gap = 0;   ///< infinite where there is no value
  double cost = 0;  ///< all that the run spent
  double seconds = 0;
  bool feasible = true;          ///< a success is
  std::vector<double> hits = {}; ///< the cost to each of the problem's gaps that was reached, in their order
  std::string message = {};      ///< only of runs that failed or diverged
  TraceProgress progress = {};   ///< of its trace, where that was asked for
  Matrix front = {};             ///< likewise: of several objectives its front, each in its sense; a column a point

  /// The cost to the k-th gap; infinite where it was not reached.
  [[nodiscard]] double cost_to(std::size_t k) const {
    return k < hits.size() ? hits[k] : std::numeric_limits<double>::infinity();
  }
};

/// What is known of a campaign before its runs.
struct ResultsHead {
  std::string title = {};
  std::uint64_t seed = 1;
  std::int64_t repeats = 0;
  double gradient_weight = 1;
  std::vector<double> plan_gaps = {}; ///< of the plan; empty for the usual ones
  double smallest_gap = 1e-7;         ///< of the usual ones
  std::vector<ResultsProblem> problems = {};
  std::vector<std::string> methods = {};      ///< their labels
  std::vector<std::string> method_names = {}; ///< what each is in the catalogue
};

/// The finished runs of a campaign, for analysis: every method on every problem in every repeat. Where a problem's best
/// value is not known, the best of all its runs is the reference, and what a run's trace shows tells when it reached
/// its targets.
class Results {
 public:
  explicit Results(ResultsHead head);

  /// Takes over what counts of a record; its trace and its front only if `with_trace`, the trace also where targets are
  /// taken from it.
  void add(const RunRecord& record, bool with_trace = false);
  /// To be called once, when all runs have been added.
  void finish();

  [[nodiscard]] const std::string& title() const { return head_.title; }
  [[nodiscard]] std::uint64_t seed() const { return head_.seed; }
  [[nodiscard]] double gradient_weight() const { return head_.gradient_weight; }
  [[nodiscard]] std::int64_t repeats() const { return head_.repeats; }
  [[nodiscard]] const std::vector<ResultsProblem>& problems() const { return head_.problems; }
  [[nodiscard]] const std::vector<std::string>& methods() const { return head_.methods; }
  [[nodiscard]] const std::vector<std::string>& method_names() const { return head_.method_names; }
  [[nodiscard]] const ResultsRun& run(const RunKey& key) const { return runs_[place(key)]; }

  /// The repeats of a problem that all methods have done: what may be compared.
  [[nodiscard]] const std::vector<std::int64_t>& repeats_of(std::size_t problem) const { return complete_[problem]; }
  /// The complete runs of a method on a problem, repeat by repeat.
  [[nodiscard]] std::vector<const ResultsRun*> runs(std::size_t problem, std::size_t method) const;
  /// How many runs there are, of how many that the plan asks for.
  [[nodiscard]] std::size_t done() const { return done_; }
  [[nodiscard]] std::size_t planned() const { return runs_.size(); }

  /// The place, among a problem's targets, of the largest that is at most `gap`; of the smallest where no gap is given.
  /// Throws InputError where all targets are larger.
  [[nodiscard]] std::size_t target_for(std::size_t problem, std::optional<double> gap) const;

 private:
  [[nodiscard]] std::size_t place(const RunKey& key) const {
    return (key.problem * static_cast<std::size_t>(head_.repeats) + static_cast<std::size_t>(key.repeat - 1)) *
               head_.methods.size() +
           key.method;
  }
  void refer_to_best(std::size_t problem);

  ResultsHead head_;
  std::vector<ResultsRun> runs_;
  std::vector<std::vector<std::int64_t>> complete_;
  std::size_t done_ = 0;
};

/// What a campaign says of itself.
[[nodiscard]] ResultsHead results_head(const Campaign& campaign);

/// Called after each run with how many are done and how many there are.
using RunCounter = std::function<void(std::size_t done, std::size_t all)>;

/// How the runs of a campaign are done from a program.
struct CampaignRun {
  /// A results file: runs in it are not done again, and new ones are kept there. Empty: none.
  std::filesystem::path file = {};
  std::size_t workers = 0; ///< threads; 0: as many as the machine runs at once
  RunCounter counter = {};
  std::function<bool()> asked_to_stop = {}; ///< asked some times a second, by any of the threads
};

/// Does all runs of a campaign here. Throws InputError where the file holds the runs of another one, FileError where it
/// cannot be written. Stopped, it returns what there is, with the repeats that all methods have finished.
[[nodiscard]] Results run_campaign(const Campaign& campaign, const CampaignRun& how = {});

} // namespace tanzen
