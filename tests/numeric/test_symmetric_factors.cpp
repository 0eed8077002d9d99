#include "tanzen/numeric/random.hpp"
#include "tanzen/numeric/symmetric_eigen.hpp"
#include "tanzen/numeric/symmetric_factors.hpp"

#include <doctest/doctest.h>

using namespace tanzen;

TEST_SUITE("factors of symmetric matrices") {
  TEST_CASE("solutions solve, and the pivots count the eigenvalues by sign, whatever the matrix") {
    RandomStream random(5, {"factors"});
    for (int k = 0; k < 300; ++k) {
      CAPTURE(k);
      const Index n = 1 + random.below(12);
      Matrix a = Matrix::NullaryExpr(n, n, [&] { return random.normal(); });
      a = (a + a.transpose()).eval();
      // Zeros on the diagonal, and matrices as optimality conditions have them, want pivots of two rows.
      if (k % 3 == 0) a.diagonal().setZero();
      if (k % 3 == 1) a.bottomRightCorner(n / 3, n / 3).setZero();
      SymmetricFactors factors;
      factors.compute(a);
      const Vector values = symmetric_eigenvalues(a);
      if (values.cwiseAbs().minCoeff() < 1e-8) continue;
      CHECK(factors.inertia().positive == (values.array() > 0).count());
      CHECK(factors.inertia().negative == (values.array() < 0).count());
      const Vector wanted = Vector::LinSpaced(n, -1, 2);
      Vector x = a * wanted;
      factors.solve_in_place(x);
      const double condition = values.cwiseAbs().maxCoeff() / values.cwiseAbs().minCoeff();
      CHECK((x - wanted).norm() <= 1e-13 * condition * (1 + wanted.norm()) * static_cast<double>(n));
    }
  }

  TEST_CASE("a matrix of rank one has its zeros counted") {
    const Vector v{{1, -2, 3}};
    SymmetricFactors factors;
    factors.compute(v * v.transpose());
    CHECK(factors.inertia() == SymmetricFactors::Inertia{1, 0, 2});
  }
}
