// The decks of CalculiX, and what stands in them of the laminate.
#pragma once

#include <bordado/base/files.hpp>
#include <bordado/calculix/boxes.hpp>
#include <bordado/deck/into.hpp>

namespace bordado::calculix {

deck::Written write_shells(const Model& model, const std::string& path, const deck::WriteOptions& options,
                           Findings& findings);
deck::Written write_solids(const Model& model, const std::string& path, const deck::WriteOptions& options,
                           Findings& findings);
/// How a laminate stands in a deck of somebody else's.
struct Placement {
  std::string prefix = {};                     ///< of all names
  std::vector<std::uint8_t> upside_down = {};  ///< per element: its nodes there run the other way round; or empty
};
/// Materials, orientations, sets and sections, written where the file stands; the file is not committed.
deck::Written put_laminate(const Model& model, OutputFile& file, const std::string& path,
                           const deck::WriteOptions& options, const Placement& placement, Findings& findings);
/// See deck::write_into().
deck::Written write_into(const deck::ExistingDeck& existing, const Model& model, const std::string& path,
                         const deck::WriteOptions& options, Findings& findings);

}  // namespace bordado::calculix
