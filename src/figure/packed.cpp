#include "packed.hpp"

#include <boost/archive/iterators/base64_from_binary.hpp>
#include <boost/archive/iterators/transform_width.hpp>

namespace tanzen {

std::string base64(std::span<const unsigned char> bytes) {
  using namespace boost::archive::iterators;
  using Characters = base64_from_binary<transform_width<const unsigned char*, 6, 8>>;
  std::string text(Characters(bytes.data()), Characters(bytes.data() + bytes.size()));
  text.append((3 - bytes.size() % 3) % 3, '=');
  return text;
}

} // namespace tanzen
