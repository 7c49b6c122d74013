#include "facts/include_lines.hpp"

#include "base/text.hpp"

namespace fibula {

IncludeLine include_line(std::string_view line) {
  if (!line.starts_with('#')) return {};
  line = text::trim(line.substr(1));
  if (!line.starts_with("include")) return {};
  const size_t open = line.find_first_of("<\"");
  const size_t close = open == std::string_view::npos ? open : line.find_first_of(">\"", open + 1);
  if (close == std::string_view::npos) return {};
  return {std::string(line.substr(open + 1, close - open - 1)), line[open] == '"'};
}

namespace {

/// How deep in conditionals a text is; the guard that comes before anything else does not count.
class Depth {
 public:
  void read(std::string_view directive) {
    if (directive.starts_with("if")) {
      if (first_ && (directive.starts_with("ifndef") || directive.starts_with("if !defined"))) guard_ = 1;
      ++depth_;
    }
    if (directive.starts_with("endif") && depth_ > 0) --depth_;
    first_ = false;
  }
  bool conditional() const { return depth_ > guard_; }

 private:
  int depth_ = 0, guard_ = 0;
  bool first_ = true;
};

}  // namespace

std::vector<IncludeLine> include_lines(std::string_view text) {
  std::vector<IncludeLine> found;
  Depth depth;
  bool comment = false;  // a block that spans lines, such as an example in a header's description
  for (std::string_view line : text::lines(text)) {
    line = text::trim(line);
    if (!comment && line.starts_with('#')) {
      depth.read(text::trim(line.substr(1)));
      auto include = include_line(line);
      include.conditional = depth.conditional();
      if (!include.name.empty()) found.push_back(std::move(include));
    }
    for (size_t at = 0; at != std::string_view::npos;) {
      const size_t mark = line.find(comment ? "*/" : "/*", at);
      const size_t rest_is_comment = comment ? std::string_view::npos : line.find("//", at);
      if (mark == std::string_view::npos || rest_is_comment < mark) break;
      comment = !comment;
      at = mark + 2;
    }
  }
  return found;
}

}  // namespace fibula
