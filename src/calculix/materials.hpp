// Materials as CalculiX reads them.
#pragma once

#include <bordado/calculix/boxes.hpp>

#include <functional>

namespace bordado::calculix {

/// What a material stands in. In shells of this solver the thickness must not follow the strains in the plane: where
/// thickness steps are tied it could not, and they came out 4 % too stiff. So nu13 and nu23 are nought there.
enum class MaterialUse { shell, solid };

/// *MATERIAL with nine constants (or 21), expansion and density. \param name as the deck calls it.
std::string material_text(const std::string& name, const material::Material& material, MaterialUse use);
/// As above, with what a layer expands by (x, y, xy in its axes; engineering) when the temperature in the deck is the
/// number of a case: 1, 2, ...
std::string heated_material(const std::string& name, const material::Material& material, std::span<const Vec3> by_case);
/// *EXPANSION as a table over the number of the case.
std::string expansion_by_number(std::span<const Vec3> by_case);

/// What a layer of a shell bears through its thickness, a stiffness: of a ply, and of any of three layers. Nothing ties it to
/// the plane there (MaterialUse). Cores are stiff: at a node that is held beside the middle one would be pressed in, which
/// no shell is.
double stiffness_through(const material::Material& material);
double stiffness_through(const ThreeLayers& three);

/// What three layers expand by, so that they push and bend as the laminate does under strains that vary through it:
/// `strain` at a height above the mesh is that of a layer, free to expand, in the section's axes.
std::array<laminate::Vector3, 3> expansions(
    const ThreeLayers& three, std::span<const laminate::Layer> layers, double bottom,
    const std::function<laminate::Vector3(std::size_t layer, double z)>& strain);

/// What the table of formats has of a material; see deck::Format.
std::string material_cards(const material::Material& material, std::int64_t id);
bool has_material(std::string_view text, const material::Material& material, std::int64_t id);
std::string material_is(const material::Material& material, std::int64_t id);

}  // namespace bordado::calculix
