/// The files that a project's outputs name.
#include <fibula/project.hpp>

#include "base/text.hpp"
#include "os/files.hpp"
#include "project/source_kind.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

std::vector<fs::path> files_of_kind(const std::vector<fs::path>& files, bool compiled) {
  std::vector<fs::path> found;
  for (const auto& file : files) {
    const SourceKind kind = source_kind(file);
    if (kind != SourceKind::no_source && is_compiled(kind) == compiled) found.push_back(file);
  }
  return found;
}

/// Looks at what one output names.
class InputCheck {
 public:
  InputCheck(const Project& project, const Output& output) : project_(project), output_(output) {}

  Result<void> check() const {
    for (const auto& pattern : output_.sources) {
      if (auto checked = check_source(pattern); !checked) return checked;
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
    return {};
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

  Result<void> check_source(const std::string& pattern) const {
    const auto files = project_.files_for({pattern});
    if (files.empty()) return fail(nothing(pattern));
    for (const auto& file : files) {
      if (is_inside(project_.root(), file)) continue;
      return fail(about(pattern, Code::usage, fmt::format("{} lies outside of the project", file.string()),
                        "copy it into the project, or make a library of what lies there: fibula take"));
    }
    const auto is_source = [](const fs::path& file) { return source_kind(file) != SourceKind::no_source; };
    if (std::any_of(files.begin(), files.end(), is_source)) return {};
    return fail(about(pattern, Code::usage, fmt::format("{} is no source that a compiler takes", pattern),
                      "sources end in .c, .cpp, .cc, .cxx, .m, .mm, .S, .s or .asm; objects and archives in .o, .obj, "
                      ".a or .lib; folders of headers belong to headers"));
  }

  const Project& project_;
  const Output& output_;
};

}  // namespace

std::vector<fs::path> Project::sources(const Output& output) const {
  return files_of_kind(files_for(output.sources), true);
}

std::vector<fs::path> Project::given_files(const Output& output) const {
  return files_of_kind(files_for(output.sources), false);
}

std::vector<fs::path> Project::files_for(const std::vector<std::string>& patterns) const {
  std::set<fs::path> found;
  for (const auto& pattern : patterns) {
    for (auto& path : files_matching(root_, pattern)) {
      const bool own_results = is_inside(root_ / ".fibula", path);
      if (!own_results) found.insert(path.lexically_normal());
    }
  }
  return {found.begin(), found.end()};
}

Result<void> Project::check_inputs() const {
  for (const auto& output : outputs_) {
    if (auto checked = InputCheck(*this, output).check(); !checked) return checked;
  }
  return {};
}

}  // namespace fibula
