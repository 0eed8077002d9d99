#include "tanzen/study/campaign.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/problem/transform.hpp"
#include "tanzen/statistics/fronts.hpp"
#include "tanzen/study/targets.hpp"
#include "tanzen/testbed/testbed.hpp"

#include "problem_names.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

/// Without its times, which no two runs share.
Trace timeless(const Trace& trace) {
  std::vector<double> cells;
  for (std::size_t row = 0; row < trace.rows(); ++row) {
    cells.insert(cells.end(), trace.row(row).begin(), trace.row(row).end());
    cells[cells.size() - trace.row(row).size() + Trace::seconds] = std::numeric_limits<double>::quiet_NaN();
  }
  return {trace.method_columns(), trace.variable_names(), trace.has_points(), std::move(cells)};
}

/// The front, or of a long one 200 points spread over all of it, whose value is that of the whole.
Matrix spread_front(const Outcome& outcome) {
  constexpr Index most = 200;
  Matrix front(static_cast<Index>(outcome.objectives.size()), static_cast<Index>(outcome.front.size()));
  for (std::size_t k = 0; k < outcome.front.size(); ++k) front.col(static_cast<Index>(k)) = outcome.front[k].objectives;
  if (front.cols() == 0) return {};
  // In the senses that the user knows the ends of a maximized objective are the largest ones.
  Matrix turned = front;
  for (Index k = 0; k < front.rows(); ++k)
    turned.row(k) *= sign_of(outcome.objectives[static_cast<std::size_t>(k)].sense);
  return front(Eigen::all, spread_points(turned, most));
}

void fill(RunRecord& record, const Outcome& outcome) {
  record.status = outcome.status;
  record.message = outcome.message;
  record.value = outcome.value;
  record.violation = outcome.violation;
  record.feasible = outcome.feasible;
  record.converged = outcome.converged();
  record.counts = outcome.counts;
  record.iterations = outcome.iterations;
  record.evaluations_to_best = outcome.evaluations_to_best;
  record.broken = outcome.events.broken;
  record.seconds = outcome.seconds;
  record.point = outcome.point;
  record.hits = outcome.milestones;
  record.front = spread_front(outcome);
  record.trace = timeless(outcome.trace);
}

/// Follows a run under noise by the values without it: what counts is how good the points are, not how lucky.
class ExactJudge {
 public:
  ExactJudge(const Problem& exact, const std::vector<double>& gaps)
      : exact_(exact), worker_(exact.objective().worker()), gaps_(gaps) {}

  /// A point that the run asked for; a noisy objective has no gradients, so this counts its evaluations.
  void see(const Vector& x) {
    ++evaluations_;
    if (hits_.size() == gaps_.size() || !exact_.bounds().contains(x)) return;
    const double gap = exact_.sign() * (worker_->value(x) - *exact_.best_known());
    while (hits_.size() < gaps_.size() && gap <= gaps_[hits_.size()])
      hits_.emplace_back(Counts::Numbers{evaluations_, 0, 0});
  }
  [[nodiscard]] double value(const Vector& x) { return worker_->value(x); }
  [[nodiscard]] const std::vector<Counts>& hits() const { return hits_; }

 private:
  Problem exact_;
  std::unique_ptr<FunctionWorker> worker_;
  std::vector<double> gaps_;
  std::int64_t evaluations_ = 0;
  std::vector<Counts> hits_;
};

} // namespace

CampaignPart CampaignPart::parse(std::string_view text) {
  const auto pieces = split(text, '/');
  const double number = pieces.size() == 2 ? read_number(pieces[0]).value_or(0) : 0;
  const double of = pieces.size() == 2 ? read_number(pieces[1]).value_or(0) : 0;
  if (!(number >= 1 && number <= of && of <= 1e6) || number != std::floor(number) || of != std::floor(of))
    throw InputError(fmt::format("--part: '{}' is no part; write 2/3 for the second of three", clipped(text, 40)));
  return {static_cast<std::size_t>(number), static_cast<std::size_t>(of)};
}

