/// \file review.hpp
/// What a colleague looks at: the ply book, checks of the design, and what changed between two of them.
#ifndef BORDADO_REVIEW_HPP
#define BORDADO_REVIEW_HPP

#include <bordado/review/book.hpp>
#include <bordado/review/check.hpp>
#include <bordado/review/compare.hpp>
#include <bordado/review/drapes.hpp>
#include <bordado/review/fields.hpp>
#include <bordado/review/first_part.hpp>
#include <bordado/review/profile.hpp>
#include <bordado/review/results.hpp>
#include <bordado/review/runs.hpp>
#include <bordado/review/summary.hpp>

#endif
