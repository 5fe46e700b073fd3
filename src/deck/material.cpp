// Materials as solvers read them.
#include <bordado/base/replacing.hpp>
#include <bordado/deck/writing.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <filesystem>
#include <functional>

namespace bordado::deck {

namespace {

const Format& known_format(std::string_view name) {
  if (const Format* const found = find_format(name)) return *found;
  std::vector<std::string> names;
  for (const Format& format : formats()) names.emplace_back(format.name);
  throw Failure({Severity::error,
                 "deck.format-unknown",
                 fmt::format("there is no deck format '{}'", name),
                 {},
                 fmt::format("formats: {}", listed(names))});
}

/// Fields of a line between commas, or of eight columns, trimmed, in capitals.
std::vector<std::string> fields_of(std::string_view line) {
  std::vector<std::string> out;
  const auto add = [&](std::string_view field) {
    std::string word;
    for (const char c : field)
      if (c != ' ' && c != '\t' && c != '\r') word += static_cast<char>(std::toupper(static_cast<unsigned char>(c)));
    out.push_back(std::move(word));
  };
  if (line.find(',') != std::string_view::npos) {
    for (std::size_t at = 0; at <= line.size() && out.size() < 20;) {
      const std::size_t end = std::min(line.find(',', at), line.size());
      add(line.substr(at, end - at));
      at = end + 1;
    }
    return out;
  }
  add(line.substr(0, 8));
  const std::size_t width = out[0].find('*') != std::string::npos ? 16 : 8;
  if (line.size() > 8) add(line.substr(8, width));
  return out;
}

}  // namespace

std::string material_text(const material::Material& material, const UnitSystem& units, std::string_view format,
                          std::int64_t id, std::span<const std::string> remarks) {
  const Format& known = known_format(format);
  const std::string_view sign = known.remark;
  std::string text;
  text += fmt::format("{}material {}: {}\n", sign, material.name, name_of(material.kind));
  text += fmt::format("{}units: {} (stress {}, density {}), temperature in degC\n", sign, units.name(),
                      units.unit(Dimension::stress), units.unit(Dimension::density));
  if (!material.made_of.empty()) text += fmt::format("{}made of: {}\n", sign, material.made_of);
  if (!material.note.empty()) text += fmt::format("{}values: {}\n", sign, material.note);
  for (const std::string& remark : remarks) text += fmt::format("{}{}\n", sign, remark);
  for (char& c : text)
    if (static_cast<unsigned char>(c) < 0x20 && c != '\n') c = ' ';
  return text + known.material(material, id);
}

bool any_material_line(std::string_view deck, const std::function<bool(const std::vector<std::string>& fields)>& is) {
  for (std::size_t at = 0; at < deck.size();) {
    const std::size_t end = std::min(deck.find('\n', at), deck.size());
    const std::string_view line = deck.substr(at, end - at);
    at = end + 1;
    if (!line.empty() && (line[0] == '*' || line[0] == 'M' || line[0] == 'm') && is(fields_of(line))) return true;
  }
  return false;
}

void write_material(const std::string& path, const material::Material& material, const UnitSystem& units,
                    std::string_view format, std::int64_t id, std::span<const std::string> remarks, Existing existing) {
  const std::string text = material_text(material, units, format, id, remarks);
  std::optional<FolderLock> lock;  // others may want to add at the same time
  if (existing == Existing::added_to) lock.emplace(path);
  std::string before;
  if (existing == Existing::added_to && std::filesystem::exists(path)) {
    before = read_file(path);
    if (!before.empty() && before.back() != '\n') before += '\n';
    const Format& known = known_format(format);
    if (known.has_material(before, material, id))
      throw Failure({Severity::error, "deck.material-taken",
                     fmt::format("the file has a {} already", known.material_is(material, id)), Place::in(path),
                     "give another name or number"});
  }
  OutputFile file(path, existing == Existing::added_to ? MayReplace::the_one_read : MayReplace::the_one_named);
  file.write(before);
  file.write(text);
  file.commit();
}

}  // namespace bordado::deck
