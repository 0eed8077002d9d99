#pragma once

#include "tanzen/interval/interval_newton.hpp"

#include <cstddef>
#include <cstdint>
#include <functional>
#include <span>
#include <vector>

namespace tanzen {

/// As many equations as unknowns, over boxes.
class IntervalSystem {
 public:
  /// What an evaluation says of the equations over a box.
  enum class Sight {
    nowhere, ///< no point of the box lies in their domain
    values,  ///< their values are enclosed
    slopes,  ///< and their derivatives, which are continuous
  };

  virtual ~IntervalSystem() = default;

  [[nodiscard]] virtual std::size_t size() const = 0;
  /// `jacobian` row by row; nothing is said of it where `Sight::slopes` is not returned.
  virtual Sight evaluate(std::span<const Enclosure> box, std::span<Enclosure> values,
                         std::span<Enclosure> jacobian) = 0;
  /// Narrows a box that was just evaluated with `Sight::slopes`. False where no zero lies in it.
  virtual bool contract(std::span<Enclosure> box) = 0;
};

/// A zero that is proved to exist.
struct Zero {
  std::vector<Enclosure> box = {};   ///< it lies in it
  std::vector<Enclosure> alone = {}; ///< a larger one, in which it is the only one
};

struct ZerosOptions {
  double narrowest = 1e-9;                ///< boxes of that width, relative to 1 + |x|, are not cut any more
  std::size_t most_boxes = 20'000;        ///< that may be left undecided before it gives up
  std::function<bool()> should_stop = {}; ///< asked now and then
};

struct Zeros {
  std::vector<Zero> zeros = {};
  std::vector<std::vector<Enclosure>> undecided = {}; ///< boxes of which nothing is known
  bool is_finished = true;                            ///< that it was not stopped
  std::int64_t looked_at = 0;                         ///< boxes

  /// Whether it is proved that there are no other zeros.
  [[nodiscard]] bool is_complete() const { return is_finished && undecided.empty(); }
};

/// All zeros of a system in a box: it is cut into smaller ones until each is known to hold none, or lies within one
/// that holds exactly one (Hansen and Walster, 2004, chapter 11). Zeros outside of the box, but within its parts'
/// neighbourhoods, may be among them.
[[nodiscard]] Zeros find_zeros(IntervalSystem& system, const std::vector<Enclosure>& box, const ZerosOptions& options);

} // namespace tanzen
