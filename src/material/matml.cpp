// MatML 3.1, the open XML schema for materials data.
#include "library.hpp"

#include <bordado/base/text.hpp>

#include <fmt/format.h>
#include <pugixml.hpp>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <set>
#include <sstream>

namespace bordado::material {

namespace {

/// A unit as MatML writes it: names with powers.
struct UnitPart {
  std::string name;
  int power = 1;
};

std::vector<UnitPart> unit_parts(Dimension dimension, const UnitSystem& units) {
  const auto length = [&](int power) { return UnitPart{units.unit(Dimension::length), power}; };
  const UnitPart mass{units.unit(Dimension::mass), 1};
  switch (dimension) {
    case Dimension::none:
      return {};
    case Dimension::expansion:
      return {{"K", -1}};
    case Dimension::density:
      return {mass, length(-3)};
    case Dimension::areal_mass:
      return {mass, length(-2)};
    case Dimension::stress:
      if (const std::string name = units.unit(dimension); name.find('/') == std::string::npos) return {{name, 1}};
      return {mass, length(-1), {units.unit(Dimension::time), -2}};
    default:
      return {{units.unit(dimension), 1}};
  }
}

std::string joined(std::span<const UnitPart> parts) {
  std::string out;
  for (const UnitPart& part : parts)
    out +=
        fmt::format("{}{}{}", out.empty() ? "" : " ", part.name, part.power == 1 ? "" : fmt::format("^{}", part.power));
  return out;
}

class Writer {
 public:
  /// \param taken ids that a file has already: ours become others.
  explicit Writer(const UnitSystem& units, std::set<std::string> taken = {}) : units_(units), taken_(std::move(taken)) {
    document_.append_child(pugi::node_declaration).append_attribute("version") = "1.0";
    document_.last_child().append_attribute("encoding") = "UTF-8";
    root_ = document_.append_child("MatML_Doc");
  }

  std::string write(std::span<const Material> materials) {
    add(materials);
    std::ostringstream out;
    document_.save(out, "  ");
    return out.str();
  }

  /// The <Material> elements as text, and the <PropertyDetails> that they need.
  struct Pieces {
    std::string materials, details;
  };
  Pieces pieces(std::span<const Material> materials) {
    add(materials);
    std::ostringstream first, second;
    for (const pugi::xml_node node : root_.children("Material"))
      node.print(first, "  ", pugi::format_indent, pugi::encoding_utf8, 1);
    for (const pugi::xml_node node : root_.child("Metadata").children())
      node.print(second, "  ", pugi::format_indent, pugi::encoding_utf8, 2);
    return {first.str(), second.str()};
  }

 private:
  struct About {
    std::vector<UnitPart> unit;
    std::string meaning;
  };

  void add(std::span<const Material> materials) {
    for (const Material& material : materials) write(material);
    pugi::xml_node metadata = root_.append_child("Metadata");
    for (const auto& [name, about] : properties_) {
      pugi::xml_node details = metadata.append_child("PropertyDetails");
      details.append_attribute("id") = id(name).c_str();
      details.append_child("Name").text() = name.c_str();
      if (about.unit.empty()) {
        details.append_child("Unitless");
      } else {
        pugi::xml_node list = details.append_child("Units");
        for (const UnitPart& part : about.unit) {
          pugi::xml_node one = list.append_child("Unit");
          if (part.power != 1) one.append_attribute("power") = part.power;
          if (part.name.starts_with("currency:"))
            one.append_child("Currency").append_attribute("code") = part.name.substr(9).c_str();
          else
            one.append_child("Name").text() = part.name.c_str();
        }
      }
      if (!about.meaning.empty()) details.append_child("Notes").text() = about.meaning.c_str();
    }
  }

  std::string free_id(const std::string& wanted) {
    std::string out = wanted;
    for (int number = 2; taken_.contains(out); ++number) out = fmt::format("{}.{}", wanted, number);
    return out;
  }

  std::string id(std::string_view name) {
    std::string out = "p-";
    for (const char c : name) out += std::isalnum(static_cast<unsigned char>(c)) || c == '-' ? c : '.';
    return free_id(out);
  }

