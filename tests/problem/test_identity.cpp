#include "tanzen/problem/definition.hpp"
#include "tanzen/problem/transform.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>

using namespace tanzen;

namespace {

/// The parts in which two problems differ, one has and the other has not, each once.
std::vector<std::string> differences(const Problem& a, const Problem& b) {
  std::vector<std::string> parts;
  const auto ours = identity_of(a), theirs = identity_of(b);
  const auto note = [&](const std::vector<IdentityLine>& some, const std::vector<IdentityLine>& others) {
    for (const IdentityLine& line : some) {
      if (std::ranges::find(others, line) == others.end() && std::ranges::find(parts, line.part) == parts.end())
        parts.push_back(line.part);
    }
  };
  note(ours, theirs);
  note(theirs, ours);
  return parts;
}

bool differ_in(const Problem& a, const Problem& b, const std::string& part) {
  const auto parts = differences(a, b);
  return std::ranges::find(parts, part) != parts.end();
}

Problem kiln() {
  return Problem::from_formula("2*x^2 + 0.7*y^2 + x*y", {"x", "y"})
      .named("kiln")
      .region({-1, -1}, {2, 2})
      .bounds({-3, -3}, {3, 3})
      .start({1, 1.5})
      .with_constraint("disc", "x*x + y*y <= 4");
}

Problem curve() {
  return Problem::from_residuals(2, [](const auto& p) {
    std::vector<Expr> residuals;
    for (int t = 0; t < 4; ++t) residuals.push_back(p[0] * exp(-p[1] * t) - 3 + t);
    return residuals;
  });
}

} // namespace

TEST_SUITE("what makes a problem what it is") {
  TEST_CASE("the same thing said twice is the same, and so is what only looks different") {
    CHECK(differences(kiln(), kiln()).empty());
    CHECK(differences(kiln(), kiln().titled("A kiln")).empty());
    CHECK(differences(kiln(), kiln().sourced("the studio")).empty());
    CHECK(differences(kiln(), kiln().with_traits({"convex"})).empty());
    CHECK(differences(kiln(), kiln().known_minimum({0, 0}, 0)).empty());
    CHECK(differences(kiln(), kiln().observed([](const Vector&, double) {})).empty());
  }

  TEST_CASE("each part that is changed is the one that is told") {
    CHECK(differences(kiln(), kiln().start({1, 1})) == std::vector<std::string>{"start"});
    CHECK(differences(kiln(), kiln().region({-1, -1}, {2, 2.5})) == std::vector<std::string>{"region"});
    CHECK(differences(kiln(), kiln().bounds({-3, -3}, {3, 4})) == std::vector<std::string>{"bounds"});
    CHECK(differ_in(kiln(), kiln().maximized(), "objective value"));
    CHECK(differ_in(kiln(), kiln().with_constraint("line", "x <= y"), "constraint line"));
    CHECK(differ_in(kiln(), kiln().variables({{.name = "a"}, {.name = "b"}}), "variables"));
    CHECK(differ_in(kiln(), kiln().noisy(Noise::parse("normal:0.01")), "noise"));
    CHECK(differ_in(kiln().noisy(Noise::parse("normal:0.01")), kiln().noisy(Noise::parse("normal:0.02")), "noise"));
    CHECK(differ_in(kiln(), kiln().with_objective({.name = "gas", .text = "x + y"}), "objective gas"));
  }

  TEST_CASE("a number inside a formula counts, to its last bit, where no text tells of it") {
    const auto bowl = [](double factor) {
      return Problem::from_function(2, [factor](const auto& x) { return factor * x[0] * x[0] + x[1] * x[1]; });
    };
    CHECK(differences(bowl(0.3), bowl(0.3)).empty());
    CHECK(differences(bowl(0.3), bowl(std::nextafter(0.3, 1))) == std::vector<std::string>{"formulas"});
    const Problem free = Problem::from_formula("2*x^2 + 0.7*y^2").region({-1, -1}, {1, 1});
    CHECK(differ_in(free, transformed(free, {.rotation = 1}), "formulas"));
    CHECK(differ_in(transformed(free, {.rotation = 2}), transformed(free, {.rotation = 1}), "formulas"));
  }

  TEST_CASE("how residuals count is part of the problem, whether a file said it or a call") {
    CHECK(differences(curve(), curve()).empty());
    CHECK(differences(curve(), curve().with_loss(Loss::parse("huber:1"))) == std::vector<std::string>{"loss"});
    CHECK(differ_in(curve().with_loss(Loss::parse("huber:1")), curve().with_loss(Loss::parse("huber:2")), "loss"));
    const Coordinates weights{1, 1, 0.5, 1};
    CHECK(differences(curve(), curve().with_loss({}, weights)) == std::vector<std::string>{"weights"});
    CHECK(differences(curve(), curve().with_loss({}, {1, 1, 1, 1})).empty());
  }

  TEST_CASE("long vectors are told by a digest, which one changed entry changes") {
    Vector start = Vector::LinSpaced(60, 0, 1);
    const Problem wide = Problem::from_function(60, [](const auto& x) {
      Expr sum;
      for (Index k = 0; k < 60; ++k) sum += pow(x[k], 2);
      return sum;
    });
    const Problem boxed = wide.region(Vector(Vector::Zero(60)), Vector(Vector::Ones(60)));
    const Problem one = boxed.start(start);
    start[41] += 1e-12;
    CHECK(differences(one, boxed.start(start)) == std::vector<std::string>{"start"});
    for (const IdentityLine& line : identity_of(one)) CHECK(line.text.size() < 200);
  }

  TEST_CASE("functions that are only called are told apart by their number of variables alone") {
    const auto called = [](Index n) { return Problem::black_box(n, [](const Vector& x) { return x.sum(); }); };
    CHECK(differences(called(2), Problem::black_box(2, [](const Vector& x) { return x.norm(); })).empty());
    CHECK(differ_in(called(2), called(3), "formulas"));
  }
}
