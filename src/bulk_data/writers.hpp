// Bulk data decks, and what stands in them of the laminate.
#pragma once

#include <bordado/base/files.hpp>
#include <bordado/deck/into.hpp>
#include <bordado/strength.hpp>

namespace bordado::bulk_data {

using model::Model;

deck::Written write_shells(const Model& model, const std::string& path, const deck::WriteOptions& options,
                           Findings& findings);
deck::Written write_solids(const Model& model, const std::string& path, const deck::WriteOptions& options,
                           Findings& findings);
/// Numbers that are taken in a deck of somebody else's: ours begin behind them.
struct Taken {
  std::int64_t properties = 0, materials = 0;
};
/// Elements, properties and materials, written where the file stands; the file is not committed.
deck::Written put_laminate(const Model& model, OutputFile& file, const std::string& path,
                           const deck::WriteOptions& options, const Taken& taken, Findings& findings);
/// See deck::write_into().
deck::Written write_into(const deck::ExistingDeck& existing, const Model& model, const std::string& path,
                         const deck::WriteOptions& options, Findings& findings);

/// Whether a shell's card has no place for a material's transverse shear moduli: MAT2.
bool shears_not(const material::Material& material);
/// MAT1, MAT8 or MAT2 for shells, with the strengths that are known: as strains where layers are judged by these and all
/// are given.
std::string shell_material(std::int64_t id, const material::Material& material,
                           std::optional<laminate::Criterion> judged_by = {});
/// What a criterion is called on a property's card; empty where it has no word.
std::string_view word_for(laminate::Criterion criterion);
std::span<const laminate::Criterion> judges();
/// The first strength that cards of a material lack for a criterion; empty where they have all.
std::string_view missing_for_cards(laminate::Criterion criterion, const material::Material& material);
/// The shear that a material bears between its layers, the lesser of both.
std::optional<double> bond_strength(const material::Material& material);

/// A laminate as materials of a property without layers.
struct Homogenised {
  /// Stretching, bending, transverse shear (xz, yz in its first two rows), coupling.
  std::array<laminate::Matrix3, 4> G;
  std::array<laminate::Vector3, 4> expansion;
  double density = 0.0;
  std::optional<double> stress_free;
  bool couples = false;        ///< whether there is a fourth
  double moment_unsaid = 0.0;  ///< of the moment that holds it when warmed: what is left out, per what its layers push
  std::string card(std::size_t which, std::int64_t id) const;
};
Homogenised homogenised(std::span<const laminate::Layer> layers, double bottom, std::optional<double> stress_free);

/// MAT9: 21 constants of a solid.
std::string solid_material(std::int64_t id, const material::Material& material);

/// What the table of formats has of a material; see deck::Format.
std::string material_cards(const material::Material& material, std::int64_t id);
bool has_material(std::string_view text, const material::Material& material, std::int64_t id);
std::string material_is(const material::Material& material, std::int64_t id);

}  // namespace bordado::bulk_data
