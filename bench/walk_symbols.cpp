// Walks the symbols of many files in one of several ways, each once a file, and prints what it saw and what it cost:
// the ways are compared by bench/symbols.py.
//   walk_symbols fibula|index|facts|floor FILE...
#include <fibula/facts.hpp>
#include <fibula/symbols.hpp>

#include <elf.h>
#include <fcntl.h>
#include <sys/mman.h>
#include <sys/stat.h>
#include <unistd.h>
#include <chrono>
#include <cstdint>
#include <cstdio>
#include <cstring>
#include <fstream>
#include <functional>
#include <string>
#include <string_view>

namespace {

struct Sum {
  uint64_t symbols = 0;
  uint64_t hash = 0;
  void add(std::string_view name) {
    ++symbols;
    hash ^= std::hash<std::string_view>()(name);
  }
};

/// The least that such a walk can do: a map of the file, its symbol tables, a hash a name. It trusts every field, so it
/// is for sound files only.
namespace floor_walk {

void object(const char* start, Sum& sum) {
  const auto* header = reinterpret_cast<const Elf64_Ehdr*>(start);
  if (std::memcmp(start, ELFMAG, 4) != 0) return;
  const auto* sections = reinterpret_cast<const Elf64_Shdr*>(start + header->e_shoff);
  const uint32_t wanted = header->e_type == ET_REL ? SHT_SYMTAB : SHT_DYNSYM;
  for (int i = 0; i < header->e_shnum; ++i) {
    if (sections[i].sh_type != wanted) continue;
    const auto* symbols = reinterpret_cast<const Elf64_Sym*>(start + sections[i].sh_offset);
    const char* names = start + sections[sections[i].sh_link].sh_offset;
    for (uint64_t k = sections[i].sh_info; k < sections[i].sh_size / sizeof(Elf64_Sym); ++k)
      sum.add(names + symbols[k].st_name);
    return;
  }
}

void file(const char* path, Sum& sum) {
  const int fd = ::open(path, O_RDONLY | O_CLOEXEC);
  struct stat info {};
  ::fstat(fd, &info);
  const auto size = static_cast<size_t>(info.st_size);
  auto* start = static_cast<const char*>(::mmap(nullptr, size, PROT_READ, MAP_PRIVATE, fd, 0));
  ::close(fd);
  if (std::memcmp(start, "!<arch>\n", 8) != 0) {
    object(start, sum);
  } else {
    for (size_t at = 8; at + 60 <= size;) {
      const size_t length = std::strtoul(start + at + 48, nullptr, 10);
      if (start[at] != '/' || (start[at + 1] >= '0' && start[at + 1] <= '9')) object(start + at + 60, sum);
      at += 60 + length + length % 2;
    }
  }
  ::munmap(const_cast<char*>(start), size);
}

}  // namespace floor_walk

void visit(std::string_view how, const char* path, Sum& sum) {
  if (how == "floor") return floor_walk::file(path, sum);
  if (how == "facts") {
    if (const auto facts = fibula::inspect(path)) sum.symbols += facts->defined_count + facts->undefined_count;
    return;
  }
  const auto seen = how == "index"
                        ? fibula::visit_archive_index(path, [&](std::string_view name, uint64_t) { sum.add(name); })
                        : fibula::visit_symbols(path, [&](const fibula::SymbolView& symbol) { sum.add(symbol.name); });
  if (!seen) std::fprintf(stderr, "%s\n", fibula::render(seen.error()).c_str());
}

/// A line of /proc/self/status, in kilobytes.
long status(std::string_view key) {
  std::ifstream stream("/proc/self/status");
  for (std::string line; std::getline(stream, line);) {
    if (line.starts_with(key)) return std::strtol(line.c_str() + key.size() + 1, nullptr, 10);
  }
  return 0;
}

}  // namespace

int main(int argc, char** argv) {
  if (argc < 3) return 2;
  Sum sum;
  const auto start = std::chrono::steady_clock::now();
  for (int i = 2; i < argc; ++i) visit(argv[1], argv[i], sum);
  const std::chrono::duration<double> took = std::chrono::steady_clock::now() - start;
  std::printf("%.6f %llu %llx %ld %ld\n", took.count(), static_cast<unsigned long long>(sum.symbols),
              static_cast<unsigned long long>(sum.hash), status("VmHWM"), status("RssAnon"));
}
