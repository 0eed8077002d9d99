// A method of a user's own, built by the other compiler under its sanitizer and linked with the library: limits end it
// in the middle of an iteration, so an exception leaves its coroutine, and what it throws itself comes out as an
// outcome.
#include <tanzen/search/evaluator.hpp>
#include <tanzen/search/method.hpp>
#include <tanzen/search/run.hpp>

#include <cstdio>
#include <stdexcept>
#include <vector>

using namespace tanzen;

namespace {

struct Stumbling {
  bool throws = false;

  void settings(Settings& list) { list.add("throws", throws).means("gives up in its third iteration"); }

  Search search(Evaluator& evaluate, Start start) const {
    Vector x = start.point;
    std::vector<double> values(100, start.value); // what an exception must free once
    for (int k = 0;; ++k) {
      for (double& value : values) {
        x[0] *= 0.99;
        value = evaluate(x);
      }
      if (throws && k == 2) throw std::runtime_error("stumbled");
      co_yield Iteration(x, values.back());
    }
  }
};

int failures = 0;

void expect(const Outcome& outcome, Status status, std::int64_t evaluations) {
  if (outcome.status == status && outcome.counts[Spent::evaluations] == evaluations) return;
  ++failures;
  std::printf("%s after %ld evaluations: %s\n", std::string(status_word(outcome.status)).c_str(),
              static_cast<long>(outcome.counts[Spent::evaluations]), outcome.message.c_str());
}

} // namespace

int main() {
  const Problem bowl = Problem::from_formula("2*x^2 + 0.7*y^2").start({2.5, -1});
  expect(run(bowl, Method("stumbling", Stumbling{}), {.stop = {.evaluations = 250}}), Status::evaluations, 250);
  expect(run(bowl, Method("stumbling", Stumbling{.throws = true})), Status::failed, 301);
  {
    Run unfinished(bowl, Method("stumbling", Stumbling{}));
    unfinished.step(); // destroyed where it waits
  }
  return failures;
}