  void put(std::string name, std::string_view format, const std::string& data, std::vector<UnitPart> unit = {},
           std::string meaning = {}) {
    pugi::xml_node node = details_.append_child("PropertyData");
    node.append_attribute("property") = id(name).c_str();
    pugi::xml_node value = node.append_child("Data");
    value.append_attribute("format") = std::string(format).c_str();
    value.text() = data.c_str();
    properties_.try_emplace(std::move(name), About{std::move(unit), std::move(meaning)});
  }

  void write(const Material& m) {
    pugi::xml_node node = root_.append_child("Material");
    do ++count_;
    while (taken_.contains(fmt::format("m{}", count_)));
    node.append_attribute("id") = fmt::format("m{}", count_).c_str();
    details_ = node.append_child("BulkDetails");
    details_.append_child("Name").text() = m.name.c_str();
    details_.append_child("Class").append_child("Name").text() = std::string(name_of(m.kind)).c_str();
    for (const Quantity& q : quantities())
      if (const auto value = q.get(m))
        put(std::string(q.key), "float", fmt::format("{}", *value), unit_parts(q.dimension, units_),
            std::string(q.meaning));
    const auto stress = unit_parts(Dimension::stress, units_);
    if (m.elastic.full) {
      std::string list;
      for (Eigen::Index i = 0; i < 6; ++i)
        for (Eigen::Index j = i; j < 6; ++j)
          list += fmt::format("{}{}", list.empty() ? "" : ",", (*m.elastic.full)(i, j));
      put("C", "float", list, stress, "stiffness, order 11 22 33 23 13 12, rows from the diagonal on");
    }
    if (!m.sheared.empty()) {
      const auto column = [&](double Sheared::*value) {
        std::string list;
        for (const Sheared& row : m.sheared) list += fmt::format("{}{}", list.empty() ? "" : ",", row.*value);
        return list;
      };
      put("sheared.angle", "float", column(&Sheared::shear), {{"deg", 1}}, "shear of the cloth");
      put("sheared.E1", "float", column(&Sheared::E1), stress, "along the longer diagonal of the sheared cells");
      put("sheared.E2", "float", column(&Sheared::E2), stress, "along the other diagonal");
      put("sheared.nu12", "float", column(&Sheared::nu12));
      put("sheared.G12", "float", column(&Sheared::G12), stress);
    }
    if (m.yarns) {
      put("yarns.warp-share", "float", fmt::format("{}", m.yarns->warp_share));
      for (const auto& [name, elastic] : {std::pair{"warp", m.yarns->warp}, std::pair{"weft", m.yarns->weft}}) {
        const Elastic& y = elastic;
        put(fmt::format("yarns.{}.moduli", name), "float",
            fmt::format("{},{},{},{},{},{}", y.E1, y.E2, y.E3, y.G12, y.G13, y.G23), stress, "E1 E2 E3 G12 G13 G23");
        put(fmt::format("yarns.{}.ratios", name), "float", fmt::format("{},{},{}", y.nu12, y.nu13, y.nu23), {},
            "nu12 nu13 nu23");
      }
      const auto three = [](const Vec3& v) { return fmt::format("{},{},{}", v.x(), v.y(), v.z()); };
      if (const auto& v = m.yarns->thermal) put("yarns.alpha", "float", three(*v), {{"K", -1}}, "along 1, 2, 3");
      if (const auto& v = m.yarns->moisture) put("yarns.beta", "float", three(*v), {}, "along 1, 2, 3");
    }
    if (m.cost)
      put(m.cost->per == Cost::Per::mass ? "cost per mass" : "cost per area", "float", fmt::format("{}", m.cost->value),
          {{"currency:" + m.cost->currency, 1},
           m.cost->per == Cost::Per::mass ? UnitPart{"kg", -1} : UnitPart{"m", -2}});
    for (const auto& [key, text] : {std::pair{"mark", &m.mark}, std::pair{"weave", &m.form.weave},
                                    std::pair{"made-of", &m.made_of}, std::pair{"note", &m.note}})
      if (!text->empty()) put(key, "string", *text);
  }

