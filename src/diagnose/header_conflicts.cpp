/// Two headers that do not go together in one source. What would part them is tried in a copy of it.
#include "base/text.hpp"
#include "diagnose/compile_scene.hpp"
#include "diagnose/tested_macros.hpp"
#include "headers/include_lines.hpp"
#include "project/include_change.hpp"

#include <charconv>
#include <map>

namespace fibula {
namespace {

constexpr uint64_t largest_text = 4U << 20U;

/// Where a macro is defined.
struct MacroPlace {
  fs::path file;  ///< empty: by the compiler itself, or in the command
  size_t line = 0;
};

/// Macros of a preprocessed source, with where each came from: `# 12 "tide.h" 1` and `#define NAME` (GCC's manual,
/// "-dD").
std::map<std::string, MacroPlace> macros_in(std::string_view text, const fs::path& folder) {
  std::map<std::string, MacroPlace> macros;
  MacroPlace at;
  for (const auto line : text::lines(text)) {
    if (line.starts_with("# ")) {
      const size_t open = line.find('"'), close = line.rfind('"');
      if (open == std::string_view::npos || close <= open) continue;
      const std::string_view name = line.substr(open + 1, close - open - 1);
      at.file = name.starts_with('<') ? fs::path() : (folder / name).lexically_normal();
      std::from_chars(line.data() + 2, line.data() + open, at.line);
      continue;
    }
    if (line.starts_with("#define ")) {
      const std::string_view rest = line.substr(8);
      macros[std::string(rest.substr(0, rest.find_first_of(" (")))] = at;
    } else if (line.starts_with("#undef ")) {
      macros.erase(std::string(text::trim(line.substr(7))));
    }
    ++at.line;
  }
  return macros;
}

class Conflict : private CompileScene {
 public:
  Conflict(const ToolCommand& command, Evidence& evidence) : CompileScene(&command, evidence) {}

  std::optional<Finding> find(const Complaint& complaint) {
    if (!can_try() || command_->family == CompilerFamily::msvc) return std::nullopt;
    source_ = source_of(complaint);
    auto text = read_text(source_, largest_text);
    if (!text) return std::nullopt;
    for (const auto line : text::split(*text, '\n')) lines_.emplace_back(line);
    for (const auto& include : include_lines(*text)) includes_.push_back(include);
    if (includes_.empty()) return std::nullopt;
    if (auto finding = defined_twice(complaint)) return finding;
    if (auto finding = same_guard(complaint)) return finding;
    return macro_in_the_way(complaint);
  }

 private:
  using Lines = std::vector<std::string>;

  /// Of the program: the source, and what lies beside it.
  bool is_own(const fs::path& file) const { return file == source_ || file.parent_path() == source_.parent_path(); }

  bool compiles_as(const Lines& lines) { return evidence_.compile(*command_, source_, text::join(lines, "\n")).good; }

  Finding told(const Complaint& complaint, const std::string& subject) const {
    Finding finding = start("header-conflict", subject);
    finding.because.push_back(fmt::format("{}: {}", shown_position(position_of(complaint.user)), said(complaint)));
    return finding;
  }

  /// The compiler tells both places.
  std::optional<Finding> defined_twice(const Complaint& complaint) {
    if (complaint.file.empty()) return std::nullopt;
    const Position one = position_of(complaint.file), other = position_of(complaint.user);
    const fs::path first = place(one.file), second = place(other.file);
    if (is_own(first) || is_own(second)) return std::nullopt;
    // A header that has it at two places is wrong by itself.
    if (first == second && one.line != other.line) return std::nullopt;
    Finding finding = told(complaint, shown(second));
    finding.culprits = {shown(first), shown(second)};
    finding.because.push_back(first == second ? std::string("it is read twice, and has no include guard")
                                              : fmt::format("{} has it already", shown_position(one)));
    finding.remedy =
        first == second ? "write #pragma once at its beginning" : "include only one of the two in a source";
    for (const auto& include : includes_) {
      Lines lines = lines_;
      lines[include.line - 1].clear();
      if (!compiles_as(lines)) continue;
      finding.remedy = fmt::format("leave out the #include of {} ({}:{})", include.name, shown(source_), include.line);
      finding.edit = fmt::format("{}:{}: ", shown(source_), include.line);
      finding.tried = true;
      break;
    }
    return finding;
  }

