// A results file with any of its bytes changed, or cut off, is read or refused with a message.
#include "real_results.hpp"

#include <tanzen/files/write_file.hpp>

#include <cstdint>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static const fuzzing::RealResults real;
  static const std::string original = tanzen::read_file(real.original);
  std::string content = original;
  // Three bytes a change: where, in units that reach all of the file, and what. The first says where it is cut off.
  for (std::size_t k = 0; k + 3 <= size; k += 3) {
    const std::size_t place = (std::size_t{data[k]} << 8U | data[k + 1]) * content.size() >> 16U;
    if (k == 0 && data[2] % 4 == 0 && place > 0)
      content.resize(place);
    else if (!content.empty())
      content[place] = static_cast<char>(data[k + 2]);
  }
  tanzen::write_file(real.changed, content);
  real.look_at_changed();
  return 0;
}
