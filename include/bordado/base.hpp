/// \file base.hpp
/// What every room uses: findings and failures with a place in a file, units, angles, parallel loops, files.
#ifndef BORDADO_BASE_HPP
#define BORDADO_BASE_HPP

#include <Eigen/Core>

#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <exception>
#include <functional>
#include <numbers>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <type_traits>
#include <vector>

namespace bordado {

using Vec3 = Eigen::Vector3d;

/// Version of the library, as written in deck headers.
std::string_view version();

// ---------------------------------------------------------------------------------------------------------------------
// Trouble
// ---------------------------------------------------------------------------------------------------------------------

/// Where something was declared or found. Parts that do not apply stay empty.
struct Place {
  std::string file;                     ///< path as the user gave it
  std::optional<std::size_t> line;      ///< from 1
  std::optional<std::size_t> column;    ///< from 1
  std::optional<std::int64_t> element;  ///< element id as the mesh file has it

  /// A whole file.
  static Place in(std::string file) { return {std::move(file), {}, {}, {}}; }

  /// "skiff.toml:12:7", "skiff.msh: element 42" or "" when nothing is known.
  std::string text() const;
};

/// The place of something in its list is a type of its own, `enum class PlyId : std::uint32_t`: an id indexes its own
/// lists and no others. The number behind it, from 0:
template <class Id>
requires std::is_enum_v<Id>
constexpr std::uint32_t index(Id id) { return static_cast<std::uint32_t>(id); }

/// Ids that follow each other.
template <class Id>
class Ids {
 public:
  class Iterator {
   public:
    using value_type = Id;
    using difference_type = std::ptrdiff_t;
    Iterator() = default;
    explicit Iterator(std::uint32_t at) : at_(at) {}
    Id operator*() const { return Id{at_}; }
    Iterator& operator++() { return ++at_, *this; }
    Iterator operator++(int) { return Iterator(at_++); }
    friend bool operator==(const Iterator&, const Iterator&) = default;

   private:
    std::uint32_t at_ = 0;
  };
  Ids(std::size_t begin, std::size_t end)
      : begin_(static_cast<std::uint32_t>(begin)), end_(static_cast<std::uint32_t>(std::max(begin, end))) {}
  Iterator begin() const { return Iterator(begin_); }
  Iterator end() const { return Iterator(end_); }

 private:
  std::uint32_t begin_, end_;
};

/// A vector that ids of one kind index.
template <class Id, class T>
class List : private std::vector<T> {
  using Vector = std::vector<T>;

 public:
  using typename Vector::const_iterator;
  using typename Vector::iterator;
  using typename Vector::value_type;
  using Vector::assign;
  using Vector::back;
  using Vector::begin;
  using Vector::clear;
  using Vector::data;
  using Vector::emplace_back;
  using Vector::empty;
  using Vector::end;
  using Vector::front;
  using Vector::push_back;
  using Vector::reserve;
  using Vector::resize;
  using Vector::size;
  using Vector::Vector;

  T& operator[](Id id) { return Vector::operator[](index(id)); }
  const T& operator[](Id id) const { return Vector::operator[](index(id)); }
  /// All, or those from a place on.
  Ids<Id> ids(std::size_t from = 0) const { return {from, size()}; }
  /// Of what is appended next.
  Id next() const { return Id{static_cast<std::uint32_t>(size())}; }
  const std::vector<T>& all() const { return *this; }
  /// Takes out every item that `goes` says yes to; ids of those behind it become smaller.
  template <class Goes>
  friend std::size_t erase_if(List& list, Goes goes) {
    return std::erase_if(static_cast<Vector&>(list), goes);
  }
  friend bool operator==(const List&, const List&) = default;
};

/// A value and where it was written.
template <class Value>
struct Declared {
  Value value{};
  Place where;
};

enum class Severity {
  note,     ///< worth knowing; nothing to do
  warning,  ///< the result may not be what was meant
  error     ///< no result can be given
};

/// One thing to tell the engineer: what, where, what to do.
struct Finding {
  Severity severity = Severity::error;
  std::string code;  ///< stable name, "room.matter", listed in docs/findings.md
  std::string what;  ///< one sentence, with the values
  Place where;
  std::string remedy;  ///< what to do about it; may be empty for a note

