#include "tanzen/files/plan_file.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/files/write_file.hpp"
#include "tanzen/problem/noise.hpp"

#include "toml_text.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

using namespace files;

constexpr std::array<std::pair<std::string_view, DerivativeMode>, 4> derivative_words = {
    {{"automatic", DerivativeMode::automatic},
     {"exact", DerivativeMode::exact},
     {"forward", DerivativeMode::forward},
     {"central", DerivativeMode::central}}};

constexpr std::int64_t most_repeats = 1'000'000;

constexpr std::array<std::pair<std::string_view, PlannedStarts>, 2> starts_words = {
    {{"region", PlannedStarts::region}, {"own", PlannedStarts::own}}};

/// One of several words.
template <class Words>
auto choice_in(const toml::node& node, std::string_view what, const Words& words) {
  const std::string text = text_in(node, what);
  std::vector<std::string> known;
  for (const auto& [word, value] : words) {
    if (text == word) return value;
    known.emplace_back(word);
  }
  fail(node, fmt::format("{} must be one of {}; found '{}'{}", what, joined(known, ", "), clipped(text, 40),
                         did_you_mean(text, known)));
}

std::vector<std::string> texts_in(const toml::node& node, std::string_view what) {
  const auto* array = node.as_array();
  if (array == nullptr) fail(node, fmt::format("{} must be a list of texts in quotes", what));
  std::vector<std::string> texts;
  for (const auto& each : *array) texts.push_back(line_in(each, fmt::format("each of {}", what)));
  return texts;
}

double positive_in(const toml::node& node, std::string_view what) {
  const double number = number_in(node, what);
  if (!(number > 0)) fail(node, fmt::format("{} must be above 0; found {}", what, number_text(number)));
  return number;
}

double finite_in(const toml::node& node, std::string_view what) {
  const double number = number_in(node, what);
  if (!std::isfinite(number)) fail(node, fmt::format("{} must be finite; found {}", what, number_text(number)));
  return number;
}

/// The value of a setting as it would be typed.
std::string setting_text(const toml::node& node, std::string_view what) {
  if (node.is_string()) return line_in(node, what);
  if (node.is_boolean()) return node.value_or(false) ? "true" : "false";
  if (const auto whole = node.value_exact<std::int64_t>()) return std::to_string(*whole);
  return number_text(number_in(node, what));
}

PlannedMethod read_method(const std::string& label, const toml::node& node) {
  PlannedMethod method{.label = label, .use = label};
  for (const auto& [key, value] : in_order(table_in(node, fmt::format("the method {}", label)))) {
    if (key == "use")
      method.use = line_in(*value, fmt::format("what the method {} uses", label));
    else
      method.settings.emplace_back(key, setting_text(*value, fmt::format("the setting {} of {}", key, label)));
  }
  return method;
}

/// A rule that is taken away.
bool is_none(const toml::node& node) {
  return node.value_or(std::string_view()) == "none";
}

void read_stop(const toml::table& table, StopRules& stop) {
  check_keys(table, "[stop]",
             {"iterations", "evaluations", "seconds", "target", "gap", "gradient_tolerance", "step_tolerance",
              "value_tolerance", "window", "divergence", "feasibility", "stop_on_broken"});
  const auto count = [&](const char* key, std::optional<std::int64_t>& rule) {
    const auto* node = table.get(key);
    if (node == nullptr) return;
    if (is_none(*node))
      rule.reset();
    else
      rule = count_in(*node, key, 1);
  };
  const auto number = [&](const char* key, std::optional<double>& rule) {
    const auto* node = table.get(key);
    if (node == nullptr) return;
    if (is_none(*node))
      rule.reset();
    else
      rule = positive_in(*node, key);
  };
  count("iterations", stop.iterations);
  count("evaluations", stop.evaluations);
  number("seconds", stop.seconds);
  number("gradient_tolerance", stop.gradient_tolerance);
  number("step_tolerance", stop.step_tolerance);
  number("value_tolerance", stop.value_tolerance);
  number("gap", stop.gap);
  if (const auto* target = table.get("target")) stop.target = number_in(*target, "target");
  if (const auto* window = table.get("window")) stop.window = count_in(*window, "window", 1);
  if (const auto* divergence = table.get("divergence")) stop.divergence = positive_in(*divergence, "divergence");
  if (const auto* feasibility = table.get("feasibility")) stop.feasibility = positive_in(*feasibility, "feasibility");
  if (const auto* broken = table.get("stop_on_broken")) {
    if (!broken->is_boolean()) fail(*broken, "stop_on_broken must be true or false");
    stop.stop_on_broken = broken->value_or(false);
  }
}

