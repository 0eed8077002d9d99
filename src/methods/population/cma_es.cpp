#include "tanzen/methods/population/cma_es.hpp"

#include "tanzen/methods/direct/mirrored.hpp"
#include "tanzen/methods/direct/region_scale.hpp"
#include "tanzen/methods/population/population.hpp"
#include "tanzen/numeric/sampling.hpp"
#include "tanzen/search/relative_gradient.hpp"

#include "lagrangian_ranking.hpp"
#include "reevaluation.hpp"
#include "step_distribution.hpp"

#include <algorithm>
#include <cmath>
#include <vector>

namespace tanzen::methods {
namespace {

/// Whether values no longer get better (Hansen, 2016, appendix B.3, stagnation): over the last fifth of the
/// generations, or as many as values need to show anything, the median of the last third of them is no better than of
/// the first. Of long runs every other generation is forgotten, again and again, so that little is kept.
class Stagnation {
 public:
  Stagnation(Index n, Index lambda) : least_(static_cast<std::size_t>(120 + 30 * n / lambda)) {
    for (auto* history : {&best_, &median_, &sorted_}) history->reserve(kept_);
  }

  /// Of one generation.
  void note(double best, double median) {
    if (generations_++ % stride_ != 0) return;
    best_.push_back(best);
    median_.push_back(median);
    if (best_.size() < kept_) return;
    for (auto* history : {&best_, &median_}) {
      for (std::size_t k = 0; k < kept_ / 2; ++k) (*history)[k] = (*history)[2 * k];
      history->resize(kept_ / 2);
    }
    stride_ *= 2;
  }
  /// Looks now and then alone, for it sorts.
  [[nodiscard]] bool is_there() {
    constexpr std::size_t now_and_then = 20;
    const std::size_t length = std::clamp(generations_ / 5, least_, most_) / stride_;
    if (generations_ % now_and_then != 0 || best_.size() < length || length < 10) return false;
    return !has_improved(best_, length) && !has_improved(median_, length);
  }

 private:
  bool has_improved(const std::vector<double>& history, std::size_t length) {
    const auto part = static_cast<std::ptrdiff_t>(3 * length / 10);
    const auto first = history.end() - static_cast<std::ptrdiff_t>(length);
    return median_of(history.end() - part, history.end()) < median_of(first, first + part);
  }
  double median_of(std::vector<double>::const_iterator first, std::vector<double>::const_iterator last) {
    sorted_.assign(first, last);
    const auto middle = sorted_.begin() + static_cast<std::ptrdiff_t>(sorted_.size() / 2);
    std::nth_element(sorted_.begin(), middle, sorted_.end());
    return *middle;
  }

  static constexpr std::size_t kept_ = 2048, most_ = 20'000;
  std::size_t least_, generations_ = 0, stride_ = 1;
  std::vector<double> best_, median_, sorted_;
};

/// One start of the strategy: from a mean and a sigma until it settles.
class Strategy {
 public:
  /// `ranking` is null without constraints.
  Strategy(Evaluator& evaluate, LagrangianRanking* ranking, const CmaEs& settings, const Vector& mean, Index lambda,
           double sigma, double first_value)
      : evaluate_(evaluate), ranking_(ranking), scale_(region_scale(evaluate.problem().sampling_box())),
        weights_(mean.size(), lambda),
        distribution_(StepDistribution::make(settings.form, settings.active, mean.size(), weights_)),
        collapse_(settings.collapse), sigma_(sigma), mean_(mean), path_(Vector::Zero(mean.size())), z_(mean.size()),
        y_(mean.size()), best_(mean), points_(mean.size(), lambda), values_(lambda),
        recent_(static_cast<std::size_t>(10 + 30 * mean.size() / lambda), std::numeric_limits<double>::infinity()),
        stagnation_(mean.size(), lambda), first_sigma_(sigma), first_value_(first_value) {
    const Index n = mean.size();
    drawn_z_.resize(n, lambda);
    drawn_y_.resize(n, lambda);
    generation_.z.resize(n, lambda);
    generation_.y.resize(n, lambda);
    order_.reserve(static_cast<std::size_t>(lambda));
    if (settings.reevaluates && !ranking) reevaluation_.emplace(evaluate, n, lambda);
  }

