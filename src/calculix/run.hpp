/// \file run.hpp
/// A run of the solver, from before its deck is written until its answer is judged.
#ifndef BORDADO_CALCULIX_RUN_HPP
#define BORDADO_CALCULIX_RUN_HPP

#include <bordado/base/working_folder.hpp>
#include <bordado/calculix.hpp>

namespace bordado::calculix {

/// The folder that one deck is solved in. While it lives no other run writes or solves that deck.
class RunFolder {
 public:
  /// \throws Failure as WorkingFolder.
  explicit RunFolder(const std::string& deck_path);
  const std::string& path() const { return folder_.path(); }

 private:
  WorkingFolder folder_;
};

/// \throws Failure "file.not-ours" where an answer would take the place of something that is none.
void check_answers_replaceable(const std::string& deck_path, MayReplace may);

/// As run(), in a folder that is there.
SolverRun run_in(const RunFolder& work, const std::string& deck_path, const RunOptions& options);

}  // namespace bordado::calculix

#endif
