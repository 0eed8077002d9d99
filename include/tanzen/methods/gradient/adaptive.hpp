#pragma once

#include "tanzen/methods/gradient/step_schedule.hpp"
#include "tanzen/search/evaluator.hpp"
#include "tanzen/search/method.hpp"

#include <optional>

namespace tanzen::methods {

/// What the members of the adaptive family remember from iteration to iteration.
struct Moments {
  Vector first = {};  ///< average of the gradients
  Vector second = {}; ///< average, sum or maximum of their squares
  Vector third = {};  ///< what a member needs besides
  double t = 0;       ///< iterations so far, this one included

  explicit Moments(Index n) : first(Vector::Zero(n)), second(Vector::Zero(n)), third(Vector::Zero(n)) {}
};

/// A method that divides each variable's step by a measure of the gradients it has seen. `Update` is one member: its
/// fields are the decay rates, `advance` moves the point by its paper's formula.
///
/// Made for fast early progress with noisy gradients, not for accuracy: with a constant step the path ends in a ripple
/// around the minimum. Cost of an iteration: one value and one gradient; an iteration by batches is an epoch. Memory: a
/// few vectors.
template <class Update>
struct Adaptive {
  StepSchedule schedule{.step = Update::usual_step};
  Update update;
  std::optional<Index> batch = {}; ///< rows of data a step; unset: all
  /// Part of the point that each step takes off beside the update, decoupled from the gradient (Loshchilov and Hutter,
  /// 2019, algorithm 2, line 12): it follows the schedule, not the length of the step.
  double decoupled_decay = 0;

  static MethodCard card() { return Update::card(); }
  void settings(Settings& list);
  Search search(Evaluator& evaluate, Start start) const;

 private:
  /// One step, in place; returns its length.
  double advance(Vector& x, const Vector& g, Moments& seen) const;
};

/// Duchi, Hazan and Singer, 2011, figure 1 with the diagonal of the sum.
struct AdaGradUpdate {
  static constexpr double usual_step = 0.1;
  double epsilon = 1e-8;
  static MethodCard card();
  void settings(Settings& list);
  void advance(Vector& x, const Vector& g, double step, Moments& seen) const;
};

/// Zeiler, 2012, algorithm 1. Its step has the variables' units by itself: 1 is the paper's.
struct AdaDeltaUpdate {
  static constexpr double usual_step = 1;
  double rate = 0.95;
  double epsilon = 1e-6;
  static MethodCard card();
  void settings(Settings& list);
  void advance(Vector& x, const Vector& g, double step, Moments& seen) const;
};

/// Tieleman and Hinton, 2012.
struct RmsPropUpdate {
  static constexpr double usual_step = 0.01;
  double rate = 0.9;
  double epsilon = 1e-8;
  static MethodCard card();
  void settings(Settings& list);
  void advance(Vector& x, const Vector& g, double step, Moments& seen) const;
};

/// The decay rates that most members share.
struct TwoRates {
  double first = 0.9;
  double second = 0.999;
  double epsilon = 1e-8;
  void settings(Settings& list);
};

/// Kingma and Ba, 2015, algorithm 1.
struct AdamUpdate : TwoRates {
  static constexpr double usual_step = 0.01;
  static MethodCard card();
  void advance(Vector& x, const Vector& g, double step, Moments& seen) const;
};

/// Reddi, Kale and Kumar, 2018, algorithm 2: without bias correction, as there.
struct AmsGradUpdate : TwoRates {
  static constexpr double usual_step = 0.01;
  static MethodCard card();
  void advance(Vector& x, const Vector& g, double step, Moments& seen) const;
};

/// Kingma and Ba, 2015, algorithm 2.
struct AdaMaxUpdate : TwoRates {
  static constexpr double usual_step = 0.01;
  static MethodCard card();
  void advance(Vector& x, const Vector& g, double step, Moments& seen) const;
};

/// Dozat, 2016, algorithm 2 with a constant momentum.
struct NadamUpdate : TwoRates {
  static constexpr double usual_step = 0.01;
  static MethodCard card();
  void advance(Vector& x, const Vector& g, double step, Moments& seen) const;
};

/// Zaheer et al., 2018, algorithm 2: without bias correction, as there.
struct YogiUpdate : TwoRates {
  static constexpr double usual_step = 0.01;
  YogiUpdate() : TwoRates{.epsilon = 1e-3} {}
  static MethodCard card();
  void advance(Vector& x, const Vector& g, double step, Moments& seen) const;
};

/// Liu et al., 2020, algorithm 2.
struct RectifiedAdamUpdate : TwoRates {
  static constexpr double usual_step = 0.01;
  static MethodCard card();
  void advance(Vector& x, const Vector& g, double step, Moments& seen) const;
};

/// Zhuang et al., 2020, algorithm 2.
struct AdaBeliefUpdate : TwoRates {
  static constexpr double usual_step = 0.01;
  static MethodCard card();
  void advance(Vector& x, const Vector& g, double step, Moments& seen) const;
};

} // namespace tanzen::methods
