#include "project/starter.hpp"

#include "base/text.hpp"
#include "os/folder.hpp"
#include "os/host.hpp"
#include "os/kept.hpp"
#include "os/process.hpp"
#include "os/stamp.hpp"

#include <fmt/format.h>
#include <span>

namespace fibula {
namespace {

namespace fs = std::filesystem;

/// Of a machine whose programs are emulated: QEMU's name for it (its manual, "User mode emulation"), the loader that
/// its programs ask for, and the folder where Debian keeps its system.
struct Emulated {
  Arch arch;
  const char* emulator;
  const char* loader;
  const char* root;
};
constexpr Emulated emulated[] = {
    {Arch::aarch64, "qemu-aarch64", "lib/ld-linux-aarch64.so.1", "/usr/aarch64-linux-gnu"},
    {Arch::arm, "qemu-arm", "lib/ld-linux-armhf.so.3", "/usr/arm-linux-gnueabihf"},
    {Arch::arm, "qemu-arm", "lib/ld-linux.so.3", "/usr/arm-linux-gnueabi"},
    {Arch::riscv64, "qemu-riscv64", "lib/ld-linux-riscv64-lp64d.so.1", "/usr/riscv64-linux-gnu"},
    {Arch::s390x, "qemu-s390x", "lib/ld64.so.1", "/usr/s390x-linux-gnu"},
    {Arch::x86, "qemu-i386", "lib/ld-linux.so.2", "/usr/i686-linux-gnu"},
};

std::string windows_starter(const Target& target) {
  // The 64-bit one alone takes 32-bit programs, says nothing, and starts none.
  if (target.arch == Arch::x86) {
    for (const char* folder : {"/usr/lib/i386-linux-gnu/wine/i386-windows", "/usr/lib/wine/i386-windows"}) {
      if (stamp_of(folder).is_folder() && find_program("wine")) return "wine";
    }
    return {};
  }
  if (target.arch != Arch::x86_64) return {};
  for (const char* name : {"wine64", "wine", "/usr/lib/wine/wine64"}) {
    if (find_program(name)) return name;
  }
  return {};
}

}  // namespace

std::string usual_compiler(bool only_c) {
  static constexpr const char* cxx[] = {"g++", "clang++", "c++"};
  static constexpr const char* c[] = {"gcc", "clang", "cc"};
  for (const auto& names : {only_c ? c : cxx, only_c ? cxx : c}) {
    for (const char* name : std::span(names, 3)) {
      if (find_program(name)) return name;
    }
  }
  return only_c ? "gcc" : "g++";
}

bool is_installed(const std::string& program) {
  return find_program(program).has_value();
}

bool starts_here(const Target& target) {
  if (target.format != Format::elf) return false;
  const Arch own = host_architecture();
  return own == target.arch || (own == Arch::x86_64 && target.arch == Arch::x86);
}

std::string starter_for(const Target& target, const std::vector<fs::path>& roots) {
  if (target.format == Format::pe) return windows_starter(target);
  if (target.format != Format::elf) return {};
  for (const auto& machine : emulated) {
    if (machine.arch != target.arch || !find_program(machine.emulator)) continue;
    std::vector<fs::path> places = roots;
    places.emplace_back(machine.root);
    for (const auto& root : places) {
      if (stamp_of(root / machine.loader).there()) return fmt::format("{} -L {}", machine.emulator, root.string());
    }
  }
  return {};
}

namespace {

/// What the tiny program ends with: nothing that fails by itself ends so.
constexpr int agreed_status = 42;

std::string first_line(const std::string& text) {
  return text.substr(0, text.find('\n'));
}

std::string try_to_start(const Lane& lane, const Toolchain& toolchain) {
  auto folder = TemporaryFolder::make(temporary_place(), "fibula-start-");
  if (!folder) return folder.error().what;
  const fs::path source = folder->path() / (toolchain.cxx ? "start.cpp" : "start.c"),
                 program = folder->path() / "start.exe";
  const std::string text = fmt::format("int main() {{ return {}; }}\n", agreed_status);
  if (auto written = write_in(folder->path(), source.filename().string(), text, Flush::later); !written)
    return written.error().what;
  Command compile{.argv = {toolchain.compiler.string()}, .limit = std::chrono::seconds(30)};
  compile.argv.insert(compile.argv.end(), lane.flags.begin(), lane.flags.end());
  for (const auto& word : {source.string(), std::string("-o"), program.string()}) compile.argv.push_back(word);
  const auto compiled = run(compile);
  if (!compiled) return compiled.error().what;
  if (!compiled->good())
    return fmt::format("a program with an empty main cannot be linked: {}", first_line(compiled->err));
  Command start{.limit = std::chrono::seconds(60), .environment = {{"WINEDEBUG", "-all"}}};
  for (const auto word : text::words(lane.start_through)) start.argv.emplace_back(word);
  start.argv.push_back(program.string());
  const auto started = run(start);
  const std::string with = lane.start_through.empty() ? "here" : fmt::format("with {}", lane.start_through);
  if (!started) return started.error().what;
  if (started->timed_out)
    return fmt::format("an empty program does not end within a minute when it is started {}", with);
  if (started->status == agreed_status) return {};
  return fmt::format(
      "an empty program does not start {}: {}", with,
      started->err.empty() ? fmt::format("it ends with status {}", started->status) : first_line(started->err));
}

}  // namespace

std::string why_not_started(const Lane& lane, const Toolchain& toolchain, const Cache& cache) {
  std::string key = fmt::format("{}\n{}\n", toolchain.compiler.string(), to_text(stamp_of(toolchain.compiler)));
  for (const auto& flag : lane.flags) key += flag + "\n";
  for (const auto word : text::words(lane.start_through)) {
    key += std::string(word) + "\n";
    if (const auto program = find_program(word)) key += to_text(stamp_of(*program)) + "\n";
  }
  if (kept_answer(cache, kept_kind::starts, key)) return {};
  std::string why = try_to_start(lane, toolchain);
  // What is missing today may be installed tomorrow.
  if (why.empty()) keep_answer(cache, kept_kind::starts, key, "it starts");
  return why;
}

}  // namespace fibula
