#pragma once

#include "tanzen/study/campaign.hpp"

#include <cstddef>
#include <functional>
#include <optional>
#include <utility>
#include <vector>

namespace tanzen {

/// Where workers get the next run from, and where they bring what came of it. Called by several threads, one at a time.
struct RunExchange {
  std::function<std::optional<RunKey>()> next = {}; ///< nothing when there is no more
  std::function<void(RunRecord)> keep = {};
};

/// Does runs with so many threads until there are none left, or until `stop` is set: then runs under way are given up,
/// and nothing is kept of them. What `next` or `keep` throws ends the work and is thrown here. Returns whether it was
/// not stopped.
bool work_on(const Campaign& campaign, std::size_t workers, const RunExchange& exchange,
             const std::function<bool()>& stop = {});

/// Runs of a campaign by their places, handed out one after the other. Borrows the campaign.
class RunQueue {
 public:
  RunQueue(const Campaign& campaign, std::vector<std::size_t> places)
      : campaign_(&campaign), places_(std::move(places)) {}
  [[nodiscard]] std::optional<std::size_t> next_place() {
    if (taken_ == places_.size()) return std::nullopt;
    return places_[taken_++];
  }
  [[nodiscard]] std::optional<RunKey> next() {
    const auto place = next_place();
    if (!place) return std::nullopt;
    return campaign_->key(*place);
  }
  [[nodiscard]] std::size_t size() const { return places_.size(); }

 private:
  const Campaign* campaign_;
  std::vector<std::size_t> places_;
  std::size_t taken_ = 0;
};

/// How many threads this machine can run at once.
[[nodiscard]] std::size_t usual_workers();

} // namespace tanzen