  const UnitSystem& units_;
  pugi::xml_document document_;
  pugi::xml_node root_, details_;
  std::map<std::string, About> properties_;
  std::set<std::string> taken_;
  int count_ = 0;
};

/// Lower case letters and digits only.
std::string plain(std::string_view name) {
  std::string out;
  for (const char c : name)
    if (std::isalnum(static_cast<unsigned char>(c)))
      out += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  return out;
}

/// Names that other writers of MatML use, for what they mean to us.
constexpr std::pair<std::string_view, std::string_view> other_names[] = {{"youngsmodulus", "E"},
                                                                         {"elasticmodulus", "E"},
                                                                         {"modulusofelasticity", "E"},
                                                                         {"tensilemodulus", "E"},
                                                                         {"poissonsratio", "nu"},
                                                                         {"poissonratio", "nu"},
                                                                         {"shearmodulus", "G"},
                                                                         {"youngsmodulusx", "E1"},
                                                                         {"youngsmodulusy", "E2"},
                                                                         {"youngsmodulusz", "E3"},
                                                                         {"youngsmodulusxdirection", "E1"},
                                                                         {"youngsmodulusydirection", "E2"},
                                                                         {"youngsmoduluszdirection", "E3"},
                                                                         {"poissonsratioxy", "nu12"},
                                                                         {"poissonsratioxz", "nu13"},
                                                                         {"poissonsratioyz", "nu23"},
                                                                         {"shearmodulusxy", "G12"},
                                                                         {"shearmodulusxz", "G13"},
                                                                         {"shearmodulusyz", "G23"},
                                                                         {"massdensity", "density"},
                                                                         {"thermalexpansion", "alpha"},
                                                                         {"coefficientofthermalexpansion", "alpha"},
                                                                         {"e11", "E1"},
                                                                         {"e22", "E2"},
                                                                         {"e33", "E3"}};

class MatmlReader {
 public:
  MatmlReader(std::string_view text, std::string path, const UnitSystem& units, Findings& findings)
      : path_(std::move(path)), units_(units), findings_(findings) {
    const pugi::xml_parse_result result = document_.load_buffer(text.data(), text.size());
    if (!result) {
      const auto offset =
          std::min<std::size_t>(static_cast<std::size_t>(std::max<std::ptrdiff_t>(result.offset, 0)), text.size());
      const auto line = 1 + static_cast<std::size_t>(
                                std::count(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(offset), '\n'));
      throw Failure({Severity::error,
                     "material.matml",
                     fmt::format("the file is not XML: {}", result.description()),
                     {path_, line, {}, {}},
                     "MatML 3.1 is read"});
    }
    if (!document_.child("MatML_Doc"))
      throw Failure({Severity::error, "material.matml", "the file is XML, but has no <MatML_Doc>", Place::in(path_),
                     "MatML 3.1 is read"});
  }

  std::vector<Material> read() {
    const pugi::xml_node root = document_.child("MatML_Doc");
    for (const pugi::xml_node details : root.child("Metadata").children("PropertyDetails")) {
      Property property;
      property.name = details.child("Name").child_value();
      property.unitless = details.child("Unitless") || !details.child("Units");
      for (const pugi::xml_node unit : details.child("Units").children("Unit")) {
        const int power = unit.attribute("power").as_int(1);
        if (const pugi::xml_node currency = unit.child("Currency"))
          property.currency = currency.attribute("code").value();
        else
          property.unit.push_back({unit.child("Name").child_value(), power});
      }
      properties_[details.attribute("id").value()] = property;
    }
    std::vector<Material> out;
    for (const pugi::xml_node material : root.children("Material")) {
      const pugi::xml_node details = material.child("BulkDetails");
      if (!details || !*details.child("Name").child_value()) {
        findings_.note("material.matml-left", "a <Material> without bulk details or name was passed over",
                       Place::in(path_));
        continue;
      }
      if (auto made = read(details)) out.push_back(std::move(*made));
    }
    return out;
  }

