// The review page: what is known of one part or two, packed behind the program that shows it (web/).
//
// A page is web/src/page.html with two places filled: the title, and the data. The data are base64 of a gzip stream of
//
//     8 bytes   length of the head, a little-endian whole number
//     head      JSON (UTF-8), described by web/src/data.ts
//     arrays    one after another, each at a multiple of 4 bytes; where the head says { "at", "count", "type" },
//               `count` little-endian numbers of that type begin `at` bytes behind the head. Their bytes are sorted:
//               first the lowest byte of every number, then the next of every number, and so on, since that packs
//               better
#include "../base/base64.hpp"
#include "arrays.hpp"
#include "coarse.hpp"
#include "compare.hpp"
#include "drapes.hpp"
#include "edges.hpp"
#include "envelopes.hpp"
#include "program.hpp"
#include "results.hpp"

#include <bordado/base/text.hpp>
#include <bordado/design.hpp>
#include <bordado/review/book.hpp>
#include <bordado/review/fields.hpp>

#include <zlib.h>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstring>
#include <limits>
#include <map>
#include <numeric>
#include <stdexcept>

namespace bordado::page {

namespace {

/// Each number less the one `stride` before it; wraps round.
std::vector<std::int32_t> steps(const std::vector<std::uint32_t>& values, std::size_t stride) {
  std::vector<std::int32_t> out(values.size());
  for (std::size_t i = 0; i < values.size(); ++i)
    out[i] = static_cast<std::int32_t>(values[i] - (i < stride ? 0u : values[i - stride]));
  return out;
}

Json optional_json(const std::optional<double>& value, double factor = 1.0) {
  return value ? Json(*value * factor) : Json(nullptr);
}

/// Rows of the upper triangle.
template <class Matrix>
void append_upper(std::vector<float>& out, const Matrix& m) {
  for (Eigen::Index i = 0; i < m.rows(); ++i)
    for (Eigen::Index j = i; j < m.cols(); ++j) out.push_back(static_cast<float>(m(i, j)));
}

/// One part of the page.
class PartData {
 public:
  PartData(const PagePart& from, const Drawn& drawn, Arrays& arrays)
      : from_(from), design_(*from.design), part_(design_.part), drawn_(drawn), arrays_(arrays) {}

  Json json() {
    const UnitSystem& u = part_.units;
    const auto factor = [&](Dimension d) { return u.to_si(d); };
    const Mass mass = measured();
    Json out;
    out["name"] = part_.name;
    out["file"] = part_.file;
    out["variant"] = part_.variant;
    out["mesh"] = part_.mesh_file.value;
    out["flush"] = part::name_of(part_.flush);
    out["units"] = {{"length", u.unit(Dimension::length)},
                    {"stress", u.unit(Dimension::stress)},
                    {"force", u.unit(Dimension::force)},
                    {"line_force", u.unit(Dimension::line_force)},
                    {"metre", factor(Dimension::length)}};
    out["elements"] = design_.surface.element_count();
    out["cell"] = drawn_.cell;
    out["area"] = mass.area * factor(Dimension::area);
    out["mass"] = mass.mass * factor(Dimension::mass);
    out["centre"] = mass.centre ? vector_json(*mass.centre) : Json();
    out["shape"] = shape(mass);
    out["frames"] = frames();
    out["materials"] = materials();
    out["zones"] = zones(mass);
    out["plies"] = plies();
    out["stacks"] = stacks(mass);
    out["sections"] = sections();
    out["fields"] = fields();
    out["edges"] = edges_json(design_, arrays_);
    out["ramps"] = ramps_json(design_);
    out["profiles"] = profiles_json(from_);
    out["drapes"] = drapes_json(
        design_, drawn_, [this](std::size_t d, const Vec3& v) { return angle_of(d, v); }, arrays_);
    out["cloths"] = cloths_json(design_, arrays_);
    out["findings"] = findings();
    out["results"] = results_json(from_, drawn_, arrays_);
    out["envelopes"] = envelopes_json(from_, arrays_);
    return out;
  }

