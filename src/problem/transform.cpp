#include "tanzen/problem/transform.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/numeric/orthogonal.hpp"
#include "tanzen/numeric/random.hpp"

#include "problem_content.hpp"

#include <cmath>
#include <fmt/format.h>

namespace tanzen {
namespace {

constexpr Index most_rotated = 1000;

/// T_osz: smooth but for the origin, with small ripples in the logarithm of the size.
Expr rippled(const Expr& y) {
  const Expr size = log(abs(y));
  const Condition is_positive = y > 0;
  const Expr first = choose(is_positive, 10, 5.5), second = choose(is_positive, 7.9, 3.1);
  return choose(y == 0, y, sign(y) * exp(size + 0.049 * (sin(first * size) + sin(second * size))));
}

/// T_asy: powers above one on the positive side, more so for later coordinates.
Expr leaned(const Expr& y, double strength) {
  return choose(y > 0, pow(y, 1 + strength * sqrt(y)), y);
}

/// The number that a rising function takes to `wanted`, by doubling and halving to the last bit.
template <class Function>
double inverse(Function&& function, double wanted) {
  if (wanted == 0) return 0;
  double low = -1, high = 1;
  while (function(low) > wanted) low *= 2;
  while (function(high) < wanted) high *= 2;
  for (int k = 0; k < 2000; ++k) {
    const double middle = 0.5 * (low + high);
    if (middle <= low || middle >= high) break;
    (function(middle) < wanted ? low : high) = middle;
  }
  return high;
}

/// A transform of one problem, with its numbers drawn.
class PointMap {
 public:
  PointMap(const Problem& problem, const Transform& transform)
      : n_(problem.dimension()), region_(problem.region()), center_(region_.center()), shift_(Vector::Zero(n_)),
        ripple_(transform.ripple), lean_(transform.lean), stretch_(transform.stretch) {
    const Vector& shift = transform.shift.vector();
    if (shift.size() != 0 && shift.size() != n_)
      throw ProblemError(
          fmt::format("a shift of {} for {}", counted(shift.size(), "coordinate"), counted(n_, "variable")));
    const bool turns = transform.rotation != 0 || transform.placement != 0;
    if (problem.bounds().any() && (turns || ripple_ || lean_ != 0 || stretch_ != 1))
      throw ProblemError(
          fmt::format("{} has bounds: it can be shifted and biased, not rotated or distorted", problem.name()));
    if (turns && n_ > most_rotated)
      throw ProblemError(
          fmt::format("a rotation takes {} squared numbers; it exists up to {} variables", n_, most_rotated));
    if (transform.rotation != 0) rotation_ = random_rotation(n_, transform.rotation);
    if (shift.size() != 0) {
      shift_ = shift;
      region_.lower += shift;
      region_.upper += shift;
    }
    if (transform.placement != 0) place(problem, transform.placement);
  }

  [[nodiscard]] bool is_identity() const {
    return shift_.isZero(0) && !rotation_ && !ripple_ && lean_ == 0 && stretch_ == 1;
  }
  [[nodiscard]] const Vector& shift() const { return shift_; }
  /// Moved by a plain shift, else where it was.
  [[nodiscard]] const Box& region() const { return region_; }

  [[nodiscard]] TracedPoint apply(const TracedPoint& x) const {
    std::vector<Expr> moved, turned;
    for (Index i = 0; i < n_; ++i) moved.push_back(x[i] - (center_[i] + shift_[i]));
    for (Index i = 0; rotation_ && i < n_; ++i) {
      Expr sum;
      for (Index j = 0; j < n_; ++j) sum += (*rotation_)(i, j) * moved[static_cast<std::size_t>(j)];
      turned.push_back(sum);
    }
    std::vector<Expr>& y = rotation_ ? turned : moved;
    for (Index i = 0; i < n_; ++i) {
      Expr& coordinate = y[static_cast<std::size_t>(i)];
      if (ripple_) coordinate = rippled(coordinate);
      if (lean_ != 0) coordinate = leaned(coordinate, lean_ * part(i));
      coordinate = std::pow(stretch_, part(i)) * coordinate + center_[i];
    }
    return TracedPoint(std::move(y));
  }

  /// The same of numbers.
  [[nodiscard]] Vector apply(const Vector& x) const {
    std::vector<Expr> numbers(x.begin(), x.end());
    const TracedPoint z = apply(TracedPoint(std::move(numbers)));
    Vector result(n_);
    for (Index i = 0; i < n_; ++i) result[i] = z[i].constant();
    return result;
  }

  /// Where a point of the untransformed problem has gone.
  [[nodiscard]] Vector carry(const Vector& point) const {
    if (is_identity()) return point; // to the last digit
    Vector y = point - center_;
    for (Index i = 0; i < n_; ++i) {
      y[i] /= std::pow(stretch_, part(i));
      // The same functions as above: of constants they are numbers.
      if (lean_ != 0) y[i] = inverse([&](double v) { return leaned(Expr(v), lean_ * part(i)).constant(); }, y[i]);
      if (ripple_) y[i] = inverse([](double v) { return rippled(Expr(v)).constant(); }, y[i]);
    }
    if (rotation_) y = rotation_->transpose() * y;
    return y + center_ + shift_;
  }

 private:
  /// How far down the list of coordinates the i-th stands, from 0 to 1.
  [[nodiscard]] double part(Index i) const { return n_ > 1 ? static_cast<double>(i) / static_cast<double>(n_ - 1) : 0; }

