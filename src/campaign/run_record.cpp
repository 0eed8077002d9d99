#include "tanzen/campaign/run_record.hpp"

#include <nlohmann/json.hpp>

namespace tanzen {
namespace {

using Json = nlohmann::json;

Json counts_to_json(const Counts& counts) {
  return {counts.evaluations, counts.gradients, counts.hessians};
}

Counts counts_from_json(const Json& json) {
  return {json[0], json[1], json[2]};
}

} // namespace

std::string record_to_bytes(const RunRecord& record) {
  Json hits = Json::array();
  for (const Counts& counts : record.hits) hits.push_back(counts_to_json(counts));
  const Json json = {record.key.problem,
                     record.key.repeat,
                     record.key.method,
                     static_cast<int>(record.status),
                     record.message,
                     record.value,
                     record.violation,
                     counts_to_json(record.counts),
                     record.iterations,
                     record.evaluations_to_best,
                     record.broken,
                     record.seconds,
                     std::vector<double>(record.point.begin(), record.point.end()),
                     std::move(hits),
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
                   .counts = counts_from_json(json[7]),
                   .iterations = json[8],
                   .evaluations_to_best = json[9],
                   .broken = json[10],
                   .seconds = json[11],
                   .trace = json[14]};
  record.point = Coordinates(json[12].get<std::vector<double>>()).vector();
  for (const Json& counts : json[13]) record.hits.push_back(counts_from_json(counts));
  return record;
}

} // namespace tanzen
