// The runs of a plan over several machines: `mpirun -n 8 tanzen-mpi plan.toml`. The first process hands out runs and is
// the only one that writes; each other one does runs with its own threads. Alone, it does them itself.
#include "tanzen/base/errors.hpp"
#include "tanzen/files/named_problem.hpp"
#include "tanzen/files/plan_file.hpp"
#include "tanzen/results/record_bytes.hpp"
#include "tanzen/results/results_file.hpp"
#include "tanzen/study/work.hpp"
#include "tanzen/version.hpp"

#include "arguments.hpp"
#include "command.hpp"

#include <csignal>
#include <cstdint>
#include <fmt/format.h>
#include <mpi.h>

using namespace tanzen;

namespace {

/// What messages say. A process asks and is told the place of a run, or that there is none; it sends records; it says
/// good-bye when its threads have ended.
enum Tag : int { ask = 1, place_of_run = 2, record_of_run = 3, good_bye = 4 };
constexpr std::int64_t no_more = -1;

constexpr int input_was_wrong = 2, something_failed = 3;

volatile std::sig_atomic_t asked_to_stop = 0;

/// MPI from its start to its end; threads of a process take turns with it.
class Processes {
 public:
  Processes(int argc, char** argv) {
    int provided = 0;
    MPI_Init_thread(&argc, &argv, MPI_THREAD_SERIALIZED, &provided);
    MPI_Comm_rank(MPI_COMM_WORLD, &rank_);
    MPI_Comm_size(MPI_COMM_WORLD, &size_);
    if (provided < MPI_THREAD_SERIALIZED)
      throw FileError("this MPI does not let several threads of a process take turns");
  }
  Processes(const Processes&) = delete;
  Processes& operator=(const Processes&) = delete;
  ~Processes() { MPI_Finalize(); }

  [[nodiscard]] int rank() const { return rank_; }
  [[nodiscard]] int size() const { return size_; }

  static void send(int to, Tag tag, std::string_view bytes = {}) {
    MPI_Send(bytes.data(), static_cast<int>(bytes.size()), MPI_BYTE, to, tag, MPI_COMM_WORLD);
  }
  static void send_place(int to, std::int64_t place) {
    MPI_Send(&place, 1, MPI_INT64_T, to, place_of_run, MPI_COMM_WORLD);
  }
  static std::int64_t receive_place() {
    std::int64_t place = no_more;
    MPI_Recv(&place, 1, MPI_INT64_T, 0, place_of_run, MPI_COMM_WORLD, MPI_STATUS_IGNORE);
    return place;
  }

  struct Message {
    int from = 0;
    Tag tag = ask;
    std::string bytes = {};
  };
  static Message receive() {
    MPI_Status status;
    MPI_Probe(MPI_ANY_SOURCE, MPI_ANY_TAG, MPI_COMM_WORLD, &status);
    int size = 0;
    MPI_Get_count(&status, MPI_BYTE, &size);
    Message message{status.MPI_SOURCE, static_cast<Tag>(status.MPI_TAG),
                    std::string(static_cast<std::size_t>(size), '\0')};
    MPI_Recv(message.bytes.data(), size, MPI_BYTE, message.from, message.tag, MPI_COMM_WORLD, MPI_STATUS_IGNORE);
    return message;
  }

 private:
  int rank_ = 0, size_ = 1;
};

/// Answers the other processes until all have said good-bye. What goes wrong with the file is thrown then.
void hand_out(int others, ResultsFile& file, RunQueue& queue) {
  std::exception_ptr thrown;
  for (int working = others; working > 0;) {
    const Processes::Message message = Processes::receive();
    if (message.tag == good_bye) {
      --working;
    } else if (message.tag == ask) {
      const bool is_over = thrown || asked_to_stop != 0;
      const auto place = is_over ? std::nullopt : queue.next_place();
      Processes::send_place(message.from, place ? static_cast<std::int64_t>(*place) : no_more);
    } else {
      try {
        if (!thrown) file.add(record_from_bytes(message.bytes));
      } catch (...) {
        thrown = std::current_exception();
      }
    }
  }
  if (thrown) std::rethrow_exception(thrown);
}

RunExchange exchange_with_first(const Campaign& campaign) {
  return {.next = [&campaign]() -> std::optional<RunKey> {
            Processes::send(0, ask);
            const std::int64_t place = Processes::receive_place();
            if (place == no_more) return std::nullopt;
            return campaign.key(static_cast<std::size_t>(place));
          },
          .keep = [](const RunRecord& record) { Processes::send(0, record_of_run, record_to_bytes(record)); }};
}

struct Options {
  std::string plan, output;
  std::optional<std::int64_t> workers = {}; ///< 1 where it is not told

