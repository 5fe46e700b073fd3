#include <bordado/base.hpp>

#include <fmt/format.h>
#include <tbb/parallel_pipeline.h>

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>
#include <algorithm>
#include <array>
#include <cerrno>
#include <cstdlib>
#include <cstring>

namespace bordado {

std::string read_file(const std::string& path) {
  const int descriptor = ::open(path.c_str(), O_RDONLY | O_CLOEXEC);
  const auto fail = [&](int number) {
    if (descriptor >= 0) ::close(descriptor);
    const bool missing = number == ENOENT;
    throw Failure({Severity::error, missing ? "file.missing" : "file.unreadable",
                   missing ? fmt::format("there is no file '{}'", path)
                           : fmt::format("file '{}' cannot be read: {}", path, std::strerror(number)),
                   Place::in(path),
                   missing ? "check the name; a path in a part file counts from the part file's folder"
                           : "check that it is a file and that you may read it"});
  };
  struct stat status {};
  if (descriptor < 0 || ::fstat(descriptor, &status) != 0) fail(errno);
  if (S_ISDIR(status.st_mode)) fail(EISDIR);
  std::string bytes;
  bytes.resize(static_cast<std::size_t>(std::max<off_t>(status.st_size, 0)));
  std::size_t have = 0;
  for (;;) {
    if (have == bytes.size()) bytes.resize(have + 65536);  // grown while reading, or a pipe
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

OutputFile::OutputFile(std::string path) : path_(std::move(path)), temporary_(path_ + ".part-XXXXXX") {
  struct stat status {};
  if (::stat(path_.c_str(), &status) == 0 && S_ISDIR(status.st_mode)) fail(EISDIR);
  descriptor_ = ::mkstemp(temporary_.data());
  if (descriptor_ < 0) {
    const int number = errno;
    throw Failure({Severity::error, "file.not-writable",
                   fmt::format("file '{}' cannot be made: {}", path_, std::strerror(number)), Place::in(path_),
                   "name a folder that exists and that you may write to"});
  }
  const mode_t mask = ::umask(0);
  ::umask(mask);
  ::fchmod(descriptor_, 0666 & ~mask);
}

OutputFile::~OutputFile() {
  if (descriptor_ < 0) return;
  ::close(descriptor_);
  ::unlink(temporary_.c_str());
}

void OutputFile::fail(int error_number) const {
  throw Failure({Severity::error, "file.not-written",
                 fmt::format("file '{}' cannot be written: {}", path_, std::strerror(error_number)), Place::in(path_),
                 error_number == ENOSPC ? "make room on the disk or name another folder; nothing was left behind"
                                        : "nothing was left behind; an earlier file of this name is as it was"});
}

void OutputFile::write(std::string_view bytes) {
  constexpr std::size_t room = 1 << 20;
  bytes_ += bytes.size();
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
  constexpr std::size_t block = 8192, in_flight = 4;
  if (count <= block) {  // not worth a pipeline
    std::string text;
    for (std::size_t i = 0; i < count; ++i) append(i, text);
    write(text);
    return;
  }
  std::array<std::string, in_flight> slots;
  std::size_t next = 0;
  tbb::parallel_pipeline(
      in_flight, tbb::make_filter<void, std::size_t>(tbb::filter_mode::serial_in_order, [&](tbb::flow_control& flow) {
                   if (next * block >= count) flow.stop();
                   return next++;
                 }) & tbb::make_filter<std::size_t, std::size_t>(tbb::filter_mode::parallel, [&](std::size_t i) {
                   std::string& text = slots[i % in_flight];
                   text.clear();
                   const std::size_t end = std::min(count, (i + 1) * block);
                   for (std::size_t k = i * block; k < end; ++k) append(k, text);
                   return i;
                 }) & tbb::make_filter<std::size_t, void>(tbb::filter_mode::serial_in_order, [&](std::size_t i) {
                   write(slots[i % in_flight]);
                 }));
}

void OutputFile::commit() {
  flush();
  if (::fsync(descriptor_) != 0 && errno != EINVAL) fail(errno);
  const int descriptor = descriptor_;
  descriptor_ = -1;
  if (::close(descriptor) != 0 || ::rename(temporary_.c_str(), path_.c_str()) != 0) {
    const int number = errno;
    ::unlink(temporary_.c_str());
    fail(number);
  }
}

}  // namespace bordado
