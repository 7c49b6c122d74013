#include "diagnose/evidence.hpp"

#include "base/text.hpp"
#include "os/folder.hpp"
#include "os/host.hpp"
#include "os/process.hpp"
#include "take/units.hpp"

#include <fibula/take.hpp>

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

constexpr size_t most_files = 20'000;
constexpr int deepest = 6;

bool is_skipped_folder(const fs::path& folder) {
  const std::string name = folder.filename().string();
  return name.starts_with('.') || name == "node_modules" || name == "__pycache__";
}

/// Files below a folder, level by level, as far as a person would look.
std::vector<fs::path> walk(const fs::path& root) {
  std::vector<fs::path> files, level{root}, next;
  for (int depth = 0; depth < deepest && !level.empty(); ++depth, level = std::exchange(next, {})) {
    for (const auto& folder : level) {
      std::error_code error;
      std::vector<fs::path> found, folders;
      for (fs::directory_iterator it(folder, fs::directory_options::skip_permission_denied, error), end;
           !error && it != end; it.increment(error)) {
        std::error_code ignored;
        if (it->is_directory(ignored) && !it->is_symlink(ignored)) {
          if (!is_skipped_folder(it->path())) folders.push_back(it->path());
        } else if (!it->is_directory(ignored)) {
          found.push_back(it->path());
        }
      }
      std::sort(found.begin(), found.end());
      std::sort(folders.begin(), folders.end());
      files.insert(files.end(), found.begin(), found.end());
      next.insert(next.end(), folders.begin(), folders.end());
      if (files.size() > most_files) return files;
    }
  }
  return files;
}

/// Folders that many share: what lies there is not near to anything.
bool is_common_folder(const fs::path& folder) {
  static const std::set<std::string> common{"/",    "/home", "/usr",  "/usr/local", "/tmp",
                                            "/var", "/opt",  "/root", "/srv",       "/mnt"};
  return common.contains(folder.string()) || folder == temporary_place() || folder.string().starts_with("/usr/") ||
         folder.string().starts_with("/lib");
}

/// A folder inside a project for what is built, and no project of its own.
bool is_build_folder(const fs::path& folder) {
  const std::string name = text::lower(folder.filename().string());
  return name.starts_with("build") || name.ends_with("build") || name == "out" || name == "obj" || name == "bin" ||
         name == "debug" || name == "release" || name.starts_with("cmake-build");
}

/// The target of the first object that can be read: what a linker takes as its own.
std::optional<Target> first_target(Evidence& evidence, const ToolCommand& command) {
  for (const auto& input : command.inputs) {
    if (input.step.kind != LinkStep::Kind::file) continue;
    const auto& facts = evidence.facts(input.step.name);
    if (facts && facts->arch.value && facts->format.value) return variant_target(*facts);
  }
  return std::nullopt;
}

/// `SEARCH_DIR("=/usr/lib")` of the script that a GNU-style linker shows.
void read_search_folders(const std::string& program, Toolchain& toolchain) {
  const auto shown =
      run({.argv = {program, "--verbose"}, .limit = std::chrono::seconds(10), .environment = {{"LC_ALL", "C"}}});
  if (!shown) return;
  const auto first = text::lines(shown->out);
  if (!first.empty()) toolchain.linker_version = std::string(first.front());
  for (size_t at = 0; (at = shown->out.find("SEARCH_DIR(\"", at)) != std::string::npos;) {
    at += 12;
    std::string folder = shown->out.substr(at, shown->out.find('"', at) - at);
    if (folder.starts_with('=')) folder.erase(0, 1);
    toolchain.library_directories.emplace_back(folder);
  }
}

/// A linker that is called directly adds nothing; what it makes is what its first object is.
Result<Toolchain> linker_alone(Evidence& evidence, const ToolCommand& command) {
  const auto target = first_target(evidence, command);
  if (!target)
    return fail(
        {.code = Code::refused, .what = "no object among its inputs tells what it links", .file = command.words[0]});
  Toolchain toolchain;
  toolchain.compiler = toolchain.linker = command.words[0];
  toolchain.family = command.family;
  toolchain.target = *target;
  toolchain.link_steps = {{LinkStep::Kind::user_inputs}};
  const auto says = [&](std::string_view word) {
    return std::find(command.words.begin(), command.words.end(), word) != command.words.end();
  };
  toolchain.pie = says("-pie") || says("--pic-executable");
  toolchain.static_link = says("-static");
  toolchain.linker_version = fs::path(command.words[0]).filename().string();
  if (command.family == CompilerFamily::gcc && evidence.may_run(command))
    read_search_folders(command.words[0], toolchain);
  return toolchain;
}

/// Its rules' worst word, where no build in the file serves.
std::optional<Misfit> judged_misfit(const fs::path& file, const ToolCommand& command, const Toolchain& toolchain) {
  const auto described = describe(file);
  if (!described || described->card.variants.empty()) return std::nullopt;
  const Lane lane{.name = {}, .compiler = command.words[0], .flags = command.target_flags};
  const auto judged = judge(described->card, lane, toolchain);
  for (const auto& variant : judged) {
    if (variant.verdict != Verdict::misfit) return std::nullopt;
  }
  if (judged.empty()) return std::nullopt;
  const auto& misfits = judged.front().misfits;
  const auto worst =
      std::find_if(misfits.begin(), misfits.end(), [](const Misfit& m) { return m.verdict == Verdict::misfit; });
  return worst == misfits.end() ? std::nullopt : std::optional(*worst);
}

