/// A command line of a compiler, linker or archiver, read as what it means. A pure function of its words and of the
/// response files that they name.
#pragma once

#include <fibula/toolchain.hpp>

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

namespace fibula {

enum class Tool {
  driver,    ///< a compiler, which may call a linker: g++, clang, cl, clang-cl
  linker,    ///< called directly: ld, ld.lld, lld-link, link
  archiver,  ///< ar, ranlib, lib
  program,   ///< anything else
};

/// Something that a link is given, and the word it came from.
struct CommandInput {
  LinkStep step;
  size_t word = 0;  ///< of ToolCommand::words
};

/// A file of a command, and the word it came from.
struct CommandFile {
  std::filesystem::path path;  ///< absolute
  size_t word = 0;
};

struct ToolCommand {
  std::vector<std::string> words;  ///< without what the compiler was called through; response files unfolded
  std::filesystem::path folder;    ///< absolute: where it runs
  Tool tool = Tool::program;
  CompilerFamily family = CompilerFamily::gcc;  ///< how its options are spelled; gcc stands for clang too
  bool links = false;
  bool only_preprocesses = false;
  bool shared = false;
  bool relocatable = false;
  bool refuses_unresolved = true;                      ///< false for a shared library without `-z defs`
  bool trusts_shared = false;                          ///< what shared libraries lack does not count
  std::vector<CommandFile> sources;                    ///< in order
  std::vector<CommandInput> inputs;                    ///< of its link, in order; sources are files here too
  std::vector<std::filesystem::path> library_folders;  ///< absolute, in order
  std::vector<std::filesystem::path> include_folders;  ///< absolute, in order
  std::vector<std::string> run_paths;
  std::filesystem::path output;  ///< as it is named; empty: the tool's default
  std::string entry, subsystem;
  std::vector<std::filesystem::path> scripts;  ///< linker scripts: absolute
  std::vector<std::string> given_names = {};   ///< that options define: `--defsym`
  std::vector<std::string> wrapped = {};       ///< whose users get another one: `--wrap`
  /// What decides what the compiler targets and adds to a link: what to ask it with.
  std::vector<std::string> target_flags;
  /// What each of its compiles is told: the words without inputs, outputs and what is for the linker.
  std::vector<std::string> compile_words;
};

/// Reads a command. `words` begins with the program, or with what it is called through (a compiler cache, `env`,
/// `libtool`).
ToolCommand read_command(const std::vector<std::string>& words, const std::filesystem::path& folder);

/// Whether words begin a command of a compiler, linker or archiver.
bool is_tool_command(const std::vector<std::string>& words);

/// Whether a word is the name of a linker, or its path.
bool is_linker(const std::string& word);

/// Whether a word names a file of source text that compilers compile.
bool is_source_name(const std::filesystem::path& file);

/// Whether words make a compiler load or start what else they name: plug-ins, specs, wrappers, other tools.
bool starts_others(const std::vector<std::string>& words);

}  // namespace fibula
