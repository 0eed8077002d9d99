#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace CLI {
class App;
}

namespace tanzen::cli {

/// A command and what it is asked with. It is the one door to the parser of arguments, whose weight no other file
/// carries; a handle, cheap to copy, that ends with its program. Targets must outlive the program; names beginning
/// with dashes are options, others stand in their order.
class Command {
 public:
  using Type = const char*; ///< what help calls the word: FILE, POINT

  /// A command under this one.
  [[nodiscard]] Command command(const std::string& name, const std::string& what) const;
  /// One of them must be given.
  void needs_command() const;
  /// Whether one of them was.
  [[nodiscard]] bool has_command() const;

  void takes(const std::string& name, std::string& target, Type type, const std::string& help) const;
  void takes(const std::string& name, std::optional<std::string>& target, Type type, const std::string& help) const;
  /// Several: an option once for each, words that stand alone up to the next option.
  void takes(const std::string& name, std::vector<std::string>& target, Type type, const std::string& help) const;
  /// The same where it cannot be left out.
  void needs(const std::string& name, std::string& target, Type type, const std::string& help) const;
  void needs(const std::string& name, std::vector<std::string>& target, Type type, const std::string& help) const;
  /// `read` gets the word; what it throws goes to the caller of `Program::parse`.
  void reads(const std::string& name, Type type, const std::string& help,
             std::function<void(const std::string&)> read) const;
  void flag(const std::string& name, bool& target, const std::string& help) const;
  /// Two flags of which only one makes sense.
  void flag_either(const std::string& name, bool& target, const std::string& help, const std::string& other,
                   bool& other_target, const std::string& other_help) const;

  /// The last line of its help: an example that works as it stands.
  void example(const std::string& text) const { last_line("Example: " + text); }
  void last_line(const std::string& text) const;
  /// What is done when it was named, after all of its words are read.
  void does(std::function<void()> action) const;

 protected:
  explicit Command(CLI::App& app) : app_(&app) {}
  CLI::App* app_;
};

/// The end of a message about a word that a command has no place for, given the command's options; or nothing.
using ExtraWord = std::function<std::string(const std::string& word, const std::vector<std::string>& options)>;

/// The program, which holds all its commands.
class Program : public Command {
 public:
  Program(const std::string& name, const std::string& what, const std::string& version);
  ~Program();

  /// What the words came to, other than an action done: a text that was asked for, or what is wrong with them.
  struct Answer {
    std::string help = {};
    std::string complaint = {};
    std::string see = {}; ///< which help tells more
  };

  void explains_extra_words(ExtraWord explain);

  /// What is told of the program, or of the command that the words name. Throws InputError for one that there is not.
  [[nodiscard]] std::string help(const std::vector<std::string>& words) const;
  /// The same of all commands, for `man`; and a script for bash that completes them.
  [[nodiscard]] std::string manual() const;
  [[nodiscard]] std::string completion() const;

  /// Reads the words and does what they name.
  Answer parse(int count, const char* const* words);

 private:
  Program(std::unique_ptr<CLI::App> app, std::string version);

  std::unique_ptr<CLI::App> own_;
  std::string version_;
  ExtraWord extra_word_;
};

} // namespace tanzen::cli
