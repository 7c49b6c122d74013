/// What a command says too much for a header: it is left out, and the source compiled.
#include "base/text.hpp"
#include "diagnose/compile_scene.hpp"

#include <algorithm>

namespace fibula {
namespace {

/// A folder for headers, and the words that name it.
struct FolderWords {
  fs::path folder;  ///< absolute
  size_t first = 0, count = 1;
};

std::vector<FolderWords> folder_words(const ToolCommand& command) {
  std::vector<FolderWords> found;
  const auto& words = command.words;
  for (size_t i = 1; i < words.size(); ++i) {
    for (const std::string_view option : {"-isystem", "-I"}) {
      if (!words[i].starts_with(option)) continue;
      const bool joined = words[i].size() > option.size();
      if (!joined && i + 1 == words.size()) break;
      const std::string name = joined ? words[i].substr(option.size()) : words[i + 1];
      found.push_back({(command.folder / name).lexically_normal(), i, joined ? 1U : 2U});
      break;
    }
  }
  return found;
}

class InTheWay : private CompileScene {
 public:
  InTheWay(const ToolCommand& command, Evidence& evidence) : CompileScene(&command, evidence) {}

  std::optional<Finding> folder_before_the_compilers(const Complaint& complaint) {
    const auto& toolchain = evidence_.toolchain(*command_);
    if (!can_try() || !toolchain || command_->family == CompilerFamily::msvc) return std::nullopt;
    const auto& own = toolchain->include_directories;
    for (const auto& words : folder_words(*command_)) {
      if (std::find(own.begin(), own.end(), words.folder) != own.end()) {
        if (auto finding = named_again(complaint, words)) return finding;
      } else if (const auto names = names_of_both(words.folder, own); !names.empty()) {
        if (auto finding = shadowing(complaint, words, names)) return finding;
      }
    }
    return std::nullopt;
  }

  std::optional<Finding> option(const Complaint& complaint) {
    if (!can_try() || command_->family == CompilerFamily::msvc) return std::nullopt;
    const bool mistake = is_a_mistake(complaint);
    if (auto finding = mistake ? std::nullopt : warning(complaint)) return finding;
    constexpr size_t most = 10;
    size_t tries = 0;
    for (size_t i = 1; i < command_->words.size() && tries < most; ++i) {
      if (!is_choice(command_->words[i]) || (mistake && is_strict(command_->words[i]))) continue;
      ++tries;
      Words words = command_->words;
      words.erase(words.begin() + static_cast<std::ptrdiff_t>(i));
      if (!compiles(words)) continue;
      const std::string& word = command_->words[i];
      Finding finding = at_fault("option-in-the-way", complaint, std::move(words));
      finding.because.push_back(fmt::format("without {} it compiles", word));
      finding.remedy =
          fmt::format("leave out {} where this header is used, or use a build of the library without", word);
      return finding;
    }
    return std::nullopt;
  }

 private:
  Finding at_fault(std::string_view cause, const Complaint& complaint, Words words) {
    const Position at = position_of(complaint.user);
    Finding finding = start(cause, shown(place(at.file)));
    finding.because.push_back(fmt::format("{}: {}", shown_position(at), said(complaint)));
    edit_command(finding, words);
    return finding;
  }

  Words replaced(const FolderWords& at, const Words& by) const {
    Words words = command_->words;
    const auto first = words.begin() + static_cast<std::ptrdiff_t>(at.first);
    words.insert(words.erase(first, first + static_cast<std::ptrdiff_t>(at.count)), by.begin(), by.end());
    return words;
  }

  /// Headers of the compiler's look for the next one of a name (`#include_next`): the order of its folders counts.
  std::optional<Finding> named_again(const Complaint& complaint, const FolderWords& at) {
    const Words words = replaced(at, {});
    if (!compiles(words)) return std::nullopt;
    Finding finding = at_fault("wrong-header-found-first", complaint, words);
    finding.culprits = {at.folder.string()};
    finding.because.push_back(fmt::format(
        "{} is one of the compiler's own folders; named in the command it is searched too early", at.folder.string()));
    finding.remedy = "leave it out: the compiler looks there by itself";
    return finding;
  }

