#include "read_back.hpp"

#include <bordado/deck/writing.hpp>

#include <fmt/format.h>

#include <string>

namespace bordado::bulk_data {

namespace {

std::string_view trimmed(std::string_view text) {
  const auto first = text.find_first_not_of(" \t\r");
  return first == std::string_view::npos ? std::string_view()
                                         : text.substr(first, text.find_last_not_of(" \t\r") - first + 1);
}

/// The fields of one card, whatever its width, the name left out.
std::vector<std::string_view> fields_of_card(std::string_view card) {
  std::vector<std::string_view> out;
  deck::for_each_line(card, [&](std::string_view line) {
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

/// Blank is nought.
double value_of(std::string_view field) { return field.empty() ? 0.0 : deck::number_read(field); }

laminate::Matrix2 turned_shear(double G13, double G23, Angle angle) {
  const double c = angle.cos(), s = angle.sin();
  laminate::Matrix2 out;
  out << c * c * G13 + s * s * G23, c * s * (G13 - G23), c * s * (G13 - G23), s * s * G13 + c * c * G23;
  return out;
}

}  // namespace

deck::MaterialRead solid_read(std::string_view card) {
  constexpr int ours[] = {0, 1, 2, 5, 3, 4};  // xx yy zz xy yz zx
  const auto f = fields_of_card(card);
  const auto at = [&](std::size_t k) { return k < f.size() ? value_of(f[k]) : 0.0; };
  deck::MaterialRead out;
  std::size_t k = 1;
  for (int row = 0; row < 6; ++row)
    for (int column = row; column < 6; ++column, ++k)
      out.stiffness(ours[row], ours[column]) = out.stiffness(ours[column], ours[row]) = at(k);
  out.density = at(k++);
  for (int i = 0; i < 6; ++i, ++k) out.expansion[ours[i]] = at(k);
  return out;
}

void CardsRead::take(std::string_view text) {
  // Cards, each with its continuation lines.
  std::vector<std::string> cards;
  deck::for_each_line(text, [&](std::string_view line) {
    if (line.starts_with("$") || trimmed(line).empty()) return;
    const bool goes_on = line.front() == '*' || line.front() == '+' || line.front() == ' ';
    if (!goes_on) cards.emplace_back();
    if (!cards.empty()) (cards.back() += line) += '\n';
  });
  for (const std::string& card : cards) {
    const auto f = fields_of_card(card);
    const auto at = [&](std::size_t k) { return k < f.size() ? value_of(f[k]) : 0.0; };
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

const CardsRead::Read& CardsRead::material(std::string_view id) const {
  const auto found = materials_.find(static_cast<std::int64_t>(value_of(id)));
  if (found == materials_.end())
    throw Failure({Severity::error,
                   "deck.read-back",
                   fmt::format("a property names material '{}', which the deck does not define", id),
                   {},
                   "this is a mistake of Bordado's: please report it with the part"});
  return found->second;
}

/// See what writes it (shells.cpp): its curvature runs the other way than ours.
deck::SectionRead CardsRead::without_layers(std::span<const std::string_view> f) const {
  deck::SectionRead out;
  const double T = value_of(f[2]);
  const Read &stretching = material(f[1]), &bending = material(f[3]), &shear = material(f[5]);
  out.stiffness.A = T * *stretching.Q;
  out.stiffness.D = value_of(f[4]) * T * T * T / 12.0 * *bending.Q;
  out.stiffness.H = value_of(f[6]) * T * shear.Q->topLeftCorner<2, 2>();
  out.areal_mass = T * stretching.density + value_of(f[7]);
  out.expansion.N = out.stiffness.A * stretching.expansion;
  if (f.size() > 10 && !f[10].empty()) {
    out.stiffness.B = -T * T * *material(f[10]).Q;
    out.expansion.M = out.stiffness.B * material(f[10]).expansion;
  }
  return out;
}

deck::SectionRead CardsRead::section(std::string_view property) const {
  const auto f = fields_of_card(property);
  if (property.starts_with("PSHELL")) return without_layers(f);
  deck::SectionGathered all(value_of(f.at(1)));
  for (std::size_t k = 8; k + 2 < f.size() && !f[k].empty(); k += 4) {
    const Read& m = material(f[k]);
    const Angle angle = Angle::degrees(value_of(f[k + 2]));
    const laminate::Matrix3 Q = m.Q ? *m.Q : laminate::plane_stress_stiffness(m.elastic);
    const laminate::Matrix2 G =
        m.Q ? laminate::Matrix2(laminate::Matrix2::Zero()) : turned_shear(m.elastic.G13, m.elastic.G23, angle);
    all.add(value_of(f[k + 1]), laminate::rotated(Q, angle), G, laminate::strains_to(-angle) * m.expansion, m.density);
  }
  all.out.areal_mass += value_of(f.at(2));
  return all.out;
}

}  // namespace bordado::bulk_data