  std::optional<Finding> macro_in_the_way(const Complaint& complaint) {
    const Position at = position_of(complaint.user);
    const auto names = identifiers_of(line_of(place(at.file), at.line));
    if (names.empty()) return std::nullopt;
    auto macros = macros_in(evidence_.preprocessed(*command_, source_, {"-dM"}), {});
    // Those of the compiler's own stand in the one list only.
    for (auto& [name, where] : macros_in(evidence_.preprocessed(*command_, source_, {"-dD"}), command_->folder))
      macros[name] = std::move(where);
    for (const auto& name : names) {
      const auto macro = macros.find(name);
      if (macro == macros.end() || is_own(macro->second.file)) continue;
      if (auto finding =
              macro->second.file.empty() ? built_in(complaint, name) : parted(complaint, name, macro->second))
        return finding;
    }
    return std::nullopt;
  }

  /// Two of the source's headers with one include guard: the second one is read as nothing.
  std::optional<Finding> same_guard(const Complaint& complaint) {
    std::map<std::string, fs::path> known;
    for (const auto& include : includes_) {
      const auto header = found(include);
      const auto text = header ? read_text(*header, largest_text) : Result<std::string>(fail({}));
      const std::string guard = text ? guard_of(*text) : std::string();
      if (guard.empty()) continue;
      const auto [before, fresh] = known.emplace(guard, *header);
      if (fresh || before->second == *header || (is_own(before->second) && is_own(*header))) continue;
      Lines lines = lines_;
      lines[include.line - 1].insert(0, fmt::format("#undef {}\n", guard));
      if (!compiles_as(lines)) continue;
      Finding finding = told(complaint, guard);
      finding.culprits = {shown(before->second), shown(*header)};
      finding.because.push_back(fmt::format("{} and {} have one include guard, {}: the second one is read as nothing",
                                            shown(before->second), shown(*header), guard));
      finding.remedy = fmt::format("give {} a guard of its own, or write #undef {} before its #include ({}:{})",
                                   shown(*header), guard, shown(source_), include.line);
      finding.tried = true;
      return finding;
    }
    return std::nullopt;
  }

  std::optional<fs::path> found(const IncludeLine& include) const {
    std::vector<fs::path> folders = command_->include_folders;
    if (include.quoted) folders.insert(folders.begin(), source_.parent_path());
    std::error_code ignored;
    for (const auto& folder : folders) {
      if (fs::is_regular_file(folder / include.name, ignored)) return (folder / include.name).lexically_normal();
    }
    return std::nullopt;
  }

  /// `TIDE_H` of a text that begins with `#ifndef TIDE_H` and `#define TIDE_H`.
  static std::string guard_of(std::string_view text) {
    const size_t at = text.find("#ifndef ");
    if (at == std::string_view::npos) return {};
    const auto lines = text::lines(text.substr(at, 400));
    const auto name = text::trim(lines.front().substr(8));
    const bool defined = lines.size() > 1 && text::trim(lines[1]) == fmt::format("#define {}", name);
    return defined ? std::string(name) : std::string();
  }

  /// `linux`, `unix`: names that only GNU's dialects take from a program.
  std::optional<Finding> built_in(const Complaint& complaint, const std::string& name) {
    const Words words = with_option("-U" + name, "/U" + name);
    if (!compiles(words)) return std::nullopt;
    Finding finding = told(complaint, name);
    finding.because.push_back(fmt::format("{} is a macro of the compiler's or the command's", name));
    finding.remedy = fmt::format("take it away: -U{}", name);
    edit_command(finding, words);
    return finding;
  }

  std::optional<Finding> parted(const Complaint& complaint, const std::string& name, const MacroPlace& macro) {
    const std::string definition = shown_position({macro.file.string(), macro.line});
    for (const auto& include : includes_) {
      Lines lines = lines_;
      lines[include.line - 1] += "\n#undef " + name;
      if (!compiles_as(lines)) continue;
      Finding finding = told(complaint, name);
      finding.culprits = {shown(macro.file)};
      finding.because.push_back(fmt::format("{} makes {} a macro", definition, name));
      finding.remedy = fmt::format("write #undef {} behind the #include of {} ({}:{})", name, include.name,
                                   shown(source_), include.line);
      if (compiles_with_last(include)) finding.remedy += fmt::format(", or include {} last", include.name);
      finding.tried = true;
      return finding;
    }
    return std::nullopt;
  }

  bool compiles_with_last(const IncludeLine& include) {
    Lines lines = lines_;
    const std::string line = std::exchange(lines[include.line - 1], {});
    lines[includes_.back().line - 1] += "\n" + line;
    return include.line != includes_.back().line && compiles_as(lines);
  }

  fs::path source_;
  Lines lines_;
  std::vector<IncludeLine> includes_;
};

}  // namespace

std::optional<Finding> header_conflict(const Complaint& complaint, const ToolCommand& command, Evidence& evidence) {
  return Conflict(command, evidence).find(complaint);
}

}  // namespace fibula
