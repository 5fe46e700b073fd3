// What the steps of laying work on.
#pragma once

#include <bordado/layup.hpp>

namespace bordado::layup {

struct Laying {
  const part::Part& part;
  const mesh::Surface& surface;
  const mesh::Geometry& geometry;
  Layup& layup;
  Findings& errors;
  Findings& findings;
};

}  // namespace bordado::layup