  void place(const Problem& problem, std::uint64_t seed) {
    constexpr double inner_part = 0.6;
    if (!rotation_) rotation_ = random_rotation(n_, seed);
    const auto& minima = problem.known_minima();
    const Vector before = minima.empty() ? Vector(region_.center()) : carry(minima.front().point);
    RandomStream random(seed, {"placement", problem.name(), n_});
    for (Index i = 0; i < n_; ++i) {
      const double width = region_.upper[i] - region_.lower[i];
      shift_[i] += region_.lower[i] + width * (0.5 + inner_part * (random.uniform() - 0.5)) - before[i];
    }
  }

  Index n_;
  Box region_;
  Vector center_;
  Vector shift_;
  std::optional<Matrix> rotation_;
  bool ripple_;
  double lean_;
  double stretch_;
};

/// A function that is only called, at the changed point.
class ChangedPointFunction final : public VectorFunction {
 public:
  ChangedPointFunction(FunctionPointer function, PointMap map, double bias)
      : function_(std::move(function)), map_(std::move(map)), bias_(bias) {}

  [[nodiscard]] Index dimension() const override { return function_->dimension(); }
  [[nodiscard]] Index outputs() const override { return function_->outputs(); }
  [[nodiscard]] Derivatives derivatives() const override { return Derivatives::none; }
  [[nodiscard]] std::unique_ptr<FunctionWorker> worker(const Waiting& waiting) const override {
    return std::make_unique<Worker>(*this, waiting);
  }
  [[nodiscard]] bool is_concurrent() const override { return function_->is_concurrent(); }
  [[nodiscard]] bool depends_on_order() const override { return function_->depends_on_order(); }

 private:
  class Worker final : public FunctionWorker {
   public:
    Worker(const ChangedPointFunction& function, const Waiting& waiting)
        : function_(function), inner_(function.function_->worker(waiting)) {}

    double value(const Vector& x) override { return inner_->value(function_.map_.apply(x)) + function_.bias_; }
    void outputs(const Vector& x, Vector& outputs) override {
      inner_->outputs(function_.map_.apply(x), outputs);
      outputs[0] += function_.bias_;
    }

   private:
    const ChangedPointFunction& function_;
    std::unique_ptr<FunctionWorker> inner_;
  };

  FunctionPointer function_;
  PointMap map_;
  double bias_;
};

/// A front whose first objective has a bias.
std::shared_ptr<const KnownFront> moved_front(const KnownFront& front, double bias) {
  auto moved = std::make_shared<KnownFront>(front);
  moved->ideal[0] += bias;
  moved->nadir[0] += bias;
  moved->points = [points = front.points, bias](Index count) {
    Matrix made = points(count);
    made.row(0).array() += bias;
    return made;
  };
  if (front.covers)
    moved->covers = [covers = front.covers, bias](const Vector& objectives) {
      Vector back = objectives;
      back[0] -= bias;
      return covers(back);
    };
  return moved;
}

/// The expressions at the changed point, with a bias on the first.
Expressions changed_expressions(const Expressions& expressions, const PointMap& map, double bias) {
  const Expressions moved = map.is_identity()
                                ? expressions
                                : expressions.of_changed_point([&](const TracedPoint& x) { return map.apply(x); });
  if (bias == 0) return moved;
  auto graph = std::make_shared<Graph>(moved.graph());
  std::vector<NodeId> roots = moved.roots();
  roots.front() = (Expr(*graph, roots.front()) + bias).node_in(*graph);
  return {std::move(graph), std::move(roots)};
}

} // namespace

Matrix random_rotation(Index n, std::uint64_t seed) {
  RandomStream random(seed, {"rotation", n});
  Matrix normal(n, n);
  for (double& value : normal.reshaped()) value = random.normal();
  return orthonormal_factor(normal);
}

Problem transformed(const Problem& problem, const Transform& transform) {
  const PointMap map(problem, transform);
  const double bias = transform.bias;
  if (map.is_identity() && bias == 0) return problem;
  if (problem.is_noisy()) throw ProblemError("give a problem its noise after its transform");
  auto content = std::make_shared<Problem::Content>(*problem.content_);
  const bool is_fit = content->objectives.empty();
  if (is_fit && bias != 0) {
    // A sum of squares with a bias is none: only the sum stays.
    if (!content->constraints.empty() || !content->functions.expression)
      throw ProblemError(fmt::format("{} is a fit: it can have no bias", problem.name()));
    content->objectives = {Objective()};
    content->residuals = 0;
    content->functions.expressions = std::make_shared<Expressions>(*content->functions.expression);
  }
  if (content->functions.expressions) {
    content->functions.expressions =
        std::make_shared<Expressions>(changed_expressions(*content->functions.expressions, map, bias));
    content->functions.bundle = make_function(*content->functions.expressions);
  } else if (content->rows && content->residuals == content->functions.bundle->outputs()) {
    content->rows = std::make_shared<Expressions>(
        content->rows->of_changed_head(problem.dimension(), [&](const TracedPoint& x) { return map.apply(x); }));
    content->functions.bundle = make_row_function(*content->rows, content->table);
  } else {
    content->rows.reset();
    content->functions.bundle = std::make_shared<ChangedPointFunction>(content->functions.bundle, map, bias);
  }
  content->definition.reset();
  content->assemble();
  if (content->region) content->region = map.region();
  if (problem.bounds().any())
    content->bounds = Bounds(Box{problem.bounds().lower() + map.shift(), problem.bounds().upper() + map.shift()});
  if (content->start) content->start = map.carry(*content->start);
  for (KnownMinimum& minimum : content->minima)
    minimum = {map.carry(minimum.point), minimum.value + bias, minimum.global};
  if (content->best_known) *content->best_known += bias;
  if (content->front && bias != 0) content->front = moved_front(*content->front, sign_of(problem.sense()) * bias);
  return Problem(std::move(content));
}

} // namespace tanzen
