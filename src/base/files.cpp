#include <bordado/base/files.hpp>
#include <bordado/base/findings.hpp>
#include <bordado/base/work.hpp>

#include "arena.hpp"
#include "ending.hpp"

#include <fmt/format.h>
#include <tbb/parallel_pipeline.h>

#include <fcntl.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>
#include <algorithm>
#include <array>
#include <atomic>
#include <cerrno>
#include <csignal>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <mutex>
#include <set>
#include <tuple>

namespace bordado {

namespace {

/// A file whatever its names. Its time of birth tells a later file with the same inode apart.
struct Identity {
  std::uint64_t device_major, device_minor, inode, born_s, born_ns;
  auto operator<=>(const Identity&) const = default;
};

std::optional<Identity> identity_of(int descriptor) {
  struct statx status {};
  if (::statx(descriptor, "", AT_EMPTY_PATH, STATX_INO | STATX_BTIME, &status) != 0) return std::nullopt;
  const bool born = (status.stx_mask & STATX_BTIME) != 0;
  return Identity{status.stx_dev_major, status.stx_dev_minor, status.stx_ino,
                  born ? static_cast<std::uint64_t>(status.stx_btime.tv_sec) : 0u,
                  born ? std::uint64_t{status.stx_btime.tv_nsec} : 0u};
}

/// What this process has read and has not written itself: the one rule that keeps outputs off inputs.
class FilesRead {
 public:
  void remember(int descriptor) {
    const auto identity = identity_of(descriptor);
    const std::lock_guard lock(mutex_);
    if (identity && !written_.contains(*identity)) read_.insert(*identity);
  }
  void wrote(int descriptor) {
    const auto identity = identity_of(descriptor);
    const std::lock_guard lock(mutex_);
    if (identity) written_.insert(*identity);
  }
  bool holds(const std::string& path) {
    const int descriptor = ::open(path.c_str(), O_PATH | O_CLOEXEC);
    if (descriptor < 0) return false;
    const auto identity = identity_of(descriptor);
    ::close(descriptor);
    const std::lock_guard lock(mutex_);
    return identity && read_.contains(*identity);
  }

