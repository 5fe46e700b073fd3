#include "read_back.hpp"

#include <fmt/format.h>
#include <Eigen/Geometry>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <utility>

namespace bordado::deck {

namespace {

std::string_view trimmed(std::string_view text) {
  const auto first = text.find_first_not_of(" \t\r");
  return first == std::string_view::npos ? std::string_view()
                                         : text.substr(first, text.find_last_not_of(" \t\r") - first + 1);
}

double number(std::string_view text) {
  text = trimmed(text);
  double out = 0.0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), out);
  if (error != std::errc() || end != text.data() + text.size())
    throw Failure({Severity::error,
                   "deck.read-back",
                   fmt::format("'{}' stands where a number should", text),
                   {},
                   "this is a mistake of Bordado's: please report it with the part"});
  return out;
}

std::vector<std::string_view> parted(std::string_view line) {
  std::vector<std::string_view> out;
  for (;;) {
    const std::size_t comma = line.find(',');
    out.push_back(trimmed(line.substr(0, comma)));
    if (comma == std::string_view::npos) return out;
    line.remove_prefix(comma + 1);
  }
}

template <class With>
void for_each_line(std::string_view text, With with) {
  while (!text.empty()) {
    const auto end = text.find('\n');
    with(text.substr(0, end));
    text.remove_prefix(end == std::string_view::npos ? text.size() : end + 1);
  }
}

/// The value of a parameter of a keyword line: "NAME" of "*MATERIAL, NAME=X".
std::string_view parameter(const std::vector<std::string_view>& words, std::string_view key) {
  for (const std::string_view word : words)
    if (word.starts_with(key) && word.size() > key.size() && word[key.size()] == '=')
      return word.substr(key.size() + 1);
  return {};
}

material::Elastic engineering(std::span<const double> n) {
  return {.E1 = n[0],
          .E2 = n[1],
          .E3 = n[2],
          .nu12 = n[3],
          .nu13 = n[4],
          .nu23 = n[5],
          .G12 = n[6],
          .G13 = n[7],
          .G23 = n[8]};
}

/// Of 1111, 1122, 2222, 1133, ..., by columns of 11, 22, 33, 12, 13, 23.
material::Elastic anisotropic(std::span<const double> n) {
  constexpr int ours[] = {0, 1, 2, 5, 4, 3};
  material::Matrix6 C = material::Matrix6::Zero();
  std::size_t k = 0;
  for (int column = 0; column < 6; ++column)
    for (int row = 0; row <= column; ++row, ++k) C(ours[row], ours[column]) = C(ours[column], ours[row]) = n[k];
  material::Elastic out;
  out.full = C;
  return out;
}

/// A laminate as it gathers layer on layer.
class Gathering {
 public:
  explicit Gathering(double bottom) : z_(bottom) {}
  /// \param Q, G, expansion in the axes of the section
  void add(double t, const laminate::Matrix3& Q, const laminate::Matrix2& G, const laminate::Vector3& expansion,
           double density) {
    const double middle = z_ + 0.5 * t;
    out.stiffness.A += t * Q;
    out.stiffness.B += t * middle * Q;
    out.stiffness.D += t * (middle * middle + t * t / 12.0) * Q;
    out.stiffness.H += t * G;
    out.areal_mass += t * density;
    out.expansion.N += t * Q * expansion;
    out.expansion.M += t * middle * Q * expansion;
    z_ += t;
  }
  SectionRead out;

 private:
  double z_;
};

laminate::Matrix2 turned_shear(double G13, double G23, Angle angle) {
  const double c = angle.cos(), s = angle.sin();
  laminate::Matrix2 out;
  out << c * c * G13 + s * s * G23, c * s * (G13 - G23), c * s * (G13 - G23), s * s * G13 + c * c * G23;
  return out;
}

}  // namespace

SectionRead turned_over(const SectionRead& read) {
  const Eigen::DiagonalMatrix<double, 3> turn(1.0, 1.0, -1.0);
  const Eigen::DiagonalMatrix<double, 2> across(-1.0, 1.0);  // xz, yz
  SectionRead out = read;
  out.stiffness.A = turn * read.stiffness.A * turn;
  out.stiffness.B = -1.0 * (turn * read.stiffness.B * turn);
  out.stiffness.D = turn * read.stiffness.D * turn;
  out.stiffness.H = across * read.stiffness.H * across;
  out.expansion.N = turn * read.expansion.N;
  out.expansion.M = -1.0 * (turn * read.expansion.M);
  return out;
}

