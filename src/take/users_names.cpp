#include "take/users_names.hpp"

#include "base/digest.hpp"
#include "base/text.hpp"
#include "headers/declarations.hpp"
#include "headers/header_folders.hpp"
#include "os/files.hpp"
#include "os/mapped_file.hpp"

#include <algorithm>

namespace fibula {

bool UsersNames::are_given_by(const Unit& unit) {
  if (source_.headers.empty()) return false;
  if (declared_.empty()) {
    for (const auto& header : source_.headers) {
      if (is_assembler_header(header)) continue;
      for (const auto& name : functions_left_to_a_binary(read_text(source_.root / header).value_or("")))
        declared_.push_back(quick_digest(name));
    }
    std::sort(declared_.begin(), declared_.end());
  }
  const bool cxx = std::any_of(unit.rows.front().begin(), unit.rows.front().end(), [](const FactRow& row) {
    const auto* value = std::get_if<std::string>(&row.value);
    return row.id == "interface" && value != nullptr && *value == "C++";
  });
  return cxx || std::any_of(unit.offers.all().begin(), unit.offers.all().end(), [&](uint64_t name) {
           return std::binary_search(declared_.begin(), declared_.end(), name);
         });
}

bool is_named_in(const fs::path& file, const std::string& name) {
  const auto mapped = MappedFile::open(file);
  if (!mapped) return false;
  const std::string_view content = (*mapped)->bytes().text();
  if (content.find(name) != std::string_view::npos) return true;
  std::string wide;
  for (const char c : name) {
    wide += c;
    wide += '\0';
  }
  return content.find(wide) != std::string_view::npos;
}

bool asks_for(const Facts& facts, const std::string& runtime_name) {
  const std::string wanted = text::lower(runtime_name);
  const auto& needs = facts.needs.value;
  // macOS names files by paths, and what stands before the last part is for its loader.
  const auto last = [](const std::string& name) { return name.substr(name.rfind('/') + 1); };
  return needs && std::any_of(needs->begin(), needs->end(),
                              [&](const Need& need) { return last(text::lower(need.name)) == last(wanted); });
}

bool is_imported_by(const Unit& unit, const std::string& runtime_name) {
  return std::any_of(unit.binaries.begin(), unit.binaries.end(),
                     [&](const Binary* binary) { return asks_for(binary->facts, runtime_name); });
}

}  // namespace fibula
