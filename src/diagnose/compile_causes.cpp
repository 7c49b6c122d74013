/// Why compilers complained about what they read. What could be wrong is tried: each edit is compiled in a scratch
/// folder before it is told.
#include "base/quoting.hpp"
#include "base/text.hpp"
#include "diagnose/findings.hpp"
#include "diagnose/header_places.hpp"
#include "diagnose/library_advice.hpp"
#include "diagnose/split_words.hpp"
#include "diagnose/tested_macros.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

using Complaints = std::vector<Complaint>;

/// `main.cpp:3:10`, `main.cpp(3,10)` -> the file, and the line.
struct Position {
  std::string file;
  size_t line = 0;
};
Position position_of(std::string_view where) {
  size_t at = where.find_first_of(":(", where.size() > 2 && where[1] == ':' ? 2 : 0);
  Position position{std::string(where.substr(0, at))};
  if (at == std::string_view::npos) return position;
  for (++at; at < where.size() && where[at] >= '0' && where[at] <= '9'; ++at)
    position.line = position.line * 10 + static_cast<size_t>(where[at] - '0');
  return position;
}

class Compile {
 public:
  Compile(const ToolCommand* command, Evidence& evidence) : command_(command), evidence_(evidence) {}

  std::vector<Finding> explain(const Complaints& complaints) {
    for (const auto& complaint : complaints) {
      if (complaint.kind == Complaint::Kind::header_missing) findings_.push_back(missing_header(complaint));
      if (complaint.kind == Complaint::Kind::source_missing) findings_.push_back(missing_source(complaint));
      // A path in two words is why the rest is missing.
      if (!findings_.empty() && findings_.back().cause == "quoting") return {std::move(findings_.back())};
    }
    if (!findings_.empty()) return std::move(findings_);
    for (const auto& complaint : complaints) {
      if (complaint.kind > Complaint::Kind::source_missing) continue;
      findings_.push_back(refused(complaint));
      break;  // What follows a first error often follows from it.
    }
    return std::move(findings_);
  }

 private:
  Finding start(std::string_view cause, const std::string& subject) const {
    return {.cause = std::string(cause), .stage = "compile", .subject = subject, .certainty = "read"};
  }
  fs::path folder() const { return command_ != nullptr ? command_->folder : absolute_path(evidence_.context().folder); }
  std::string shown(const fs::path& file) const { return shown_from(folder(), file); }
  std::string shown_position(const Position& at) const {
    const std::string file = shown(place(at.file));
    return at.line == 0 ? file : fmt::format("{}:{}", file, at.line);
  }
  fs::path place(const std::string& file) const { return (folder() / file).lexically_normal(); }

  // Edits of the command, tried.

  bool compiles(const Words& words) {
    if (command_ == nullptr || command_->sources.empty()) return false;
    const ToolCommand changed = read_command(words, command_->folder);
    return std::all_of(changed.sources.begin(), changed.sources.end(),
                       [&](const CommandFile& source) { return evidence_.compile(changed, source.path).good; });
  }

  Words with_option(const std::string& gnu, const std::string& msvc) const {
    Words words = command_->words;
    words.insert(words.begin() + 1, command_->family == CompilerFamily::msvc ? msvc : gnu);
    return words;
  }
  Words with_folder(const fs::path& folder_of) const {
    return with_option("-I" + shown(folder_of), "/I" + shown(folder_of));
  }

  // A header that is not found.