 private:
  using Mass = layup::Mass;
  Mass measured() const { return layup::mass(design_); }

  template <class Value, class Of>
  std::vector<Value> of_drawn(const Of& value) const {
    std::vector<Value> out;
    out.reserve(drawn_.elements.size());
    for (const mesh::ElementIndex e : drawn_.elements) out.push_back(static_cast<Value>(value(e)));
    return out;
  }

  Json shape(const Mass& mass) const {
    std::vector<float> points;
    points.reserve(3 * drawn_.points.size());
    for (const Vec3& p : drawn_.points)
      for (int i = 0; i < 3; ++i) points.push_back(static_cast<float>(p[i]));
    std::vector<std::uint32_t> corners;
    corners.reserve(4 * drawn_.corners.size());
    for (const auto& four : drawn_.corners) {
      corners.insert(corners.end(), four.begin(), four.end());
      if (four[3] == mesh::no_index) corners.back() = four[2];
    }
    const auto& ids = design_.surface.element_ids;
    // Of a mesh that is drawn coarser, the elements drawn of each stack stand for all of its area.
    List<layup::StackId, double> of_stack(design_.layup.stack_count(), 0.0);
    for (const mesh::ElementIndex e : drawn_.elements) of_stack[design_.layup.stack_of[e]] += design_.geometry.areas[e];
    // And all of them for stacks of which none is drawn.
    double shown = 0.0;
    for (const layup::StackId s : design_.layup.stacks())
      if (of_stack[s] > 0.0) shown += mass.stack_areas[s];
    const auto area = [&](mesh::ElementIndex e) {
      const layup::StackId s = design_.layup.stack_of[e];
      return design_.geometry.areas[e] *
             (drawn_.cell > 0.0 ? mass.stack_areas[s] / of_stack[s] * (mass.area / shown) : 1.0);
    };
    return {{"points", arrays_.add(points)},
            {"corners", arrays_.add(steps(corners, 4))},  // the last of a triangle is its third again
            {"ids", arrays_.add(of_drawn<double>([&](mesh::ElementIndex e) { return ids[e]; }))},
            {"areas", arrays_.add(of_drawn<float>(area))},
            {"stacks", arrays_.add(of_drawn<std::uint32_t>([&](auto e) { return shown_stack(e); }))},
            {"sections",
             arrays_.add(of_drawn<std::uint32_t>([&](auto e) { return index(design_.sections.section_of[e]); }))}};
  }

  /// Directions as angles from the first side of the drawn element, about its normal: pi is 32767; -32768 is none.
  Json frames() const {
    Json out = Json::array();
    List<part::FrameId, std::uint8_t> used(part_.frames.size(), 0);
    for (const layup::Cloth& cloth : design_.layup.cloths) used[cloth.frame] = 1;
    for (const part::FrameId f : part_.frames.ids()) {
      const auto& directions = design_.layup.frames[f].directions;
      Json frame = {{"name", part_.frames[f].name}, {"angles", nullptr}};
      if (used[f] && !directions.empty()) {
        std::vector<std::int16_t> angles(drawn_.elements.size());
        parallel_blocks(angles.size(), [&](std::size_t begin, std::size_t end) {
          for (std::size_t d = begin; d < end; ++d) angles[d] = angle_of(d, directions[drawn_.elements[d]]);
        });
        frame["angles"] = arrays_.add(angles);
      }
      out.push_back(std::move(frame));
    }
    return out;
  }

  std::int16_t angle_of(std::size_t d, const Vec3& direction) const {
    const auto& c = drawn_.corners[d];
    const auto p = [&](int i) -> const Vec3& { return drawn_.points[c[static_cast<std::size_t>(i)]]; };
    const Vec3 side = p(1) - p(0);
    const Vec3 n = c[3] == mesh::no_index ? side.cross(p(2) - p(0)) : (p(2) - p(0)).cross(p(3) - p(1));
    if (direction.isZero() || n.isZero()) return -32768;
    const Vec3 unit = n.normalized(), along = side - side.dot(unit) * unit;
    const double angle = std::atan2(unit.dot(along.cross(direction)), along.dot(direction));
    return static_cast<std::int16_t>(std::lround(angle / std::numbers::pi * 32767.0));
  }

