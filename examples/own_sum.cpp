// A sum over data: how likely a pot is to crack, by how fast it cooled and how wet it went in. Gradients of a few rows
// at a time come near the answer in a few passes over all of them; a quasi-Newton method says what the answer is.
#include <tanzen/tanzen.hpp>

namespace {

/// A thousand firings, made up: each pot's cooling in degrees a minute, its water in percent, and whether it cracked.
std::shared_ptr<const tanzen::DataTable> firings() {
  tanzen::RandomStream random(5, {"firings"});
  tanzen::DataTable table{{"cooling", "water", "cracked"}, tanzen::Matrix(1000, 3)};
  for (auto row : table.rows.rowwise()) {
    row[0] = random.uniform(0.5, 6);
    row[1] = random.uniform(0, 4);
    const double likely = 1 / (1 + std::exp(8 - 1.5 * row[0] - 1.2 * row[1]));
    row[2] = random.uniform() < likely ? 1 : 0;
  }
  return std::make_shared<tanzen::DataTable>(table);
}

} // namespace

int main() {
  using namespace tanzen;

  // One row's part of the negative log-likelihood; `x` are the three weights, `row` the columns.
  const Problem cracks = Problem::from_sum(3, firings(),
                                           [](const auto& x, const auto& row) {
                                             const auto score = x[0] + x[1] * row[0] + x[2] * row[1];
                                             return log(1 + exp(score)) - row[2] * score;
                                           })
                             .named("cracks")
                             .start({0, 0, 0});

  const Outcome best = run(cracks, method("bfgs"));
  fmt::print("{}\n", best);

  const RunOptions ten_passes{.seed = 3, .stop = {.iterations = 10}};
  for (const char* by : {"adam:step=0.05", "adam:step=0.05,batch=20", "gradient-descent:step=1e-4,batch=20",
                         "variance-reduced:step=0.1,batch=5"}) {
    const Outcome outcome = run(cracks, standard_methods().parse(by), ten_passes);
    fmt::print("{:<36} above the best by {:.2g} after {} gradients\n", by, outcome.value - best.value,
               outcome.counts[Spent::gradients]);
  }
  return best.converged() ? 0 : 1;
}
