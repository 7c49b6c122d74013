#include "emit/arguments.hpp"

#include "base/files.hpp"
#include "base/process.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

void append(std::vector<std::string>& to, const std::vector<std::string>& from) {
  to.insert(to.end(), from.begin(), from.end());
}

std::vector<std::string> configuration_flags(const std::string& configuration) {
  return configuration == "debug" ? std::vector<std::string>{"-g", "-O0"} : std::vector<std::string>{"-O2", "-DNDEBUG"};
}

void add_definitions(const Fit& fit, std::vector<std::string>& arguments) {
  for (const auto& definition : fit.definitions) arguments.push_back("-D" + definition.text);
}

/// A library's headers are not the developer's own: warnings inside them are not shown.
void add_includes(const Fit& fit, std::vector<std::string>& arguments) {
  for (const auto& directory : fit.include_directories) {
    if (directory.library.empty()) {
      arguments.push_back("-I" + directory.path.string());
    } else {
      append(arguments, {"-isystem", directory.path.string()});
    }
  }
}

/// Whether the loader must look beside the program: for a library's run-time files, or for a shared library that the
/// project makes.
bool needs_run_path(const Fit& fit, const OutputLink& link) {
  if (fit.toolchain.target.format != Format::elf) return false;
  const auto own_shared = [&](const LinkInput& input) { return input.path.parent_path() == fit.folder / "bin"; };
  return !fit.runtime_files.empty() || std::any_of(link.inputs.begin(), link.inputs.end(), own_shared);
}

bool is_cxx_standard(const std::string& standard) {
  return standard.find("++") != std::string::npos;
}

}  // namespace

Language language_of(const fs::path& source) {
  const std::string ending = source.extension().string();
  if (ending == ".c") return Language::c;
  return ending == ".S" || ending == ".s" ? Language::assembly : Language::cxx;
}

std::string driver_for(const Fit& fit, Language language) {
  const std::string compiler = fit.toolchain.compiler.string();
  if (language == Language::cxx) return compiler;
  const fs::path path(compiler);
  for (const auto& [cxx, c] : {std::pair<std::string, std::string>{"clang++", "clang"}, {"g++", "gcc"}}) {
    std::string name = path.filename().string();
    const size_t at = name.rfind(cxx);
    if (at == std::string::npos) continue;
    name.replace(at, cxx.size(), c);
    if (const auto sister = find_program((path.parent_path() / name).string())) return sister->string();
  }
  return compiler;
}

std::vector<std::string> emit::compile_arguments(const Fit& fit) {
  std::vector<std::string> arguments = fit.lane.flags;
  append(arguments, configuration_flags(fit.lane.configuration));
  if (!fit.standard.empty()) arguments.push_back("-std=" + fit.standard);
  add_definitions(fit, arguments);
  add_includes(fit, arguments);
  return arguments;
}

std::vector<std::string> compile_command(const Project& project, const Fit& fit, const Output& output,
                                         const fs::path& source) {
  const Language language = language_of(source);
  const fs::path object = project.object_of(fit.lane, output, source);
  std::vector<std::string> command{driver_for(fit, language)};
  append(command, fit.lane.flags);
  append(command, configuration_flags(fit.lane.configuration));
  const bool applies =
      language == Language::assembly ? false : is_cxx_standard(output.standard) == (language == Language::cxx);
  if (!output.standard.empty() && applies) command.push_back("-std=" + output.standard);
  if (output.kind != OutputKind::program && fit.toolchain.target.format == Format::elf) command.emplace_back("-fPIC");
  append(command, output.flags);
  for (const auto& definition : output.definitions) command.push_back("-D" + definition);
  add_definitions(fit, command);
  add_includes(fit, command);
  append(command, {"-MD", "-MF", object.string() + ".d", "-c", source.string(), "-o", object.string()});
  return command;
}

std::vector<std::string> emit::link_arguments(const Fit& fit, const OutputLink& link,
                                              const std::vector<std::string>& run_paths) {
  std::vector<std::string> arguments = fit.lane.flags;
  int group = 0;
  const auto switch_group = [&](int next) {
    if (next == group) return;
    if (group != 0) arguments.emplace_back("-Wl,--end-group");
    if (next != 0) arguments.emplace_back("-Wl,--start-group");
    group = next;
  };
  for (const auto& input : link.inputs) {
    switch_group(input.group);
    append(arguments, input.arguments);
  }
  switch_group(0);
  if (!needs_run_path(fit, link)) return arguments;
  // Comma-separated -Wl would cut a folder with a comma in two, so each word is handed over by itself.
  for (const auto& path : run_paths) append(arguments, {"-Xlinker", "-rpath", "-Xlinker", path});
  std::vector<std::string> folders;
  for (const auto& file : fit.runtime_files) {
    const std::string folder = file.path.parent_path().string();
    if (std::find(folders.begin(), folders.end(), folder) != folders.end()) continue;
    folders.push_back(folder);
    append(arguments, {"-Xlinker", "-rpath-link", "-Xlinker", folder});
  }
  return arguments;
}

}  // namespace fibula
