/// \file working_folder.hpp
/// A folder for what another program makes, and that program's process: both end with this one, however it ends.
#ifndef BORDADO_BASE_WORKING_FOLDER_HPP
#define BORDADO_BASE_WORKING_FOLDER_HPP

#include <bordado/base/files.hpp>

#include <sys/types.h>
#include <functional>
#include <optional>
#include <string>

namespace bordado {

/// A hidden folder of this process, gone with all it holds at the end, at a signal, or, after a kill that nothing
/// survives, when the next run of the same user on the same machine makes one beside it. It holds a locked file that says
/// whose it is: machine, its start, room of process numbers, process. What another machine, container or user began is
/// never taken away.
class WorkingFolder {
 public:
  /// \param name tells it from others: two runs of that name in a folder do not work at once.
  /// \throws Failure "file.in-use" where another run has it, "file.not-writable".
  WorkingFolder(const std::string& beside, const std::string& name);
  ~WorkingFolder();
  WorkingFolder(const WorkingFolder&) = delete;
  WorkingFolder& operator=(const WorkingFolder&) = delete;

  const std::string& path() const { return path_; }

 private:
  std::string path_;
  std::optional<Temporary> watched_;
  int lock_ = -1;
};

/// The file in a WorkingFolder that says whose it is. It goes last.
inline constexpr const char* owner_file = "owner";

/// A process that leads a group of its own; while this lives, remove_temporaries() kills the group and waits for its leader
/// before it takes anything away.
class EndsWithUs {
 public:
  /// \param begin makes the process and returns its number, or none above nought where that failed; no signal ends the
  /// program between the two. The process begins with its signals held.
  explicit EndsWithUs(const std::function<pid_t()>& begin);
  ~EndsWithUs();
  EndsWithUs(const EndsWithUs&) = delete;
  EndsWithUs& operator=(const EndsWithUs&) = delete;

  pid_t leader() const { return leader_; }

 private:
  std::size_t slot_;
  pid_t leader_ = -1;
};

/// Does not return once remove_temporaries() has begun: what a killed program left is not to be put in place.
void wait_if_ending();

}  // namespace bordado

#endif