void read_targets(const toml::table& table, PlanDefinition& plan) {
  check_keys(table, "[targets]", {"gaps", "smallest"});
  if (const auto* smallest = table.get("smallest")) {
    if (table.contains("gaps")) fail(*smallest, "[targets] has all gaps, or the smallest of the usual ones; not both");
    plan.smallest_gap = positive_in(*smallest, "the smallest gap");
  }
  std::vector<double>& gaps = plan.gaps;
  const auto* node = table.get("gaps");
  if (node == nullptr) return;
  gaps = numbers_in(*node, "gaps");
  for (const double gap : gaps) {
    if (!(gap > 0)) fail(*node, fmt::format("a gap must be above 0; found {}", number_text(gap)));
  }
  std::ranges::sort(gaps, std::greater());
  if (std::ranges::adjacent_find(gaps) != gaps.end()) fail(*node, "a gap is given twice");
}

void read_lists(const toml::table& root, PlanDefinition& plan) {
  if (const auto* problems = root.get("problems")) plan.problems = texts_in(*problems, "the problems");
  if (const auto* placements = root.get("placements")) {
    for (const double number : numbers_in(*placements, "the placements")) {
      if (number < 0 || number != std::round(number)) fail(*placements, "placements must be whole numbers from 0");
      plan.placements.push_back(static_cast<std::int64_t>(number));
    }
  }
  if (const auto* noise = root.get("noise")) {
    plan.noise = texts_in(*noise, "the noise");
    for (const std::string& kind : plan.noise) {
      try {
        if (kind != "none") (void)Noise::parse(kind);
      } catch (const InputError& error) {
        fail(*noise, error.what());
      }
    }
  }
}

PlanDefinition plan_in(const toml::table& root) {
  check_keys(root, "a plan",
             {"title", "seed", "repeats", "problems", "placements", "noise", "starts", "derivative", "gradient_weight",
              "methods", "stop", "targets", "best", "trace"});
  PlanDefinition plan;
  if (const auto* title = root.get("title")) plan.title = line_in(*title, "the title");
  if (const auto* seed = root.get("seed")) plan.seed = static_cast<std::uint64_t>(count_in(*seed, "the seed", 0));
  if (const auto* repeats = root.get("repeats"))
    plan.repeats = count_in(*repeats, "the number of repeats", 1, most_repeats);
  if (const auto* starts = root.get("starts")) plan.starts = choice_in(*starts, "starts", starts_words);
  if (const auto* mode = root.get("derivative")) plan.derivative = choice_in(*mode, "derivative", derivative_words);
  if (const auto* weight = root.get("gradient_weight")) {
    plan.gradient_weight = number_in(*weight, "the gradient weight");
    if (plan.gradient_weight < 0) fail(*weight, "the gradient weight must be at least 0");
  }
  read_lists(root, plan);
  if (const auto* methods = root.get("methods")) {
    for (const auto& [label, node] : in_order(table_in(*methods, "[methods]")))
      plan.methods.push_back(read_method(label, *node));
  }
  if (const auto* stop = root.get("stop")) read_stop(table_in(*stop, "[stop]"), plan.stop);
  if (const auto* targets = root.get("targets")) read_targets(table_in(*targets, "[targets]"), plan);
  if (const auto* best = root.get("best")) {
    for (const auto& [name, node] : in_order(table_in(*best, "[best]")))
      plan.best[name] = finite_in(*node, fmt::format("the best value of {}", name));
  }
  if (const auto* node = root.get("trace")) {
    const auto& trace = table_in(*node, "[trace]");
    check_keys(trace, "[trace]", {"rows"});
    if (const auto* rows = trace.get("rows")) {
      plan.trace_rows = count_in(*rows, "the rows of a trace", 0);
      if (plan.trace_rows == 1 || plan.trace_rows > 100'000)
        fail(*rows, "the rows of a trace must be 0, for none, or from 2 to 100000");
    }
  }
  if (plan.problems.empty()) throw InputError("the plan names no problem: problems = [\"rosenbrock:dim=2,5,10\"]");
  if (plan.methods.empty()) throw InputError("the plan names no method: [methods] with a line such as bfgs = {}");
  return plan;
}

std::string method_to_toml(const PlannedMethod& method) {
  std::vector<std::string> parts;
  if (method.use != method.label) parts.push_back("use = " + quoted_text(method.use));
  for (const auto& [name, value] : method.settings) parts.push_back(key_text(name) + " = " + quoted_text(value));
  if (parts.empty()) return fmt::format("{} = {{}}\n", key_text(method.label));
  return fmt::format("{} = {{ {} }}\n", key_text(method.label), joined(parts, ", "));
}

std::string stop_to_toml(const StopRules& stop) {
  const StopRules usual = PlanDefinition{}.stop;
  std::string text;
  const auto count = [&](const char* key, const auto& rule, const auto& usual_rule) {
    if (rule == usual_rule) return;
    text += fmt::format("{} = {}\n", key, rule ? number_text(static_cast<double>(*rule)) : std::string("\"none\""));
  };
  count("iterations", stop.iterations, usual.iterations);
  count("evaluations", stop.evaluations, usual.evaluations);
  count("seconds", stop.seconds, usual.seconds);
  count("target", stop.target, usual.target);
  count("gradient_tolerance", stop.gradient_tolerance, usual.gradient_tolerance);
  count("step_tolerance", stop.step_tolerance, usual.step_tolerance);
  count("value_tolerance", stop.value_tolerance, usual.value_tolerance);
  count("gap", stop.gap, usual.gap);
  if (stop.window != usual.window) text += fmt::format("window = {}\n", stop.window);
  if (stop.divergence != usual.divergence) text += fmt::format("divergence = {}\n", number_text(stop.divergence));
  if (stop.feasibility != usual.feasibility) text += fmt::format("feasibility = {}\n", number_text(stop.feasibility));
  if (stop.stop_on_broken) text += "stop_on_broken = true\n";
  return text.empty() ? "" : "\n[stop]\n" + text;
}

template <class Numbers>
std::string list_to_toml(const char* key, const Numbers& numbers) {
  if (numbers.empty()) return "";
  std::vector<std::string> texts;
  for (const auto number : numbers) texts.push_back(number_text(static_cast<double>(number)));
  return fmt::format("{} = [{}]\n", key, joined(texts, ", "));
}

std::string texts_to_toml(const char* key, const std::vector<std::string>& texts) {
  if (texts.empty()) return "";
  std::vector<std::string> quoted;
  for (const std::string& text : texts) quoted.push_back(quoted_text(text));
  return fmt::format("{} = [{}]\n", key, joined(quoted, ", "));
}

template <class Value, class Words>
std::string_view word_for(Value value, const Words& words) {
  return std::ranges::find(words, value, [](const auto& each) { return each.second; })->first;
}

} // namespace

