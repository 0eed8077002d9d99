#include "tanzen/statistics/point_tree.hpp"

#include <algorithm>

namespace tanzen {
namespace {

constexpr std::size_t most_in_a_leaf = 20;

bool is_at_or_below(const double* a, const double* b, std::size_t length) {
  for (std::size_t i = 0; i < length; ++i)
    if (a[i] > b[i]) return false;
  return true;
}

} // namespace

bool PointTree::has_at_or_below(std::span<const double> point) const {
  return has_at_or_below(root_, point);
}

bool PointTree::has_at_or_below(const Node& node, std::span<const double> point) {
  const std::size_t length = point.size();
  if (node.size == 0 || !is_at_or_below(node.lower.data(), point.data(), length)) return false;
  if (is_at_or_below(node.upper.data(), point.data(), length)) return true;
  if (node.low) return has_at_or_below(*node.low, point) || has_at_or_below(*node.high, point);
  for (std::size_t at = 0; at < node.numbers.size(); at += length)
    if (is_at_or_below(node.numbers.data() + at, point.data(), length)) return true;
  return false;
}

void PointTree::take_at_or_above(std::span<const double> point, std::vector<std::size_t>& taken) {
  take_at_or_above(root_, point, taken);
}

void PointTree::take_at_or_above(Node& node, std::span<const double> point, std::vector<std::size_t>& taken) {
  const std::size_t length = point.size();
  if (node.size == 0 || !is_at_or_below(point.data(), node.upper.data(), length)) return;
  if (is_at_or_below(point.data(), node.lower.data(), length)) {
    take_all(node, taken);
    return;
  }
  if (node.low) {
    take_at_or_above(*node.low, point, taken);
    take_at_or_above(*node.high, point, taken);
    node.size = node.low->size + node.high->size;
    return;
  }
  std::size_t kept = 0;
  for (std::size_t k = 0; k < node.size; ++k) {
    const double* here = node.numbers.data() + k * length;
    if (is_at_or_below(point.data(), here, length)) {
      taken.push_back(node.known_by[k]);
      continue;
    }
    std::copy_n(here, length, node.numbers.data() + kept * length);
    node.known_by[kept++] = node.known_by[k];
  }
  node.size = kept;
  node.numbers.resize(kept * length);
  node.known_by.resize(kept);
}

void PointTree::take_all(Node& node, std::vector<std::size_t>& taken) {
  if (node.low) {
    take_all(*node.low, taken);
    take_all(*node.high, taken);
  }
  taken.insert(taken.end(), node.known_by.begin(), node.known_by.end());
  node = {};
}

void PointTree::widen(Node& node, std::span<const double> point) {
  if (node.size == 0) {
    node.lower.assign(point.begin(), point.end());
    node.upper = node.lower;
  }
  for (std::size_t i = 0; i < point.size(); ++i) {
    node.lower[i] = std::min(node.lower[i], point[i]);
    node.upper[i] = std::max(node.upper[i], point[i]);
  }
  ++node.size;
}

void PointTree::append(Node& leaf, std::span<const double> point, std::size_t known_by) {
  widen(leaf, point);
  leaf.numbers.insert(leaf.numbers.end(), point.begin(), point.end());
  leaf.known_by.push_back(known_by);
}

void PointTree::add(std::span<const double> point, std::size_t known_by) {
  Node* node = &root_;
  while (node->low) {
    widen(*node, point);
    node = (point[node->along] < node->middle ? node->low : node->high).get();
  }
  append(*node, point, known_by);
  if (node->size > most_in_a_leaf) halve(*node);
}

void PointTree::halve(Node& leaf) const {
  const std::size_t length = leaf.lower.size();
  double widest = 0;
  for (std::size_t i = 0; i < length; ++i) {
    const double whole = root_.upper[i] - root_.lower[i];
    const double part = whole > 0 ? (leaf.upper[i] - leaf.lower[i]) / whole : 0;
    if (part > widest) {
      widest = part;
      leaf.along = i;
    }
  }
  if (!(widest > 0)) return; // all alike, or of a range beyond the largest number
  const double least = leaf.lower[leaf.along], most = leaf.upper[leaf.along], middle = least / 2 + most / 2;
  leaf.middle = middle > least ? middle : most; // the lowest and the highest are parted, however near
  leaf.low = std::make_unique<Node>();
  leaf.high = std::make_unique<Node>();
  for (std::size_t k = 0; k < leaf.size; ++k) {
    const std::span<const double> here(leaf.numbers.data() + k * length, length);
    append(here[leaf.along] < leaf.middle ? *leaf.low : *leaf.high, here, leaf.known_by[k]);
  }
  leaf.numbers.clear();
  leaf.known_by.clear();
}

} // namespace tanzen
