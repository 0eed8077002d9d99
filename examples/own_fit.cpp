// A model fitted to data in C++: the kiln's cooling, with a row that was read wrong. Squares follow it, Tukey's loss
// does not; what the fit says of its parameters, and what it predicts.
#include <tanzen/analysis/fit_statistics.hpp>
#include <tanzen/analysis/fitting.hpp>
#include <tanzen/problem/definition.hpp>
#include <tanzen/tanzen.hpp>

using namespace tanzen;

namespace {

Problem cooling(const Loss& loss) {
  DataTable table{.columns = {"minutes", "celsius"}, .rows = Matrix(10, 2)};
  table.rows << 0, 1233, 30, 1036, 60, 878, 90, 739, 120, 928, 180, 447, 240, 325, 300, 234, 420, 129, 540, 73;
  ProblemDefinition definition{.name = "cooling",
                               .variables = {{.name = "peak", .start = {1000}},
                                             {.name = "rate", .start = {0.01}},
                                             {.name = "room", .start = {20}}}};
  definition.fit = FitDefinition{.data = "cooling.csv",
                                 .equations = {{.model = "celsius = room + (peak - room)*exp(-rate*minutes)"}},
                                 .loss = loss,
                                 .table = std::make_shared<DataTable>(std::move(table))};
  return build_problem(definition);
}

void report(const char* loss) {
  const Fit made = fit(cooling(Loss::parse(loss)), method("levenberg-marquardt"), {.estimate_scale = true});
  const FitStatistics statistics = fit_statistics(made.problem, made.outcome.point);
  fmt::print("{}\n", loss);
  for (const ParameterEstimate& each : statistics.parameters)
    fmt::print("  {} {:.5g}, standard error {:.2g}\n", each.name, each.value, each.error);
  for (const Index row : statistics.stand_out) fmt::print("  row {} stands out\n", row + 1);
  const Prediction later = predict(made.problem, statistics, Vector{{600, 0}});
  fmt::print("  after ten hours {:.1f}, give or take {:.1f}\n", later.value, later.half_width);
}

} // namespace

int main() {
  report("squares");
  report("tukey");
}