/// What decides which compiler is meant, and what it is asked.
std::string toolchain_key(const ToolCommand& command) {
  return command.tool == Tool::linker ? text::join(command.words, "\n")
                                      : command.words[0] + '\n' + text::join(command.target_flags, "\n");
}

/// Where the command runs; messages are read in English.
Result<Outcome> run_there(const ToolCommand& command, std::vector<std::string> words) {
  return run({.argv = std::move(words),
              .directory = command.folder,
              .limit = std::chrono::seconds(60),
              .environment = {{"LC_ALL", "C"}}});
}

}  // namespace

const Result<Facts>& Evidence::facts(const fs::path& file) {
  const auto known = facts_.find(file);
  return known != facts_.end() ? known->second : facts_.emplace(file, inspect(file)).first->second;
}

bool Evidence::may_run(const ToolCommand& command) const {
  if (!context_.may_ask || command.words.empty()) return false;
  if (command.tool != Tool::driver && command.tool != Tool::linker) return false;
  const auto program = find_program(command.words[0]);
  if (!program) return false;
  if (context_.typed) return true;
  if (starts_others(command.words)) return false;
  // What was just unpacked, or lies in the project, is nobody's compiler yet.
  return !is_inside(command.folder, *program) && command.words[0].find("..") == std::string::npos;
}

const Result<Toolchain>& Evidence::toolchain(const ToolCommand& command) {
  std::string key = toolchain_key(command);
  const auto known = toolchains_.find(key);
  if (known != toolchains_.end()) return known->second;
  const auto asked = [&]() -> Result<Toolchain> {
    if (command.tool == Tool::linker) return linker_alone(*this, command);
    if (!may_run(command))
      return fail({.code = Code::refused, .what = "is not run to be asked", .file = command.words[0]});
    auto toolchain = ask({command.words[0], command.target_flags}, context_.cache);
    if (!toolchain || !command.shared || !toolchain->loader.empty()) return toolchain;
    // The link of a shared library names no loader; there is one all the same.
    Question program{command.words[0], command.target_flags};
    std::erase(program.flags, "-shared");
    if (const auto other = ask(program, context_.cache)) toolchain->loader = other->loader;
    return toolchain;
  };
  return toolchains_.emplace(std::move(key), asked()).first->second;
}

const std::optional<Misfit>& Evidence::misfit(const fs::path& file, const ToolCommand& command,
                                              const Toolchain& toolchain) {
  const std::string key = file.string() + '\n' + toolchain_key(command);
  const auto known = misfits_.find(key);
  if (known != misfits_.end()) return known->second;
  return misfits_.emplace(key, judged_misfit(file, command, toolchain)).first->second;
}

bool Evidence::is_late() {
  // Who builds over and over waits for each explanation.
  constexpr std::chrono::seconds most_of_a_build{8};
  if (!began_) began_ = std::chrono::steady_clock::now();
  return context_.of_project && std::chrono::steady_clock::now() - *began_ > most_of_a_build;
}

bool Evidence::has_scratch() {
  if (scratch_) return true;
  auto folder = TemporaryFolder::make(temporary_place(), "fibula-scratch");
  if (folder) scratch_.emplace(std::move(*folder));
  return scratch_.has_value();
}

ScratchCompile Evidence::compile_with(const ToolCommand& command, std::vector<std::string> words,
                                      const fs::path& source) {
  ScratchCompile made;
  if (!may_run(command) || is_late() || !has_scratch()) return made;
  const bool msvc = command.family == CompilerFamily::msvc;
  made.object = scratch_->path() / fmt::format("{}-{}.o", compiles_.size(), source.stem().string());
  words.push_back(msvc ? "/c" : "-c");
  if (msvc) {
    words.emplace_back("/Fo" + made.object.string());
  } else {
    words.emplace_back("-o");
    words.push_back(made.object.string());
  }
  words.push_back(source.string());
  const auto ran = run_there(command, std::move(words));
  if (!ran) return made;
  made.said = ran->out + ran->err;
  std::error_code ignored;
  made.good = ran->good() && fs::exists(made.object, ignored);
  return made;
}

const ScratchCompile& Evidence::compile(const ToolCommand& command, const fs::path& source) {
  const std::string key = text::join(command.compile_words, "\n") + "\n\n" + source.string();
  const auto known = compiles_.find(key);
  if (known != compiles_.end()) return known->second;
  return compiles_.emplace(key, compile_with(command, command.compile_words, source)).first->second;
}

