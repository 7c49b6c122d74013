/// The system on which a program will run: its root, and where its loader looks by itself.
#pragma once

#include <fibula/closure.hpp>
#include <fibula/target.hpp>

#include "os/files.hpp"
#include "os/mapped_file.hpp"

#include <map>
#include <memory>
#include <optional>
#include <string>
#include <unordered_map>
#include <vector>

namespace fibula {

class TargetSystem {
 public:
  explicit TargetSystem(const ClosureOptions& options)
      : root_(options.sysroot), directories_(options.directories), of_variable_(options.variable_directories) {}

  /// The places where an absolute path of that system can lie on this machine, in order: below the root first, as
  /// emulators look.
  std::vector<fs::path> places_of(const fs::path& path) const;
  /// What LD_LIBRARY_PATH names.
  const std::vector<fs::path>& of_variable() const { return of_variable_; }
  bool is_this_machine() const { return root_.empty() || root_ == "/"; }
  /// What glibc's loader has under a name in its cache (ld.so(8), "/etc/ld.so.cache"); none when there is no cache.
  std::vector<std::string_view> cached(std::string_view name);
  /// Whether there is a cache: without one the loader's configuration stands for what ldconfig would find.
  bool has_cache();
  /// Searched when nothing else helps: for glibc the directories that are built in, where there is a cache, with those
  /// of the configuration otherwise; for musl those of its path file.
  const std::vector<std::string>& standard_directories(const Target& target, bool musl);
  /// The directories that glibc's configuration names (ldconfig(8), ld.so.conf).
  const std::vector<std::string>& configured();

 private:
  /// Paths by name, in the cache's order; they lie in the mapped file.
  using Cache = std::unordered_multimap<std::string_view, std::string_view>;
  const Cache* cache();
  void read_configuration(const fs::path& path, int depth, std::vector<std::string>& directories) const;

  fs::path root_;
  std::vector<fs::path> directories_, of_variable_;
  std::shared_ptr<const MappedFile> cache_file_;
  std::optional<Cache> cache_;
  bool cache_read_ = false;
  std::optional<std::vector<std::string>> configured_;
  std::map<std::pair<Arch, bool>, std::vector<std::string>> standard_;
};

/// The directory in a library folder that Debian's systems keep for a machine: "x86_64-linux-gnu"; empty where it has
/// none.
std::string multiarch_name(const Target& target);

}  // namespace fibula
