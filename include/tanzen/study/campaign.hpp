#pragma once

#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/run.hpp"
#include "tanzen/study/plan.hpp"
#include "tanzen/study/run_record.hpp"

#include <cstddef>
#include <cstdint>
#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <set>
#include <string>
#include <string_view>
#include <vector>

namespace tanzen {

/// Where the names of a plan are looked up.
struct PlanNames {
  const MethodCatalogue& methods = standard_methods();
  /// A problem by its name; throws InputError for one that there is not. Unset: the testbed's.
  std::function<Problem(const std::string&)> problem = {};
};

/// The members of a family: `rosenbrock:dim=2,5` is `rosenbrock:dim=2` and `rosenbrock:dim=5`; of several options with
/// several values all combinations, the last option changing fastest. Throws InputError for what is no specification.
[[nodiscard]] std::vector<std::string> family_members(const std::string& specification);

/// A problem of a campaign.
struct CampaignProblem {
  std::string label = {}; ///< as the plan names it, families spelled out
  Problem problem;
  std::vector<double> gaps = {}; ///< to reach, from large to small; empty where the best value is not known
};

/// A plan with its problems and methods at hand: the runs that there are to do, and how each is done. Immutable; may be
/// used by several threads at once.
class Campaign {
 public:
  /// Looks all names up and draws the random points that the usual targets need (101 values a problem). Throws
  /// InputError for a name that there is not, one that is there twice, a method that cannot handle a problem.
  Campaign(PlanDefinition plan, const PlanNames& names);
  /// Of problems and methods that a program has at hand; those that the plan names are not looked at. The plan's
  /// placements and noise are applied to each.
  Campaign(PlanDefinition plan, std::vector<Problem> problems, std::vector<Method> methods);

  [[nodiscard]] const PlanDefinition& plan() const { return plan_; }
  [[nodiscard]] const std::vector<CampaignProblem>& problems() const { return problems_; }
  [[nodiscard]] const std::vector<Method>& methods() const { return methods_; }

  [[nodiscard]] std::size_t size() const;
  /// The k-th run: problem by problem, repeat by repeat, so that what is paired is done together.
  [[nodiscard]] RunKey key(std::size_t k) const;

  /// Does one run. The same key gives the same record, times aside, whoever does it and when. What goes wrong, an
  /// exception of any kind, is in the record. Only `asked_to_stop` makes it `interrupted`.
  [[nodiscard]] RunRecord perform(const RunKey& key, const std::function<bool()>& asked_to_stop = {}) const;

 private:
  void add_problem(std::string label, Problem problem);
  void add_method(Method method);
  void check() const;
  [[nodiscard]] Problem problem_for(const RunKey& key) const;
  [[nodiscard]] RunOptions options_for(const RunKey& key, const Problem& problem) const;

  PlanDefinition plan_;
  std::vector<CampaignProblem> problems_;
  std::vector<Method> methods_;
  /// For functions that one thread at a time may call, whichever problems they are in.
  std::map<const VectorFunction*, std::unique_ptr<std::mutex>> turns_;
};

/// A part of a campaign for one of several machines: runs whose place modulo `of` is `number` - 1.
struct CampaignPart {
  std::size_t number = 1;
  std::size_t of = 1;

  /// Reads `2/3`. Throws InputError.
  [[nodiscard]] static CampaignPart parse(std::string_view text);
  [[nodiscard]] bool contains(std::size_t k) const { return k % of == number - 1; }
};

/// Throws InputError for more runs than a campaign may have, ten million.
void check_size(std::size_t problems, std::size_t methods, std::int64_t repeats);

/// The places of the runs of a part that are not done yet, in the order of the campaign.
[[nodiscard]] std::vector<std::size_t> missing_runs(const Campaign& campaign, const std::set<RunKey>& done = {},
                                                    const CampaignPart& part = {});

} // namespace tanzen
