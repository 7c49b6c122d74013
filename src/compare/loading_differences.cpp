#include "compare/differences.hpp"

#include "base/version.hpp"
#include "facts/system_files.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

template <class T>
T value_of(const Fact<T>& fact) {
  return fact.value.value_or(T());
}

class LoadingComparison {
 public:
  LoadingComparison(const Both<ComparedBinary>& binaries, Differences& into)
      : a_(binaries.first), b_(binaries.second), into_(into) {}

  void run() {
    target();
    if (a_.is_shared() && b_.is_shared()) {
      soname();
      versions();
      needs();
    }
    floors();
  }

 private:
  void add(DifferenceKind kind, Alteration how, std::string name, std::string before, std::string after, Effect effect,
           std::string why) {
    into_.push_back({.kind = kind,
                     .how = how,
                     .name = std::move(name),
                     .file = how == Alteration::removed ? a_.shown : b_.shown,
                     .before = std::move(before),
                     .after = std::move(after),
                     .effect = effect,
                     .why = std::move(why)});
  }

  void target() {
    const auto shown = [](const Facts& facts) {
      const Target target{.format = value_of(facts.format), .arch = value_of(facts.arch), .bits = value_of(facts.bits)};
      return to_string(target);
    };
    const std::string before = shown(a_.facts), after = shown(b_.facts);
    if (before != after)
      add(DifferenceKind::target, Alteration::changed, b_.shown, before, after, Effect::built,
          "it is for another machine");
    else if (a_.facts.kind.value != b_.facts.kind.value)
      add(DifferenceKind::target, Alteration::changed, b_.shown, std::string(to_string(value_of(a_.facts.kind))),
          std::string(to_string(value_of(b_.facts.kind))), Effect::built, "it is another kind of file");
  }

  void soname() {
    const std::string before = value_of(a_.facts.soname), after = value_of(b_.facts.soname);
    if (before == after) return;
    add(DifferenceKind::soname, Alteration::changed, before.empty() ? b_.shown : before, before, after, Effect::built,
        before.empty()
            ? fmt::format("programs ask for it by the name of the file that they were linked with, and not "
                          "for {}",
                          after)
            : fmt::format("programs ask the loader for {}, and this one is not found under that name", before));
  }

  void versions() {
    for (const auto& name : a_.version_names) {
      if (std::binary_search(b_.version_names.begin(), b_.version_names.end(), name)) continue;
      add(DifferenceKind::symbol_version, Alteration::removed, name, {}, {},
          b_.version_names.empty() ? Effect::none : Effect::built,
          b_.version_names.empty() ? "gone with all versions: loaders warn and take names without them"
                                   : "programs that were linked with it do not start");
    }
    for (const auto& name : b_.version_names) {
      if (!std::binary_search(a_.version_names.begin(), a_.version_names.end(), name))
        add(DifferenceKind::symbol_version, Alteration::added, name, {}, {}, Effect::none, "new");
    }
  }

  void needs() {
    const auto names = [](const Facts& facts) {
      std::vector<std::string> list;
      for (const auto& need : value_of(facts.needs)) list.push_back(need.name);
      std::sort(list.begin(), list.end());
      return list;
    };
    const auto before = names(a_.facts), after = names(b_.facts);
    for (const auto& name : before) {
      if (!std::binary_search(after.begin(), after.end(), name))
        add(DifferenceKind::need, Alteration::removed, name, {}, {}, Effect::none, "it is asked for no more");
    }
    for (const auto& name : after) {
      if (!std::binary_search(before.begin(), before.end(), name)) add_need(name);
    }
  }

  void add_need(const std::string& name) {
    const bool there = !reason_to_stay(name).empty() || is_windows_dll(name) || is_macos_file(name);
    add(DifferenceKind::need, Alteration::added, name, {}, {}, there ? Effect::none : Effect::doubt,
        there ? "it is part of the system" : "it must be there when programs start");
  }

  void floor(const char* what, const std::string& before, const std::string& after) {
    if (before == after || after.empty()) return;
    const bool higher = before.empty() || compare_versions(after, before) > 0;
    add(DifferenceKind::floor, Alteration::changed, what, before.empty() ? "any" : before, after,
        higher ? Effect::doubt : Effect::none,
        higher ? "on systems with less it does not load" : "it runs on more systems than before");
  }

  void floors() {
    const auto system = [](const Fact<NamedVersion>& fact) {
      return fact.value ? fmt::format("{} {}", fact.value->name, fact.value->version) : std::string();
    };
    floor("C library", value_of(a_.facts.libc_floor), value_of(b_.facts.libc_floor));
    floor("C++ library", value_of(a_.facts.cxx_floor), value_of(b_.facts.cxx_floor));
    floor("system", system(a_.facts.os_floor), system(b_.facts.os_floor));
    const std::string old = value_of(a_.facts.cpu_floor), now = value_of(b_.facts.cpu_floor);
    if (old != now && !now.empty())
      add(DifferenceKind::floor, Alteration::changed, "processor", old.empty() ? "any" : old, now, Effect::doubt,
          "what it runs on has changed");
  }

  const ComparedBinary& a_;
  const ComparedBinary& b_;
  Differences& into_;
};

}  // namespace

void compare_loading(const Both<ComparedBinary>& binaries, Differences& into) {
  LoadingComparison(binaries, into).run();
}

}  // namespace fibula
