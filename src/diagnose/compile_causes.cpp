/// Why compilers complained about what they read. What could be wrong is tried: each edit is compiled in a scratch
/// folder before it is told.
#include "base/text.hpp"
#include "base/toml.hpp"
#include "diagnose/compile_scene.hpp"
#include "diagnose/header_places.hpp"
#include "diagnose/tested_macros.hpp"
#include "project/own_making.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

using Complaints = std::vector<Complaint>;

class Compile : private CompileScene {
 public:
  using CompileScene::CompileScene;

  std::vector<Finding> explain(const Complaints& complaints) {
    for (const auto& complaint : complaints) {
      if (complaint.kind == Complaint::Kind::header_missing)
        add(missing_header(complaint, command_, evidence_), complaint);
      if (complaint.kind == Complaint::Kind::source_missing) add(missing_source(complaint), complaint);
      // A path in two words is why the rest is missing.
      if (!findings_.empty() && findings_.back().cause == "quoting") return {std::move(findings_.back())};
    }
    if (!findings_.empty()) return std::move(findings_);
    // What compiles now was refused for a reason that is gone, or by another tool.
    if (can_try() && compiles(command_->words)) return {};
    for (const auto& complaint : complaints) {
      if (complaint.kind > Complaint::Kind::source_missing) continue;
      add(refused(complaint), complaint);
      break;  // What follows a first error often follows from it.
    }
    return std::move(findings_);
  }

 private:
  void add(Finding finding, const Complaint& complaint) {
    const Position at = position_of(complaint.user);
    if (at.line != 0) finding.place = {place(at.file).string(), static_cast<unsigned>(at.line)};
    findings_.push_back(std::move(finding));
  }

  Finding missing_source(const Complaint& complaint) {
    Finding finding = start("file-not-found", complaint.name);
    finding.because.push_back(fmt::format("the command compiles {}, and it is not there", complaint.name));
    finding.remedy = "correct its path in the command";
    if (auto split = in_two_words()) return *split;
    return finding;
  }

  // A text that the compiler refuses.

  Finding refused(const Complaint& complaint) {
    const Position at = position_of(complaint.user);
    const bool own = complaint.included_from.empty() && !in_library_header(at.file);
    if (is_of_driver(at)) return driver_complaint(complaint);
    if (auto odd = in_library_header(at.file) ? odd_header(complaint, folder()) : std::nullopt) return std::move(*odd);
    if (auto handed = handed_over(complaint, command_, evidence_)) return std::move(*handed);
    if (can_try()) {
      for (const auto attempt :
           {&Compile::thread_model, &Compile::other_header, &Compile::other_folder, &Compile::conflict,
            &Compile::newer_standard, &Compile::dialect, &Compile::other_language, &Compile::earlier_header,
            &Compile::one_of_several, &Compile::definition, &Compile::fewer_options, &Compile::older_standard}) {
        if (auto finding = (this->*attempt)(complaint, at, own)) return std::move(*finding);
      }
    }
    if (complaint.kind == Complaint::Kind::header_refuses && !own) return refusing_header(complaint, at);
    return own_code(complaint, at, own || lies_beside(at.file));
  }

  /// "gcc: fatal error: …" is about the command, and no text.
  bool is_of_driver(const Position& at) const {
    return command_ != nullptr && at.line == 0 &&
           fs::path(at.file).filename() == fs::path(command_->words[0]).filename();
  }
  Finding driver_complaint(const Complaint& complaint) const {
    if (auto split = in_two_words()) return *split;
    Finding finding = start("unknown", complaint.user);
    finding.because.push_back(complaint.name);
    finding.remedy = "nothing that is known here explains it";
    finding.certainty = "guessed";
    return finding;
  }

  bool in_library_header(const std::string& file) const {
    if (command_ == nullptr) return false;
    return std::none_of(command_->sources.begin(), command_->sources.end(),
                        [&](const CommandFile& source) { return source.path == place(file); });
  }

  /// Headers beside a source are the program's own, where nothing says otherwise.
  bool lies_beside(const std::string& file) const {
    if (command_ == nullptr) return false;
    const fs::path folder_of = place(file).parent_path();
    return std::any_of(command_->sources.begin(), command_->sources.end(),
                       [&](const CommandFile& source) { return source.path.parent_path() == folder_of; });
  }

  Finding proved(std::string_view cause, const Complaint& complaint, const Position& at, const Words& words) {
    Finding finding = start(cause, shown(place(at.file)));
    finding.because.push_back(fmt::format("{}: {}", shown_position(at), said(complaint)));
    edit_command(finding, words);
    return finding;
  }

