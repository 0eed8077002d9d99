#pragma once

#include <cstddef>
#include <stdexcept>
#include <string>
#include <string_view>

namespace tanzen {

/// Bad input from a user: a formula, an option, a setting, a file's content. The message says what is
/// wrong, where, and what would be right. The program turns it into exit code 2.
class InputError : public std::runtime_error {
 public:
  using std::runtime_error::runtime_error;
};

/// A problem that cannot be what its definition says: a start of the wrong length, a lower bound above
/// its upper one, a value that is not a number. Exit code 2 as well.
class ProblemError : public InputError {
 public:
  using InputError::InputError;
};

/// A file or a program outside that could not be read, written or run. Exit code 3.
class FileError : public std::runtime_error {
 public:
  using std::runtime_error::runtime_error;
};

/// An error at one character of a text: the message, the line of the text and a caret under the place.
/// `offset` counts bytes from the start of `text`; columns shown count characters, from one.
class TextError : public InputError {
 public:
  TextError(std::string_view what, std::string_view text, std::size_t offset);

  /// Byte offset of the place in the text.
  [[nodiscard]] std::size_t offset() const { return offset_; }

 private:
  std::size_t offset_;
};

} // namespace tanzen
