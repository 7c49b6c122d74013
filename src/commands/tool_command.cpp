#include "commands/tool_command.hpp"

#include "base/text.hpp"
#include "commands/command_readers.hpp"
#include "commands/shell_words.hpp"
#include "os/files.hpp"
#include "project/source_kind.hpp"

#include <algorithm>

namespace fibula {
namespace {

/// `ld` of "x86_64-w64-mingw32-ld.bfd", `lld-link` of "lld-link-14.exe": without a target before it, a version or a
/// form behind it.
std::string plain_name(const fs::path& program) {
  std::string name = text::lower(program.filename().string());
  // Paths of Windows have other separators.
  name = name.substr(name.find_last_of('\\') + 1);
  for (const std::string_view ending : {".exe", ".bfd", ".gold", ".lld"}) {
    if (name.ends_with(ending)) name.erase(name.size() - ending.size());
  }
  const size_t version = name.find_last_not_of("0123456789.");
  if (version != std::string::npos && name[version] == '-') name.erase(version);
  return name;
}

bool is_named(const std::string& name, std::string_view tool) {
  return name == tool ||
         (name.size() > tool.size() && name.ends_with(tool) && name[name.size() - tool.size() - 1] == '-');
}

std::optional<Tool> tool_named(const fs::path& program) {
  const std::string name = plain_name(program);
  for (const std::string_view linker : {"ld", "ld64.lld", "lld", "gold", "mold", "lld-link", "link", "wasm-ld"}) {
    if (is_named(name, linker)) return Tool::linker;
  }
  for (const std::string_view archiver : {"ar", "gcc-ar", "llvm-ar", "ranlib", "lib", "llvm-lib", "libtool"}) {
    if (is_named(name, archiver)) return Tool::archiver;
  }
  if (is_compiler_name(fs::path(name)) || is_named(name, "cl") || is_compiler_name(program)) return Tool::driver;
  return std::nullopt;
}

bool is_msvc_style(const fs::path& program) {
  const std::string name = plain_name(program);
  for (const std::string_view tool : {"cl", "clang-cl", "link", "lld-link", "lib", "llvm-lib"}) {
    if (is_named(name, tool)) return true;
  }
  return false;
}

/// What a command is called through: words that stand before the tool and do not change what it does.
size_t first_of_tool(const std::vector<std::string>& words) {
  static constexpr std::string_view launchers[] = {"ccache", "distcc",  "sccache", "icecc", "env",  "time",
                                                   "nice",   "libtool", "sh",      "bash",  "xcrun"};
  for (size_t i = 0; i < words.size() && i < 8; ++i) {
    if (tool_named(words[i]) && fs::path(words[i]).filename() != "libtool") return i;
    const std::string name = plain_name(words[i]);
    const bool launcher = std::find(std::begin(launchers), std::end(launchers), name) != std::end(launchers);
    const bool option =
        words[i].starts_with("-") || words[i].find('=') != std::string::npos || words[i].ends_with("libtool");
    if (!launcher && !(i > 0 && option)) return words.size();
  }
  return words.size();
}

constexpr size_t most_words = 1'000'000;

/// Response files in place of their names (GCC's manual, "Overall Options"; Microsoft's, "@").
void unfold(const std::vector<std::string>& words, const fs::path& folder, bool msvc, int depth,
            std::vector<std::string>& into) {
  for (const auto& word : words) {
    const auto text = word.size() > 1 && word[0] == '@' && depth < 8 ? read_text(folder / word.substr(1), 16U << 20U)
                                                                     : Result<std::string>(fail({}));
    if (!text || into.size() > most_words) {
      into.push_back(word);
      continue;
    }
    std::vector<std::string> held;
    for (const auto line : text::lines(*text)) {
      auto more = msvc ? windows_words(line) : response_words(line);
      held.insert(held.end(), std::make_move_iterator(more.begin()), std::make_move_iterator(more.end()));
    }
    unfold(held, folder, msvc, depth + 1, into);
  }
}

}  // namespace

/// GNU-style response files quote as shells do, and nothing else in them has a meaning.
std::vector<std::string> response_words(std::string_view line) {
  std::string plain;
  for (const char c : line) {
    if (std::string_view(";&|<>").find(c) != std::string_view::npos) plain += '\\';
    plain += c;
  }
  auto commands = shell_commands(plain);
  return commands.empty() ? std::vector<std::string>() : std::move(commands.front());
}

ToolCommand read_command(const std::vector<std::string>& words, const fs::path& folder) {
  ToolCommand command{.words = {}, .folder = absolute_path(folder)};
  const size_t first = first_of_tool(words);
  const bool tool = first < words.size();
  const bool msvc = tool && is_msvc_style(words[first]);
  const std::vector<std::string> own(words.begin() + static_cast<std::ptrdiff_t>(tool ? first : 0), words.end());
  if (!tool) {
    command.words = own;
    return command;
  }
  unfold(own, command.folder, msvc, 0, command.words);
  command.tool = *tool_named(own.front());
  command.family = msvc ? CompilerFamily::msvc : CompilerFamily::gcc;
  if (command.tool == Tool::archiver) return command;
  if (msvc) {
    read_msvc_words(command);
  } else {
    read_gnu_words(command);
  }
  return command;
}

bool is_tool_command(const std::vector<std::string>& words) {
  return first_of_tool(words) < words.size();
}

bool is_linker(const std::string& word) {
  return tool_named(word) == Tool::linker;
}

bool is_source_name(const fs::path& file) {
  return is_compiled(source_kind(file)) || file.extension() == ".ii" || file.extension() == ".i";
}

bool starts_others(const std::vector<std::string>& words) {
  static constexpr std::string_view loading[] = {
      "-fplugin=", "-fpass-plugin=", "-specs", "--specs", "-wrapper", "-B",         "--ld-path",     "-load",
      "-plugin",   "--plugin",       "-ccc-",  "-Xclang", "--config", "-fuse-ld=/", "-no-integrated"};
  // Those of C libraries for controllers lie in the compiler's own folders.
  static constexpr std::string_view known[] = {"--specs=nosys.specs", "--specs=nano.specs", "--specs=rdimon.specs",
                                               "-specs=nosys.specs",  "-specs=nano.specs",  "-specs=rdimon.specs"};
  for (const auto& word : words) {
    if (std::find(std::begin(known), std::end(known), word) != std::end(known)) continue;
    for (const auto flag : loading) {
      if (word.starts_with(flag) || word.find(",-plugin") != std::string::npos) return true;
    }
  }
  return false;
}

}  // namespace fibula