  /// Names that the compiler's own folders have too.
  static std::vector<std::string> names_of_both(const fs::path& folder, const std::vector<fs::path>& own) {
    std::vector<std::string> names;
    for (const auto& name : files_directly_in(folder)) {
      std::error_code ignored;
      if (std::any_of(own.begin(), own.end(),
                      [&](const fs::path& other) { return fs::is_regular_file(other / name, ignored); }))
        names.push_back(name.string());
    }
    return names;
  }

  /// `-iquote`: only names in quotation marks are looked for there (GCC's manual, "Directory Options").
  std::optional<Finding> shadowing(const Complaint& complaint, const FolderWords& at,
                                   const std::vector<std::string>& names) {
    const std::string folder = shown(at.folder);
    const Words for_quotes = replaced(at, {"-iquote", folder.empty() ? "." : folder});
    const bool by_quotes = compiles(for_quotes);
    const Words without = by_quotes ? for_quotes : replaced(at, {});
    if (!by_quotes && !compiles(without)) return std::nullopt;
    Finding finding = at_fault("wrong-header-found-first", complaint, without);
    constexpr size_t most = 3;
    for (size_t i = 0; i < std::min(names.size(), most); ++i) {
      finding.culprits.push_back(shown(at.folder / names[i]));
      finding.because.push_back(
          fmt::format("{} has the name of a header of the compiler's, and is found first", finding.culprits.back()));
    }
    finding.remedy =
        by_quotes ? "search that folder for names in quotation marks only (-iquote), or give the file another name"
                  : "leave out its folder, or give the file another name";
    return finding;
  }

  /// What C let pass of old, and goes wrong while it runs: to say nothing of it mends nothing.
  static bool is_a_mistake(const Complaint& complaint) {
    static constexpr std::string_view mistakes[] = {"implicit-function-declaration", "implicit-int", "int-conversion",
                                                    "incompatible-pointer-types", "return-type"};
    return complaint.kind == Complaint::Kind::unknown_name ||
           std::any_of(std::begin(mistakes), std::end(mistakes),
                       [&](std::string_view name) { return complaint.name.find(name) != std::string::npos; });
  }

  /// Warnings of a library's header are not the program's to mend.
  std::optional<Finding> warning(const Complaint& complaint) {
    if (std::none_of(command_->words.begin(), command_->words.end(), is_strict)) return std::nullopt;
    const fs::path header = place(position_of(complaint.user).file);
    for (const auto& at : folder_words(*command_)) {
      if (!is_inside(at.folder, header) || command_->words[at.first].starts_with("-isystem")) continue;
      const Words words = replaced(at, {"-isystem", shown(at.folder)});
      if (!compiles(words)) continue;
      Finding finding = at_fault("header-warns", complaint, words);
      finding.because.emplace_back("the command makes errors of warnings; for headers of -isystem it has none");
      finding.remedy = fmt::format("name the folder of a library's headers by -isystem: -isystem {}", shown(at.folder));
      return finding;
    }
    return std::nullopt;
  }

  /// Options that make errors of warnings.
  static bool is_strict(const std::string& word) { return word.starts_with("-Werror") || word == "-pedantic-errors"; }

  /// Options that change what a text means, not those that say what for.
  static bool is_choice(const std::string& word) {
    return word.starts_with("-f") || (word.starts_with("-D") && word.size() > 2) ||
           (word.starts_with("-U") && word.size() > 2) || word.starts_with("-nostdinc") || is_strict(word);
  }
};

}  // namespace

std::optional<Finding> folder_in_the_way(const Complaint& complaint, const ToolCommand& command, Evidence& evidence) {
  return InTheWay(command, evidence).folder_before_the_compilers(complaint);
}

std::optional<Finding> option_in_the_way(const Complaint& complaint, const ToolCommand& command, Evidence& evidence) {
  return InTheWay(command, evidence).option(complaint);
}

}  // namespace fibula
