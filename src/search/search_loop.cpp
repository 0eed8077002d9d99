#include "tanzen/search/search_loop.hpp"

#include "tanzen/base/text.hpp"

#include <fmt/format.h>
#include <stdexcept>

namespace tanzen {

SearchLoop::SearchLoop(Evaluator& evaluate, Method method, Start start, const StopRules& rules)
    : method_(std::move(method)), checker_(rules, evaluate.problem()), point_(start.point), value_(start.value),
      search_(method_.search(evaluate, std::move(start))) {
  checker_.begin(value_);
}

void SearchLoop::wrong_length(const Iteration& now) const {
  throw std::logic_error(fmt::format("it stands at a point of {}, and began at one of {}",
                                     counted(now.point().size(), "coordinate"), point_.size()));
}

} // namespace tanzen
