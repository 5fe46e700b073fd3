/// \file absolute_zero.hpp
/// The lowest temperature there is.
#ifndef BORDADO_BASE_ABSOLUTE_ZERO_HPP
#define BORDADO_BASE_ABSOLUTE_ZERO_HPP

namespace bordado {

constexpr double absolute_zero = -273.15;  ///< degrees Celsius, in which temperatures stand everywhere

}  // namespace bordado

#endif
