#include "base/inside_path.hpp"

#include "base/text.hpp"

#include <algorithm>

namespace fibula {
namespace {

constexpr size_t longest_name = 200;  // 255 on common file systems, with room for endings

bool is_control(char c) {
  return static_cast<unsigned char>(c) < 0x20 || c == 0x7f;
}

/// "C:" in front makes a path absolute on Windows.
bool has_drive(std::string_view part) {
  return part.size() >= 2 && part[1] == ':' && text::is_letter(part[0]);
}

}  // namespace

bool has_control(std::string_view text) {
  return std::any_of(text.begin(), text.end(), is_control);
}

bool is_plain_name(std::string_view name) {
  return !name.empty() && name[0] != '.' && name.size() <= longest_name &&
         std::all_of(name.begin(), name.end(), [](char c) {
           return text::is_identifier_character(c) || c == '.' || c == '+' || c == '-' || c == '~';
         });
}

bool is_file_name(std::string_view name) {
  return !name.empty() && name[0] != '.' && name[0] != '-' && name.size() <= longest_name &&
         name.find_first_of("/\\:") == std::string_view::npos && !has_control(name) && text::is_utf8(name);
}

std::string InsidePath::why_not(std::string_view text) {
  if (text.empty()) return "is empty";
  if (has_control(text)) return "has a control character in it";
  if (!text::is_utf8(text)) return "is not UTF-8";
  if (text.find('\\') != std::string_view::npos) return "has a back-slash in it, which separates on other systems";
  const auto parts = text::split(text, '/');
  const bool leads_out = std::any_of(parts.begin(), parts.end(), [](std::string_view part) { return part == ".."; });
  if (leads_out || text.front() == '/' || has_drive(parts.front())) return "leads out of the folder";
  const bool detour =
      std::any_of(parts.begin(), parts.end(), [](std::string_view part) { return part.empty() || part == "."; });
  return detour ? "has an empty part or a . in it" : "";
}

std::optional<InsidePath> InsidePath::of(std::string_view text) {
  if (!why_not(text).empty()) return std::nullopt;
  return InsidePath(std::string(text));
}

}  // namespace fibula
