#include "tanzen/files/visit_file.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/files/write_file.hpp"

#include <cmath>
#include <fmt/format.h>
#include <iterator>
#include <limits>

namespace tanzen {

Problem Visits::heard(const Problem& problem) {
  return problem.observed([heard = heard_](const Vector& point, double value) { heard->push_back({point, value}); });
}

std::string visits_to_csv(const Visits& visits, const Outcome& outcome) {
  fmt::memory_buffer text;
  const auto out = std::back_inserter(text);
  fmt::format_to(out, "visit,iteration,value,best,{}\n", joined(outcome.variable_names, ","));
  const Trace& trace = outcome.trace;
  const double sign = sign_of(outcome.sense);
  double best = std::numeric_limits<double>::infinity();
  std::size_t row = 0;
  for (std::size_t k = 0; k < visits.all().size(); ++k) {
    const Visits::Visit& visit = visits.all()[k];
    const auto number = static_cast<double>(k + 1);
    while (row + 1 < trace.rows() && trace.at(row, Trace::evaluations) < number) ++row;
    const bool is_best = std::isfinite(visit.value) && sign * visit.value < best;
    if (is_best) best = sign * visit.value;
    fmt::format_to(out, "{},{},", k + 1, trace.rows() > 0 ? trace.at(row, Trace::iteration) : 0);
    if (std::isfinite(visit.value)) fmt::format_to(out, "{}", visit.value);
    fmt::format_to(out, ",{}", is_best ? 1 : 0);
    for (const double coordinate : visit.point) fmt::format_to(out, ",{}", coordinate);
    text.push_back('\n');
  }
  return fmt::to_string(text);
}

void check_visits_name(const std::filesystem::path& path) {
  if (path.extension() != ".csv")
    throw InputError(fmt::format("visits are written as .csv, not '{}'", path.filename().string()));
}

void write_visits(const std::filesystem::path& path, const Visits& visits, const Outcome& outcome) {
  check_visits_name(path);
  write_file(path, visits_to_csv(visits, outcome));
}

} // namespace tanzen