  /// The least standard with which it compiles, where that is what is missing.
  std::optional<Finding> newer_standard(const Complaint& complaint, const Position& at, bool) {
    static constexpr std::string_view cxx[] = {"11", "14", "17", "20", "23"};
    static constexpr std::string_view c[] = {"99", "11", "17"};
    const bool is_cxx = is_cxx_command();
    const auto years = is_cxx ? std::span<const std::string_view>(cxx) : std::span<const std::string_view>(c);
    const auto helps = [&](std::string_view year) {
      const Words words = with_standard(year, is_cxx);
      return words != command_->words && compiles(words);
    };
    // Two tries tell of most errors that no standard mends them: C++ takes long to compile.
    if (is_cxx && !helps("20") && !helps("23")) return std::nullopt;
    for (const auto year : years) {
      if (helps(year)) return standard(complaint, at, year);
    }
    return std::nullopt;
  }

  /// What only GNU's dialect of the same standard has: `typeof`, and names of POSIX without a definition.
  std::optional<Finding> dialect(const Complaint& complaint, const Position& at, bool) {
    if (command_->family == CompilerFamily::msvc) return std::nullopt;
    Words words = command_->words;
    const auto strict = std::find_if(words.begin(), words.end(), [](const std::string& word) {
      return word.starts_with("-std=c") || word.starts_with("-std=iso") || word == "-ansi";
    });
    if (strict == words.end()) return std::nullopt;
    const bool named = strict->starts_with("-std=c");
    *strict = named ? "-std=gnu" + strict->substr(6) : std::string(is_cxx_command() ? "-std=gnu++98" : "-std=gnu90");
    const std::string option = *strict;
    if (!compiles(words)) return std::nullopt;
    Finding finding = proved("header-needs-standard", complaint, at, words);
    finding.because.push_back(fmt::format("with {}, GNU's dialect of that standard, it compiles", option));
    finding.remedy = "compile with " + option;
    return finding;
  }

  /// What newer standards took away: `register`, lists of exceptions, `auto_ptr`.
  std::optional<Finding> older_standard(const Complaint& complaint, const Position& at, bool own) {
    if (own || !is_cxx_command()) return std::nullopt;
    for (const std::string_view year : {"14", "98"}) {
      const Words words = with_standard(year, true);
      if (words != command_->words && compiles(words)) return standard(complaint, at, year);
    }
    return std::nullopt;
  }

  Finding standard(const Complaint& complaint, const Position& at, std::string_view year) {
    const bool is_cxx = is_cxx_command();
    Finding finding = proved("header-needs-standard", complaint, at, with_standard(year, is_cxx));
    const std::string option = option_of(year, is_cxx);
    finding.because.push_back(fmt::format("with {} it compiles", option));
    finding.remedy = "compile with " + option;
    return finding;
  }

  std::string option_of(std::string_view year, bool is_cxx) const {
    return fmt::format("{}{}{}{}",
                       command_->family == CompilerFamily::msvc ? "/std:" : "-std=", gnu_words() ? "gnu" : "c",
                       is_cxx ? "++" : "", year);
  }
  Words with_standard(std::string_view year, bool is_cxx) const {
    Words words = command_->words;
    const auto known = std::find_if(words.begin(), words.end(), [](const std::string& w) {
      return w.starts_with("-std=") || w.starts_with("/std:") || w == "-ansi";
    });
    if (known != words.end()) {
      *known = option_of(year, is_cxx);
    } else {
      words.insert(words.begin() + 1, option_of(year, is_cxx));
    }
    return words;
  }

  bool gnu_words() const {
    return std::any_of(command_->words.begin(), command_->words.end(),
                       [](const std::string& w) { return w.starts_with("-std=gnu"); });
  }

  std::optional<Finding> other_folder(const Complaint& complaint, const Position&, bool) {
    return folder_in_the_way(complaint, *command_, evidence_);
  }
  std::optional<Finding> fewer_options(const Complaint& complaint, const Position&, bool own) {
    return own ? std::nullopt : option_in_the_way(complaint, *command_, evidence_);
  }
  std::optional<Finding> thread_model(const Complaint& complaint, const Position&, bool) {
    return other_thread_model(complaint, *command_, evidence_);
  }
  std::optional<Finding> conflict(const Complaint& complaint, const Position&, bool) {
    return header_conflict(complaint, *command_, evidence_);
  }

  /// A C++ header in a C source, or a C header that C++ cannot read.
  std::optional<Finding> other_language(const Complaint& complaint, const Position& at, bool own) {
    if (own || command_->family == CompilerFamily::msvc) return std::nullopt;
    if (is_cxx_command()) return only_c(complaint, at);
    const Words words = as_cxx();
    if (!compiles(words)) return std::nullopt;
    Finding finding = proved("header-needs-language", complaint, at, words);
    finding.because.emplace_back("as C++ it compiles");
    finding.culprits.push_back(shown(place(at.file)));
    finding.remedy =
        "it is a C++ header: name the source .cpp and link with a C++ compiler, or use the library's C header";
    return finding;
  }

