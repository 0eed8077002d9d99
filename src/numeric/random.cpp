#include "tanzen/numeric/random.hpp"

#include <boost/random/normal_distribution.hpp>
#include <cassert>
#include <cmath>
#include <numbers>
#include <Random123/threefry.h>

namespace tanzen {
namespace {

using Block = std::array<std::uint64_t, 4>;

Block encrypted(const Block& counter, const Block& key) {
  const r123::Threefry4x64::ctr_type c{{counter[0], counter[1], counter[2], counter[3]}};
  const r123::Threefry4x64::key_type k{{key[0], key[1], key[2], key[3]}};
  const auto mixed = r123::Threefry4x64{}(c, k);
  return {mixed[0], mixed[1], mixed[2], mixed[3]};
}

// Tags that keep words, numbers and the numbers drawn apart from each other.
constexpr std::uint64_t word_tag = 1, number_tag = 2;

} // namespace

RandomStream::RandomStream(std::uint64_t seed, std::initializer_list<Purpose> purposes) : key_{seed, 0, 0, 0} {
  absorb(purposes);
}

RandomStream RandomStream::child(std::initializer_list<Purpose> purposes) const {
  RandomStream part(0);
  part.key_ = key_;
  part.absorb(purposes);
  return part;
}

void RandomStream::absorb_block(const Block& block) {
  key_ = encrypted(block, key_);
}

void RandomStream::absorb(std::initializer_list<Purpose> purposes) {
  for (const Purpose& purpose : purposes) {
    if (const auto* number = std::get_if<std::uint64_t>(&purpose.content())) {
      absorb_block({*number, 0, 0, number_tag});
      continue;
    }
    const auto word = std::get<std::string_view>(purpose.content());
    absorb_block({word.size(), 0, 0, word_tag});
    for (std::size_t start = 0; start < word.size(); start += 16) {
      Block block{0, 0, 0, word_tag};
      const std::string_view piece = word.substr(start, 16);
      for (std::size_t i = 0; i < piece.size(); ++i) {
        block[i / 8] |= std::uint64_t{static_cast<unsigned char>(piece[i])} << (8 * (i % 8));
      }
      absorb_block(block);
    }
  }
}

RandomStream::result_type RandomStream::operator()() {
  if (used_ == 4) {
    block_ = encrypted({counter_++, 0, 0, 0}, key_);
    used_ = 0;
  }
  return block_[used_++];
}

double RandomStream::uniform() {
  return static_cast<double>((*this)() >> 11) * 0x1.0p-53;
}

double RandomStream::normal() {
  return boost::random::normal_distribution<double>{}(*this);
}

double RandomStream::cauchy() {
  return std::tan(std::numbers::pi * (uniform() - 0.5));
}

Index RandomStream::below(Index count) {
  assert(count > 0);
  const auto n = static_cast<std::uint64_t>(count);
  const std::uint64_t biased = (0 - n) % n; // 2^64 mod n values at the low end would make a bias
  for (;;) {
    const std::uint64_t drawn = (*this)();
    if (drawn >= biased) return static_cast<Index>(drawn % n);
  }
}

double RandomStream::gamma(double shape) {
  // A shape below 1 is lifted by one (as in the paper).
  if (shape < 1) return gamma(shape + 1) * std::pow(1 - uniform(), 1 / shape);
  const double d = shape - 1.0 / 3, c = 1 / std::sqrt(9 * d);
  for (;;) {
    const double x = normal(), v = std::pow(1 + c * x, 3);
    if (v > 0 && std::log(1 - uniform()) < 0.5 * x * x + d - d * v + d * std::log(v)) return d * v;
  }
}

void RandomStream::fill_normal(Eigen::Ref<Vector> values) {
  for (double& value : values) value = normal();
}

} // namespace tanzen
