#pragma once

#include "tanzen/numeric/random.hpp"
#include "tanzen/search/iteration.hpp"

#include <coroutine>
#include <exception>
#include <utility>

namespace tanzen {

/// What a method begins with; bounds, region and all else of the problem are the evaluator's. The start has been
/// evaluated already and counted once.
struct Start {
  Vector point = {};
  double value = 0;     ///< at `point`, to be minimized; infinity where the objective has none there
  RandomStream random;  ///< all random numbers of the run come from here
  double violation = 0; ///< at `point`, the largest of the constraints' rows; infinite where there is no value
};

/// A method under way: a coroutine that yields an Iteration each time it has done one. Move-only.
class Search {
 public:
  struct promise_type {
    const Iteration* current = nullptr;
    std::exception_ptr thrown;

    Search get_return_object() { return Search(std::coroutine_handle<promise_type>::from_promise(*this)); }
    std::suspend_always initial_suspend() noexcept { return {}; }
    std::suspend_always final_suspend() noexcept { return {}; }
    std::suspend_always yield_value(const Iteration& iteration) noexcept {
      current = &iteration;
      return {};
    }
    void return_void() noexcept {}
    // Kept for `next`: clang 16 destroys a frame twice that an exception has left.
    void unhandled_exception() noexcept { thrown = std::current_exception(); }
  };

  Search(Search&& other) noexcept : handle_(std::exchange(other.handle_, nullptr)) {}
  Search& operator=(Search&& other) noexcept {
    std::swap(handle_, other.handle_);
    return *this;
  }
  ~Search() {
    if (handle_) handle_.destroy();
  }

  /// Does one iteration. False when the method has returned instead. What the method throws comes out here,
  /// and ends it.
  bool next() {
    handle_.promise().current = nullptr;
    handle_.resume();
    if (!handle_.done()) return true;
    if (auto& thrown = handle_.promise().thrown) std::rethrow_exception(std::exchange(thrown, nullptr));
    return false;
  }

  [[nodiscard]] bool has_iteration() const { return handle_.promise().current != nullptr; }
  /// The iteration just done; valid until `next`.
  [[nodiscard]] const Iteration& iteration() const { return *handle_.promise().current; }

 private:
  explicit Search(std::coroutine_handle<promise_type> handle) : handle_(handle) {}

  std::coroutine_handle<promise_type> handle_;
};

} // namespace tanzen
