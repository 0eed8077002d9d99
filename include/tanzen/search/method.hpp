#pragma once

#include "tanzen/search/abilities.hpp"
#include "tanzen/search/search.hpp"
#include "tanzen/search/settings.hpp"

#include <concepts>
#include <cstdint>
#include <memory>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace tanzen {

class Evaluator;

/// What is said of a method in the catalogue.
struct MethodCard {
  std::string title = {};                ///< `steepest descent with a choice of step rules`
  std::string family = {};               ///< `gradient`, `derivative-free`, `global`, `population`, `one variable`
  std::string source = {};               ///< author, year, place
  std::string limits = {};               ///< how it keeps within bounds and constraints; empty where it cannot
  std::string summary = {};              ///< when to use it, in a sentence or two
  Derivatives needs = Derivatives::none; ///< what it asks for; differences can stand in
  Abilities able = {};
  std::int64_t version = 1; ///< raised when its code changes what it does: runs of two versions are not mixed
};

class Method;

/// Where methods are found by name: what nested ones are parsed by, and what messages propose from.
class MethodSource {
 public:
  MethodSource() = default;
  MethodSource(const MethodSource&) = default;
  MethodSource& operator=(const MethodSource&) = default;
  virtual ~MethodSource() = default;
  [[nodiscard]] virtual const std::vector<Method>& all() const = 0;
  /// A method as it is written; throws InputError.
  [[nodiscard]] virtual Method parse(std::string_view specification) const = 0;
};
using MethodSourcePointer = std::shared_ptr<const MethodSource>;

/// A struct of settings with one coroutine: what a method is written as.
template <class T>
concept MethodLike = std::copy_constructible<T> &&
    requires(T method, const T constant, Settings& list, Evaluator& evaluate, Start start) {
  method.settings(list);
  { constant.search(evaluate, start) } -> std::same_as<Search>;
};

/// An optimizer with its settings: a value that holds any MethodLike struct. A `static MethodCard card()` in
/// the struct is shown in the catalogue.
class Method {
 public:
  template <MethodLike T>
  Method(std::string name, T method) : name_(std::move(name)), label_(name_), held_(holding(std::move(method))) {
    if constexpr (requires {
                    { T::card() } -> std::same_as<MethodCard>;
                  })
      card_ = T::card();
  }

  /// The name in the catalogue.
  [[nodiscard]] const std::string& name() const { return name_; }
  [[nodiscard]] const MethodCard& card() const { return card_; }
  /// What it is called in a comparison: its name, with the settings that were given.
  [[nodiscard]] const std::string& label() const { return label_; }
  /// A copy with one more setting. Throws InputError for an unknown name or a value out of range.
  [[nodiscard]] Method with(std::string_view setting, const SettingValue& value) const;
  [[nodiscard]] Method with(const SettingValues& values) const;
  [[nodiscard]] Method labelled(std::string label) const;
  /// A copy whose nested methods are looked up in a source.
  [[nodiscard]] Method from(MethodSourcePointer source) const;
  /// Where it was found; null where it was not.
  [[nodiscard]] const MethodSourcePointer& source() const { return source_; }

  /// One setting as it stands.
  struct SettingRow {
    std::string name = {};
    std::string value = {};
    std::string range = {};
    std::string meaning = {};
  };
  [[nodiscard]] std::vector<SettingRow> settings() const;

  /// Starts a search. It borrows this method's settings and the evaluator.
  [[nodiscard]] Search search(Evaluator& evaluate, Start start) const {
    return held_->search(evaluate, std::move(start));
  }

 private:
  struct Concept {
    Concept() = default;
    Concept(const Concept&) = default;
    Concept& operator=(const Concept&) = delete;
    virtual ~Concept() = default;
    [[nodiscard]] virtual std::unique_ptr<Concept> copy() const = 0;
    virtual void settings(Settings& list) = 0;
    [[nodiscard]] virtual Search search(Evaluator& evaluate, Start start) const = 0;
  };

  /// As what it is held: a shared pointer made of this one is the same code for all methods.
  template <class T>
  [[nodiscard]] static std::unique_ptr<Concept> holding(T method) {
    return std::make_unique<Held<T>>(std::move(method));
  }

  template <class T>
  struct Held final : Concept {
    explicit Held(T held) : method(std::move(held)) {}
    [[nodiscard]] std::unique_ptr<Concept> copy() const override { return holding(method); }
    void settings(Settings& list) override { method.settings(list); }
    [[nodiscard]] Search search(Evaluator& evaluate, Start start) const override {
      return method.search(evaluate, std::move(start));
    }
    T method;
  };

  std::string name_;
  std::string label_;
  MethodCard card_;
  std::shared_ptr<const Concept> held_;
  MethodSourcePointer source_;
};

} // namespace tanzen
