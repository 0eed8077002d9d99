#pragma once

#include "tanzen/base/errors.hpp"
#include "tanzen/numeric/sampling.hpp"
#include "tanzen/search/evaluator.hpp"

#include <algorithm>
#include <fmt/format.h>
#include <vector>

namespace tanzen::methods {

/// The rows of a sum over data in random order, a batch at a time: one pass over all of them is an epoch, and counts as
/// one gradient. Every epoch has an order of its own.
class MiniBatches {
 public:
  /// Throws InputError where the objective is no sum over data, or has no exact gradients.
  MiniBatches(Evaluator& evaluate, Index size, RandomStream random)
      : evaluate_(evaluate), size_(size), random_(std::move(random)) {
    if (evaluate.rows() > 1) return;
    throw InputError(fmt::format("{}, so there are no batches of it: leave the setting batch out",
                                 evaluate.uses_differences() ? "a gradient by differences is of all data at once"
                                                             : evaluate.problem().name() + " is no sum over data"));
  }

  void begin_epoch() {
    ++epoch_;
    order_ = random_order(evaluate_.rows(), random_);
  }
  [[nodiscard]] double epoch() const { return static_cast<double>(epoch_); }
  /// Of one epoch.
  [[nodiscard]] Index count() const { return (evaluate_.rows() + size_ - 1) / size_; }
  /// Of the k-th batch, as if all rows were like its own.
  const Vector& gradient(const Vector& x, Index k) {
    const Index first = k * size_, left = static_cast<Index>(order_.size()) - first;
    return evaluate_.row_gradient(
        x, std::span(order_).subspan(static_cast<std::size_t>(first), static_cast<std::size_t>(std::min(size_, left))));
  }

  static void settings(Settings& list, std::optional<Index>& size) {
    list.add("batch", size)
        .at_least(1)
        .means("rows of data that one step takes the gradient of, in a new random order each epoch; an iteration is an "
               "epoch, and asks for one value")
        .unset_means("all of them");
  }

 private:
  Evaluator& evaluate_;
  Index size_;
  RandomStream random_;
  std::vector<Index> order_;
  Index epoch_ = 0;
};

} // namespace tanzen::methods
