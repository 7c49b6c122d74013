/// Facts as text, one row each, in the order in which people ask for them.
#include <fibula/facts.hpp>

#include "base/text.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

std::string shown(const std::string& value) {
  return value;
}
std::string shown(int value) {
  return fmt::format("{}", value);
}
std::string shown(Format value) {
  return std::string(to_string(value));
}
std::string shown(Arch value) {
  return std::string(to_string(value));
}
std::string shown(Endian value) {
  return std::string(to_string(value));
}
std::string shown(Kind value) {
  return std::string(to_string(value));
}
std::string shown(const std::vector<std::string>& value) {
  return text::join(value, ":");
}

std::string shown(const PicReport& pic) {
  if (pic.level == Pic::yes) return std::string(to_string(pic.level));
  const std::string symbol = pic.symbol.empty() ? "" : " against " + pic.symbol;
  return fmt::format("{}: {}{} in section {} at {:#x}", to_string(pic.level), pic.relocation, symbol, pic.section,
                     pic.offset);
}

std::string shown(const std::vector<Need>& needs) {
  if (needs.empty()) return "nothing";
  std::string text;
  for (const auto& need : needs) {
    text += (text.empty() ? "" : ", ") + need.name;
    if (need.kind != NeedKind::ordinary) text += fmt::format(" ({})", to_string(need.kind));
  }
  return text;
}

template <class T>
void add(std::vector<FactRow>& rows, std::string id, const Fact<T>& fact) {
  if (fact) rows.push_back({std::move(id), shown(*fact.value), fact.certainty, fact.from});
}

/// The id of a file's own name for those that need it.
std::string name_id(const Facts& facts) {
  const Format format = facts.format.value.value_or(Format::unknown);
  if (format == Format::macho || format == Format::stub) return "install-name";
  return format == Format::coff || format == Format::pe ? "dll-name" : "soname";
}

constexpr std::pair<std::string_view, Fact<std::string> Facts::*> texts[] = {
    {"cpu-floor", &Facts::cpu_floor},
    {"float-abi", &Facts::float_abi},
    {"os-floor", &Facts::os_floor},
    {"subsystem", &Facts::subsystem},
    {"c-runtime", &Facts::c_runtime},
    {"libc-floor", &Facts::libc_floor},
    {"cxx-runtime", &Facts::cxx_runtime},
    {"cxx-floor", &Facts::cxx_floor},
    {"string-abi", &Facts::string_abi},
    {"interface", &Facts::interface},
    {"own-strings", &Facts::own_strings},
    {"stl-debug", &Facts::stl_debug},
    {"configuration", &Facts::configuration},
    {"language", &Facts::language},
    {"toolset", &Facts::toolset},
    {"link-time", &Facts::link_time},
    {"exceptions", &Facts::exceptions},
    {"threads", &Facts::threads},
    {"sanitizers", &Facts::sanitizers},
    {"profile", &Facts::profile},
    {"openmp", &Facts::openmp},
    {"fortran", &Facts::fortran},
    {"debug-info", &Facts::debug_info},
    {"entry", &Facts::entry},
};

}  // namespace

std::vector<FactRow> rows(const Facts& facts) {
  std::vector<FactRow> rows;
  add(rows, "format", facts.format);
  add(rows, "kind", facts.kind);
  add(rows, "arch", facts.arch);
  add(rows, "bits", facts.bits);
  add(rows, "endian", facts.endian);
  for (const auto& [id, fact] : texts) add(rows, std::string(id), facts.*fact);
  add(rows, "pic", facts.pic);
  add(rows, name_id(facts), facts.soname);
  add(rows, "needs", facts.needs);
  // With both, loaders follow DT_RUNPATH only (gABI, "Shared Object Dependencies").
  add(rows, "search", facts.runpath ? facts.runpath : facts.rpath);
  add(rows, "build-paths", facts.build_paths);
  add(rows, "file-version", facts.file_version);
  add(rows, "build-id", facts.build_id);
  return rows;
}

}  // namespace fibula
