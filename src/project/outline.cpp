#include "project/outline.hpp"

#include "base/text.hpp"
#include "headers/declarations.hpp"
#include "headers/header_folders.hpp"
#include "headers/include_lines.hpp"
#include "headers/well_known_headers.hpp"
#include "os/files.hpp"
#include "project/source_kind.hpp"

#include <algorithm>
#include <map>
#include <set>

namespace fibula {
namespace {

/// Folders that builds fill.
constexpr std::string_view made_folders[] = {"build", "out", "obj", "objects", "bin", "dist", "debug", "release"};

bool is_made_or_hidden(const fs::path& file) {
  const fs::path folder = file.parent_path();
  return std::any_of(folder.begin(), folder.end(), [](const fs::path& part) {
    const std::string name = text::lower(part.string());
    return name.starts_with('.') ||
           std::find(std::begin(made_folders), std::end(made_folders), name) != std::end(made_folders);
  });
}

bool is_below_one_of(const std::vector<std::string>& folders, const std::string& file) {
  return std::any_of(folders.begin(), folders.end(),
                     [&](const std::string& folder) { return file.starts_with(folder + "/"); });
}

/// With which programs begin, on every system.
bool has_entry(const SourceNames& names) {
  return names.has_main || names.defines.contains("WinMain") || names.defines.contains("wWinMain") ||
         names.defines.contains("wmain");
}

struct SourceText {
  SourceNames names;
  std::vector<IncludeLine> includes;
};

using Files = std::set<std::string>;

class Outline {
 public:
  Outline(fs::path root, const std::vector<fs::path>& files, const std::vector<std::string>& skipped)
      : root_(std::move(root)) {
    for (const auto& path : files) {
      const std::string file = path.generic_string();
      if (is_made_or_hidden(path) || is_below_one_of(skipped, file)) continue;
      if (is_header_name(file)) {
        headers_.push_back(file);
      } else if (is_compiled(source_kind(path))) {
        const auto content = read_text(root_ / path).value_or("");
        sources_[file] = {names_in_source(content), include_lines(content)};
      }
    }
  }

  std::vector<Output> outputs() {
    if (sources_.empty()) return {};
    std::vector<std::string> mains;
    for (const auto& [file, code] : sources_) {
      if (has_entry(code.names)) mains.push_back(file);
    }
    if (mains.empty()) return {output_of(name_for_output(root_), OutputKind::static_library, all_but({}))};
    if (mains.size() == 1) return {output_of(name_for_output(root_), OutputKind::program, all_but({}))};
    return several(mains);
  }

 private:
  Files all_but(const std::vector<std::string>& others) const {
    Files files;
    for (const auto& [file, code] : sources_) {
      if (std::find(others.begin(), others.end(), file) == others.end()) files.insert(file);
    }
    return files;
  }

  /// Each program with what it calls; what none calls goes to the one that lies nearest, as plug-ins of its own do.
  std::vector<Output> several(const std::vector<std::string>& mains) const {
    std::vector<Files> sets;
    Files reached;
    for (const auto& main : mains) {
      sets.push_back(called_by(main, mains));
      reached.insert(sets.back().begin(), sets.back().end());
    }
    for (const auto& file : all_but({reached.begin(), reached.end()})) sets[nearest(mains, file)].insert(file);
    std::vector<Output> outputs;
    std::set<std::string> taken;
    for (size_t i = 0; i < mains.size(); ++i) {
      std::string name = name_of_program(mains[i]);
      for (int number = 2; !taken.insert(name).second; ++number)
        name = name_of_program(mains[i]) + "-" + std::to_string(number);
      outputs.push_back(output_of(name, OutputKind::program, sets[i]));
    }
    return outputs;
  }

  /// `tools/show/main.c` is called after its folder.
  std::string name_of_program(const std::string& main) const {
    const fs::path path(main);
    const std::string stem = path.stem().string();
    if (stem != "main") return name_for_output(stem);
    const std::string folder = path.parent_path().filename().string();
    return folder.empty() || folder == "src" ? name_for_output(root_) : name_for_output(folder);
  }

  Files called_by(const std::string& main, const std::vector<std::string>& mains) const {
    std::map<std::string, Files> definers;
    for (const auto& file : all_but(mains)) {
      for (const auto& name : sources_.at(file).names.defines) definers[name].insert(file);
    }
    Files reached{main};
    std::vector<std::string> open{main};
    while (!open.empty()) {
      const std::string file = std::move(open.back());
      open.pop_back();
      for (const auto& name : sources_.at(file).names.mentions) {
        const auto found = definers.find(name);
        if (found == definers.end()) continue;
        for (const auto& definer : found->second) {
          if (reached.insert(definer).second) open.push_back(definer);
        }
      }
    }
    return reached;
  }

