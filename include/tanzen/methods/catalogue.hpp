#pragma once

#include "tanzen/search/method.hpp"

#include <memory>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace tanzen {

/// Methods by name: a value, cheap to copy. A user's program adds its own to a copy of the standard ones; what comes
/// out of it finds its nested methods in it.
class MethodCatalogue {
 public:
  MethodCatalogue() : MethodCatalogue(std::vector<Method>()) {}
  /// Of methods that have a name each.
  explicit MethodCatalogue(std::vector<Method> methods);

  /// Adds a method; one of the same name is replaced.
  MethodCatalogue& add(Method method);
  template <MethodLike T>
  MethodCatalogue& add(std::string name, T method) {
    return add(Method(std::move(name), std::move(method)));
  }

  [[nodiscard]] const std::vector<Method>& all() const;
  [[nodiscard]] std::vector<std::string> names() const;
  /// Throws InputError, with the nearest name, where there is none of that name.
  [[nodiscard]] Method find(std::string_view name) const;
  /// A method as it is written: `nelder-mead` or `nelder-mead:size=0.5`.
  [[nodiscard]] Method parse(std::string_view specification) const;

 private:
  class List;
  std::shared_ptr<const List> list_; ///< never changed once it is shared
};

/// The methods that Tanzen brings.
[[nodiscard]] const MethodCatalogue& standard_methods();

/// A standard method with settings: `method("nelder-mead", {{"size", 0.5}})`. Throws InputError for an unknown
/// name or setting, or a value out of range.
[[nodiscard]] Method method(std::string_view name, const SettingValues& settings = {});

} // namespace tanzen
