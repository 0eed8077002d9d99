#include "tanzen/results/results_checksum.hpp"

#include <boost/crc.hpp>

namespace tanzen {

std::uint32_t results_checksum(const Results& results) {
  boost::crc_32_type sum;
  const auto take = [&sum](const auto& number) { sum.process_bytes(&number, sizeof number); };
  for (std::size_t p = 0; p < results.problems().size(); ++p) {
    for (std::int64_t repeat = 1; repeat <= results.repeats(); ++repeat) {
      for (std::size_t m = 0; m < results.methods().size(); ++m) {
        const ResultsRun& run = results.run({p, repeat, m});
        take(static_cast<std::int32_t>(run.is_done ? static_cast<int>(run.status) : -1));
        if (!run.is_done) continue;
        take(run.value);
        take(run.cost);
      }
    }
  }
  return sum.checksum();
}

} // namespace tanzen
