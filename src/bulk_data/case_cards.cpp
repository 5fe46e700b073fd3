// Supports, loads and cases of a bulk data deck of shells.
#include "case_cards.hpp"

#include "card.hpp"

#include <bordado/deck/uses.hpp>
#include <bordado/deck/writing.hpp>
#include <bordado/design.hpp>

#include <fmt/format.h>
#include <Eigen/Geometry>

#include <algorithm>
#include <cmath>

namespace bordado::bulk_data {

using mesh::ElementIndex;

CaseCards::CaseCards(const Model& model, std::span<const std::size_t> cases, OutputFile& file,
                     std::vector<deck::Stands>& names, std::int64_t sections)
    : model_(model),
      surface_(model.surface),
      cases_(cases.begin(), cases.end()),
      stress_free_(deck::only_stress_free(model, cases)),
      file_(file),
      names_(names),
      sections_(sections) {
  if (cases_.empty()) return;
  const Model::Case& first = model.cases[cases_.front()];
  for (const std::size_t k : cases_)
    if (model.cases[k].analysis != first.analysis)
      throw Failure(
          {Severity::error, "deck.cases-apart",
           fmt::format("cases '{}' and '{}' want different kinds of analysis, of which a bulk data deck holds one",
                       first.name, model.cases[k].name),
           Place::in(model.design->part.file), "write a deck of each kind: bordado deck --case NAME"});
  for (const std::size_t k : cases_) check_linked_alike(model, first, model.cases[k]);
  // One plain static case needs no combinations of sets.
  plain_ = cases_.size() == 1 && first.analysis == part::Analysis::linear && model.beds.empty() &&
           std::all_of(first.factors.begin(), first.factors.end(), [](double factor) { return factor == 1.0; }) &&
           first.supports.size() == model.supports.size() &&
           std::all_of(model.loads.begin(), model.loads.end(), [](const Model::Load& load) {
             return !std::holds_alternative<Model::Displacement>(load.what) &&
                    !std::holds_alternative<Model::Temperature>(load.what);
           });
  next_node_ = 1 + *std::max_element(surface_.node_ids.begin(), surface_.node_ids.end());
  next_element_ = 1 + *std::max_element(surface_.element_ids.begin(), surface_.element_ids.end());
  collect_axes();
}

void CaseCards::write() {
  write_axes();
  write_supports();
  write_beds();
  write_loads();
  write_cases();
}

void CaseCards::line(std::string_view text) {
  file_.write(text);
  file_.write("\n");
}

void CaseCards::comment(std::string_view text) {
  for (const std::string& part : deck::wrapped(text)) line("$ " + part);
}

void CaseCards::write_control(const Asked& asked) {
  constexpr int solutions[] = {101, 106, 103, 105};
  const part::Analysis analysis = cases_.empty() ? part::Analysis::linear : model_.cases[cases_.front()].analysis;
  line(fmt::format("SOL {}", solutions[static_cast<std::size_t>(analysis)]));
  line("CEND");
  line(fmt::format("TITLE = {}", deck::solver_name(model_.design->part.name)));
  file_.write(asked.sets);
  if (plain_) {
    if (!model_.supports.empty()) line(fmt::format("SPC = {}", support_set));
    if (!model_.loads.empty()) line(fmt::format("LOAD = {}", load_set));
  }
  line("DISPLACEMENT = ALL");
  if (analysis == part::Analysis::linear || analysis == part::Analysis::large_displacements) {
    line("SPCFORCES = ALL");
    if (asked.layers) line("STRESS = ALL");
    if (asked.layers || asked.sections) line("STRAIN = ALL");
    if (asked.sections) line("FORCE = ALL");
  }
  if (!plain_) write_subcases();
  line("BEGIN BULK");
  if (analysis == part::Analysis::large_displacements) line("PARAM,LGDISP,1");
}

void CaseCards::write_subcases() {
  std::size_t number = 0;
  for (const std::size_t k : cases_) {
    const Model::Case& load_case = model_.cases[k];
    const auto begin = [&](std::string_view what) {
      line(fmt::format("SUBCASE {}", ++number));
      line(fmt::format("  SUBTITLE = {}{}", deck::solver_name(load_case.name), what));
      if (has_supports(model_, load_case)) line(fmt::format("  SPC = {}", case_supports_from + k + 1));
      names_.push_back({fmt::format("subcase {}", number), "step", fmt::format("case {}", load_case.name)});
    };
    const auto load = [&] {
      if (has_forces(model_, load_case)) line(fmt::format("  LOAD = {}", case_loads_from + k + 1));
      if (heated(load_case)) line(fmt::format("  TEMPERATURE(LOAD) = {}", heat_from + k + 1));
    };
    switch (load_case.analysis) {
      case part::Analysis::linear:
      case part::Analysis::large_displacements:
        begin("");
        load();
        if (load_case.analysis == part::Analysis::large_displacements) line("  NLPARM = 1");
        break;
      case part::Analysis::frequencies:
        if (load_case.any_load()) {
          begin(" LOADS");
          load();
        }
        begin("");
        if (load_case.any_load()) line(fmt::format("  STATSUB = {}", number - 1));
        line(fmt::format("  METHOD = {}", k + 1));
        break;
      case part::Analysis::buckling:
        begin(" LOADS");
        load();
        begin("");
        line(fmt::format("  STATSUB = {}", number - 1));
        line(fmt::format("  METHOD = {}", k + 1));
        break;
    }
  }
}

bool CaseCards::heated(const Model::Case& load_case) const { return has_load<Model::Temperature>(model_, load_case); }

/// Directions of supports that are not the part's, numbered from 1: those of the cases' supports.
void CaseCards::collect_axes() {
  std::map<std::array<std::int64_t, 6>, std::size_t> known;
  for (const std::size_t k : cases_)
    for (const std::size_t i : model_.cases[k].supports) {
      const Model::Support& support = model_.supports[i];
      for (std::size_t n = 0; n < support.axes.size(); ++n) {
        std::array<std::int64_t, 6> key{};
        for (std::size_t c = 0; c < 6; ++c)
          key[c] = std::llround(1e9 * support.axes[n][c / 3][static_cast<Eigen::Index>(c % 3)]);
        const auto [at, is_new] = known.emplace(key, axes_.size());
        if (is_new) axes_.push_back(support.axes[n]);
        axes_of_.emplace(support.nodes[n], at->second);
      }
    }
}

void CaseCards::write_axes() {
  for (std::size_t i = 0; i < axes_.size(); ++i)
    file_.write(axes_card(static_cast<std::int64_t>(i) + 1, axes_[i][0], axes_[i][0].cross(axes_[i][1])));
}

void CaseCards::write_supports() {
  for (std::size_t number = 0; number < model_.supports.size(); ++number) {
    const Model::Support& support = model_.supports[number];
    const std::size_t set = set_of_support(number);
    comment(fmt::format("support {}", plain_text(support.name)));
    names_.push_back({fmt::format("{}", set), "support", fmt::format("support {}", support.name)});
    std::string freedoms;
    for (int i = 0; i < 6; ++i)
      if (support.held >> i & 1) freedoms += static_cast<char>('1' + i);
    const auto& nodes = support.nodes;
    if (!std::all_of(nodes.begin(), nodes.end(), [&](auto n) { return fits_small(surface_.node_ids[n]); })) {
      LargeCard card("SPC1");
      card.integer(static_cast<std::int64_t>(set)).word(freedoms);
      for (const mesh::NodeIndex n : nodes) card.integer(surface_.node_ids[n]);
      file_.write(card.text());
      continue;
    }
    file_.write_lines((nodes.size() + 5) / 6, [&](std::size_t row, std::string& text) {
      fmt::format_to(std::back_inserter(text), "{:<8}{:<8}{:<8}", "SPC1", set, freedoms);
      for (std::size_t i = 6 * row; i < std::min(nodes.size(), 6 * row + 6); ++i)
        fmt::format_to(std::back_inserter(text), "{:<8}", surface_.node_ids[nodes[i]]);
      text.erase(text.find_last_not_of(' ') + 1);
      text += '\n';
    });
  }
}

void CaseCards::write_loads() {
  for (std::size_t i = 0; i < model_.loads.size(); ++i) {
    // A link is there in every case of a deck.
    if (std::holds_alternative<Model::Link>(model_.loads[i].what) && !cases_.empty() &&
        !model_.cases[cases_.front()].acts(i))
      continue;
    comment(fmt::format("load {}", plain_text(model_.loads[i].name)));
    names_.push_back({fmt::format("{}", set_of_load(i)), "load", fmt::format("load {}", model_.loads[i].name)});
    set_ = static_cast<std::int64_t>(set_of_load(i));
    std::visit([&](const auto& what) { write_load(what); }, model_.loads[i].what);
  }
}

void CaseCards::write_vector(std::string_view card, std::int64_t node, const Vec3& v) {
  file_.write(vector_card(card, set_, node, v));
}

void CaseCards::write_load(const Model::Force& force) {
  for (std::size_t i = 0; i < force.nodes.size(); ++i)
    write_vector("FORCE", surface_.node_ids[force.nodes[i]], force.forces[i]);
  for (std::size_t i = 0; i < force.moments.size(); ++i)
    write_vector("MOMENT", surface_.node_ids[force.nodes[i]], force.moments[i]);
}

void CaseCards::write_load(const Model::Pressure& pressure) {
  if (!pressure.along_normal) {
    comment("a pressure that varies, as the forces on nodes that it comes to on its face");
    for (std::size_t i = 0; i < pressure.nodes.size(); ++i)
      if (pressure.forces[i] != Vec3::Zero())
        write_vector("FORCE", surface_.node_ids[pressure.nodes[i]], pressure.forces[i]);
    return;
  }
  comment(
      fmt::format("{} along the element normal; these cards act on the mesh, so each value is that "
                  "pressure times the area of the pressed face over that of the mesh",
                  field(*pressure.along_normal, 16)));
  file_.write_lines(pressure.elements.size(), [&](std::size_t i, std::string& text) {
    const std::int64_t id = surface_.element_ids[pressure.elements[i]];
    const double value = *pressure.along_normal * pressure.face_ratio[i];
    if (!fits_small(value) || !fits_small(id)) {
      text += LargeCard("PLOAD4").integer(set_).integer(id).real(value).text();
      return;
    }
    text += "PLOAD4  ";
    small_integer(text, set_);
    small_integer(text, id);
    append_real(text, value, 8);
    text += '\n';
  });
}

void CaseCards::write_load(const Model::Inertia& inertia) {
  file_.write(gravity_card(set_, inertia.gravity));
  if (inertia.rotation) file_.write(rotation_cards(set_, next_node_++, *inertia.rotation));
}

void CaseCards::write_load(const Model::Link& link) {
  const std::int64_t node = next_node_++;
  std::vector<std::int64_t> nodes;
  for (const mesh::NodeIndex n : link.nodes) nodes.push_back(surface_.node_ids[n]);
  file_.write(link_cards(next_element_++, node, link.at, nodes));
  if (link.force != Vec3::Zero()) write_vector("FORCE", node, link.force);
  if (link.moment != Vec3::Zero()) write_vector("MOMENT", node, link.moment);
}

// These stand with the cases, whose factors they take.
void CaseCards::write_load(const Model::Displacement&) { comment("stands with the cases"); }

void CaseCards::write_load(const Model::Temperature&) { comment("stands with the cases"); }

/// Springs to the ground along the normal at every node.
void CaseCards::write_beds() {
  for (const Model::Bed& bed : model_.beds) {
    comment(fmt::format("bed {}: {} along the normal of every node, times its share of the area", plain_text(bed.name),
                        field(bed.stiffness, 16)));
    for (std::size_t i = 0; i < bed.nodes.size(); ++i) {
      const Vec3& n = bed.normals[i];
      Eigen::Index least = 0;
      n.cwiseAbs().minCoeff(&least);
      const Vec3 y = n.cross(Vec3::Unit(least)).normalized();
      const auto axes = static_cast<std::int64_t>(axes_.size() + ++beds_);
      file_.write(axes_card(axes, n, n.cross(y)));
      file_.write(spring_cards(next_element_++, sections_ + static_cast<std::int64_t>(beds_),
                               surface_.node_ids[bed.nodes[i]], axes, bed.stiffness * bed.areas[i]));
    }
  }
}

/// What every case puts together.
void CaseCards::write_cases() {
  if (plain_) return;
  if (!cases_.empty() && model_.cases[cases_.front()].analysis == part::Analysis::large_displacements)
    line("NLPARM  1       10");
  for (const std::size_t k : cases_) {
    const Model::Case& load_case = model_.cases[k];
    comment(fmt::format("case {}", plain_text(load_case.name)));
    if (has_forces(model_, load_case)) {
      LargeCard card("LOAD");
      card.integer(static_cast<std::int64_t>(case_loads_from + k + 1)).real(1.0);
      for (std::size_t i = 0; i < model_.loads.size(); ++i)
        if (load_case.acts(i) && !std::holds_alternative<Model::Temperature>(model_.loads[i].what) &&
            !std::holds_alternative<Model::Displacement>(model_.loads[i].what))
          card.real(load_case.factors[i]).integer(static_cast<std::int64_t>(set_of_load(i)));
      file_.write(card.text());
    }
    if (has_supports(model_, load_case)) {
      LargeCard card("SPCADD");
      card.integer(static_cast<std::int64_t>(case_supports_from + k + 1));
      for (const std::size_t i : load_case.supports) card.integer(static_cast<std::int64_t>(set_of_support(i)));
      const auto moved = static_cast<std::int64_t>(moved_from + k + 1);
      if (has_load<Model::Displacement>(model_, load_case)) card.integer(moved);
      file_.write(card.text());
      for_each_load<Model::Displacement>(model_, load_case,
                                         [&](const Model::Displacement& displacement, double factor) {
                                           for (const mesh::NodeIndex n : displacement.nodes)
                                             for (int f = 0; f < 6; ++f)
                                               if (const auto& by = displacement.by[static_cast<std::size_t>(f)])
                                                 file_.write(LargeCard("SPC")
                                                                 .integer(moved)
                                                                 .integer(surface_.node_ids[n])
                                                                 .integer(f + 1)
                                                                 .real(factor * *by)
                                                                 .text());
                                         });
    }
    if (heated(load_case)) write_heat(k);
    if (load_case.analysis == part::Analysis::frequencies || load_case.analysis == part::Analysis::buckling)
      file_.write(
          LargeCard("EIGRL").integer(static_cast<std::int64_t>(k + 1)).blank().blank().integer(load_case.count).text());
  }
}

void CaseCards::write_heat(std::size_t k) {
  const double from = stress_free_.value_or(0.0);
  set_ = static_cast<std::int64_t>(heat_from + k + 1);
  // What no load warms stays free of stress.
  file_.write(LargeCard("TEMPD").integer(set_).real(from).text());
  for_each_load<Model::Temperature>(model_, model_.cases[k], [&](const Model::Temperature& heat, double factor) {
    const auto scaled = [&](double value) { return from + factor * (value - from); };
    std::map<mesh::NodeIndex, std::size_t> place;
    for (std::size_t i = 0; i < heat.nodes.size(); ++i) {
      place.emplace(heat.nodes[i], i);
      if (!heat.through)
        file_.write(LargeCard("TEMP")
                        .integer(set_)
                        .integer(surface_.node_ids[heat.nodes[i]])
                        .real(scaled(heat.tool[i]))
                        .text());
    }
    if (!heat.through) return;
    for (const ElementIndex e : heat.elements) {
      double tool = 0.0, bag = 0.0;
      const auto corners = surface_.corners_of(e);
      for (const mesh::NodeIndex n : corners) {
        tool += scaled(heat.tool[place.at(n)]) / static_cast<double>(corners.size());
        bag += scaled(heat.bag[place.at(n)]) / static_cast<double>(corners.size());
      }
      const section::Sections& sections = model_.design->sections;
      const double h = sections.thickness[sections.section_of[e]];
      file_.write(LargeCard("TEMPP1")
                      .integer(set_)
                      .integer(surface_.element_ids[e])
                      .real(0.5 * (tool + bag))
                      .real((bag - tool) / h)
                      .text());
    }
  });
}

}  // namespace bordado::bulk_data
