#include "drapes.hpp"
#include <bordado/layup/edges.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace bordado::layup {

ClothId cloth_of(Layup& layup, const Cloth& cloth) {
  for (const ClothId c : layup.cloths.ids())
    if (layup.cloths[c] == cloth) return c;
  layup.cloths.push_back(cloth);
  return ClothId{static_cast<std::uint32_t>(layup.cloths.size() - 1)};
}

std::optional<material::ShearedCloth> sheared_cloth(const material::Material& material, Angle shear) {
  if (material.kind != material::Kind::fabric) return std::nullopt;
  if (!material.sheared.empty()) {
    const double least = material.sheared.front().shear, most = material.sheared.back().shear;
    const double amount = std::clamp(std::abs(shear.degrees()), least, most);
    return material::sheared(material, Angle::degrees(shear.degrees() < 0.0 ? -amount : amount));
  }
  return material::sheared(material, shear);
}

std::optional<material::Material> at_shear(const material::Material& material, Angle shear, ClothAxes axes) {
  const auto cloth = sheared_cloth(material, shear);
  if (!cloth) return std::nullopt;
  const bool warp = axes == ClothAxes::warp;
  const Angle turn = warp ? Angle() : material::to_diagonal(material, shear);
  material::Material out = material;
  out.elastic = warp ? cloth->along_warp : cloth->along_diagonal;
  // Where its yarns do not say what they do when they are warmed or wetted, it is what it was.
  out.thermal = material::turned(cloth->thermal.value_or(material.thermal), turn);
  out.moisture = material::turned(cloth->moisture.value_or(material.moisture), turn);
  return out;
}

namespace {

/// How the yarns of cloth are strained by strains along its warp: along the warp, along the weft, and by how much the angle
/// between them closes. \param between the yarns
laminate::Matrix3 yarn_strains(Angle between) {
  const double c = between.cos(), s = between.sin();
  laminate::Matrix3 out;
  out << 1, 0, 0, c * c, s * s, c * s, s * c, -s * c, s * s;
  return out;
}

/// The stress that cloth at rest has where its yarns are strained as those of the sheared cloth are.
laminate::Matrix3 as_at_rest(const material::Material& cloth, const material::Elastic& along_warp, Angle shear) {
  const Angle rest = Angle::degrees(cloth.form.rest_angle.value_or(90.0));
  return laminate::plane_stress_stiffness(cloth.elastic) * yarn_strains(rest).inverse() * yarn_strains(rest - shear) *
         laminate::plane_stress_stiffness(along_warp).inverse();
}

}  // namespace

laminate::Layer layer_of(const part::Part& part, const LaidLayer& layer) {
  const material::Material& material = part.materials[layer.material];
  if (layer.shear.degrees() != 0.0)
    if (const auto changed = at_shear(material, layer.shear, ClothAxes::warp)) {
      laminate::Layer out = laminate::layer_of(*changed, layer.thickness, layer.angle);
      out.judged_as = as_at_rest(material, changed->elastic, layer.shear);
      return out;
    }
  return laminate::layer_of(material, layer.thickness, layer.angle);
}

namespace {

using mesh::ElementIndex;

class Draper {
 public:
  Draper(const Laying& on, List<FrameId, std::optional<frame::Field>>& made, const Progress& progress)
      : on_(on), part_(on.part), layup_(on.layup), made_(made), progress_(progress) {}

  void drape() {
    gather();
    for (std::size_t k = 0; k < part_.drapes.size(); ++k)
      if (!used_.count(k))
        on_.findings.note("drape.unused", fmt::format("drape '{}' is of no ply", part_.drapes[k].name),
                          part_.drapes[k].where);
    for (const DrapeId d : layup_.drapes.ids()) {
      if (progress_)
        progress_(fmt::format("draping '{}'", part_.drapes[layup_.drapes[d].declared].name),
                  static_cast<double>(index(d)) / static_cast<double>(layup_.drapes.size()));
      lay(layup_.drapes[d], plies_[index(d)]);
    }
  }

 private:
  std::size_t declared_index(std::string_view name) const {
    return static_cast<std::size_t>(std::find_if(part_.drapes.begin(), part_.drapes.end(),
                                                 [&](const part::Drape& drape) { return drape.name == name; }) -
                                    part_.drapes.begin());
  }

