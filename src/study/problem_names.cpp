#include "problem_names.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/study/campaign.hpp"

#include <algorithm>
#include <fmt/format.h>

namespace tanzen {
namespace {

/// A name with one more option.
std::string with_option(const std::string& specification, std::string_view name, const std::string& value) {
  return fmt::format("{}{}{}={}", specification, specification.find(':') == std::string::npos ? ':' : ',', name, value);
}

/// Before they are spelled out.
void check_members(std::string_view family, double count) {
  constexpr double most = 1e5;
  if (count > most) throw InputError(fmt::format("'{}' comes to more than {:.0f} problems", clipped(family, 60), most));
}

/// Each name with each value of an option; with none where the value is `none`, or the list empty.
std::vector<std::string> varied(const std::vector<std::string>& names, std::string_view option,
                                const std::vector<std::string>& values, std::string_view none) {
  if (values.empty()) return names;
  check_members(names.front(), static_cast<double>(names.size()) * static_cast<double>(values.size()));
  std::vector<std::string> all;
  for (const std::string& name : names) {
    for (const std::string& value : values) all.push_back(value == none ? name : with_option(name, option, value));
  }
  return all;
}

} // namespace

bool is_problem_file(std::string_view name) {
  return name.ends_with(".toml");
}

std::vector<std::string> spelled_out(const PlanDefinition& plan) {
  std::vector<std::string> placements, names;
  for (const std::int64_t placement : plan.placements) placements.push_back(std::to_string(placement));
  for (const std::string& written : plan.problems) {
    for (const std::string& member : family_members(written)) {
      // A file has no placements: it is meant once.
      const std::vector<std::string> members =
          is_problem_file(member) ? std::vector{member}
                                  : varied(varied({member}, "placement", placements, "0"), "noise", plan.noise, "none");
      check_members(written, static_cast<double>(names.size() + members.size()));
      names.insert(names.end(), members.begin(), members.end());
    }
  }
  return names;
}

std::vector<std::string> family_members(const std::string& specification) {
  const std::size_t colon = specification.find(':');
  std::vector<std::string> members{std::string(trimmed(specification.substr(0, colon)))};
  if (colon == std::string::npos) return members;
  std::vector<std::pair<std::string, std::vector<std::string>>> options;
  for (const std::string& piece : split(std::string_view(specification).substr(colon + 1), ',')) {
    const std::size_t equals = piece.find('=');
    if (equals != std::string::npos)
      options.push_back(
          {std::string(trimmed(piece.substr(0, equals))), {std::string(trimmed(piece.substr(equals + 1)))}});
    else if (options.empty() || piece.empty())
      throw InputError(
          fmt::format("'{}' is no family; write name:option=value,value,other=value", clipped(specification)));
    else
      options.back().second.push_back(piece);
  }
  for (const auto& [name, values] : options) {
    check_members(specification, static_cast<double>(members.size()) * static_cast<double>(values.size()));
    std::vector<std::string> longer;
    for (const std::string& member : members) {
      for (const std::string& value : values) longer.push_back(with_option(member, name, value));
    }
    members = std::move(longer);
  }
  return members;
}

} // namespace tanzen