PlanDefinition plan_from_toml(std::string_view text) {
  return plan_in(parse_toml(text, "plan"));
}

PlanDefinition read_plan(const std::filesystem::path& path) {
  const std::string text = read_file(path);
  try {
    return plan_from_toml(text);
  } catch (const InputError& error) {
    throw InputError(fmt::format("{}: {}", path.string(), error.what()));
  }
}

std::string plan_to_toml(const PlanDefinition& plan) {
  const PlanDefinition usual;
  std::vector<std::string> problems;
  for (const std::string& problem : plan.problems) problems.push_back(quoted_text(problem));
  std::string text;
  if (!plan.title.empty()) text += fmt::format("title = {}\n", quoted_text(plan.title));
  text += fmt::format("seed = {}\nrepeats = {}\nproblems = [{}]\n", plan.seed, plan.repeats, joined(problems, ", "));
  text += list_to_toml("placements", plan.placements) + texts_to_toml("noise", plan.noise);
  if (plan.starts != usual.starts) text += fmt::format("starts = \"{}\"\n", word_for(plan.starts, starts_words));
  if (plan.derivative != usual.derivative)
    text += fmt::format("derivative = \"{}\"\n", derivative_word(plan.derivative));
  if (plan.gradient_weight != usual.gradient_weight)
    text += fmt::format("gradient_weight = {}\n", number_text(plan.gradient_weight));
  text += "\n[methods]\n";
  for (const PlannedMethod& method : plan.methods) text += method_to_toml(method);
  text += stop_to_toml(plan.stop);
  if (!plan.gaps.empty()) text += "\n[targets]\n" + list_to_toml("gaps", plan.gaps);
  if (plan.smallest_gap != usual.smallest_gap)
    text += fmt::format("\n[targets]\nsmallest = {}\n", number_text(plan.smallest_gap));
  if (!plan.best.empty()) text += "\n[best]\n";
  for (const auto& [name, value] : plan.best) text += fmt::format("{} = {}\n", key_text(name), number_text(value));
  if (plan.trace_rows != usual.trace_rows) text += fmt::format("\n[trace]\nrows = {}\n", plan.trace_rows);
  return text;
}

std::string_view derivative_word(DerivativeMode mode) {
  return word_for(mode, derivative_words);
}

} // namespace tanzen
