/// \file bordado.hpp
/// All rooms, and the way through them in one call.
///
///     bordado::Findings findings;
///     const bordado::Design design = bordado::open("skiff.toml", findings);
///     for (const bordado::Finding& finding : findings.all()) std::cerr << finding.text() << '\n';
///     bordado::write_deck(design, "calculix", "skiff.inp", {}, findings);
#ifndef BORDADO_BORDADO_HPP
#define BORDADO_BORDADO_HPP

#include <bordado/base.hpp>
#include <bordado/deck.hpp>
#include <bordado/design.hpp>
#include <bordado/drape.hpp>
#include <bordado/frame.hpp>
#include <bordado/laminate.hpp>
#include <bordado/layup.hpp>
#include <bordado/material.hpp>
#include <bordado/mesh.hpp>
#include <bordado/part.hpp>
#include <bordado/pattern.hpp>
#include <bordado/recovery.hpp>
#include <bordado/result.hpp>
#include <bordado/review.hpp>
#include <bordado/section.hpp>
#include <bordado/seeds.hpp>
#include <bordado/solids.hpp>
#include <bordado/strength.hpp>
#include <bordado/summary.hpp>
#include <bordado/zone.hpp>

namespace bordado {

/// Reads a part file and its mesh, makes the sides agree, lays the plies and condenses the sections.
/// \throws Failure with every error that is known at the step that failed.
Design open(const std::string& part_file, Findings& findings, const section::Options& options = {},
            const Progress& progress = {});

/// As open(), from a part that is already read (or was made by a program).
Design open(part::Part part, Findings& findings, const section::Options& options = {}, const Progress& progress = {});

/// As open(), on a surface that is in memory: its coordinates are in part length; the part's own mesh is not read.
Design open(part::Part part, mesh::Surface surface, Findings& findings, const section::Options& options = {},
            const Progress& progress = {});

/// Assembles the model and writes one deck. \param format "calculix" or "bulk-data".
/// \throws Failure "deck.format-unknown", and as assemble() and the writer.
deck::Written write_deck(const Design& design, std::string_view format, const std::string& path,
                         const deck::WriteOptions& options, Findings& findings);

/// The model of a design. \throws Failure as deck::assemble().
deck::Model assemble(const Design& design, const deck::AssembleOptions& options, Findings& findings);

/// Assembles the model, writes the CalculiX deck of its first case, runs the solver and judges its answer.
/// \throws Failure as deck::assemble() and result::solve().
result::Solved solve(const Design& design, const std::string& deck_path, const result::SolveOptions& options,
                     Findings& findings, const Progress& progress = {});

}  // namespace bordado

#endif
