#include "tanzen/methods/global/dividing_rectangles.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <queue>
#include <vector>

namespace tanzen::methods {
namespace {

/// A box: where its centre is in the unit cube, how often each side has been cut in three, and the value there.
struct Rectangle {
  std::vector<double> centre;
  std::vector<std::int8_t> cuts;
  double value;
};

class Division {
 public:
  Division(Evaluator& evaluate, const DividingRectangles& settings)
      : evaluate_(evaluate), settings_(settings), box_(evaluate.problem().sampling_box()),
        n_(static_cast<std::size_t>(box_.dimension())), x_(box_.dimension()) {
    Rectangle whole{std::vector<double>(n_, 0.5), std::vector<std::int8_t>(n_, 0), 0};
    whole.value = value_at(whole.centre);
    add(std::move(whole));
  }

  void divide_promising() {
    promising(chosen_);
    for (const std::size_t k : chosen_) divide(k);
  }

  [[nodiscard]] const Vector& best_point() {
    place(rectangles_[best_].centre);
    return x_;
  }
  [[nodiscard]] double best_value() const { return rectangles_[best_].value; }
  [[nodiscard]] std::size_t size() const { return rectangles_.size(); }
  /// The longest side of the best box, as a part of the region's.
  [[nodiscard]] double best_side() const { return side(*std::ranges::min_element(rectangles_[best_].cuts)); }
  [[nodiscard]] bool is_flat() const { return least_ == most_; }

 private:
  struct Entry {
    double value;
    std::size_t rectangle;
    bool operator<(const Entry& other) const { // the queue's top is the least value, then the oldest
      return value != other.value ? value > other.value : rectangle > other.rectangle;
    }
  };

  static double side(int cuts) { return std::pow(3.0, -cuts); }

  /// Half the diagonal, or half the longest side.
  [[nodiscard]] double measure(const Rectangle& rectangle) const {
    if (settings_.biased) return 0.5 * side(*std::ranges::min_element(rectangle.cuts));
    std::vector<std::int8_t> sorted = rectangle.cuts; // so that boxes of one shape have one measure, to the last bit
    std::ranges::sort(sorted);
    double sum = 0;
    for (const int cuts : sorted) sum += side(cuts) * side(cuts);
    return 0.5 * std::sqrt(sum);
  }

  void place(const std::vector<double>& centre) {
    for (Index j = 0; j < x_.size(); ++j)
      x_[j] = box_.lower[j] + centre[static_cast<std::size_t>(j)] * (box_.upper[j] - box_.lower[j]);
    evaluate_.bounds().project(x_); // rounding alone could leave them
  }

  double value_at(const std::vector<double>& centre) {
    place(centre);
    const double value = evaluate_(x_);
    least_ = std::min(least_, value);
    most_ = std::max(most_, value);
    return value;
  }

  std::size_t add(Rectangle rectangle) {
    const std::size_t k = rectangles_.size();
    by_size_[measure(rectangle)].push({rectangle.value, k});
    rectangles_.push_back(std::move(rectangle));
    if (rectangles_[k].value < rectangles_[best_].value) best_ = k;
    return k;
  }

  /// The lower right hull of (size, least value of that size), cut where it promises too little (definition 4.1). They
  /// leave their queues.
  void promising(std::vector<std::size_t>& chosen) {
    struct Corner {
      double size, value;
    };
    std::vector<Corner> hull;
    for (auto entry = by_size_.begin(); entry != by_size_.end();)
      entry = entry->second.empty() ? by_size_.erase(entry) : std::next(entry);
    for (const auto& [size, queue] : by_size_) {
      const Corner corner{size, std::min(queue.top().value, 1e300)};
      while (!hull.empty() && hull.back().value >= corner.value) hull.pop_back();
      while (hull.size() >= 2) {
        const Corner &a = hull[hull.size() - 2], &b = hull.back();
        const double through = a.value + (b.size - a.size) * (corner.value - a.value) / (corner.size - a.size);
        if (b.value < through) break;
        hull.pop_back();
      }
      hull.push_back(corner);
    }
    chosen.clear();
    const double wanted = best_value() - settings_.epsilon * std::abs(best_value());
    for (std::size_t k = 0; k < hull.size(); ++k) {
      if (k + 1 < hull.size()) { // with the steepest Lipschitz constant that suits it, is it low enough at its edge?
        const double slope = (hull[k + 1].value - hull[k].value) / (hull[k + 1].size - hull[k].size);
        if (hull[k].value - slope * hull[k].size > wanted) continue;
      }
      auto& queue = by_size_.at(hull[k].size);
      chosen.push_back(queue.top().rectangle); // one of equals is enough: on a plateau all would be divided
      queue.pop();
    }
  }

