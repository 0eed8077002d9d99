// Counts the allocations of a test program: by the sanitizer's hooks where there is one, otherwise by standing before
// the C library's own functions, through which operator new and Eigen both go.
#include "support/allocations.hpp"
#include "support/sanitized.hpp"

#include <atomic>
#include <cstdlib>

#if defined(TANZEN_IS_SANITIZED)
// The sanitizer's own interface; g++ installs no header for it.
extern "C" {
int __sanitizer_install_malloc_and_free_hooks(void (*on_malloc)(const volatile void*, std::size_t),
                                              void (*on_free)(const volatile void*));
std::size_t __sanitizer_get_allocated_size(const volatile void* memory);
}
#else
#include <malloc.h>
extern "C" {
void* __libc_malloc(std::size_t size);
void* __libc_calloc(std::size_t count, std::size_t size);
void* __libc_realloc(void* memory, std::size_t size);
void __libc_free(void* memory);
}
#endif

namespace {

std::atomic<bool> is_watched;
std::atomic<std::int64_t> allocated, bytes, most;

void note(std::size_t size) {
  ++allocated;
  const std::int64_t now = bytes += static_cast<std::int64_t>(size);
  if (now > most) most = now;
}

void forget(std::size_t size) {
  bytes -= static_cast<std::int64_t>(size);
}

/// Whether a block is to be counted, asked before its size: most of a test program's blocks are not.
bool counts(const volatile void* memory) {
  return is_watched.load(std::memory_order_relaxed) && memory != nullptr;
}

#if defined(TANZEN_IS_SANITIZED)
const int installed = __sanitizer_install_malloc_and_free_hooks(
    [](const volatile void* memory, std::size_t size) {
      if (counts(memory)) note(size);
    },
    [](const volatile void* memory) {
      if (counts(memory)) forget(__sanitizer_get_allocated_size(memory));
    });
#endif

} // namespace

#if !defined(TANZEN_IS_SANITIZED)
extern "C" {

void* malloc(std::size_t size) {
  void* const memory = __libc_malloc(size);
  if (counts(memory)) note(malloc_usable_size(memory));
  return memory;
}

void* calloc(std::size_t count, std::size_t size) {
  void* const memory = __libc_calloc(count, size);
  if (counts(memory)) note(malloc_usable_size(memory));
  return memory;
}

void* realloc(void* memory, std::size_t size) {
  if (counts(memory)) forget(malloc_usable_size(memory));
  void* const moved = __libc_realloc(memory, size);
  if (counts(moved)) note(malloc_usable_size(moved));
  return moved;
}

void free(void* memory) {
  if (counts(memory)) forget(malloc_usable_size(memory));
  __libc_free(memory);
}

} // extern "C"
#endif

namespace testing {

AllocationWatch::AllocationWatch() {
  allocated = bytes = most = 0;
  is_watched = true;
}

AllocationWatch::~AllocationWatch() {
  is_watched = false;
}

std::int64_t AllocationWatch::allocations() const {
  return allocated;
}

std::int64_t AllocationWatch::live_bytes() const {
  return bytes;
}

std::int64_t AllocationWatch::peak_bytes() const {
  return most;
}

} // namespace testing
