// A CalculiX deck's own text, read.
#pragma once

#include <bordado/deck/read_back.hpp>

#include <map>

namespace bordado::calculix {

/// Materials and sections as text, one after the other.
class TextRead {
 public:
  /// Cards of materials and orientations.
  void take(std::string_view text);
  /// A material that was taken.
  deck::MaterialRead material(std::string_view name) const;
  /// A section card with its layers. \param reference, normal of its elements
  deck::SectionRead section(std::string_view card, const Vec3& reference, const Vec3& normal) const;

 private:
  struct Read {
    material::Elastic elastic;
    std::array<double, 6> expansion{};  ///< 11 22 33 12 13 23, tensorial
    double density = 0.0;
  };
  std::map<std::string, Read, std::less<>> materials_;
  std::map<std::string, std::array<Vec3, 2>, std::less<>> orientations_;
};

}  // namespace bordado::calculix
