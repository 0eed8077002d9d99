#include "tanzen/problem/loss.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <utility>
#include <vector>

namespace tanzen {
namespace {

constexpr std::array<std::pair<std::string_view, Loss::Kind>, 5> kinds_of_loss = {{{"squares", Loss::Kind::squares},
                                                                                   {"huber", Loss::Kind::huber},
                                                                                   {"cauchy", Loss::Kind::cauchy},
                                                                                   {"absolute", Loss::Kind::absolute},
                                                                                   {"tukey", Loss::Kind::tukey}}};

} // namespace

double Loss::value(double r) const {
  switch (kind) {
  case Kind::squares: return r * r;
  case Kind::huber: return std::abs(r) <= scale ? r * r : scale * (2 * std::abs(r) - scale);
  case Kind::cauchy: break;
  case Kind::absolute: return 2 * r * r / (1 + std::hypot(1, r / scale)); // without cancellation
  case Kind::tukey: {
    const double square = std::min((r / scale) * (r / scale), 1.0); // in this order what is no number stays none
    return scale * scale * square * (1 - square + square * square / 3);
  }
  }
  return scale * scale * std::log1p((r / scale) * (r / scale));
}

double Loss::weight(double r) const {
  switch (kind) {
  case Kind::squares: return 1;
  case Kind::huber: return std::abs(r) <= scale ? 1 : scale / std::abs(r);
  case Kind::cauchy: break;
  case Kind::absolute: return 1 / std::hypot(1, r / scale);
  case Kind::tukey: {
    const double left = std::max(1 - (r / scale) * (r / scale), 0.0); // in this order likewise
    return left * left;
  }
  }
  return 1 / (1 + (r / scale) * (r / scale));
}

double Loss::slope(double r) const {
  return 2 * r * weight(r);
}

double Loss::bend(double r) const {
  switch (kind) {
  case Kind::squares: return 2;
  case Kind::huber: return std::abs(r) <= scale ? 2 : 0;
  case Kind::cauchy: break;
  case Kind::absolute: return 2 / std::pow(std::hypot(1, r / scale), 3);
  case Kind::tukey: {
    const double part = (r / scale) * (r / scale);
    return part < 1 ? 2 * (1 - part) * (1 - 5 * part) : 0;
  }
  }
  const double square = (r / scale) * (r / scale);
  return 2 * (1 - square) / ((1 + square) * (1 + square));
}

double Loss::usual_scale() const {
  switch (kind) {
  case Kind::squares: return 1;
  case Kind::huber: return 1.345;
  case Kind::cauchy: return 2.385;
  case Kind::absolute: return 0.1;
  case Kind::tukey: break;
  }
  return 4.685;
}

Loss Loss::parse(std::string_view text) {
  const auto pieces = split(text, ':');
  std::vector<std::string> words;
  for (const auto& [word, kind] : kinds_of_loss) {
    words.emplace_back(word);
    if (pieces.front() != word || pieces.size() > 2) continue;
    const double scale = pieces.size() == 2 ? read_number(pieces[1]).value_or(0) : 1;
    if (scale > 0 && std::isfinite(scale)) return {kind, scale};
    throw InputError(fmt::format("the scale of the loss '{}' must be a number above 0, as in {}:1.5", text, word));
  }
  throw InputError(fmt::format("there is no loss '{}' (there are {}){}", clipped(text, 40), joined(words, ", "),
                               did_you_mean(pieces.front(), words)));
}

std::string Loss::text() const {
  for (const auto& [word, known] : kinds_of_loss) {
    if (known == kind)
      return kind == Kind::squares ? std::string(word) : fmt::format("{}:{}", word, number_text(scale));
  }
  return "";
}

} // namespace tanzen
