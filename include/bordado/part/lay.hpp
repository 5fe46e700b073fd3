/// \file lay.hpp
/// How a draped cloth is laid.
#ifndef BORDADO_PART_LAY_HPP
#define BORDADO_PART_LAY_HPP

#include <array>
#include <string_view>

namespace bordado::part {

/// How cloth lies on the surface.
enum class Lay {
  straight,  ///< a net of warp and weft; the two yarns through the seed run straight
  led,       ///< a net; the yarns through the seed are led so that it shears least
  strips     ///< unidirectional tape laid straight, strip beside strip
};

inline constexpr std::array<std::string_view, 3> lay_names = {"straight", "led", "strips"};

}  // namespace bordado::part

#endif
