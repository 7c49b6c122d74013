#include "emit/arguments.hpp"

#include "base/version.hpp"
#include "facts/system_files.hpp"
#include "os/files.hpp"
#include "os/process.hpp"
#include "toolchain/options.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

void append(std::vector<std::string>& to, const std::vector<std::string>& from) {
  to.insert(to.end(), from.begin(), from.end());
}

void add_definitions(const Fit& fit, const OutputCompile& compile, std::vector<std::string>& arguments) {
  for (const auto& definition : compile.definitions)
    arguments.push_back(options_of(fit.toolchain.family).definition + definition.text);
}

/// The assembler's own `.include` is looked for in directories of `-I` alone; nothing in them can cause a warning
/// there.
enum class For { compiler, assembler };

void add_includes(const Fit& fit, For whom, std::vector<std::string>& arguments) {
  const OptionSpelling& spelling = options_of(fit.toolchain.family);
  for (const auto& directory : fit.include_directories) {
    const std::string path = directory.path.string();
    if (directory.library.empty() || whom == For::assembler) {
      arguments.push_back(spelling.include + path);
    } else if (spelling.joined) {
      arguments.push_back(spelling.foreign_include + path);
    } else {
      append(arguments, {spelling.foreign_include, path});
    }
  }
}

/// Where the compiler puts the object, and tells what it read.
void add_products(const Fit& fit, const fs::path& source, const std::string& object,
                  std::vector<std::string>& command) {
  const std::string dependencies = object + ".d";
  if (fit.toolchain.family == CompilerFamily::msvc) {
    append(command,
           {"/nologo", "/clang:-MD", "/clang:-MF" + dependencies, "/c", "/Fo" + object, "--", source.string()});
  } else {
    append(command, {"-MD", "-MF", dependencies, "-c", source.string(), "-o", object});
  }
}

/// NASM manual, chapter 8: the object forms that lanes need.
std::string nasm_form(const Target& target) {
  const std::string bits = target.bits == 64 ? "64" : "32";
  if (target.format == Format::elf) return target.arch == Arch::x86_64 && target.bits == 32 ? "elfx32" : "elf" + bits;
  return (target.format == Format::macho ? "macho" : "win") + bits;
}

std::vector<std::string> nasm_command(const Fit& fit, const OutputCompile& compile, const fs::path& source,
                                      const std::string& object) {
  const auto nasm = find_program("nasm");
  std::vector<std::string> command{nasm ? nasm->string() : "nasm", "-f", nasm_form(fit.toolchain.target)};
  if (fit.lane.configuration == "debug") command.emplace_back("-g");
  for (const auto& definition : compile.definitions) command.push_back("-d" + definition.text);
  // Without a slash NASM glues folder and name together.
  command.push_back("-I" + source.parent_path().string() + "/");
  for (const auto& directory : fit.include_directories) command.push_back("-I" + directory.path.string() + "/");
  append(command, {"-o", object, source.string()});
  return command;
}

/// Whether the loader must look beside the program: for a library's run-time files, or for a shared library that the
/// project makes.
/// Programs look beside themselves for every shared library that does not belong to the system: in the build for those
/// that are put there, and once they are handed on for those that a machine of its own need not have.
bool needs_run_path(const Fit& fit, const OutputLink& link) {
  if (fit.toolchain.target.format == Format::macho) return !fit.runtime_files.empty();
  if (fit.toolchain.target.format != Format::elf) return false;
  const auto goes_along = [&](const LinkInput& input) {
    const std::string name = input.path.filename().string();
    return name.find(".so") != std::string::npos && reason_to_stay(name).empty();
  };
  return !fit.runtime_files.empty() || std::any_of(link.inputs.begin(), link.inputs.end(), goes_along);
}

/// Script, entry point, subsystem and places of sections; of a system without one of them nothing is said.
std::vector<std::string> layout_arguments(const Fit& fit, const LinkSettings& settings) {
  std::vector<std::string> words;
  if (!settings.script.empty()) append(words, {"-T", settings.script.string()});
  for (const auto& [section, address] : settings.sections)
    append(words, {"-Xlinker", fmt::format("--section-start={}={}", section, address)});
  if (!settings.entry.empty()) append(words, {"-Xlinker", "-e", "-Xlinker", settings.entry});
  if (!settings.subsystem.empty() && fit.toolchain.target.format == Format::pe)
    words.push_back("-m" + settings.subsystem);
  return words;
}

/// The same for MSVC-style linkers, which are spoken to behind /link.
std::vector<std::string> msvc_layout_arguments(const LinkSettings& settings, const std::vector<std::string>& flags) {
  std::vector<std::string> words = flags;
  if (words.empty() && !(settings.entry.empty() && settings.subsystem.empty())) words.emplace_back("/link");
  if (!settings.entry.empty()) words.push_back("/entry:" + settings.entry);
  if (!settings.subsystem.empty()) words.push_back("/subsystem:" + settings.subsystem);
  return words;
}

bool is_cxx_standard(const std::string& standard) {
  return standard.find("++") != std::string::npos;
}

}  // namespace

const std::vector<std::string>& configuration_flags(const Fit& fit) {
  const OptionSpelling& spelling = options_of(fit.toolchain.family);
  return fit.lane.configuration == "debug" ? spelling.debug : spelling.release;
}

bool is_loaded_anywhere(const Toolchain& toolchain) {
  return toolchain.target.format == Format::elf && !toolchain.bare_metal();
}

