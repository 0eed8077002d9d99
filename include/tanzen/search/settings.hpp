#pragma once

#include "tanzen/numeric/vector.hpp"

#include <concepts>
#include <cstddef>
#include <functional>
#include <limits>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>
#include <vector>

namespace tanzen {

class MethodSource;

/// The value of a setting as it is written: a number, a word, `true` or `false`.
class SettingValue {
 public:
  SettingValue(std::string text) : text_(std::move(text)) {}
  SettingValue(std::string_view text) : text_(text) {}
  SettingValue(const char* text) : text_(text) {}
  SettingValue(bool value) : text_(value ? "true" : "false") {}
  SettingValue(std::integral auto value) : text_(std::to_string(value)) {}
  SettingValue(double value);

  [[nodiscard]] const std::string& text() const { return text_; }

 private:
  std::string text_;
};

/// Names and values, in the order given.
using SettingValues = std::vector<std::pair<std::string, SettingValue>>;

/// A named parameter of a method: where it is kept, what it may be, what it means.
class Setting {
 public:
  /// Reads a value into the field; the answer is what is wrong with it, or nothing.
  using Read = std::function<std::optional<std::string>(std::string_view text, const Setting& setting)>;
  using Show = std::function<std::string()>;

  Setting(std::string name, std::string kind, Read read, Show show)
      : name_(std::move(name)), kind_(std::move(kind)), read_(std::move(read)), show_(std::move(show)) {}

  Setting& positive() { return above(0); }
  Setting& above(double limit);
  Setting& below(double limit);
  Setting& at_least(double limit);
  Setting& at_most(double limit);
  Setting& between(double lower, double upper) { return at_least(lower).at_most(upper); }
  /// One line of what it does; with its unit where it has one.
  Setting& means(std::string_view text);
  /// What an unset value stands for, for settings whose default hangs on the problem.
  Setting& unset_means(std::string_view text);

  [[nodiscard]] const std::string& name() const { return name_; }
  [[nodiscard]] const std::string& meaning() const { return meaning_; }
  /// The value now, as text that reads back; the meaning of unset where it is unset.
  [[nodiscard]] std::string value() const;
  /// `a number above 0`, `one of fixed, exact, backtracking`.
  [[nodiscard]] std::string range() const;
  /// Whether a number lies in the range.
  [[nodiscard]] bool allows(double number) const;
  /// Reads and checks a value; the answer is what is wrong with it, or nothing.
  [[nodiscard]] std::optional<std::string> assign(std::string_view text) { return read_(text, *this); }

 private:
  std::string name_;
  std::string kind_;
  Read read_;
  Show show_;
  std::string meaning_;
  std::string unset_;
  double lower_ = -std::numeric_limits<double>::infinity();
  double upper_ = std::numeric_limits<double>::infinity();
  bool lower_open_ = false;
  bool upper_open_ = false;
};

/// The settings of one method, listed by the method itself in its `settings` function. Parsing, help, JSON
/// and documents all read this list. It borrows the fields that it was given.
class Settings {
 public:
  Settings() = default;
  /// `methods`: where methods that are settings are found; may be null.
  explicit Settings(std::shared_ptr<const MethodSource> methods) : methods_(std::move(methods)) {}

  [[nodiscard]] const std::shared_ptr<const MethodSource>& methods() const { return methods_; }

  Setting& add(std::string_view name, double& field);
  Setting& add(std::string_view name, Index& field);
  /// Any other whole number or floating point, within what its type holds.
  template <class T>
  requires(std::is_arithmetic_v<T>) Setting& add(std::string_view name, T& field) {
    const auto set = [&field](double value) { field = static_cast<T>(value); };
    const auto get = [&field] { return static_cast<double>(field); };
    return add_number(name, std::is_integral_v<T>, static_cast<double>(std::numeric_limits<T>::lowest()),
                      static_cast<double>(std::numeric_limits<T>::max()), set, get);
  }
  Setting& add(std::string_view name, bool& field);
  Setting& add(std::string_view name, std::optional<double>& field);
  Setting& add(std::string_view name, std::optional<Index>& field);

  /// A text that `check` accepts: its answer is what is wrong with it, or nothing. Empty is unset.
  Setting& add(std::string_view name, std::string& field, std::string kind,
               std::function<std::optional<std::string>(std::string_view)> check);

  /// A choice between named values of an enumeration.
  template <class T>
  requires std::is_enum_v<T> Setting& add(std::string_view name, T& field,
                                          std::vector<std::pair<std::string, T>> choices) {
    std::vector<std::string> words;
    for (const auto& choice : choices) words.push_back(choice.first);
    auto choose = [&field, choices](std::size_t k) { field = choices[k].second; };
    auto show = [&field, choices] {
      for (const auto& [word, value] : choices) {
        if (value == field) return word;
      }
      return std::string("?");
    };
    return add_choice(name, std::move(words), std::move(choose), std::move(show));
  }

  [[nodiscard]] const std::vector<Setting>& all() const { return settings_; }
  [[nodiscard]] std::vector<std::string> names() const;
  /// Sets one by name. Throws InputError, with the nearest name or the range, for what cannot be.
  void assign(std::string_view owner, std::string_view name, const SettingValue& value);

 private:
  Setting& add_number(std::string_view name, bool is_whole, double least, double most, std::function<void(double)> set,
                      std::function<double()> get);
  Setting& add_setting(std::string_view name, std::string kind, Setting::Read read, Setting::Show show);
  Setting& add_choice(std::string_view name, std::vector<std::string> words, std::function<void(std::size_t)> choose,
                      Setting::Show show);

  std::vector<Setting> settings_;
  std::shared_ptr<const MethodSource> methods_;
};

} // namespace tanzen
