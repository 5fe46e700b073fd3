// What a layup is asked: layers of elements, thickness, codes, mass.
#include <bordado/layup/edges.hpp>

#include <bordado/layup.hpp>

#include <algorithm>
#include <cmath>

namespace bordado::layup {

std::vector<mesh::ElementIndex> covered_by(const Layup& layup, RegionId region) {
  if (!layup.regions[region].has_edge()) return layup.zones.elements(layup.regions[region].zone);
  std::vector<mesh::ElementIndex> out;
  for (mesh::ElementIndex e = 0; e < layup.zones.words.front().size(); ++e)
    if (layup.covered(region, e) > 0.0) out.push_back(e);
  return out;
}

std::vector<mesh::ElementIndex> Layup::elements_of(PlyId ply) const {
  std::vector<mesh::ElementIndex> out = covered_by(*this, plies[ply].region);
  if (plies[ply].taper) std::erase_if(out, [&](mesh::ElementIndex e) { return !lies_on(ply, e); });
  return out;
}

namespace {

/// By what the shear of its cloth makes a ply thicker.
double thicker_by(const Layup& layup, PlyId ply, mesh::ElementIndex element) {
  const Draping* const draping = layup.draping_of(ply);
  return draping && !draping->angles_only ? draping->thickening(element) : 1.0;
}

}  // namespace

double thickness_at(const part::Part& part, const Layup& layup, PlyId ply, mesh::ElementIndex element,
                    std::optional<double> inside) {
  if (inside && *inside < 0.0) return 0.0;
  const Ply& laid = layup.plies[ply];
  const double thicker = thicker_by(layup, ply, element);
  const auto length = inside ? part::chamfer_length(part, ply) : std::nullopt;
  if (length) {
    const double full = part::full_thickness(part, ply), left = part.plies[ply].chamfer->edge_thickness;
    const double t = left + (full - left) * std::min(*inside / *length, 1.0);
    return thicker * (part.plies[ply].fills ? full - t : t);
  }
  return thicker * (laid.taper ? layup.tapers[*laid.taper].thickness[element] : laid.thickness);
}

double thickness(const Layup& layup, PlyId ply, mesh::ElementIndex element) {
  const Ply& laid = layup.plies[ply];
  const double covered = layup.regions[laid.region].has_edge() ? layup.covered(ply, element) : 1.0;
  const double thicker = thicker_by(layup, ply, element);
  if (!laid.taper && covered == 1.0) return laid.thickness * thicker;
  const double here = thicker * covered * (laid.taper ? layup.tapers[*laid.taper].thickness[element] : laid.thickness);
  return here > run_out * laid.thickness ? here : 0.0;
}

bool Layup::lies_on(PlyId ply, mesh::ElementIndex element) const {
  return covered(ply, element) > 0.0 && (!plies[ply].taper || layup::thickness(*this, ply, element) > 0.0);
}

std::vector<Piece> pieces(const part::Part& part, std::span<const LaidLayer> layers) {
  std::vector<double> covers = {1.0};
  for (const LaidLayer& layer : layers)
    if (layer.covered < 1.0) covers.push_back(layer.covered);
  std::sort(covers.begin(), covers.end(), std::greater<>());
  covers.erase(std::unique(covers.begin(), covers.end()), covers.end());
  std::vector<Piece> out;
  for (const double least : covers) {
    Piece piece;
    double h = 0.0;
    for (const LaidLayer& layer : layers) {
      if (layer.covered < least) continue;
      LaidLayer own = layer;
      own.thickness = layer.thickness / layer.covered;
      own.bottom = h;
      own.covered = 1.0;
      h += own.thickness;
      piece.layers.push_back(own);
    }
    if (piece.layers.empty()) continue;
    piece.bottom = bottom(part, h);
    for (LaidLayer& layer : piece.layers) layer.bottom += piece.bottom;
    piece.number = static_cast<std::uint8_t>(std::min<std::size_t>(out.size(), 255));
    out.push_back(std::move(piece));
  }
  return out;
}

Layup::Layup() = default;
Layup::Layup(Layup&&) noexcept = default;
Layup& Layup::operator=(Layup&&) noexcept = default;
Layup::~Layup() = default;

Vec3 Layup::fibre(PlyId ply, mesh::ElementIndex element, const Vec3& normal) const {
  if (const Draping* const draping = draping_of(ply)) return draping->warp[element];
  return frame::turned(directions_of(ply)[element], normal, plies[ply].angle);
}

std::vector<LayerAlong> LayersOn::along(
    mesh::ElementIndex element, const std::function<std::optional<std::array<double, 2>>(RegionId)>& inside) const {
  std::vector<LayerAlong> out;
  std::array<double, 2> h{};
  for (const PlyId p : layup_.plies.ids()) {
    const Ply& ply = layup_.plies[p];
    const auto ends = inside(ply.region);
    if (ends ? (*ends)[0] + (*ends)[1] < 0.0 : !layup_.lies_on(p, element)) continue;
    LayerAlong layer{p, {}, {}};
    for (const std::size_t i : {0u, 1u}) {  // an end may be beyond the edge by round-off
      const auto here = ends ? std::optional(std::max(0.0, (*ends)[i])) : std::nullopt;
      layer.thickness[i] = thickness_at(part_, layup_, p, element, here);
    }
    if (std::max(layer.thickness[0], layer.thickness[1]) <= run_out * ply.thickness) continue;
    for (const std::size_t i : {0u, 1u}) h[i] += layer.thickness[i];
    out.push_back(layer);
  }
  std::array<double, 2> z{layup::bottom(part_, h[0]), layup::bottom(part_, h[1])};
  for (LayerAlong& layer : out)
    for (const std::size_t i : {0u, 1u}) {
      layer.bottom[i] = z[i];
      z[i] += layer.thickness[i];
    }
  return out;
}

const Vec3& LayersOn::reference(mesh::ElementIndex element) const {
  return layup_.directions_of(layup_.plies_of(layup_.stack_of[element]).front())[element];
}

std::span<const LaidLayer> LayersOn::operator()(mesh::ElementIndex element) {
  const StackId stack = layup_.stack_of[element];
  if (stack_ == stack && alike_) return layers_;
  stack_ = stack;
  alike_ = true;
  layers_.clear();
  const auto plies = layup_.plies_of(stack);
  const FrameId first_frame = layup_.frame_of(plies.front());
  Cloth cloth{first_frame, {}};
  Angle turn;
  double h = 0.0;
  const auto varying = layup_.varying_of(stack);
  for (std::size_t k = 0; k < plies.size(); ++k) {
    const PlyId p = plies[k];
    const Ply& ply = layup_.plies[p];
    if (varying[k]) alike_ = false;
    const double t = varying[k] ? thickness(layup_, p, element) : ply.thickness;
    if (t == 0.0) continue;
    if (const Cloth& own = layup_.cloths[ply.cloth]; own != cloth) {
      cloth = own;
      const Vec3& direction =
          own.drape ? layup_.drapes[*own.drape].warp[element] : layup_.frames[own.frame].directions[element];
      turn = !own.drape && own.frame == first_frame
                 ? Angle()
                 : frame::between(reference(element), direction, geometry_.normals[element]);
      if (own.drape || own.frame != first_frame) alike_ = false;
    }
    const double covered = varying[k] && layup_.regions[ply.region].has_edge() ? layup_.covered(p, element) : 1.0;
    if (cloth.drape)
      layers_.push_back(
          {p, ply.material, h, t, covered, turn, Angle::degrees(layup_.drapes[*cloth.drape].taken(element))});
    else
      layers_.push_back({p, ply.material, h, t, covered, ply.angle + turn, {}});
    h += t;
  }
  const double z = bottom(part_, h);
  for (LaidLayer& layer : layers_) layer.bottom += z;
  return layers_;
}

double thickness(const Layup& layup, StackId stack) {
  double sum = 0.0;
  for (const PlyId p : layup.plies_of(stack)) sum += layup.plies[p].thickness;
  return sum;
}

double areal_mass(const part::Part& part, const Layup& layup, StackId stack) {
  double sum = 0.0;
  for (const PlyId p : layup.plies_of(stack))
    sum += layup.plies[p].thickness * part.materials[layup.plies[p].material].density.value_or(0.0);
  return sum;
}

double bottom(const part::Part& part, double h) {
  const double share = part.flush == part::Flush::bottom ? 0.0 : part.flush == part::Flush::middle ? 0.5 : 1.0;
  return part.offset - share * h;
}

namespace {

std::string code_of(const part::Part& part, const Layup& layup, std::span<const PlyId> plies) {
  const bool mixed = std::any_of(plies.begin(), plies.end(),
                                 [&](PlyId p) { return layup.plies[p].material != layup.plies[plies[0]].material; });
  std::vector<laminate::CodePly> coded;
  for (const PlyId p : plies) {
    const material::Material& material = part.materials[layup.plies[p].material];
    const FrameId frame = layup.frame_of(p);
    coded.push_back({layup.plies[p].angle,
                     mixed ? (material.mark.empty() ? material.name : material.mark) : std::string(),
                     frame == layup.frame_of(plies[0]) ? std::string() : part.frames[frame].name, 0});
  }
  return laminate::code_of(coded);
}

}  // namespace

std::string code(const part::Part& part, const Layup& layup, StackId stack) {
  return code_of(part, layup, layup.plies_of(stack));
}

std::string code(const part::Part& part, const Layup& layup, std::span<const LaidLayer> layers) {
  std::vector<PlyId> plies;
  for (const LaidLayer& layer : layers) plies.push_back(layer.ply);
  return code_of(part, layup, plies);
}

List<StackId, std::vector<std::string>> zones_of_stacks(const Layup& layup) {
  const zone::ZoneSets& zones = layup.zones;
  const std::size_t words = zones.words.size(), count = zones.names.size();
  using Bits = std::vector<std::uint64_t>;
  const auto has = [](const Bits& bits, zone::ZoneId z) { return (bits[index(z) / 64] >> (index(z) % 64) & 1) != 0; };
  // The zones that all elements of a stack share, and those that all elements of each zone share.
  List<StackId, Bits> of_stack(layup.stack_count(), Bits(words, ~std::uint64_t{0}));
  List<zone::ZoneId, Bits> of_zone(count, Bits(words, ~std::uint64_t{0}));
  for (mesh::ElementIndex e = 0; e < layup.stack_of.size(); ++e) {
    const auto keep_shared = [&](Bits& bits) {
      for (std::size_t w = 0; w < words; ++w) bits[w] &= zones.words[w][e];
    };
    keep_shared(of_stack[layup.stack_of[e]]);
    zones.for_each_of(e, [&](zone::ZoneId z) { keep_shared(of_zone[z]); });
  }
  std::vector<zone::ZoneId> by_size;
  for (const zone::ZoneId z : zones.declared()) by_size.push_back(z);
  std::stable_sort(by_size.begin(), by_size.end(), [&](auto a, auto b) { return zones.counts[a] < zones.counts[b]; });
  List<StackId, std::vector<std::string>> out(layup.stack_count());
  for (const StackId s : out.ids()) {
    Bits said(words, 0);
    for (const zone::ZoneId z : by_size) {
      if (!has(of_stack[s], z) || has(said, z)) continue;
      out[s].push_back(zones.names[z]);
      for (std::size_t w = 0; w < words; ++w) said[w] |= of_zone[z][w];
    }
    if (out[s].empty()) out[s].emplace_back(part::everything);
  }
  return out;
}

std::vector<double> thicknesses(const layup::Laid& laid) {
  std::vector<double> out(laid.surface.element_count());
  parallel_blocks(out.size(), [&](std::size_t begin, std::size_t end) {
    LayersOn layers_on(laid);
    for (std::size_t e = begin; e < end; ++e)
      for (const LaidLayer& layer : layers_on(static_cast<mesh::ElementIndex>(e))) out[e] += layer.thickness;
  });
  return out;
}

Mass mass(const Laid& laid) {
  const part::Part& part = laid.part;
  const mesh::Geometry& geometry = laid.geometry;
  const Layup& layup = laid.layup;
  const std::size_t stacks = layup.stack_count();
  List<StackId, double> per_area(stacks), height(stacks);  // mass per area, and height of its centre above the mesh
  for (const StackId s : layup.stacks()) {
    double z = bottom(part, thickness(layup, s)), moment = 0.0;
    for (const PlyId p : layup.plies_of(s)) {
      const double t = layup.plies[p].thickness, m = t * part.materials[layup.plies[p].material].density.value_or(0.0);
      per_area[s] += m;
      moment += m * (z + 0.5 * t);
      z += t;
    }
    height[s] = per_area[s] > 0.0 ? moment / per_area[s] : 0.0;
  }
  Mass out;
  out.zone_areas.assign(layup.zones.names.size(), 0.0);
  out.zone_masses.assign(layup.zones.names.size(), 0.0);
  out.stack_areas.assign(stacks, 0.0);
  out.stack_masses.assign(stacks, 0.0);
  for (const StackId s : layup.stacks()) {
    const double h = thickness(layup, s);
    out.stack_thickness.push_back(layup.varies[s] ? std::array{h, 0.0} : std::array{h, h});
  }
  LayersOn layers_on(laid);
  Vec3 moment = Vec3::Zero();
  for (mesh::ElementIndex e = 0; e < layup.stack_of.size(); ++e) {
    const StackId s = layup.stack_of[e];
    double each = per_area[s], above = height[s], h = out.stack_thickness[s][0];
    if (layup.varies[s]) {
      h = each = above = 0.0;
      for (const LaidLayer& layer : layers_on(e)) {
        const double m = layer.thickness * part.materials[layer.material].density.value_or(0.0);
        each += m;
        above += m * (layer.bottom + 0.5 * layer.thickness);
        h += layer.thickness;
      }
      if (each > 0.0) above /= each;
      auto& [least, most] = out.stack_thickness[s];
      least = std::min(least, h), most = std::max(most, h);
    }
    const double area = geometry.areas[e];
    if (!layup.added_mass.empty() && layup.added_mass[e] > 0.0) {
      const double extra = layup.added_mass[e], middle = bottom(part, h) + 0.5 * h;
      above = (each * above + extra * middle) / (each + extra);
      each += extra;
      out.added += area * extra;
      out.stack_masses[s] += layup.varies[s] ? 0.0 : area * extra;
    }
    const double m = area * each;
    out.area += area;
    out.mass += m;
    out.stack_areas[s] += area;
    if (layup.varies[s]) out.stack_masses[s] += m;
    moment += m * (geometry.centres[e] + above * geometry.normals[e]);
    layup.zones.for_each_of(e, [&](zone::ZoneId zone) {
      out.zone_areas[zone] += area;
      out.zone_masses[zone] += m;
    });
  }
  for (const StackId s : layup.stacks())
    if (!layup.varies[s]) out.stack_masses[s] += per_area[s] * out.stack_areas[s];
  if (out.mass > 0.0) out.centre = moment / out.mass;
  return out;
}

}  // namespace bordado::layup
