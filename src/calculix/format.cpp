// CalculiX in the table of formats.
#include "materials.hpp"
#include "writers.hpp"

#include <bordado/deck/writing.hpp>

namespace bordado::calculix {

namespace {

deck::Written write(const Model& model, const std::string& path, const deck::WriteOptions& options,
                    Findings& findings) {
  return model.solids ? write_solids(model, path, options, findings) : write_shells(model, path, options, findings);
}

/// The middle lies at -OFFSET times the thickness; a layer's line begins with its thickness.
void for_each_section(std::string_view text, const std::function<void(double bottom, double thickness)>& with) {
  double offset = 0.0, thickness = 0.0;
  bool in_section = false;
  const auto end_section = [&] {
    if (in_section && thickness > 0.0) with((-offset - 0.5) * thickness, thickness);
    in_section = false;
    thickness = 0.0;
  };
  deck::for_each_line(text, [&](std::string_view line) {
    if (line.starts_with("**")) return;
    if (line.starts_with('*')) {
      end_section();
      if (!line.starts_with("*SHELL SECTION") || line.find("COMPOSITE") == std::string_view::npos) return;
      in_section = true;
      const auto at = line.find("OFFSET=");
      offset = at == std::string_view::npos
                   ? 0.0
                   : deck::number_in(line.substr(at + 7, line.find(',', at) - at - 7)).value_or(0.0);
    } else if (in_section) {
      thickness += deck::number_in(line.substr(0, line.find(','))).value_or(0.0);
    }
  });
  end_section();
}

}  // namespace

const deck::Format& format() {
  static constexpr deck::Format calculix{.name = "calculix",
                                         .title = "CalculiX",
                                         .extension = ".inp",
                                         .quadratic = true,
                                         .one_analysis = false,
                                         .write = write,
                                         .write_into = write_into,
                                         .remark = "** ",
                                         .material = material_cards,
                                         .has_material = has_material,
                                         .material_is = material_is,
                                         .for_each_section = for_each_section,
                                         .judges = {}};
  return calculix;
}

}  // namespace bordado::calculix
