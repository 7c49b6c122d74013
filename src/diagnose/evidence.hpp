/// What is read and asked while one failure is looked into, each file and question once.
#pragma once

#include "commands/tool_command.hpp"
#include "index/library_search.hpp"
#include "index/provider_index.hpp"
#include "link/link_file.hpp"
#include "os/files.hpp"

#include <fibula/explain.hpp>
#include <fibula/facts.hpp>
#include <fibula/judge.hpp>

#include <chrono>
#include <map>
#include <optional>

namespace fibula {

/// What a compile said, and the object that it made.
struct ScratchCompile {
  bool good = false;
  fs::path object = {};
  std::string said = {};
};

class Evidence {
 public:
  explicit Evidence(const ExplainContext& context) : context_(context), providers_(context.cache) {}

  const ExplainContext& context() const { return context_; }
  FileStore& files() { return files_; }
  ProviderStore& providers() { return providers_; }

  /// Errors: as `inspect`.
  const Result<Facts>& facts(const fs::path& file);
  /// What the command's compiler or linker makes code for; errors: those of `ask`, refused (it may not be asked).
  const Result<Toolchain>& toolchain(const ToolCommand& command);
  /// What keeps a library file or object from serving, worst first; nothing when nothing does.
  const std::optional<Misfit>& misfit(const fs::path& file, const ToolCommand& command, const Toolchain& toolchain);
  /// Compiles a source of the command into a scratch folder. `words`: those of each of its compiles.
  const ScratchCompile& compile(const ToolCommand& command, const fs::path& source);
  /// The same of another text in the source's place; its own includes find what they found.
  const ScratchCompile& compile(const ToolCommand& command, const fs::path& source, std::string_view text);
  /// Runs the link into a scratch folder; not one that writes more than its output.
  const ScratchCompile& link(const ToolCommand& command);
  /// What the compiler prints that is told to preprocess a source, with `options`; empty when it fails.
  std::string preprocessed(const ToolCommand& command, const fs::path& source, const std::vector<std::string>& options);
  /// Whether the command's program may be run.
  bool may_run(const ToolCommand& command) const;

  /// Library files in and around the folders that a command names, nearest first.
  const std::vector<fs::path>& libraries_near(const ToolCommand& command);
  /// Files below the command's folder whose names end so, in their order.
  std::vector<fs::path> files_near(const ToolCommand& command, const std::vector<std::string_view>& endings);

 private:
  fs::path top_folder(const ToolCommand& command) const;
  /// Whether trying edits has taken long enough.
  bool is_late();
  bool has_scratch();
  ScratchCompile compile_with(const ToolCommand& command, std::vector<std::string> words, const fs::path& source);
  const std::vector<fs::path>& tree(const fs::path& folder);

  const ExplainContext& context_;
  FileStore files_;
  ProviderStore providers_;
  std::map<fs::path, Result<Facts>> facts_;
  std::map<std::string, Result<Toolchain>> toolchains_;
  std::map<std::string, std::optional<Misfit>> misfits_;
  std::map<std::string, ScratchCompile> compiles_;
  std::map<fs::path, std::vector<fs::path>> trees_, near_;
  std::optional<TemporaryFolder> scratch_;
  std::optional<std::chrono::steady_clock::time_point> began_;  ///< the first try
};

}  // namespace fibula
