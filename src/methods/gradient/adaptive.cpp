#include "tanzen/methods/gradient/adaptive.hpp"

#include "mini_batches.hpp"

#include <cmath>

namespace tanzen::methods {
namespace {

MethodCard member(std::string title, std::string source, std::string summary) {
  return {.title = std::move(title),
          .family = "adaptive",
          .source = std::move(source),
          .limits = "each step is projected onto them",
          .summary = std::move(summary) + " Fast early progress, not accuracy: compare the last digits with lbfgs.",
          .needs = Derivatives::gradient,
          .able = {.bounds = true}};
}

/// average = rate * average + (1 - rate) * seen
template <class Seen>
void average(Vector& average, double rate, const Seen& seen) {
  average.array() = rate * average.array() + (1 - rate) * seen;
}

} // namespace

template <class Update>
void Adaptive<Update>::settings(Settings& list) {
  schedule.settings(list);
  update.settings(list);
  MiniBatches::settings(list, batch);
  list.add("decoupled_decay", decoupled_decay)
      .at_least(0)
      .below(1)
      .means("part of the point that each step takes off, whatever the gradient says");
}

template <class Update>
double Adaptive<Update>::advance(Vector& x, const Vector& g, Moments& seen) const {
  const double step = schedule.at(seen.t);
  ++seen.t;
  if (decoupled_decay > 0) x *= 1 - decoupled_decay * step / schedule.step;
  update.advance(x, g, step, seen);
  return step;
}

template <class Update>
Search Adaptive<Update>::search(Evaluator& evaluate, Start start) const {
  const Bounds& bounds = evaluate.bounds();
  Moments seen(start.point.size());
  Vector x = std::move(start.point);
  if (batch) {
    MiniBatches batches(evaluate, *batch, start.random);
    for (;;) {
      batches.begin_epoch();
      double step = 0;
      for (Index k = 0; k < batches.count(); ++k) {
        step = advance(x, batches.gradient(x, k), seen);
        bounds.project(x);
      }
      co_yield Iteration(x, evaluate(x)).column("step", step).column("epoch", batches.epoch());
    }
  }
  const Vector& g = evaluate.gradient(x);
  for (;;) {
    const double step = advance(x, g, seen);
    bounds.project(x);
    const double value = evaluate.value_and_gradient(x).value;
    co_yield Iteration(x, value).gradient(g, bounds).column("step", step);
  }
}

void TwoRates::settings(Settings& list) {
  list.add("first", first).at_least(0).below(1).means("decay of the average of gradients");
  list.add("second", second).above(0).below(1).means("decay of the average of their squares");
  list.add("epsilon", epsilon).positive().means("what keeps a divisor from zero");
}

MethodCard AdaGradUpdate::card() {
  return member("steps divided by the root of all squared gradients so far", "Duchi, Hazan and Singer, 2011",
                "The first of the family; its steps only ever shrink.");
}

void AdaGradUpdate::settings(Settings& list) {
  list.add("epsilon", epsilon).positive().means("what keeps a divisor from zero");
}

void AdaGradUpdate::advance(Vector& x, const Vector& g, double step, Moments& seen) const {
  seen.second.array() += g.array().square();
  x.array() -= step * g.array() / (seen.second.array().sqrt() + epsilon);
}

MethodCard AdaDeltaUpdate::card() {
  return member("steps in the variables' own units, from averages of squared gradients and squared steps",
                "Zeiler, 2012, algorithm 1", "Needs no length of step, and starts slowly for that.");
}

void AdaDeltaUpdate::settings(Settings& list) {
  list.add("rate", rate).above(0).below(1).means("decay of both averages");
  list.add("epsilon", epsilon).positive().means("what starts the first steps, in squared units");
}

void AdaDeltaUpdate::advance(Vector& x, const Vector& g, double step, Moments& seen) const {
  Vector& move = seen.first;
  average(seen.second, rate, g.array().square());
  move.array() = -(seen.third.array() + epsilon).sqrt() / (seen.second.array() + epsilon).sqrt() * g.array();
  average(seen.third, rate, move.array().square());
  x += step * move;
}

MethodCard RmsPropUpdate::card() {
  return member("steps divided by the root of an average of squared gradients", "Tieleman and Hinton, 2012",
                "Forgets old gradients, so its steps do not die out.");
}

void RmsPropUpdate::settings(Settings& list) {
  list.add("rate", rate).above(0).below(1).means("decay of the average of squared gradients");
  list.add("epsilon", epsilon).positive().means("what keeps a divisor from zero");
}

void RmsPropUpdate::advance(Vector& x, const Vector& g, double step, Moments& seen) const {
  average(seen.second, rate, g.array().square());
  x.array() -= step * g.array() / (seen.second.array().sqrt() + epsilon);
}

MethodCard AdamUpdate::card() {
  return member("adaptive moments", "Kingma and Ba, 2015, algorithm 1",
                "Averages of gradients and of their squares, both corrected for their beginning at zero.");
}

void AdamUpdate::advance(Vector& x, const Vector& g, double step, Moments& seen) const {
  average(seen.first, first, g.array());
  average(seen.second, second, g.array().square());
  const double correction1 = 1 - std::pow(first, seen.t), correction2 = 1 - std::pow(second, seen.t);
  x.array() -= step * (seen.first.array() / correction1) / ((seen.second.array() / correction2).sqrt() + epsilon);
}

MethodCard AmsGradUpdate::card() {
  return member("adaptive moments whose divisor never falls", "Reddi, Kale and Kumar, 2018, algorithm 2",
                "Mends an example on which the adaptive moments do not converge.");
}

void AmsGradUpdate::advance(Vector& x, const Vector& g, double step, Moments& seen) const {
  average(seen.first, first, g.array());
  average(seen.second, second, g.array().square());
  seen.third = seen.third.cwiseMax(seen.second);
  x.array() -= step * seen.first.array() / (seen.third.array().sqrt() + epsilon);
}

MethodCard AdaMaxUpdate::card() {
  return member("adaptive moments with the largest gradient in place of the root of squares",
                "Kingma and Ba, 2015, algorithm 2", "A step is never longer than the setting says.");
}

void AdaMaxUpdate::advance(Vector& x, const Vector& g, double step, Moments& seen) const {
  average(seen.first, first, g.array());
  seen.second = (second * seen.second).cwiseMax(g.cwiseAbs());
  const double correction = 1 - std::pow(first, seen.t);
  // A variable that has seen no slope yet stays.
  x.array() -= (seen.second.array() > 0).select(step / correction * seen.first.array() / seen.second.array(), 0.0);
}

MethodCard NadamUpdate::card() {
  return member("adaptive moments with the momentum looked ahead", "Dozat, 2016, algorithm 2",
                "The present gradient counts at once, not only through the average.");
}

void NadamUpdate::advance(Vector& x, const Vector& g, double step, Moments& seen) const {
  average(seen.first, first, g.array());
  average(seen.second, second, g.array().square());
  const double ahead = first / (1 - std::pow(first, seen.t + 1)), now = (1 - first) / (1 - std::pow(first, seen.t));
  const double scale = second / (1 - std::pow(second, seen.t));
  x.array() -= step * (ahead * seen.first.array() + now * g.array()) / ((scale * seen.second.array()).sqrt() + epsilon);
}

MethodCard YogiUpdate::card() {
  return member("adaptive moments whose divisor changes by no more than the squared gradient",
                "Zaheer et al., 2018, algorithm 2", "The divisor forgets a large gradient slowly.");
}

void YogiUpdate::advance(Vector& x, const Vector& g, double step, Moments& seen) const {
  average(seen.first, first, g.array());
  seen.second.array() -= (1 - second) * (seen.second.array() - g.array().square()).sign() * g.array().square();
  x.array() -= step * seen.first.array() / (seen.second.array().sqrt() + epsilon);
}

MethodCard RectifiedAdamUpdate::card() {
  return member("adaptive moments rectified for the few gradients at the beginning", "Liu et al., 2020, algorithm 2",
                "Begins with plain momentum until the squares say something.");
}

void RectifiedAdamUpdate::advance(Vector& x, const Vector& g, double step, Moments& seen) const {
  average(seen.first, first, g.array());
  average(seen.second, second, g.array().square());
  const double decayed = std::pow(second, seen.t);
  const double correction1 = 1 - std::pow(first, seen.t), correction2 = 1 - decayed;
  const double longest = 2 / (1 - second) - 1, length = longest - 2 * seen.t * decayed / correction2;
  if (length <= 4) {
    x -= step / correction1 * seen.first;
    return;
  }
  const double rectified = std::sqrt((length - 4) * (length - 2) * longest / ((longest - 4) * (longest - 2) * length));
  x.array() -=
      step * rectified * (seen.first.array() / correction1) / ((seen.second.array() / correction2).sqrt() + epsilon);
}

MethodCard AdaBeliefUpdate::card() {
  return member("adaptive moments divided by how far gradients stray from their average",
                "Zhuang et al., 2020, algorithm 2", "Long steps where gradients agree, short ones where they do not.");
}

void AdaBeliefUpdate::advance(Vector& x, const Vector& g, double step, Moments& seen) const {
  average(seen.first, first, g.array());
  average(seen.second, second, (g - seen.first).array().square());
  seen.second.array() += epsilon;
  const double correction1 = 1 - std::pow(first, seen.t), correction2 = 1 - std::pow(second, seen.t);
  x.array() -= step * (seen.first.array() / correction1) / ((seen.second.array() / correction2).sqrt() + epsilon);
}

template struct Adaptive<AdaGradUpdate>;
template struct Adaptive<AdaDeltaUpdate>;
template struct Adaptive<RmsPropUpdate>;
template struct Adaptive<AdamUpdate>;
template struct Adaptive<AmsGradUpdate>;
template struct Adaptive<AdaMaxUpdate>;
template struct Adaptive<NadamUpdate>;
template struct Adaptive<YogiUpdate>;
template struct Adaptive<RectifiedAdamUpdate>;
template struct Adaptive<AdaBeliefUpdate>;

} // namespace tanzen::methods