void CalculixRead::take(std::string_view text) {
  enum class In { nothing, elastic, expansion, density, orientation } in = In::nothing;
  std::string name, kind;
  std::vector<double> numbers;
  const auto finish = [&] {
    if (in == In::elastic)
      materials_[name].elastic = kind == "ANISO" ? anisotropic(numbers) : engineering(numbers);
    else if (in == In::expansion)
      std::copy_n(numbers.begin(), std::min<std::size_t>(6, numbers.size()), materials_[name].expansion.begin());
    else if (in == In::density)
      materials_[name].density = numbers.at(0);
    else if (in == In::orientation)
      orientations_[name] = {Vec3(numbers.at(0), numbers.at(1), numbers.at(2)),
                             Vec3(numbers.at(3), numbers.at(4), numbers.at(5))};
    numbers.clear();
    in = In::nothing;
  };
  for_each_line(text, [&](std::string_view line) {
    if (line.starts_with("**") || trimmed(line).empty()) return;
    if (line.front() != '*') {
      if (in != In::nothing)
        for (const std::string_view field : parted(line))
          if (!field.empty()) numbers.push_back(number(field));
      return;
    }
    finish();
    const auto words = parted(line);
    kind = parameter(words, "TYPE");
    if (words[0] == "*MATERIAL") name = parameter(words, "NAME"), materials_[name] = {};
    if (words[0] == "*ELASTIC") in = In::elastic;
    if (words[0] == "*EXPANSION") in = In::expansion;
    if (words[0] == "*DENSITY") in = In::density;
    if (words[0] == "*ORIENTATION") name = parameter(words, "NAME"), in = In::orientation;
  });
  finish();
}

MaterialRead CalculixRead::material(std::string_view name) const {
  const auto found = materials_.find(name);
  if (found == materials_.end()) return {};
  const Read& m = found->second;
  MaterialRead out{material::stiffness(m.elastic), {}, m.density};
  const std::array<double, 6>& a = m.expansion;  // 11 22 33 12 13 23, tensorial
  out.expansion << a[0], a[1], a[2], 2.0 * a[5], 2.0 * a[4], 2.0 * a[3];
  return out;
}

SectionRead CalculixRead::section(std::string_view card, const Vec3& reference, const Vec3& normal) const {
  double offset = 0.0, h = 0.0;
  std::vector<std::vector<std::string_view>> layers;
  bool begun = false;
  for_each_line(card, [&](std::string_view line) {
    if (line.starts_with("**")) return;
    if (line.starts_with("*")) {
      if (std::exchange(begun, true)) return;  // a copy changes nothing
      offset = number(parameter(parted(line), "OFFSET"));
      return;
    }
    layers.push_back(parted(line));
  });
  for (const auto& layer : layers) h += number(layer.at(0));
  Gathering all(-offset * h - 0.5 * h);
  for (const auto& layer : layers) {
    const auto material = materials_.find(layer.at(2));
    const auto axes = orientations_.find(layer.at(3));
    if (material == materials_.end() || axes == orientations_.end())
      throw Failure({Severity::error,
                     "deck.read-back",
                     fmt::format("a section names '{}' and '{}', one of which the deck does not define", layer.at(2),
                                 layer.at(3)),
                     {},
                     "this is a mistake of Bordado's: please report it with the part"});
    const Read& m = material->second;
    const Angle angle = frame::between(reference, axes->second[0], normal);
    // Strains tensorial; of layers that expand the same in all directions across only those of the plane count.
    const laminate::Vector3 own(m.expansion[0], m.expansion[1], 2.0 * m.expansion[3]);
    all.add(number(layer.at(0)), laminate::rotated(laminate::plane_stress_stiffness(m.elastic), angle),
            laminate::transverse_stiffness(m.elastic, angle), laminate::strains_to(-angle) * own, m.density);
  }
  return all.out;
}

