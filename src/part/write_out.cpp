// The list of plies written out: every ply by itself.
#include "plies.hpp"

#include <bordado/laminate.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>
#include <utility>

namespace bordado::part {

namespace {

class PlyWriter {
 public:
  PlyWriter(const Part& part, const MaterialFinder& find, Findings& errors)
      : part_(part), find_(find), errors_(errors) {
    for (std::size_t i = 0; i < part.list.lines.size(); ++i) {
      const PlyLine& line = part.list.lines[i];
      if (!by_id_.emplace(line.id, i).second)
        errors.error("part.name-twice", fmt::format("there are two plies with id '{}'", line.id), line.where,
                     "each piece of cloth has an id of its own");
    }
  }

  std::vector<Ply> write() {
    const std::set<std::string> off = groups_off();
    for (std::size_t i = 0; i < part_.list.lines.size(); ++i) {
      line_ = i;
      first_of_line_ = out_.size();
      add(part_.list.lines[i]);
      if (off.count(part_.list.lines[i].group)) out_.resize(first_of_line_);
    }
    if (part_.list.listed == Listed::last_laid_first) std::reverse(out_.begin(), out_.end());
    check_laminates();
    return std::move(out_);
  }

 private:
  std::set<std::string> groups_off() {
    std::set<std::string> known, off;
    for (const PlyLine& line : part_.list.lines) known.insert(line.group);
    const auto check = [&](const Declared<std::string>& name, const std::string& who) {
      if (known.count(name.value)) return true;
      std::vector<std::string> names(known.begin(), known.end());
      std::erase(names, "");
      const auto near = nearest_name(name.value, names);
      errors_.error("part.group-unknown", fmt::format("{}: no ply is in a group '{}'", who, name.value), name.where,
                    near            ? fmt::format("did you mean '{}'?", *near)
                    : names.empty() ? std::string("write group = \"...\" in the plies that belong to it")
                                    : fmt::format("groups: {}", listed(names, 20)));
      return false;
    };
    for (const Declared<std::string>& name : part_.list.off)
      if (check(name, "[layup] off")) off.insert(name.value);
    for (const Variant& variant : part_.variants) {
      for (const Declared<std::string>& name : variant.on)
        if (check(name, fmt::format("[variant.{}]", variant.name)) && variant.name == part_.variant)
          off.erase(name.value);
      for (const Declared<std::string>& name : variant.off)
        if (check(name, fmt::format("[variant.{}]", variant.name)) && variant.name == part_.variant)
          off.insert(name.value);
    }
    return off;
  }

  /// A line with everything that it takes from the plies it follows.
  PlyLine whole(const PlyLine& line, std::set<std::string>& seen, bool& good) {
    PlyLine out = line;
    if (!line.follows) return out;
    constexpr std::size_t deepest = 100;
    if (seen.size() > deepest) {
      if (told_circular_.insert("").second)
        errors_.error("part.too-deep",
                      fmt::format("ply '{}' follows another by way of more than {} others", line.id, deepest),
                      line.follows->where, "let it follow one of the first of them");
      good = false;
      return out;
    }
    if (!seen.insert(line.id).second) {
      if (told_circular_.insert(line.id).second)
        errors_.error("part.follows-circular", fmt::format("ply '{}' follows itself", line.id), line.follows->where,
                      "one of the plies that follow each other must say its own");
      good = false;
      return out;
    }
    const auto found = by_id_.find(line.follows->value);
    if (found == by_id_.end()) {
      std::vector<std::string> names;
      for (const auto& [id, at] : by_id_) names.push_back(id);
      const auto near = nearest_name(line.follows->value, names);
      if (told_unknown_.insert(line.id).second)
        errors_.error(
            "part.ply-unknown", fmt::format("ply '{}' follows '{}', which there is not", line.id, line.follows->value),
            line.follows->where, near ? fmt::format("did you mean '{}'?", *near) : "name the id of a line of the list");
      good = false;
      return out;
    }
    const PlyLine leader = whole(part_.list.lines[found->second], seen, good);
    const auto take = [](auto& mine, const auto& theirs) {
      if (!mine) mine = theirs;
    };
    take(out.material, leader.material);
    take(out.frame, leader.frame);
    take(out.zone, leader.zone);
    take(out.edge, leader.edge);
    take(out.corners, leader.corners);
    take(out.scallop, leader.scallop);
    take(out.chamfer, leader.chamfer);
    take(out.drape, leader.drape);
    if (!out.thickness && !out.varies) {
      out.thickness = leader.thickness;
      out.varies = leader.varies;
    }
    if (!out.angle && !out.code && !out.laminate) {
      out.angle = leader.angle;
      out.code = leader.code;
      out.laminate = leader.laminate;
      out.turned = Angle::degrees((line.turned ? line.turned->degrees() : 0.0) +
                                  (leader.turned ? leader.turned->degrees() : 0.0));
      if (out.repeat == 1) out.repeat = leader.repeat;
    }
    return out;
  }

