/// \file writing.hpp
/// What those share who write a format of decks.
#ifndef BORDADO_DECK_WRITING_HPP
#define BORDADO_DECK_WRITING_HPP

#include <bordado/base/files.hpp>
#include <bordado/deck.hpp>

#include <array>
#include <functional>
#include <optional>

namespace bordado::deck {

/// Lines for the head of every deck, without comment marks: part, units, version, what was condensed and what it cost.
std::vector<std::string> head_lines(const Model& model, std::string_view format_title, const WriteOptions& options);

/// A text in lines of at most 76 characters, broken at blanks: a comment must fit the 80 columns of a card.
std::vector<std::string> wrapped(std::string_view text);

/// What every writer tells of itself at the end; orientations are the writer's own to fill in.
Written summary(const Model& model, const WriteOptions& options, const OutputFile& file, const std::string& path);

/// The plies of a section by their names.
std::string plies_text(const Model& model, section::SectionId section);

/// Letters, digits and underscores only, upper case, at most 40 characters.
std::string solver_name(std::string_view name);

/// The cases that options ask for, in order.
std::vector<std::size_t> wanted_cases(const Model& model, const WriteOptions& options);

/// Ids in ascending order as runs, each first and last.
std::vector<std::array<std::int64_t, 2>> runs_of(std::span<const std::int64_t> ids);

/// The same constants with other stiffnesses through the thickness, along 1 and along 2; of all 21, too.
material::Elastic with_transverse_shear(const material::Elastic& elastic, double G13, double G23);

/// A number as decks have it, "1.5-3" for 1.5e-3, too; nothing where it is none.
std::optional<double> number_in(std::string_view field);
/// Calls with each line of a text, without its end.
void for_each_line(std::string_view text, const std::function<void(std::string_view line)>& with);

/// Whether a line of a deck that may declare a material is the one: its fields between commas or of eight columns, trimmed, in
/// capitals.
bool any_material_line(std::string_view deck, const std::function<bool(const std::vector<std::string>& fields)>& is);

}  // namespace bordado::deck

#endif
