#include <bordado/deck/record.hpp>

#include <bordado/base/files.hpp>
#include <bordado/base/text.hpp>
#include <bordado/design.hpp>
#include <bordado/solids.hpp>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <stdexcept>

namespace bordado::deck {

namespace {

namespace fs = std::filesystem;
using Json = nlohmann::ordered_json;

std::string text_of(const Json& json) {
  return json.dump(1, ' ', false, nlohmann::ordered_json::error_handler_t::replace) + "\n";
}

/// "skiff.inp" with "names" is "skiff-inp-names.json".
std::string beside(const std::string& deck_path, std::string_view what) {
  const fs::path deck(deck_path);
  const std::string extension = deck.extension().string();
  return (deck.parent_path() /
          fmt::format("{}-{}-{}.json", deck.stem().string(), extension.empty() ? extension : extension.substr(1), what))
      .string();
}

using model::SolidOptions;
constexpr std::pair<SolidOptions::Constants, int> counted_constants[] = {
    {SolidOptions::Constants::as_they_are, 0}, {SolidOptions::Constants::nine, 9}, {SolidOptions::Constants::all, 21}};

std::string_view name_of(model::SolidOptions::Per per) {
  return per == model::SolidOptions::Per::ply        ? "ply"
         : per == model::SolidOptions::Per::material ? "material"
                                                     : "count";
}

Json to_json(const Record& record) {
  Json out = {{"what", fmt::format("how a deck was made, written by Bordado {}", version())},
              {"deck", record.deck},
              {"part", record.part},
              {"variant", record.variant},
              {"sections",
               {{"angle_tolerance_deg", record.sections.angle_tolerance.degrees()},
                {"thickness_tolerance", record.sections.thickness_tolerance}}},
              {"solids", nullptr},
              {"real_plies", record.real_plies},
              {"cases", record.cases},
              {"marks", record.marks},
              {"refused", nullptr}};
  if (record.sections.most_sections) out["sections"]["most"] = *record.sections.most_sections;
  if (const auto& solids = record.solids) {
    out["solids"] = {{"per", name_of(solids->per)}, {"most", solids->most}, {"rough", solids->rough}};
    for (const auto& [constants, count] : counted_constants)
      if (constants == solids->constants && count > 0) out["solids"]["constants"] = count;
  }
  if (const auto& refused = record.refused)
    out["refused"] = {{"code", refused->code}, {"what", refused->what}, {"answer", refused->answer_print}};
  return out;
}

/// \throws std::invalid_argument where it is no whole number from 1 to that.
std::size_t count_in(const Json& json, std::size_t most) {
  if (!json.is_number_unsigned() || json.get<std::uint64_t>() < 1 || json.get<std::uint64_t>() > most)
    throw std::invalid_argument("no count");
  return json.get<std::size_t>();
}

/// Whether options are in their ranges; see section::Options.
bool in_range(const section::Options& options) {
  const double degrees = options.angle_tolerance.degrees(), share = options.thickness_tolerance;
  return degrees > 0.0 && degrees <= 10.0 && share > 0.0 && share <= 0.2;
}

/// \throws std::exception where it is none, or holds what no run was made with.
Record from_json(const Json& json) {
  Record out;
  out.deck = json.at("deck");
  out.part = json.at("part");
  out.variant = json.at("variant");
  const Json& sections = json.at("sections");
  out.sections.angle_tolerance = Angle::degrees(sections.at("angle_tolerance_deg").get<double>());
  out.sections.thickness_tolerance = sections.at("thickness_tolerance");
  if (sections.contains("most")) out.sections.most_sections = count_in(sections.at("most"), 1'000'000);
  if (!in_range(out.sections)) throw std::invalid_argument("no sections");
  if (const Json& solids = json.at("solids"); !solids.is_null()) {
    out.solids.emplace();
    const std::string per = solids.at("per");
    using Per = model::SolidOptions::Per;
    out.solids->per = per == name_of(Per::ply) ? Per::ply : per == name_of(Per::material) ? Per::material : Per::count;
    if (out.solids->per == Per::count)
      out.solids->most = count_in(solids.at("most"), 1000);
    else
      out.solids->most = 0;
    out.solids->rough = solids.at("rough");
    const std::size_t wanted = solids.contains("constants") ? count_in(solids.at("constants"), 21) : 0;
    const auto found = std::find_if(std::begin(counted_constants), std::end(counted_constants),
                                    [&](const auto& one) { return static_cast<std::size_t>(one.second) == wanted; });
    if (found == std::end(counted_constants)) throw std::invalid_argument("no constants");
    out.solids->constants = found->first;
  }
  out.real_plies = json.at("real_plies");
  out.cases = json.at("cases").get<std::vector<std::string>>();
  out.marks = json.at("marks").get<std::vector<std::string>>();
  if (const Json& refused = json.at("refused"); !refused.is_null())
    out.refused = Refused{plain_text(refused.at("code").get<std::string>()),
                          plain_text(refused.at("what").get<std::string>(), 1000), refused.at("answer")};
  return out;
}

}  // namespace

std::string write_names(const Written& written, const Model& model, MayReplace may_replace) {
  const std::string path = beside(written.path, "names");
  Json names = Json::array();
  for (const Stands& one : written.names) names.push_back({{"name", one.name}, {"kind", one.kind}, {"of", one.of}});
  Json body = {{"what", fmt::format("what stands where in a deck, written by Bordado {}", version())},
               {"part", model.design->part.name},
               {"deck", fs::path(written.path).filename().string()},
               {"units", model.design->part.units.name()},
               {"names", names}};
  if (written.solids > 0) {
    // Solid number k of the deck: the element that it stands on and the group of plies that it is.
    const model::Solids& solids = *model.solids;
    std::vector<std::int64_t> elements;
    for (const mesh::ElementIndex e : solids.element) elements.push_back(model.surface.element_ids[e]);
    body["solids"] = {{"groups", solids.groups}, {"element", elements}, {"group", solids.group}};
  }
  OutputFile file(path, may_replace);
  file.write(text_of(body));
  file.commit();
  return path;
}

Record record_of(const Model& model, const WriteOptions& options, const Written& written) {
  const part::Part& part = model.design->part;
  Record out;
  out.deck = fs::path(written.path).filename().string();
  out.part = fs::path(part.file).filename().string();
  out.variant = part.variant;
  out.sections = model.design->sections.options;
  if (model.solids) out.solids = model.solids->options;
  out.real_plies = options.layers == LayersAs::plies;
  for (const auto& [name, load] : written.loads) out.cases.push_back(name);
  for (const Mark& mark : written.marks) out.marks.push_back(mark.name);
  return out;
}

std::string record_path(const std::string& deck_path) { return beside(deck_path, "run"); }

void keep_refusal(Record& record, const std::string& deck_path) {
  if (const auto before = read_record(deck_path); before && before->marks == record.marks)
    record.refused = before->refused;
}

void write_record(const Record& record, const std::string& deck_path, MayReplace may_replace) {
  OutputFile file(record_path(deck_path), may_replace);
  file.write(text_of(to_json(record)));
  file.commit();
}

std::optional<Record> read_record(const std::string& deck_path) {
  constexpr std::uintmax_t most = std::uintmax_t{1} << 24;  // bytes: one of ours is far shorter
  const std::string path = record_path(deck_path);
  std::error_code none;
  if (!fs::is_regular_file(path, none) || fs::file_size(path, none) > most) return std::nullopt;
  std::ifstream file(path);
  try {
    return from_json(Json::parse(file));
  } catch (const std::exception&) {
    return std::nullopt;
  }
}

std::vector<FoundRecord> records_in(const std::string& folder, const std::string& part_file,
                                    const std::optional<std::string>& variant) {
  constexpr std::string_view ending = "-inp-run.json";
  const std::string part = fs::path(part_file).filename().string();
  std::vector<std::string> decks;
  std::error_code none;
  for (fs::directory_iterator at(folder, none), end; !none && at != end; at.increment(none)) {
    const std::string name = at->path().filename().string();
    if (name.ends_with(ending))
      decks.push_back((at->path().parent_path() / (name.substr(0, name.size() - ending.size()) + ".inp")).string());
  }
  std::sort(decks.begin(), decks.end());
  std::vector<FoundRecord> out;
  for (const std::string& deck : decks)
    if (auto record = read_record(deck); record && record->part == part && (!variant || record->variant == *variant))
      out.push_back({deck, std::move(*record)});
  return out;
}

std::string answer_print(const std::string& path) {
  std::ifstream file(path, std::ios::binary | std::ios::ate);
  if (!file) return {};
  const auto size = static_cast<std::size_t>(file.tellg());
  constexpr std::size_t most = std::size_t{1} << 20;
  std::uint64_t sum = 14695981039346656037ull;  // FNV-1a
  std::string bytes;
  for (const std::size_t at : {std::size_t{0}, size - std::min(size, most)}) {
    bytes.resize(std::min(size - at, most));
    file.seekg(static_cast<std::streamoff>(at));
    file.read(bytes.data(), static_cast<std::streamsize>(bytes.size()));
    for (const char c : bytes) sum = (sum ^ static_cast<unsigned char>(c)) * 1099511628211ull;
  }
  return fmt::format("{}:{:016x}", size, sum);
}

}  // namespace bordado::deck
