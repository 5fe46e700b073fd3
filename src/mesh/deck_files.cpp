#include "deck_files.hpp"

#include <bordado/base/files.hpp>
#include <bordado/base/text.hpp>

#include <filesystem>

namespace bordado::mesh {

namespace fs = std::filesystem;

namespace {

constexpr std::size_t deepest = 32, most_files = 10000;

std::string whole_path(const fs::path& path) {
  std::error_code none;
  const fs::path out = fs::weakly_canonical(path, none);
  return (none ? fs::absolute(path) : out).string();
}

std::string_view without_mark(std::string_view bytes) {
  if (bytes.starts_with("\xef\xbb\xbf")) bytes.remove_prefix(3);
  return bytes;
}

}  // namespace

DeckFiles::DeckFiles(std::string_view bytes, std::string path, IncludeRules rules) : rules_(rules) {
  const std::string at = whole_path(path);
  folder_ = fs::path(at).parent_path().string();
  paths_.push_back(std::move(path));
  open_.push_back({0, at, nullptr, Lines(without_mark(bytes))});
}

std::optional<std::string_view> DeckFiles::next() {
  while (!open_.empty()) {
    File& file = open_.back();
    if (const auto line = file.lines.next()) {
      last_path_ = file.path;
      last_line_ = file.lines.number();
      return line;
    }
    if (open_.size() == 1) return std::nullopt;
    kept_.push_back(file.owned);
    open_.pop_back();
  }
  return std::nullopt;
}

void DeckFiles::refuse(std::string what, std::string remedy) const {
  throw Failure({Severity::error, "mesh.include", std::move(what), place(), std::move(remedy)});
}

void DeckFiles::include(std::string_view written) {
  const std::string name(trimmed(written));
  const std::string shown = plain_text(name);
  if (name.empty()) refuse("an included file has no name", "name it");
  const fs::path given(name);
  const fs::path path = given.is_absolute() ? given : fs::path(paths_[open_.back().path]).parent_path() / given;
  const std::string at = whole_path(path);
  for (const File& file : open_)
    if (file.canonical == at)
      refuse(fmt::format("'{}' includes itself, by way of others or not", shown), "break the circle");
  if (open_.size() >= deepest || ++included_ > most_files)
    refuse(
        fmt::format("'{}' is included {}", shown, open_.size() >= deepest ? "32 files deep" : "as the 10,000th file"),
        "put the mesh into fewer files");
  std::error_code none;
  if (!fs::exists(path, none))
    refuse(fmt::format("there is no included file '{}'", shown), "put it beside the file that includes it");
  if (!rules_.anywhere && !at.starts_with(folder_ + "/"))
    refuse(
        fmt::format("'{}' lies outside the folder of the mesh, and is not opened", shown),
        "put it beside the mesh, or allow it: includes = \"anywhere\" in the part file's mesh, --includes-anywhere for "
        "bordado surface");
  std::shared_ptr<const std::string> bytes;
  try {
    bytes = std::make_shared<const std::string>(read_file(path.string()));
  } catch (const Failure& failure) {
    refuse(fmt::format("the included {}", failure.findings().front().what), "put it beside the file that includes it");
  }
  Lines lines(without_mark(*bytes));
  paths_.push_back(path.string());
  open_.push_back({paths_.size() - 1, at, std::move(bytes), lines});
}

Place DeckFiles::place() const {
  Place out = Place::in(paths_[last_path_]);
  if (last_line_ > 0) out.line = last_line_;
  return out;
}

}  // namespace bordado::mesh
