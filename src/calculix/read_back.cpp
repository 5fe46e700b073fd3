#include "read_back.hpp"

#include <bordado/deck/writing.hpp>

#include <fmt/format.h>
#include <Eigen/Geometry>

#include <algorithm>
#include <utility>

namespace bordado::calculix {

namespace {

std::string_view trimmed(std::string_view text) {
  const auto first = text.find_first_not_of(" \t\r");
  return first == std::string_view::npos ? std::string_view()
                                         : text.substr(first, text.find_last_not_of(" \t\r") - first + 1);
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

}  // namespace

void TextRead::take(std::string_view text) {
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
  deck::for_each_line(text, [&](std::string_view line) {
    if (line.starts_with("**") || trimmed(line).empty()) return;
    if (line.front() != '*') {
      if (in != In::nothing)
        for (const std::string_view field : parted(line))
          if (!field.empty()) numbers.push_back(deck::number_read(field));
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

deck::MaterialRead TextRead::material(std::string_view name) const {
  const auto found = materials_.find(name);
  if (found == materials_.end()) return {};
  const Read& m = found->second;
  deck::MaterialRead out{material::stiffness(m.elastic), {}, m.density};
  const std::array<double, 6>& a = m.expansion;  // 11 22 33 12 13 23, tensorial
  out.expansion << a[0], a[1], a[2], 2.0 * a[5], 2.0 * a[4], 2.0 * a[3];
  return out;
}

deck::SectionRead TextRead::section(std::string_view card, const Vec3& reference, const Vec3& normal) const {
  double offset = 0.0, h = 0.0;
  std::vector<std::vector<std::string_view>> layers;
  bool begun = false;
  deck::for_each_line(card, [&](std::string_view line) {
    if (line.starts_with("**")) return;
    if (line.starts_with("*")) {
      if (std::exchange(begun, true)) return;  // a copy changes nothing
      offset = deck::number_read(parameter(parted(line), "OFFSET"));
      return;
    }
    layers.push_back(parted(line));
  });
  for (const auto& layer : layers) h += deck::number_read(layer.at(0));
  deck::SectionGathered all(-offset * h - 0.5 * h);
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
    all.add(deck::number_read(layer.at(0)), laminate::rotated(laminate::plane_stress_stiffness(m.elastic), angle),
            laminate::transverse_stiffness(m.elastic, angle), laminate::strains_to(-angle) * own, m.density);
  }
  return all.out;
}

}  // namespace bordado::calculix