  [[nodiscard]] std::size_t threads() const { return static_cast<std::size_t>(workers.value_or(1)); }
};

void run_first(const Processes& processes, const Campaign& campaign, const Options& options) {
  std::optional<ResultsFile> file;
  try {
    file = ResultsFile::for_campaign(options.output, campaign);
  } catch (...) {
    // The others wait for an answer: there is nothing to do for them.
    for (int working = processes.size() - 1; working > 0;) {
      const Processes::Message message = Processes::receive();
      if (message.tag == ask) Processes::send_place(message.from, no_more);
      if (message.tag == good_bye) --working;
    }
    throw;
  }
  RunQueue queue(campaign, missing_runs(campaign, file->done()));
  if (processes.size() == 1) {
    (void)work_on(campaign, options.threads(),
                  {[&] { return queue.next(); }, [&](const RunRecord& record) { file->add(record); }},
                  [] { return asked_to_stop != 0; });
  } else {
    hand_out(processes.size() - 1, *file, queue);
  }
  fmt::print("  {} of {} runs are in {}\n", file->done().size(), campaign.size(), options.output);
}

int run(int argc, char** argv, const Processes& processes) {
  Options options;
  cli::Program program("tanzen-mpi",
                       "The runs of a plan over several processes and machines: mpirun -n 8 tanzen-mpi plan.toml",
                       version);
  program.needs("plan", options.plan, "PLAN", "the plan (TOML)");
  program.takes("--output", options.output, "FILE", "the results file (beside the plan, by its name)");
  cli::add_threads(program, "--workers", options.workers, "runs at once in each process (1)");
  const cli::Program::Answer answer = program.parse(argc, argv);
  const bool is_wrong = !answer.complaint.empty();
  if (is_wrong || !answer.help.empty()) { // all of the processes would say the same
    if (processes.rank() == 0 && is_wrong) fmt::print(stderr, "{}\nSee '{}'.\n", answer.complaint, answer.see);
    if (processes.rank() == 0) fmt::print("{}", answer.help);
    return is_wrong ? input_was_wrong : 0;
  }
  if (options.output.empty()) options.output = std::filesystem::path(options.plan).replace_extension("results.sqlite");
  const auto folder = std::filesystem::path(options.plan).parent_path();
  const Campaign campaign(read_plan(options.plan),
                          {.problem = [folder](const std::string& name) { return named_problem(name, folder); }});
  if (processes.rank() == 0) {
    run_first(processes, campaign, options);
    return asked_to_stop != 0 ? 130 : 0;
  }
  (void)work_on(campaign, options.threads(), exchange_with_first(campaign));
  Processes::send(0, good_bye);
  return 0;
}

} // namespace

int main(int argc, char** argv) {
  for (const int signal : {SIGINT, SIGTERM}) std::signal(signal, [](int) { asked_to_stop = 1; });
  const Processes processes(argc, argv);
  const auto complain = [&](const char* message) {
    if (processes.rank() == 0) fmt::print(stderr, "tanzen-mpi: {}\n", message); // all of them would say the same
  };
  try {
    return run(argc, argv, processes);
  } catch (const InputError& error) {
    complain(error.what());
    return input_was_wrong;
  } catch (const std::exception& error) {
    complain(error.what());
    return something_failed;
  }
}
