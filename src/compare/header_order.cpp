#include "compare/header_order.hpp"

#include "base/text.hpp"

#include <cstdlib>

namespace fibula {
namespace {

/// `…/next.cpp:17:…` -> 17; 0 where the line does not speak of the source.
size_t line_of(std::string_view text, const std::string& source) {
  const size_t at = text.find(source + ":");
  return at == std::string_view::npos
             ? 0
             : std::strtoul(std::string(text.substr(at + source.size() + 1)).c_str(), nullptr, 10);
}

/// Takes those at some positions out of a list, and gives them.
std::vector<std::string> take_out(std::vector<std::string>& names, const std::set<size_t>& positions) {
  std::vector<std::string> kept, out;
  for (size_t i = 0; i < names.size(); ++i) (positions.contains(i) ? out : kept).push_back(std::move(names[i]));
  names = std::move(kept);
  return out;
}

/// Headers that contradict each other: the error moves from one to the next that includes it. What is kept is what
/// compiles behind the parts before it, part by part; the rest is given.
std::vector<std::string> keep_good_parts(std::vector<std::string>& names, const CompileHeaders& compile) {
  constexpr size_t parts = 6;
  std::vector<std::string> good, bad;
  for (size_t part = 0; part < parts; ++part) {
    const auto begin = names.begin() + static_cast<std::ptrdiff_t>(names.size() * part / parts),
               end = names.begin() + static_cast<std::ptrdiff_t>(names.size() * (part + 1) / parts);
    auto tried = good;
    tried.insert(tried.end(), begin, end);
    if (compile(tried).empty()) {
      good = std::move(tried);
    } else {
      bad.insert(bad.end(), begin, end);
    }
  }
  names = std::move(good);
  return bad;
}

/// Takes out what has errors, until the rest compiles. Of hundreds of headers a compile takes seconds.
std::vector<std::string> take_out_bad(std::vector<std::string>& names, const CompileHeaders& compile) {
  constexpr int most_compiles = 6;
  std::vector<std::string> bad;
  for (int tried = 0; !names.empty(); ++tried) {
    const auto errors = compile(names);
    if (errors.empty()) break;
    const bool enough = tried == most_compiles;
    for (auto& name : enough ? keep_good_parts(names, compile) : take_out(names, errors))
      bad.push_back(std::move(name));
    if (enough) break;
  }
  return bad;
}

}  // namespace

std::set<size_t> lines_with_errors(std::string_view said, const std::string& source) {
  std::set<size_t> lines;
  size_t reached = 0;
  for (const auto line : text::lines(said)) {
    const size_t here = line_of(line, source);
    if (here != 0) reached = here;
    const bool error = line.find(" error: ") != std::string_view::npos || line.find("error: ") == 0;
    if (error && reached != 0) lines.insert(reached);
  }
  return lines;
}

OrderedHeaders order_headers(std::vector<std::string> names, const CompileHeaders& compile) {
  OrderedHeaders ordered{.good = std::move(names), .bad = {}};
  ordered.bad = take_out_bad(ordered.good, compile);
  if (ordered.bad.empty() || ordered.good.empty()) return ordered;
  auto all = ordered.good;
  all.insert(all.end(), ordered.bad.begin(), ordered.bad.end());
  auto bad = take_out_bad(all, compile);
  if (bad.size() < ordered.bad.size()) return {.good = std::move(all), .bad = std::move(bad)};
  return ordered;
}

}  // namespace fibula