const ScratchCompile& Evidence::compile(const ToolCommand& command, const fs::path& source, std::string_view text) {
  std::string key = fmt::format("{}\n\n{}\n\n{}", text::join(command.compile_words, "\n"), source.string(), text);
  const auto known = compiles_.find(key);
  if (known != compiles_.end()) return known->second;
  ScratchCompile& made = compiles_[std::move(key)];
  if (!has_scratch()) return made;
  const std::string copy = fmt::format("{}-{}", compiles_.size(), source.filename().string());
  if (!write_in(scratch_->path(), copy, text, Flush::later)) return made;
  std::vector<std::string> words = command.compile_words;
  const bool msvc = command.family == CompilerFamily::msvc;
  // The folder of a source is where names in quotation marks are looked for first.
  const std::vector<std::string> beside{msvc ? "/I" : "-iquote", source.parent_path().string()};
  words.insert(words.begin() + 1, beside.begin(), beside.end());
  return made = compile_with(command, std::move(words), scratch_->path() / copy);
}

const ScratchCompile& Evidence::link(const ToolCommand& command) {
  const std::string key = "link\n" + text::join(command.words, "\n");
  const auto known = compiles_.find(key);
  if (known != compiles_.end()) return known->second;
  ScratchCompile& made = compiles_[key];
  static constexpr std::string_view writers[] = {"-Map",        "--Map", "out-implib", "dependency-file",
                                                 "-save-temps", "-MD"};
  const bool writes_more = std::any_of(command.words.begin(), command.words.end(), [](const std::string& word) {
    return std::any_of(std::begin(writers), std::end(writers),
                       [&](std::string_view part) { return word.find(part) != std::string::npos; });
  });
  if (writes_more || !may_run(command) || is_late() || !has_scratch()) return made;
  std::vector<std::string> words = command.words;
  for (size_t i = 1; i + 1 < words.size(); ++i) {
    if (words[i] == "-o")
      words.erase(words.begin() + static_cast<std::ptrdiff_t>(i), words.begin() + static_cast<std::ptrdiff_t>(i) + 2);
  }
  words.emplace_back("-o");
  words.push_back((scratch_->path() / fmt::format("{}.out", compiles_.size())).string());
  const auto ran = run_there(command, std::move(words));
  if (!ran) return made;
  made.said = ran->out + ran->err;
  made.good = ran->good();
  return made;
}

std::string Evidence::preprocessed(const ToolCommand& command, const fs::path& source,
                                   const std::vector<std::string>& options) {
  if (!may_run(command) || command.family == CompilerFamily::msvc) return {};
  std::vector<std::string> words = command.compile_words;
  words.emplace_back("-E");
  words.insert(words.end(), options.begin(), options.end());
  words.push_back(source.string());
  auto ran = run_there(command, std::move(words));
  return ran && ran->good() ? std::move(ran->out) : std::string();
}

const std::vector<fs::path>& Evidence::tree(const fs::path& folder) {
  const auto known = trees_.find(folder);
  return known != trees_.end() ? known->second : trees_.emplace(folder, walk(folder)).first->second;
}

/// Where the build began that ran the command, when that is further out.
fs::path Evidence::top_folder(const ToolCommand& command) const {
  const fs::path top = absolute_path(context_.folder);
  return is_inside(top, command.folder) ? top : command.folder;
}

const std::vector<fs::path>& Evidence::libraries_near(const ToolCommand& command) {
  const auto known = near_.find(command.folder);
  if (known != near_.end()) return known->second;
  std::vector<fs::path> folders = command.library_folders;
  for (const auto& input : command.inputs) {
    if (input.step.kind == LinkStep::Kind::file) folders.push_back(fs::path(input.step.name).parent_path());
  }
  for (const auto& folder : command.include_folders) folders.push_back(folder.parent_path());
  folders.push_back(command.folder);
  folders.push_back(top_folder(command));
  std::vector<fs::path> found;
  std::set<fs::path> seen, walked;
  const auto add = [&](const fs::path& root) {
    if (is_common_folder(root) || !walked.insert(root).second) return;
    for (const auto& file : tree(root)) {
      if (has_library_name(file) && seen.insert(file).second) found.push_back(file);
    }
  };
  for (const auto& folder : folders) add(folder);
  // Builds for other machines and configurations lie beside; what lies beside the project does not belong to it.
  for (const auto& folder : folders) {
    const fs::path parent = folder.parent_path();
    if (!is_inside(parent, command.folder) || is_build_folder(folder)) add(parent);
  }
  return near_.emplace(command.folder, std::move(found)).first->second;
}

std::vector<fs::path> Evidence::files_near(const ToolCommand& command, const std::vector<std::string_view>& endings) {
  std::vector<fs::path> found;
  std::set<fs::path> seen;
  const auto add = [&](const fs::path& root) {
    if (is_common_folder(root)) return;
    for (const auto& file : tree(root)) {
      const std::string name = file.filename().string();
      const bool wanted =
          std::any_of(endings.begin(), endings.end(), [&](std::string_view e) { return name.ends_with(e); });
      if (wanted && seen.insert(file).second) found.push_back(file);
    }
  };
  add(command.folder);
  add(top_folder(command));
  if (is_build_folder(command.folder)) add(command.folder.parent_path());
  for (const auto& folder : command.include_folders) {
    if (!is_inside(command.folder, folder)) add(folder);
  }
  return found;
}

}  // namespace fibula
