// Many runs of own problems into a file, resumed, compared.
#include <tanzen/campaigns.hpp>

#include <filesystem>
#include <fmt/format.h>

int main() {
  using namespace tanzen;
  std::filesystem::remove("glazes.sqlite");
  const Problem glaze =
      Problem::from_formula("(a - 1)^2 + 3*(a*b - 2)^2").named("glaze").region(-3, 3).known_minimum({1, 2}, 0);
  const Campaign campaign({.seed = 2, .repeats = 5, .placements = {0, 1}, .stop = {.evaluations = 2000}}, {glaze},
                          {method("nelder-mead"), method("bfgs").labelled("quasi-Newton")});
  const Results half = run_campaign(campaign, {.file = "glazes.sqlite", .workers = 2});
  std::size_t again = 0;
  const Results all =
      run_campaign(campaign, {.file = "glazes.sqlite", .counter = [&](std::size_t, std::size_t) { ++again; }});
  for (const auto& each : compare(all)) fmt::print("{}\n", verdict_text(each));
  return half.done() == 20 && again == 0 ? 0 : 1;
}
