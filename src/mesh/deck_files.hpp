// A deck that may lie in several files: lines of one after the other, with the place of each.
#pragma once

#include "text.hpp"

#include <bordado/base/findings.hpp>

#include <deque>
#include <memory>
#include <set>

namespace bordado::mesh {

/// What a reader may open besides the file itself.
struct IncludeRules {
  bool anywhere = false;  ///< also outside the folder of the first file
};

/// Lines of a file and of those that it includes, in the order in which they are read.
class DeckFiles {
 public:
  DeckFiles(std::string_view bytes, std::string path, IncludeRules rules);

  /// The next line without its end; nothing at the end of all files. Views live as long as this.
  std::optional<std::string_view> next();
  /// Goes on in another file, then behind here. \param path as written; counts from the folder of this file.
  /// \throws Failure "mesh.include" (missing, outside, in a circle, too deep).
  void include(std::string_view path);
  /// Of the line that next() gave last.
  Place place() const;
  std::size_t depth() const { return open_.size(); }

 private:
  struct File {
    std::size_t path;  ///< in paths_
    std::string canonical;
    std::shared_ptr<const std::string> owned;  ///< nothing for the first, whose bytes the caller has
    Lines lines;
  };
  [[noreturn]] void refuse(std::string what, std::string remedy) const;
  std::deque<File> open_;
  std::vector<std::shared_ptr<const std::string>> kept_;  ///< of files that are done: views of their lines live on
  std::string folder_;                                    ///< of the first file, canonical
  IncludeRules rules_;
  std::deque<std::string> paths_;  ///< of every file that was opened
  std::size_t last_path_ = 0, last_line_ = 0;
  std::size_t included_ = 0;
};

}  // namespace bordado::mesh
