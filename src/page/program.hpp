// The program of the review page, as web/ builds it.
#pragma once

namespace bordado::page {

/// An HTML page with @TITLE@ and, behind it, @DATA@ still to be filled in.
std::string_view page_program();

/// Upper triangles of A, B, D (3 x 3) and H (2 x 2) about the mesh surface; of a and d of the compliance about the
/// laminate's middle; and of the inverse of A.
inline constexpr std::size_t page_numbers_of_a_section = 6 + 6 + 6 + 3 + 6 + 6 + 6;

}  // namespace bordado::page