  Finding missing_header(const Complaint& complaint) {
    Finding finding = start("header-not-found", complaint.name);
    const Position at = position_of(complaint.user);
    finding.because.push_back(at.line == 0 ? fmt::format("{} includes {}", at.file, complaint.name)
                                           : fmt::format("{}:{} includes {}", at.file, at.line, complaint.name));
    const HeaderPlaces places(command_, evidence_, place(at.file), complaint.name);
    if (auto split = in_two_words()) return *split;
    if (const auto hit = places.spelled_otherwise()) return spelled(std::move(finding), at, *hit);
    if (const auto generated = places.to_be_generated()) return to_generate(std::move(finding), *generated);
    // A project uses libraries by their names: a folder that lies about is what people without one would add.
    const bool in_project = evidence_.context().project != nullptr;
    for (const bool shelf : {in_project, !in_project}) {
      const auto hit = shelf ? places.on_shelf() : std::nullopt;
      if (hit) return on_shelf(std::move(finding), *hit);
      const auto near = shelf ? std::nullopt : places.near();
      if (near) return in_folder(std::move(finding), complaint, *near);
    }
    if (const auto system = places.of_other_system()) {
      finding.cause = "wrong-platform";
      finding.because.push_back(fmt::format("{} is a header of {}", complaint.name, *system));
      finding.remedy = "build for that system, or take out what needs it (its own headers test for the system first)";
      return finding;
    }
    if (const auto deep = places.in_system_folder()) return in_folder(std::move(finding), complaint, *deep);
    finding.because.push_back(
        fmt::format("no folder of the command has it, nor anything near, nor a library on the shelf {}",
                    evidence_.context().shelf.shown()));
    finding.remedy =
        "take the library that it belongs to onto the shelf, then attach it; or correct the name in the #include";
    return finding;
  }

  void edit_command(Finding& finding, const Words& words) {
    set_command(finding, *command_, words);
    finding.tried = compiles(words);
  }

  Finding spelled(Finding finding, const Position& at, const HeaderPlace& hit) {
    finding.cause = "header-name";
    finding.culprits.push_back(shown(hit.file));
    finding.because.push_back(fmt::format("{} is what is there", shown(hit.file)));
    finding.remedy = fmt::format("write #include <{}>", hit.name);
    if (const auto line = include_at(at); !line.empty())
      finding.edit = fmt::format("{}:{}: {}", at.file, at.line, replaced_name(line, finding.subject, hit.name));
    if (command_ != nullptr && !hit.folder.empty()) {
      const Words words = with_folder(hit.folder);
      if (compiles(words)) {
        finding.remedy += fmt::format(", or add its folder: -I{}", shown(hit.folder));
        edit_command(finding, words);
      }
    }
    return finding;
  }

  std::string include_at(const Position& at) const {
    const auto text = read_text(place(at.file));
    if (!text || at.line == 0) return {};
    const auto lines = text::lines(*text);
    return at.line <= lines.size() ? std::string(lines[at.line - 1]) : std::string();
  }

  static std::string replaced_name(std::string line, const std::string& name, const std::string& by) {
    const size_t found = line.find(name);
    return found == std::string::npos ? line : line.replace(found, name.size(), by);
  }

  Finding to_generate(Finding finding, const HeaderPlace& hit) const {
    finding.cause = "header-generated";
    finding.culprits.push_back(shown(hit.file));
    finding.because.push_back(fmt::format("{} is the text that a configure step makes it from", shown(hit.file)));
    finding.remedy = fmt::format("run the library's configure step, and name the folder that gets {}", finding.subject);
    return finding;
  }

  Finding in_folder(Finding finding, const Complaint& complaint, const HeaderPlace& hit) {
    finding.culprits.push_back(shown(hit.file));
    finding.because.push_back(fmt::format("{} has it, and the command does not name that folder", shown(hit.folder)));
    if (hit.of_other_library && !complaint.included_from.empty()) {
      finding.cause = "header-of-other-library";
      finding.because.emplace_back("who includes it is a header of another library");
    }
    const Project* project = evidence_.context().project;
    finding.remedy =
        project != nullptr && is_inside(project->root(), hit.folder)
            ? fmt::format("add its folder to the output: headers = [\"{}\"]", shown_from(project->root(), hit.folder))
            : fmt::format("add its folder: -I{}", shown(hit.folder));
    if (command_ != nullptr) edit_command(finding, with_folder(hit.folder));
    return finding;
  }

  Finding on_shelf(Finding finding, const ShelfHeader& hit) {
    finding.culprits.push_back(hit.file.string());
    finding.because.push_back(fmt::format("{} {} has {}", hit.library, hit.version, hit.as_written ? "it" : hit.name));
    const bool attached = hit.attached;
    if (!attached || hit.as_written) advise_using(finding, hit.library, evidence_.context().project, "compile.rsp");
    if (!hit.as_written) {
      finding.cause = "header-name";
      const std::string spelling = fmt::format("write #include <{}>", hit.name);
      finding.remedy = attached ? spelling : fmt::format("{}, and {}", spelling, finding.remedy);
    }
    return finding;
  }

