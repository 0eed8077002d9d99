#include "tanzen/search/settings.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

std::optional<std::string> wrong_value(std::string_view text, const Setting& setting) {
  return fmt::format("must be {}; found '{}'", setting.range(), clipped(text, 40));
}

/// A number that is whole may still be larger than can be counted.
std::optional<std::string> wrong_whole(std::string_view text, const std::optional<double>& number,
                                       const Setting& setting) {
  if (!number || *number != std::round(*number)) return wrong_value(text, setting);
  return fmt::format("must be a whole number of at most {:.0f}; found '{}'", 0x1.0p53, clipped(text, 40));
}

/// Reads a number into any field that can take one.
template <class Number, class Field>
Setting::Read reader(Field& field) {
  return [&field](std::string_view text, const Setting& setting) -> std::optional<std::string> {
    const auto number = read_number(text);
    const bool is_whole = number && *number == std::round(*number) && std::abs(*number) <= 0x1.0p53;
    if (!number || std::isnan(*number) || !setting.allows(*number)) return wrong_value(text, setting);
    if (std::is_same_v<Number, Index> && !is_whole) return wrong_whole(text, number, setting);
    field = static_cast<Number>(*number);
    return std::nullopt;
  };
}

template <class Number>
std::string shown(const std::optional<Number>& field) {
  return field ? number_text(static_cast<double>(*field)) : std::string();
}

} // namespace

SettingValue::SettingValue(double value) : text_(number_text(value)) {}

Setting& Setting::above(double limit) {
  lower_ = limit;
  lower_open_ = true;
  return *this;
}

Setting& Setting::below(double limit) {
  upper_ = limit;
  upper_open_ = true;
  return *this;
}

Setting& Setting::at_least(double limit) {
  lower_ = limit;
  lower_open_ = false;
  return *this;
}

Setting& Setting::at_most(double limit) {
  upper_ = limit;
  upper_open_ = false;
  return *this;
}

Setting& Setting::means(std::string_view text) {
  meaning_ = text;
  return *this;
}

Setting& Setting::unset_means(std::string_view text) {
  unset_ = text;
  return *this;
}

std::string Setting::value() const {
  std::string text = show_();
  return text.empty() ? unset_ : text;
}

std::string Setting::range() const {
  std::vector<std::string> limits;
  if (std::isfinite(lower_))
    limits.push_back(fmt::format("{} {}", lower_open_ ? "above" : "at least", number_text(lower_)));
  if (std::isfinite(upper_))
    limits.push_back(fmt::format("{} {}", upper_open_ ? "below" : "at most", number_text(upper_)));
  return limits.empty() ? kind_ : kind_ + " " + joined(limits, " and ");
}

bool Setting::allows(double number) const {
  const bool low_enough = upper_open_ ? number < upper_ : number <= upper_;
  const bool high_enough = lower_open_ ? number > lower_ : number >= lower_;
  return low_enough && high_enough;
}

Setting& Settings::add_setting(std::string_view name, std::string kind, Setting::Read read, Setting::Show show) {
  return settings_.emplace_back(std::string(name), std::move(kind), std::move(read), std::move(show));
}

Setting& Settings::add(std::string_view name, double& field) {
  return add_setting(name, "a number", reader<double>(field), [&field] { return number_text(field); });
}

Setting& Settings::add(std::string_view name, Index& field) {
  return add_setting(name, "a whole number", reader<Index>(field), [&field] { return std::to_string(field); });
}

Setting& Settings::add_number(std::string_view name, bool is_whole, double least, double most,
                              std::function<void(double)> set, std::function<double()> get) {
  auto read = [=, set = std::move(set)](std::string_view text, const Setting& setting) -> std::optional<std::string> {
    const auto number = read_number(text);
    const bool is_one = number && !std::isnan(*number) && (!is_whole || *number == std::round(*number));
    if (!is_one || !setting.allows(*number)) return wrong_value(text, setting);
    if (*number < least || *number > most)
      return fmt::format("must be from {} to {}; found '{}'", number_text(least), number_text(most), clipped(text, 40));
    set(*number);
    return std::nullopt;
  };
  return add_setting(name, is_whole ? "a whole number" : "a number", std::move(read),
                     [get = std::move(get)] { return number_text(get()); });
}

Setting& Settings::add(std::string_view name, std::optional<double>& field) {
  return add_setting(name, "a number", reader<double>(field), [&field] { return shown(field); });
}

Setting& Settings::add(std::string_view name, std::optional<Index>& field) {
  return add_setting(name, "a whole number", reader<Index>(field), [&field] { return shown(field); });
}

Setting& Settings::add(std::string_view name, bool& field) {
  auto choose = [&field](std::size_t k) { field = k == 0; };
  return add_choice(name, {"true", "false"}, choose, [&field] { return std::string(field ? "true" : "false"); });
}

Setting& Settings::add(std::string_view name, std::string& field, std::string kind,
                       std::function<std::optional<std::string>(std::string_view)> check) {
  auto read = [&field, check = std::move(check)](std::string_view text, const Setting&) -> std::optional<std::string> {
    if (auto wrong = check(text)) return wrong;
    field = text;
    return std::nullopt;
  };
  return add_setting(name, std::move(kind), std::move(read), [&field] { return field; });
}

Setting& Settings::add_choice(std::string_view name, std::vector<std::string> words,
                              std::function<void(std::size_t)> choose, Setting::Show show) {
  std::string kind = "one of " + joined(words, ", ");
  auto read = [words = std::move(words), choose = std::move(choose)](
                  std::string_view text, const Setting& setting) -> std::optional<std::string> {
    const auto found = std::ranges::find(words, text);
    if (found == words.end()) return *wrong_value(text, setting) + did_you_mean(text, words);
    choose(static_cast<std::size_t>(found - words.begin()));
    return std::nullopt;
  };
  return add_setting(name, std::move(kind), std::move(read), std::move(show));
}

std::vector<std::string> Settings::names() const {
  std::vector<std::string> names;
  for (const Setting& setting : settings_) names.push_back(setting.name());
  return names;
}

void Settings::assign(std::string_view owner, std::string_view name, const SettingValue& value) {
  const auto setting = std::ranges::find(settings_, name, &Setting::name);
  if (setting == settings_.end()) {
    const auto known = names();
    const std::string those = known.empty() ? "it has none" : "it has " + joined(known, ", ");
    throw InputError(
        fmt::format("{} has no setting '{}' ({}){}", owner, clipped(name, 40), those, did_you_mean(name, known)));
  }
  if (const auto wrong = setting->assign(value.text())) {
    throw InputError(fmt::format("the setting '{}' of {} {}", name, owner, *wrong));
  }
}

} // namespace tanzen