  void add(const PlyLine& written) {
    std::set<std::string> seen;
    bool good = true;
    const PlyLine line = whole(written, seen, good);
    if (!good) return;
    std::vector<Ply> run;
    if (line.code)
      run = coded(line, *line.code, line.material);
    else if (line.laminate)
      run = templated(line, *line.laminate);
    else
      run = single(line);
    if (line.turned)
      for (Ply& ply : run) ply.angle = ply.angle + *line.turned;
    if (too_many(out_.size() + run.size() * static_cast<std::size_t>(line.repeat), line)) return;
    const bool several = line.code || line.laminate || line.repeat > 1;
    std::size_t number = 0;
    for (int i = 0; i < line.repeat; ++i)
      for (const Ply& ply : run) {
        out_.push_back(ply);
        out_.back().id = several ? fmt::format("{}.{}", line.id, ++number) : line.id;
        if (ply.chamfer && ply.chamfer->fill) add_fill();
      }
  }

  /// What makes up for the thickness that the last ply loses lies on it.
  void add_fill() {
    Ply fill = out_.back();
    fill.id += ".fill";
    fill.material = *fill.chamfer->fill;
    fill.angle = Angle();
    fill.fills = true;
    const std::optional<KnownMaterial> material = find_.by_name(fill.material.value);
    if (material && material->kind == material::Kind::fibre)
      errors_.error("part.fibre-laid",
                    fmt::format("ply '{}': material '{}' is a fibre, not a ply", fill.id, material->name),
                    fill.material.where, "fill with a resin or a filler");
    out_.push_back(std::move(fill));
    if (part_.list.listed == Listed::last_laid_first) std::swap(out_.back(), out_[out_.size() - 2]);
  }

  static constexpr std::size_t most_plies = 100'000;
  bool too_many(std::size_t plies, const PlyLine& line) {
    if (plies <= most_plies) return false;
    if (!std::exchange(told_many_, true))
      errors_.error("part.too-many-plies",
                    fmt::format("with ply '{}' the part has {} plies; at most {} are laid", line.id, plies, most_plies),
                    line.where, "check 'repeat' here and in the laminate");
    return true;
  }

  /// A ply with the names of its line or of [layup].
  std::optional<Ply> pattern(const PlyLine& line, const std::optional<Declared<std::string>>& material,
                             const std::optional<Declared<std::string>>& frame) {
    Ply ply;
    ply.line = line_;
    ply.where = line.where;
    ply.thickness = line.thickness;
    ply.varies = line.varies;
    ply.edge = line.edge;
    ply.corners = line.corners.value_or(Corners::round);
    ply.scallop = line.scallop;
    ply.chamfer = line.chamfer;
    ply.drape = line.drape;
    if (ply.chamfer && ply.varies) {
      if (told_chamfer_.insert(line.id).second)
        errors_.error("part.value", fmt::format("ply '{}' has a thickness that varies and a chamfer", line.id),
                      line.where, "both say how thick it is: leave one out");
      ply.chamfer.reset();
    }
    const auto name =
        [&](std::string_view key, const std::optional<Declared<std::string>>& first,
            const std::optional<Declared<std::string>>& otherwise) -> std::optional<Declared<std::string>> {
      if (first) return first;
      if (otherwise) return otherwise;
      errors_.error("part.key-missing", fmt::format("ply '{}' has no '{}'", line.id, key), line.where,
                    fmt::format("add {} = \"...\", here or in [layup]", key));
      return std::nullopt;
    };
    const auto m = name("material", material, part_.list.material), f = name("frame", frame, part_.list.frame);
    if (!m || !f) return std::nullopt;
    ply.material = *m;
    ply.frame = *f;
    ply.zone = line.zone         ? *line.zone
               : part_.list.zone ? *part_.list.zone
                                 : Declared<std::string>{std::string(everything), line.where};
    return ply;
  }

  std::vector<Ply> single(const PlyLine& line) {
    auto ply = pattern(line, line.material, line.frame);
    const std::optional<KnownMaterial> material =
        find_.by_name((line.material ? line.material : part_.list.material).value_or(Declared<std::string>{}).value);
    if (line.angle)
      (ply ? *ply : unused_).angle = *line.angle;
    else if (material && material::is_directional(material->kind)) {
      errors_.error("part.key-missing", fmt::format("ply '{}' has no 'angle'", line.id), line.where,
                    "add angle = 0, or a code = \"[...]\", or a laminate = \"...\"");
      return {};
    }
    if (!ply || !complete(*ply, line)) return {};
    return {*ply};
  }

