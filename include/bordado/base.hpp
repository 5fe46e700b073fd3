/// \file base.hpp
/// What every room uses: findings and failures with a place in a file, units, angles, parallel loops, files.
#ifndef BORDADO_BASE_HPP
#define BORDADO_BASE_HPP

#include <bordado/base/absolute_zero.hpp>
#include <bordado/base/files.hpp>
#include <bordado/base/findings.hpp>
#include <bordado/base/ids.hpp>
#include <bordado/base/replacing.hpp>
#include <bordado/base/text.hpp>
#include <bordado/base/units.hpp>
#include <bordado/base/vector.hpp>
#include <bordado/base/work.hpp>

#endif