  std::optional<Finding> only_c(const Complaint& complaint, const Position& at) {
    const fs::path header = place(at.file);
    if (header.extension() != ".h") return std::nullopt;
    Words words = command_->words;
    std::erase_if(words, [](const std::string& word) { return word.starts_with("-std=") || word.starts_with("-x"); });
    const Words language{"-x", "c"};
    words.insert(words.begin() + 1, language.begin(), language.end());
    const auto as_c = read_command(words, command_->folder);
    const std::string text = fmt::format("#include \"{}\"\n", header.string());
    const fs::path source = source_of(complaint);
    if (evidence_.compile(*command_, source, text).good) return std::nullopt;
    if (!evidence_.compile(as_c, source, text).good) return std::nullopt;
    Finding finding = start("header-needs-language", shown(header));
    finding.because = {fmt::format("{}: {}", shown_position(at), said(complaint)), "as C it compiles"};
    finding.culprits = {shown(header)};
    finding.remedy = "it is a header for C only: include it from a C source, and call that one from C++";
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
      finding.because.push_back(
          fmt::format("with <{}> in front of it {} is known, and it compiles", header, complaint.name));
      finding.remedy = complaint.included_from.empty()
                           ? fmt::format("include <{}> before {}", header, at.file)
                           : fmt::format("write #include <{}> above {}, which includes it", header,
                                         shown_position(position_of(complaint.included_from.back())));
      return finding;
    }
    return std::nullopt;
  }

  /// `#error` where none of several macros is defined: only its user knows which one is meant.
  std::optional<Finding> one_of_several(const Complaint& complaint, const Position& at, bool) {
    constexpr size_t enough = 8;
    auto macros = macros_of_chain(place(at.file), at.line);
    if (macros.size() < 2 || macros.size() > enough) return std::nullopt;
    Finding finding = start("header-needs-definition", shown(place(at.file)));
    finding.culprits.push_back(shown(place(at.file)));
    finding.because.push_back(fmt::format("{}: {}", shown_position(at), said(complaint)));
    finding.because.push_back("it asks for one of " + text::join(macros, ", "));
    std::vector<std::string> good;
    std::copy_if(macros.begin(), macros.end(), std::back_inserter(good),
                 [&](const std::string& macro) { return compiles(with_option("-D" + macro, "/D" + macro)); });
    finding.because.push_back(good.empty() ? "with none of them alone it compiles here"
                                           : "here it compiles with " + text::join(good, " and with "));
    finding.remedy = "define the one that is meant";
    // Where each would do, any one shows where it is to be defined.
    if (good.size() == macros.size()) edit_command(finding, with_option("-D" + good.front(), "/D" + good.front()));
    return finding;
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
    finding.remedy =
        platform ? "get the library's build or source for this system" : "do what the header says" + attempts();
    return finding;
  }

  Finding own_code(const Complaint& complaint, const Position& at, bool own) const {
    if (complaint.kind == Complaint::Kind::unknown_name && !can_try()) return undeclared(complaint, at);
    if (const auto made = headers_left_open(command_); !made.empty()) return left_open(complaint, at, made.front());
    Finding finding = start(own ? "not-about-libraries" : "unknown", shown_position(at));
    if (complaint.kind == Complaint::Kind::assembler) finding.stage = "assemble";
    finding.because.push_back(said(complaint));
    if (auto other = own && complaint.kind == Complaint::Kind::unknown_name ? own_build_around(at) : fs::path();
        !other.empty() && text::upper(complaint.name) == complaint.name) {
      finding.because.push_back(fmt::format("{} may define such a name", shown(other)));
      finding.remedy = fmt::format("define it as that build does, or correct the name: definitions = [{}]",
                                   toml::quote(complaint.name + "=…"));
      finding.certainty = "guessed";
      return finding;
    }
    finding.remedy = own ? "the fault is in the program's own code, at the place the compiler names"
                         : "the compiler refuses a header; look at its first message" + attempts();
    finding.certainty = "guessed";
    return finding;
  }

  /// What builds the tree by itself that a source lies in.
  fs::path own_build_around(const Position& at) const {
    for (const auto& folder_of : folders_up_to(place(at.file).parent_path(), folder())) {
      if (auto file = own_build_in(folder_of); !file.empty()) return file;
    }
    return {};
  }

  Finding left_open(const Complaint& complaint, const Position& at, const fs::path& made) const {
    Finding finding = start("unknown", shown_position(at));
    finding.because.push_back(said(complaint));
    finding.because.push_back(fmt::format("{} leaves names open that a configure step may define", shown(made)));
    finding.culprits.push_back(shown(made));
    finding.remedy = fmt::format("define there what is missing, or run the configure step and take {} out of headers",
                                 shown(made.parent_path()));
    finding.certainty = "guessed";
    return finding;
  }

  /// Whether a name is the program's or a library's shows in files alone.
  Finding undeclared(const Complaint& complaint, const Position& at) const {
    Finding finding = start("unknown", shown_position(at));
    finding.because.push_back(said(complaint));
    finding.remedy =
        "correct the name, or include the header that declares it; one that is included can be of another version";
    finding.certainty = "guessed";
    return finding;
  }

  std::vector<Finding> findings_;
};

}  // namespace

std::vector<Finding> compile_findings(const Complaints& complaints, const ToolCommand* command, Evidence& evidence) {
  return Compile(command, evidence).explain(complaints);
}

}  // namespace fibula
