#pragma once

namespace tanzen {

/// A file descriptor that is closed with its owner.
class Descriptor {
 public:
  explicit Descriptor(int number = -1) : number_(number) {}
  Descriptor(Descriptor&& other) noexcept : number_(other.release()) {}
  Descriptor& operator=(Descriptor&& other) noexcept {
    reset(other.release());
    return *this;
  }
  ~Descriptor() { reset(); }

  [[nodiscard]] int get() const { return number_; }
  [[nodiscard]] bool is_open() const { return number_ >= 0; }
  /// It is the caller's from now on.
  [[nodiscard]] int release();
  /// Closes it and takes another one.
  void reset(int number = -1);

 private:
  int number_;
};

} // namespace tanzen
