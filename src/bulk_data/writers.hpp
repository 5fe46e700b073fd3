// Bulk data decks, and what stands in them of the laminate.
#pragma once

#include <bordado/base/files.hpp>
#include <bordado/deck/into.hpp>

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
/// MAT1, MAT8 or MAT2 for shells.
std::string shell_material(std::int64_t id, const material::Material& material);
/// MAT9: 21 constants of a solid.
std::string solid_material(std::int64_t id, const material::Material& material);

/// What the table of formats has of a material; see deck::Format.
std::string material_cards(const material::Material& material, std::int64_t id);
bool has_material(std::string_view text, const material::Material& material, std::int64_t id);
std::string material_is(const material::Material& material, std::int64_t id);

}  // namespace bordado::bulk_data
