#include "tanzen/analysis/convergence.hpp"

#include "tanzen/base/text.hpp"

#include <cmath>
#include <fmt/format.h>
#include <numeric>
#include <vector>

namespace tanzen {
namespace {

/// Logarithms of the gradient norms at the end of a trace, over iterations that follow each other.
std::vector<double> last_logarithms(const Trace& trace) {
  std::vector<double> logs;
  for (std::size_t row = trace.rows(); row-- > 0;) {
    const double norm = trace.at(row, Trace::gradient_norm);
    if (!(norm > 0) || !std::isfinite(norm)) {
      if (logs.empty()) continue; // a last row that is not known, or exactly zero
      break;
    }
    logs.push_back(std::log(norm));
    const bool follows = row > 0 && trace.at(row, Trace::iteration) == trace.at(row - 1, Trace::iteration) + 1;
    if (!follows) break;
  }
  return {logs.rbegin(), logs.rend()};
}

/// The mean change of the last `count` logarithms but `skipped` ones.
double mean_change(const std::vector<double>& logs, std::size_t count, std::size_t skipped) {
  const std::size_t end = logs.size() - 1 - skipped;
  return (logs[end] - logs[end - count]) / static_cast<double>(count);
}

/// The slope of next against now over the last three pairs.
double exponent_of(const std::vector<double>& logs) {
  const std::size_t n = logs.size();
  const double x[] = {logs[n - 4], logs[n - 3], logs[n - 2]}, y[] = {logs[n - 3], logs[n - 2], logs[n - 1]};
  const double mean_x = (x[0] + x[1] + x[2]) / 3, mean_y = (y[0] + y[1] + y[2]) / 3;
  double xy = 0, xx = 0;
  for (int k = 0; k < 3; ++k) {
    xy += (x[k] - mean_x) * (y[k] - mean_y);
    xx += (x[k] - mean_x) * (x[k] - mean_x);
  }
  return xy / xx;
}

} // namespace

std::optional<Convergence> convergence_of(const Trace& trace) {
  const std::vector<double> logs = last_logarithms(trace);
  const std::size_t n = logs.size();
  if (n >= 5) {
    const bool falls = logs[n - 1] < logs[n - 2] && logs[n - 2] < logs[n - 3] && logs[n - 3] < logs[n - 4];
    const double exponent = exponent_of(logs);
    const bool is_fast = mean_change(logs, 2, 0) < std::log(0.02);
    if (falls && is_fast && exponent >= 1.7 && exponent < 3.5)
      return Convergence{ConvergenceOrder::quadratic, std::exp(mean_change(logs, 1, 0)), exponent, 3};
  }
  if (n >= 7) {
    const double late = mean_change(logs, 3, 0), early = mean_change(logs, 3, 3);
    if (late < std::log(0.1) && late < early + std::log(0.5))
      return Convergence{ConvergenceOrder::superlinear, std::exp(late), 1, 6};
  }
  const std::size_t half = std::min<std::size_t>((n - 1) / 2, 20);
  if (n < 9 || half < 4) return std::nullopt;
  const double late = mean_change(logs, half, 0), early = mean_change(logs, half, half);
  const double whole = 0.5 * (late + early);
  if (!(whole < -1e-6) || std::abs(late - early) > 0.1 * std::abs(whole)) return std::nullopt;
  return Convergence{ConvergenceOrder::linear, std::exp(whole), 1, static_cast<int>(2 * half)};
}

std::string_view order_word(ConvergenceOrder order) {
  switch (order) {
  case ConvergenceOrder::linear: return "linear";
  case ConvergenceOrder::superlinear: return "superlinear";
  case ConvergenceOrder::quadratic: break;
  }
  return "quadratic";
}

std::string to_text(const Convergence& convergence) {
  const std::string left = short_number(convergence.rate, 4);
  switch (convergence.order) {
  case ConvergenceOrder::linear: return fmt::format("linear, each iteration leaves {} of the gradient norm", left);
  case ConvergenceOrder::superlinear:
    return fmt::format("superlinear, the last three iterations leave {} each of the gradient norm", left);
  case ConvergenceOrder::quadratic: break;
  }
  return fmt::format("quadratic, order 2 (estimated as {} from the last {} iterations)",
                     short_number(convergence.exponent, 2), convergence.iterations);
}

PathCharacter path_character(const Trace& trace, bool converged, double sign) {
  if (trace.rows() < 2) return converged ? PathCharacter::goes_home : PathCharacter::unclear;
  const std::size_t last = trace.rows() - 1;
  const double first_value = sign * trace.at(0, Trace::value), last_value = sign * trace.at(last, Trace::value);
  if (!std::isfinite(last_value) || last_value > first_value) return PathCharacter::leaves;
  const double fall = trace.at(last, Trace::gradient_norm) / trace.at(0, Trace::gradient_norm);
  if (converged || fall <= 1e-8) return PathCharacter::goes_home;
  if (!trace.has_points() || trace.rows() < 4) return PathCharacter::unclear;
  std::size_t turns = 0, slow = 0, looked = 0;
  for (std::size_t row = last >= 12 ? last - 10 : 2; row <= last; ++row, ++looked) {
    const Vector now = trace.point(row) - trace.point(row - 1), before = trace.point(row - 1) - trace.point(row - 2);
    if (now.dot(before) < -0.5 * now.norm() * before.norm()) ++turns;
    if (now.norm() > 0.9 * before.norm()) ++slow;
  }
  if (2 * turns > looked) return PathCharacter::flips;
  return 2 * slow > looked ? PathCharacter::crawls : PathCharacter::unclear;
}

std::string_view path_word(PathCharacter character) {
  switch (character) {
  case PathCharacter::goes_home: return "goes home";
  case PathCharacter::leaves: return "leaves";
  case PathCharacter::flips: return "flips";
  case PathCharacter::crawls: return "crawls";
  case PathCharacter::unclear: break;
  }
  return "-";
}

} // namespace tanzen
