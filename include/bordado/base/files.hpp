/// \file files.hpp
/// Files read, and files written whole or not at all and never over what was read.
#ifndef BORDADO_BASE_FILES_HPP
#define BORDADO_BASE_FILES_HPP

#include <bordado/base/replacing.hpp>

#include <cstddef>
#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <string_view>

namespace bordado {

/// The bytes of a regular file. It is remembered as read: no OutputFile of this process replaces it.
/// \throws Failure "file.missing", "file.unreadable", or "file.not-regular" for a folder, a device or a pipe.
std::string read_file(const std::string& path);

/// A regular file read line by line, in bounded memory. Remembered as read, as by read_file().
class InputFile {
 public:
  /// \throws Failure as read_file().
  explicit InputFile(std::string path);
  ~InputFile();
  InputFile(const InputFile&) = delete;
  InputFile& operator=(const InputFile&) = delete;

  /// The next line without its end, until the next call; nothing behind the last.
  /// \throws Failure "file.unreadable", also for a line of more than 16 MB.
  std::optional<std::string_view> line();
  std::size_t number() const { return number_; }    ///< of the line that was given last, from 1
  std::size_t bytes() const { return bytes_; }      ///< of the file, when it was opened
  std::size_t at() const { return passed_ + at_; }  ///< bytes that were given
  const std::string& path() const { return path_; }

 private:
  bool more();
  std::string path_, buffer_;
  int descriptor_ = -1;
  std::size_t at_ = 0, end_ = 0, number_ = 0, bytes_ = 0, passed_ = 0;
};

/// From now on no OutputFile of this process replaces that file, whatever it is called and whether it was read or not.
/// Nothing happens where there is no regular file.
void keep(const std::string& path);

/// Whether Bordado wrote this file: it says so in its first lines, at its end (PDF) or by the names of its columns (tables
/// of stresses and envelopes). What people go on to edit by hand (lists of plies, libraries) says nothing.
bool made_here(const std::string& path);

/// \throws Failure where an OutputFile of that path would refuse an earlier file: "file.was-read" for one that this
/// process has read and not written (whatever its name: device and inode count), "file.not-ours", "file.is-there",
/// "file.not-regular",
/// "file.not-writable". Nothing is touched.
void check_replaceable(const std::string& path, MayReplace may = MayReplace::the_one_named);

/// A file, or a folder with the files in it, that remove_temporaries() takes away while this lives; the last one first.
class Temporary {
 public:
  explicit Temporary(const std::string& path);
  ~Temporary();
  Temporary(const Temporary&) = delete;
  Temporary& operator=(const Temporary&) = delete;

 private:
  std::size_t slot_;
};

/// Takes away every file that a Temporary or an unfinished OutputFile names. Safe in a signal handler.
void remove_temporaries() noexcept;

/// A file that is written whole or not at all: bytes go to a file without a name in the same folder (to a temporary
/// name where the file system has no such files), commit() puts it in place. Without commit(), or when the process is
/// killed, nothing is left and an earlier file is untouched. Links are written through, its mode stays. "-" is the
/// standard output; a character device such as /dev/null takes the bytes as they come.
class OutputFile {
 public:
  /// \throws Failure as check_replaceable(), "file.not-writable" when the folder is missing or refuses.
  explicit OutputFile(std::string path, MayReplace may = MayReplace::the_one_named);
  /// A file that is nowhere: what is written goes, and its fingerprint stays.
  struct Nowhere {};
  explicit OutputFile(Nowhere) : nowhere_(true) {}
  ~OutputFile();
  OutputFile(const OutputFile&) = delete;
  OutputFile& operator=(const OutputFile&) = delete;

  /// Small pieces are gathered before they go to the disk.
  /// \throws Failure "file.not-written" (a full disk, say), here or at a later call.
  void write(std::string_view bytes);
  /// Writes the text of `count` items, made by append(index, text) in parallel, in order of index.
  /// \throws Failure as write().
  void write_lines(std::size_t count, const std::function<void(std::size_t index, std::string& text)>& append);
  /// Flushes to the disk and renames. \throws Failure as write().
  void commit();

  std::size_t bytes() const { return bytes_; }

  /// A number that tells the bytes written since begin_fingerprint() from others, whatever pieces they came in.
  std::uint64_t fingerprint() const;
  void begin_fingerprint() { print_ = Print{}; }

 private:
  /// Eight bytes at a time; those that are fewer wait.
  struct Print {
    std::uint64_t sum = 0x9e3779b97f4a7c15ull, waiting = 0;
    unsigned waits = 0;  ///< bytes
    void take(std::string_view bytes);
  };
  Print print_;
  [[noreturn]] void fail(int error_number) const;
  void flush();
  void put(std::string_view bytes);
  void put_in_place();
  std::string path_;       ///< as the user gave it
  std::string target_;     ///< behind links; empty for a stream
  std::string temporary_;  ///< where the file system has no files without a name
  std::string buffer_;
  std::optional<Temporary> registered_;
  int descriptor_ = -1;
  bool nowhere_ = false;
  bool in_place_ = false;  ///< other names are linked to the target: its own bytes change
  std::size_t bytes_ = 0;
};

/// While it lives, others who hold the lock of the same folder wait: for reading a file and writing it anew.
/// Where a file system knows no locks, nothing is locked.
class FolderLock {
 public:
  /// \param path a file in the folder. \throws Failure "file.not-writable" where the folder cannot be opened.
  explicit FolderLock(const std::string& path);
  ~FolderLock();
  FolderLock(const FolderLock&) = delete;
  FolderLock& operator=(const FolderLock&) = delete;

  /// Whether the file system knows locks.
  bool is_locked() const { return is_locked_; }

 private:
  int descriptor_ = -1;
  bool is_locked_ = false;
};

}  // namespace bordado

#endif