  /// "skiff.toml:12:7: error: what [code]\n    remedy", without a newline at the end.
  std::string text() const;
};

/// Thrown when the work cannot go on. Carries every error that is known, not only the first.
class Failure : public std::exception {
 public:
  explicit Failure(Finding finding);
  explicit Failure(std::vector<Finding> findings);

  const std::vector<Finding>& findings() const { return findings_; }
  /// All findings' texts, one after the other.
  const char* what() const noexcept override { return text_.c_str(); }

 private:
  std::vector<Finding> findings_;
  std::string text_;
};

/// Collects findings in the order they are met.
class Findings {
 public:
  void note(std::string code, std::string what, Place where = {}, std::string remedy = {});
  void warning(std::string code, std::string what, Place where = {}, std::string remedy = {});
  void error(std::string code, std::string what, Place where = {}, std::string remedy = {});

  void add(Finding finding);
  /// Warnings and notes of this code are not kept from now on. Errors always are.
  void silence(std::string code) { silenced_.push_back(std::move(code)); }

  const std::vector<Finding>& all() const { return all_; }
  std::size_t count(Severity severity) const;
  bool has_errors() const { return count(Severity::error) > 0; }
  /// \throws Failure with all errors (and only these) when there is one.
  void throw_if_errors() const;

 private:
  std::vector<Finding> all_;
  std::vector<std::string> silenced_;
};

/// What a finding's code means, as docs/findings.md says it.
struct Explanation {
  std::string_view code, severity, text;
};
/// All codes there are, in the order of the document.
std::span<const Explanation> explanations();

/// "1 node", "12 nodes".
std::string counted(std::size_t count, std::string_view noun);

/// "a, b, c and 17 more": at most `most` items spelled out.
std::string listed(std::span<const std::string> items, std::size_t most = 5);
std::string listed(std::span<const std::int64_t> ids, std::size_t most = 5);

/// The name in `known` nearest to `given` by edit distance, or nothing where none is near (more than two letters or a
/// third differ).
std::optional<std::string> nearest_name(std::string_view given, std::span<const std::string> known);

// ---------------------------------------------------------------------------------------------------------------------
// Names
// ---------------------------------------------------------------------------------------------------------------------

/// Whether the bytes are UTF-8 (RFC 3629).
bool is_utf8(std::string_view bytes);
/// UTF-8 as it is; anything else is taken as Latin-1 (ISO 8859-1), which a spreadsheet of half the world writes.
/// Readers pass every name through this once, at the door.
std::string to_utf8(std::string_view bytes);
/// A name for one line of a deck, a message, a table or a terminal: UTF-8, blanks for what would break the line or
/// steer the terminal, "..." behind the first `most` characters.
std::string plain_text(std::string_view text, std::size_t most = 200);

// ---------------------------------------------------------------------------------------------------------------------
// Angles and units
// ---------------------------------------------------------------------------------------------------------------------

/// A plane angle; never a bare double across a public function.
class Angle {
 public:
  constexpr Angle() = default;
  static constexpr Angle degrees(double value) { return Angle(value * std::numbers::pi / 180.0, value); }
  static constexpr Angle radians(double value) { return Angle(value, value * 180.0 / std::numbers::pi); }

  constexpr double degrees() const { return degrees_; }
  constexpr double radians() const { return radians_; }
  /// Cosine and sine; exact at multiples of 90° so that a 90° ply has no stray coupling.
  double cos() const;
  double sin() const;

  constexpr Angle operator-() const { return Angle(-radians_, -degrees_); }
  constexpr Angle operator+(Angle other) const { return degrees(degrees_ + other.degrees_); }
  constexpr Angle operator-(Angle other) const { return degrees(degrees_ - other.degrees_); }
  friend constexpr bool operator==(Angle a, Angle b) { return a.degrees_ == b.degrees_; }

 private:
  constexpr Angle(double radians, double degrees) : radians_(radians), degrees_(degrees) {}
  double radians_ = 0.0;
  double degrees_ = 0.0;
};

/// The same fibre direction in (-90°, 90°]: a ply at 180° is a ply at 0°.
Angle same_fibre(Angle angle);

/// What kind of quantity a number is.
enum class Dimension {
  none,
  angle,
  length,
  area,
  mass,
  time,
  stress,
  density,
  areal_mass,
  force,
  line_force,
  moment,
  line_mass,
  acceleration,
  angular_speed,  ///< radians per time
  bed,            ///< stress per length
  temperature,    ///< in degrees Celsius whatever the system; differences of them in kelvin
  expansion       ///< strain per kelvin whatever the system
};

/// The consistent unit system of a part: what a bare number means.
/// Angles are degrees, temperatures degrees Celsius in every system.
class UnitSystem {
 public:
  /// Millimetre, tonne, second: newton and megapascal.
  UnitSystem();

