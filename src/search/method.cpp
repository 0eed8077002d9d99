#include "tanzen/search/method.hpp"

#include "tanzen/base/readable.hpp"

#include <fmt/format.h>

namespace tanzen {

Method Method::with(std::string_view setting, const SettingValue& value) const {
  auto copy = held_->copy();
  Settings list(source_);
  copy->settings(list);
  list.assign(name_, setting, value);
  Method changed = *this;
  changed.held_ = std::move(copy);
  changed.label_ += fmt::format("{}{}={}", label_ == name_ ? ":" : ",", setting, value.text());
  return changed;
}

Method Method::with(const SettingValues& values) const {
  Method changed = *this;
  for (const auto& [name, value] : values) changed = changed.with(name, value);
  return changed;
}

Method Method::labelled(std::string label) const {
  check_readable(label, "the label of a method");
  Method changed = *this;
  changed.label_ = std::move(label);
  return changed;
}

Method Method::from(MethodSourcePointer source) const {
  Method changed = *this;
  changed.source_ = std::move(source);
  auto copy = held_->copy();
  Settings list(changed.source_);
  copy->settings(list);
  changed.held_ = std::move(copy);
  return changed;
}

std::vector<Method::SettingRow> Method::settings() const {
  const auto copy = held_->copy();
  Settings list(source_);
  copy->settings(list);
  std::vector<SettingRow> rows;
  for (const Setting& setting : list.all()) {
    rows.push_back({setting.name(), setting.value(), setting.range(), setting.meaning()});
  }
  return rows;
}

} // namespace tanzen
