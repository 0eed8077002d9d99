#include "tanzen/cli/command_line.hpp"

#include "tanzen/files/write_file.hpp"
#include "tanzen/search/evaluator.hpp"

#include "support/program.hpp"

#include <doctest/doctest.h>
#include <nlohmann/json.hpp>

#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <fmt/format.h>
#include <stdexcept>

using namespace tanzen;
using testing::contains;

namespace {

struct Answer {
  int code;
  std::string out, err;
};

/// A stream of C that writes into memory.
class MemoryStream {
 public:
  MemoryStream() : stream_(open_memstream(&text_, &size_)) {}
  MemoryStream(const MemoryStream&) = delete;
  MemoryStream& operator=(const MemoryStream&) = delete;
  ~MemoryStream() {
    std::fclose(stream_);
    std::free(text_);
  }
  [[nodiscard]] std::FILE* get() const { return stream_; }
  [[nodiscard]] std::string text() const {
    std::fflush(stream_);
    return {text_, size_};
  }

 private:
  char* text_ = nullptr;
  std::size_t size_ = 0;
  std::FILE* stream_;
};

/// Walks down by a part of the gradient.
struct Stroll {
  double stride = 0.2;

  static MethodCard card() {
    return {.title = "a stroll down the slope",
            .family = "pottery",
            .source = "",
            .limits = "points are projected onto them",
            .summary = "For tests.",
            .needs = Derivatives::gradient,
            .able = {.bounds = true}};
  }
  void settings(Settings& list) { list.add("stride", stride).positive().means("part of the gradient that is walked"); }
  Search search(Evaluator& evaluate, Start start) const {
    Vector x = start.point;
    for (;;) {
      x -= stride * evaluate.gradient(x);
      evaluate.bounds().project(x);
      co_yield Iteration(x, evaluate(x)).gradient_norm(evaluate.gradient(x).norm()).column("stride", stride);
    }
  }
};

Additions pottery() {
  Additions additions;
  additions.methods.add("stroll", Stroll{});
  additions.problems.push_back(Problem::from_formula("(clay - 2)^2 + 3*(water - 1)^2")
                                   .named("body")
                                   .titled("a clay body and its water")
                                   .region({0, 0}, {4, 4})
                                   .known_minimum({2, 1}, 0));
  additions.problems.push_back(Problem::black_box(1,
                                                  [](const Vector& x) -> double {
                                                    if (x[0] > 0.5) throw std::runtime_error("the kiln's door is open");
                                                    return x[0] * x[0];
                                                  })
                                   .named("door")
                                   .region(-1, 1));
  return additions;
}

Answer command(std::vector<const char*> words, const Additions& additions = pottery()) {
  words.insert(words.begin(), "pottery");
  const MemoryStream out, err;
  const int code = run_command_line(static_cast<int>(words.size()), words.data(), additions, {out.get(), err.get()});
  return {code, out.text(), err.text()};
}

} // namespace

