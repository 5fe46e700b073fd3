#include <bordado/base/files.hpp>
#include <bordado/base/text.hpp>
#include <bordado/base/working_folder.hpp>
#include <bordado/calculix.hpp>

#include "run.hpp"

#include <fmt/format.h>

#include <fcntl.h>
#include <sys/prctl.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>
#include <array>
#include <cctype>
#include <cerrno>
#include <chrono>
#include <csignal>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <numeric>
#include <sstream>
#include <thread>

namespace bordado::calculix {

namespace fs = std::filesystem;

namespace {

/// How an answer of CalculiX begins, and whether a run without it is one.
struct Kind {
  std::string_view ending, begins;
  bool kept;  ///< beside the deck
};
constexpr Kind kinds[] = {
    {".log", "** written by Bordado", true},
    {".dat", "S T E P", true},
    {".frd", "1C", true},
    {".sta", "SUMMARY OF", true},
    {".cvg", "SUMMARY OF", true},
    {".12d", "", false},
    {".cel", "", false},
    {".nam", "", false},
};

/// Whether a file of that name is an answer of an earlier run, or is not there.
bool is_answer(const fs::path& path, std::string_view begins) {
  std::error_code none;
  if (!fs::exists(fs::symlink_status(path, none))) return true;
  if (!fs::is_regular_file(path, none)) return false;
  if (fs::file_size(path, none) == 0) return true;
  const int descriptor = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
  if (descriptor < 0) return false;
  char bytes[1024];
  const ssize_t got = ::read(descriptor, bytes, sizeof bytes);
  ::close(descriptor);
  std::string_view head(bytes, static_cast<std::size_t>(std::max<ssize_t>(got, 0)));
  head.remove_prefix(std::min(head.find_first_not_of(" \r\n"), head.size()));
  // The listing may begin with its first block where a step has no headline.
  return head.starts_with(begins) || (begins == "S T E P" && (head.starts_with("displacements (vx") ||
                                                              head.starts_with("E I G E N V A L U E   O U T P U T")));
}

/// Hundredths of a second that the processes of a group have worked; nothing where the system does not tell.
std::optional<double> work_of(pid_t group) {
  std::error_code trouble;
  double ticks = 0.0;
  bool any = false;
  for (fs::directory_iterator entry("/proc", trouble), end; !trouble && entry != end; entry.increment(trouble)) {
    if (std::isdigit(static_cast<unsigned char>(entry->path().filename().native().front())) == 0) continue;
    std::ifstream in(entry->path() / "stat");
    std::string text;
    std::getline(in, text);
    const std::size_t name_end = text.rfind(')');  // the name may hold anything
    if (name_end == std::string::npos) continue;
    std::istringstream words(text.substr(name_end + 1));
    std::string state, passed;
    long parent = 0, of_group = 0;
    if (!(words >> state >> parent >> of_group) || of_group != group) continue;
    for (int k = 0; k < 8; ++k) words >> passed;
    std::array<double, 4> times{};  // its own and of those it waited for
    for (double& time : times) words >> time;
    ticks += std::accumulate(times.begin(), times.end(), 0.0);
    any = true;
  }
  return any ? std::optional(ticks) : std::nullopt;
}

std::size_t size_of(const fs::path& file) {
  std::error_code none;
  const auto size = fs::file_size(file, none);
  return none ? 0 : static_cast<std::size_t>(size);
}

std::size_t size_of_all(const fs::path& folder) {
  std::size_t out = 0;
  std::error_code trouble;
  for (fs::directory_iterator entry(folder, trouble), end; !trouble && entry != end; entry.increment(trouble))
    if (entry->is_regular_file(trouble)) out += size_of(entry->path());
  return out;
}

std::string megabytes(std::size_t bytes) { return fmt::format("{:.4g} MB", static_cast<double>(bytes) / 1e6); }

/// Why a program that runs should be stopped: without this it would fill the disk, or never end.
class Watch {
 public:
  Watch(pid_t group, const fs::path& folder, const RunOptions& options)
      : group_(group), folder_(folder), options_(options) {}

