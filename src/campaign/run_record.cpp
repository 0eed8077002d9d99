#include "tanzen/campaign/run_record.hpp"

#include "counts_json.hpp"

namespace tanzen {
using Json = nlohmann::json;

std::string record_to_bytes(const RunRecord& record) {
  const Json json = {record.key.problem,
                     record.key.repeat,
                     record.key.method,
                     static_cast<int>(record.status),
                     record.message,
                     record.value,
                     record.violation,
                     record.counts,
                     record.iterations,
                     record.evaluations_to_best,
                     record.broken,
                     record.seconds,
                     std::vector<double>(record.point.begin(), record.point.end()),
                     record.hits,
                     record.trace};
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
                   .counts = json[7],
                   .iterations = json[8],
                   .evaluations_to_best = json[9],
                   .broken = json[10],
                   .seconds = json[11],
                   .hits = json[13],
                   .trace = json[14]};
  record.point = Coordinates(json[12].get<std::vector<double>>()).vector();
  return record;
}

} // namespace tanzen