  /// Which plies share a drape.
  void gather() {
    for (const PlyId p : layup_.plies.ids()) {
      const part::Ply& declared = part_.plies[p];
      if (!declared.drape) continue;
      const std::size_t k = declared_index(declared.drape->value);
      Ply& ply = layup_.plies[p];
      const FrameId frame = layup_.cloths[ply.cloth].frame;
      const double rest = part_.materials[ply.material].form.rest_angle.value_or(90.0);
      const Angle angle = same_fibre(ply.angle);
      auto found = std::find_if(layup_.drapes.begin(), layup_.drapes.end(), [&](const Draping& other) {
        return other.declared == k && other.angle == angle && other.rest.degrees() == rest &&
               (other.frame == frame || directed(k));
      });
      if (found == layup_.drapes.end()) {
        Draping draping;
        draping.declared = k;
        draping.angles_only = part_.drapes[k].angles_only;
        draping.angle = angle;
        draping.rest = Angle::degrees(rest);
        draping.frame = frame;
        layup_.drapes.push_back(std::move(draping));
        plies_.emplace_back();
        found = layup_.drapes.end() - 1;
      }
      const auto d = static_cast<std::uint32_t>(found - layup_.drapes.begin());
      ply.cloth = cloth_of(layup_, {frame, DrapeId{d}});
      plies_[d].push_back(p);
      used_.insert(k);
      for (const Declared<std::string>& piece : part_.drapes[k].pieces) used_.insert(declared_index(piece.value));
    }
  }

  /// Whether a drape says its direction itself, so that frames do not matter.
  bool directed(std::size_t k) const {
    const part::Drape& drape = part_.drapes[k];
    if (drape.pieces.empty()) return drape.direction.has_value();
    return std::all_of(drape.pieces.begin(), drape.pieces.end(),
                       [&](const auto& piece) { return directed(declared_index(piece.value)); });
  }

  const frame::Field* field(FrameId f) {
    if (!made_[f]) {
      const frame::Surroundings around{part_, on_.surface, on_.geometry, layup_.curves, layup_.zones, &made_};
      try {
        made_[f] = frame::field(part_.frames[f], around, on_.findings);
      } catch (const Failure& failure) {
        for (const Finding& finding : failure.findings()) on_.errors.add(finding);
        return nullptr;
      }
    }
    return &*made_[f];
  }

  void lay(Draping& draping, const std::vector<PlyId>& plies) {
    const std::size_t count = on_.surface.element_count();
    std::vector<std::uint8_t> wanted(count, 0);
    for (const PlyId p : plies)
      for (const ElementIndex e : covered_by(layup_, layup_.plies[p].region)) wanted[e] = 1;
    for (ElementIndex e = 0; e < count; ++e)
      if (wanted[e]) draping.elements.push_back(e);
    std::vector<std::string> ids;
    for (const PlyId p : plies) ids.push_back(part_.plies[p].id);
    draping.piece_of.assign(count, 0);
    draping.warp.assign(count, Vec3::Zero());
    draping.weft.assign(count, Vec3::Zero());
    draping.shear.assign(count, 0.0f);
    const part::Drape& declared = part_.drapes[draping.declared];
    if (declared.pieces.empty())
      add_piece(draping, draping.declared, wanted, ids);
    else
      for (const Declared<std::string>& piece : declared.pieces)
        add_piece(draping, declared_index(piece.value), wanted, ids);
    if (on_.errors.has_errors()) return;  // what follows from them is no news
    fall_back(draping);
    report(draping);
    tell_unsheared(draping, plies);
  }