 private:
  struct Property {
    std::string name, currency;
    std::vector<UnitPart> unit;
    bool unitless = true;
  };

  void left(const Material& m, std::string_view property, std::string_view why) {
    findings_.note("material.matml-left",
                   fmt::format("material '{}': property '{}' is not read: {}", m.name, property, why),
                   Place::in(path_));
  }

  /// Numbers of a property in our units; nothing where one cannot be read.
  std::optional<std::vector<double>> numbers(const pugi::xml_node& node, const Property& property,
                                             Dimension dimension) const {
    std::vector<double> out;
    const std::string text = node.child("Data").child_value();
    const std::string unit = joined(property.unit), own = joined(unit_parts(dimension, units_));
    for (std::size_t at = 0; at <= text.size();) {
      const std::size_t end = std::min(text.find(',', at), text.size());
      const std::string word = text.substr(at, end - at);
      at = end + 1;
      try {
        out.push_back(units_.read(property.unitless || unit == own ? word : word + " " + unit, dimension));
      } catch (const std::invalid_argument&) {
        return std::nullopt;
      }
    }
    return out;
  }

  std::optional<double> one(const pugi::xml_node& node, const Property& property, Dimension dimension) const {
    const auto all = numbers(node, property, dimension);
    return all && all->size() == 1 ? std::optional((*all)[0]) : std::nullopt;
  }

  std::optional<Material> read(const pugi::xml_node& details) {
    Material m;
    m.name = plain_text(details.child("Name").child_value());
    m.where = Place::in(path_);
    std::optional<Kind> kind;
    for (const pugi::xml_node name : details.children("Class"))
      if (const auto known = kind_named(name.child("Name").child_value())) kind = known;
    if (const char* const notes = details.child("Notes").child_value(); *notes) m.note = notes;
    std::map<std::string, double> plain_elastic;
    std::map<std::string, std::vector<double>> lists;
    for (const pugi::xml_node node : details.children("PropertyData")) {
      const auto found = properties_.find(node.attribute("property").value());
      if (found == properties_.end()) {
        left(m, node.attribute("property").value(), "the metadata do not describe it");
        continue;
      }
      if (node.child("ParameterValue"))
        left(m, found->second.name, "it depends on a parameter");
      else
        take(m, node, found->second, plain_elastic, lists);
    }
    finish(m, kind, plain_elastic, lists);
    return m.elastic.E1 > 0.0 ? std::optional(m) : (left(m, "elastic constants", "there are too few"), std::nullopt);
  }

