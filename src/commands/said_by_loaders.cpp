#include "commands/said.hpp"

#include "base/text.hpp"

#include <algorithm>
#include <optional>

namespace fibula {
namespace {

using LoadKind = Complaint::Kind;
using FoundComplaint = std::optional<Complaint>;

/// The text between two marks; nothing when one of them is not there. An empty `end` takes the rest.
std::optional<std::string> between(std::string_view line, std::string_view begin, std::string_view end) {
  const size_t at = line.find(begin);
  if (at == std::string_view::npos) return std::nullopt;
  line.remove_prefix(at + begin.size());
  if (end.empty()) return std::string(line);
  const size_t stop = line.find(end);
  if (stop == std::string_view::npos) return std::nullopt;
  return std::string(line.substr(0, stop));
}

bool has(std::string_view line, std::string_view words) {
  return line.find(words) != std::string_view::npos;
}

/// `PROGRAM: error while loading shared libraries: LIBRARY: what is wrong` (glibc, elf/dl-error.c), and the same
/// without its head from a program that prints dlerror().
FoundComplaint glibc_file(std::string_view line) {
  constexpr std::string_view head = ": error while loading shared libraries: ";
  const size_t at = line.find(head);
  const std::string user(at == std::string_view::npos ? std::string_view() : line.substr(0, at));
  std::string_view rest = at == std::string_view::npos ? line : line.substr(at + head.size());
  struct Row {
    std::string_view words;
    LoadKind kind;
  };
  static constexpr Row rows[] = {{": cannot open shared object file: Permission denied", LoadKind::permission},
                                 {": cannot open shared object file: No such file", LoadKind::missing},
                                 {": wrong ELF class: ", LoadKind::wrong_arch},
                                 {": invalid ELF header", LoadKind::unloadable},
                                 {": file too short", LoadKind::unloadable},
                                 {": cannot read file data: ", LoadKind::unloadable},
                                 {": cannot dynamically load ", LoadKind::unloadable},
                                 {": only ET_DYN and ET_EXEC can be loaded", LoadKind::unloadable},
                                 {": ELF load command", LoadKind::unloadable}};
  for (const auto& row : rows) {
    const size_t words = rest.find(row.words);
    if (words == std::string_view::npos) continue;
    std::string_view name = rest.substr(0, words);
    // What a program prints before dlerror's text is its own: "dlopen: ./plugin.so".
    if (const size_t own = name.rfind(": "); own != std::string_view::npos) name.remove_prefix(own + 2);
    return Complaint{row.kind, std::string(name), user, std::string(rest.substr(words + 2))};
  }
  return std::nullopt;
}

/// `PROGRAM: LIBRARY: version `V' not found (required by USER)` (glibc, elf/dl-version.c).
FoundComplaint glibc_version(std::string_view line) {
  const auto version = between(line, ": version `", "' not found (required by ");
  if (!version) return std::nullopt;
  std::string_view file = line.substr(0, line.find(": version `"));
  if (const size_t program = file.rfind(": "); program != std::string_view::npos) file.remove_prefix(program + 2);
  return Complaint{LoadKind::version, std::string(file), between(line, "(required by ", ")").value_or(""), *version};
}

FoundComplaint glibc_symbol(std::string_view line) {
  constexpr std::string_view mark = ": undefined symbol: ", head = ": symbol lookup error: ";
  const size_t at = line.find(mark);
  if (at == std::string_view::npos) return std::nullopt;
  std::string_view file = line.substr(0, at);
  const size_t end = file.find(head);
  const std::string program(end == std::string_view::npos ? std::string_view() : file.substr(0, end));
  if (end != std::string_view::npos) file.remove_prefix(end + head.size());
  // dlerror() has no head, and linkers say the same of objects.
  if (program.empty() && file.find(".so") == std::string_view::npos) return std::nullopt;
  if (const size_t own = file.rfind(": "); own != std::string_view::npos) file.remove_prefix(own + 2);
  std::string_view symbol = line.substr(at + mark.size());
  return Complaint{.kind = LoadKind::symbol,
                   .name = std::string(symbol.substr(0, symbol.find(", version"))),
                   .user = std::string(file),
                   .program = program};
}

/// musl, ldso/dynlink.c.
FoundComplaint musl(std::string_view line) {
  const auto user = between(line, "(needed by ", ")").value_or("");
  if (auto name = between(line, "Error loading shared library ", ": No such file"))
    return Complaint{LoadKind::missing, std::move(*name), user};
  if (auto name = between(line, "Error loading shared library ", ": Exec format error"))
    return Complaint{LoadKind::wrong_arch, std::move(*name), user};
  if (!has(line, "Error relocating ")) return std::nullopt;
  const auto file = between(line, "Error relocating ", ": ");
  if (!file) return std::nullopt;
  if (has(line, ": unsupported relocation type")) return Complaint{LoadKind::wrong_arch, *file};
  std::string_view rest = line.substr(line.find(*file) + file->size() + 2);
  if (!rest.ends_with(": symbol not found")) return std::nullopt;
  return Complaint{LoadKind::symbol, std::string(rest.substr(0, rest.find(": symbol not found"))), *file};
}

/// `L"Z:\\build\\app.exe"`, as the stand-in for Windows prints paths, to what this machine calls it.
std::string host_path(std::string path) {
  for (size_t at = 0; (at = path.find("\\\\", at)) != std::string::npos; ++at) path.erase(at, 1);
  std::replace(path.begin(), path.end(), '\\', '/');
  return path.starts_with("Z:") ? path.substr(2) : path;
}

FoundComplaint wine(std::string_view line) {
  const std::string user = host_path(between(line, "(which is needed by L\"", "\")").value_or(""));
  if (has(line, ":import_dll Library ") && line.ends_with(" not found"))
    return Complaint{LoadKind::missing, between(line, ":import_dll Library ", " (which").value_or(""), user};
  if (const auto name = between(line, ":import_dll Loading library ", " (which")) {
    const bool stranger = has(line, "c000007b");
    return Complaint{stranger ? LoadKind::wrong_arch : LoadKind::unloadable, *name, user,
                     "it is no DLL that can be loaded"};
  }
  if (const auto call = between(line, " to unimplemented function ", ", aborting")) {
    const size_t dot = call->find(".dll.");
    if (dot == std::string::npos) return std::nullopt;
    return Complaint{LoadKind::symbol, call->substr(dot + 5), {}, {}, call->substr(0, dot + 4)};
  }
  return std::nullopt;
}

/// What Windows shows in a box, and the status with which such a program ends.
FoundComplaint windows(std::string_view line) {
  for (const std::string_view begin : {"cannot proceed because ", "can't start because ", "cannot continue because "}) {
    for (const std::string_view end : {" was not found", " is missing from your computer"}) {
      if (auto name = between(line, begin, end)) return Complaint{LoadKind::missing, std::move(*name)};
    }
  }
  if (has(line, "unable to start correctly (0xc000007b)")) return Complaint{LoadKind::wrong_arch, "", "", "0xc000007b"};
  const auto symbol = between(line, "The procedure entry point ", " could not be located in the dynamic link library ");
  if (!symbol) return std::nullopt;
  std::string file = between(line, "in the dynamic link library ", "").value_or("");
  while (file.ends_with('.') || file.ends_with(' ')) file.pop_back();
  // Windows names the file that asks; older versions the one that was asked.
  if (text::lower(file).ends_with(".exe")) return Complaint{LoadKind::symbol, *symbol, file};
  return Complaint{LoadKind::symbol, *symbol, {}, {}, file};
}

/// dyld, which says who asks and what it tried on the lines below.
FoundComplaint macos(std::string_view line) {
  if (!line.starts_with("dyld")) return std::nullopt;
  if (auto name = between(line, "Library not loaded: ", "")) return Complaint{LoadKind::missing, std::move(*name)};
  if (auto name = between(line, "Symbol not found: ", ""))
    return Complaint{LoadKind::symbol, name->substr(0, name->find(' '))};
  return std::nullopt;
}

/// The lines that belong to dyld's complaint before them.
void macos_continued(std::string_view line, Complaint& complaint) {
  // Newer ones put the file's identity before its path.
  const auto path_in = [](const std::string& text) {
    const size_t id_end = text.find("> ");
    return std::string(text::trim(id_end == std::string::npos ? text : text.substr(id_end + 2)));
  };
  if (const auto user = between(line, "Referenced from: ", "")) complaint.user = path_in(*user);
  if (const auto file = between(line, "Expected in: ", "")) complaint.file = path_in(*file);
  if (auto reason = between(line, "Reason: ", "")) complaint.detail = *reason;
  if (has(line, "incompatible architecture") && complaint.kind == LoadKind::missing)
    complaint.kind = LoadKind::wrong_arch;
}

/// The last word but one of a shell's complaint: `bash: line 1: ./app: cannot execute …` -> `./app`.
std::string shell_subject(std::string_view line, std::string_view words) {
  std::string_view head = line.substr(0, line.find(words));
  if (const size_t colon = head.rfind(": "); colon != std::string_view::npos) head.remove_prefix(colon + 2);
  return std::string(head);
}

FoundComplaint shell(std::string_view line) {
  struct Row {
    std::string_view words;
    LoadKind kind;
  };
  static constexpr Row rows[] = {{": cannot execute: required file not found", LoadKind::no_loader},
                                 {": cannot execute binary file: Exec format error", LoadKind::other_machine},
                                 {": Permission denied", LoadKind::permission}};
  for (const auto& row : rows) {
    if (has(line, row.words)) return Complaint{row.kind, shell_subject(line, row.words)};
  }
  if (const auto loader = between(line, ": Could not open '", "': No such file"); loader && has(line, "qemu-"))
    return Complaint{LoadKind::no_loader, "", shell_subject(line, ": Could not open '"), *loader};
  if (has(line, "runtime does not come first in initial library list"))
    return Complaint{LoadKind::sanitizer, has(line, "ASan") ? "libasan" : "the sanitizer's run-time"};
  if (has(line, "Illegal instruction")) return Complaint{LoadKind::instruction, ""};
  return std::nullopt;
}

}  // namespace

std::optional<Complaint> said_by_loader(std::string_view line) {
  for (const auto& read : {glibc_version, glibc_symbol, musl, wine, windows, macos, glibc_file, shell}) {
    if (auto complaint = read(line)) return complaint;
  }
  return std::nullopt;
}

void continued_by_loader(std::string_view line, Complaint& complaint) {
  macos_continued(line, complaint);
}

}  // namespace fibula
