#include "tanzen/analysis/preference.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/numeric/factors.hpp"

#include <cassert>
#include <cmath>
#include <fmt/format.h>
#include <limits>

namespace tanzen {
namespace {

Vector senses_of(const Outcome& outcome) {
  Vector senses(static_cast<Index>(outcome.objectives.size()));
  for (Index k = 0; k < senses.size(); ++k) senses[k] = sign_of(outcome.objectives[static_cast<std::size_t>(k)].sense);
  return senses;
}

/// The objectives of a front turned so that they are to be minimized, in parts of its range; a column a point.
struct ScaledFront {
  Matrix points;
  Vector lowest, width;

  explicit ScaledFront(const Outcome& outcome) {
    const Vector senses = senses_of(outcome);
    points.resize(senses.size(), static_cast<Index>(outcome.front.size()));
    for (std::size_t k = 0; k < outcome.front.size(); ++k)
      points.col(static_cast<Index>(k)) = senses.cwiseProduct(outcome.front[k].objectives);
    lowest = points.rowwise().minCoeff();
    width = (points.rowwise().maxCoeff() - lowest).unaryExpr([](double range) { return range > 0 ? range : 1.0; });
    points = (points.colwise() - lowest).array().colwise() / width.array();
  }
};

/// The plane through the ends: its normal, all of whose entries are above 0; all alike where there is no such plane.
Vector normal_through(const Matrix& ends) {
  const Vector normal = inverse_of(ends.transpose()) * Vector::Ones(ends.rows());
  return normal.allFinite() && (normal.array() > 0).all() ? normal : Vector(Vector::Ones(ends.rows()));
}

Index least_of(const Vector& values) {
  Index place = 0;
  values.minCoeff(&place);
  return place;
}

std::string change_text(const Outcome& outcome, Index objective, double change) {
  return fmt::format("{} {} by {}", outcome.objectives[static_cast<std::size_t>(objective)].name,
                     change < 0 ? "lower" : "higher", short_number(std::abs(change), 4));
}

} // namespace

Preference Preference::parse(std::string_view text, Index objectives) {
  const auto colon = text.find(':');
  const std::string_view word = text.substr(0, colon);
  Preference preference;
  if (text == "knee") return preference;
  if (word != "weights" && word != "reference")
    throw InputError(
        fmt::format("--prefer takes knee, weights:0.3,0.7 or reference:12,30; found '{}'", clipped(text, 40)));
  preference.kind = word == "weights" ? Kind::weights : Kind::reference;
  std::vector<double> numbers;
  for (const std::string& piece : split(colon == std::string_view::npos ? "" : text.substr(colon + 1), ',')) {
    const auto number = read_number(piece);
    if (!number || !std::isfinite(*number) || (preference.kind == Kind::weights && *number < 0))
      throw InputError(fmt::format("--prefer: '{}' is no {}", clipped(piece, 40),
                                   preference.kind == Kind::weights ? "weight" : "value"));
    numbers.push_back(*number);
  }
  if (static_cast<Index>(numbers.size()) != objectives)
    throw InputError(
        fmt::format("--prefer {} takes a number for each objective: {}, not {}", word, objectives, numbers.size()));
  preference.numbers = Eigen::Map<const Vector>(numbers.data(), objectives);
  if (preference.kind == Kind::weights && preference.numbers.sum() <= 0)
    throw InputError("--prefer: one weight must be above 0");
  return preference;
}

std::vector<std::size_t> front_ends(const Outcome& outcome) {
  const ScaledFront front(outcome);
  std::vector<std::size_t> ends;
  for (Index k = 0; k < front.points.rows(); ++k)
    ends.push_back(static_cast<std::size_t>(least_of(front.points.row(k))));
  return ends;
}

Choice choose(const Outcome& outcome, const Preference& preference) {
  assert(!outcome.front.empty());
  const ScaledFront front(outcome);
  Vector merit;
  switch (preference.kind) {
  case Preference::Kind::weights: merit = front.points.transpose() * preference.numbers; break;
  case Preference::Kind::reference: {
    constexpr double little = 1e-4;
    const Vector wanted =
        (senses_of(outcome).cwiseProduct(preference.numbers) - front.lowest).cwiseQuotient(front.width);
    const Matrix missing = front.points.colwise() - wanted;
    merit = missing.colwise().maxCoeff() + little * missing.colwise().sum();
    break;
  }
  case Preference::Kind::knee: {
    Matrix ends(front.points.rows(), front.points.rows());
    const std::vector<std::size_t> places = front_ends(outcome);
    for (std::size_t k = 0; k < places.size(); ++k)
      ends.col(static_cast<Index>(k)) = front.points.col(static_cast<Index>(places[k]));
    merit = front.points.transpose() * normal_through(ends);
    break;
  }
  }
  const Index chosen = least_of(merit);
  Choice choice{.point = static_cast<std::size_t>(chosen), .exchanges = {}};
  for (Index k = 0; k < front.points.rows(); ++k) {
    constexpr double worth_telling = 0.05;
    std::optional<Index> nearest;
    double least = std::numeric_limits<double>::infinity();
    for (Index other = 0; other < front.points.cols(); ++other) {
      const double away = (front.points.col(other) - front.points.col(chosen)).squaredNorm();
      if (front.points(k, chosen) - front.points(k, other) < worth_telling || away >= least) continue;
      nearest = other;
      least = away;
    }
    if (!nearest) continue;
    const auto place = static_cast<std::size_t>(*nearest);
    choice.exchanges.push_back({k, place, outcome.front[place].objectives - outcome.front[choice.point].objectives});
  }
  return choice;
}

std::string to_text(const Outcome& outcome, const Choice& choice) {
  const FrontPoint& chosen = outcome.front[choice.point];
  std::vector<std::string> values;
  for (std::size_t k = 0; k < outcome.objectives.size(); ++k)
    values.push_back(
        fmt::format("{} {}", outcome.objectives[k].name, short_number(chosen.objectives[static_cast<Index>(k)], 6)));
  std::string text = block_line("preferred", joined(values, ", ")) + block_line("at", point_text(chosen.point));
  for (const Exchange& exchange : choice.exchanges) {
    std::vector<std::string> costs;
    for (Index k = 0; k < exchange.change.size(); ++k) {
      const bool is_worse = sign_of(outcome.objectives[static_cast<std::size_t>(k)].sense) * exchange.change[k] > 0;
      if (is_worse) costs.push_back(change_text(outcome, k, exchange.change[k]));
    }
    text += block_line("exchange",
                       fmt::format("{} costs {}",
                                   change_text(outcome, exchange.objective, exchange.change[exchange.objective]),
                                   costs.empty() ? "nothing" : joined(costs, ", ")));
  }
  return text;
}

} // namespace tanzen