  /// Cuts the longest sides in three, the most promising first, so that good values lie in large boxes (section 4 of
  /// the paper).
  void divide(std::size_t parent) {
    const int fewest = *std::ranges::min_element(rectangles_[parent].cuts);
    struct Cut {
      std::size_t side;
      double lower, upper;
    };
    std::vector<Cut> cuts;
    std::vector<double> centre = rectangles_[parent].centre;
    const double step = side(fewest) / 3;
    for (std::size_t j = 0; j < n_; ++j) {
      if (rectangles_[parent].cuts[j] != fewest) continue;
      const double middle = centre[j];
      centre[j] = middle - step;
      const double lower = value_at(centre);
      centre[j] = middle + step;
      cuts.push_back({j, lower, value_at(centre)});
      centre[j] = middle;
    }
    std::ranges::stable_sort(cuts, {}, [](const Cut& cut) { return std::min(cut.lower, cut.upper); });
    for (const Cut& cut : cuts) {
      ++rectangles_[parent].cuts[cut.side];
      for (const bool is_upper : {false, true}) {
        Rectangle third = rectangles_[parent];
        third.centre[cut.side] += is_upper ? step : -step;
        third.value = is_upper ? cut.upper : cut.lower;
        add(std::move(third));
      }
    }
    by_size_[measure(rectangles_[parent])].push({rectangles_[parent].value, parent});
  }

  Evaluator& evaluate_;
  const DividingRectangles& settings_;
  Box box_;
  std::size_t n_;
  Vector x_;
  std::vector<Rectangle> rectangles_;
  std::map<double, std::priority_queue<Entry>> by_size_;
  std::vector<std::size_t> chosen_;
  std::size_t best_ = 0;
  double least_ = std::numeric_limits<double>::infinity(), most_ = -std::numeric_limits<double>::infinity();
};

} // namespace

MethodCard DividingRectangles::card() {
  return {.title = "dividing rectangles, also locally biased",
          .family = "global",
          .source = "Jones, Perttunen and Stuckman, 1993; locally biased: Gablonsky and Kelley, 2001",
          .limits = "only the region within them is divided",
          .summary =
              "Up to some ten variables within bounds: no randomness, nothing to set, finds the basin of the global "
              "minimum; the biased form is the quicker one.",
          .needs = Derivatives::none,
          .able = {.bounds = true}};
}

void DividingRectangles::settings(Settings& list) {
  list.add("biased", biased).means("the locally biased form: boxes by their longest side");
  list.add("epsilon", epsilon)
      .at_least(0)
      .below(1)
      .means("how much below the best value a box must promise, relatively");
  list.add("collapse", collapse)
      .positive()
      .at_most(1)
      .means("done when the best box is narrower than this part of the region");
  list.add("most-boxes", most_boxes).at_least(3).at_most(1e8).means("done when there are so many");
}

Search DividingRectangles::search(Evaluator& evaluate, Start /*start*/) const {
  Division division(evaluate, *this);
  for (std::int64_t iteration = 1;; ++iteration) {
    division.divide_promising();
    Iteration now(division.best_point(), division.best_value());
    now.column("boxes", static_cast<double>(division.size())).column("side", division.best_side());
    if (division.best_side() <= collapse) now.settled("the best box has become too small to matter");
    if (static_cast<Index>(division.size()) >= most_boxes) now.at_limit("there are as many boxes as are allowed");
    if (division.is_flat() && iteration >= 100) now.settled("all values are the same");
    co_yield now;
  }
}

} // namespace tanzen::methods
