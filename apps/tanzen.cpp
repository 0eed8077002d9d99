#include "tanzen/cli/command_line.hpp"

int main(int argc, char** argv) {
  return tanzen::run_command_line(argc, argv);
}
