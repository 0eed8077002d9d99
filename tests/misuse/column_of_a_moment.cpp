// refused: call to consteval function|is not a constant expression|not usable in a constant expression
#include <tanzen/search/iteration.hpp>

#include <string>

void told(tanzen::Iteration& iteration, int k) {
#ifdef MISUSE
  const std::string name = "step " + std::to_string(k);
  iteration.column(name.c_str(), 1); // gone before the run reads it
#else
  iteration.column("step", k);
#endif
}

int main() {}
