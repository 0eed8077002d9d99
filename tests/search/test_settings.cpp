#include "tanzen/base/errors.hpp"
#include "tanzen/methods/catalogue.hpp"
#include "tanzen/search/settings.hpp"

#include <doctest/doctest.h>

using namespace tanzen;

namespace {

enum class Flavour { plain, salted };

struct Fields {
  double step = 0.5;
  Index memory = 5;
  bool restart = true;
  std::optional<double> size;
  Flavour flavour = Flavour::plain;

  void settings(Settings& list) {
    list.add("step", step).positive().at_most(2).means("a length");
    list.add("memory", memory).at_least(1);
    list.add("restart", restart);
    list.add("size", size).above(0).unset_means("by the region");
    list.add("flavour", flavour, {{"plain", Flavour::plain}, {"salted", Flavour::salted}});
  }
};

struct BadSetting {
  const char* name;
  const char* value;
  const char* says;
};

} // namespace

TEST_SUITE("settings") {
  TEST_CASE("a setting is read into its field and shown as it stands") {
    Fields fields;
    Settings list;
    fields.settings(list);
    list.assign("fields", "step", 1.5);
    list.assign("fields", "memory", 12);
    list.assign("fields", "restart", false);
    list.assign("fields", "size", "0.25");
    list.assign("fields", "flavour", "salted");
    CHECK(fields.step == 1.5);
    CHECK(fields.memory == 12);
    CHECK_FALSE(fields.restart);
    CHECK(fields.size == 0.25);
    CHECK(fields.flavour == Flavour::salted);
    std::vector<std::string> values;
    for (const Setting& setting : list.all()) values.push_back(setting.value());
    CHECK(values == std::vector<std::string>{"1.5", "12", "false", "0.25", "salted"});
  }

  TEST_CASE("an unset value shows what it stands for") {
    Fields fields;
    Settings list;
    fields.settings(list);
    CHECK(list.all()[3].value() == "by the region");
    CHECK(list.all()[0].range() == "a number above 0 and at most 2");
    CHECK(list.all()[4].range() == "one of plain, salted");
  }

  TEST_CASE("a setting that cannot be is refused with what would be right, and nothing changes") {
    const BadSetting bad[] = {
        {"stpe", "1",
         "fields has no setting 'stpe' (it has step, memory, restart, size, flavour); did you mean 'step'?"},
        {"step", "0", "must be a number above 0 and at most 2; found '0'"},
        {"step", "3", "must be a number above 0 and at most 2; found '3'"},
        {"step", "fast", "found 'fast'"},
        {"step", "nan", "found 'nan'"},
        {"memory", "2.5", "must be a whole number at least 1; found '2.5'"},
        {"memory", "1e300", "must be a whole number"},
        {"restart", "yes", "must be one of true, false"},
        {"flavour", "slated", "did you mean 'salted'?"},
    };
    for (const BadSetting& each : bad) {
      CAPTURE(each.name);
      Fields fields;
      Settings list;
      fields.settings(list);
      CHECK_THROWS_WITH_AS(list.assign("fields", each.name, each.value), doctest::Contains(each.says), InputError);
      CHECK(fields.step == 0.5);
      CHECK(fields.memory == 5);
    }
  }

  TEST_CASE("a method with a setting is another method") {
    const Method plain = method("gradient-descent");
    const Method changed = plain.with("step", 0.25);
    CHECK(plain.settings()[1].value == "0.01");
    CHECK(changed.settings()[1].value == "0.25");
    CHECK(changed.label() == "gradient-descent:step=0.25");
    CHECK(changed.with("rule", "exact").label() == "gradient-descent:step=0.25,rule=exact");
  }

  TEST_CASE("methods are found by name and read as written") {
    CHECK(standard_methods().parse("nelder-mead:size=0.5,adaptive=false").settings()[0].value == "0.5");
    CHECK_THROWS_WITH_AS((void)method("nelder-maed"), doctest::Contains("did you mean 'nelder-mead'?"), InputError);
    CHECK_THROWS_WITH_AS((void)standard_methods().parse("nelder-mead:sise=1"),
                         doctest::Contains("did you mean 'size'?"), InputError);
  }

  TEST_CASE("every method of the catalogue has a whole card and settings that read back") {
    for (const Method& each : standard_methods().all()) {
      CAPTURE(each.name());
      const MethodCard& card = each.card();
      for (const std::string& text : {card.title, card.family, card.source, card.summary}) CHECK_FALSE(text.empty());
      for (const auto& setting : each.settings()) {
        CAPTURE(setting.name);
        CHECK_FALSE(setting.meaning.empty());
        CHECK_FALSE(setting.value.empty());
        if (setting.value.find(' ') == std::string::npos) {
          const auto again = each.with(setting.name, setting.value).settings();
          CHECK(std::ranges::find(again, setting.name, &Method::SettingRow::name)->value == setting.value);
        }
      }
    }
  }
}