  Json materials() const {
    Json out = Json::array();
    for (const material::Material& m : part_.materials)
      out.push_back({{"name", m.name},
                     {"mark", m.mark},
                     {"kind", material::name_of(m.kind)},
                     {"core", material::is_core(m.kind)},
                     {"density", optional_json(m.density, part_.units.to_si(Dimension::density))}});
    return out;
  }

  Json zones(const Mass& mass) const {
    Json out = Json::array();
    const zone::ZoneSets& sets = design_.layup.zones;
    for (const zone::ZoneId z : sets.names.ids()) {
      std::vector<std::uint8_t> bits((drawn_.elements.size() + 7) / 8, 0);
      for (std::size_t d = 0; d < drawn_.elements.size(); ++d)
        if (sets.contains(z, drawn_.elements[d])) bits[d / 8] |= static_cast<std::uint8_t>(1u << (d % 8));
      out.push_back({{"name", sets.names[z]},
                     {"declared", std::any_of(part_.zones.begin(), part_.zones.end(),
                                              [&](const part::Zone& zone) { return zone.name == sets.names[z]; })},
                     {"elements", sets.counts[z]},
                     {"area", mass.zone_areas[z] * part_.units.to_si(Dimension::area)},
                     {"mass", mass.zone_masses[z] * part_.units.to_si(Dimension::mass)},
                     {"bits", arrays_.add(bits)}});
    }
    return out;
  }

  Json drape_of(part::PlyId ply) const {
    const auto& drape = design_.layup.cloths[design_.layup.plies[ply].cloth].drape;
    return drape ? Json(index(*drape)) : Json(nullptr);
  }

  Json plies() const {
    const review::PlyBook book = review::ply_book(design_);
    Json out = Json::array();
    for (const review::PlyEntry& entry : book.plies) {
      const part::Ply& ply = part_.plies[entry.ply];
      const layup::Ply& laid = design_.layup.plies[entry.ply];
      const part::PlyLine& line = part_.list.lines[ply.line];
      out.push_back({{"id", ply.id},
                     {"material", laid.material},
                     {"frame", design_.layup.frame_of(entry.ply)},
                     {"zone", design_.layup.regions[laid.region].zone},
                     {"angle", laid.angle.degrees()},
                     {"drape", drape_of(entry.ply)},
                     {"thickness", laid.thickness},
                     {"group", line.group},
                     {"note", line.note},
                     {"elements", entry.elements},
                     {"area", entry.area * part_.units.to_si(Dimension::area)},
                     {"mass", optional_json(entry.mass, part_.units.to_si(Dimension::mass))},
                     {"pieces", entry.pieces}});
    }
    return out;
  }

  /// Where thickness varies each section is a stack of its own on the page, behind those of the layup.
  std::size_t shown_stack(mesh::ElementIndex e) const {
    const layup::StackId s = design_.layup.stack_of[e];
    return design_.layup.varies[s] ? design_.layup.stack_count() + index(design_.sections.section_of[e]) : index(s);
  }

  void add_stacks_that_vary(Json& out) const {
    const layup::Layup& layup = design_.layup;
    if (std::none_of(layup.varies.begin(), layup.varies.end(), [](auto varies) { return varies != 0; })) return;
    const section::Sections& all = design_.sections;
    List<section::SectionId, double> areas(all.count(), 0.0);
    for (mesh::ElementIndex e = 0; e < layup.stack_of.size(); ++e)
      if (layup.varies[layup.stack_of[e]]) areas[all.section_of[e]] += design_.geometry.areas[e];
    for (const section::SectionId s : all.ids()) {
      std::vector<part::PlyId> plies;
      std::vector<double> thicknesses;
      for (const layup::LaidLayer& layer : all.layers_of(s)) {
        plies.push_back(layer.ply);
        thicknesses.push_back(layer.thickness);
      }
      out.push_back({{"code", layup::code(part_, layup, all.layers_of(s))},
                     {"plies", plies},
                     {"thicknesses", thicknesses},
                     {"area", areas[s] * part_.units.to_si(Dimension::area)},
                     {"thickness", all.thickness[s]},
                     {"mass", laminate::areal_mass(section::laminate_of(part_, all, s)) *
                                  part_.units.to_si(Dimension::areal_mass)}});
    }
  }

