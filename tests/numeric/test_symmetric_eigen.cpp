#include "tanzen/numeric/random.hpp"
#include "tanzen/numeric/symmetric_eigen.hpp"

#include "support/allocations.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace tanzen;

namespace {

Matrix symmetric_by_seed(Index n, std::uint64_t seed) {
  RandomStream random(seed, {"symmetric"});
  Matrix a(n, n);
  for (double& entry : a.reshaped()) entry = random.normal();
  return a + a.transpose();
}

} // namespace

TEST_SUITE("eigenvalues of symmetric matrices") {
  TEST_CASE("vectors are orthonormal, values rise, and together they are the matrix") {
    for (const Index n : {1, 2, 3, 5, 12, 30}) {
      CAPTURE(n);
      const Matrix a = symmetric_by_seed(n, 7);
      SymmetricEigen eigen(n);
      eigen.compute(a);
      const Matrix& v = eigen.vectors();
      CHECK((v.transpose() * v - Matrix::Identity(n, n)).norm() < 1e-13 * static_cast<double>(n));
      CHECK((v * eigen.values().asDiagonal() * v.transpose() - a).norm() < 1e-14 * static_cast<double>(n) * a.norm());
      for (Index i = 1; i < n; ++i) CHECK(eigen.values()[i - 1] <= eigen.values()[i]);
    }
  }

  TEST_CASE("a known matrix has its known values, also several that are one") {
    SymmetricEigen eigen(3);
    Matrix a(3, 3);
    a << 2, -1, 0, -1, 2, -1, 0, -1, 2; // 2 - 2 cos(k pi / 4)
    eigen.compute(a);
    CHECK(eigen.values()[0] == doctest::Approx(2 - std::sqrt(2)));
    CHECK(eigen.values()[1] == doctest::Approx(2));
    CHECK(eigen.values()[2] == doctest::Approx(2 + std::sqrt(2)));
    eigen.compute(Matrix::Ones(3, 3)); // 0, 0 and 3
    CHECK(std::abs(eigen.values()[0]) < 1e-15);
    CHECK(std::abs(eigen.values()[1]) < 1e-15);
    CHECK(eigen.values()[2] == doctest::Approx(3));
    eigen.compute(Matrix::Zero(3, 3));
    CHECK(eigen.values() == Vector::Zero(3));
  }

  TEST_CASE("a matrix told in another unit has the same vectors, to the bit, however large or small the unit") {
    const Matrix a = symmetric_by_seed(8, 3);
    SymmetricEigen plain(8), told(8);
    plain.compute(a);
    for (const double unit : {0x1p-500, 0x1p-120, 0x1p-20, 0x1p20, 0x1p120, 0x1p500}) {
      CAPTURE(unit);
      told.compute(unit * a);
      CHECK(told.vectors() == plain.vectors());
      CHECK(told.values() == unit * plain.values());
    }
  }

  TEST_CASE("the second of two decompositions allocates nothing") {
    const Matrix a = symmetric_by_seed(20, 1), b = symmetric_by_seed(20, 2);
    const testing::AllocationWatch watch;
    SymmetricEigen eigen(20);
    eigen.compute(a);
    const std::int64_t of_the_first = watch.allocations();
    eigen.compute(b);
    CHECK(watch.allocations() == of_the_first);
    CHECK(of_the_first > 0);
  }
}