  Finding missing_source(const Complaint& complaint) {
    Finding finding = start("file-not-found", complaint.name);
    finding.because.push_back(fmt::format("the command compiles {}, and it is not there", complaint.name));
    finding.remedy = "correct its path in the command";
    if (auto split = in_two_words()) return *split;
    return finding;
  }

  std::optional<Finding> in_two_words() const {
    return command_ == nullptr ? std::nullopt : path_in_two_words(*command_, "compile");
  }

  // A text that the compiler refuses.

  Finding refused(const Complaint& complaint) {
    const Position at = position_of(complaint.user);
    const bool own = complaint.included_from.empty() && !in_library_header(at.file);
    if (command_ != nullptr && !command_->sources.empty() && evidence_.may_run(*command_)) {
      for (const auto attempt : {&Compile::other_header, &Compile::newer_standard, &Compile::other_language,
                                 &Compile::earlier_header, &Compile::definition}) {
        if (auto finding = (this->*attempt)(complaint, at, own)) return std::move(*finding);
      }
    }
    if (complaint.kind == Complaint::Kind::header_refuses && !own) return refusing_header(complaint, at);
    return own_code(complaint, at, own);
  }

  bool in_library_header(const std::string& file) const {
    if (command_ == nullptr) return false;
    return std::none_of(command_->sources.begin(), command_->sources.end(),
                        [&](const CommandFile& source) { return source.path == place(file); });
  }

  Finding proved(std::string_view cause, const Complaint& complaint, const Position& at, const Words& words) {
    Finding finding = start(cause, shown(place(at.file)));
    finding.because.push_back(fmt::format("{}: {}", shown_position(at), complaint.name));
    edit_command(finding, words);
    return finding;
  }

  std::optional<Finding> newer_standard(const Complaint& complaint, const Position& at, bool) {
    static constexpr std::string_view cxx[] = {"11", "14", "17", "20", "23"};
    static constexpr std::string_view c[] = {"99", "11", "17"};
    const bool is_cxx = is_cxx_command();
    for (const auto year : is_cxx ? std::span<const std::string_view>(cxx) : std::span<const std::string_view>(c)) {
      const std::string standard = fmt::format("{}{}{}", gnu_words() ? "gnu" : "c", is_cxx ? "++" : "", year);
      Words words = command_->words;
      const auto known = std::find_if(words.begin(), words.end(), [](const std::string& w) {
        return w.starts_with("-std=") || w.starts_with("/std:");
      });
      const std::string option = (command_->family == CompilerFamily::msvc ? "/std:" : "-std=") + standard;
      if (known != words.end()) {
        *known = option;
      } else {
        words.insert(words.begin() + 1, option);
      }
      if (words == command_->words || !compiles(words)) continue;
      Finding finding = proved("header-needs-standard", complaint, at, words);
      finding.because.push_back(fmt::format("with {} it compiles", option));
      finding.remedy = "compile with " + option;
      return finding;
    }
    return std::nullopt;
  }

  bool gnu_words() const {
    return std::any_of(command_->words.begin(), command_->words.end(),
                       [](const std::string& w) { return w.starts_with("-std=gnu"); });
  }
  bool is_cxx_command() const {
    if (command_->words[0].find("++") != std::string::npos) return true;
    return std::any_of(command_->sources.begin(), command_->sources.end(),
                       [](const CommandFile& s) { return s.path.extension() != ".c"; });
  }

  /// A C++ header in a C source.
  std::optional<Finding> other_language(const Complaint& complaint, const Position& at, bool own) {
    if (own || is_cxx_command() || command_->family == CompilerFamily::msvc) return std::nullopt;
    Words words = command_->words;
    const size_t first = command_->sources.front().word;
    const Words language{"-x", "c++"};
    words.insert(words.begin() + static_cast<std::ptrdiff_t>(first), language.begin(), language.end());
    if (!compiles(words)) return std::nullopt;
    Finding finding = proved("header-needs-language", complaint, at, words);
    finding.because.emplace_back("as C++ it compiles");
    finding.culprits.push_back(shown(place(at.file)));
    finding.remedy =
        "it is a C++ header: name the source .cpp and link with a C++ compiler, or use the library's C header";
    return finding;
  }