  Json stacks(const Mass& mass) const {
    Json out = Json::array();
    const layup::Layup& layup = design_.layup;
    for (const layup::StackId s : layup.stacks())
      out.push_back({{"code", layup::code(part_, layup, s)},
                     {"plies", layup.plies_of(s)},
                     {"area", mass.stack_areas[s] * part_.units.to_si(Dimension::area)},
                     {"thickness", layup::thickness(layup, s)},
                     {"mass", layup::areal_mass(part_, layup, s) * part_.units.to_si(Dimension::areal_mass)}});
    add_stacks_that_vary(out);
    return out;
  }

  Json sections() const {
    const section::Sections& all = design_.sections;
    std::vector<float> numbers;
    List<section::SectionId, std::vector<std::string>> words(all.count());
    List<section::SectionId, std::array<laminate::EngineeringConstants, 3>> constants(all.count());
    List<section::SectionId, std::array<float, page_numbers_of_a_section>> matrices(all.count());
    parallel_blocks(
        all.count(),
        [&](std::size_t begin, std::size_t end) {
          for (const section::SectionId s : Ids<section::SectionId>(begin, end)) {
            const auto stack = section::laminate_of(part_, all, s);
            const double h = all.thickness[s], middle = all.bottom[s] + 0.5 * h;
            const laminate::Stiffness k = laminate::stiffness(stack, all.bottom[s]);
            const laminate::Compliance c = laminate::compliance(laminate::moved(k, middle));
            std::vector<float> list;
            append_upper(list, k.A);
            append_upper(list, k.B);
            append_upper(list, k.D);
            append_upper(list, k.H);
            append_upper(list, c.a);
            append_upper(list, c.d);
            append_upper(list, laminate::Matrix3(k.A.inverse()));
            std::copy(list.begin(), list.end(), matrices[s].begin());
            words[s] = laminate::in_words(stack, part_.units);
            constants[s] = {laminate::in_plane(k, h, middle), laminate::in_plane_constrained(k, h),
                            laminate::in_bending(k, h, middle)};
          }
        },
        16);
    for (const auto& one : matrices) numbers.insert(numbers.end(), one.begin(), one.end());
    Json list = Json::array();
    // What a layer is to its section, once for all that are alike: stiffness and expansion in the section's axes, sheared
    // cloth as it is there.
    std::map<std::pair<part::MaterialId, double>, std::size_t> known;
    std::vector<float> ways;
    Json free = Json::array();
    const auto way_of = [&](const layup::LaidLayer& layer, const laminate::Layer& as_laid) {
      const auto [found, is_new] = known.try_emplace({layer.material, as_laid.angle.degrees()}, known.size());
      if (is_new) {
        append_upper(ways, laminate::rotated(laminate::plane_stress_stiffness(as_laid.elastic), as_laid.angle));
        for (const double value : laminate::free_strain(as_laid, laminate::Expands::by_temperature))
          ways.push_back(static_cast<float>(value));
        free.push_back(optional_json(section::material_of(part_, all, layer.material).stress_free_temperature, 1.0));
      }
      return found->second;
    };
    for (const section::SectionId s : all.ids()) {
      const auto as_laid = section::laminate_of(part_, all, s);
      Json angles = Json::array(), named = Json::array(), layers = Json::array();
      for (std::size_t i = 0; i < as_laid.size(); ++i) layers.push_back(way_of(all.layers_of(s)[i], as_laid[i]));
      for (const layup::LaidLayer& layer : all.layers_of(s)) angles.push_back(layer.angle.degrees());
      for (const auto& c : constants[s]) named.push_back({c.Ex, c.Ey, c.Gxy, c.nuxy});
      list.push_back({{"thickness", all.thickness[s]},
                      {"bottom", all.bottom[s]},
                      {"angles", angles},
                      {"layers", layers},
                      {"constants", named},
                      {"words", words[s]}});
    }
    return {{"numbers", arrays_.add(numbers)}, {"list", list}, {"ways", arrays_.add(ways)}, {"free", free}};
  }