 private:
  std::mutex mutex_;
  std::set<Identity> read_, written_;
};

FilesRead& files_read() {
  static FilesRead files;
  return files;
}

std::string_view kind_of(mode_t mode) {
  if (S_ISDIR(mode)) return "a folder";
  if (S_ISCHR(mode) || S_ISBLK(mode)) return "a device";
  if (S_ISFIFO(mode)) return "a pipe";
  return "a socket";
}

Failure not_regular(const std::string& path, mode_t mode, std::string remedy) {
  return Failure({Severity::error, "file.not-regular", fmt::format("'{}' is {}, not a file", path, kind_of(mode)),
                  Place::in(path), std::move(remedy)});
}

Failure not_writable(const std::string& path, int number) {
  return Failure({Severity::error, "file.not-writable",
                  fmt::format("file '{}' cannot be made: {}", path, std::strerror(number)), Place::in(path),
                  "name a folder that exists and that you may write to"});
}

/// "-", or a name of an open descriptor: bytes go there as they come.
bool is_stream(const std::string& path, const struct stat* status) {
  if (path == "-") return true;
  if (status && S_ISCHR(status->st_mode)) return true;
  for (const std::string_view names : {"/dev/fd/", "/proc/self/fd/"})
    if (path.starts_with(names)) return true;
  return path == "/dev/stdout" || path == "/dev/stderr";
}

/// The place that a chain of links ends at, whether there is a file or not.
std::string behind_links(const std::string& path) {
  std::filesystem::path at(path);
  std::error_code none;
  for (int link = 0; link < 40 && std::filesystem::is_symlink(at, none); ++link) {
    const std::filesystem::path to = std::filesystem::read_symlink(at, none);
    at = to.is_absolute() ? to : at.parent_path() / to;
  }
  return at.string();
}

std::string folder_of(const std::string& path) {
  const std::string folder = std::filesystem::path(path).parent_path().string();
  return folder.empty() ? "." : folder;
}

[[noreturn]] void cannot_read(const std::string& path, int descriptor, int number) {
  if (descriptor >= 0) ::close(descriptor);
  const bool missing = number == ENOENT;
  throw Failure({Severity::error, missing ? "file.missing" : "file.unreadable",
                 missing ? fmt::format("there is no file '{}'", path)
                         : fmt::format("file '{}' cannot be read: {}", path, std::strerror(number)),
                 Place::in(path),
                 missing ? "check the name; a path in a part file counts from the part file's folder"
                         : "check that it is a file and that you may read it"});
}

/// A regular file, open to be read and remembered.
int open_to_read(const std::string& path, struct stat& status) {
  // Not to wait for somebody to write into a pipe.
  const int descriptor = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
  if (descriptor < 0 || ::fstat(descriptor, &status) != 0) cannot_read(path, descriptor, errno);
  if (S_ISDIR(status.st_mode)) cannot_read(path, descriptor, EISDIR);
  if (!S_ISREG(status.st_mode)) {
    ::close(descriptor);
    throw not_regular(path, status.st_mode, "save what it gives to a file and name that");
  }
  files_read().remember(descriptor);
  return descriptor;
}

}  // namespace

InputFile::InputFile(std::string path) : path_(std::move(path)) {
  struct stat status {};
  descriptor_ = open_to_read(path_, status);
  bytes_ = static_cast<std::size_t>(std::max<off_t>(status.st_size, 0));
  buffer_.resize(std::clamp(bytes_ + 1, std::size_t{4096}, std::size_t{1} << 20));
}

InputFile::~InputFile() { ::close(descriptor_); }

bool InputFile::more() {
  if (at_ > 0) {
    std::memmove(buffer_.data(), buffer_.data() + at_, end_ - at_);
    passed_ += at_;
    end_ -= at_;
    at_ = 0;
  }
  if (end_ == buffer_.size()) {
    if (buffer_.size() >= std::size_t{16} << 20)
      throw Failure({Severity::error,
                     "file.unreadable",
                     "a line has more than 16 MB",
                     {path_, number_ + 1, {}, {}},
                     "this is no text of a solver"});
    buffer_.resize(2 * buffer_.size());
  }
  for (;;) {
    const ssize_t got = ::read(descriptor_, buffer_.data() + end_, buffer_.size() - end_);
    if (got < 0 && errno == EINTR) continue;
    if (got < 0) cannot_read(path_, -1, errno);
    end_ += static_cast<std::size_t>(got);
    return got > 0;
  }
}

std::optional<std::string_view> InputFile::line() {
  for (std::size_t searched = at_;;) {
    const void* const found = std::memchr(buffer_.data() + searched, '\n', end_ - searched);
    if (found) {
      const auto stop = static_cast<std::size_t>(static_cast<const char*>(found) - buffer_.data());
      const std::string_view out(buffer_.data() + at_, stop - at_);
      at_ = stop + 1;
      ++number_;
      return out;
    }
    const std::size_t have = end_ - at_;
    if (more()) {
      searched = at_ + have;
      continue;
    }
    if (have == 0) return std::nullopt;
    const std::string_view out(buffer_.data() + at_, have);
    at_ = end_;
    ++number_;
    return out;
  }
}

void keep(const std::string& path) {
  const int descriptor = ::open(path.c_str(), O_PATH | O_CLOEXEC);
  if (descriptor < 0) return;
  struct stat status {};
  if (::fstat(descriptor, &status) == 0 && S_ISREG(status.st_mode)) files_read().remember(descriptor);
  ::close(descriptor);
}

std::string read_file(const std::string& path) {
  struct stat status {};
  const int descriptor = open_to_read(path, status);
  const auto fail = [&](int number) { cannot_read(path, descriptor, number); };
  std::string bytes;
  bytes.resize(static_cast<std::size_t>(std::max<off_t>(status.st_size, 0)));
  std::size_t have = 0;
  for (;;) {
    if (have == bytes.size()) bytes.resize(have + 65536);  // grown while reading
    const ssize_t got = ::read(descriptor, bytes.data() + have, bytes.size() - have);
    if (got < 0 && errno == EINTR) continue;
    if (got < 0) fail(errno);
    if (got == 0) break;
    have += static_cast<std::size_t>(got);
  }
  ::close(descriptor);
  bytes.resize(have);
  return bytes;
}

bool made_here(const std::string& path) {
  const int descriptor = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
  if (descriptor < 0) return false;
  std::string bytes(65536, '\0');
  const auto part = [&](off_t from, std::size_t most) {
    const ssize_t got = ::pread(descriptor, bytes.data(), most, from);
    return std::string_view(bytes.data(), static_cast<std::size_t>(std::max<ssize_t>(got, 0)));
  };
  const auto says_so = [](std::string_view text) { return text.find("written by Bordado") != std::string_view::npos; };
  struct stat status {};
  const std::string_view head = part(0, 4096);
  bool ours = says_so(head);
  // Tables begin with the names of their columns, and a PDF says who made it at its end.
  for (const std::string_view columns :
       {"case,element,layer,ply,material,place,z ", "criterion,N", "criterion,M", "reserve,first,mass,"})
    ours = ours || head.starts_with(columns);
  if (!ours && head.starts_with("%PDF-") && ::fstat(descriptor, &status) == 0)
    ours = says_so(part(std::max<off_t>(0, status.st_size - static_cast<off_t>(bytes.size())), bytes.size()));
  ::close(descriptor);
  return ours;
}

void check_replaceable(const std::string& path, MayReplace may) {
  struct stat status {};
  const bool there = ::stat(path.c_str(), &status) == 0;
  if (is_stream(path, there ? &status : nullptr) || !there) return;
  if (S_ISDIR(status.st_mode))
    throw Failure({Severity::error, "file.not-written",
                   fmt::format("file '{}' cannot be written: {}", path, std::strerror(EISDIR)), Place::in(path),
                   "give the name of a file in that folder"});
  if (!S_ISREG(status.st_mode)) throw not_regular(path, status.st_mode, "give the name of a file, or - for the screen");
  if (may != MayReplace::the_one_read && files_read().holds(path))
    throw Failure(
        {Severity::error, "file.was-read",
         fmt::format("'{}' would be overwritten, and it is a file that was read for this or is named by what was",
                     path),
         Place::in(path), "give another name or folder; nothing was changed"});
  if (may == MayReplace::nothing)
    throw Failure({Severity::error, "file.is-there", fmt::format("there is a file '{}' already", path), Place::in(path),
                   "give another name; nothing was changed"});
  if (may == MayReplace::only_our_own && status.st_size > 0 && !made_here(path))
    throw Failure({Severity::error, "file.not-ours",
                   fmt::format("'{}' would be overwritten, and Bordado did not make it", path), Place::in(path),
                   "move it away, give another name or folder, or say --replace; nothing was changed"});
  if (::access(path.c_str(), W_OK) != 0)
    throw Failure({Severity::error, "file.not-writable",
                   fmt::format("file '{}' cannot be written: {}", path, std::strerror(errno)), Place::in(path),
                   "it is protected: change that, or give another name"});
}

OutputFile::OutputFile(std::string path, MayReplace may) : path_(std::move(path)) {
  check_replaceable(path_, may);
  struct stat status {};
  const bool there = ::stat(path_.c_str(), &status) == 0;
  if (is_stream(path_, there ? &status : nullptr)) {
    std::fflush(stdout);
    descriptor_ =
        path_ == "-" ? ::fcntl(STDOUT_FILENO, F_DUPFD_CLOEXEC, 0) : ::open(path_.c_str(), O_WRONLY | O_CLOEXEC);
    if (descriptor_ < 0) throw not_writable(path_, errno);
    return;
  }
  target_ = behind_links(path_);
  in_place_ = there && status.st_nlink > 1;
  const mode_t mask = ::umask(0);
  ::umask(mask);
  const mode_t mode = there ? status.st_mode & 07777 : 0666 & ~mask;
  // Such a file gets its name through /proc.
  if (::access("/proc/self/fd", X_OK) == 0)
    descriptor_ = ::open(folder_of(target_).c_str(), O_TMPFILE | O_RDWR | O_CLOEXEC, 0600);
  if (descriptor_ < 0) {  // a file system without files without a name
    temporary_ = target_ + ".part-XXXXXX";
    descriptor_ = ::mkstemp(temporary_.data());
    if (descriptor_ < 0) throw not_writable(path_, errno);
    registered_.emplace(temporary_);
  }
  ::fchmod(descriptor_, mode);
}

OutputFile::~OutputFile() {
  if (descriptor_ < 0) return;
  ::close(descriptor_);
  if (!temporary_.empty()) ::unlink(temporary_.c_str());
}

void OutputFile::fail(int error_number) const {
  throw Failure({Severity::error, "file.not-written",
                 fmt::format("file '{}' cannot be written: {}", path_, std::strerror(error_number)), Place::in(path_),
                 error_number == ENOSPC ? "make room on the disk or name another folder; nothing was left behind"
                                        : "nothing was left behind; an earlier file of this name is as it was"});
}

namespace {

/// One step of a multiply-and-fold hash: every bit of both reaches every bit of the sum.
std::uint64_t folded(std::uint64_t sum, std::uint64_t bytes) {
  __extension__ using Wide = unsigned __int128;
  const Wide product = static_cast<Wide>(sum ^ bytes) * 0xa0761d6478bd642full;
  return static_cast<std::uint64_t>(product) ^ static_cast<std::uint64_t>(product >> 64);
}

}  // namespace

void OutputFile::Print::take(std::string_view bytes) {
  while (waits > 0 && !bytes.empty()) {
    waiting |= std::uint64_t{static_cast<unsigned char>(bytes.front())} << 8 * waits;
    bytes.remove_prefix(1);
    if (++waits < 8) continue;
    sum = folded(sum, waiting);
    waiting = waits = 0;
  }
  for (; bytes.size() >= 8; bytes.remove_prefix(8)) {
    std::uint64_t eight;
    std::memcpy(&eight, bytes.data(), 8);
    sum = folded(sum, eight);
  }
  for (const char c : bytes) waiting |= std::uint64_t{static_cast<unsigned char>(c)} << 8 * waits++;
}

std::uint64_t OutputFile::fingerprint() const { return folded(folded(print_.sum, print_.waiting), print_.waits + 1); }

void OutputFile::write(std::string_view bytes) {
  constexpr std::size_t room = 1 << 20;
  bytes_ += bytes.size();
  print_.take(bytes);
  if (buffer_.size() + bytes.size() > room) flush();
  if (bytes.size() > room) {
    put(bytes);
  } else {
    buffer_ += bytes;
  }
}

void OutputFile::flush() {
  put(buffer_);
  buffer_.clear();
}

void OutputFile::put(std::string_view bytes) {
  if (nowhere_) return;
  while (!bytes.empty()) {
    const ssize_t done = ::write(descriptor_, bytes.data(), bytes.size());
    if (done < 0 && errno == EINTR) continue;
    if (done < 0) fail(errno);
    bytes.remove_prefix(static_cast<std::size_t>(done));
  }
}

void OutputFile::write_lines(std::size_t count, const std::function<void(std::size_t, std::string&)>& append) {
  // Blocks are made in parallel and written in order. Block i uses slot i % in_flight: blocks finish in order and no
  // more than in_flight are under way, so block i - in_flight is done. (Texts handed on by the pipeline itself would
  // leak when an exception stops it.)
  const std::size_t block = block_of(8192);
  constexpr std::size_t in_flight = 4;
  if (count <= block) {  // not worth a pipeline
    std::string text;
    for (std::size_t i = 0; i < count; ++i) append(i, text);
    write(text);
    return;
  }
  std::array<std::string, in_flight> texts;
  std::size_t next = 0;
  in_arena([&] {
    tbb::parallel_pipeline(
        in_flight, tbb::make_filter<void, std::size_t>(tbb::filter_mode::serial_in_order, [&](tbb::flow_control& flow) {
                     if (next * block >= count) flow.stop();
                     return next++;
                   }) & tbb::make_filter<std::size_t, std::size_t>(tbb::filter_mode::parallel, [&](std::size_t i) {
                     std::string& text = texts[i % in_flight];
                     text.clear();
                     const std::size_t end = std::min(count, (i + 1) * block);
                     for (std::size_t k = i * block; k < end; ++k) append(k, text);
                     return i;
                   }) & tbb::make_filter<std::size_t, void>(tbb::filter_mode::serial_in_order, [&](std::size_t i) {
                     write(texts[i % in_flight]);
                   }));
  });
}

void OutputFile::commit() {
  flush();
  if (nowhere_) return;
  if (target_.empty()) {
    const int descriptor = descriptor_;
    descriptor_ = -1;
    if (::close(descriptor) != 0) fail(errno);
    return;
  }
  if (::fsync(descriptor_) != 0 && errno != EINVAL) fail(errno);
  put_in_place();
  const int descriptor = descriptor_;
  descriptor_ = -1;
  ::close(descriptor);  // its bytes are on the disk
}

namespace {

/// All bytes of one file into another that keeps its inode. Room is made first, so that a full disk is met before the
/// old bytes go.
int copy_into(int from, const std::string& path) {
  const int to = ::open(path.c_str(), O_WRONLY | O_CLOEXEC);
  if (to < 0) return errno;
  struct stat before {};
  struct stat wanted {};
  int error = 0;
  if (::fstat(to, &before) != 0 || ::fstat(from, &wanted) != 0) error = errno;
  if (error == 0 && wanted.st_size > before.st_size) {
    error = ::posix_fallocate(to, 0, wanted.st_size);
    if (error != 0 && ::ftruncate(to, before.st_size) != 0) error = errno;
  }
  std::string bytes(1 << 20, '\0');
  for (off_t at = 0; error == 0 && at < wanted.st_size;) {
    const ssize_t got = ::pread(from, bytes.data(), bytes.size(), at);
    if (got <= 0) error = got < 0 ? errno : EIO;
    for (ssize_t done = 0; error == 0 && done < got;) {
      const ssize_t put = ::pwrite(to, bytes.data() + done, static_cast<std::size_t>(got - done), at + done);
      if (put < 0 && errno != EINTR) error = errno;
      done += std::max<ssize_t>(put, 0);
    }
    at += std::max<ssize_t>(got, 0);
  }
  if (error == 0 && (::ftruncate(to, wanted.st_size) != 0 || ::fsync(to) != 0)) error = errno;
  if (error == 0) files_read().wrote(to);
  ::close(to);
  return error;
}

}  // namespace

void OutputFile::put_in_place() {
  const SignalsHeld held;
  if (in_place_) {
    if (const int error = copy_into(descriptor_, target_)) fail(error);
    if (!temporary_.empty()) ::unlink(temporary_.c_str());
    return;
  }
  if (temporary_.empty()) {
    const std::string own = fmt::format("/proc/self/fd/{}", descriptor_);
    // Where nothing is to be replaced no other name is needed on the way.
    if (::linkat(AT_FDCWD, own.c_str(), AT_FDCWD, target_.c_str(), AT_SYMLINK_FOLLOW) == 0)
      return files_read().wrote(descriptor_);
    for (int attempt = 0;; ++attempt) {
      temporary_ = fmt::format("{}.part-{}-{}", target_, ::getpid(), attempt);
      if (::linkat(AT_FDCWD, own.c_str(), AT_FDCWD, temporary_.c_str(), AT_SYMLINK_FOLLOW) == 0) break;
      const int number = errno;
      temporary_.clear();
      if (number != EEXIST || attempt > 1000) fail(number);
    }
  }
  if (::rename(temporary_.c_str(), target_.c_str()) != 0) {
    const int number = errno;
    ::unlink(temporary_.c_str());
    temporary_.clear();
    fail(number);
  }
  temporary_.clear();
  registered_.reset();
  files_read().wrote(descriptor_);
}

FolderLock::FolderLock(const std::string& path) {
  const std::string folder = folder_of(behind_links(path));
  descriptor_ = ::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC);
  if (descriptor_ < 0) throw not_writable(path, errno);
  while (!is_locked_) {
    is_locked_ = ::flock(descriptor_, LOCK_EX) == 0;
    if (!is_locked_ && errno != EINTR) break;
  }
}

FolderLock::~FolderLock() { ::close(descriptor_); }

}  // namespace bordado
