#include "headers/header_folders.hpp"

#include "base/text.hpp"

#include <algorithm>
#include <filesystem>
#include <iterator>
#include <set>

namespace fibula {
namespace {

namespace fs = std::filesystem;

bool ends_with_one_of(const std::string& file, std::initializer_list<std::string_view> endings) {
  const std::string name = text::lower(file);
  return std::any_of(endings.begin(), endings.end(), [&](std::string_view ending) { return name.ends_with(ending); });
}

}  // namespace

bool is_header_name(const std::string& file) {
  return ends_with_one_of(file, {".h", ".hh", ".hpp", ".hxx", ".h++", ".inl", ".ipp", ".tpp", ".inc"});
}

bool is_assembler_header(const std::string& file) {
  return ends_with_one_of(file, {".inc"});
}

std::vector<std::string> include_directories(const std::vector<std::string>& headers) {
  // A folder named include is what its name says, wherever it lies; a multi-arch folder inside it is one of its own.
  std::set<std::string> named;
  std::vector<fs::path> loose;
  for (const auto& header : headers) {
    fs::path root;
    fs::path walked;
    for (const auto& part : fs::path(header).parent_path()) {
      walked /= part;
      if (part == "include" && root.empty()) root = walked;
      const bool triplet =
          !root.empty() && walked.parent_path() == root && part.string().find("-linux-gnu") != std::string::npos;
      if (triplet) root = walked;
    }
    if (root.empty()) loose.push_back(fs::path(header).parent_path());
    if (!root.empty()) named.insert(root.generic_string());
  }
  std::vector<std::string> directories(named.begin(), named.end());
  if (loose.empty() || !directories.empty()) return directories;
  const auto shallowest = std::min_element(loose.begin(), loose.end(), [](const fs::path& a, const fs::path& b) {
    return std::distance(a.begin(), a.end()) < std::distance(b.begin(), b.end());
  });
  return {shallowest->empty() ? "." : shallowest->generic_string()};
}

std::string included_as(const std::string& header, const std::vector<std::string>& directories) {
  std::string best;
  for (const auto& directory : directories) {
    if (directory == ".") {
      if (best.empty()) best = header;
    } else if (header.size() > directory.size() && header.starts_with(directory) && header[directory.size()] == '/') {
      const std::string name = header.substr(directory.size() + 1);
      if (best.empty() || name.size() < best.size()) best = name;
    }
  }
  return best;
}

std::vector<std::string> headers_below(const std::vector<std::string>& headers,
                                       const std::vector<std::string>& directories) {
  std::vector<std::string> found;
  std::copy_if(headers.begin(), headers.end(), std::back_inserter(found),
               [&](const std::string& header) { return !included_as(header, directories).empty(); });
  return found;
}

}  // namespace fibula
