#pragma once

#include <cstddef>
#include <memory>
#include <span>
#include <vector>

namespace tanzen {

/// Points of several numbers, each known by one of the caller's, that are found by which of them lie at or below
/// another in every number, and which at or above.
///
/// A binary tree whose nodes know the box of what is below them (Jaszkiewicz and Lust, 2018, section IV: what lies in a
/// box is taken or left whole where its corners tell). A leaf of more than 20 points is halved along the number in
/// which it is widest, as a part of the whole (Bentley, 1975), so that units change nothing. Cost: of an operation some
/// log n boxes where points are spread, n at worst; memory of a few numbers a point.
class PointTree {
 public:
  /// Whether one of the points is at or below `point` in every number.
  [[nodiscard]] bool has_at_or_below(std::span<const double> point) const;

  /// Takes away those at or above `point` in every number, and appends what they are known by to `taken`, in no order.
  void take_at_or_above(std::span<const double> point, std::vector<std::size_t>& taken);

  /// Requires as many numbers as the points there are have, none of them NaN.
  void add(std::span<const double> point, std::size_t known_by);

  [[nodiscard]] std::size_t size() const { return root_.size; }

 private:
  struct Node {
    std::size_t size = 0;
    std::vector<double> lower = {}, upper = {}; ///< at most, and at least, those of the points; wider where some went
    std::size_t along = 0;                      ///< the number that parts the two below
    double middle = 0;
    std::unique_ptr<Node> low = {}, high = {}; ///< both or none
    std::vector<double> numbers = {};          ///< of a leaf's points, one after the other
    std::vector<std::size_t> known_by = {};
  };

  static bool has_at_or_below(const Node& node, std::span<const double> point);
  static void take_at_or_above(Node& node, std::span<const double> point, std::vector<std::size_t>& taken);
  static void take_all(Node& node, std::vector<std::size_t>& taken);
  static void widen(Node& node, std::span<const double> point);
  static void append(Node& leaf, std::span<const double> point, std::size_t known_by);
  void halve(Node& leaf) const;

  Node root_ = {};
};

} // namespace tanzen