  std::optional<std::string> why_stop() {
    if (const std::size_t log = size_of(folder_ / "job.log"); log > options_.most_log)
      return fmt::format("it had printed {}, and {} are the most", megabytes(log), megabytes(options_.most_log));
    const std::size_t all = size_of_all(folder_);
    if (all > options_.most_answers)
      return fmt::format("it had written {}, and {} are the most for this deck", megabytes(all),
                         megabytes(options_.most_answers));
    const auto now = std::chrono::steady_clock::now();
    if (std::chrono::duration<double>(now - looked_).count() < 0.1 * options_.longest_idle) return std::nullopt;
    looked_ = now;
    const std::optional<double> work = work_of(group_);
    if (!work || *work != work_ || all != all_) active_ = now;
    work_ = work.value_or(0.0);
    all_ = all;
    if (std::chrono::duration<double>(now - active_).count() < options_.longest_idle) return std::nullopt;
    return fmt::format("it had neither worked nor written anything for {:.4g} s", options_.longest_idle);
  }

 private:
  const pid_t group_;
  const fs::path& folder_;
  const RunOptions& options_;
  std::chrono::steady_clock::time_point looked_ = std::chrono::steady_clock::now(), active_ = looked_;
  double work_ = -1.0;
  std::size_t all_ = 0;
};

struct Ended {
  int status = 0;                           ///< or the negative error number where it did not begin
  std::optional<std::string> stopped = {};  ///< why it was
};

/// Runs a program in a folder with its output in the file job.log there, and looks after it until it ends.
Ended run_program(const std::string& program, const fs::path& folder, const RunOptions& options) {
  const std::string log = (folder / "job.log").string();
  int report[2];
  if (::pipe2(report, O_CLOEXEC) != 0) return {-errno};
  const pid_t parent = ::getpid();
  int number = 0;
  const EndsWithUs process([&] {
    const pid_t begun = ::fork();
    if (begun < 0) number = errno;
    if (begun > 0) ::setpgid(begun, begun);  // as the child does: whichever comes first
    if (begun != 0) return begun;
    ::setpgid(0, 0);
    ::prctl(PR_SET_PDEATHSIG, SIGKILL);
    if (::getppid() != parent) ::_exit(127);
    for (const int signal : {SIGINT, SIGTERM, SIGHUP, SIGPIPE, SIGQUIT}) ::signal(signal, SIG_DFL);
    sigset_t none;
    sigemptyset(&none);
    ::sigprocmask(SIG_SETMASK, &none, nullptr);
    const int out = ::open(log.c_str(), O_WRONLY | O_APPEND | O_CLOEXEC);
    const int in = ::open("/dev/null", O_RDONLY | O_CLOEXEC);
    if (out >= 0 && in >= 0 && ::chdir(folder.c_str()) == 0 && ::dup2(in, 0) == 0 && ::dup2(out, 1) == 1 &&
        ::dup2(out, 2) == 2)
      ::execlp(program.c_str(), program.c_str(), "-i", "job", static_cast<char*>(nullptr));
    number = errno;
    [[maybe_unused]] const ssize_t told = ::write(report[1], &number, sizeof number);
    ::_exit(127);
  });
  const pid_t child = process.leader();
  if (child < 0) {
    ::close(report[0]);
    ::close(report[1]);
    return {-number};
  }
  ::close(report[1]);
  const bool failed = ::read(report[0], &number, sizeof number) == sizeof number;
  ::close(report[0]);
  int status = 0;
  Ended out;
  Watch watch(child, folder, options);
  for (auto nap = std::chrono::microseconds(500);;) {
    const pid_t ended = ::waitpid(child, &status, out.stopped ? 0 : WNOHANG);
    if (ended == child || (ended < 0 && errno != EINTR)) break;
    if (out.stopped) continue;
    std::this_thread::sleep_for(nap);
    nap = std::min(2 * nap, std::chrono::microseconds(20'000));
    if (auto why = watch.why_stop()) {
      out.stopped = std::move(why);
      ::kill(-child, SIGKILL);
    }
  }
  ::kill(-child, SIGKILL);  // what it began and left running
  wait_if_ending();
  out.status = failed ? -number : WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
  return out;
}

/// Of a log without end what can be read.
void shorten(const fs::path& log) {
  constexpr std::size_t most = 1'000'000;
  std::error_code none;
  if (size_of(log) <= most) return;
  fs::resize_file(log, most, none);
  std::ofstream(log, std::ios::app) << "\n** cut here by Bordado\n";
}

fs::path parent_of(const fs::path& deck) { return deck.parent_path().empty() ? fs::path(".") : deck.parent_path(); }

std::string beside(const fs::path& deck, std::string_view ending) {
  return (parent_of(deck) / deck.stem()).string() + std::string(ending);
}

}  // namespace

RunFolder::RunFolder(const std::string& deck_path)
    : folder_(parent_of(deck_path).string(), fs::path(deck_path).stem().string()) {}

SolverRun run(const std::string& deck_path, const RunOptions& options) {
  return run_in(RunFolder(deck_path), deck_path, options);
}

void check_answers_replaceable(const std::string& deck_path, MayReplace may) {
  for (const Kind& kind : kinds) {
    if (!kind.kept) continue;
    const std::string path = beside(deck_path, kind.ending);
    if (is_answer(path, kind.begins)) continue;
    std::error_code none;
    if (may == MayReplace::the_one_named && fs::is_regular_file(path, none)) {
      check_replaceable(path, may);
      continue;
    }
    throw Failure({Severity::error, "file.not-ours",
                   fmt::format("'{}' would be overwritten, and it is no answer of this solver", path), Place::in(path),
                   "move it away, name another folder, or say --replace; nothing was changed"});
  }
}

SolverRun run_in(const RunFolder& work, const std::string& deck_path, const RunOptions& options) {
  check_answers_replaceable(deck_path, options.may_replace);
  const fs::path folder(work.path());
  // A link under a plain name: the solver takes no blanks and no long names.
  std::error_code error;
  fs::create_symlink(fs::absolute(deck_path), folder / "job.inp", error);
  if (error) throw Failure({Severity::error, "file.not-writable", error.message(), Place::in(work.path()), {}});
  const std::string program =
      options.solver.find('/') == std::string::npos ? options.solver : fs::absolute(options.solver).string();
  {
    OutputFile file((folder / "job.log").string());
    file.write(fmt::format("** written by Bordado: what {} printed of {}\n", plain_text(options.solver),
                           plain_text(deck_path)));
    file.commit();
  }
  const Ended ended = run_program(program, folder, options);
  if (ended.status < 0)
    throw Failure({Severity::error,
                   "solve.no-solver",
                   -ended.status == ENOENT
                       ? fmt::format("the solver '{}' is not installed", options.solver)
                       : fmt::format("the solver '{}' cannot be run: {}", options.solver, std::strerror(-ended.status)),
                   {},
                   "apt-get install calculix-ccx, or name it with --solver; earlier answers are as they were"});
  SolverRun out;
  out.exit_status = ended.status;
  if (ended.stopped) shorten(folder / "job.log");
  for (const Kind& kind : kinds) {
    if (!kind.kept) continue;
    std::error_code none;
    const std::string path = beside(deck_path, kind.ending);
    fs::remove(path, none);  // no old answer stands beside a new one
    const fs::path made = folder / ("job" + std::string(kind.ending));
    if (!fs::exists(made, none) || (ended.stopped && kind.ending != ".log")) continue;
    fs::rename(made, path, none);
    if (!none) out.answers.push_back(path);
  }
  out.log = beside(deck_path, ".log");
  out.dat = beside(deck_path, ".dat");
  out.frd = beside(deck_path, ".frd");
  if (ended.stopped)
    throw Failure(
        {Severity::error, "solve.stopped", fmt::format("the solver was stopped: {}", *ended.stopped),
         Place::in(out.log),
         "read what it printed in that file; the deck may be beyond what it can do, or it waits for something"});
  return out;
}

}  // namespace bordado::calculix
