// Stands for the review page where it is not built.
#include "program.hpp"

#include <bordado/base/findings.hpp>

namespace bordado::page {

std::string_view page_program() {
  throw Failure({Severity::error,
                 "page.not-built",
                 "this Bordado was built without the review page",
                 {},
                 "build it with nodejs and npm installed, without -DBORDADO_REVIEW_PAGE=OFF"});
}

}  // namespace bordado::page
