// Bulk data in the table of formats.
#include "writers.hpp"

#include <bordado/deck/writing.hpp>

#include <algorithm>

namespace bordado::bulk_data {

namespace {

deck::Written write(const Model& model, const std::string& path, const deck::WriteOptions& options,
                    Findings& findings) {
  return model.solids ? write_solids(model, path, options, findings) : write_shells(model, path, options, findings);
}

/// Properties in large fields: z of the bottom in the third, then four a layer on lines of its own.
void for_each_section(std::string_view text, const std::function<void(double bottom, double thickness)>& with) {
  std::vector<std::string_view> fields;
  const auto end_card = [&] {
    if (fields.size() >= 12) {
      double sum = 0.0;
      for (std::size_t k = 9; k < fields.size(); k += 4) sum += deck::number_in(fields[k]).value_or(0.0);
      with(deck::number_in(fields[1]).value_or(-0.5 * sum), sum);
    }
    fields.clear();
  };
  bool in_card = false;
  deck::for_each_line(text, [&](std::string_view line) {
    const bool goes_on = line.starts_with('*') || line.starts_with(' ') || line.starts_with('+');
    if (!(in_card && goes_on)) {
      if (in_card) end_card();
      in_card = line.starts_with("PCOMP");
    }
    if (!in_card) return;
    line.remove_prefix(std::min<std::size_t>(8, line.size()));
    for (std::size_t k = 0; k < 4; ++k) {
      fields.push_back(line.substr(0, 16));
      line.remove_prefix(std::min<std::size_t>(16, line.size()));
    }
  });
  if (in_card) end_card();
}

}  // namespace

const deck::Format& format() {
  static const deck::Format bulk_data{.name = "bulk-data",
                                      .title = "bulk data",
                                      .extension = ".bdf",
                                      .quadratic = false,
                                      .one_analysis = true,
                                      .write = write,
                                      .write_into = write_into,
                                      .remark = "$ ",
                                      .material = material_cards,
                                      .has_material = has_material,
                                      .material_is = material_is,
                                      .for_each_section = for_each_section,
                                      .judges = judges()};
  return bulk_data;
}

}  // namespace bordado::bulk_data