  static size_t nearest(const std::vector<std::string>& mains, const std::string& file) {
    size_t best = 0, most = 0;
    for (size_t i = 0; i < mains.size(); ++i) {
      const auto differ = std::mismatch(mains[i].begin(), mains[i].end(), file.begin(), file.end());
      const auto same = static_cast<size_t>(differ.first - mains[i].begin());
      if (same > most) best = i;
      most = std::max(most, same);
    }
    return best;
  }

  Output output_of(std::string name, OutputKind kind, const Files& files) const {
    return {.name = std::move(name), .kind = kind, .sources = patterns_for(files), .headers = folders_for(files)};
  }

  /// As a person would write them: a pattern where it means these files and no others, else each file.
  std::vector<std::string> patterns_for(const Files& files) const {
    std::vector<std::string> patterns;
    Files left = files;
    while (!left.empty()) {
      const fs::path path(*left.begin());
      const std::string top = path.has_parent_path() ? path.begin()->string() : "";
      const std::string ending = path.extension().string();
      const std::string folder = path.parent_path().generic_string();
      std::vector<std::string> wider;
      if (!top.empty()) wider.push_back(top + "/**/*" + ending);
      wider.push_back(folder.empty() ? "*" + ending : folder + "/*" + ending);
      auto pattern = *left.begin();
      for (const auto& candidate : wider) {
        if (!means_only(candidate, files)) continue;
        pattern = candidate;
        break;
      }
      patterns.push_back(pattern);
      std::erase_if(left, [&](const std::string& file) { return text::glob_matches(pattern, file); });
    }
    return patterns;
  }

  bool means_only(const std::string& pattern, const Files& files) const {
    return std::all_of(sources_.begin(), sources_.end(), [&](const auto& source) {
      return !text::glob_matches(pattern, source.first) || files.contains(source.first);
    });
  }

  /// The folders in which the includes of these sources, and of the headers that they reach, are found.
  std::vector<std::string> folders_for(const Files& files) const {
    std::vector<std::string> folders;
    Files seen;
    std::vector<std::pair<std::string, std::vector<IncludeLine>>> open;
    for (const auto& file : files) open.emplace_back(file, sources_.at(file).includes);
    while (!open.empty()) {
      const auto [file, includes] = std::move(open.back());
      open.pop_back();
      for (const auto& line : includes) {
        const std::string header = header_for(line, file, folders);
        if (header.empty() || !seen.insert(header).second) continue;
        open.emplace_back(header, include_lines(read_text(root_ / header).value_or("")));
      }
    }
    std::sort(folders.begin(), folders.end());
    return folders;
  }

  /// The project's header that a line means; its folder joins `folders` where the compiler would not look by itself.
  std::string header_for(const IncludeLine& line, const std::string& from, std::vector<std::string>& folders) const {
    const auto beside = (fs::path(from).parent_path() / line.name).lexically_normal().generic_string();
    if (line.quoted && std::find(headers_.begin(), headers_.end(), beside) != headers_.end()) return beside;
    if (!line.quoted && comes_with_compilers(line.name)) return {};
    const std::string* best = nullptr;
    for (const auto& header : headers_) {
      if (header != line.name && !header.ends_with("/" + line.name)) continue;
      // One that is found already is the one; else the nearest to the top.
      const bool known = std::find(folders.begin(), folders.end(), folder_before(header, line.name)) != folders.end();
      if (known) return header;
      if (best == nullptr || header.size() < best->size()) best = &header;
    }
    if (best == nullptr) return {};
    folders.push_back(folder_before(*best, line.name));
    return *best;
  }

  static std::string folder_before(const std::string& header, const std::string& name) {
    return header.size() == name.size() ? "." : header.substr(0, header.size() - name.size() - 1);
  }

  fs::path root_;
  std::map<std::string, SourceText> sources_;
  std::vector<std::string> headers_;
};

}  // namespace

std::string name_for_output(const fs::path& folder) {
  std::string name = folder.filename().string();
  // Letters of other scripts are bytes above ASCII.
  for (char& c : name) {
    const bool other_script = static_cast<unsigned char>(c) >= 0x80;
    if (!other_script && !text::is_identifier_character(c) && c != '-' && c != '+' && c != '.') c = '-';
  }
  while (name.starts_with('-') || name.starts_with('.')) name.erase(0, 1);
  while (name.ends_with('-')) name.pop_back();
  if (!text::is_utf8(name)) name.clear();
  return name.empty() ? "program" : name;
}

Result<std::vector<Output>> outline(const fs::path& root, const std::vector<std::string>& skipped) {
  auto files = files_below(root);
  if (!files) return pass(files);
  // What another project makes is its own.
  std::vector<std::string> others = skipped;
  for (const auto& file : *files) {
    if (file.filename() == "fibula.toml" && file.has_parent_path())
      others.push_back(file.parent_path().generic_string());
  }
  return Outline(root, *files, others).outputs();
}

}  // namespace fibula
