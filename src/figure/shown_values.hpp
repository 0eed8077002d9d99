#pragma once

#include "tanzen/figure/figure.hpp"

#include <optional>
#include <string>
#include <vector>

namespace tanzen {

/// Values of runs as a picture best shows them: themselves, or their distance from the best. What cannot be told from
/// zero lies on a floor a little below the smallest distance that can.
struct ShownValues {
  std::string title;
  std::vector<std::vector<double>> series = {}; ///< NaN where there is no value
  bool logarithmic = false;
  std::optional<double> floor = {}; ///< where the floor lies, where something lies on it
  std::string floor_name = {};
};

/// `best_known`, unless none is, is what distances are taken from; otherwise the best of all values, where they fall
/// over decades to a limit that is not zero. `sign` is 1 where less is better, -1 where more is.
[[nodiscard]] ShownValues shown_values(std::vector<std::vector<double>> values, std::optional<double> best_known,
                                       double sign);

/// Distances that are at most `resolution` are put on a floor, half a decade below the smallest other one or at
/// `resolution`, whichever is higher; what the floor is is told. Nothing where there is none.
[[nodiscard]] std::optional<double> put_on_floor(std::vector<std::vector<double>>& distances, double resolution);

/// The same of values that are gaps already, with the floor's name.
void lay_on_floor(ShownValues& gaps, double resolution);

/// Draws the floor over a panel from one place to another, with its name below it, and makes room for that.
void add_floor(Panel& panel, const ShownValues& shown, double from, double to);

} // namespace tanzen