  void take(Material& m, const pugi::xml_node& node, const Property& property, std::map<std::string, double>& elastic,
            std::map<std::string, std::vector<double>>& lists) {
    const std::string& name = property.name;
    for (const auto& [key, text] : {std::pair{"mark", &m.mark}, std::pair{"weave", &m.form.weave},
                                    std::pair{"made-of", &m.made_of}, std::pair{"note", &m.note}})
      if (name == key) {
        *text = node.child("Data").child_value();
        return;
      }
    if (name == "cost per mass" || name == "cost per area") {
      Cost cost;
      cost.per = name == "cost per mass" ? Cost::Per::mass : Cost::Per::area;
      cost.currency = property.currency;
      const std::string text = node.child("Data").child_value();
      const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), cost.value);
      if (error != std::errc{} || end != text.data() + text.size() || cost.currency.empty() ||
          joined(property.unit) != (cost.per == Cost::Per::mass ? "kg^-1" : "m^-2"))
        left(m, name, "it should be an amount of a currency per kg or per m^2");
      else
        m.cost = cost;
      return;
    }
    if (name == "C" || name.starts_with("sheared.") || name.starts_with("yarns.")) {
      const bool stress = !property.unitless && name != "sheared.angle";
      const auto values = numbers(node, property,
                                  name == "sheared.angle" ? Dimension::angle
                                  : name == "yarns.alpha" ? Dimension::expansion
                                  : stress                ? Dimension::stress
                                                          : Dimension::none);
      values ? void(lists[name] = *values) : left(m, name, "its numbers or their unit cannot be read");
      return;
    }
    const auto all = quantities();
    auto known = std::find_if(all.begin(), all.end(), [&](const Quantity& q) { return q.key == name; });
    if (known == all.end())  // G12 and the strain g12 differ by case only: what is exact goes first
      known = std::find_if(all.begin(), all.end(), [&](const Quantity& q) { return plain(q.key) == plain(name); });
    if (known != all.end()) {
      if (const auto value = one(node, property, known->dimension))
        known->set(m, *value);
      else
        left(m, name,
             fmt::format("it is no single number with a unit of its kind ({})",
                         joined(unit_parts(known->dimension, units_))));
      return;
    }
    std::string key = plain(name);
    for (const auto& [other, ours] : other_names)
      if (key == other) key = ours;
    if (key == "e" || key == "E" || key == "nu" || key == "g" || key == "G" || key == "alpha") {
      const bool stress = key[0] == 'e' || key[0] == 'E' || key[0] == 'g' || key[0] == 'G';
      if (const auto value = one(node, property,
                                 stress           ? Dimension::stress
                                 : key == "alpha" ? Dimension::expansion
                                                  : Dimension::none))
        elastic[key] = *value;
      else
        left(m, name, "it is no single number with a unit of its kind");
      return;
    }
    for (const Quantity& q : quantities())
      if (q.key == key) {
        if (const auto value = one(node, property, q.dimension)) return q.set(m, *value);
        return left(m, name, "it is no single number with a unit of its kind");
      }
    left(m, name, "we have no such property");
  }

  static void finish(Material& m, std::optional<Kind> kind, const std::map<std::string, double>& elastic,
                     std::map<std::string, std::vector<double>>& lists) {
    const auto value = [&](const char* key) -> std::optional<double> {
      const auto found = elastic.find(key);
      return found == elastic.end() ? std::nullopt : std::optional(found->second);
    };
    if (const auto E = value("E")) {
      const auto nu = value("nu"), G = value("G");
      m.elastic = isotropic(*E, nu ? *nu : G ? *E / (2.0 * *G) - 1.0 : 0.3);
    }
    if (const auto alpha = value("alpha")) m.thermal = {*alpha, *alpha, *alpha};
    Elastic& e = m.elastic;
    const bool nine = e.E3 > 0.0 && e.G13 > 0.0 && e.G23 > 0.0;
    if (!kind) kind = value("E") ? Kind::isotropic : nine ? Kind::orthotropic : Kind::unidirectional;
    m.kind = *kind;
    if (e.E1 > 0.0 && e.E2 > 0.0 && e.G12 > 0.0) {  // what plies may leave out
      if (e.E3 == 0.0) e.E3 = e.E2;
      if (e.G13 == 0.0) e.G13 = e.G12;
      if (e.G23 == 0.0) e.G23 = 0.5 * std::min(e.G12, e.E2);
    } else {
      e.E1 = 0.0;
    }
    if (const auto& C = lists["C"]; C.size() == 21) {
      Matrix6 full;
      std::size_t k = 0;
      for (Eigen::Index i = 0; i < 6; ++i)
        for (Eigen::Index j = i; j < 6; ++j) full(i, j) = full(j, i) = C[k++];
      const Elastic plain_nine = e;
      e = from_stiffness(full);
      if (plain_nine.E1 > 0.0) e = plain_nine;
      e.full = full;
    }
    const auto &angle = lists["sheared.angle"], &E1 = lists["sheared.E1"], &E2 = lists["sheared.E2"],
               &nu = lists["sheared.nu12"], &G = lists["sheared.G12"];
    if (angle.size() > 1 && E1.size() == angle.size() && E2.size() == angle.size() && nu.size() == angle.size() &&
        G.size() == angle.size())
      for (std::size_t i = 0; i < angle.size(); ++i) m.sheared.push_back({angle[i], E1[i], E2[i], nu[i], G[i]});
    const auto yarn = [&](const std::string& name) -> std::optional<Elastic> {
      const auto &moduli = lists["yarns." + name + ".moduli"], &ratios = lists["yarns." + name + ".ratios"];
      if (moduli.size() != 6 || ratios.size() != 3) return std::nullopt;
      return Elastic{.E1 = moduli[0],
                     .E2 = moduli[1],
                     .E3 = moduli[2],
                     .nu12 = ratios[0],
                     .nu13 = ratios[1],
                     .nu23 = ratios[2],
                     .G12 = moduli[3],
                     .G13 = moduli[4],
                     .G23 = moduli[5]};
    };
    const auto warp = yarn("warp"), weft = yarn("weft");
    if (warp && weft && lists["yarns.warp-share"].size() == 1)
      m.yarns = Yarns{.warp = *warp, .weft = *weft, .warp_share = lists["yarns.warp-share"][0]};
    for (const auto& [key, into] : {std::pair{"yarns.alpha", &Yarns::thermal}, {"yarns.beta", &Yarns::moisture}})
      if (const auto& v = lists[key]; m.yarns && v.size() == 3) (*m.yarns).*into = Vec3(v[0], v[1], v[2]);
  }

