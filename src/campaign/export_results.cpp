#include "tanzen/campaign/results_file.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/files/csv_cell.hpp"
#include "tanzen/files/write_file.hpp"

#include <fmt/format.h>

namespace tanzen {
void export_results(const ResultsFile& results, const std::filesystem::path& folder) {
  std::error_code error;
  std::filesystem::create_directories(folder, error);
  if (error) throw FileError(fmt::format("cannot make the folder {}: {}", folder.string(), error.message()));
  const ResultsHead head = results.head();
  FileWriter runs(folder / "runs.csv"), hits(folder / "hits.csv"), traces(folder / "traces.csv");
  runs.add(
      "problem,repeat,method,dimension,status,message,value,gap,violation,evaluations,gradients,hessians,iterations,"
      "evaluations_to_best,broken,point,seconds\n");
  hits.add("problem,repeat,method,gap,evaluations,gradients,hessians\n");
  traces.add(fmt::format("problem,repeat,method,{}\n", trace_columns));
  results.for_each([&](const RunRecord& record) {
    const ResultsProblem& problem = head.problems[record.key.problem];
    const std::string who =
        fmt::format("{},{},{}", csv_cell(problem.label), record.key.repeat, csv_cell(head.methods[record.key.method]));
    const double sign = problem.sense == Sense::minimize ? 1 : -1;
    std::vector<std::string> point;
    for (const double coordinate : record.point) point.push_back(number_text(coordinate));
    runs.add(fmt::format("{},{},{},{},{},{},{},{},{},{},{},{},{},{},{}\n", who, problem.dimension,
                         status_word(record.status), csv_cell(record.message), csv_cell(record.value),
                         csv_cell(sign * (record.value - problem.reference)), csv_cell(record.violation),
                         record.counts.evaluations, record.counts.gradients, record.counts.hessians, record.iterations,
                         record.evaluations_to_best, record.broken, joined(point, " "), csv_cell(record.seconds)));
    for (std::size_t k = 0; k < record.hits.size(); ++k) {
      const Counts& counts = record.hits[k];
      hits.add(fmt::format("{},{},{},{},{}\n", who, number_text(problem.gaps[k]), counts.evaluations, counts.gradients,
                           counts.hessians));
    }
    std::size_t begin = 0;
    while (begin < record.trace.size()) {
      const std::size_t end = record.trace.find('\n', begin);
      traces.add(fmt::format("{},{}\n", who, std::string_view(record.trace).substr(begin, end - begin)));
      begin = end + 1;
    }
  });
  for (FileWriter* file : {&runs, &hits, &traces}) file->finish();
}

} // namespace tanzen
