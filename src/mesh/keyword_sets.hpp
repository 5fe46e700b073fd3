// Sets and surfaces of a keyword deck, gathered to groups of its mesh.
#pragma once

#include "builder.hpp"

#include <array>
#include <map>

namespace bordado::mesh {

/// A set as it is listed: numbers, and names of other sets.
struct KeywordSet {
  std::string name;  ///< as first written
  std::vector<std::int64_t> ids;
  /// First, last, step of generated ones: of these only what the mesh has is looked at, however far they run.
  std::vector<std::array<std::int64_t, 3>> runs = {};
  std::vector<std::string> sets = {};
  std::vector<std::string> of_elements = {};  ///< node sets: element sets whose nodes belong to it
  enum class State { listed, being_gathered, gathered } state = State::listed;
};
using KeywordSets = std::map<std::string, KeywordSet>;  ///< by name in capitals
struct KeywordFace {
  std::string of;  ///< a set or an element id
  std::string face;
};
struct KeywordSurface {
  std::string name;
  std::vector<KeywordFace> faces;
  std::vector<std::string> nodes;  ///< sets or ids
};

/// What a deck lists, before names are looked up.
struct KeywordLists {
  KeywordSets &node_sets, &element_sets;
  const std::vector<KeywordSurface>& surfaces;
  const std::vector<bool>& plane;  ///< per shell: a plane or membrane element, whose faces are its edges
  const std::vector<std::int64_t>& line_ids;
  const std::vector<std::array<std::int64_t, 3>>& lines;
};
/// Adds a group to the mesh for every set and surface that holds anything of it. Findings: "mesh.set-unknown".
void gather_sets(KeywordLists lists, RawMesh& mesh, const std::string& path, Findings& findings);

}  // namespace bordado::mesh
