#include "tanzen/study/work.hpp"

#include <atomic>
#include <exception>
#include <mutex>
#include <tbb/info.h>
#include <thread>

namespace tanzen {
namespace {

/// What the threads of one campaign share.
class Crew {
 public:
  Crew(const Campaign& campaign, const RunExchange& exchange, const std::function<bool()>& stop)
      : campaign_(campaign), exchange_(exchange), stop_(stop) {}

  void work() {
    const auto asked_to_stop = [this] { return is_over(); };
    while (const auto key = next()) {
      RunRecord record = campaign_.perform(*key, asked_to_stop);
      if (record.status == Status::interrupted) return;
      keep(std::move(record));
    }
  }

  [[nodiscard]] bool was_stopped() const { return was_stopped_; }
  void rethrow() const {
    if (thrown_) std::rethrow_exception(thrown_);
  }

 private:
  [[nodiscard]] bool is_over() {
    if (!is_over_ && stop_ && stop_()) is_over_ = was_stopped_ = true;
    return is_over_;
  }

  std::optional<RunKey> next() {
    if (is_over()) return std::nullopt;
    std::optional<RunKey> key;
    exchanged([&] { key = exchange_.next(); });
    return key;
  }

  void keep(RunRecord record) {
    exchanged([&] { exchange_.keep(std::move(record)); });
  }

  template <class Exchange>
  void exchanged(Exchange&& exchange) {
    const std::scoped_lock lock(mutex_);
    try {
      if (!thrown_) exchange();
    } catch (...) {
      thrown_ = std::current_exception();
      is_over_ = true;
    }
  }

  const Campaign& campaign_;
  const RunExchange& exchange_;
  const std::function<bool()>& stop_;
  std::mutex mutex_;
  std::exception_ptr thrown_;
  std::atomic<bool> is_over_ = false, was_stopped_ = false;
};

} // namespace

bool work_on(const Campaign& campaign, std::size_t workers, const RunExchange& exchange,
             const std::function<bool()>& stop) {
  Crew crew(campaign, exchange, stop);
  // Threads that wait for their turn and for files are no tasks for a scheduler that counts cores.
  {
    std::vector<std::jthread> threads;
    for (std::size_t k = 1; k < workers; ++k) threads.emplace_back([&crew] { crew.work(); });
    crew.work();
  }
  crew.rethrow();
  return !crew.was_stopped();
}

std::size_t usual_workers() {
  return static_cast<std::size_t>(tbb::info::default_concurrency());
}

} // namespace tanzen
