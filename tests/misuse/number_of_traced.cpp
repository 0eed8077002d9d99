// refused: use of deleted function.*operator double|not known when traced
#include <tanzen/problem/problem.hpp>

int main() {
  (void)tanzen::Problem::from_function(1, [](const auto& x) {
#ifdef MISUSE
    const double known = x[0]; // there is no value when the function is traced
    return known * x[0];
#else
    return x[0] * x[0];
#endif
  });
}