  void add_piece(Draping& draping, std::size_t k, const std::vector<std::uint8_t>& of_plies,
                 const std::vector<std::string>& ids) {
    const part::Drape& declared = part_.drapes[k];
    Draping::Piece piece;
    piece.declared = k;
    std::vector<std::uint8_t> wanted = of_plies;
    if (declared.zone) {
      const auto zone = layup_.zones.find(declared.zone->value);
      if (!zone) {
        const auto near = nearest_name(declared.zone->value, layup_.zones.names.all());
        on_.errors.error("zone.unknown",
                         fmt::format("[drape.{}]: zone '{}' is not declared and is no element group of the mesh",
                                     declared.name, declared.zone->value),
                         declared.zone->where,
                         near ? fmt::format("did you mean '{}'?", *near)
                              : fmt::format("zones: {}", listed(layup_.zones.names.all(), 20)));
        return;
      }
      for (ElementIndex e = 0; e < wanted.size(); ++e)
        wanted[e] = wanted[e] && layup_.zones.contains(*zone, e) && draping.piece_of[e] == 0;
    }
    for (ElementIndex e = 0; e < wanted.size(); ++e)
      if (wanted[e]) piece.elements.push_back(e);
    if (piece.elements.empty()) {
      on_.errors.error("drape.nowhere",
                       fmt::format("drape '{}': {} {} no element in its zone", declared.name, listed(ids, 5),
                                   ids.size() == 1 ? "has" : "have"),
                       declared.where, "correct the zone, or take the drape out");
      return;
    }
    const auto smoothing = smoothing_for(declared, wanted);
    if (!smoothing) return;
    const auto surface = surface_for(*smoothing);
    piece.surface = surface;
    drape::Options options;
    options.lay = declared.lay;
    options.net.seed = declared.seed;
    options.net.cell = declared.cell.value_or(0.0);
    options.net.rest = draping.rest;
    options.net.wanted = wanted;
    options.net.beyond = 0.1 * surface->size;
    options.otherwise = [this, other = *smoothing]() mutable {
      other.goes_on = drape::GoesOn::otherwise;
      return surface_for(other);
    };
    if (declared.along) {
      const zone::NamedCurve* const curve = layup_.curves.find(declared.along->value);
      if (!curve || curve->lines.empty()) {
        unknown_curve(declared, *declared.along);
        return;
      }
      options.net.along = curve->lines.front().points;
      if (curve->lines.front().closed) options.net.along.push_back(options.net.along.front());
    }
    try {
      options.net.direction = direction_at(draping, declared, *surface);
      piece.laid = drape::lay(*surface, on_.geometry, options);
    } catch (const Failure& failure) {
      for (Finding finding : failure.findings()) {
        finding.what = fmt::format("drape '{}' of {} {}: {}", declared.name, ids.size() == 1 ? "ply" : "plies",
                                   listed(ids, 5), finding.what);
        finding.where = declared.where;
        on_.errors.add(std::move(finding));
      }
      return;
    }
    const auto mark = static_cast<std::uint8_t>(draping.pieces.size() + 1);
    for (const ElementIndex e : piece.elements) {
      if (!piece.laid.elements.reached(e)) continue;
      draping.piece_of[e] = mark;
      draping.warp[e] = flat(piece.laid.elements.warp[e], e);
      draping.weft[e] = flat(piece.laid.elements.weft[e], e);
      draping.shear[e] = static_cast<float>(piece.laid.elements.shear[e]);
    }
    draping.pieces.push_back(std::move(piece));
  }

  /// In the element's own plane.
  Vec3 flat(const Vec3& direction, ElementIndex e) const {
    const Vec3& n = on_.geometry.normals[e];
    return (direction - direction.dot(n) * n).normalized();
  }

  void unknown_curve(const part::Drape& drape, const Declared<std::string>& name) {
    std::vector<std::string> known;
    for (const zone::NamedCurve& curve : layup_.curves.all) known.push_back(curve.name);
    const auto near = nearest_name(name.value, known);
    on_.errors.error("drape.curve-unknown",
                     fmt::format("[drape.{}]: '{}' is no curve of the part", drape.name, name.value), name.where,
                     near            ? fmt::format("did you mean '{}'?", *near)
                     : known.empty() ? fmt::format("declare [curve.{}]", name.value)
                                     : fmt::format("curves: {}", listed(known, 20)));
  }

