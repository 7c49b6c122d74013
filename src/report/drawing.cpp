#include "report/drawing.hpp"

#include "base/text.hpp"
#include "os/folder.hpp"
#include "os/host.hpp"
#include "os/process.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <cstdlib>
#include <set>

namespace fibula {
namespace {

/// A text in quotes, as the DOT language has it.
std::string quoted(const std::string& text) {
  std::string result = "\"";
  for (const char c : text) {
    if (c == '"' || c == '\\') result += '\\';
    result += c;
  }
  return result + "\"";
}

std::string dot_text(const std::vector<NeedEdge>& edges, const std::vector<std::string>& outputs) {
  std::string text =
      "digraph needs {\nrankdir=LR; bgcolor=transparent; nodesep=0.2; ranksep=0.7;\n"
      "node [shape=box style=rounded fontname=\"sans-serif\" fontsize=12 height=0.3 margin=\"0.12,0.05\" "
      "class=library];\n"
      "edge [arrowsize=0.6];\n";
  std::set<std::string> system;
  for (const auto& output : outputs) text += fmt::format("{} [class=output];\n", quoted(output));
  for (const auto& edge : edges) {
    if (edge.to_system && system.insert(edge.to).second) text += fmt::format("{} [class=system];\n", quoted(edge.to));
  }
  for (const auto& edge : edges) text += fmt::format("{} -> {};\n", quoted(edge.from), quoted(edge.to));
  return text + "}\n";
}

/// The drawing alone: no declaration in front, no size of its own, no colours.
std::string for_a_page(std::string svg) {
  const size_t start = svg.find("<svg");
  if (start == std::string::npos) return {};
  svg.erase(0, start);
  // Of its size only how wide it may become is kept: a small drawing is not blown up.
  double width = 0;
  for (const std::string_view name : {" width=\"", " height=\""}) {
    const size_t at = svg.find(name);
    const size_t end = at == std::string::npos ? at : svg.find('"', at + name.size());
    if (end == std::string::npos || end > svg.find('>')) continue;
    if (width == 0) width = std::strtod(svg.c_str() + at + name.size(), nullptr);
    svg.erase(at, end + 1 - at);
  }
  svg.insert(4, fmt::format(" style=\"max-width:{:.0f}px\"", width * 1.35));
  for (const std::string_view colour : {" fill=\"none\"", " stroke=\"black\"", " fill=\"black\""}) {
    for (size_t at = svg.find(colour); at != std::string::npos; at = svg.find(colour, at)) svg.erase(at, colour.size());
  }
  return svg;
}

}  // namespace

Result<std::string> draw(const std::vector<NeedEdge>& edges, const std::vector<std::string>& outputs) {
  const auto program = find_program("dot");
  if (!program)
    return fail({.code = Code::missing_tool,
                 .what = "Graphviz is not installed, so the drawing is left out",
                 .hint = "install the package graphviz"});
  const auto folder = TemporaryFolder::make(temporary_place(), "fibula-report-");
  if (!folder) return fail(folder.error());
  if (auto written = write_in(folder->path(), "needs.dot", dot_text(edges, outputs), Flush::later); !written)
    return fail(written.error());
  const auto drawn = run({.argv = {program->string(), "-Tsvg", (folder->path() / "needs.dot").string()},
                          .limit = std::chrono::minutes(1)});
  if (!drawn || !drawn->good())
    return fail(
        {.code = Code::missing_tool,
         .what = "Graphviz did not draw it: " + (drawn ? std::string(text::trim(drawn->err)) : drawn.error().what)});
  return for_a_page(drawn->out);
}

}  // namespace fibula
