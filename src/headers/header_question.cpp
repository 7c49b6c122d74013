#include "headers/header_question.hpp"

#include "base/text.hpp"
#include "toolchain/options.hpp"

#include <algorithm>
#include <span>

namespace fibula {
namespace {

constexpr std::string_view cxx_standards[] = {"c++98", "c++11", "c++14", "c++17", "c++20", "c++23", "c++26"};
constexpr std::string_view c_standards[] = {"c90", "c99", "c11", "c17", "c23"};

std::vector<std::string> command(const Toolchain& toolchain, const HeaderContext& context, const std::string& standard,
                                 std::initializer_list<const char*> what, const std::filesystem::path& file) {
  const OptionSpelling& spelling = options_of(toolchain.family);
  std::vector<std::string> argv = compile_flags(context.flags);
  argv.insert(argv.begin(), toolchain.compiler.string());
  if (!standard.empty()) argv.push_back(spelling.standard + standard);
  for (const auto& definition : context.definitions) argv.push_back(spelling.definition + definition);
  for (const auto& directory : context.include_directories) argv.push_back(spelling.include + directory.string());
  argv.insert(argv.end(), what.begin(), what.end());
  argv.push_back(file.string());
  return argv;
}

}  // namespace

std::vector<std::string> preprocess_command(const Toolchain& toolchain, const HeaderContext& context,
                                            const std::string& standard, const std::filesystem::path& file) {
  if (toolchain.family == CompilerFamily::msvc)
    return command(toolchain, context, standard, {"/nologo", context.cxx ? "/TP" : "/TC", "/E", "--"}, file);
  return command(toolchain, context, standard, {"-w", "-x", context.cxx ? "c++" : "c", "-E"}, file);
}

std::vector<std::string> check_command(const Toolchain& toolchain, const HeaderContext& context,
                                       const std::string& standard, const std::filesystem::path& file) {
  if (toolchain.family == CompilerFamily::msvc)
    return command(toolchain, context, standard, {"/nologo", "/w", context.cxx ? "/TP" : "/TC", "/Zs", "--"}, file);
  return command(toolchain, context, standard, {"-w", "-x", context.cxx ? "c++" : "c", "-fsyntax-only"}, file);
}

std::string first_error(std::string_view said) {
  for (const auto line : text::lines(said)) {
    if (line.find("error") != std::string_view::npos) return std::string(text::trim(line));
  }
  return {};
}

std::vector<std::string> newer_standards(const Toolchain& toolchain, bool cxx, const std::string& than) {
  const auto all =
      cxx ? std::span<const std::string_view>(cxx_standards) : std::span<const std::string_view>(c_standards);
  const auto place = [&](std::string_view name) {
    // gnu++17 has everything of c++17.
    const std::string plain = name.starts_with("gnu") ? "c" + std::string(name.substr(3)) : std::string(name);
    return std::find(all.begin(), all.end(), plain);
  };
  const Answer* newest = toolchain.answer("newest-standard");
  auto first = place(than);
  const auto last = newest == nullptr ? all.end() : place(newest->value);
  if (first == all.end() || last == all.end() || last <= first) return {};
  return {first + 1, last + 1};
}

}  // namespace fibula
