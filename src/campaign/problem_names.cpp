#include "problem_names.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/campaign/campaign.hpp"
#include "tanzen/external/external_program.hpp"
#include "tanzen/files/problem_file.hpp"
#include "tanzen/testbed/testbed.hpp"

#include <algorithm>
#include <array>
#include <fmt/format.h>

namespace tanzen {
namespace {

constexpr std::array<std::string_view, 3> noise_options = {"gaussian-noise", "uniform-noise", "cauchy-noise"};

} // namespace

bool is_problem_file(std::string_view name) {
  return name.ends_with(".toml");
}

std::string with_option(const std::string& specification, std::string_view name, const std::string& value) {
  return fmt::format("{}{}{}={}", specification, specification.find(':') == std::string::npos ? ':' : ',', name, value);
}

bool has_noise(const Specification& specification) {
  return std::ranges::any_of(specification.options, [](const auto& option) {
    return std::ranges::find(noise_options, option.first) != noise_options.end() &&
           read_number(option.second).value_or(0) != 0;
  });
}

std::string without_noise(const Specification& specification) {
  std::string text = specification.name;
  for (const auto& [name, value] : specification.options) {
    if (!name.ends_with("noise") && name != "noise-seed") text = with_option(text, name, value);
  }
  return text;
}

std::string definition_text(const Problem& problem) {
  try {
    return definition_to_toml(definition_of(problem));
  } catch (const InputError&) {
    return "";
  }
}

std::vector<std::string> spelled_out(const PlanDefinition& plan) {
  std::vector<std::string> names;
  for (const std::string& written : plan.problems) {
    for (const std::string& member : family_members(written)) {
      std::vector<std::string> instances, noisy;
      for (const std::int64_t instance : plan.instances) {
        const bool varies = instance != 0 && !is_problem_file(member);
        instances.push_back(varies ? with_option(member, "instance", std::to_string(instance)) : member);
      }
      if (instances.empty()) instances.push_back(member);
      for (const std::string& name : instances) {
        for (const double level : plan.noise) {
          const bool varies = level != 0 && !is_problem_file(member);
          noisy.push_back(varies ? with_option(name, "gaussian-noise", number_text(level)) : name);
        }
        if (plan.noise.empty()) noisy.push_back(name);
      }
      names.insert(names.end(), noisy.begin(), noisy.end());
    }
  }
  // A file has no instances: it is meant once.
  std::vector<std::string> once;
  for (const std::string& name : names) {
    if (!is_problem_file(name) || std::ranges::find(once, name) == once.end()) once.push_back(name);
  }
  return once;
}

std::vector<std::string> traits_of(const Specification& specification) {
  const auto names = testbed::names();
  if (std::ranges::find(names, specification.name) == names.end()) return {};
  const bool is_turned = std::ranges::any_of(specification.options, [](const auto& option) {
    return (option.first == "rotate" || option.first == "instance") && read_number(option.second).value_or(0) != 0;
  });
  std::vector<std::string> words;
  for (const testbed::Trait trait : testbed::find(specification.name).traits) {
    if (!is_turned || trait != testbed::Trait::separable) words.emplace_back(testbed::trait_word(trait));
  }
  if (has_noise(specification)) words.emplace_back("noisy");
  return words;
}

Problem named_problem(const std::string& name, const std::filesystem::path& folder) {
  if (!is_problem_file(name)) return testbed::parse_problem(name);
  const auto path = folder / name;
  const ProblemDefinition definition = read_definition(path);
  try {
    return build_problem(definition, make_external);
  } catch (const InputError& error) {
    throw InputError(fmt::format("{}: {}", path.string(), error.what()));
  }
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
    std::vector<std::string> longer;
    for (const std::string& member : members) {
      for (const std::string& value : values) longer.push_back(with_option(member, name, value));
    }
    members = std::move(longer);
  }
  return members;
}

} // namespace tanzen