  void generate(RandomStream& random) {
    for (Index k = 0; k < points_.cols(); ++k) {
      random.fill_normal(z_);
      distribution_->transform(z_, y_);
      drawn_z_.col(k) = z_;
      drawn_y_.col(k) = y_;
      z_ = mean_ + sigma_ * scale_.cwiseProduct(y_);
      mirror_into(evaluate_.bounds(), z_);
      points_.col(k) = z_;
    }
    if (ranking_)
      ranking_->values(points_, values_);
    else if (reevaluation_)
      reevaluation_->values(points_, values_);
    else
      evaluate_.values(points_, values_);
    ++generations_;
    sort_by_value(values_, order_);
    best_ = points_.col(order_.front());
    recent_[static_cast<std::size_t>(generations_) % recent_.size()] = values_[order_.front()];
    stagnation_.note(values_[order_.front()], values_[order_[order_.size() / 2]]);
  }

  void learn() {
    for (Index k = 0; k < points_.cols(); ++k) {
      const Index member = order_[static_cast<std::size_t>(k)];
      generation_.z.col(k) = drawn_z_.col(member);
      generation_.y.col(k) = drawn_y_.col(member);
    }
    generation_.mean_z.noalias() = generation_.z.leftCols(weights_.parents) * weights_.weights;
    generation_.mean_y.noalias() = generation_.y.leftCols(weights_.parents) * weights_.weights;
    mean_ += sigma_ * scale_.cwiseProduct(generation_.mean_y);
    if (ranking_) ranking_->follow(mean());
    const double rate = distribution_->path_rate();
    distribution_->whiten(generation_.mean_z, y_);
    path_ = (1 - rate) * path_ + std::sqrt(rate * (2 - rate) * weights_.effective) * y_;
    const double length = path_.norm();
    const double begun = std::sqrt(1 - std::pow(1 - rate, 2.0 * static_cast<double>(generations_)));
    const auto n = static_cast<double>(mean_.size());
    generation_.stalled = length / begun >= (1.4 + 2 / (n + 1)) * weights_.expected_length;
    distribution_->learn(generation_);
    sigma_ *= std::exp(std::min(1.0, distribution_->log_change(length)));
    if (reevaluation_) sigma_ *= reevaluation_->step_factor();
  }

  /// Why this start leads no further although nothing has settled; empty while it does (Hansen, 2016, appendix B.3).
  [[nodiscard]] std::string_view stalled() {
    constexpr double too_far = 1e4; // against the first steps: a start far from any minimum, or no minimum at all
    if (!(sigma_ * distribution_->longest_axis() <= too_far * first_sigma_))
      return "the steps have grown without limit";
    // Under constraints values are those of a function that follows the mean: they cannot be compared over time.
    if (ranking_) return {};
    if (has_no_effect()) return "the steps are below the precision of the point's numbers";
    return stagnation_.is_there() ? "the values have not got better for long" : std::string_view();
  }

  /// Why this start is done; empty while it is not.
  [[nodiscard]] std::string_view settled() const {
    const double best = values_[order_.front()];
    if (relative_size(evaluate_.problem(), best_, sigma_ * distribution_->longest_axis() * scale_) <= collapse_)
      return "the population has collapsed to one point";
    if (distribution_->axis_ratio() > 1e7) return "the steps have become too long and narrow";
    if (!std::isfinite(best)) return generations_ > 100 ? "no value has been found" : std::string_view();
    const auto [least, most] = std::ranges::minmax_element(recent_);
    const double spread = std::max(*most, values_.maxCoeff()) - std::min(*least, best);
    // The paper's 1e-12 is in the value's unit; of a value near zero it is taken of what the run has gained.
    const double size = std::max(std::abs(best), 1e-8 * std::abs(first_value_ - best));
    return spread <= 1e-12 * size ? "the values no longer differ" : std::string_view();
  }
  /// Whether no two values of the last generations differ at all.
  [[nodiscard]] bool is_flat() const {
    const auto [least, most] = std::ranges::minmax_element(recent_);
    return *least == *most && values_.minCoeff() == values_.maxCoeff();
  }