  /// How a cloth with those darts sees the surface.
  std::optional<drape::SmoothOptions> smoothing_for(const part::Drape& declared,
                                                    const std::vector<std::uint8_t>& wanted) {
    drape::SmoothOptions options;
    bool good = true;
    for (const Declared<std::string>& dart : declared.darts) {
      const zone::NamedCurve* const curve = layup_.curves.find(dart.value);
      if (!curve || curve->lines.empty()) {
        unknown_curve(declared, dart);
        good = false;
        continue;
      }
      for (const mesh::Curve& line : curve->lines) {
        const mesh::NodePairs cut = drape::sides_along(on_.surface, line);
        options.cuts.insert(options.cuts.end(), cut.begin(), cut.end());
      }
    }
    if (!good) return std::nullopt;
    if (!declared.darts.empty() && options.cuts.empty()) {
      on_.errors.error("drape.dart",
                       fmt::format("[drape.{}]: no side of an element lies along its darts", declared.name),
                       declared.darts.front().where, "a dart is a line of several elements' length on the surface");
      return std::nullopt;
    }
    for (const auto& [a, b] : options.cuts) {
      const Vec3 &from = on_.surface.points[a], side = on_.surface.points[b] - from;
      const double t = std::clamp((declared.seed - from).dot(side) / std::max(side.squaredNorm(), 1e-300), 0.0, 1.0);
      if ((from + t * side - declared.seed).norm() > 0.05 * side.norm()) continue;
      on_.errors.error("drape.dart", fmt::format("[drape.{}]: its seed lies on a dart", declared.name), declared.where,
                       "cloth is not laid down first where it is cut: move the seed aside, or end the dart before it");
      return std::nullopt;
    }
    // Cloth that ends at a sharp edge is not bent over it: past it the surface is carried on.
    if (edges_.size() == 0) edges_ = mesh::edges(on_.surface);
    const double sharp = options.crease.cos();
    for (std::size_t j = 0; j < edges_.size(); ++j) {
      const std::uint32_t begin = edges_.first[j];
      if (edges_.first[j + 1] - begin != 2) continue;
      const ElementIndex a = edges_.uses[begin].element, b = edges_.uses[begin + 1].element;
      if (wanted[a] != wanted[b] && std::abs(on_.geometry.normals[a].dot(on_.geometry.normals[b])) < sharp)
        options.cuts.push_back(edges_.nodes[j]);
    }
    std::sort(options.cuts.begin(), options.cuts.end());
    options.cuts.erase(std::unique(options.cuts.begin(), options.cuts.end()), options.cuts.end());
    options.margin = 0.15 * extent(on_.surface.points).diagonal();
    return options;
  }

  std::shared_ptr<const drape::SmoothSurface> surface_for(const drape::SmoothOptions& options) {
    std::shared_ptr<const drape::SmoothSurface>& out = surfaces_[{options.goes_on, options.cuts}];
    if (!out) out = std::make_shared<drape::SmoothSurface>(drape::smooth(on_.surface, on_.geometry, options));
    return out;
  }

  /// Of the warp at the seed: 0° there, turned by the angle of the plies.
  Vec3 direction_at(const Draping& draping, const part::Drape& declared, const drape::SmoothSurface& surface) {
    const auto [spot, normal] = drape::seed_on(surface, declared.seed);
    Vec3 zero = Vec3::Zero();
    if (declared.direction) {
      zero = *declared.direction;
    } else if (const frame::Field* const of = field(draping.frame)) {
      zero = of->directions[spot.element];
    }
    const Vec3 in_plane = zero - zero.dot(normal) * normal;
    if (!(in_plane.norm() > 0.0872 * zero.norm()))
      throw Failure({Severity::error,
                     "drape.direction",
                     "the direction of 0° stands within 5° of the normal at the seed",
                     {},
                     "give a direction along the surface there"});
    return frame::turned(in_plane.normalized(), normal, draping.angle);
  }

  /// Where no piece reaches plies follow their frame, unsheared.
  void fall_back(Draping& draping) {
    const frame::Field* of = nullptr;
    for (const ElementIndex e : draping.elements) {
      if (draping.piece_of[e]) continue;
      if (!of && !(of = field(draping.frame))) return;
      const Vec3& n = on_.geometry.normals[e];
      draping.warp[e] = frame::turned(of->directions[e], n, draping.angle);
      draping.weft[e] = frame::turned(draping.warp[e], n, draping.rest);
    }
  }

  /// Fabrics of which nobody knows what shear makes of them.
  void tell_unsheared(const Draping& draping, const std::vector<PlyId>& plies) {
    if (draping.angles_only) return;
    constexpr float matters = 5.0f;  // degrees
    float largest = 0.0f;
    for (const ElementIndex e : draping.elements) largest = std::max(largest, std::abs(draping.shear[e]));
    if (largest < matters) return;
    for (const PlyId p : plies) {
      const material::Material& material = part_.materials[layup_.plies[p].material];
      if (material.kind != material::Kind::fabric || !unsheared_.insert(material.name).second) continue;
      if (!material.sheared.empty() && static_cast<double>(largest) > material.sheared.back().shear + 0.5)
        on_.findings.warning(
            "drape.table-ends",
            fmt::format("material '{}' is sheared by up to {:.1f}°, and its table ends at {:g}°: beyond, it has what "
                        "stands there",
                        material.name, static_cast<double>(largest), material.sheared.back().shear),
            material.where, "measure on, or lay the cloth so that it shears less");
      const bool known = material.yarns && (material.yarns->thermal || !material.thermal.along) &&
                         (material.yarns->moisture || !material.moisture.along);
      if ((material.yarns || !material.sheared.empty()) && !known &&
          (material.thermal.along || material.moisture.along))
        on_.findings.warning(
            "drape.expansion-unsheared",
            fmt::format("material '{}' is sheared by up to {:.1f}° and expands as it does unsheared: sheared cloth of "
                        "stiff yarns grows along one diagonal and shrinks along the other",
                        material.name, static_cast<double>(largest)),
            material.where, "give it fibre and matrix, or alpha and beta in 'yarns'");
      if (material.yarns || !material.sheared.empty()) continue;
      on_.findings.warning(
          "drape.unsheared",
          fmt::format("material '{}' is sheared by up to {:.1f}° and keeps the constants that it has unsheared",
                      material.name, static_cast<double>(largest)),
          material.where, "give it fibre and matrix, or a table of properties by shear");
    }
  }

