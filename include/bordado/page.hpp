/// \file page.hpp
/// The review page: a part, its variants and its results in one file for the browser.
#ifndef BORDADO_REVIEW_PAGE_HPP
#define BORDADO_REVIEW_PAGE_HPP

#include <bordado/mesh/io.hpp>
#include <bordado/review/results.hpp>

#include <array>
#include <cstddef>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace bordado {
struct Design;
}

namespace bordado::page {

/// A number for each element that the page can colour by, beside those of the design; NaN where there is none.
struct PageField {
  std::string name, unit;
  std::vector<double> values;
};

/// Values of a file brought to the elements of a design: of its element that is nearest to the centre, or between its
/// nodes there; of vectors and tensors the length. NaN where the file has no place within the element's size. Its unit
/// is what stands behind the name's last blank, where that is its only one.
std::vector<PageField> page_fields(const mesh::Sampled& file, const Design& design);

/// What the part does in a case, or in a mode, for the page to show it moved.
struct PageShape {
  std::string name;         ///< "broach", "hum: 51.6 1/s"
  bool mode = false;        ///< its size means nothing
  std::vector<Vec3> moved;  ///< per node of the design's surface, part length
};

/// The sections of a case, for the page to tell stresses of plies.
struct PageCase {
  std::string name;
  std::vector<model::SectionState> sections;  ///< per element
  /// Per element, of a case with temperatures: those of the tool face and the bag face and the one where materials that do
  /// not say theirs are free of stress, all times the load's factor, and the factor.
  std::vector<std::array<float, 4>> heat = {};
  /// How strain and curvature of each element change along x, then along y: six numbers each. Shear between plies follows.
  std::vector<std::array<float, 12>> changes = {};
  std::vector<result::SectionResultants> carried = {};  ///< per element, as Recovery::carried() has it
  /// Elements of which it does not follow from these alone, ascending; and that shear, 13 and 23, at three places of each
  /// layer: of tapered[i] from first[i] on.
  std::vector<mesh::ElementIndex> tapered = {};
  std::vector<std::size_t> first = {};
  std::vector<float> shear = {};
};

/// What the solver answered, for the page.
struct PageResults {
  std::vector<PageShape> shapes;
  std::vector<PageCase> cases;          ///< static
  std::vector<std::string> case_names;  ///< that Critical::one counts
  std::vector<result::Critical> worst;  ///< places, least factor first
  std::vector<result::Critical> of_elements;
  bool solids = false;  ///< sections are planes through the strains of solids, reserves are of these
};

/// Gathers it. \param most places in the table
PageResults page_results(const review::Results& results, std::span<const model::CaseFields> with_modes,
                         std::size_t most = 40);

/// One part of a page, and what was found in it. The design must outlive the call.
struct PagePart {
  const Design* design = nullptr;
  std::vector<Finding> findings = {};
  std::vector<PageField> fields = {};
  std::vector<std::array<Vec3, 2>> profiles =
      {};  ///< sections that are shown, from one place to another; see profile()
  std::optional<PageResults> results = {};
  /// Criteria of the failure envelopes that are shown of the laminates with the most area and at the worst places.
  std::vector<laminate::Criterion> envelopes = {};
};

struct PageOptions {
  /// Of each part; at least 1000. A larger mesh is drawn with nodes near each other made one, and the page says so;
  /// numbers and tables are those of the whole part.
  std::size_t most_elements = 200'000;
};

struct Page {
  std::string html;
  std::size_t program_bytes = 0;   ///< of the page without a part
  std::size_t data_bytes = 0;      ///< of everything about the parts
  std::vector<std::size_t> drawn;  ///< elements, of each part
};

/// One HTML page that needs nothing else: the part in 3D and everything declared and computed about it; or two parts
/// (or variants of one) side by side with their differences. The same input gives the same bytes.
/// \throws std::invalid_argument for no part or more than two, and for a field of another length than the mesh.
Page page(std::span<const PagePart> parts, const PageOptions& options = {}, const Progress& progress = {});

}  // namespace bordado::page

#endif
