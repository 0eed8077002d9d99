#pragma once

#include <boost/multiprecision/cpp_int.hpp>

#include <algorithm>
#include <cstdint>
#include <initializer_list>
#include <vector>

namespace testing {

using Rational = boost::multiprecision::cpp_rational;

/// A polynomial of one variable in rational arithmetic, the constant first.
class Polynomial {
 public:
  Polynomial() = default;
  Polynomial(std::initializer_list<Rational> numbers) : of_(numbers) { trim(); }
  explicit Polynomial(std::vector<Rational> numbers) : of_(std::move(numbers)) { trim(); }

  [[nodiscard]] bool is_zero() const { return of_.empty(); }
  [[nodiscard]] std::size_t degree() const { return of_.empty() ? 0 : of_.size() - 1; }
  [[nodiscard]] const Rational& operator[](std::size_t k) const { return of_[k]; }

  friend Polynomial operator+(const Polynomial& a, const Polynomial& b) {
    std::vector<Rational> sum(std::max(a.of_.size(), b.of_.size()), 0);
    for (std::size_t k = 0; k < a.of_.size(); ++k) sum[k] += a.of_[k];
    for (std::size_t k = 0; k < b.of_.size(); ++k) sum[k] += b.of_[k];
    return Polynomial(std::move(sum));
  }
  friend Polynomial operator*(const Polynomial& a, const Polynomial& b) {
    if (a.is_zero() || b.is_zero()) return {};
    std::vector<Rational> product(a.of_.size() + b.of_.size() - 1, 0);
    for (std::size_t i = 0; i < a.of_.size(); ++i) {
      for (std::size_t j = 0; j < b.of_.size(); ++j) product[i + j] += a.of_[i] * b.of_[j];
    }
    return Polynomial(std::move(product));
  }
  [[nodiscard]] Polynomial slope() const {
    std::vector<Rational> numbers;
    for (std::size_t k = 1; k < of_.size(); ++k) numbers.push_back(of_[k] * static_cast<std::int64_t>(k));
    return Polynomial(std::move(numbers));
  }
  /// This of another one.
  [[nodiscard]] Polynomial of(const Polynomial& inner) const {
    Polynomial result;
    for (std::size_t k = of_.size(); k-- > 0;) result = result * inner + Polynomial{of_[k]};
    return result;
  }
  /// How many different zeros it has between two numbers that are none (Sturm's theorem).
  [[nodiscard]] int zeros_between(const Rational& lower, const Rational& upper) const {
    std::vector<Polynomial> chain{*this, slope()};
    while (!chain.back().is_zero()) chain.push_back(chain[chain.size() - 2].remainder(chain.back()) * Polynomial{-1});
    chain.pop_back();
    return changes(chain, lower) - changes(chain, upper);
  }

 private:
  void trim() {
    while (!of_.empty() && of_.back() == 0) of_.pop_back();
  }
  [[nodiscard]] Rational at(const Rational& x) const {
    Rational value = 0;
    for (std::size_t k = of_.size(); k-- > 0;) value = value * x + of_[k];
    return value;
  }
  [[nodiscard]] Polynomial remainder(const Polynomial& divisor) const {
    std::vector<Rational> rest = of_;
    while (rest.size() >= divisor.of_.size()) {
      const Rational factor = rest.back() / divisor.of_.back();
      const std::size_t shift = rest.size() - divisor.of_.size();
      for (std::size_t k = 0; k < divisor.of_.size(); ++k) rest[shift + k] -= factor * divisor.of_[k];
      rest.pop_back();
    }
    return Polynomial(std::move(rest));
  }
  static int changes(const std::vector<Polynomial>& chain, const Rational& x) {
    int count = 0, last = 0;
    for (const Polynomial& each : chain) {
      const int sign = each.at(x).sign();
      if (sign != 0 && last != 0 && sign != last) ++count;
      if (sign != 0) last = sign;
    }
    return count;
  }

  std::vector<Rational> of_;
};

} // namespace testing
