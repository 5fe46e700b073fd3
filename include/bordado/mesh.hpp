/// \file mesh.hpp
/// The surface of the part: nodes, shell elements, named groups; which side is which; how big it is.
#ifndef BORDADO_MESH_HPP
#define BORDADO_MESH_HPP

#include <bordado/mesh/care.hpp>
#include <bordado/mesh/curves.hpp>
#include <bordado/mesh/divide.hpp>
#include <bordado/mesh/io.hpp>
#include <bordado/mesh/locate.hpp>
#include <bordado/mesh/side.hpp>
#include <bordado/mesh/surface.hpp>

#endif
