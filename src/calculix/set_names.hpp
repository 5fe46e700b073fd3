// Names of the sets that a CalculiX deck has of itself: who writes them, who keeps others from them and who reads an answer
// ask here.
#pragma once

#include <fmt/format.h>

#include <cctype>
#include <cstdint>
#include <set>
#include <string>
#include <string_view>

namespace bordado::calculix {

inline constexpr std::string_view all_nodes = "NALL", all_elements = "EALL";
/// Nodes that nothing holds, and those of which the solver's forces tell nothing.
inline constexpr std::string_view free_nodes = "FREE", untold_nodes = "OTHER";
/// Nodes of columns of solids that are held in any direction.
inline constexpr std::string_view held_columns = "HELD";

/// Nodes that are held along these of x, y, z: "HELD_XZ". \param directions bits as part::Freedom, one at least
inline std::string held_nodes(std::uint8_t directions) {
  std::string out = "HELD_";
  for (int k = 0; k < 3; ++k)
    if (directions >> k & 1) out += static_cast<char>('X' + k);
  return out;
}
inline bool is_held_nodes(std::string_view set) { return set.starts_with("HELD_"); }

/// The solids of a bed, and the nodes of their far face. \param number from 1
inline std::string bed_solids(std::size_t number) { return fmt::format("BED{}", number); }
inline std::string bed_ground(std::size_t number) { return fmt::format("BED{}_GROUND", number); }
inline bool is_bed_ground(std::string_view set) { return set.starts_with("BED") && set.ends_with("_GROUND"); }

/// Whether a name may be one of ours: these, orientations (S1_...) and groups (G1).
inline bool is_ours(std::string_view word) {
  return word == free_nodes || word == untold_nodes || word == held_columns || is_held_nodes(word) ||
         is_bed_ground(word) ||
         (word.size() > 1 && (word[0] == 'G' || word[0] == 'S') &&
          std::isdigit(static_cast<unsigned char>(word[1])) != 0);
}

/// Names made fit for a deck, each given once: those that come out as one that was given get a number.
class DeckNames {
 public:
  /// \param taken one more name that is not free. Those of our own sets (G1, S1_..., FREE, HELD_...) never are.
  explicit DeckNames(std::string taken) { used_.insert(std::move(taken)); }
  /// \param otherwise what it is called where no letter of it can stand in a deck.
  std::string fit(std::string_view name, std::string_view otherwise);

 private:
  std::set<std::string> used_;
};

}  // namespace bordado::calculix
