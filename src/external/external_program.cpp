#include "tanzen/external/external_program.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/readable.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/numeric/constants.hpp"

#include "child_process.hpp"

#include <cmath>
#include <condition_variable>
#include <fmt/format.h>
#include <memory>
#include <mutex>
#include <nlohmann/json.hpp>

namespace tanzen {
namespace {

using Json = nlohmann::ordered_json;
using external::ChildProcess;

/// One place for a copy of the program: the copy, once it has been started.
struct Place {
  std::unique_ptr<ChildProcess> copy;
  std::int64_t last_id = 0;
};

/// What an answer says, if it is to this request.
struct Answer {
  bool is_ours = false;
  Vector parts; ///< all of the bundle; NaN where it has no value
  std::string error;
};

/// One kind of part of an answer: how many numbers it must have, under which key.
struct AnswerPart {
  const char* key;
  Index size;
};

/// Reads `size` numbers from a key into the parts from `first` on; a message where they are not there.
std::string read_numbers(const Json& json, const AnswerPart& part, Vector& parts, Index first) {
  if (part.size == 0) return "";
  const Json list = json.contains(part.key) ? json[part.key] : Json();
  if (!list.is_array() || static_cast<Index>(list.size()) != part.size)
    return fmt::format("has no list of {} as its {}", counted(part.size, "number"), part.key);
  for (Index k = 0; k < part.size; ++k) {
    const Json& number = list[static_cast<std::size_t>(k)];
    if (!number.is_number() && !number.is_null()) return fmt::format("has a {} that is no number", part.key);
    parts[first + k] = number.is_null() ? not_known : number.get<double>();
  }
  return "";
}

/// Some languages write NaN and Infinity, words that JSON does not know: outside strings they become null.
std::string with_null_for_no_number(std::string_view line) {
  std::string text;
  bool in_string = false;
  for (std::size_t i = 0; i < line.size(); ++i) {
    in_string = in_string != (line[i] == '"' && (i == 0 || line[i - 1] != '\\'));
    std::size_t skipped = 0;
    for (const std::string_view word : {"NaN", "Infinity", "-Infinity"}) {
      if (!in_string && line.substr(i).starts_with(word)) skipped = word.size();
    }
    text += skipped > 0 ? std::string("null") : std::string(1, line[i]);
    if (skipped > 0) i += skipped - 1;
  }
  return text;
}

/// Whether brackets open at most so deep, in strings too: what reads JSON goes as deep as it does.
bool is_shallow(std::string_view line) {
  constexpr int deepest = 10;
  int depth = 0;
  for (const char c : line) {
    depth += c == '[' || c == '{' ? 1 : c == ']' || c == '}' ? -1 : 0;
    if (depth > deepest) return false;
  }
  return true;
}

/// The parts of an answer: one objective is its `value`, several are its `objectives`.
std::string read_parts(const Json& json, const PartCounts& counts, Vector& parts) {
  parts.resize(counts.all());
  if (counts.objectives == 1) {
    if (!json.contains("value") || !(json["value"].is_number() || json["value"].is_null()))
      return "has no number as its value";
    parts[0] = json["value"].is_null() ? not_known : json["value"].get<double>();
  } else if (auto wrong = read_numbers(json, {"objectives", counts.objectives}, parts, 0); !wrong.empty()) {
    return wrong;
  }
  auto wrong = read_numbers(json, {"constraints", counts.constraints}, parts, counts.objectives);
  if (!wrong.empty()) return wrong;
  return read_numbers(json, {"residuals", counts.residuals}, parts, counts.objectives + counts.constraints);
}

Answer parsed(const std::string& line, std::int64_t id, const PartCounts& counts) {
  Answer answer;
  if (!is_shallow(line)) {
    answer.is_ours = true;
    answer.error = "its answer is nested more than 10 deep";
    return answer;
  }
  const Json json = Json::parse(with_null_for_no_number(line), nullptr, false);
  if (!json.is_object() || !json.contains("id") || !json["id"].is_number_integer()) {
    answer.is_ours = true;
    answer.error =
        fmt::format("its answer '{}' is not {{\"id\": {}, \"value\": ...}}", readable_line(clipped(line, 60)), id);
    return answer;
  }
  answer.is_ours = json["id"].get<std::int64_t>() == id;
  if (json.contains("error") && !json["error"].is_null()) {
    const std::string said = json["error"].is_string() ? json["error"].get<std::string>() : json["error"].dump();
    answer.error = fmt::format("it says: {}", readable_line(clipped(said, 120)));
  } else if (const std::string wrong = read_parts(json, counts, answer.parts); !wrong.empty()) {
    answer.error = fmt::format("its answer '{}' {}", readable_line(clipped(line, 60)), wrong);
  }
  return answer;
}

/// What one run has lost of a program: its own, so that no run hangs on what others met before it.
struct Losses {
  Index count = 0;
  std::string last_end = {};
};

/// The copies of one program, shared by all threads that ask for values.
class Copies {
 public:
  Copies(ProgramDefinition program, const PartCounts& parts,
         std::function<void(const ProgramDefinition&)> at_first_start)
      : program_(std::move(program)), parts_(parts), at_first_start_(std::move(at_first_start)),
        places_(static_cast<std::size_t>(program_.copies)) {
    for (Place& place : places_) free_.push_back(&place);
  }

