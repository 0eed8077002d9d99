// refused: use of deleted function.*operator double|not known when traced: pow, not std::pow
#include <tanzen/problem/problem.hpp>

#include <cmath>

int main() {
  (void)tanzen::Problem::from_function(2, [](const auto& x) {
#ifdef MISUSE
    return std::pow(x[0], 2) + x[1]; // computes with numbers; these are not known yet
#else
    return pow(x[0], 2) + x[1];
#endif
  });
}
