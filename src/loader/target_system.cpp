#include "loader/target_system.hpp"

#include "base/text.hpp"
#include "binary/loader_cache.hpp"

#include <fmt/format.h>

namespace fibula {

std::string multiarch_name(const Target& target) {
  switch (target.arch) {
    case Arch::x86_64: return "x86_64-linux-gnu";
    case Arch::x32: return "x86_64-linux-gnux32";
    case Arch::x86: return "i386-linux-gnu";
    case Arch::aarch64: return "aarch64-linux-gnu";
    case Arch::arm: return "arm-linux-gnueabihf";
    case Arch::riscv64: return "riscv64-linux-gnu";
    case Arch::ppc64le: return "powerpc64le-linux-gnu";
    case Arch::s390x: return "s390x-linux-gnu";
    case Arch::mips64el: return "mips64el-linux-gnuabi64";
    case Arch::mipsel: return "mipsel-linux-gnu";
    default: return {};
  }
}

std::vector<fs::path> TargetSystem::places_of(const fs::path& path) const {
  if (is_this_machine() || !path.is_absolute() || is_inside(root_, path)) return {path};
  return {root_ / path.relative_path(), path};
}

/// A line of ld.so.conf names a directory or includes further files.
void TargetSystem::read_configuration(const fs::path& path, int depth, std::vector<std::string>& directories) const {
  constexpr int deepest = 8;
  const auto content = read_text(places_of(path).front(), 1U << 20U);
  if (!content || depth > deepest) return;
  for (auto line : text::lines(*content)) {
    line = text::trim(line.substr(0, line.find('#')));
    if (line.starts_with("include ")) {
      const fs::path pattern(text::trim(line.substr(8)));
      const fs::path folder =
          pattern.is_absolute() ? pattern.parent_path() : path.parent_path() / pattern.parent_path();
      for (const auto& name : files_directly_in(places_of(folder).front())) {
        if (text::glob_matches(pattern.filename().string(), name.filename().string()))
          read_configuration(folder / name.filename(), depth + 1, directories);
      }
    } else if (line.starts_with('/')) {
      directories.emplace_back(line);
    }
  }
}

const std::vector<std::string>& TargetSystem::configured() {
  if (!configured_) {
    configured_.emplace();
    read_configuration("/etc/ld.so.conf", 0, *configured_);
  }
  return *configured_;
}

/// A cache that cannot be read is as good as none, to the loader too.
const TargetSystem::Cache* TargetSystem::cache() {
  if (cache_read_) return cache_ ? &*cache_ : nullptr;
  cache_read_ = true;
  if (!directories_.empty()) return nullptr;
  const auto file = MappedFile::open(places_of("/etc/ld.so.cache").front());
  const auto entries = file ? read_loader_cache((*file)->bytes()) : fail(file.error());
  if (!entries) return nullptr;
  cache_file_ = *file;
  cache_.emplace();
  cache_->reserve(entries->size());
  for (const auto& entry : *entries) {
    // Which of these a loader takes depends on the processor that it runs on; the one for all is there beside it.
    if (!entry.for_some_processors) cache_->emplace(entry.name, entry.path);
  }
  return &*cache_;
}

bool TargetSystem::has_cache() {
  return cache() != nullptr;
}

std::vector<std::string_view> TargetSystem::cached(std::string_view name) {
  std::vector<std::string_view> paths;
  const Cache* known = cache();
  if (known == nullptr) return paths;
  const auto [begin, end] = known->equal_range(name);
  for (auto each = begin; each != end; ++each) paths.push_back(each->second);
  return paths;
}

const std::vector<std::string>& TargetSystem::standard_directories(const Target& target, bool musl) {
  const auto [known, fresh] = standard_.try_emplace({target.arch, musl});
  auto& list = known->second;
  if (!fresh) return list;
  for (const auto& directory : directories_) list.push_back(directory.string());
  if (!list.empty()) return list;
  if (musl) {
    const std::string arch = target.arch == Arch::x86 ? "i386" : std::string(to_string(target.arch));
    const auto content = read_text(places_of(fmt::format("/etc/ld-musl-{}.path", arch)).front(), 1U << 16U);
    if (content) {
      for (const auto line : text::lines(*content)) {
        for (const auto part : text::split(line, ':')) list.emplace_back(part);
      }
    } else {
      list = {"/lib", "/usr/local/lib", "/usr/lib"};
    }
    return list;
  }
  if (!has_cache()) list = configured();
  const std::string multiarch = multiarch_name(target);
  for (const char* folder : {"/lib", "/usr/lib"}) {
    if (!multiarch.empty()) list.push_back(fmt::format("{}/{}", folder, multiarch));
  }
  const bool wide = target.bits == 64;
  for (const char* folder : {"/lib", "/usr/lib"}) {
    if (wide) list.push_back(std::string(folder) + "64");
    if (target.arch == Arch::x86) list.push_back(std::string(folder) + "32");
    list.emplace_back(folder);
  }
  return list;
}

}  // namespace fibula
