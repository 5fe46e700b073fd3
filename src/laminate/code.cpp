#include <bordado/laminate.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>

namespace bordado::laminate {

namespace {

constexpr std::size_t most_plies = 10000;
constexpr std::string_view plus_minus = "\u00b1", minus_plus = "\u2213", overbar = "\u0305", minus_sign = "\u2212";

bool is_mark_letter(char c) { return std::isalpha(static_cast<unsigned char>(c)) != 0; }
bool is_frame_letter(char c) { return std::isalnum(static_cast<unsigned char>(c)) != 0 || c == '-'; }

/// Recursive descent over one code:
///   code  = "[" run "]" repeat "s"?          run  = item ("/" item)*          item = group | plies
///   group = "(" run ")" repeat               plies = sign angle mark? ("@" frame)? bar? repeat
class CodeReader {
 public:
  CodeReader(std::string_view code, const IsFabric& is_fabric, const Place& where)
      : code_(code), is_fabric_(is_fabric), where_(where) {}

  std::vector<CodePly> read() {
    skip();
    if (!take("[")) fail(at_, "a code begins with '['");
    auto [plies, middle] = run(']');
    if (!take("]")) fail(at_, "']' is missing");
    const std::size_t times = repeat();
    const std::size_t symmetric_at = at_;
    const bool symmetric = take("s") || take("S") || take("_s");
    const std::size_t late = symmetric ? repeat() : 1;  // [..]s2 is read as [..]2s
    skip();
    if (at_ != code_.size()) fail(at_, "nothing may follow here");
    if (middle && !symmetric) fail(*middle, "a middle ply (^) needs an 's' behind the bracket");
    if (middle && times * late != 1) fail(symmetric_at, "a code with a middle ply (^) cannot be repeated");
    plies = repeated(plies, times * late, symmetric_at);
    if (symmetric) {
      const std::size_t half = plies.size() - (middle ? 1 : 0);
      limit(plies.size() + half, symmetric_at);
      for (std::size_t i = half; i-- > 0;) plies.push_back(CodePly(plies[i]));
    }
    return plies;
  }

 private:
  struct Run {
    std::vector<CodePly> plies;
    std::optional<std::size_t> middle;  ///< offset of the overbar, where the last ply has one
  };

  [[noreturn]] void fail(std::size_t at, std::string_view why) const {
    // Columns are counted in characters, as an eye does, not in bytes.
    const auto column = static_cast<std::size_t>(std::count_if(
        code_.begin(), code_.begin() + static_cast<std::ptrdiff_t>(at), [](char c) { return (c & 0xC0) != 0x80; }));
    throw Failure({Severity::error, "laminate.code",
                   fmt::format("laminate code cannot be read at character {}: {}", column + 1, why), where_,
                   fmt::format("{}\n    {}^", code_, std::string(column, ' '))});
  }
  void limit(std::size_t count, std::size_t at) const {
    if (count > most_plies) fail(at, fmt::format("this makes {} plies; at most {} are read", count, most_plies));
  }

  void skip() {
    while (at_ < code_.size() && (code_[at_] == ' ' || code_[at_] == '\t')) ++at_;
  }
  bool take(std::string_view token) {
    skip();
    if (!code_.substr(at_).starts_with(token)) return false;
    at_ += token.size();
    return true;
  }

  /// "2", "_2" or nothing (1).
  std::size_t repeat() {
    const std::size_t begin = at_;
    const bool subscript = take("_");
    skip();
    std::size_t value = 1;
    if (at_ < code_.size() && std::isdigit(static_cast<unsigned char>(code_[at_]))) {
      const auto [end, error] = std::from_chars(code_.data() + at_, code_.data() + code_.size(), value);
      if (error != std::errc{} || value == 0 || value > most_plies)
        fail(at_, fmt::format("a repeat is a whole number from 1 to {}", most_plies));
      at_ = static_cast<std::size_t>(end - code_.data());
    } else if (subscript) {
      at_ = begin;  // "_s"
    }
    return value;
  }

  std::vector<CodePly> repeated(const std::vector<CodePly>& plies, std::size_t times, std::size_t at) const {
    limit(plies.size() * times, at);
    std::vector<CodePly> out;
    out.reserve(plies.size() * times);
    for (std::size_t i = 0; i < times; ++i) out.insert(out.end(), plies.begin(), plies.end());
    return out;
  }