  std::string path_;
  const UnitSystem& units_;
  Findings& findings_;
  pugi::xml_document document_;
  std::map<std::string, Property> properties_;
};

}  // namespace

std::string matml_text(std::span<const Material> materials, const UnitSystem& units) {
  return Writer(units).write(materials);
}

namespace {

void gather_ids(const pugi::xml_node& node, std::set<std::string>& ids) {
  if (const pugi::xml_attribute id = node.attribute("id")) ids.insert(id.value());
}

}  // namespace

std::string matml_with(const std::string& text, const std::string& path, std::span<const Material> materials,
                       const UnitSystem& units) {
  const auto refuse = [&](std::string what) {
    throw Failure({Severity::error, "material.matml", std::move(what), Place::in(path),
                   "write the materials to a file of their own"});
  };
  if (!is_utf8(text)) refuse("nothing can be added: the file is not in UTF-8");
  pugi::xml_document document;
  const pugi::xml_node root = document.load_buffer(text.data(), text.size(), pugi::parse_default, pugi::encoding_utf8)
                                  ? document.child("MatML_Doc")
                                  : pugi::xml_node();
  const std::size_t end = text.rfind("</MatML_Doc");
  if (!root || end == std::string::npos) refuse("nothing can be added: the file is no MatML with an end");
  std::set<std::string> taken;
  for (const pugi::xml_node node : root.children()) {
    gather_ids(node, taken);
    for (const pugi::xml_node details : node.children()) gather_ids(details, taken);
  }
  const Writer::Pieces pieces = Writer(units, std::move(taken)).pieces(materials);
  // Materials stand before everything else of the document; what is there stays as it is, to the letter.
  std::size_t at = end;
  for (const pugi::xml_node node : root.children())
    if (node.type() == pugi::node_element && std::string_view(node.name()) != "Material") {
      at = static_cast<std::size_t>(node.offset_debug()) - 1;
      break;
    }
  const pugi::xml_node metadata = root.child("Metadata");
  std::string out = text;
  std::string details = "\n" + pieces.details + "  ";
  if (!metadata) {
    out.insert(end, fmt::format("  <Metadata>{}</Metadata>\n", details));
  } else {
    const std::size_t name = static_cast<std::size_t>(metadata.offset_debug());
    const std::size_t close = text.find('>', name);
    if (text[close - 1] == '/')
      out.replace(close - 1, 2, fmt::format(">{}</Metadata>", details));
    else
      out.insert(close + 1, details);
  }
  out.insert(
      at, pieces.materials.substr(std::min(pieces.materials.find_first_not_of(' '), pieces.materials.size())) + "  ");
  return out;
}

std::vector<Material> read_matml(std::string_view text, const std::string& path, const UnitSystem& units,
                                 Findings& findings) {
  return MatmlReader(text, path, units, findings).read();
}

}  // namespace bordado::material
