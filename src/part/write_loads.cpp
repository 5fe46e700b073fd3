// Supports, loads, masses and cases as a part file that reads back as the same.
#include "keys.hpp"

namespace bordado::part {

namespace {

constexpr std::string_view freedoms[] = {"x", "y", "z", "rx", "ry", "rz"};

Keys acting_on(const ActsOn& on) {
  Keys keys("\n");
  const auto* const name = std::get_if<std::string>(&on.what);
  std::vector<Declared<std::string>> names = on.also;
  if (name && !names.empty()) {
    names.insert(names.begin(), {*name, on.where});
    keys.put("on", names);
  } else if (name)
    keys.put("on", *name);
  else
    keys.put("point", std::get<Vec3>(on.what));
  return keys;
}

std::string table_of(const std::vector<std::pair<double, double>>& lines) {
  std::string out;
  for (const auto& [at, value] : lines)
    out += fmt::format("{}[{}, {}]", out.empty() ? "" : ", ", text(at), text(value));
  return "[" + out + "]";
}

/// Writes amounts and kinds of loads.
class LoadWriter {
 public:
  LoadWriter(Keys& keys, const std::string& path, const UnitSystem& units) : keys_(keys), path_(path), units_(units) {}

  void operator()(const Pressure& pressure) {
    if (const auto* const amount = std::get_if<Amount>(&pressure.value)) {
      put("pressure", *amount, Dimension::stress);
    } else {
      const auto& water = std::get<Hydrostatic>(pressure.value);
      keys_.raw("pressure", line()
                                .put("level", water.level)
                                .put("density", water.density)
                                .put("up", water.up)
                                .put("acceleration", water.acceleration)
                                .inline_table());
    }
    keys_.put("face", std::string(pressure.on_tool_face ? "tool" : "bag"));
  }
  void operator()(const Force& force) {
    keys_.put("force", force.total);
    if (force.moment != Vec3::Zero()) keys_.put("moment", force.moment);
    keys_.maybe("at", force.at);
    if (force.reach != Reach::spread) keys_.put("by", std::string(reach_names[static_cast<std::size_t>(force.reach)]));
  }
  void operator()(const EdgeForce& force) {
    keys_.put("edge-force", force.force);
    if (force.moment != Vec3::Zero()) keys_.put("edge-moment", force.moment);
    if (force.in_edge_axes) keys_.put("axes", std::string("edge"));
  }
  void operator()(const Traction& traction) { keys_.put("traction", traction.force); }
  void operator()(const Gravity& gravity) {
    if (gravity.of_part)
      keys_.put("acceleration", Vec3(-gravity.acceleration));
    else
      keys_.put("gravity", gravity.acceleration);
  }
  void operator()(const Rotation& rotation) {
    keys_.raw("rotation", line()
                              .put("through", rotation.through)
                              .put("along", rotation.along)
                              .put("speed", rotation.speed)
                              .inline_table());
  }
  void operator()(const Displacement& displacement) {
    Keys inner = line();
    for (std::size_t i = 0; i < 6; ++i)
      if (const auto& by = displacement.by[i]) inner.put(freedoms[i], i < 3 ? *by : Angle::radians(*by).degrees());
    keys_.raw("displacement", inner.inline_table());
  }
  void operator()(const Temperature& temperature) {
    if (temperature.through)
      keys_.raw("temperature", line()
                                   .raw("tool", of(temperature.tool, Dimension::temperature))
                                   .raw("bag", of(temperature.bag, Dimension::temperature))
                                   .inline_table());
    else
      put("temperature", temperature.tool, Dimension::temperature);
    keys_.maybe("stress-free", temperature.from);
  }

 private:
  void put(std::string_view key, const Amount& amount, Dimension dimension) { keys_.raw(key, of(amount, dimension)); }

  std::string of(const Amount& amount, Dimension dimension) const {
    if (const double* const number = std::get_if<double>(&amount.kind)) return text(*number);
    Keys out = line();
    if (const auto* const formula = std::get_if<Formula>(&amount.kind)) {
      out.put("formula", formula->text);
    } else if (const auto* const along = std::get_if<AlongAxis>(&amount.kind)) {
      out.put("along", along->along).put("from", along->from).raw("table", table_of(along->table));
    } else if (const auto* const by = std::get_if<ByDistance>(&amount.kind)) {
      out.put("of", by->of).raw("table", table_of(by->table));
    } else {
      const auto& field = std::get<OfField>(amount.kind);
      out.put("file", seen_from(path_, field.file.value))
          .put("field", field.field)
          .put("length", length_in(units_, field.factor));
    }
    if (amount.scale != 1.0 && dimension != Dimension::temperature)
      out.put("unit", fmt::format("{} {}", toml_number(amount.scale), units_.unit(dimension)));
    return out.inline_table();
  }

  Keys& keys_;
  const std::string& path_;
  const UnitSystem& units_;
};

/// A list where all factors are one, otherwise a table.
std::string shares(const std::vector<Share>& list) {
  const bool plain = std::all_of(list.begin(), list.end(), [](const Share& share) { return share.factor == 1.0; });
  std::vector<Declared<std::string>> names;
  Keys table = line();
  for (const Share& share : list) {
    names.push_back(share.name);
    table.put(toml_key(share.name.value), share.factor);
  }
  return plain ? text(names) : table.inline_table();
}

}  // namespace

Keys keys_of(const Support& support) {
  Keys keys = acting_on(support.on);
  if (support.bed) return keys.put("bed", *support.bed);
  std::vector<std::string> held;
  for (std::size_t i = 0; i < 6; ++i)
    if (support.held >> i & 1) held.emplace_back(freedoms[i]);
  return keys.put("hold", held).maybe("axes", support.axes).maybe("normal", support.normal);
}

Keys keys_of(const Load& load, const std::string& path, const UnitSystem& units) {
  Keys keys = acting_on(load.on);
  std::visit(LoadWriter(keys, path, units), load.kind);
  return keys;
}

Keys keys_of(const Mass& mass) {
  constexpr std::string_view per[] = {"total", "per-area", "per-length"};
  return acting_on(mass.on).put(per[static_cast<std::size_t>(mass.per)], mass.value);
}

Keys keys_of(const Case& load_case) {
  Keys keys("\n");
  keys.put("analysis", std::string(analysis_names[static_cast<std::size_t>(load_case.analysis)]));
  if (!load_case.loads.empty()) keys.raw("loads", shares(load_case.loads));
  if (!load_case.cases.empty()) keys.raw("cases", shares(load_case.cases));
  keys.maybe("supports", load_case.supports);
  if (load_case.analysis == Analysis::frequencies || load_case.analysis == Analysis::buckling)
    keys.put("count", load_case.count);
  return keys;
}

}  // namespace bordado::part