  Json fields() const {
    Json out = Json::array();
    const auto add = [&](const std::string& name, const std::string& unit, const std::vector<double>& values) {
      if (values.size() != design_.surface.element_count())
        throw std::invalid_argument(fmt::format("the field '{}' has {} values for {} elements", name, values.size(),
                                                design_.surface.element_count()));
      out.push_back({{"name", name},
                     {"unit", unit},
                     {"values", arrays_.add(of_drawn<float>([&](auto e) { return values[e]; }))}});
    };
    for (const part::FrameId f : part_.frames.ids()) {
      const frame::Field& field = design_.layup.frames[f];
      const std::string& name = part_.frames[f].name;
      if (!field.distance.empty())
        add("distance to what makes frame " + name, part_.units.unit(Dimension::length), field.distance);
      if (!field.doubt.empty()) add("doubt of frame " + name, "", field.doubt);
    }
    if (const auto& off = design_.sections.off; !off.empty()) {
      std::vector<double> percent;
      for (const float share : off) percent.push_back(share > 1e-12f ? 100.0 * static_cast<double>(share) : 0.0);
      add("section off by", "%", percent);
    }
    for (const PageField& field : from_.fields) add(field.name, field.unit, field.values);
    return out;
  }

  /// What a click on a finding shows: an element, or what is declared in its line.
  Json shown_by(const Finding& finding) const {
    if (finding.where.element)
      if (const auto e = mesh::element_with_id(design_.surface, *finding.where.element)) {
        const auto at = std::lower_bound(drawn_.elements.begin(), drawn_.elements.end(), *e);
        return {{"element", nearest_drawn(*e, static_cast<std::size_t>(at - drawn_.elements.begin()))}};
      }
    const auto here = [&](const Place& place) {
      return finding.where.line && place.line == finding.where.line && place.file == finding.where.file;
    };
    for (const part::PlyId p : part_.plies.ids())
      if (here(part_.plies[p].where)) return {{"ply", p}};
    for (const part::Zone& zone : part_.zones)
      if (here(zone.where))
        if (const auto z = design_.layup.zones.find(zone.name)) return {{"zone", *z}};
    return nullptr;
  }

  std::size_t nearest_drawn(mesh::ElementIndex e, std::size_t at) const {
    if (at < drawn_.elements.size() && drawn_.elements[at] == e) return at;
    const auto& centres = design_.geometry.centres;
    std::size_t best = 0;
    for (std::size_t d = 1; d < drawn_.elements.size(); ++d)
      if ((centres[drawn_.elements[d]] - centres[e]).squaredNorm() <
          (centres[drawn_.elements[best]] - centres[e]).squaredNorm())
        best = d;
    return best;
  }

  Json findings() const {
    constexpr const char* names[] = {"note", "warning", "error"};
    Json out = Json::array();
    for (const Finding& f : from_.findings)
      out.push_back({{"severity", names[static_cast<int>(f.severity)]},
                     {"code", f.code},
                     {"what", f.what},
                     {"where", f.where.text()},
                     {"remedy", f.remedy},
                     {"shows", shown_by(f)}});
    return out;
  }

