#include "tanzen/results/results_file.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/files/csv_cell.hpp"
#include "tanzen/files/write_file.hpp"

#include <array>
#include <fmt/format.h>

namespace tanzen {
void export_results(const ResultsFile& results, const std::filesystem::path& folder) {
  std::error_code error;
  std::filesystem::create_directories(folder, error);
  if (error) throw FileError(fmt::format("cannot make the folder {}: {}", folder.string(), error.message()));
  const ResultsHead head = results.head();
  FileWriter runs(folder / "runs.csv"), hits(folder / "hits.csv"), traces(folder / "traces.csv");
  runs.add("problem,repeat,method,dimension,status,converged,message,value,gap,violation,feasible,evaluations,"
           "gradients,hessians,iterations,"
           "evaluations_to_best,broken,point,seconds\n");
  hits.add("problem,repeat,method,gap,evaluations,gradients,hessians\n");
  constexpr std::array columns = {Trace::iteration, Trace::evaluations, Trace::gradients,     Trace::hessians,
                                  Trace::value,     Trace::best_value,  Trace::gradient_norm, Trace::step_norm,
                                  Trace::violation, Trace::kkt};
  traces.add("problem,repeat,method");
  for (const auto column : columns) traces.add(fmt::format(",{}", Trace::fixed_names()[column]));
  traces.add("\n");
  results.for_each([&](const RunRecord& record) {
    const ResultsProblem& problem = head.problems[record.key.problem];
    const std::string who =
        fmt::format("{},{},{}", csv_cell(problem.label), record.key.repeat, csv_cell(head.methods[record.key.method]));
    const double sign = sign_of(problem.sense);
    std::vector<std::string> point;
    for (const double coordinate : record.point) point.push_back(number_text(coordinate));
    runs.add(fmt::format("{},{},{},{},{},{},{},{},{},{},{},{},{},{},{},{},{}\n", who, problem.dimension,
                         status_word(record.status), record.converged ? 1 : 0, csv_cell(record.message),
                         csv_cell(record.value), csv_cell(sign * (record.value - problem.reference)),
                         csv_cell(record.violation), record.feasible ? 1 : 0, record.counts[Spent::evaluations],
                         record.counts[Spent::gradients], record.counts[Spent::hessians], record.iterations,
                         record.evaluations_to_best, record.broken, joined(point, " "), csv_cell(record.seconds)));
    for (std::size_t k = 0; k < record.hits.size(); ++k) {
      const Counts& counts = record.hits[k];
      hits.add(fmt::format("{},{},{},{},{}\n", who, number_text(problem.gaps[k]), counts[Spent::evaluations],
                           counts[Spent::gradients], counts[Spent::hessians]));
    }
    for (std::size_t row = 0; row < record.trace.rows(); ++row) {
      std::string line = who;
      for (const auto column : columns) line.append(",").append(csv_cell(record.trace.at(row, column)));
      traces.add(line + "\n");
    }
  });
  for (FileWriter* file : {&runs, &hits, &traces}) file->finish();
}

} // namespace tanzen
