#include "diagnose/split_words.hpp"

#include "diagnose/findings.hpp"
#include "os/files.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

/// Without the option in the same word.
std::string path_part(const std::string& word) {
  for (const std::string_view option : {"-isystem", "-iquote", "-I", "-L", "-o", "/I", "/libpath:"}) {
    if (word.starts_with(option) && word.size() > option.size()) return word.substr(option.size());
  }
  return word.starts_with('-') ? std::string() : word;
}

}  // namespace

std::optional<Finding> path_in_two_words(const ToolCommand& command, std::string_view stage) {
  const auto& words = command.words;
  for (size_t i = 1; i + 1 < words.size(); ++i) {
    const std::string begin = path_part(words[i]), whole = begin + " " + words[i + 1];
    std::error_code ignored;
    if (begin.empty() || words[i + 1].starts_with('-') || fs::exists(command.folder / words[i + 1], ignored)) continue;
    if (!fs::exists(command.folder / whole, ignored)) continue;
    Words joined = words;
    joined[i] += " " + words[i + 1];
    joined.erase(joined.begin() + static_cast<std::ptrdiff_t>(i) + 1);
    Finding finding{.cause = "quoting", .stage = std::string(stage), .subject = whole, .certainty = "read"};
    finding.culprits = {whole};
    finding.because = {fmt::format("{} is there, and the command has it as two words", whole)};
    finding.remedy = "quote it where the command is written";
    set_command(finding, command, std::move(joined));
    return finding;
  }
  return std::nullopt;
}

}  // namespace fibula