  [[nodiscard]] Vector mean() const {
    Vector within = mean_;
    mirror_into(evaluate_.bounds(), within);
    return within;
  }
  /// Whether what has settled keeps the constraints.
  [[nodiscard]] bool is_feasible() const {
    return !ranking_ || ranking_->standing().violation <= evaluate_.feasibility();
  }

  /// Under constraints it stands at its mean, which their multipliers follow.
  [[nodiscard]] Iteration iteration() {
    if (ranking_) best_ = mean();
    Iteration now(best_, ranking_ ? ranking_->standing().value : values_[order_.front()]);
    if (ranking_) {
      now.violation(ranking_->standing().violation);
      now.column("multiplier_norm", ranking_->multipliers().y.norm());
      now.column("penalty", ranking_->multipliers().penalties.maxCoeff());
    }
    if (reevaluation_)
      now.column("uncertainty", reevaluation_->uncertainty()).column("averaged", reevaluation_->averaged());
    now.population(points_, values_).column("sigma", sigma_);
    if (const double ratio = distribution_->axis_ratio(); !std::isnan(ratio)) now.column("axis_ratio", ratio);
    return now.column("population", static_cast<double>(points_.cols()));
  }

 private:
  /// Whether a tenth of a step along one principal axis, each in its turn, or a fifth of one along any coordinate, no
  /// longer moves the mean.
  [[nodiscard]] bool has_no_effect() {
    distribution_->axis(static_cast<Index>(generations_) % mean_.size(), y_);
    z_ = mean_ + 0.1 * sigma_ * scale_.cwiseProduct(y_);
    if (z_ == mean_) return true;
    distribution_->deviations(y_);
    z_ = mean_ + 0.2 * sigma_ * scale_.cwiseProduct(y_);
    return (z_.array() == mean_.array()).any();
  }

  Evaluator& evaluate_;
  LagrangianRanking* ranking_; ///< under constraints
  Vector scale_;
  StrategyWeights weights_;
  std::unique_ptr<StepDistribution> distribution_;
  double collapse_;
  double sigma_;
  Vector mean_, path_, z_, y_, best_;
  Matrix points_;
  Vector values_;
  Matrix drawn_z_, drawn_y_; ///< as they were drawn
  Generation generation_;    ///< in order
  std::vector<Index> order_;
  std::vector<double> recent_; ///< best values of the last generations
  Stagnation stagnation_;
  std::optional<Reevaluation> reevaluation_;
  double first_sigma_, first_value_;
  std::int64_t generations_ = 0;
};

/// With which population and sigma the next start begins.
class Regimes {
 public:
  Regimes(const CmaEs& settings, Index first) : settings_(settings), first_(first), large_(first) {}

  struct Choice {
    Index lambda;
    double sigma;
  };

  Choice next(std::int64_t spent, RandomStream& random) {
    if (begun_) (in_small_ ? spent_small_ : spent_large_) += spent;
    in_small_ =
        settings_.restarts == CmaEs::Restarts::two_regimes && begun_ && restarted_ && spent_small_ < spent_large_;
    if (in_small_) { // Hansen, 2009, section 3
      const double u = random.uniform(), v = random.uniform();
      const double ratio = 0.5 * static_cast<double>(large_) / static_cast<double>(first_);
      const auto lambda = static_cast<Index>(static_cast<double>(first_) * std::pow(ratio, u * u));
      return {std::max(first_, lambda), settings_.sigma * std::pow(10.0, -2 * v)};
    }
    if (begun_) {
      large_ *= 2;
      restarted_ = true;
    }
    begun_ = true;
    return {large_, settings_.sigma};
  }

