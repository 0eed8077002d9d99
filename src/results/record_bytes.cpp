#include "tanzen/results/record_bytes.hpp"

#include "tanzen/files/trace_file.hpp"

#include "record_json.hpp"

namespace tanzen {

std::string record_to_bytes(const RunRecord& record) {
  const Json json = {record.key.problem,
                     record.key.repeat,
                     record.key.method,
                     static_cast<int>(record.status),
                     record.message,
                     record.value,
                     record.violation,
                     record.feasible,
                     record.converged,
                     record.counts,
                     record.iterations,
                     record.evaluations_to_best,
                     record.broken,
                     record.seconds,
                     std::vector<double>(record.point.begin(), record.point.end()),
                     record.hits,
                     front_to_json(record.front),
                     trace_table_to_csv(record.trace)};
  std::string bytes;
  Json::to_msgpack(json, bytes);
  return bytes;
}

RunRecord record_from_bytes(std::string_view bytes) {
  const Json json = Json::from_msgpack(bytes.begin(), bytes.end());
  RunRecord record{.key = {json[0], json[1], json[2]},
                   .status = static_cast<Status>(json[3].get<int>()),
                   .message = json[4],
                   .value = json[5],
                   .violation = json[6],
                   .feasible = json[7],
                   .converged = json[8],
                   .counts = json[9],
                   .iterations = json[10],
                   .evaluations_to_best = json[11],
                   .broken = json[12],
                   .seconds = json[13],
                   .hits = json[15],
                   .front = front_from_json(json[16]),
                   .trace = trace_table_from_csv(json[17].get<std::string>())};
  record.point = Coordinates(json[14].get<std::vector<double>>()).vector();
  return record;
}

} // namespace tanzen