TEST_SUITE("a program of one's own") {
  TEST_CASE("its method is listed with the others and has a card with its settings") {
    const Answer list = command({"methods"});
    CHECK(list.code == 0);
    CHECK(contains(list.out, "stroll"));
    CHECK(contains(list.out, "nelder-mead"));
    const Answer card = command({"methods", "stroll"});
    CHECK(contains(card.out, "a stroll down the slope"));
    CHECK(contains(card.out, "stride"));
    CHECK(contains(card.out, "part of the gradient that is walked"));
    CHECK(card.err.empty());
  }

  TEST_CASE("its problem is listed, looked at, and written as a file that reads back") {
    CHECK(contains(command({"problems"}).out, "a clay body and its water"));
    // A filter takes it or leaves it, whoever reads the list.
    CHECK_FALSE(contains(command({"problems", "--dimension", "3"}).out, "clay body"));
    CHECK_FALSE(contains(command({"problems", "--like", "rosen", "--json"}).out, "clay body"));
    CHECK(contains(command({"problems", "--like", "bod", "--json"}).out, "clay body"));
    const Answer looked = command({"problems", "body", "--at", "clay=3,water=1"});
    CHECK(looked.code == 0);
    CHECK(contains(looked.out, "(2, 0)")); // the gradient there
    const testing::TemporaryFolder folder;
    const std::string file = (folder / "body.toml").string();
    CHECK(command({"problems", "body", "--write", file.c_str()}).code == 0);
    const Answer solved = command({"solve", file.c_str(), "--with", "stroll", "--json", "--from", "0,0"});
    CHECK(solved.code == 0);
    const auto outcome = nlohmann::json::parse(solved.out);
    CHECK(outcome["problem"] == "body");
    CHECK(outcome["status"] == "gradient");
    CHECK(outcome["point"][0].get<double>() == doctest::Approx(2));
  }

  TEST_CASE("a run of both is a run like any other, with limits, settings and hints") {
    const Answer run = command({"solve", "body", "--with", "stroll:stride=0.1", "--from", "0,0", "--iterations", "3"});
    CHECK(run.code == 1); // three iterations are no convergence
    CHECK(contains(run.out, "stride"));
    CHECK(contains(run.out, "3 iterations"));
    // The part of the clay that is left shrinks by 1 - 0.1 * 2 in each iteration: (2 * 0.8^3)^2 at the end, and the
    // water by 1 - 0.1 * 6.
    const auto outcome = nlohmann::json::parse(
        command({"solve", "body", "--with", "stroll:stride=0.1", "--from", "0,0", "--iterations", "3", "--json"}).out);
    CHECK(outcome["value"].get<double>() ==
          doctest::Approx(std::pow(2 * 0.512, 2) + 3 * std::pow(0.064, 2)).epsilon(1e-12));
    const Answer flung = command({"solve", "body", "--with", "stroll:stride=1", "--from", "0,0"});
    CHECK(flung.code == 1);
    CHECK(contains(flung.out, "hint"));
    const Answer wrong = command({"solve", "body", "--with", "stroll:stride=0"});
    CHECK(wrong.code == 2);
    CHECK(contains(wrong.err, "must be a number above 0"));
    CHECK(wrong.out.empty());
  }

  TEST_CASE("misspelt names find those that were added") {
    CHECK(contains(command({"solve", "boby", "--with", "stroll"}).err, "did you mean 'body'?"));
    CHECK(contains(command({"solve", "body", "--with", "strol"}).err, "did you mean 'stroll'?"));
    CHECK(contains(command({"solve", "body", "--with", "stroll:strid=1"}).err, "did you mean 'stride'?"));
  }

  TEST_CASE("sweeps, comparisons and campaigns know both") {
    const Answer swept = command({"sweep", "body", "--with", "stroll", "--vary", "stride=0.1,0.4", "--from", "0,0"});
    CHECK(contains(swept.out, "0.4"));
    CHECK(contains(swept.out, "diverged")); // 1 - 0.4 * 6 is below -1
    const Answer compared = command(
        {"compare", "body", "--with", "stroll", "--with", "nelder-mead", "--repeats", "5", "--evaluations", "500"});
    CHECK(compared.code == 0);
    CHECK(compared.err.empty());
    CHECK(contains(compared.out, "stroll"));
    CHECK(contains(compared.out, "5/5"));

    const testing::TemporaryFolder folder;
    write_file(folder / "plan.toml",
               "repeats = 2\nproblems = [\"body\"]\n[methods]\nstroll = {}\nslow = { use = \"stroll\", "
               "stride = 0.01 }\n[stop]\nevaluations = 100\n");
    const std::string plan = (folder / "plan.toml").string(), results = (folder / "r.sqlite").string();
    const Answer campaign =
        command({"campaign", plan.c_str(), "--output", results.c_str(), "--quiet", "--workers", "1"});
    CAPTURE(campaign.err);
    CHECK(campaign.code == 0);
    const Answer read = command({"compare", results.c_str()});
    CHECK(contains(read.out, "slow"));
    CHECK(contains(read.out, "body"));
  }

  TEST_CASE("its method can be examined like ours") {
    const Answer examined = command({"check", "method", "stroll"});
    CHECK(contains(examined.out, "keeps within bounds"));
    CHECK(contains(examined.out, "repeats bit for bit by its seed"));
  }

  TEST_CASE("an objective that throws is an outcome, with its own words, and no crash") {
    const Answer thrown = command({"solve", "door", "--with", "nelder-mead", "--from", "0.4"});
    CHECK(thrown.code == 3);
    CHECK(contains(thrown.out + thrown.err, "the kiln's door is open"));
    const Answer compared = command({"compare", "door", "--with", "nelder-mead", "--repeats", "3"});
    CHECK(testing::says(compared.out + compared.err, "the kiln's door is open"));
  }

  TEST_CASE("a problem of its own with a name that only it could have") {
    Additions additions = pottery();
    additions.problems.push_back(additions.problems[0].named("body, thrown by hand (2 kg)"));
    const Answer solved = command({"solve", "body, thrown by hand (2 kg)", "--with", "stroll", "--quiet"}, additions);
    CAPTURE(solved.err);
    CHECK(solved.code == 0);
  }

  TEST_CASE("what a person reads and what a machine reads do not mix") {
    for (const std::vector<const char*>& words :
         {std::vector<const char*>{"solve", "body", "--with", "stroll", "--json"},
          {"compare", "body", "--with", "stroll", "--repeats", "2", "--json"},
          {"sweep", "body", "--with", "stroll", "--vary", "stride=0.1,0.2", "--json"},
          {"methods", "stroll", "--json"},
          {"problems", "body", "--json"}}) {
      CAPTURE(words[0]);
      const Answer answer = command(words);
      CHECK(answer.err.empty());
      std::size_t begin = 0;
      while (begin < answer.out.size()) { // an object a line, or one over all lines
        if (nlohmann::json::accept(answer.out.substr(begin))) break;
        const std::size_t end = answer.out.find('\n', begin);
        REQUIRE(end != std::string::npos);
        CHECK(nlohmann::json::accept(answer.out.substr(begin, end - begin)));
        begin = end + 1;
      }
    }
  }

  TEST_CASE("no command, a strange one and help end with their codes and streams") {
    CHECK(command({}).code == 2);
    CHECK(contains(command({}).err, "pottery needs a command: one of problems, methods, solve"));
    CHECK(command({"fire"}).code == 2);
    CHECK(command({"fire"}).out.empty());
    const Answer help = command({"--help"});
    CHECK(help.code == 0);
    CHECK(help.err.empty());
    CHECK(contains(help.out, "solve"));
  }

  TEST_CASE("it calls itself by its name, in messages, help, manual and completions") {
    const Answer wrong = command({"slove", "body"});
    CHECK(wrong.code == 2);
    CHECK(wrong.err == "pottery: pottery has no command 'slove'; did you mean 'solve'?\nSee 'pottery --help'.\n");
    CHECK(command({"solve", "nobody"}).err.starts_with("pottery: "));
    CHECK(contains(command({"solve", "--help"}).out, "Usage: pottery solve [PROBLEM] [OPTIONS]"));
    CHECK(contains(command({"help", "campaign", "merge"}).out, "Usage: pottery campaign merge FILE FILES ..."));
    CHECK(contains(command({"help", "--as", "manual"}).out, ".TH pottery 1"));
    CHECK(contains(command({"help", "--as", "bash"}).out, "complete -o filenames -F _pottery pottery"));
    CHECK(contains(command({"--version"}).out, "pottery "));
  }

  TEST_CASE("a command takes the same whether it alone is named or all are told of") {
    for (const char* name : {"problems", "methods", "solve", "sweep", "compare", "campaign", "figure", "fit", "front",
                             "sample", "stationary", "check", "report", "demo"}) {
      CAPTURE(name);
      const Answer alone = command({name, "--help"}), among_all = command({"help", name});
      CHECK(alone.code == 0);
      CHECK(contains(alone.out, fmt::format("Usage: pottery {}", name)));
      CHECK(alone.out == among_all.out);
      CHECK(contains(command({"--help"}).out, fmt::format("  {} ", name)));
    }
  }

  TEST_CASE("an option of its own problem is refused for what it is, and a method without --with is shown its place") {
    const Answer option = command({"solve", "body:dim=3"});
    CHECK(option.code == 2);
    CHECK(contains(option.err, "body is the program's own problem, which takes no options: leave ':dim=3' away"));
    CHECK(contains(command({"solve", "bodi"}).err, "did you mean 'body'?"));
    CHECK(contains(command({"solve", "body", "stroll"}).err, "a method is named by --with stroll"));
  }

  TEST_CASE("programs that its files ask for are made as it says") {
    const testing::TemporaryFolder folder;
    write_file(folder / "trial.toml", "[program]\ncommand = [\"no-such-program\"]\n[variables]\nx = { start = 2 }\n");
    const std::string file = (folder / "trial.toml").string();
    Additions own = pottery();
    std::string asked;
    own.make_program = [&](Index dimension, const PartCounts&, const ProgramDefinition& program) {
      asked = program.command.front();
      return make_opaque_function(dimension, [](const Vector& x) { return (x[0] - 1) * (x[0] - 1); });
    };
    const Answer solved = command({"solve", file.c_str(), "--quiet"}, own);
    CHECK(asked == "no-such-program");
    CHECK(contains(solved.out, "converged"));
    CHECK(solved.err.empty());
    const Answer usual = command({"solve", file.c_str(), "--quiet"});
    CHECK(usual.code == 3);
    CHECK(contains(usual.err, "no-such-program, started in"));
  }

  TEST_CASE("what is printed is what a terminal may show") {
    const Answer odd = command({"solve", "\x1b[31mred"});
    CHECK(odd.code == 2);
    CHECK(contains(odd.err, "\\u{1b}[31mred"));
    CHECK(odd.err.find('\x1b') == std::string::npos);
  }
}