 private:
  const CmaEs& settings_;
  Index first_, large_;
  std::int64_t spent_large_ = 0, spent_small_ = 0;
  bool begun_ = false, restarted_ = false, in_small_ = false;
};

} // namespace

MethodCard CmaEs::card() {
  return {.title = "evolution strategy with covariance matrix adaptation",
          .family = "population",
          .source =
              "Hansen, 2016; Ros and Hansen, 2008; Loshchilov, Glasmachers and Beyer, 2018; restarts: Auger and "
              "Hansen, 2005; Hansen, 2009; noise: Hansen et al., 2009; constraints: Atamna, Auger and Hansen, 2016",
          .limits = "points outside are mirrored at them",
          .summary = "The first choice without derivatives for some tens of variables on a function that is badly "
                     "scaled, not separable, or noisy; with restarts on rugged ones.",
          .needs = Derivatives::none,
          .able = {.bounds = true, .equalities = true, .inequalities = true}};
}

void CmaEs::settings(Settings& list) {
  list.add("form", form, {{"full", Form::full}, {"separable", Form::separable}, {"limited", Form::limited}})
      .means("what the steps' shape is kept as: a matrix, its diagonal, a few directions");
  list.add("active", active).means("the worst steps count against their directions");
  list.add("restarts", restarts,
           {{"none", Restarts::none}, {"increasing", Restarts::increasing}, {"two-regimes", Restarts::two_regimes}})
      .means("what happens once it has settled");
  list.add("reevaluates", reevaluates)
      .means("some members are evaluated twice, and all more often where noise changes their ranks");
  list.add("population", population).at_least(4).at_most(1e6).unset_means("4 + 3 ln n").means("points an iteration");
  list.add("sigma", sigma).positive().means("first standard deviation, as a part of the region's width");
  add_collapse(list, collapse);
}

Search CmaEs::search(Evaluator& evaluate, Start start) const {
  const auto n = static_cast<double>(start.point.size());
  const Index first = population.value_or(4 + static_cast<Index>(3 * std::log(n)));
  Regimes regimes(*this, first);
  RandomStream& random = start.random;
  Vector mean = start.point;
  std::optional<LagrangianRanking> ranking;
  const bool is_constrained = evaluate.part_counts().constraints > 0;
  std::int64_t before = evaluate.counts()[Spent::evaluations];
  for (;;) {
    const auto [lambda, first_sigma] = regimes.next(evaluate.counts()[Spent::evaluations] - before, random);
    before = evaluate.counts()[Spent::evaluations];
    if (is_constrained) ranking.emplace(evaluate);
    bool begins_again = false;
    do {
      Strategy strategy(evaluate, ranking ? &*ranking : nullptr, *this, mean, lambda, first_sigma, start.value);
      for (std::string_view reason; reason.empty();) {
        strategy.generate(random);
        strategy.learn();
        reason = strategy.settled();
        const std::string_view stall = reason.empty() ? strategy.stalled() : std::string_view();
        if (reason.empty()) reason = stall;
        Iteration now = strategy.iteration();
        const bool is_broken = !reason.empty() && !strategy.is_feasible();
        begins_again = is_broken && ranking->raise();
        if (!reason.empty() && !begins_again && (restarts == Restarts::none || strategy.is_flat())) {
          if (is_broken)
            now.stalled("the steps have become too short where constraints are broken");
          else if (!stall.empty())
            now.stalled(stall);
          else
            now.settled(reason);
        }
        co_yield now;
      }
      mean = strategy.mean();
    } while (begins_again);
    mean = uniform_points(evaluate.problem().sampling_box(), 1, random.child({"restart", before})).col(0);
  }
}

} // namespace tanzen::methods
