#include "tanzen/files/outcome_file.hpp"

#include "tanzen/base/errors.hpp"

#include "json_numbers.hpp"

#include <fmt/format.h>

namespace tanzen {
namespace {

using files::number_from_json;
using files::vector_from_json;

Json optional_number(const std::optional<double>& value) {
  return value ? files::to_json(*value) : Json(nullptr);
}

std::optional<double> number_or_none(const Json& json) {
  return json.is_null() ? std::nullopt : std::optional(number_from_json(json));
}

Json curvature_to_json(const std::optional<Curvature>& curvature) {
  if (!curvature) return nullptr;
  return {{"kind", point_kind_word(curvature->kind)}, {"eigenvalues", files::to_json(curvature->eigenvalues)}};
}

std::optional<Curvature> curvature_from_json(const Json& json) {
  if (json.is_null()) return std::nullopt;
  Curvature curvature;
  curvature.eigenvalues = vector_from_json(json.at("eigenvalues"));
  const auto word = json.at("kind").get<std::string>();
  using enum PointKind;
  for (const PointKind kind : {minimum, maximum, saddle, degenerate, on_bounds}) {
    if (point_kind_word(kind) == word) curvature.kind = kind;
  }
  return curvature;
}

Json minima_to_json(const std::vector<FoundMinimum>& minima) {
  Json list = Json::array();
  for (const FoundMinimum& minimum : minima) {
    list.push_back(
        {{"value", files::to_json(minimum.value)}, {"point", files::to_json(minimum.point)}, {"times", minimum.times}});
  }
  return list;
}

std::vector<FoundMinimum> minima_from_json(const Json& list) {
  std::vector<FoundMinimum> minima;
  for (const Json& json : list) {
    minima.push_back(
        {vector_from_json(json.at("point")), number_from_json(json.at("value")), json.at("times").get<std::int64_t>()});
  }
  return minima;
}

Json proof_to_json(const std::optional<Proof>& proof) {
  if (!proof) return nullptr;
  Json boxes = Json::array();
  for (const Proof::MinimizerBox& box : proof->boxes)
    boxes.push_back(
        {{"lower", files::to_json(box.lower)}, {"upper", files::to_json(box.upper)}, {"holds", holds_word(box.holds)}});
  return {{"lower", files::to_json(proof->lower)},
          {"upper", files::to_json(proof->upper)},
          {"boxes", boxes},
          {"looked_at", proof->looked_at}};
}

Json global_to_json(const GlobalCheck& check) {
  return {{"verdict", verdict_word(check.verdict)},  {"reason", check.reason},
          {"bound", files::to_json(check.bound)},    {"value", files::to_json(check.value)},
          {"point", files::to_json(check.point)},    {"proof", proof_to_json(check.proof)},
          {"seconds", files::to_json(check.seconds)}};
}

std::optional<Proof> proof_from_json(const Json& json) {
  if (json.is_null()) return std::nullopt;
  Proof proof{.lower = number_from_json(json.at("lower")),
              .upper = number_from_json(json.at("upper")),
              .looked_at = json.at("looked_at").get<std::int64_t>()};
  for (const Json& box : json.at("boxes"))
    proof.boxes.push_back({vector_from_json(box.at("lower")), vector_from_json(box.at("upper")),
                           holds_from_word(box.at("holds").get<std::string>())});
  return proof;
}

Json checked_to_json(const PointCheck& checked, const Diagnosis& diagnosis) {
  const bool is_known = checked.verdict != PointCheck::Verdict::unknown;
  const bool has_kind = checked.verdict == PointCheck::Verdict::stationary && diagnosis.curvature;
  return {{"stationary", is_known ? Json(checked.verdict == PointCheck::Verdict::stationary) : Json(nullptr)},
          {"relative_gradient", files::to_json(checked.relative_gradient)},
          {"kkt", files::to_json(checked.kkt)},
          {"kind", has_kind ? Json(point_kind_word(diagnosis.curvature->kind)) : Json(nullptr)},
          {"how", checked.how},
          {"falls_along", checked.fall ? files::to_json(checked.fall->direction) : Json(nullptr)},
          {"evaluations", checked.evaluations}};
}

Json constraints_to_json(const PointCheck& checked) {
  Json list = Json::array();
  for (const ConstraintState& state : checked.constraints) {
    list.push_back({{"name", state.name},
                    {"value", files::to_json(state.value)},
                    {"lower", files::to_json(state.lower)},
                    {"upper", files::to_json(state.upper)},
                    {"slack", files::to_json(state.slack)},
                    {"multiplier", files::to_json(state.multiplier)},
                    {"active", state.active}});
  }
  return list;
}

/// Of the bounds, by variable.
Json multipliers_to_json(const Outcome& outcome) {
  const Vector& multipliers = outcome.checked.bound_multipliers;
  if (multipliers.size() == 0) return nullptr;
  Json by_variable = Json::object();
  for (std::size_t i = 0; i < outcome.variable_names.size(); ++i)
    by_variable[outcome.variable_names[i]] = files::to_json(multipliers[static_cast<Index>(i)]);
  return by_variable;
}

/// The place in the front, what is there, and what it costs to have more of one objective.
Json choice_to_json(const Outcome& outcome, const Choice& choice) {
  const FrontPoint& chosen = outcome.front[choice.point];
  Json exchanges = Json::array();
  for (const Exchange& each : choice.exchanges)
    exchanges.push_back({{"objective", outcome.objectives[static_cast<std::size_t>(each.objective)].name},
                         {"front", each.point},
                         {"change", files::to_json(each.change)}});
  return {{"front", choice.point},
          {"objectives", files::to_json(chosen.objectives)},
          {"point", files::to_json(chosen.point)},
          {"exchanges", exchanges}};
}

Json front_to_json(const Outcome& outcome) {
  if (outcome.objectives.size() < 2) return nullptr;
  Json list = Json::array();
  for (const FrontPoint& each : outcome.front)
    list.push_back({{"objectives", files::to_json(each.objectives)}, {"point", files::to_json(each.point)}});
  return list;
}

void read_checked(const Json& json, Outcome& outcome) {
  const Json& checked = json.at("checked");
  if (!checked.at("stationary").is_null())
    outcome.checked.verdict =
        checked.at("stationary").get<bool>() ? PointCheck::Verdict::stationary : PointCheck::Verdict::not_stationary;
  outcome.checked.relative_gradient = number_from_json(checked.at("relative_gradient"));
  outcome.checked.kkt = number_from_json(checked.at("kkt"));
  outcome.checked.how = checked.at("how").get<std::string>();
  if (!checked.at("falls_along").is_null())
    outcome.checked.fall = Fall{.direction = vector_from_json(checked.at("falls_along"))};
  outcome.checked.evaluations = checked.at("evaluations").get<std::int64_t>();
  for (const Json& row : json.at("constraints"))
    outcome.checked.constraints.push_back({row.at("name").get<std::string>(), number_from_json(row.at("value")),
                                           number_from_json(row.at("lower")), number_from_json(row.at("upper")),
                                           number_from_json(row.at("slack")), row.at("active").get<bool>(),
                                           number_from_json(row.at("multiplier"))});
  if (json.at("multipliers").is_object()) {
    const auto count = static_cast<Index>(outcome.variable_names.size());
    outcome.checked.bound_multipliers.resize(count);
    for (Index i = 0; i < count; ++i)
      outcome.checked.bound_multipliers[i] =
          number_from_json(json.at("multipliers").at(outcome.variable_names[static_cast<std::size_t>(i)]));
  }
  if (!json.at("front").is_array()) return;
  for (const Json& each : json.at("front"))
    outcome.front.push_back({vector_from_json(each.at("point")), vector_from_json(each.at("objectives"))});
}

DiagnosedOutcome from_json(const Json& json) {
  DiagnosedOutcome read;
  Outcome& outcome = read.outcome;
  outcome.problem = json.at("problem").get<std::string>();
  outcome.variable_names = json.at("variables").get<std::vector<std::string>>();
  outcome.sense = json.at("sense") == "maximize" ? Sense::maximize : Sense::minimize;
  outcome.method = json.at("method").get<std::string>();
  outcome.method_label = json.at("label").get<std::string>();
  for (const auto& [name, value] : json.at("settings").items()) {
    outcome.settings.push_back({name, value.get<std::string>(), "", ""});
  }
  outcome.seed = json.at("seed").get<std::uint64_t>();
  outcome.start = vector_from_json(json.at("start"));
  outcome.start_value = number_from_json(json.at("start_value"));
  const auto word = json.at("status").get<std::string>();
  const auto status = status_from_word(word);
  if (!status) throw InputError(fmt::format("there is no status '{}'", word));
  outcome.status = *status;
  outcome.message = json.at("message").get<std::string>();
  outcome.value = number_from_json(json.at("value"));
  outcome.point = vector_from_json(json.at("point"));
  outcome.last_value = number_from_json(json.at("last_value"));
  outcome.last_point = vector_from_json(json.at("last_point"));
  outcome.iterations = json.at("iterations").get<std::int64_t>();
  for (std::size_t k = 0; k < all_spent.size(); ++k)
    outcome.counts[all_spent[k]] = json.at(std::string(spent_words[k])).get<std::int64_t>();
  outcome.seconds = number_from_json(json.at("seconds"));
  outcome.gap = number_or_none(json.at("gap"));
  outcome.distance = number_or_none(json.at("distance"));
  outcome.violation = number_from_json(json.at("violation"));
  outcome.feasible = json.at("feasible").get<bool>();
  read_checked(json, outcome);
  outcome.gradient_norm = number_from_json(json.at("gradient_norm"));
  outcome.events.outside_domain = json.at("outside_domain").get<std::int64_t>();
  outcome.events.broken = json.at("broken").get<std::int64_t>();
  outcome.minima = minima_from_json(json.at("minima"));
  outcome.proof = proof_from_json(json.at("proof"));
  read.diagnosis.curvature = curvature_from_json(json.at("curvature"));
  read.diagnosis.hints = json.at("hints").get<std::vector<std::string>>();
  return read;
}

} // namespace

std::string outcome_to_json(const Outcome& outcome, const Diagnosis& diagnosis, const std::optional<Choice>& preferred,
                            const std::optional<GlobalCheck>& global) {
  Json settings = Json::object();
  for (const auto& setting : outcome.settings) settings[setting.name] = setting.value;
  Json json = {
      {"problem", outcome.problem},
      {"dimension", outcome.dimension()},
      {"variables", outcome.variable_names},
      {"sense", outcome.sense == Sense::minimize ? "minimize" : "maximize"},
      {"method", outcome.method},
      {"label", outcome.method_label},
      {"settings", settings},
      {"seed", outcome.seed},
      {"start", files::to_json(outcome.start)},
      {"start_value", files::to_json(outcome.start_value)},
      {"status", status_word(outcome.status)},
      {"converged", outcome.converged()},
      {"message", outcome.message},
      {"value", files::to_json(outcome.value)},
      {"point", files::to_json(outcome.point)},
      {"last_value", files::to_json(outcome.last_value)},
      {"last_point", files::to_json(outcome.last_point)},
      {"iterations", outcome.iterations},
      {spent_words[0], outcome.counts[all_spent[0]]},
      {spent_words[1], outcome.counts[all_spent[1]]},
      {spent_words[2], outcome.counts[all_spent[2]]},
      {"seconds", files::to_json(outcome.seconds)},
      {"gap", optional_number(outcome.gap)},
      {"distance", optional_number(outcome.distance)},
      {"violation", files::to_json(outcome.violation)},
      {"feasible", outcome.feasible},
      {"gradient_norm", files::to_json(outcome.gradient_norm)},
      {"outside_domain", outcome.events.outside_domain},
      {"broken", outcome.events.broken},
      {"minima", minima_to_json(outcome.minima)},
      {"proof", proof_to_json(outcome.proof)},
      {"checked", checked_to_json(outcome.checked, diagnosis)},
      {"constraints", constraints_to_json(outcome.checked)},
      {"multipliers", multipliers_to_json(outcome)},
      {"front", front_to_json(outcome)},
      {"curvature", curvature_to_json(diagnosis.curvature)},
      {"order", diagnosis.convergence ? Json(order_word(diagnosis.convergence->order)) : Json(nullptr)},
      {"hints", diagnosis.hints},
  };
  if (preferred) json["preferred"] = choice_to_json(outcome, *preferred);
  if (global) json["global"] = global_to_json(*global);
  return files::json_text(json);
}

DiagnosedOutcome outcome_from_json(std::string_view text) {
  const Json json = files::json_in(text);
  if (json.is_discarded()) throw InputError("the outcome is not valid JSON");
  try {
    return from_json(json);
  } catch (const Json::exception& error) {
    throw InputError(fmt::format("the outcome is not complete: {}", error.what()));
  }
}

} // namespace tanzen