  Run run(char closing) {
    if (++depth_ > 50) fail(at_, "groups are nested too deep");
    Run out;
    do {
      skip();
      if (out.middle) fail(*out.middle, "only the last ply can be the middle ply (^)");
      if (at_ < code_.size() && code_[at_] == closing) fail(at_, "an angle is missing");
      if (take("(")) {
        append(out.plies, group());
        continue;
      }
      append(out.plies, plies(out.middle));
    } while (take("/") || take(","));
    --depth_;
    return out;
  }

  void append(std::vector<CodePly>& to, const std::vector<CodePly>& more) const {
    limit(to.size() + more.size(), at_);
    to.insert(to.end(), more.begin(), more.end());
  }

  std::vector<CodePly> group() {
    const std::size_t begin = at_;
    auto [plies, middle] = run(')');
    if (middle) fail(*middle, "a middle ply (^) cannot stand in a group");
    if (!take(")")) fail(at_, fmt::format("')' is missing for the '(' at character {}", begin));
    const std::string mark = read_mark(), frame = read_frame();
    if (plies.size() == 2 && plies[0].mark.empty() && plies[1].mark.empty()) {
      const double between = std::remainder(plies[1].angle.degrees() - plies[0].angle.degrees(), 180.0);
      if (std::abs(std::abs(between) - 90.0) < 1e-9 && is_fabric_ && is_fabric_(mark)) {
        plies.pop_back();
        plies[0].mark = mark;
        plies[0].frame = frame;
        return repeated(plies, repeat(), begin);
      }
    }
    for (CodePly& ply : plies) {
      if (ply.mark.empty()) ply.mark = mark;
      if (ply.frame.empty()) ply.frame = frame;
    }
    return repeated(plies, repeat(), begin);
  }

  /// A name of plain characters, or any name in braces; nothing where neither stands here.
  std::string name(bool (*is_plain)(char)) {
    const std::size_t begin = at_;
    if (code_.substr(at_).starts_with('{')) {
      ++at_;
      const std::size_t close = code_.find('}', at_);
      if (close == std::string_view::npos) fail(begin, "'}' is missing behind a name");
      std::string braced(code_.substr(at_, close - at_));
      at_ = close + 1;
      return braced;
    }
    while (at_ < code_.size() && is_plain(code_[at_])) ++at_;
    return std::string(code_.substr(begin, at_ - begin));
  }

  std::string read_mark() { return name(is_mark_letter); }

  std::string read_frame() {
    if (!code_.substr(at_).starts_with('@')) return {};
    const std::size_t begin = at_++;
    std::string frame = name(is_frame_letter);
    if (frame.empty()) fail(begin, "a frame's name should stand behind '@'");
    return frame;
  }

  std::vector<CodePly> plies(std::optional<std::size_t>& middle) {
    skip();
    const std::size_t begin = at_;
    int both = 0;
    if (take(plus_minus) || take("+-") || take("+/-"))
      both = 1;
    else if (take(minus_plus) || take("-+") || take("-/+"))
      both = -1;
    double sign = 1.0;
    if (both == 0) {
      if (take("-") || take(minus_sign))
        sign = -1.0;
      else
        take("+");
    }
    skip();
    double value = 0.0;
    const auto [end, error] =
        std::from_chars(code_.data() + at_, code_.data() + code_.size(), value, std::chars_format::fixed);
    if (error != std::errc{} || !std::isfinite(value) || value < 0.0)
      fail(at_, "an angle in degrees should stand here");
    if (value > 360.0) fail(at_, fmt::format("{:g} is no angle between -360 and 360 degrees", value));
    at_ = static_cast<std::size_t>(end - code_.data());
    if (code_.substr(at_).starts_with("°")) at_ += std::string_view("°").size();
    const std::string mark = read_mark(), frame = read_frame();
    std::vector<CodePly> out;
    if (both != 0) {
      out.push_back({Angle::degrees(both * value), mark, frame, begin + 1});
      out.push_back({Angle::degrees(-both * value), mark, frame, begin + 1});
    } else {
      out.push_back({Angle::degrees(sign * value), mark, frame, begin + 1});
    }
    const std::size_t bar_at = at_;
    const bool bar = take("^") || take(overbar);
    const std::size_t times = repeat();
    if (bar && (both != 0 || times != 1)) fail(bar_at, "the middle ply (^) is a single ply");
    if (bar) middle = bar_at;
    return repeated(out, times, begin);
  }

