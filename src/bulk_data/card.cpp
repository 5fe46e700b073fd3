#include "card.hpp"

#include <numbers>

namespace bordado::bulk_data {

std::string axes_card(std::int64_t number, const Vec3& x, const Vec3& z) {
  LargeCard card("CORD2R");
  card.integer(number).integer(0);
  const Vec3 origin = Vec3::Zero();
  for (const Vec3* const point : {&origin, &z, &x})
    for (const double value : *point) card.real(value);
  return card.text();
}

std::string vector_card(std::string_view card, std::int64_t set, std::int64_t node, const Vec3& v, double factor) {
  return LargeCard(card).integer(set).integer(node).integer(0).real(factor).real(v.x()).real(v.y()).real(v.z()).text();
}

std::string gravity_card(std::int64_t set, const Vec3& gravity, double factor) {
  const double size = gravity.norm();
  if (!(size > 0.0)) return {};
  const Vec3 d = gravity / size;
  return LargeCard("GRAV").integer(set).integer(0).real(factor * size).real(d.x()).real(d.y()).real(d.z()).text();
}

std::string rotation_cards(std::int64_t set, std::int64_t node, const part::Rotation& r, double factor) {
  LargeCard grid("GRID"), force("RFORCE");
  grid.integer(node).blank();
  for (const double x : r.through) grid.real(x);
  grid.blank().integer(123456);
  force.integer(set).integer(node).integer(0).real(std::sqrt(factor) * r.speed / (2.0 * std::numbers::pi));
  for (const double x : r.along) force.real(x);
  return grid.text() + force.text();
}

std::string spring_cards(std::int64_t element, std::int64_t property, std::int64_t node, std::int64_t axes,
                         double stiffness) {
  LargeCard spring("CBUSH");
  spring.integer(element).integer(property).integer(node).blank().blank().blank().blank().integer(axes);
  return LargeCard("PBUSH").integer(property).word("K").real(stiffness).text() + spring.text();
}

std::string link_cards(std::int64_t element, std::int64_t node, const Vec3& at, std::span<const std::int64_t> nodes) {
  LargeCard body("RBE2");
  body.integer(element).integer(node).word("123");
  for (const std::int64_t n : nodes) body.integer(n);
  return LargeCard("GRID").integer(node).blank().real(at.x()).real(at.y()).real(at.z()).text() + body.text();
}

}  // namespace bordado::bulk_data
