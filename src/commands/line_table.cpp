#include "commands/line_table.hpp"

#include "base/text.hpp"

namespace fibula {
namespace {

void fill(char hole, std::string_view text, Complaint& complaint) {
  switch (hole) {
    case 'n': complaint.name = text; break;
    case 'w': complaint.user = text; break;
    case 'f': complaint.file = text; break;
    case 'd': complaint.detail = text; break;
    default: break;
  }
}

/// Matches one row from the left; holes are filled on the way.
bool fits(std::string_view pattern, std::string_view line, Complaint& complaint) {
  char hole = 0;
  while (true) {
    const size_t brace = pattern.find('{');
    const std::string_view literal = pattern.substr(0, brace);
    const bool last = brace == std::string_view::npos;
    size_t at = 0;
    if (hole == 0) {
      if (!line.starts_with(literal)) return false;
    } else {
      if (last && literal.empty()) {
        at = line.size();
      } else if (last) {
        if (line.size() < literal.size() || !line.ends_with(literal)) return false;
        at = line.size() - literal.size();
      } else {
        at = line.find(literal);
        if (at == std::string_view::npos) return false;
      }
      fill(hole, text::trim(line.substr(0, at)), complaint);
    }
    line.remove_prefix(at + literal.size());
    if (last) return hole != 0 || line.empty();
    hole = pattern[brace + 1];
    pattern.remove_prefix(brace + 3);
  }
}

/// The longest text between holes: a line without it does not fit, and that is quickly seen.
std::string_view mark_of(std::string_view pattern) {
  std::string_view longest;
  while (!pattern.empty()) {
    const size_t brace = pattern.find('{');
    const std::string_view literal = pattern.substr(0, brace);
    if (literal.size() > longest.size()) longest = literal;
    if (brace == std::string_view::npos) break;
    pattern.remove_prefix(brace + 3);
  }
  return longest;
}

}  // namespace

std::optional<Complaint> read_line(std::span<const LineRow> rows, std::string_view line) {
  for (const auto& row : rows) {
    if (line.find(mark_of(row.pattern)) == std::string_view::npos) continue;
    Complaint complaint{.kind = row.kind};
    if (fits(row.pattern, line, complaint)) return complaint;
  }
  return std::nullopt;
}

}  // namespace fibula
