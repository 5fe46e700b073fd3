#include "laminate_text.hpp"

#include <bordado/base/replacing.hpp>

#include <fmt/format.h>

namespace bordado::cli {

Json matrix_json(const Eigen::MatrixXd& matrix) {
  Json out = Json::array();
  for (Eigen::Index i = 0; i < matrix.rows(); ++i) {
    Json row = Json::array();
    for (Eigen::Index j = 0; j < matrix.cols(); ++j) row.push_back(matrix(i, j));
    out.push_back(row);
  }
  return out;
}

namespace {

Json list_json(const Eigen::VectorXd& values) {
  Json out = Json::array();
  for (const double value : values) out.push_back(value);
  return out;
}

Json constants_json(const laminate::EngineeringConstants& c) {
  return {{"Ex", c.Ex}, {"Ey", c.Ey}, {"Gxy", c.Gxy}, {"nuxy", c.nuxy}};
}

/// \param of numbers below 1e-12 of it are nought; the largest of the matrix where it is not said
void print_matrix(std::string_view name, const Eigen::MatrixXd& matrix, const std::string& unit, double of = 0.0) {
  const double noise = 1e-12 * std::max(of, matrix.cwiseAbs().maxCoeff());
  std::vector<double> values;
  for (Eigen::Index i = 0; i < matrix.rows(); ++i)
    for (Eigen::Index j = 0; j < matrix.cols(); ++j)
      values.push_back(std::abs(matrix(i, j)) < noise ? 0.0 : matrix(i, j));
  const auto texts = column(values, 5);
  for (Eigen::Index i = 0; i < matrix.rows(); ++i) {
    std::string row;
    for (Eigen::Index j = 0; j < matrix.cols(); ++j)
      row += fmt::format("{:>13}", texts[static_cast<std::size_t>(i * matrix.cols() + j)]);
    fmt::print("  {:<3}{}   {}\n", i == 0 ? name : "", row, i == 0 ? unit : "");
  }
}

bool expands(std::span<const laminate::Layer> stack) {
  return std::any_of(stack.begin(), stack.end(), [](const laminate::Layer& l) { return l.thermal.norm() > 0.0; });
}

/// Stray last bits beside a number of size `of` are nought.
double clean(double value, double of) { return std::abs(value) < 1e-12 * of ? 0.0 : value; }

}  // namespace

namespace {

/// What one kelvin, or one unit of moisture, does: free strain and curvature, and the resultants that hold these back.
Json expansion_json(std::span<const laminate::Layer> stack, double z0, laminate::Expands by) {
  const laminate::Deformation free = laminate::free_expansion(stack, z0, by);
  const laminate::Resultants held = laminate::held_expansion(stack, z0, by);
  return {{"strain", list_json(free.strain)},
          {"curvature", list_json(free.curvature)},
          {"N", list_json(held.N)},
          {"M", list_json(held.M)}};
}

}  // namespace

Json laminate_json(const UnitSystem& units, std::span<const laminate::Layer> stack, double z0) {
  const laminate::Stiffness k = laminate::stiffness(stack, z0);
  const double h = laminate::thickness(stack);
  const laminate::Equivalent solid = laminate::equivalent(stack);
  const material::Elastic& e = solid.elastic;
  const laminate::Compliance inverse = laminate::compliance(k);
  return {{"thickness", h},
          {"areal_mass", laminate::areal_mass(stack)},
          {"A", matrix_json(k.A)},
          {"B", matrix_json(k.B)},
          {"D", matrix_json(k.D)},
          {"H", matrix_json(k.H)},
          {"compliance", {{"a", matrix_json(inverse.a)}, {"b", matrix_json(inverse.b)}, {"d", matrix_json(inverse.d)}}},
          {"in_plane", constants_json(laminate::in_plane(k, h, z0 + 0.5 * h))},
          {"in_plane_constrained", constants_json(laminate::in_plane_constrained(k, h))},
          {"bending", constants_json(laminate::in_bending(k, h, z0 + 0.5 * h))},
          {"thermal", expansion_json(stack, z0, laminate::Expands::by_temperature)},
          {"moisture", expansion_json(stack, z0, laminate::Expands::by_moisture)},
          {"in_words", laminate::in_words(stack, units)},
          {"solid",
           {{"E1", e.E1},
            {"E2", e.E2},
            {"E3", e.E3},
            {"nu12", e.nu12},
            {"nu13", e.nu13},
            {"nu23", e.nu23},
            {"G12", e.G12},
            {"G13", e.G13},
            {"G23", e.G23},
            {"stiffness", matrix_json(material::stiffness(e))},
            {"expansion", list_json(solid.thermal)},
            {"density", solid.density ? Json(*solid.density) : Json()}}}};
}

void print_compliance(const UnitSystem& units, std::span<const laminate::Layer> stack, double z0) {
  const std::string length = units.unit(Dimension::length), force = units.unit(Dimension::force);
  const laminate::Compliance c = laminate::compliance(laminate::stiffness(stack, z0));
  const double size = std::sqrt(c.a.norm() * c.d.norm());
  fmt::print("\ninverse of A, B, D: strain = a N + b M, curvature = bT N + d M, times 1e6:\n");
  print_matrix("a", 1e6 * c.a, fmt::format("{}/{}", length, force));
  print_matrix("b", 1e6 * c.b, fmt::format("1/{}", force), 1e6 * size);
  print_matrix("d", 1e6 * c.d, fmt::format("1/({} {})", force, length));
}

void print_laminate(const UnitSystem& units, std::span<const laminate::Layer> stack, double z0,
                    const std::string& about) {
  const std::string length = units.unit(Dimension::length), stress = units.unit(Dimension::stress),
                    force = units.unit(Dimension::force);
  const laminate::Stiffness k = laminate::stiffness(stack, z0);
  const double h = laminate::thickness(stack);
  fmt::print("\nstiffness about the mesh surface, {}:\n", about);
  print_matrix("A", k.A, fmt::format("{}/{}", force, length));
  print_matrix("B", k.B, force);
  print_matrix("D", k.D, fmt::format("{} {}", force, length));
  print_matrix("H", k.H, fmt::format("{}/{}  (transverse shear xz, yz)", force, length));
  fmt::print("\n");
  TableText constants({"engineering constants", "Ex " + stress, "Ey " + stress, "Gxy " + stress, "nuxy"});
  const auto add = [&](std::string_view name, const laminate::EngineeringConstants& c) {
    constants.add({std::string(name), number(c.Ex), number(c.Ey), number(c.Gxy), number(c.nuxy, 3)});
  };
  add("in plane, free to bend", laminate::in_plane(k, h, z0 + 0.5 * h));
  add("in plane, bending held", laminate::in_plane_constrained(k, h));
  add("in bending", laminate::in_bending(k, h, z0 + 0.5 * h));
  constants.print(stdout);
  const laminate::Equivalent solid = laminate::equivalent(stack);
  const material::Elastic& e = solid.elastic;
  fmt::print("\n");
  for (const std::string& sentence : laminate::in_words(stack, units)) fmt::print("{}\n", sentence);
  fmt::print("\n");
  TableText as_solid({"as a solid", "E1 " + stress, "E2", "E3", "G12", "G13", "G23", "nu12", "nu13", "nu23"});
  as_solid.add({e.full ? "not orthotropic along x, y" : "orthotropic", number(e.E1), number(e.E2), number(e.E3),
                number(e.G12), number(e.G13), number(e.G23), number(e.nu12, 3), number(e.nu13, 3), number(e.nu23, 3)});
  as_solid.print(stdout);
  if (expands(stack)) fmt::print("\n");
  if (!expands(stack)) return;
  const laminate::Deformation free = laminate::free_expansion(stack, z0, laminate::Expands::by_temperature);
  const auto three = [&](const laminate::Vector3& v, double scale) {
    const double size = v.cwiseAbs().maxCoeff();
    return fmt::format("{} {} {}", number(clean(v[0], size) * scale), number(clean(v[1], size) * scale),
                       number(clean(v[2], size) * scale));
  };
  fmt::print("warmed by 1 K, free: strain x y xy {} 1e-6, through the thickness {} 1e-6", three(free.strain, 1e6),
             number(solid.thermal[2] * 1e6));
  if (free.curvature.norm() * h > 1e-9 * free.strain.norm())
    fmt::print(", curvature {} 1e-6/{}", three(free.curvature, 1e6), length);
  fmt::print("\n");
}

laminate::Load LoadChoices::load() const {
  laminate::Load out;
  if (!N.empty()) out.N = {N[0], N[1], N[2]};
  if (!M.empty()) out.M = {M[0], M[1], M[2]};
  if (!Q.empty()) out.Q = {Q[0], Q[1]};
  out.temperature = temperature;
  out.moisture = moisture;
  return out;
}

void add_load_options(CLI::App& command, LoadChoices& choices) {
  command.add_option("--force", choices.N, "Nx,Ny,Nxy, force per length")->delimiter(',')->expected(3);
  command.add_option("--moment", choices.M, "Mx,My,Mxy about the mesh surface, moment per length")
      ->delimiter(',')
      ->expected(3);
  command.add_option("--shear", choices.Q, "Qx,Qy, transverse shear force per length")->delimiter(',')->expected(2);
  command.add_option("--warmed", choices.temperature, "Kelvin above the stress-free temperature (negative: cooled)");
  command.add_option("--moisture", choices.moisture, "Mass of water taken up per mass of the dry laminate");
}

Json states_json(std::span<const laminate::Layer> stack, double z0, const LoadChoices& choices,
                 std::span<const std::string> names, bool from_top) {
  const laminate::Load load = choices.load();
  const laminate::Deformation d = laminate::deformation(stack, z0, load);
  auto states = laminate::layer_states(stack, z0, d, load);
  if (from_top) std::reverse(states.begin(), states.end());
  Json places = Json::array();
  for (std::size_t i = 0; i < states.size(); ++i) {
    const laminate::LayerState& s = states[i];
    constexpr std::string_view at[] = {"bottom", "middle", "top"};
    places.push_back({{"layer", s.layer + 1},
                      {"ply", names[s.layer]},
                      {"angle_deg", stack[s.layer].angle.degrees()},
                      {"place", at[from_top ? 2 - i % 3 : i % 3]},
                      {"z", s.z},
                      {"strain", list_json(s.strain)},
                      {"stress", list_json(s.stress)},
                      {"ply_strain", list_json(s.ply_strain)},
                      {"ply_stress", list_json(s.ply_stress)},
                      {"ply_shear", list_json(s.ply_shear)}});
  }
  return {{"strain", list_json(d.strain)}, {"curvature", list_json(d.curvature)}, {"layers", places}};
}

void print_states(const UnitSystem& units, std::span<const laminate::Layer> stack, double z0,
                  const LoadChoices& choices, std::span<const std::string> names, bool from_top) {
  const std::string length = units.unit(Dimension::length), stress = units.unit(Dimension::stress);
  const laminate::Load load = choices.load();
  const laminate::Deformation d = laminate::deformation(stack, z0, load);
  const double h = laminate::thickness(stack);
  const double most = std::max(d.strain.cwiseAbs().maxCoeff(), d.curvature.cwiseAbs().maxCoeff() * h);
  const auto micro = [&](double value, double scale) { return number(clean(value * scale, most) * 1e6 / scale); };
  fmt::print("\nunder this load: strain x y xy {} {} {} 1e-6, curvature {} {} {} 1e-6/{}\n", micro(d.strain[0], 1),
             micro(d.strain[1], 1), micro(d.strain[2], 1), micro(d.curvature[0], h), micro(d.curvature[1], h),
             micro(d.curvature[2], h), length);
  fmt::print("layers {}, in ply axes: 1 along the fibres; strains in 1e-6, whole; stresses in {}\n\n",
             from_top ? "from the top down" : "from the tool up", stress);
  TableText table({"layer", "angle", "at", "z " + length, "e1", "e2", "g12", "s1", "s2", "t12", "t13", "t23"});
  auto states = laminate::layer_states(stack, z0, d, load);
  double most_strain = 0.0, most_stress = 0.0;
  for (const laminate::LayerState& s : states) {
    most_strain = std::max(most_strain, s.ply_strain.cwiseAbs().maxCoeff());
    most_stress = std::max({most_stress, s.ply_stress.cwiseAbs().maxCoeff(), s.ply_shear.cwiseAbs().maxCoeff()});
  }
  constexpr std::string_view at[] = {"bottom", "middle", "top"};
  std::vector<std::size_t> order(states.size());
  for (std::size_t i = 0; i < order.size(); ++i) order[i] = from_top ? order.size() - 1 - i : i;
  std::vector<double> heights;
  for (const laminate::LayerState& s : states) heights.push_back(clean(s.z, h));
  const auto z = column(heights);
  for (const std::size_t i : order) {
    const laminate::LayerState& s = states[i];
    const auto strain = [&](int k) { return number(clean(s.ply_strain[k], most_strain) * 1e6); };
    const auto value = [&](double v) { return number(clean(v, most_stress)); };
    const bool first = i % 3 == (from_top ? 2u : 0u);
    table.add({first ? names[s.layer] : "", first ? fmt::format("{:g}°", stack[s.layer].angle.degrees()) : "",
               std::string(at[i % 3]), z[i], strain(0), strain(1), strain(2), value(s.ply_stress[0]),
               value(s.ply_stress[1]), value(s.ply_stress[2]), value(s.ply_shear[0]), value(s.ply_shear[1])});
  }
  table.print(stdout);
}

void add_write_options(CLI::App& command, WriteChoices& choices) {
  add_output_option(
      command, "--write", choices.path,
      "Write the laminate as one solid material to this file: a solver's, or .xml for MatML, .toml for a library",
      &choices.append);
  command.add_option("--name", choices.name, "Its name in the file");
  command.add_option("--format", choices.format, "Of a solver's file: calculix, when not given, or bulk-data")
      ->check(CLI::IsMember({"calculix", "bulk-data"}));
  command
      .add_option("--constants", choices.constants,
                  "9, what couples pulling and shear left out, or 21; as many as it has if not given")
      ->check(CLI::IsMember({9, 21}));
  command.add_option("--number", choices.id, "Number of the bulk data card")->check(CLI::PositiveNumber);
  command.add_flag("--append", choices.append, "Add it to the file instead of writing the file anew");
}

void write_equivalent(const UnitSystem& units, std::span<const laminate::Layer> stack, const WriteChoices& choices,
                      const std::string& made_of) {
  if (choices.path.empty()) return;
  const laminate::Equivalent solid = laminate::equivalent(stack);
  material::Material m;
  m.name = choices.name;
  m.elastic = solid.elastic;
  std::string left_out;
  if (choices.constants == 21) m.elastic.full = material::stiffness(m.elastic);
  if (choices.constants == 9 && m.elastic.full) {
    m.elastic.full.reset();
    if (const auto why = material::not_positive_definite(m.elastic))
      throw Failure({Severity::error,
                     "solid.constants",
                     fmt::format("the laminate has no nine constants of its own: {}", *why),
                     {},
                     "leave --constants out, or say 21"});
    const material::Matrix6 whole = *solid.elastic.full;
    left_out = fmt::format("nine constants leave out what couples pulling and shear: {:.2g} % of the stiffness",
                           100.0 * (material::stiffness(m.elastic) - whole).norm() / whole.norm());
  }
  m.kind = m.elastic.full ? material::Kind::anisotropic : material::Kind::orthotropic;
  m.density = solid.density;
  if (solid.thermal.norm() > 0.0) {
    m.thermal = {solid.thermal[0], solid.thermal[1], solid.thermal[2]};
    if (std::abs(solid.thermal[5]) > 1e-9 * solid.thermal.norm()) m.thermal.shear = solid.thermal[5];
  }
  m.made_of = made_of;
  std::vector<std::string> remarks = {
      fmt::format("the laminate as one solid, 1 along its 0 degrees, 3 along the normal, thickness {:g} {}",
                  laminate::thickness(stack), units.unit(Dimension::length)),
      "in the plane it is exact; bending stiffness depends on the order of the plies and is lost"};
  if (!left_out.empty()) remarks.push_back(left_out);
  const Existing existing = choices.append ? Existing::added_to : Existing::replaced;
  const bool library = choices.path.ends_with(".xml") || choices.path.ends_with(".toml");
  if (library && !choices.format.empty())
    throw Failure(
        {Severity::error,
         "deck.choices",
         fmt::format("--format {} is a solver's, and {} is a library of materials", choices.format, choices.path),
         {},
         "leave one of them out"});
  if (library) {
    m.note = fmt::format("{}", fmt::join(remarks, "; "));
    material::write_materials(choices.path, {&m, 1}, units, existing);
  } else {
    deck::write_material(choices.path, m, units, choices.format.empty() ? "calculix" : choices.format, choices.id,
                         remarks, existing);
  }
  if (!left_out.empty()) fmt::print(stderr, "{}\n", left_out);
  fmt::print(stderr, "{} {}\n", choices.append ? "added to" : "wrote", choices.path);
}

}  // namespace bordado::cli
