#include "tanzen/external/descriptor.hpp"

#include <unistd.h>
#include <utility>

namespace tanzen {

int Descriptor::release() {
  return std::exchange(number_, -1);
}

void Descriptor::reset(int number) {
  if (number_ >= 0) close(number_);
  number_ = number;
}

} // namespace tanzen