namespace {

/// The fields of one card, whatever its width, the name left out.
std::vector<std::string_view> fields_of_card(std::string_view card) {
  std::vector<std::string_view> out;
  for_each_line(card, [&](std::string_view line) {
    if (line.starts_with("$") || trimmed(line).empty()) return;
    const bool large = line.substr(0, 8).find('*') != std::string_view::npos;
    const std::size_t width = large ? 16 : 8, many = large ? 4 : 8;
    for (std::size_t k = 0; k < many; ++k) {
      const std::size_t at = 8 + k * width;
      out.push_back(at < line.size() ? trimmed(line.substr(at, width)) : std::string_view());
    }
  });
  return out;
}

/// "1.5-3" is 1.5e-3; blank is nought.
double bulk_number(std::string_view text) {
  if (text.empty()) return 0.0;
  std::string filled;
  for (std::size_t i = 0; i < text.size(); ++i) {
    if (i > 0 && (text[i] == '+' || text[i] == '-') && text[i - 1] != 'e' && text[i - 1] != 'E') filled += 'e';
    if (text[i] != '+') filled += text[i];
  }
  return number(filled);
}

}  // namespace

MaterialRead bulk_solid_read(std::string_view card) {
  constexpr int ours[] = {0, 1, 2, 5, 3, 4};  // xx yy zz xy yz zx
  const auto f = fields_of_card(card);
  const auto at = [&](std::size_t k) { return k < f.size() ? bulk_number(f[k]) : 0.0; };
  MaterialRead out;
  std::size_t k = 1;
  for (int row = 0; row < 6; ++row)
    for (int column = row; column < 6; ++column, ++k)
      out.stiffness(ours[row], ours[column]) = out.stiffness(ours[column], ours[row]) = at(k);
  out.density = at(k++);
  for (int i = 0; i < 6; ++i, ++k) out.expansion[ours[i]] = at(k);
  return out;
}

void compare_read(const Model& model, const material::Material& wanted, const MaterialRead& read, double digits) {
  const auto off = [&](std::string_view what, double by, double of) {
    if (by <= digits * of || (by == 0.0 && of == 0.0)) return;
    throw Failure(
        {Severity::error, "deck.read-back",
         fmt::format("material '{}', read back from the deck, has {} that is {:.3g} % off the part's: the deck would "
                     "be wrong and is not written",
                     wanted.name, what, of > 0.0 ? 100.0 * by / of : 100.0),
         Place::in(model.part->file), "this is a mistake of Bordado's: please report it with the part"});
  };
  // Each constant by the stiffnesses of its two directions: one that is a thousandth of another is not lost in it.
  const material::Matrix6 C = material::stiffness(wanted.elastic);
  for (int i = 0; i < 6; ++i)
    for (int j = 0; j < 6; ++j)
      off("a stiffness", std::abs(read.stiffness(i, j) - C(i, j)), std::sqrt(C(i, i) * C(j, j)));
  off("a density", std::abs(read.density - wanted.density.value_or(0.0)), wanted.density.value_or(0.0));
  material::Vector6 expansion = material::Vector6::Zero();
  expansion.head<3>() = wanted.thermal.all();
  expansion[5] = wanted.thermal.shear.value_or(0.0);
  off("an expansion", (read.expansion - expansion).norm(), expansion.norm());
}

void BulkRead::take(std::string_view text) {
  // Cards, each with its continuation lines.
  std::vector<std::string> cards;
  for_each_line(text, [&](std::string_view line) {
    if (line.starts_with("$") || trimmed(line).empty()) return;
    const bool goes_on = line.front() == '*' || line.front() == '+' || line.front() == ' ';
    if (!goes_on) cards.emplace_back();
    if (!cards.empty()) (cards.back() += line) += '\n';
  });
  for (const std::string& card : cards) {
    const auto f = fields_of_card(card);
    const auto at = [&](std::size_t k) { return k < f.size() ? bulk_number(f[k]) : 0.0; };
    Read read;
    if (card.starts_with("MAT1")) {
      const double E = at(1), G = at(2), nu = at(3);
      read.elastic = material::isotropic(E, nu);
      if (G > 0.0) read.elastic.G12 = read.elastic.G13 = read.elastic.G23 = G;
      read.density = at(4);
      read.expansion = {at(5), at(5), 0.0};
    } else if (card.starts_with("MAT8")) {
      read.elastic = {.E1 = at(1),
                      .E2 = at(2),
                      .E3 = at(2),
                      .nu12 = at(3),
                      .nu13 = 0.0,
                      .nu23 = 0.0,
                      .G12 = at(4),
                      .G13 = at(5),
                      .G23 = at(6)};
      read.density = at(7);
      read.expansion = {at(8), at(9), 0.0};
    } else if (card.starts_with("MAT2")) {
      laminate::Matrix3 Q;
      Q << at(1), at(2), at(3), at(2), at(4), at(5), at(3), at(5), at(6);
      read.Q = Q;
      read.density = at(7);
      read.expansion = {at(8), at(9), at(10)};
    } else {
      continue;
    }
    materials_[static_cast<std::int64_t>(at(0))] = read;
  }
}