  /// A thickness must come from somewhere, and fibres or dry resin are nothing to lay.
  bool complete(const Ply& ply, const PlyLine& line) {
    const std::optional<KnownMaterial> material = find_.by_name(ply.material.value);
    if (!material) return true;  // told when names are checked
    if (material->kind == material::Kind::fibre) {
      errors_.error("part.fibre-laid",
                    fmt::format("ply '{}': material '{}' is a fibre, not a ply", line.id, material->name), line.where,
                    "make a unidirectional material of it: fibre, matrix, fibre-volume");
      return false;
    }
    if (ply.thickness || ply.varies || material->has_thickness) return true;
    if (told_thickness_.insert(line.id + " " + material->name).second)
      errors_.error(
          "part.key-missing",
          fmt::format("ply '{}' has no thickness, and its material '{}' has none either", line.id, material->name),
          line.where, "add a thickness to the ply or to the material");
    return false;
  }

  std::vector<Ply> coded(const PlyLine& line, const Declared<std::string>& code,
                         const std::optional<Declared<std::string>>& material) {
    const auto start = pattern(line, material, line.frame);
    if (!start) return {};
    const auto is_fabric = [&](std::string_view mark) {
      const std::optional<KnownMaterial> found =
          mark.empty() ? find_.by_name(start->material.value) : find_.by_mark(mark);
      return found && found->kind == material::Kind::fabric;
    };
    std::vector<Ply> out;
    try {
      std::set<std::string> unknown;
      for (const laminate::CodePly& coded : laminate::parse_code(code.value, is_fabric, code.where)) {
        Ply ply = *start;
        ply.angle = coded.angle;
        if (!coded.frame.empty()) ply.frame = {coded.frame, code.where};
        if (!coded.mark.empty()) {
          if (const std::optional<KnownMaterial> found = find_.by_mark(coded.mark))
            ply.material.value = found->name;
          else if (unknown.insert(coded.mark).second)
            errors_.error("part.mark-unknown",
                          fmt::format("ply '{}': no material has the mark or name '{}'", line.id, coded.mark),
                          code.where, fmt::format("add mark = \"{}\" to a material", coded.mark));
        }
        if (complete(ply, line)) out.push_back(std::move(ply));
      }
    } catch (const Failure& failure) {
      for (const Finding& finding : failure.findings())
        if (told_code_.insert(finding.text()).second) errors_.add(finding);
    }
    return out;
  }

  std::vector<Ply> templated(const PlyLine& line, const Declared<std::string>& name) {
    const std::optional<Laminate> found = find_.laminate(name.value);
    if (!found) {
      const auto near = nearest_name(name.value, find_.laminates());
      errors_.error("part.laminate-unknown",
                    fmt::format("ply '{}': laminate '{}' is not declared", line.id, name.value), name.where,
                    near ? fmt::format("did you mean '{}'?", *near) : fmt::format("declare [laminate.{}]", name.value));
      return {};
    }
    used_laminates_.insert(found->name);
    PlyLine filled = line;  // what the line says itself goes before what the laminate says for all its plies
    if (!filled.material) filled.material = found->material;
    if (!filled.frame) filled.frame = found->frame;
    std::vector<Ply> run;
    if (found->code) {
      run = coded(filled, *found->code, filled.material);
    } else {
      for (const LaminateLine& layer : found->lines) {
        PlyLine one = filled;
        if (layer.material) one.material = layer.material;
        if (layer.frame) one.frame = layer.frame;
        if (layer.thickness) one.thickness = layer.thickness, one.varies.reset();
        one.angle = layer.angle;
        const std::vector<Ply> ply = single(one);
        run.insert(run.end(), ply.begin(), ply.end());
      }
    }
    std::vector<Ply> out;
    if (too_many(2 * run.size() * static_cast<std::size_t>(found->repeat), line)) return {};
    for (int i = 0; i < found->repeat; ++i) out.insert(out.end(), run.begin(), run.end());
    if (found->mirror != Mirror::none && !out.empty()) {
      const std::size_t half = out.size() - (found->mirror == Mirror::odd ? 1 : 0);
      for (std::size_t i = half; i-- > 0;) out.push_back(out[i]);
    }
    return out;
  }

  void check_laminates() {
    for (const Laminate& laminate : part_.laminates)
      if (laminate.code && !used_laminates_.count(laminate.name)) {
        try {
          laminate::parse_code(laminate.code->value, {}, laminate.code->where);
        } catch (const Failure& failure) {
          for (const Finding& finding : failure.findings()) errors_.add(finding);
        }
      }
  }

  const Part& part_;
  const MaterialFinder& find_;
  Findings& errors_;
  std::map<std::string, std::size_t> by_id_;
  std::vector<Ply> out_;
  Ply unused_;
  std::size_t line_ = 0, first_of_line_ = 0;
  bool told_many_ = false;
  std::set<std::string> told_circular_, told_unknown_, told_thickness_, told_code_, told_chamfer_, used_laminates_;
};

}  // namespace

std::vector<Ply> write_out(const Part& part, const MaterialFinder& find, Findings& errors) {
  return PlyWriter(part, find, errors).write();
}

}  // namespace bordado::part
