#include <bordado/base/findings.hpp>
#include <bordado/base/text.hpp>
#include <bordado/base/working_folder.hpp>

#include "ending.hpp"

#include <fmt/format.h>

#include <fcntl.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>
#include <cerrno>
#include <chrono>
#include <csignal>
#include <cstdlib>
#include <cstring>
#include <ctime>
#include <filesystem>
#include <fstream>
#include <functional>
#include <thread>

namespace bordado {

namespace fs = std::filesystem;

namespace {

constexpr const char* prefix = ".bordado-run-";

std::string first_line(const char* path) {
  std::ifstream in(path);
  std::string line;
  std::getline(in, line);
  return line;
}

/// The machine since it was started, and whose process numbers are meant: two containers may bear one name.
std::string this_machine() {
  char name[256] = "";
  ::gethostname(name, sizeof name - 1);
  char room[128] = "";
  const ssize_t length = ::readlink("/proc/self/ns/pid", room, sizeof room - 1);
  return fmt::format("machine {}, started {}, {}", plain_text(name), first_line("/proc/sys/kernel/random/boot_id"),
                     std::string_view(room, static_cast<std::size_t>(std::max<ssize_t>(length, 0))));
}

/// How the name of a folder begins that this machine is just making or taking away: nobody needs to say whose it is.
std::string passing_prefix() { return fmt::format(".bordado-new-{:016x}-", std::hash<std::string>{}(this_machine())); }

/// A name of that kind that nothing has.
std::string passing_folder(const fs::path& beside) {
  std::string out = (beside / (passing_prefix() + "XXXXXX")).string();
  return ::mkdtemp(out.data()) ? out : std::string{};
}

/// What is known of a folder that is there already.
struct Owner {
  std::string machine, process;  ///< as it was written
  bool ended = false;            ///< it was ours, and its process is no more
};

Owner owner_of(const fs::path& folder) {
  Owner out;
  struct stat status {};
  if (::lstat(folder.c_str(), &status) != 0 || !S_ISDIR(status.st_mode)) return out;
  const int descriptor = ::open((folder / owner_file).c_str(), O_RDONLY | O_CLOEXEC | O_NOFOLLOW | O_NONBLOCK);
  if (descriptor < 0) return out;
  char bytes[1024];
  const ssize_t got = ::read(descriptor, bytes, sizeof bytes);
  const std::string_view text(bytes, static_cast<std::size_t>(std::max<ssize_t>(got, 0)));
  const std::size_t first = text.find('\n'), second = text.find('\n', first + 1);
  if (first != std::string_view::npos && second != std::string_view::npos) {
    out.machine = text.substr(first + 1, second - first - 1);
    out.process = text.substr(second + 1, text.find('\n', second + 1) - second - 1);
    // The lock goes with the process. Where a file system knows none, its number tells.
    const bool is_free = ::flock(descriptor, LOCK_SH | LOCK_NB) == 0;  // others may look at the same time
    const bool no_locks = !is_free && errno != EWOULDBLOCK;
    const long number = std::strtol(out.process.c_str() + out.process.find_first_of("0123456789"), nullptr, 10);
    const bool gone =
        is_free || (no_locks && number > 0 && ::kill(static_cast<pid_t>(number), 0) != 0 && errno == ESRCH);
    out.ended = gone && status.st_uid == ::geteuid() && out.machine == this_machine();
  }
  ::close(descriptor);
  return out;
}

/// A folder and what is in it; whose it was goes last, so that who is killed on the way can be cleared up after. A
/// solver that ends with its program may still be writing.
void remove_whole(const fs::path& folder) {
  for (int attempt = 0; attempt < 100; ++attempt) {
    std::error_code none;
    std::vector<fs::path> inside;
    for (fs::directory_iterator entry(folder, none), end; !none && entry != end; entry.increment(none))
      if (entry->path().filename() != owner_file) inside.push_back(entry->path());
    for (const fs::path& path : inside) fs::remove_all(path, none);
    fs::remove(folder / owner_file, none);
    if (::rmdir(folder.c_str()) == 0 || (errno != ENOTEMPTY && errno != EEXIST)) return;
    std::this_thread::sleep_for(std::chrono::milliseconds(5));
  }
}

/// A folder of this user that nothing has been put into for an hour.
bool is_old(const fs::path& folder) {
  struct stat status {};
  return ::lstat(folder.c_str(), &status) == 0 && S_ISDIR(status.st_mode) && status.st_uid == ::geteuid() &&
         std::time(nullptr) - status.st_mtime > 3600;
}

bool is_old_and_empty(const fs::path& folder) {
  std::error_code trouble;
  return is_old(folder) && fs::is_empty(folder, trouble);
}

/// Folders of runs that were killed with no time to clean up. Their names are free at once, whatever a solver that ends
/// with its program still puts into them.
void clear_ended(const fs::path& beside, bool is_my_turn) {
  std::error_code none;
  std::vector<fs::path> ended;
  const std::string passing = passing_prefix();
  for (fs::directory_iterator entry(beside, none), end; !none && entry != end; entry.increment(none)) {
    const fs::path& path = entry->path();
    const std::string name = path.filename().string();
    struct stat status {};
    // Whoever makes such a folder has the turn while it bears that name.
    const bool is_passing = name.starts_with(passing) && ::lstat(path.c_str(), &status) == 0 &&
                            S_ISDIR(status.st_mode) && status.st_uid == ::geteuid() && (is_my_turn || is_old(path));
    const bool is_run = name.starts_with(prefix) && (owner_of(path).ended || is_old_and_empty(path));
    if (is_passing || is_run) ended.push_back(path);
  }
  for (const fs::path& folder : ended) {
    fs::path at = folder;
    if (folder.filename().string().starts_with(prefix))
      if (const std::string passed = passing_folder(beside);
          !passed.empty() && ::rename(folder.c_str(), passed.c_str()) == 0)
        at = passed;
    remove_whole(at);
  }
}

[[noreturn]] void cannot(const std::string& beside, int number) {
  throw Failure({Severity::error, "file.not-writable",
                 fmt::format("a folder for the solver cannot be made in '{}': {}", beside, std::strerror(number)),
                 Place::in(beside), "name a folder that exists and that you may write to"});
}

}  // namespace

WorkingFolder::WorkingFolder(const std::string& beside, const std::string& name) {
  // Who clears up and who begins take turns: nobody takes away what another has just begun under the same name.
  const FolderLock turn((fs::path(beside) / name).string());
  clear_ended(beside, turn.is_locked());
  path_ = (fs::path(beside) / (prefix + name)).string();
  const std::string text =
      fmt::format("written by Bordado: a run is under way\n{}\nprocess {}\n", this_machine(), ::getpid());
  const SignalsHeld no_end_in_between;
  const std::string made = passing_folder(beside);
  if (made.empty()) cannot(beside, errno);
  const std::string owner = (fs::path(made) / owner_file).string();
  lock_ = ::open(owner.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0644);
  // Locked before it says whose it is: an owner without a lock has ended.
  if (lock_ >= 0) ::flock(lock_, LOCK_EX | LOCK_NB);
  const bool written = lock_ >= 0 && ::write(lock_, text.data(), text.size()) == static_cast<ssize_t>(text.size());
  int number = written ? 0 : errno;
  // Whole and locked it takes its place, which is free or not.
  if (written && ::rename(made.c_str(), path_.c_str()) == 0) {
    watched_.emplace(path_);
    return;
  }
  if (written) number = errno;
  if (lock_ >= 0) ::close(lock_);
  remove_whole(made);
  if (!written || (number != ENOTEMPTY && number != EEXIST)) cannot(beside, number);
  const Owner other = owner_of(path_);
  throw Failure({Severity::error, "file.in-use",
                 other.machine.empty() ? fmt::format("the folder '{}' of another run is there", path_)
                                       : fmt::format("another run works on this: {}, of {}", plain_text(other.process),
                                                     plain_text(other.machine.substr(0, other.machine.find(',')))),
                 Place::in(path_),
                 "wait for it, or name another folder; if that run has ended on another machine, remove this folder"});
}

WorkingFolder::~WorkingFolder() {
  remove_whole(path_);
  ::close(lock_);
}

}  // namespace bordado
