#include "fits.hpp"
#include "groups.hpp"

/// Fits of what dies out, with data that are made up.
namespace tanzen::testbed {

std::vector<TestFunction> decay_fits() {
  using fits::MadeFit;
  std::vector<TestFunction> functions;
  for (const MadeFit& row : std::vector<MadeFit>{
           {.name = "decay-one",
 .title = "one exponential that dies out",
 .model = "level = first*exp(-rate*hours)",
 .source = "Rutherford and Soddy, 1902; data made up",
 .parameters = {{"first", 10, 8, 1}, {"rate", 0.35, 0.5, 2}},
 .predictors = {{"hours", 0, 10, 21}},
 .noise = 0.15},
           {.name = "decay-to-a-floor",
           .title = "an exponential that dies out to a floor",
           .model = "celsius = room + drop*exp(-rate*minutes)",
           .source = "Newton, 1701; data made up",
           .parameters = {{"room", 20, 15, 1}, {"drop", 80, 100, 10}, {"rate", 0.05, 0.03, 0.5}},
           .predictors = {{"minutes", 0, 90, 19}},
           .noise = 1},
           {.name = "decay-two",
           .title = "two exponentials that die out",
           .model = "level = one*exp(-quick*hours) + two*exp(-slow*hours)",
           .source = "Seber and Wild, 1989, section 3.4; data made up",
           .parameters = {{"one", 5, 4, 1}, {"quick", 1.5, 2, 5}, {"two", 3, 4, 1}, {"slow", 0.2, 0.1, 1}},
           .predictors = {{"hours", 0, 12, 40}},
           .noise = 0.05,
           .more = {Trait::ill_conditioned}},
           {.name = "decay-three",
           .title = "three exponentials that die out",
           .model = "level = one*exp(-quick*hours) + two*exp(-steady*hours) + three*exp(-slow*hours)",
           .source = "Lanczos, 1956, section 4.23; data made up",
           .parameters = {{"one", 2, 1.5, 1},
                          {"quick", 3, 4, 10},
                          {"two", 4, 5, 1},
                          {"steady", 0.8, 1, 1},
                          {"three", 3, 2.5, 1},
                          {"slow", 0.1, 0.15, 0.5}},
           .predictors = {{"hours", 0, 20, 80}},
           .noise = 0.005,
           .more = {Trait::ill_conditioned}},
           {.name = "decay-by-power",
           .title = "a decay slower than any exponential",
           .model = "level = first/(1 + rate*hours)^order",
           .source = "Seber and Wild, 1989, section 7.5; data made up",
           .parameters = {{"first", 8, 7, 1}, {"rate", 0.6, 1, 0.1}, {"order", 1.4, 1, 3}},
           .predictors = {{"hours", 0, 30, 25}},
           .noise = 0.06,
           .more = {Trait::ill_conditioned}},
           {.name = "decay-stretched",
           .title = "a stretched exponential",
           .model = "level = first*exp(-(hours/span)^bend)",
           .source = "Kohlrausch, 1854; data made up",
           .parameters = {{"first", 6, 5, 1}, {"span", 4, 5, 1}, {"bend", 0.6, 1, 1}},
           .predictors = {{"hours", 0.1, 40, 24, true}},
           .noise = 0.05},
           {.name = "decay-of-a-daughter",
           .title = "what comes from one decay and goes by another",
           .model = "level = dose*inward/(inward - outward)*(exp(-outward*hours) - exp(-inward*hours))",
           .source = "Bateman, 1910; data made up",
           .parameters = {{"dose", 10, 8, 5}, {"inward", 1.2, 1.5, 3}, {"outward", 0.15, 0.2, 0.5}},
           .predictors = {{"hours", 0.25, 24, 16, true}},
           .noise = 0.1},
           {.name = "cooling-by-radiation",
           .title = "a body that cools by what it shines",
           .model = "kilokelvin = (first^(-3) + rate*minutes)^(-1/3)",
           .source = "Stefan, 1879; data made up",
           .parameters = {{"first", 1.25, 1, 2}, {"rate", 0.01, 0.02, 0.1}},
           .predictors = {{"minutes", 0, 300, 25}},
           .noise = 0.005},
       })
    functions.push_back(fits::test_function(row));
  return functions;
}

} // namespace tanzen::testbed
