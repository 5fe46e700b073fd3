/// \file design.hpp
/// Everything that follows from one part file, before a deck is written.
#ifndef BORDADO_DESIGN_HPP
#define BORDADO_DESIGN_HPP

#include <bordado/mesh/orientation.hpp>
#include <bordado/section.hpp>

namespace bordado {

/// A part, its surface with sides agreed, what lies on every element, and that as sections.
struct Design : layup::Laid {
  mesh::OrientReport orientation;
  section::Sections sections;

  Design();
  Design(Design&&) noexcept;
  Design& operator=(Design&&) noexcept;
  ~Design();
};

/// Reads a part file and its mesh, makes the sides agree, lays the plies and condenses the sections.
/// \throws Failure with every error that is known at the step that failed.
Design open(const std::string& part_file, Findings& findings, const section::Options& options = {},
            const Progress& progress = {});

/// As open(), from a part that is already read (or was made by a program).
Design open(part::Part part, Findings& findings, const section::Options& options = {}, const Progress& progress = {});

/// As open(), on a surface that is in memory: its coordinates are in part length; the part's own mesh is not read.
Design open(part::Part part, mesh::Surface surface, Findings& findings, const section::Options& options = {},
            const Progress& progress = {});

}  // namespace bordado

#endif
