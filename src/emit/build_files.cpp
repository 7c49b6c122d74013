/// A lane for builds of somebody else's: variables for make and for shells, and the list of run-time files.
#include "base/quoting.hpp"
#include "base/text.hpp"
#include "emit/arguments.hpp"
#include "os/folder.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula::emit {
namespace {

/// A variable and the words that it holds.
struct Variable {
  std::string name;
  std::vector<std::string> words;
};

/// `harbour-log` -> `harbour_log`: what make and shells take in a variable's name.
std::string variable_part(std::string name) {
  std::replace_if(
      name.begin(), name.end(), [](char c) { return !text::is_identifier_character(c); }, '_');
  return name;
}

std::vector<Variable> variables_of(const Fit& fit) {
  std::vector<Variable> variables{{"FIT_COMPILER", {fit.toolchain.compiler.string()}},
                                  {"FIT_COMPILE", compile_arguments(fit)},
                                  {"FIT_ASSEMBLE", assemble_arguments(fit)}};
  for (const auto& compile : fit.compiles) {
    const std::string part = variable_part(compile.output);
    variables.push_back({"FIT_COMPILE_" + part, compile_arguments(fit, compile.output)});
    variables.push_back({"FIT_ASSEMBLE_" + part, assemble_arguments(fit, compile.output)});
  }
  for (const auto& link : fit.links) {
    auto words = link_arguments(fit, link, run_paths_by_hand(fit));
    if (&link == &fit.links.front()) variables.push_back({"FIT_LINK", words});
    variables.push_back({"FIT_LINK_" + variable_part(link.output), std::move(words)});
  }
  std::vector<std::string> files;
  for (const auto& file : fit.runtime_files) files.push_back(file.path.string());
  variables.push_back({"FIT_RUNTIME", std::move(files)});
  return variables;
}

}  // namespace

std::string make_text(const Fit& fit) {
  std::string text = fmt::format(
      "# Lane {0}. In a makefile:  include .fibula/{0}/fit.mk  and then\n"
      "#   $(FIT_COMPILER) $(FIT_COMPILE) -c main.cpp\n#   $(FIT_COMPILER) main.o -o program $(FIT_LINK)\n",
      fit.lane.name);
  for (const auto& [name, words] : variables_of(fit))
    text += fmt::format("{} = {}\n", name, make_value(shell_words(words)));
  return text;
}

std::string shell_text(const Fit& fit) {
  std::string text = fmt::format(
      "# Lane {0}. In a shell:  . .fibula/{0}/fit.env  and then\n"
      "#   eval \"$FIT_COMPILER main.cpp -o program $FIT_COMPILE $FIT_LINK\"\n",
      fit.lane.name);
  for (const auto& [name, words] : variables_of(fit))
    text += fmt::format("{}={}\n", name, shell_word(shell_words(words)));
  return text;
}

std::string runtime_text(const Fit& fit) {
  std::string text;
  for (const auto& file : fit.runtime_files) text += file.path.string() + "\n";
  return text;
}

/// These files hold a value a line, and make reads what stands on the next one as a recipe or a rule.
Result<void> check_lines(const Fit& fit, const fs::path& folder) {
  for (const auto& [name, words] : variables_of(fit)) {
    const auto split = std::find_if_not(words.begin(), words.end(), fits_on_a_line);
    if (split == words.end()) continue;
    return fail({.code = Code::refused,
                 .what = fmt::format("cannot hold a line end, and {} is to have {} in it", name, *split),
                 .file = (folder / "fit.mk").string(),
                 .hint = "remove the line end from the flag, definition or path"});
  }
  return {};
}

Result<void> build_files(const Fit& fit, const fs::path& folder) {
  if (auto right = check_lines(fit, folder); !right) return right;
  for (const auto& [name, text] :
       {std::pair{"fit.mk", make_text(fit)}, {"fit.env", shell_text(fit)}, {"runtime.txt", runtime_text(fit)}}) {
    if (auto written = write_if_changed_in(folder, name, text); !written) return pass(written);
  }
  return {};
}

}  // namespace fibula::emit