  /// Another header of the name, in a folder that is searched later or not at all.
  std::optional<Finding> other_header(const Complaint& complaint, const Position& at, bool) {
    for (const auto& rival : rival_folders(*command_, evidence_)) {
      const Words words = with_folder(rival.folder);
      if (!compiles(words)) continue;
      Finding finding = proved("wrong-header-found-first", complaint, at, words);
      finding.culprits = {shown(rival.found), shown(rival.folder / rival.name)};
      finding.because.push_back(fmt::format("<{}> is taken from {}; with {} it compiles", rival.name,
                                            shown(rival.found), shown(rival.folder / rival.name)));
      finding.remedy = fmt::format("put its folder first: -I{}", shown(rival.folder));
      return finding;
    }
    return std::nullopt;
  }

  /// A header that uses what another one declares, and does not include it.
  std::optional<Finding> earlier_header(const Complaint& complaint, const Position& at, bool own) {
    if (own || complaint.kind != Complaint::Kind::unknown_name) return std::nullopt;
    for (const auto& header : headers_with(complaint.name, *command_, evidence_)) {
      Words words = command_->words;
      if (command_->family == CompilerFamily::msvc) {
        words.insert(words.begin() + 1, "/FI" + header);
      } else {
        const Words include{"-include", header};
        words.insert(words.begin() + 1, include.begin(), include.end());
      }
      if (!compiles(words)) continue;
      Finding finding = proved("header-order", complaint, at, words);
      finding.culprits.push_back(shown(place(at.file)));
      finding.because.push_back(fmt::format("{} declares {}; with it in front it compiles", header, complaint.name));
      finding.remedy = fmt::format("include <{}> before {}", header, at.file);
      return finding;
    }
    return std::nullopt;
  }

  /// A definition that headers test.
  std::optional<Finding> definition(const Complaint& complaint, const Position& at, bool) {
    for (const auto& macro : macros_tested(complaint.name, place(at.file), at.line, *command_, evidence_)) {
      const Words words = with_option("-D" + macro, "/D" + macro);
      if (!compiles(words)) continue;
      Finding finding = proved("header-needs-definition", complaint, at, words);
      finding.subject = macro;
      finding.culprits.push_back(shown(place(at.file)));
      finding.because.push_back(fmt::format("it stands behind a test of {}; with -D{} it compiles", macro, macro));
      finding.remedy = fmt::format("define {}", macro);
      return finding;
    }
    return std::nullopt;
  }

  Finding refusing_header(const Complaint& complaint, const Position& at) const {
    const std::string said = text::lower(complaint.name);
    const auto says = [&](std::string_view word) { return said.find(word) != std::string::npos; };
    const bool standard = says("c++1") || says("c++2") || says("c++ 1") || says("standard");
    const bool platform = says("platform") || says("windows") || says("linux") || says("macos") ||
                          says("operating system") || says("architecture") || says("only for") || says("posix");
    const bool language = says("c++ compiler") || says("requires c++") || says("c++ only");
    Finding finding = start(language   ? "header-needs-language"
                            : standard ? "header-needs-standard"
                            : platform ? "wrong-platform"
                                       : "header-needs-definition",
                            at.file);
    finding.culprits.push_back(at.file);
    finding.because.push_back(fmt::format("{}: {}", complaint.user, complaint.name));
    finding.certainty = "guessed";
    finding.remedy = platform ? "get the library's build or source for this system"
                              : "do what the header says: nothing that was tried made it compile";
    return finding;
  }

  Finding own_code(const Complaint& complaint, const Position& at, bool own) const {
    Finding finding = start(own ? "not-about-libraries" : "unknown", shown_position(at));
    if (complaint.kind == Complaint::Kind::assembler) finding.stage = "assemble";
    finding.because.push_back(complaint.name);
    finding.remedy =
        own ? "the fault is in the program's own code, at the place the compiler names"
            : "the compiler refuses a header, and nothing that was tried made it compile; look at its first message";
    finding.certainty = "guessed";
    return finding;
  }

  const ToolCommand* command_;
  Evidence& evidence_;
  std::vector<Finding> findings_;
};

}  // namespace

std::vector<Finding> compile_findings(const Complaints& complaints, const ToolCommand* command, Evidence& evidence) {
  return Compile(command, evidence).explain(complaints);
}

}  // namespace fibula
