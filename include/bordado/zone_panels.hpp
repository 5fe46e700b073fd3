/// \file zone_panels.hpp
/// Zones of a part as flat panels between stiff edges, and how far every element of them is from what no shell model shows: buckling
/// of the panel under the element's own laminate and forces, and short waves of faces.
#ifndef BORDADO_ZONE_PANELS_HPP
#define BORDADO_ZONE_PANELS_HPP

#include <bordado/margins.hpp>
#include <bordado/recovery.hpp>

namespace bordado::mesh {
struct Array;
}

namespace bordado::result {

/// The zone of that name. \throws Failure "zone.unknown".
zone::ZoneId zone_named(const Design& design, const std::string& zone);

/// A zone as a rectangle in its mean plane: x along the mean 0° of what lies there, y across.
struct ZonePanel {
  std::string zone;
  std::vector<mesh::ElementIndex> elements;  ///< ascending
  double a = 0.0, b = 0.0;                   ///< lengths along x and y: of the zone, or as they were said
  bool said = false;                         ///< they were
  Vec3 x = Vec3::UnitX(), normal = Vec3::UnitZ(), middle = Vec3::Zero();
  double area = 0.0;
  double filled = 0.0;  ///< the area over that of the rectangle that holds the zone
  double bulge = 0.0;   ///< from its lowest to its highest node along the normal
  double turns = 0.0;   ///< radians: the largest angle between an element's 0° and x
};
/// \throws Failure "zone.unknown", "panel.zone-empty", "panel.wraps" where it turns so far that it has no mean plane.
ZonePanel panel_under(const Design& design, const std::string& zone,
                      const std::optional<std::array<double, 2>>& lengths = {});
/// What of a zone is not as a flat rectangle is: "panel.not-rectangular", "panel.turned" (warnings), "panel.curved" (a note).
void tell_shape(const ZonePanel& panel, const UnitSystem& units, const Place& where, Findings& findings);

/// How it is held: along x = 0, x = a, y = 0, y = b.
struct PanelEdges {
  sizing::Edge x0 = sizing::Edge::simple, x1 = sizing::Edge::simple, y0 = sizing::Edge::simple,
               y1 = sizing::Edge::simple;
};

/// One thing that can happen, on every element of a zone.
struct ElementReserves {
  std::string what;                ///< sizing::buckling_words, or words() of a failure mode
  std::vector<double> factors;     ///< least over the cases; infinite where it does not happen
  std::vector<std::size_t> cases;  ///< which of the model's that is
  std::size_t least = 0;           ///< in the panel's elements
  std::size_t below_one = 0;
  double area_below_one = 0.0;
};
struct PanelCheck {
  ZonePanel panel;
  PanelEdges edges;
  sizing::Terms terms;                  ///< that buckling took
  std::size_t laminates = 0;            ///< that lie there
  std::vector<ElementReserves> things;  ///< by least factor
};
/// The criteria of short waves: wrinkling, dimpling, crimping.
std::span<const laminate::Criterion> short_waves();

/// Buckling takes each element's section and what it carries, held forces of temperature among it, as if all of the panel had
/// them; criteria are those of Recovery. \param fields of static cases, and which of the model's each is.
/// \throws std::invalid_argument as sizing::buckling_factors(), where the edges do not hold a panel.
std::vector<PanelCheck> check_panels(const model::Model& model, std::span<const ZonePanel> panels,
                                     const PanelEdges& edges, std::span<const model::CaseFields> fields,
                                     std::span<const std::size_t> cases, const Progress& progress = {});
/// What one element of a panel is sized for: its laminate and forces under a case, by hand. Refers to the design.
sizing::PanelCase panel_case(const model::Model& model, const PanelCheck& check, mesh::ElementIndex element,
                             const model::CaseFields& fields, std::size_t case_index);
/// "panel.buckles", "panel.wrinkles" (warnings) where something of a zone is below one.
void tell_reserves(const PanelCheck& check, const model::Model& model, Findings& findings);

/// Of every element the number of its panel, from 1, and each reserve, the least where panels share it; not a number elsewhere, and
/// where it does not happen.
std::vector<mesh::Array> fields_of(const Design& design, std::span<const PanelCheck> checks);

}  // namespace bordado::result

#endif
