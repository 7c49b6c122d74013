#include "link/near_name.hpp"

#include "base/text.hpp"
#include "index/defined_names.hpp"

#include <map>

namespace fibula {
namespace {

/// Tables that compilers make, and the C++ library, are nobody's slip (Itanium C++ ABI, 5.1.4.1 and 5.1.10).
bool is_written_by_people(std::string_view name) {
  if (!name.starts_with("_Z")) return true;
  return !name.starts_with("_ZT") && !name.starts_with("_ZG") && name.substr(2, 4).find("St") == std::string_view::npos;
}

}  // namespace

std::optional<NearName> near_name(FileStore& files, const std::vector<std::filesystem::path>& libraries,
                                  const std::string& missing) {
  if (!is_written_by_people(missing)) return std::nullopt;
  std::map<std::string, std::filesystem::path> given;
  for (const auto& library : libraries) {
    const auto file = files.open(library);
    if (!file) continue;
    each_defined_name((*file)->content(), [&](std::string_view name) {
      if (is_written_by_people(name)) given.emplace(name, library);
    });
  }
  std::vector<std::string> names;
  for (const auto& [name, file] : given) names.push_back(name);
  const std::string near = text::closest(missing, names);
  return near.empty() ? std::nullopt : std::optional(NearName{near, given.at(near)});
}

}  // namespace fibula
