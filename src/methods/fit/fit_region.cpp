#include "tanzen/methods/fit/fit_region.hpp"

namespace tanzen::methods {

void FitRegion::settings(Settings& list) {
  list.add("factor", factor).positive().means("of the first radius, in units of the scaled start");
  list.add("tolerance", tolerance).positive().below(1).means("of the sum's fall and of the radius, relative");
}

} // namespace tanzen::methods
