// What every mesh reader fills: ids as the file has them, turned into a Surface with dense indices and checked once.
#pragma once

#include <bordado/mesh/io.hpp>

#include <map>
#include <unordered_map>

namespace bordado::mesh {

/// File ids to indices: an array where ids are dense, a hash map where they are not.
class IdMap {
 public:
  /// Ids in order of index. The index of the second holder of the first id met twice is kept in `duplicate()`.
  explicit IdMap(std::span<const std::int64_t> ids);
  std::uint32_t find(std::int64_t id) const {
    if (!table_.empty()) {
      const std::uint64_t slot = static_cast<std::uint64_t>(id) - static_cast<std::uint64_t>(lowest_);
      return slot >= table_.size() ? no_index : table_[slot];
    }
    const auto found = map_.find(id);
    return found == map_.end() ? no_index : found->second;
  }
  std::optional<std::uint32_t> duplicate() const { return duplicate_; }

 private:
  std::int64_t lowest_ = 0;
  std::vector<std::uint32_t> table_;
  std::unordered_map<std::int64_t, std::uint32_t> map_;
  std::optional<std::uint32_t> duplicate_;
};

/// A mesh as a file lists it. Node ids inside `nodes` and the groups are file ids.
struct RawMesh {
  struct RawGroup {
    std::string name;
    int dimension;
    std::vector<std::array<std::int64_t, 3>> edges;  ///< node ids; the third is 0 on a linear mesh
    std::vector<std::int64_t> points;                ///< node ids
    std::vector<std::uint32_t> elements;             ///< positions in `shapes`
  };
  std::vector<std::int64_t> node_ids;
  std::vector<double> coordinates;  ///< x y z per node, in file units
  std::vector<Shape> shapes;
  std::vector<std::int64_t> element_ids;
  std::vector<std::int64_t> nodes;  ///< node ids, node_count(shape) per element
  std::vector<RawGroup> groups;
  std::size_t passed_over = 0;  ///< elements that are not shells (solids)
  /// What else a file of this format may say instead of shells; for the message where it has none.
  std::string no_shells_remedy = {};
  /// Elements of types that are neither read nor known to be solids, by the type's name.
  std::map<std::string, std::size_t> unknown_types = {};
  /// Those whose type is unknown but whose nodes say what they are.
  std::map<std::string, std::size_t> guessed_types = {};
  /// Line of a node or element of this position, where the format can say so; may be empty.
  std::function<std::optional<std::size_t>(std::size_t)> node_line, element_line;
};

/// Checks everything that makes a mesh unusable and reports all of it at once, then builds the dense arrays.
/// \throws Failure "mesh.node-twice", "mesh.element-twice", "mesh.not-finite", "mesh.node-unknown", "mesh.no-shells",
///         "mesh.too-large".
Surface build(RawMesh&& raw, const std::string& path, const ReadOptions& options, Findings& findings);

}  // namespace bordado::mesh
