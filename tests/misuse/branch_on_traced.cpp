// refused: deleted function.*explicit operator bool|use of deleted function
#include <tanzen/problem/problem.hpp>

int main() {
  (void)tanzen::Problem::from_function(1, [](const auto& x) {
#ifdef MISUSE
    if (x[0] < 0) return -x[0]; // the value is not known when the function is traced
#endif
    return choose(x[0] < 0, -x[0], x[0]);
  });
}
