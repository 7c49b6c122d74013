/// The files that a project's outputs name.
#include <fibula/project.hpp>

#include "base/text.hpp"
#include "os/files.hpp"
#include "project/only_for.hpp"
#include "project/source_kind.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <iterator>

namespace fibula {
namespace {

OutputFiles sorted_by_kind(std::vector<fs::path> files) {
  OutputFiles sorted;
  for (auto& file : files) {
    const SourceKind kind = source_kind(file);
    if (kind == SourceKind::no_source) continue;
    (is_compiled(kind) ? sorted.sources : sorted.given).push_back(std::move(file));
  }
  return sorted;
}

/// Each once, in order. Compared as texts: comparing paths goes through their parts.
std::vector<fs::path> once_each(std::vector<std::string> files) {
  std::sort(files.begin(), files.end());
  files.erase(std::unique(files.begin(), files.end()), files.end());
  return {std::make_move_iterator(files.begin()), std::make_move_iterator(files.end())};
}

/// Looks at what one output names.
class InputCheck {
 public:
  InputCheck(const Project& project, const Output& output) : project_(project), output_(output) {}

  /// The files, once everything is there.
  Result<OutputFiles> files() const {
    std::vector<std::string> sources;
    for (const auto& pattern : output_.sources) {
      auto found = source_files(pattern);
      if (!found) return pass(found);
      for (auto& file : *found) sources.push_back(file.string());
    }
    for (const auto* patterns : {&output_.data, &output_.plugins}) {
      for (const auto& pattern : *patterns) {
        if (project_.files_for({pattern}).empty()) return fail(nothing(pattern));
      }
    }
    for (const auto& folder : output_.headers) {
      std::error_code ignored;
      const fs::path path = project_.root() / folder;
      if (fs::is_directory(path, ignored)) continue;
      return fail(about(folder, Code::absent,
                        fs::exists(path, ignored) ? fmt::format("headers: {} is no folder", folder)
                                                  : fmt::format("headers: there is no folder {}", folder),
                        "name the folder that holds the headers, as seen from fibula.toml"));
    }
    const auto all = once_each(std::move(sources));
    if (auto checked = check_only_for(project_, output_, all); !checked) return pass(checked);
    return sorted_by_kind(all);
  }

 private:
  Error about(const std::string& pattern, Code code, std::string what, std::string hint) const {
    const auto line = output_.lines.find(pattern);
    return {.code = code,
            .what = std::move(what),
            .file = project_.file().string(),
            .line = line == output_.lines.end() ? output_.line : line->second,
            .hint = std::move(hint)};
  }

  /// Of a name the nearest one that is there; of a pattern what it means.
  Error nothing(const std::string& pattern) const {
    if (pattern.find_first_of("*?") != std::string::npos)
      return about(pattern, Code::absent, fmt::format("no file matches {}", pattern),
                   "patterns are relative to fibula.toml: * is any name, ** any folders");
    std::vector<std::string> names;
    const fs::path folder = fs::path(pattern).parent_path();
    for (const auto& name : files_directly_in(project_.root() / folder))
      names.push_back((folder / name).generic_string());
    const std::string meant = text::closest(pattern, names);
    return about(pattern, Code::absent, fmt::format("there is no file {}", pattern),
                 meant.empty() ? "write its path as seen from fibula.toml" : fmt::format("did you mean {}?", meant));
  }

  Result<std::vector<fs::path>> source_files(const std::string& pattern) const {
    auto files = project_.files_for({pattern});
    if (files.empty()) return fail(nothing(pattern));
    for (const auto& file : files) {
      if (is_inside(project_.root(), file)) continue;
      return fail(about(pattern, Code::usage, fmt::format("{} lies outside of the project", file.string()),
                        "copy it into the project, or make a library of what lies there: fibula take"));
    }
    const auto is_source = [](const fs::path& file) { return source_kind(file) != SourceKind::no_source; };
    if (std::any_of(files.begin(), files.end(), is_source)) return files;
    return fail(about(pattern, Code::usage, fmt::format("{} is no source that a compiler takes", pattern),
                      "sources end in .c, .cpp, .cc, .cxx, .m, .mm, .S, .s or .asm; objects and archives in .o, .obj, "
                      ".a or .lib; folders of headers belong to headers"));
  }

  const Project& project_;
  const Output& output_;
};

}  // namespace

std::vector<fs::path> Project::sources(const Output& output) const {
  return sorted_by_kind(files_for(output.sources)).sources;
}

std::vector<fs::path> Project::files_for(const std::vector<std::string>& patterns) const {
  std::vector<std::string> found;
  const std::string own_results = (root_ / ".fibula").string() + "/";
  for (const auto& pattern : patterns) {
    // What a pattern finds below its folder has no detours; what it says itself can have some.
    const bool detour = pattern.find("./") != std::string::npos || pattern.find("//") != std::string::npos;
    for (const auto& path : files_matching(root_, pattern)) {
      std::string file = detour ? path.lexically_normal().string() : path.string();
      if (!file.starts_with(own_results)) found.push_back(std::move(file));
    }
  }
  return once_each(std::move(found));
}

Result<std::vector<OutputFiles>> Project::files() const {
  std::vector<OutputFiles> all;
  for (const auto& output : outputs_) {
    auto files = InputCheck(*this, output).files();
    if (!files) return pass(files);
    all.push_back(std::move(*files));
  }
  return all;
}

}  // namespace fibula