  const PagePart& from_;
  const Design& design_;
  const part::Part& part_;
  const Drawn& drawn_;
  Arrays& arrays_;
};

/// The gzip stream (RFC 1952) of all pieces, without a time or a name.
std::string gzip(std::span<const std::string_view> pieces) {
  z_stream stream{};
  if (::deflateInit2(&stream, 6, Z_DEFLATED, 15 + 16, 9, Z_DEFAULT_STRATEGY) != Z_OK) throw std::bad_alloc();
  std::string out;
  std::vector<char> room(1 << 18);
  for (std::size_t i = 0; i < pieces.size(); ++i) {
    std::string_view rest = pieces[i];
    do {
      const auto now = static_cast<uInt>(std::min<std::size_t>(rest.size(), 1u << 30));
      stream.next_in = reinterpret_cast<Bytef*>(const_cast<char*>(rest.data()));
      stream.avail_in = now;
      rest.remove_prefix(now);
      const int flush = i + 1 == pieces.size() && rest.empty() ? Z_FINISH : Z_NO_FLUSH;
      do {
        stream.next_out = reinterpret_cast<Bytef*>(room.data());
        stream.avail_out = static_cast<uInt>(room.size());
        ::deflate(&stream, flush);
        out.append(room.data(), room.size() - stream.avail_out);
      } while (stream.avail_out == 0);
    } while (!rest.empty());
  }
  ::deflateEnd(&stream);
  return out;
}

}  // namespace

Page page(std::span<const PagePart> parts, const PageOptions& options, const Progress& progress) {
  if (parts.empty() || parts.size() > 2) throw std::invalid_argument("a page shows one part or two");
  if (options.most_elements < 1000) throw std::invalid_argument("a page draws at least 1000 elements");
  const auto tell = [&](std::string_view activity, double fraction) {
    if (progress) progress(activity, fraction);
  };
  Page out;
  Arrays arrays;
  Json head = {{"made_by", fmt::format("Bordado {}", version())}, {"parts", Json::array()}};
  std::vector<Drawn> shapes;
  for (const PagePart& part : parts) {
    tell("drawing the mesh", 0.1);
    shapes.push_back(drawn(part.design->surface, part.design->geometry, options.most_elements));
    out.drawn.push_back(shapes.back().elements.size());
  }
  std::string title;
  for (std::size_t i = 0; i < parts.size(); ++i) {
    tell("gathering what is known", 0.2 + 0.3 * static_cast<double>(i));
    Json part = PartData(parts[i], shapes[i], arrays).json();
    if (parts.size() == 2) {
      tell("comparing", 0.6);
      part["differs"] = arrays.add(differences(*parts[i].design, shapes[i], *parts[1 - i].design));
    }
    title += (i == 0 ? "" : " and ") + part["name"].get<std::string>() +
             (parts[i].design->part.variant.empty() ? "" : " (" + parts[i].design->part.variant + ")");
    head["parts"].push_back(std::move(part));
  }
  if (parts.size() == 2) head["comparison"] = compared(*parts[0].design, *parts[1].design);
  tell("packing", 0.8);
  std::string text = head.dump(-1, ' ', false, Json::error_handler_t::replace);
  text.resize((text.size() + 3) / 4 * 4, ' ');
  const std::uint64_t length = text.size();
  const std::string_view pieces[] = {{reinterpret_cast<const char*>(&length), 8}, text, arrays.bytes()};
  const std::string data = to_base64(gzip(pieces));
  const std::string_view program = page_program();
  constexpr std::string_view title_mark = "@TITLE@", data_mark = "@DATA@";
  const std::size_t at_title = program.find(title_mark), at_data = program.find(data_mark);
  out.html.reserve(program.size() + data.size() + title.size());
  out.html.append(program.substr(0, at_title)).append(as_html(title));
  out.html.append(program.substr(at_title + title_mark.size(), at_data - at_title - title_mark.size()));
  out.html.append(data).append(program.substr(at_data + data_mark.size()));
  out.program_bytes = program.size();
  out.data_bytes = data.size();
  tell("done", 1.0);
  return out;
}

}  // namespace bordado::page
