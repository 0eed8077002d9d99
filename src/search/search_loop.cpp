#include "tanzen/search/search_loop.hpp"

namespace tanzen {

SearchLoop::SearchLoop(Evaluator& evaluate, Method method, Start start, const StopRules& rules)
    : method_(std::move(method)), checker_(rules), point_(start.point), value_(start.value),
      search_(method_.search(evaluate, std::move(start))) {
  checker_.begin(value_);
}

} // namespace tanzen