std::string driver_for(const Fit& fit, SourceKind kind) {
  const std::string compiler = fit.toolchain.compiler.string();
  if (kind == SourceKind::cxx || kind == SourceKind::objective_cxx) return compiler;
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

namespace {

/// The output's flags, then the lane's: of two that contradict each other compilers take the last. What is for the
/// linker alone is left out.
void add_flags(const Fit& fit, const OutputCompile& compile, std::vector<std::string>& arguments) {
  append(arguments, without_link_inputs(compile_flags(compile.flags)));
  append(arguments, without_link_inputs(compile_flags(fit.lane.flags)));
}

/// Of a project that makes nothing itself: what holds for everybody.
OutputCompile compile_of(const Fit& fit, const std::string& output) {
  const OutputCompile* compile = fit.compile(output);
  return compile != nullptr ? *compile
                            : OutputCompile{.output = output, .standard = {}, .definitions = fit.definitions};
}

}  // namespace

std::vector<std::string> emit::compile_arguments(const Fit& fit, const std::string& output) {
  const OutputCompile compile = compile_of(fit, output);
  std::vector<std::string> arguments = configuration_flags(fit);
  if (!compile.standard.empty()) arguments.push_back(options_of(fit.toolchain.family).standard + compile.standard);
  add_flags(fit, compile, arguments);
  add_definitions(fit, compile, arguments);
  add_includes(fit, For::compiler, arguments);
  return arguments;
}

std::vector<std::string> emit::assemble_arguments(const Fit& fit, const std::string& output) {
  const OutputCompile compile = compile_of(fit, output);
  std::vector<std::string> arguments;
  add_flags(fit, compile, arguments);
  add_definitions(fit, compile, arguments);
  add_includes(fit, For::assembler, arguments);
  return arguments;
}

std::vector<std::string> run_paths_by_hand(const Fit& fit) {
  return {"$ORIGIN", fmt::format("$ORIGIN/.fibula/{}/bin", fit.lane.name)};
}

std::vector<std::string> CompileCommands::shared_words(SourceKind kind) const {
  std::vector<std::string> words{driver_for(fit_, kind)};
  append(words, configuration_flags(fit_));
  const bool cxx = kind == SourceKind::cxx || kind == SourceKind::objective_cxx;
  const bool applies = kind != SourceKind::assembly && is_cxx_standard(output_.standard) == cxx;
  if (!output_.standard.empty() && applies)
    words.push_back(options_of(fit_.toolchain.family).standard + output_.standard);
  if (output_.kind != OutputKind::program && is_loaded_anywhere(fit_.toolchain)) words.emplace_back("-fPIC");
  const OutputCompile compile = compile_of(fit_, output_.name);
  add_flags(fit_, compile, words);
  add_definitions(fit_, compile, words);
  add_includes(fit_, kind == SourceKind::assembly ? For::assembler : For::compiler, words);
  return words;
}

std::vector<std::string> CompileCommands::command(const fs::path& source, const std::string& object) {
  const SourceKind kind = source_kind(source);
  if (kind == SourceKind::nasm) return nasm_command(fit_, compile_of(fit_, output_.name), source, object);
  const auto [shared, fresh] = shared_.try_emplace(kind);
  if (fresh) shared->second = shared_words(kind);
  std::vector<std::string> command = shared->second;
  // What assembly includes and copies by its own directives the preprocessor does not see.
  if (kind == SourceKind::assembly && fit_.toolchain.family == CompilerFamily::gcc)
    command.push_back("-Wa,--MD," + object + ".asm.d");
  add_products(fit_, source, object, command);
  return command;
}

bool tells_its_inputs(const Toolchain& toolchain) {
  // Since which version `--dependency-file` is known, by what linkers call themselves.
  static constexpr std::pair<std::string_view, std::string_view> since[] = {
      {"LLD", "12"}, {"mold", "1"}, {"GNU ld", "2.35"}, {"GNU gold", "2.35"}};
  const std::string& says = toolchain.linker_version;
  for (const auto& [name, version] : since) {
    if (says.find(name) == std::string::npos) continue;
    const size_t at = says.find_first_of("0123456789", says.rfind(')') == std::string::npos ? 0 : says.rfind(')'));
    return at != std::string::npos && compare_versions(says.substr(at), version) >= 0;
  }
  return false;
}

std::vector<std::string> emit::link_arguments(const Fit& fit, const OutputLink& link,
                                              const std::vector<std::string>& run_paths) {
  std::vector<std::string> arguments;
  if (const OutputCompile* compile = fit.compile(link.output)) arguments = link_time_flags(compile->flags);
  append(arguments, link_time_flags(fit.lane.flags));
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
  if (fit.toolchain.family == CompilerFamily::msvc) {
    append(arguments, msvc_layout_arguments(link.settings, link_flags(fit.lane.flags)));
    return arguments;
  }
  append(arguments, layout_arguments(fit, link.settings));
  if (!needs_run_path(fit, link)) return arguments;
  const bool macos = fit.toolchain.target.format == Format::macho;
  // The newer kind of run path holds for a program's own needs only, not for those of its libraries (ld.so(8)).
  if (!macos) append(arguments, {"-Xlinker", "--disable-new-dtags"});
  // Comma-separated -Wl would cut a folder with a comma in two, so each word is handed over by itself.
  for (std::string path : run_paths) {
    if (macos) path.replace(0, std::string_view("$ORIGIN").size(), "@loader_path");
    append(arguments, {"-Xlinker", "-rpath", "-Xlinker", path});
  }
  if (macos) return arguments;
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