std::vector<std::size_t> missing_runs(const Campaign& campaign, const std::set<RunKey>& done,
                                      const CampaignPart& part) {
  std::vector<std::size_t> places;
  for (std::size_t k = 0; k < campaign.size(); ++k) {
    if (part.contains(k) && !done.contains(campaign.key(k))) places.push_back(k);
  }
  return places;
}

void check_size(std::size_t problems, std::size_t methods, std::int64_t repeats) {
  constexpr double most = 1e7;
  const double runs = static_cast<double>(problems) * static_cast<double>(methods) * static_cast<double>(repeats);
  if (runs > most)
    throw InputError(fmt::format(
        "{}, {} and {} make {:.3g} runs; the most is {:.0f}", counted(static_cast<long long>(problems), "problem"),
        counted(static_cast<long long>(methods), "method"), counted(repeats, "repeat"), runs, most));
}

Campaign::Campaign(PlanDefinition plan, const PlanNames& names) : plan_(std::move(plan)) {
  const std::function<Problem(const std::string&)> look_up =
      names.problem ? names.problem : [](const std::string& name) { return testbed::parse_problem(name); };
  const std::vector<std::string> labels = spelled_out(plan_);
  check_size(labels.size(), plan_.methods.size(), plan_.repeats);
  for (const std::string& label : labels) add_problem(label, look_up(label));
  for (const PlannedMethod& planned : plan_.methods) {
    Method method = names.methods.find(planned.use);
    for (const auto& [setting, value] : planned.settings) method = method.with(setting, value);
    add_method(method.labelled(planned.label));
  }
  check();
}

Campaign::Campaign(PlanDefinition plan, std::vector<Problem> problems, std::vector<Method> methods)
    : plan_(std::move(plan)) {
  plan_.problems.clear();
  plan_.methods.clear();
  const std::vector<std::int64_t> placements =
      plan_.placements.empty() ? std::vector<std::int64_t>{0} : plan_.placements;
  const std::vector<std::string> noise = plan_.noise.empty() ? std::vector<std::string>{"none"} : plan_.noise;
  for (const Problem& problem : problems) {
    plan_.problems.push_back(problem.name());
    for (const std::int64_t placement : placements) {
      for (const std::string& kind : noise) {
        Problem varied = transformed(problem, {.placement = static_cast<std::uint64_t>(placement)});
        std::string label = problem.name();
        if (placement != 0) label += fmt::format(":placement={}", placement);
        if (kind != "none") {
          varied = varied.noisy(Noise::parse(kind));
          label += fmt::format("{}noise={}", placement != 0 ? "," : ":", kind);
        }
        varied = varied.named(label);
        add_problem(std::move(label), std::move(varied));
      }
    }
  }
  for (Method& method : methods) {
    plan_.methods.push_back({method.label(), method.name()});
    add_method(std::move(method));
  }
  check();
}

void Campaign::add_problem(std::string label, Problem problem) {
  if (std::ranges::find(problems_, label, &CampaignProblem::label) != problems_.end())
    throw InputError(fmt::format("the campaign has the problem {} twice", label));
  if (const auto best = plan_.best.find(label); best != plan_.best.end()) problem = problem.best_known(best->second);
  CampaignProblem added{.label = std::move(label), .problem = std::move(problem)};
  const Problem judged = added.problem.exact();
  if (judged.best_value())
    added.gaps = plan_.gaps.empty() ? usual_gaps(judged, plan_.seed, plan_.smallest_gap) : plan_.gaps;
  if (!judged.bundle()->is_concurrent()) turns_[judged.bundle().get()] = std::make_unique<std::mutex>();
  problems_.push_back(std::move(added));
}

void Campaign::add_method(Method method) {
  if (std::ranges::find(methods_, method.label(), &Method::label) != methods_.end())
    throw InputError(fmt::format("the campaign has the method {} twice", method.label()));
  methods_.push_back(std::move(method));
}

