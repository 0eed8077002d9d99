// A formula, a method, an answer on the screen.
#include <tanzen/tanzen.hpp>

#include <iostream>

int main() {
  const auto bowl = tanzen::Problem::from_formula("2*x^2 + 0.7*(y - 1)^2").named("a shallow bowl");
  const auto outcome = tanzen::run(bowl, tanzen::method("bfgs"), {.start = {2.5, -1}});
  std::cout << bowl << '\n' << outcome << '\n';
  return outcome.converged() && outcome.status == tanzen::Status::gradient ? 0 : 1;
}
