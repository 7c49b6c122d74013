#include "diagnose/log.hpp"

#include "base/text.hpp"

#include <algorithm>
#include <optional>

namespace fibula {
namespace {

using ComplaintKind = Complaint::Kind;

/// GCC quotes with typographic marks when the terminal's character set has them; in the end all are one.
std::string plain_quotes(std::string_view log) {
  std::string text;
  while (!log.empty()) {
    const bool mark = log.starts_with("\xe2\x80\x98") || log.starts_with("\xe2\x80\x99");
    text += mark ? '\'' : log.front();
    log.remove_prefix(mark ? 3 : 1);
  }
  return text;
}

/// The text between the marks that begin after `start`: `x' or 'x'.
std::optional<std::string_view> quoted_after(std::string_view line, std::string_view start) {
  const size_t at = line.find(start);
  if (at == std::string_view::npos) return std::nullopt;
  std::string_view rest = line.substr(at + start.size());
  if (rest.empty() || (rest[0] != '`' && rest[0] != '\'')) return std::nullopt;
  rest.remove_prefix(1);
  const size_t end = rest.rfind('\'');
  if (end == std::string_view::npos) return std::nullopt;
  return rest.substr(0, end);
}

/// `main.cpp:3:10: fatal error: …` -> `main.cpp:3`.
std::string_view position(std::string_view line) {
  const size_t mark = std::min(line.find(": fatal error:"), line.find(": error:"));
  std::string_view place = line.substr(0, mark);
  const size_t column = place.rfind(':');
  return column == std::string_view::npos ? place : place.substr(0, column);
}

std::optional<Complaint> missing_header(std::string_view line) {
  constexpr std::string_view error = "fatal error: ", gcc_end = ": No such file or directory",
                             clang_end = "' file not found";
  const size_t at = line.find(error);
  if (at == std::string_view::npos) return std::nullopt;
  std::string_view rest = line.substr(at + error.size());
  if (rest.ends_with(gcc_end)) {
    return Complaint{ComplaintKind::header_missing, std::string(rest.substr(0, rest.size() - gcc_end.size())),
                     std::string(position(line))};
  }
  if (rest.starts_with('\'') && rest.ends_with(clang_end)) {
    return Complaint{ComplaintKind::header_missing, std::string(rest.substr(1, rest.size() - 1 - clang_end.size())),
                     std::string(position(line))};
  }
  return std::nullopt;
}

std::optional<Complaint> undefined_symbol(std::string_view line) {
  const auto name = quoted_after(line, "undefined reference to ");
  if (!name) return std::nullopt;
  std::string_view where = line.substr(0, line.find(": undefined reference"));
  return Complaint{ComplaintKind::undefined, std::string(*name), std::string(where)};
}

std::optional<Complaint> missing_library(std::string_view line) {
  constexpr std::string_view start = "cannot find -l";
  const size_t at = line.find(start);
  if (at == std::string_view::npos) return std::nullopt;
  std::string_view name = line.substr(at + start.size());
  name = name.substr(0, name.find_first_of(": "));
  return Complaint{ComplaintKind::library_missing, std::string(name), {}};
}

std::optional<Complaint> other_error(std::string_view line) {
  const size_t at = line.find(": error: ");
  const bool summary = line.find("ld returned") != std::string_view::npos ||
                       line.find("linker command failed") != std::string_view::npos;
  if (at == std::string_view::npos || summary) return std::nullopt;
  return Complaint{ComplaintKind::other, std::string(line.substr(at + 9)), std::string(position(line))};
}

}  // namespace

std::vector<Complaint> complaints_in(std::string_view log) {
  std::vector<Complaint> found;
  const std::string text = plain_quotes(log);
  for (const auto line : text::lines(text)) {
    for (const auto& read : {missing_header, undefined_symbol, missing_library, other_error}) {
      auto complaint = read(line);
      if (!complaint) continue;
      const auto same = [&](const Complaint& known) {
        return known.kind == complaint->kind && known.name == complaint->name;
      };
      if (std::none_of(found.begin(), found.end(), same)) found.push_back(std::move(*complaint));
      break;
    }
  }
  return found;
}

}  // namespace fibula
