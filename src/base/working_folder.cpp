#include <bordado/base/findings.hpp>
#include <bordado/base/text.hpp>
#include <bordado/base/working_folder.hpp>

#include <fmt/format.h>

#include <fcntl.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>
#include <cerrno>
#include <csignal>
#include <cstdlib>
#include <cstring>
#include <ctime>
#include <filesystem>
#include <fstream>

namespace bordado {

namespace fs = std::filesystem;

namespace {

constexpr const char* prefix = ".bordado-run-";
constexpr const char* owner_name = "owner";

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

/// What is known of a folder that is there already.
struct Owner {
  std::string machine, process;  ///< as it was written
  bool ended = false;            ///< it was ours, and its process is no more
};

Owner owner_of(const fs::path& folder) {
  Owner out;
  struct stat status {};
  if (::lstat(folder.c_str(), &status) != 0 || !S_ISDIR(status.st_mode)) return out;
  const int descriptor = ::open((folder / owner_name).c_str(), O_RDONLY | O_CLOEXEC | O_NOFOLLOW | O_NONBLOCK);
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

/// A folder and what is in it; whose it was goes last, so that who is killed on the way can be cleared up after.
void remove_whole(const fs::path& folder) {
  std::error_code none;
  std::vector<fs::path> inside;
  for (fs::directory_iterator entry(folder, none), end; !none && entry != end; entry.increment(none))
    if (entry->path().filename() != owner_name) inside.push_back(entry->path());
  for (const fs::path& path : inside) fs::remove_all(path, none);
  fs::remove(folder / owner_name, none);
  fs::remove(folder, none);
}

/// An empty folder that nobody put his name into: whoever made it was killed in that instant, an hour ago.
bool is_empty_and_old(const fs::path& folder) {
  struct stat status {};
  std::error_code none;
  return ::lstat(folder.c_str(), &status) == 0 && S_ISDIR(status.st_mode) && status.st_uid == ::geteuid() &&
         std::time(nullptr) - status.st_mtime > 3600 && fs::is_empty(folder, none);
}

/// Folders of runs that were killed with no time to clean up.
void clear_ended(const fs::path& beside) {
  std::error_code none;
  std::vector<fs::path> ended;
  for (fs::directory_iterator entry(beside, none), end; !none && entry != end; entry.increment(none))
    if (entry->path().filename().string().starts_with(prefix) &&
        (owner_of(entry->path()).ended || is_empty_and_old(entry->path())))
      ended.push_back(entry->path());
  for (const fs::path& folder : ended) remove_whole(folder);
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
  clear_ended(beside);
  std::string made = (fs::path(beside) / fmt::format("{}XXXXXX", prefix)).string();
  if (!::mkdtemp(made.data())) cannot(beside, errno);
  path_ = (fs::path(beside) / (prefix + name)).string();
  std::optional<Temporary> first(made);
  const std::string owner = (fs::path(made) / owner_name).string();
  const std::string text =
      fmt::format("written by Bordado: a run is under way\n{}\nprocess {}\n", this_machine(), ::getpid());
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
