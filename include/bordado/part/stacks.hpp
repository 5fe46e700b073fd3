/// \file stacks.hpp
/// Laminates by name: library files hold [laminate.NAME] beside materials.
#ifndef BORDADO_PART_STACKS_HPP
#define BORDADO_PART_STACKS_HPP

#include <bordado/laminate.hpp>
#include <bordado/part.hpp>

namespace bordado::part {

/// A laminate of a library by its name, lengths in the library's units; nothing where there is none or `errors` has got the
/// reason why it cannot be.
std::optional<Laminate> laminate_named(const material::Library& library, std::string_view name, Findings& errors);
/// Names of these in order of files, each once.
std::vector<std::string> laminate_names(const material::Library& library);
/// Such a laminate as layers. \param given materials, as in laminate::stack_by_code(): the first serves layers that name
/// none, before what the laminate itself says. \throws Failure as there, and "material.unknown", "part.key-missing".
laminate::Coded stack_of(const Laminate& laminate, std::span<const material::Material> given,
                         const material::Library& library, std::optional<double> thickness);

}  // namespace bordado::part

#endif
