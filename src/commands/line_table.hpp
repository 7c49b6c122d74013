/// Lines that tools print, as a table: a row is the line with holes, and what it means.
///
/// Holes: `{n}` the name it is about, `{w}` who asks, `{f}` a file, `{d}` a detail, `{*}` anything. A hole ends where
/// the text behind it is met first; the last text of a row is met last, since names can hold it.
#pragma once

#include "commands/complaint.hpp"

#include <optional>
#include <span>

namespace fibula {

struct LineRow {
  std::string_view pattern;
  Complaint::Kind kind;
};

/// What the first row says that a line fits.
std::optional<Complaint> read_line(std::span<const LineRow> rows, std::string_view line);

}  // namespace fibula