void Campaign::check() const {
  if (problems_.empty()) throw InputError("the campaign has no problem");
  if (methods_.empty()) throw InputError("the campaign has no method");
  if (plan_.repeats < 1) throw InputError(fmt::format("a campaign needs at least 1 repeat, not {}", plan_.repeats));
  check_size(problems_.size(), methods_.size(), plan_.repeats);
  for (const auto& [name, value] : plan_.best) {
    if (std::ranges::find(problems_, name, &CampaignProblem::label) == problems_.end())
      throw InputError(fmt::format("[best] names {}, which is no problem of the plan", name));
  }
  for (const CampaignProblem& each : problems_) {
    if (each.gaps.empty() && plan_.trace_rows == 0)
      throw InputError(
          fmt::format("the best value of {} is not known: give it under [best], or keep traces, from which "
                      "targets are taken when all runs are done",
                      each.label));
    if (each.problem.is_noisy() && each.problem.objectives().size() > 1)
      throw InputError(fmt::format(
          "runs under noise are judged by the values without it, and {} has several objectives", each.label));
    if (each.problem.is_noisy() && each.gaps.empty())
      throw InputError(
          fmt::format("runs under noise are judged by their distance from the best value, and that of {} is "
                      "not known: give it under [best]",
                      each.label));
    if (plan_.starts == PlannedStarts::own && !each.problem.start())
      throw InputError(fmt::format("starts = \"own\", but {} has no start of its own", each.label));
    for (const Method& method : methods_) check_able(method, each.problem);
  }
}

std::size_t Campaign::size() const {
  return problems_.size() * methods_.size() * static_cast<std::size_t>(plan_.repeats);
}

RunKey Campaign::key(std::size_t k) const {
  const std::size_t pairs = k / methods_.size(), repeats = static_cast<std::size_t>(plan_.repeats);
  return {pairs / repeats, static_cast<std::int64_t>(pairs % repeats) + 1, k % methods_.size()};
}

Problem Campaign::problem_for(const RunKey& key) const {
  const CampaignProblem& planned = problems_[key.problem];
  if (!planned.problem.is_noisy()) return planned.problem;
  // The same noise for all methods of a repeat, another one in each repeat.
  RandomStream random(plan_.seed, {"noise", planned.label, key.repeat});
  return planned.problem.with_noise_seed(random());
}

RunOptions Campaign::options_for(const RunKey& key, const Problem& problem) const {
  const CampaignProblem& planned = problems_[key.problem];
  RunOptions options{.seed = plan_.seed, .repeat = static_cast<std::uint64_t>(key.repeat), .stop = plan_.stop};
  if (plan_.starts == PlannedStarts::own) options.start = *problem.start();
  options.derivative = plan_.derivative;
  options.trace = {.spacing = TracePolicy::Spacing::geometric,
                   .stride = 16,
                   .most_rows = static_cast<std::size_t>(std::max<std::int64_t>(2, plan_.trace_rows))};
  if (!planned.problem.is_noisy()) {
    options.milestones = planned.gaps;
    if (!planned.gaps.empty() && !options.stop.target) options.stop.gap = planned.gaps.back();
  }
  return options;
}

RunRecord Campaign::perform(const RunKey& key, const std::function<bool()>& asked_to_stop) const {
  RunRecord record{.key = key};
  try {
    const CampaignProblem& planned = problems_[key.problem];
    const Problem problem = problem_for(key);
    RunOptions options = options_for(key, problem);
    options.asked_to_stop = asked_to_stop;
    std::unique_lock<std::mutex> turn;
    if (const auto waiting = turns_.find(planned.problem.exact().bundle().get()); waiting != turns_.end())
      turn = std::unique_lock(*waiting->second);
    if (!planned.problem.is_noisy()) {
      fill(record, run(problem, methods_[key.method], options));
    } else {
      const auto judge = std::make_shared<ExactJudge>(planned.problem.exact(), planned.gaps);
      const auto listener = [judge](const Vector& x, double) { judge->see(x); };
      fill(record, run(problem.observed(listener), methods_[key.method], options));
      record.value = judge->value(record.point);
      record.hits = judge->hits();
    }
    if (plan_.trace_rows == 0) record.trace = {};
  } catch (const std::exception& error) {
    record.status = Status::failed;
    record.message = error.what();
  } catch (...) {
    record.status = Status::failed;
    record.message = "it threw what is no exception";
  }
  return record;
}

} // namespace tanzen