  std::string name_of(const Draping& draping) const {
    const std::string& name = part_.drapes[draping.declared].name;
    return fmt::format("'{}' at {:g}°", name, draping.angle.degrees());
  }

  void report(const Draping& draping) {
    std::vector<std::int64_t> bare;
    double area = 0.0;
    ElementIndex first = mesh::no_index;
    for (const ElementIndex e : draping.elements) {
      if (draping.piece_of[e]) continue;
      bare.push_back(on_.surface.element_ids[e]);
      area += on_.geometry.areas[e];
      if (first == mesh::no_index) first = e;
    }
    const std::string length = part_.units.unit(Dimension::length);
    if (!bare.empty())
      on_.findings.warning(
          "drape.unreached",
          fmt::format("drape {}: the cloth does not reach {} ({:.4g} {}² of its plies): elements {}", name_of(draping),
                      counted(bare.size(), "element"), area, length, listed(bare)),
          on_.surface.place_of(first),
          "there its fibres follow the frame, unsheared; try another seed, a dart, or another piece of cloth");
    std::array<std::size_t, 6> stops{};
    std::map<drape::Stop, Vec3> where;
    bool folds = false;
    for (const Draping::Piece& piece : draping.pieces) {
      folds = folds || piece.laid.folds;
      for (const drape::Net::Stopped& stop : piece.laid.net.stopped) {
        if (!stop.wanted) continue;
        ++stops[static_cast<std::size_t>(stop.why)];
        where.try_emplace(stop.why, stop.near);
      }
    }
    const auto tell = [&](drape::Stop why, std::string code, std::string what, std::string remedy) {
      const std::size_t times = stops[static_cast<std::size_t>(why)];
      if (times == 0) return;
      const Vec3& at = where.at(why);
      on_.findings.warning(std::move(code),
                           fmt::format("drape {}: {}, {} in all, the first near {:.4g}, {:.4g}, {:.4g}",
                                       name_of(draping), what, counted(times, "place"), at.x(), at.y(), at.z()),
                           on_.surface.place_of(mesh::nearest_element(on_.geometry, at).index), std::move(remedy));
    };
    tell(drape::Stop::apart, "drape.apart", "yarns that come from two sides do not meet",
         "uncut cloth does not lie there: declare a dart along that line, or lay several pieces");
    if (bare.empty())
      stops[static_cast<std::size_t>(drape::Stop::locked)] = stops[static_cast<std::size_t>(drape::Stop::folded)] =
          0;  // other yarns came round to where these could not go on
    tell(drape::Stop::locked, "drape.locked", "the yarns lie along each other and no cell can follow",
         "try another seed or direction, lay = \"led\", a dart, or several pieces");
    tell(drape::Stop::folded, "drape.locked", "the cloth would fold back over itself",
         "try another seed or direction, lay = \"led\", a dart, or several pieces");
    if (folds)
      on_.findings.note("drape.folds",
                        fmt::format("drape {}: the cloth is bent over sharp edges of the surface", name_of(draping)),
                        part_.drapes[draping.declared].where, "round them in the mesh where the part is round there");
  }

  const Laying& on_;
  const part::Part& part_;
  Layup& layup_;
  List<FrameId, std::optional<frame::Field>>& made_;
  const Progress& progress_;
  std::vector<std::vector<PlyId>> plies_;  ///< per draping
  std::set<std::size_t> used_;
  std::set<std::string> unsheared_;  ///< materials that have been told
  std::map<std::pair<drape::GoesOn, mesh::NodePairs>, std::shared_ptr<const drape::SmoothSurface>> surfaces_;
  mesh::EdgeTable edges_;
};

}  // namespace

void drape(const Laying& on, List<FrameId, std::optional<frame::Field>>& made, const Progress& progress) {
  Draper(on, made, progress).drape();
}

}  // namespace bordado::layup