  /// Reads "mm, t, s" (a length, a mass and a time unit in any order), or "in, lbf, s": with a unit of force the mass is
  /// what that moves by one length per time squared.
  /// \throws std::invalid_argument that says what is missing or unknown.
  static UnitSystem parse(std::string_view text);

  /// As declared: "mm, t, s".
  const std::string& name() const { return name_; }

  /// What is odd about it: with "in, lb, s" forces are in lb in/s^2, which nobody measures; nothing where force is a newton
  /// or a pound-force, times a power of ten.
  std::optional<std::string> doubt() const;

  /// Name of the unit of a quantity: "MPa" for stress in mm, t, s; composed where there is no common name.
  std::string unit(Dimension dimension) const;

  /// Factor from this system to SI: value_SI = factor * value.
  double to_si(Dimension dimension) const;

  /// Value of "0.25 mm" or "135 GPa" in this system; a bare number ("0.25") is taken to be in this system already.
  /// \throws std::invalid_argument that says what cannot be read, or that the unit is of another kind.
  double read(std::string_view text, Dimension dimension) const;

 private:
  double length_, mass_, time_;  // in m, kg, s
  std::string length_name_, mass_name_, time_name_, name_;
  std::string force_name_;  // where it was declared by that
  bool composed_mass() const { return !force_name_.empty() && mass_name_.size() > 2; }
};

/// A conversion of units leaves a stray last bit (0.25 mm would not equal a bare 0.25): the value to 15 digits.
double without_stray_bits(double value);

/// Metres in one `unit` ("mm", "inch").
/// \throws std::invalid_argument when it is not a length unit.
double metres_in(std::string_view unit);

// ---------------------------------------------------------------------------------------------------------------------
// Work
// ---------------------------------------------------------------------------------------------------------------------

/// How many threads work from now on, in the whole process: 1 and more; without it as many as there are cores.
/// What comes out is the same, byte for byte.
void work_with(std::size_t threads);

/// Calls body(begin, end) for consecutive blocks that cover 0..count, on all cores. Blocks do not depend on the number
/// of threads, so results gathered per block are the same on every machine. Exceptions reach the caller.
void parallel_blocks(std::size_t count, const std::function<void(std::size_t begin, std::size_t end)>& body,
                     std::size_t block = 8192);

/// Told what is being done and how far it is (0..1); called from one thread at a time. May be empty.
using Progress = std::function<void(std::string_view activity, double fraction)>;

// ---------------------------------------------------------------------------------------------------------------------
// Files
// ---------------------------------------------------------------------------------------------------------------------

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

/// Whether Bordado wrote this file: it says so in its first lines.
bool made_here(const std::string& path);

/// What happens to a file that is there already.
enum class Existing { replaced, added_to };

/// Which earlier file may go.
enum class MayReplace {
  the_one_named,  ///< the user named this very file
  the_one_read,   ///< it was read to be added to: what was there is part of what is written
  only_our_own,   ///< its name follows from another one: a file that Bordado did not make is refused
  nothing         ///< whatever is there is refused
};

/// \throws Failure where an OutputFile of that path would refuse an earlier file: "file.was-read" for one that this
/// process has read and not written (whatever its name: device and inode count), "file.not-ours", "file.is-there",
/// "file.not-regular",
/// "file.not-writable". Nothing is touched.
void check_replaceable(const std::string& path, MayReplace may = MayReplace::the_one_named);

/// A file or empty folder that remove_temporaries() takes away while this lives; the last one first.
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

 private:
  int descriptor_ = -1;
};

/// What a table says at a place: straight between its lines, constant beyond its ends. \param lines place and value, the
/// places rising; one or more.
double in_table(std::span<const std::pair<double, double>> lines, double at);

/// Appends a number rounded to 12 significant digits, fewer where `width` characters do not hold them, always with a
/// decimal point or an exponent. Never longer than `width` (at least 8). Some solvers read no more than 20 characters
/// of a number.
void append_real(std::string& text, double value, std::size_t width = 19);

/// Appends a whole number.
void append_integer(std::string& text, std::int64_t value);

}  // namespace bordado

#endif
