#include "tanzen/problem/smoothness.hpp"

#include "tanzen/expression/smoothness.hpp"

namespace tanzen {

bool is_smooth(const Problem& problem) {
  return problem.expression() != nullptr && is_smooth(*problem.expression());
}

} // namespace tanzen