  [[nodiscard]] const PartCounts& parts() const { return parts_; }
  void ask(const Vector& x, const Waiting& waiting, Losses& losses, Vector& parts) {
    const Lease lease(*this);
    parts = ask(lease.place, x, waiting, losses);
  }

 private:
  /// A place while a thread uses it.
  struct Lease {
    explicit Lease(Copies& of) : copies(of), place(of.take()) {}
    Lease(const Lease&) = delete;
    Lease& operator=(const Lease&) = delete;
    ~Lease() { copies.give_back(place); }
    Copies& copies;
    Place& place;
  };

  Place& take() {
    std::unique_lock lock(mutex_);
    freed_.wait(lock, [this] { return !free_.empty(); });
    Place* place = free_.back();
    free_.pop_back();
    return *place;
  }
  void give_back(Place& place) {
    const std::scoped_lock lock(mutex_);
    free_.push_back(&place);
    freed_.notify_one();
  }

  void start(Place& place, const Losses& losses) {
    if (losses.count > program_.restarts)
      throw std::runtime_error(fmt::format("the program {} has been started {} times; the last end: {}",
                                           program_.command.front(), losses.count, losses.last_end));
    {
      const std::scoped_lock lock(mutex_);
      if (at_first_start_) std::exchange(at_first_start_, {})(program_);
    }
    place.copy = std::make_unique<ChildProcess>(program_.command, program_.folder);
  }

  [[noreturn]] void lose(Place& place, Losses& losses, const std::string& what) const {
    place.copy.reset();
    ++losses.count;
    losses.last_end = what;
    throw BrokenEvaluation(fmt::format("the program {}: {}", program_.command.front(), what));
  }

  /// The run is over while the program thinks: its copy is of no use to the next one, and no loss.
  [[noreturn]] static void give_up(Place& place, bool at_deadline) {
    place.copy.reset();
    throw WaitEnded{at_deadline};
  }

  Vector ask(Place& place, const Vector& x, const Waiting& waiting, Losses& losses) {
    if (!place.copy) start(place, losses);
    const std::int64_t id = ++place.last_id;
    const Json request = {{"id", id}, {"point", std::vector<double>(x.begin(), x.end())}};
    const auto timeout = ChildProcess::Clock::now() + std::chrono::duration_cast<ChildProcess::Clock::duration>(
                                                          std::chrono::duration<double>(program_.timeout));
    const bool has_less_time = waiting.deadline && *waiting.deadline < timeout;
    const ChildProcess::Wait wait{has_less_time ? *waiting.deadline : timeout, waiting.asked_to_stop};
    const bool is_sent = place.copy->write_line(request.dump(), wait);
    std::string line;
    for (;;) {
      const auto read = place.copy->read_line(line, wait);
      switch (read) {
      case ChildProcess::Read::ended: lose(place, losses, place.copy->last_words());
      case ChildProcess::Read::asked_to_stop: give_up(place, false);
      case ChildProcess::Read::timeout:
        if (has_less_time) give_up(place, true);
        lose(place, losses,
             fmt::format("{} within {} s", is_sent ? "no answer" : "it did not read its request",
                         number_text(program_.timeout)));
      case ChildProcess::Read::too_long: lose(place, losses, "it wrote a million bytes without the end of a line");
      case ChildProcess::Read::line: break;
      }
      Answer answer = parsed(line, id, parts_);
      if (!answer.is_ours) continue; // late, to an earlier request
      if (!answer.error.empty())
        throw BrokenEvaluation(fmt::format("the program {}: {}", program_.command.front(), answer.error));
      return std::move(answer.parts);
    }
  }

