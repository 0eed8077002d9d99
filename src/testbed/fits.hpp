#pragma once

#include "tanzen/testbed/test_function.hpp"

#include <string>
#include <vector>

/// How fits to data that are made up are written down, a row each.
namespace tanzen::testbed::fits {

struct Parameter {
  const char* name;
  double truth; ///< that the data are made with
  double near;  ///< where the near start begins: a fair guess from a picture of the data
  double far;   ///< and the far one: the right sign and little more
};

/// A predictor's places: evenly spaced, or in proportion. Of two predictors all pairs are there.
struct Predictor {
  const char* name;
  double from;
  double to;
  Index count;
  bool in_proportion = false;
};

struct MadeFit {
  const char* name;
  const char* title;
  const char* model; ///< an equation between the observed column and a formula
  const char* source;
  std::vector<Parameter> parameters;
  std::vector<Predictor> predictors;
  double noise;                 ///< standard deviation of what is added to the model
  std::vector<Trait> more = {}; ///< traits besides smooth
};

/// The fit of a row. Its data are the model at the places, plus normal noise from the stream of seed 13 keyed by the
/// name, rounded to six digits.
[[nodiscard]] TestFunction test_function(const MadeFit& row);

} // namespace tanzen::testbed::fits
