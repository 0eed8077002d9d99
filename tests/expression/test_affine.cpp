#include "tanzen/expression/affine.hpp"
#include "tanzen/expression/formula.hpp"

#include <doctest/doctest.h>

using namespace tanzen;

namespace {

/// The affine ones among a, b, c, d of a formula that has x besides.
std::vector<Index> affine_in(const char* formula) {
  const FormulaScope scope{.variables = {{"a", {}}, {"b", {}}, {"c", {}}, {"d", {}}, {"x", {}}}};
  return affine_coordinates(Formula::parse(formula).expression(scope), 4);
}

using Places = std::vector<Index>;

} // namespace

TEST_SUITE("affine coordinates") {
  TEST_CASE("sums and products with what is held are affine, all else is not") {
    CHECK(affine_in("a + b*x + c*x^2") == Places{0, 1, 2});
    CHECK(affine_in("a*exp(-b*x) + c*exp(-d*x)") == Places{0, 2});
    CHECK(affine_in("(a + b*x)/(1 + c*x)") == Places{0, 1});
    CHECK(affine_in("a/b + x") == Places{0});
    CHECK(affine_in("-(a - 2*(b + x)) + sin(c)") == Places{0, 1});
    CHECK(affine_in("a^2 + sqrt(b)") == Places{});
    CHECK(affine_in("if(x < 1, a + b*x, c)") == Places{0, 1, 2});
    CHECK(affine_in("if(a < 1, b, c)") == Places{1, 2});
    CHECK(affine_in("max(a, x)") == Places{});
  }

  TEST_CASE("of parameters that multiply each other only the first is taken, and none that do not occur") {
    CHECK(affine_in("a*b*x + c") == Places{0, 2});
    CHECK(affine_in("x") == Places{});
    CHECK(affine_in("d*(a + b)") == Places{0, 1});
  }

  TEST_CASE("several expressions are affine in what all of them are") {
    const FormulaScope scope{.variables = {{"a", {}}, {"b", {}}, {"c", {}}}};
    auto graph = std::make_shared<Graph>(3);
    std::vector<NodeId> roots;
    for (const char* formula : {"a + b*c", "exp(b) + a + c"})
      roots.push_back(Formula::parse(formula).build(*graph, scope).node_in(*graph));
    CHECK(affine_coordinates(Expressions(graph, roots), 3) == std::vector<Index>{0, 2});
  }
}