  ProgramDefinition program_;
  PartCounts parts_;
  std::function<void(const ProgramDefinition&)> at_first_start_;
  std::vector<Place> places_;
  std::mutex mutex_;
  std::condition_variable freed_;
  std::vector<Place*> free_;
};

class ExternalFunction final : public VectorFunction {
 public:
  ExternalFunction(Index dimension, const PartCounts& parts, const ProgramDefinition& program,
                   std::function<void(const ProgramDefinition&)> at_first_start)
      : dimension_(dimension), is_concurrent_(program.copies > 1),
        copies_(std::make_shared<Copies>(program, parts, std::move(at_first_start))) {}

  [[nodiscard]] Index dimension() const override { return dimension_; }
  [[nodiscard]] Index outputs() const override { return copies_->parts().all(); }
  [[nodiscard]] Derivatives derivatives() const override { return Derivatives::none; }
  [[nodiscard]] bool is_concurrent() const override { return is_concurrent_; }
  [[nodiscard]] std::unique_ptr<FunctionWorker> worker(const Waiting& waiting) const override {
    return std::make_unique<Worker>(copies_, waiting);
  }

 private:
  class Worker final : public FunctionWorker {
   public:
    Worker(std::shared_ptr<Copies> copies, Waiting waiting)
        : copies_(std::move(copies)), waiting_(std::move(waiting)) {}
    double value(const Vector& x) override {
      copies_->ask(x, waiting_, losses_, scratch_);
      return scratch_[0];
    }
    void outputs(const Vector& x, Vector& outputs) override { copies_->ask(x, waiting_, losses_, outputs); }

   private:
    std::shared_ptr<Copies> copies_;
    Waiting waiting_;
    Losses losses_;
  };

  Index dimension_;
  bool is_concurrent_;
  std::shared_ptr<Copies> copies_;
};

} // namespace

FunctionPointer make_external(Index dimension, const PartCounts& parts, const ProgramDefinition& program) {
  return make_external(dimension, parts, program, {});
}

FunctionPointer make_external(Index dimension, const PartCounts& parts, const ProgramDefinition& program,
                              std::function<void(const ProgramDefinition&)> at_first_start) {
  if (program.command.empty() || program.command.front().empty())
    throw InputError("the program has no command: command = [\"python3\", \"trial.py\"]");
  if (!(program.timeout > 0) || !(program.timeout <= 1e6))
    throw InputError(
        fmt::format("the timeout must be a number of seconds above 0; found {}", number_text(program.timeout)));
  if (program.copies < 1 || program.copies > 1000)
    throw InputError(fmt::format("the copies must be from 1 to 1000; found {}", program.copies));
  if (program.restarts < 0)
    throw InputError(fmt::format("the restarts must be at least 0; found {}", program.restarts));
  return std::make_shared<ExternalFunction>(dimension, parts, program, std::move(at_first_start));
}

std::vector<std::string> command_words(std::string_view text) {
  std::vector<std::string> words;
  char quote = 0;
  bool in_word = false;
  for (const char c : text) {
    if (quote != 0) {
      if (c == quote)
        quote = 0;
      else
        words.back() += c;
    } else if (c == '"' || c == '\'') {
      if (!in_word) words.emplace_back();
      in_word = true;
      quote = c;
    } else if (c == ' ' || c == '\t') {
      in_word = false;
    } else {
      if (!in_word) words.emplace_back();
      in_word = true;
      words.back() += c;
    }
  }
  if (quote != 0) throw InputError(fmt::format("the command '{}' has a quote without its end", clipped(text)));
  return words;
}

} // namespace tanzen
