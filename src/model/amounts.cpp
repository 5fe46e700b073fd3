#include "amounts.hpp"

#include <bordado/base/text.hpp>
#include <bordado/design.hpp>
#include <bordado/mesh/io.hpp>
#include <bordado/mesh/locate.hpp>

#include <fmt/format.h>
#include <muParser.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace bordado::model {

namespace {

using mesh::NodeIndex;

/// A formula of x, y and z. Nothing can be assigned in it, and it names nothing but functions and pi.
class Expression {
 public:
  /// \throws mu::Parser::exception_type.
  explicit Expression(const std::string& text) {
    parser_.ClearConst();
    parser_.DefineConst("pi", std::numbers::pi);
    parser_.DefineVar("x", &at_[0]);
    parser_.DefineVar("y", &at_[1]);
    parser_.DefineVar("z", &at_[2]);
    parser_.EnableBuiltInOprt(true);
    parser_.SetExpr(text);
    parser_.Eval();
    if (parser_.GetNumResults() != 1)
      throw mu::Parser::exception_type(mu::ecUNEXPECTED_ARG_SEP, static_cast<int>(text.find(',')), ",");
  }
  double operator()(const Vec3& point) {
    at_ = {point.x(), point.y(), point.z()};
    return parser_.Eval();
  }

 private:
  std::array<double, 3> at_{};
  mu::Parser parser_;
};

class Evaluator {
 public:
  Evaluator(std::span<const NodeIndex> nodes, const std::string& who, const Model& model, Findings& errors,
            Findings& findings)
      : nodes_(nodes), who_(who), model_(model), surface_(model.surface), errors_(errors), findings_(findings) {}

  std::vector<double> operator()(double number) const { return std::vector<double>(nodes_.size(), number); }

  std::vector<double> operator()(const part::Formula& formula) {
    const std::string& text = formula.text.value;
    constexpr std::size_t longest = 2000;
    if (text.size() > longest) return unreadable(formula, fmt::format("it is longer than {} characters", longest));
    if (const auto at = assignment(text)) return unreadable(formula, fmt::format("'=' at character {}", *at + 1));
    std::vector<double> out(nodes_.size());
    try {
      Expression check(text);
      parallel_blocks(nodes_.size(), [&](std::size_t begin, std::size_t end) {
        Expression expression(text);
        for (std::size_t i = begin; i < end; ++i) out[i] = expression(surface_.points[nodes_[i]]);
      });
    } catch (const mu::Parser::exception_type& trouble) {
      return unreadable(formula, trouble.GetMsg());
    }
    return finite(std::move(out), fmt::format("the formula '{}'", plain_text(text, 60)), formula.text.where);
  }

  std::vector<double> operator()(const part::AlongAxis& by) const {
    std::vector<double> out;
    for (const NodeIndex n : nodes_) out.push_back(in_table(by.table, by.along.dot(surface_.points[n] - by.from)));
    return out;
  }

  std::vector<double> operator()(const part::ByDistance& by) {
    const layup::Layup& layup = model_.design->layup;
    const auto sources = zone::sources(by.of, layup.curves, layup.zones, surface_);
    if (!sources) {
      const std::string& name = std::get<std::string>(by.of.what);
      const std::vector<std::string> known = zone::targets(layup.curves, layup.zones, surface_);
      const auto near = nearest_name(name, known);
      errors_.error(
          "load.of-unknown",
          fmt::format("{}: it goes by the distance from '{}', but there is no such curve or zone", who_, name),
          by.of.where, near ? fmt::format("did you mean '{}'?", *near) : fmt::format("known: {}", listed(known, 20)));
      return {};
    }
    const std::vector<double> distances = mesh::distances(surface_, *sources);
    std::vector<double> out;
    for (const NodeIndex n : nodes_) out.push_back(in_table(by.table, distances[n]));
    return out;
  }

  std::vector<double> operator()(const part::OfField& by) {
    const mesh::Sampled sampled = mesh::read_sampled(by.file.value, {.factor = by.factor}, findings_);
    const auto array = std::find_if(sampled.arrays.begin(), sampled.arrays.end(), [&](const mesh::Array& one) {
      return one.name == by.field && one.components == 1;
    });
    if (array == sampled.arrays.end()) {
      std::vector<std::string> known;
      for (const mesh::Array& one : sampled.arrays)
        if (one.components == 1) known.push_back(one.name);
      errors_.error("load.field",
                    fmt::format("{}: '{}' holds no field '{}' of one number each", who_, by.file.value, by.field),
                    by.file.where, fmt::format("fields that could be meant: {}", listed(known, 20)));
      return {};
    }
    std::vector<Vec3> points;
    for (const NodeIndex n : nodes_) points.push_back(surface_.points[n]);
    return finite(mesh::values_at(sampled, *array, points),
                  fmt::format("the field '{}' of '{}'", by.field, by.file.value), by.file.where);
  }

 private:
  std::vector<double> unreadable(const part::Formula& formula, std::string_view why) {
    errors_.error("load.formula",
                  fmt::format("{}: the formula '{}' cannot be read: {}", who_, plain_text(formula.text.value, 60),
                              plain_text(std::string(why), 200)),
                  formula.text.where,
                  "use x, y, z (part lengths), pi, numbers, + - * / ^, ( ), functions such as sin, sqrt, abs, min, "
                  "and CONDITION ? A : B");
    return {};
  }

  /// Where a sign of equality assigns.
  static std::optional<std::size_t> assignment(const std::string& text) {
    for (std::size_t i = 0; i < text.size(); ++i) {
      if (text[i] != '=') continue;
      if (i + 1 < text.size() && text[i + 1] == '=') {
        ++i;
        continue;
      }
      if (i == 0 || std::string_view("<>!").find(text[i - 1]) == std::string_view::npos) return i;
    }
    return std::nullopt;
  }

  std::vector<double> finite(std::vector<double> values, const std::string& what, const Place& where) {
    for (std::size_t i = 0; i < values.size(); ++i) {
      if (std::isfinite(values[i]) && std::abs(values[i]) < 1e30) continue;
      const Vec3& p = surface_.points[nodes_[i]];
      errors_.error("load.not-finite",
                    fmt::format("{}: {} is no finite number at node {}, ({:.6g}, {:.6g}, {:.6g})", who_, what,
                                surface_.node_ids[nodes_[i]], p.x(), p.y(), p.z()),
                    where, "give one that is a number everywhere on what the load acts on");
      return {};
    }
    return values;
  }

  std::span<const NodeIndex> nodes_;
  const std::string& who_;
  const Model& model_;
  const mesh::Surface& surface_;
  Findings& errors_;
  Findings& findings_;
};

}  // namespace

std::vector<double> amounts_at(const part::Amount& amount, std::span<const NodeIndex> nodes, const std::string& who,
                               const Model& model, Findings& errors, Findings& findings) {
  std::vector<double> out = std::visit(Evaluator(nodes, who, model, errors, findings), amount.kind);
  for (double& value : out) value *= amount.scale;
  return out;
}

}  // namespace bordado::model
