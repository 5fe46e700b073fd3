// Bulk data's own text, read.
#pragma once

#include <bordado/deck/read_back.hpp>

#include <map>

namespace bordado::bulk_data {

/// A card of 21 constants of a solid (MAT9). That its fields stand as the format has them is from memory, here and in the
/// tests' own reader.
deck::MaterialRead solid_read(std::string_view card);

/// Cards of materials, then a property.
class CardsRead {
 public:
  void take(std::string_view text);
  deck::SectionRead section(std::string_view property) const;

 private:
  struct Read {
    std::optional<laminate::Matrix3> Q;  ///< of a card of plane constants
    material::Elastic elastic;
    laminate::Vector3 expansion = laminate::Vector3::Zero();
    double density = 0.0;
  };
  const Read& material(std::string_view id) const;
  deck::SectionRead without_layers(std::span<const std::string_view> fields) const;
  std::map<std::int64_t, Read> materials_;
};

}  // namespace bordado::bulk_data