SectionRead BulkRead::section(std::string_view property) const {
  const auto f = fields_of_card(property);
  Gathering all(bulk_number(f.at(1)));
  for (std::size_t k = 8; k + 2 < f.size() && !f[k].empty(); k += 4) {
    const auto material = materials_.find(static_cast<std::int64_t>(bulk_number(f[k])));
    if (material == materials_.end())
      throw Failure({Severity::error,
                     "deck.read-back",
                     fmt::format("a property names material '{}', which the deck does not define", f[k]),
                     {},
                     "this is a mistake of Bordado's: please report it with the part"});
    const Read& m = material->second;
    const Angle angle = Angle::degrees(bulk_number(f[k + 2]));
    const laminate::Matrix3 Q = m.Q ? *m.Q : laminate::plane_stress_stiffness(m.elastic);
    const laminate::Matrix2 G =
        m.Q ? laminate::Matrix2(laminate::Matrix2::Zero()) : turned_shear(m.elastic.G13, m.elastic.G23, angle);
    all.add(bulk_number(f[k + 1]), laminate::rotated(Q, angle), G, laminate::strains_to(-angle) * m.expansion,
            m.density);
  }
  all.out.areal_mass += bulk_number(f.at(2));
  return all.out;
}

void compare_read(const Model& model, section::SectionId s, const SectionRead& read, const Held& held, double digits) {
  const section::Sections& sections = *model.sections;
  const auto layers = section::laminate_of(*model.part, sections, s);
  const laminate::Stiffness wanted = laminate::stiffness(layers, sections.bottom[s]);
  // Where the laminate lies off the mesh B and D are larger by that: they are compared by the distance of its far face.
  const double h = sections.thickness[s],
               far = std::max(std::abs(sections.bottom[s]), std::abs(sections.bottom[s] + h));
  const auto off = [&](std::string_view what, double by, double of) {
    if (by <= digits * of || !(of > 0.0)) return;
    throw Failure({Severity::error, "deck.read-back",
                   fmt::format("section {}, read back from the deck, has {} that is {:.3g} % off the layup's: the deck "
                               "would be wrong and is not written",
                               index(s) + 1, what, 100.0 * by / of),
                   Place::in(model.part->file), "this is a mistake of Bordado's: please report it with the part"});
  };
  const double A = wanted.A.norm();
  off("an A", (read.stiffness.A - wanted.A).norm(), A);
  off("a B", (read.stiffness.B - wanted.B).norm(), A * far);
  off("a D", (read.stiffness.D - wanted.D).norm(), A * far * far);
  // D about the laminate's own middle, where it is small beside that about the mesh.
  const laminate::Stiffness own = laminate::moved(wanted, sections.bottom[s] + 0.5 * h),
                            there = laminate::moved(read.stiffness, sections.bottom[s] + 0.5 * h);
  off("a D about its middle", (there.D - own.D).norm(), own.D.norm() * std::max(1.0, std::pow(far / h, 2)));
  if (held.shear) off("an H", (read.stiffness.H - wanted.H).norm(), wanted.H.norm());
  const double mass = laminate::areal_mass(layers) + held.added;
  off("a mass", std::abs(read.areal_mass - mass), mass);
  if (!held.expansion) return;
  const laminate::Resultants expands =
      laminate::held_expansion(layers, sections.bottom[s], laminate::Expands::by_temperature);
  // By what its layers push one by one: what is left of them may be nothing.
  double pushes = 0.0;
  for (const laminate::Layer& layer : layers)
    pushes += layer.thickness * (laminate::rotated(laminate::plane_stress_stiffness(layer.elastic), layer.angle) *
                                 laminate::free_strain(layer, laminate::Expands::by_temperature))
                                    .norm();
  off("a thermal force", (read.expansion.N - expands.N).norm(), pushes);
  off("a thermal moment", (read.expansion.M - expands.M).norm(), pushes * far);
}

}  // namespace bordado::deck
