#include <bordado/base/files.hpp>
#include <bordado/base/text.hpp>
#include <bordado/calculix.hpp>

#include <fmt/format.h>

#include <fcntl.h>
#include <sys/prctl.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>
#include <cerrno>
#include <csignal>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <memory>

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

/// A folder for one run, gone with all it holds at the end or at a signal.
class Workshop {
 public:
  explicit Workshop(const fs::path& beside, const std::string& deck) {
    clear_dead(beside);
    std::string name = (beside / fmt::format("{}{}-XXXXXX", prefix, ::getpid())).string();
    if (!::mkdtemp(name.data()))
      throw Failure(
          {Severity::error, "file.not-writable",
           fmt::format("a folder for the solver cannot be made in '{}': {}", beside.string(), std::strerror(errno)),
           Place::in(beside.string()), "name a folder that exists and that you may write to"});
    path_ = name;
    watched_.push_back(std::make_unique<Temporary>(name));
    // A link under a plain name: the solver takes no blanks and no long names.
    std::error_code error;
    fs::create_symlink(fs::absolute(deck), path_ / "job.inp", error);
    if (error) throw Failure({Severity::error, "file.not-writable", error.message(), Place::in(name), {}});
    watch("job.inp");
    watch("spooles.out");
    for (const Kind& kind : kinds) watch("job" + std::string(kind.ending));
  }
  ~Workshop() {
    std::error_code none;
    fs::remove_all(path_, none);
  }
  Workshop(const Workshop&) = delete;
  Workshop& operator=(const Workshop&) = delete;

  const fs::path& path() const { return path_; }

 private:
  static constexpr std::string_view prefix = ".bordado-run-";

  /// Folders of runs whose process was killed with no time to clean up.
  static void clear_dead(const fs::path& beside) {
    std::error_code none;
    for (const auto& entry : fs::directory_iterator(beside, none)) {
      const std::string name = entry.path().filename().string();
      if (!name.starts_with(prefix) || !fs::is_directory(entry.symlink_status(none))) continue;
      const long process = std::strtol(name.c_str() + prefix.size(), nullptr, 10);
      if (process > 0 && ::kill(static_cast<pid_t>(process), 0) != 0 && errno == ESRCH)
        fs::remove_all(entry.path(), none);
    }
  }

  void watch(const std::string& name) { watched_.push_back(std::make_unique<Temporary>((path_ / name).string())); }
  fs::path path_;
  std::vector<std::unique_ptr<Temporary>> watched_;
};

/// Runs a program with its output in a file. \returns its status, or the negative error number where it did not begin.
int run_program(const std::string& program, const fs::path& folder, const std::string& log) {
  int report[2];
  if (::pipe2(report, O_CLOEXEC) != 0) return -errno;
  const pid_t parent = ::getpid();
  const pid_t child = ::fork();
  if (child < 0) {
    const int number = errno;
    ::close(report[0]);
    ::close(report[1]);
    return -number;
  }
  if (child == 0) {
    ::prctl(PR_SET_PDEATHSIG, SIGKILL);
    if (::getppid() != parent) ::_exit(127);
    for (const int signal : {SIGINT, SIGTERM, SIGHUP, SIGPIPE, SIGQUIT}) ::signal(signal, SIG_DFL);
    const int out = ::open(log.c_str(), O_WRONLY | O_APPEND | O_CLOEXEC);
    const int in = ::open("/dev/null", O_RDONLY | O_CLOEXEC);
    if (out >= 0 && in >= 0 && ::chdir(folder.c_str()) == 0 && ::dup2(in, 0) == 0 && ::dup2(out, 1) == 1 &&
        ::dup2(out, 2) == 2)
      ::execlp(program.c_str(), program.c_str(), "-i", "job", static_cast<char*>(nullptr));
    const int number = errno;
    [[maybe_unused]] const ssize_t told = ::write(report[1], &number, sizeof number);
    ::_exit(127);
  }
  ::close(report[1]);
  int number = 0;
  const bool failed = ::read(report[0], &number, sizeof number) == sizeof number;
  ::close(report[0]);
  int status = 0;
  while (::waitpid(child, &status, 0) < 0 && errno == EINTR) {
  }
  if (failed) return -number;
  return WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
}

}  // namespace

SolverRun run(const std::string& deck_path, const RunOptions& options) {
  const fs::path deck(deck_path), folder = deck.parent_path().empty() ? fs::path(".") : deck.parent_path();
  const auto beside = [&](std::string_view ending) { return (folder / deck.stem()).string() + std::string(ending); };
  for (const Kind& kind : kinds)
    if (kind.kept && !is_answer(beside(kind.ending), kind.begins))
      throw Failure({Severity::error, "file.not-ours",
                     fmt::format("'{}' would be overwritten, and it is no answer of this solver", beside(kind.ending)),
                     Place::in(beside(kind.ending)), "move it away or name another folder; nothing was changed"});
  const Workshop workshop(folder, deck_path);
  const std::string program =
      options.solver.find('/') == std::string::npos ? options.solver : fs::absolute(options.solver).string();
  const std::string log = (workshop.path() / "job.log").string();
  {
    OutputFile file(log);
    file.write(fmt::format("** written by Bordado: what {} printed of {}\n", plain_text(options.solver),
                           plain_text(deck_path)));
    file.commit();
  }
  SolverRun out;
  out.exit_status = run_program(program, workshop.path(), log);
  if (out.exit_status < 0)
    throw Failure({Severity::error,
                   "solve.no-solver",
                   -out.exit_status == ENOENT ? fmt::format("the solver '{}' is not installed", options.solver)
                                              : fmt::format("the solver '{}' cannot be run: {}", options.solver,
                                                            std::strerror(-out.exit_status)),
                   {},
                   "apt-get install calculix-ccx, or name it with --solver; earlier answers are as they were"});
  for (const Kind& kind : kinds) {
    if (!kind.kept) continue;
    std::error_code none;
    fs::remove(beside(kind.ending), none);  // no old answer stands beside a new one
    const fs::path made = workshop.path() / ("job" + std::string(kind.ending));
    if (!fs::exists(made, none)) continue;
    fs::rename(made, beside(kind.ending), none);
    if (!none) out.answers.push_back(beside(kind.ending));
  }
  out.log = beside(".log");
  out.dat = beside(".dat");
  out.frd = beside(".frd");
  return out;
}

}  // namespace bordado::calculix