  std::string_view code_;
  const IsFabric& is_fabric_;
  const Place& where_;
  std::size_t at_ = 0;
  int depth_ = 0;
};

bool same(const CodePly& a, const CodePly& b) { return a.angle == b.angle && a.mark == b.mark && a.frame == b.frame; }

/// As it stands, or in braces where it has other characters than codes take bare.
std::string name_text(const std::string& name, bool (*is_plain)(char)) {
  return std::all_of(name.begin(), name.end(), is_plain) ? name : "{" + name + "}";
}

std::string ply_text(const CodePly& ply) {
  std::string text = fmt::format("{:.2f}", ply.angle.degrees());
  text.erase(text.find_last_not_of('0') + 1);
  if (text.back() == '.') text.pop_back();
  if (text == "-0") text = "0";
  text += name_text(ply.mark, is_mark_letter);
  if (!ply.frame.empty()) text += "@" + name_text(ply.frame, is_frame_letter);
  return text;
}

/// "0/45_2/±30": runs of equal plies get a subscript, +a/-a becomes ±a.
std::string run_text(std::span<const CodePly> plies, bool middle) {
  std::string out;
  const auto is_pair = [&](std::size_t i) {
    return i + 1 < plies.size() && plies[i].mark == plies[i + 1].mark && plies[i].frame == plies[i + 1].frame &&
           plies[i].angle == -plies[i + 1].angle && plies[i].angle.degrees() > 0.0;
  };
  for (std::size_t i = 0; i < plies.size();) {
    if (!out.empty()) out += '/';
    std::size_t times = 1;
    if (is_pair(i) && !(middle && i + 2 == plies.size())) {
      while (is_pair(i + 2 * times) && same(plies[i], plies[i + 2 * times]) &&
             !(middle && i + 2 * times + 2 == plies.size()))
        ++times;
      out += std::string(plus_minus) + ply_text(plies[i]);
      i += 2 * times;
    } else {
      const std::size_t end = plies.size() - (middle ? 1 : 0);
      while (i + times < end && same(plies[i], plies[i + times])) ++times;
      if (middle && i == end) times = 1;
      out += ply_text(plies[i]);
      i += times;
      if (middle && i == plies.size()) out += '^';
    }
    if (times > 1) out += fmt::format("_{}", times);
  }
  return out;
}

}  // namespace

std::vector<CodePly> parse_code(std::string_view code, const IsFabric& is_fabric, const Place& where) {
  return CodeReader(code, is_fabric, where).read();
}

std::string code_of(std::span<const CodePly> plies) {
  if (plies.empty()) return "[]";
  const std::size_t count = plies.size();
  bool symmetric = count > 1;
  for (std::size_t i = 0; symmetric && i < count / 2; ++i) symmetric = same(plies[i], plies[count - 1 - i]);
  const bool middle = symmetric && count % 2 == 1;
  std::span<const CodePly> half = symmetric ? plies.first((count + 1) / 2) : plies;
  if (symmetric && std::all_of(half.begin(), half.end(), [&](const CodePly& ply) { return same(ply, half[0]); }))
    return fmt::format("[{}]", run_text(plies, false));  // one ply repeated reads best as [0_4]
  std::size_t period = half.size();
  if (!middle)
    for (std::size_t p = 1; p < half.size(); ++p) {
      if (half.size() % p != 0) continue;
      bool periodic = true;
      for (std::size_t i = p; periodic && i < half.size(); ++i) periodic = same(half[i], half[i - p]);
      if (periodic) {
        period = p;
        break;
      }
    }
  const std::size_t times = half.size() / period;
  return fmt::format("[{}]{}{}", run_text(half.first(period), middle), times > 1 ? fmt::format("{}", times) : "",
                     symmetric ? "s" : "");
}

}  // namespace bordado::laminate
