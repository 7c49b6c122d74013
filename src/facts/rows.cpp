#include <fibula/facts.hpp>

namespace fibula {
namespace {

FactValue value_of(int value) {
  return int64_t{value};
}
FactValue value_of(Format value) {
  return std::string(to_string(value));
}
FactValue value_of(Arch value) {
  return std::string(to_string(value));
}
FactValue value_of(Endian value) {
  return std::string(to_string(value));
}
FactValue value_of(Kind value) {
  return std::string(to_string(value));
}
template <class T>
FactValue value_of(const T& value) {
  return value;
}

template <class T>
void add(std::vector<FactRow>& rows, std::string_view id, const Fact<T>& fact) {
  if (fact) rows.push_back({std::string(id), value_of(*fact.value), fact.certainty, fact.from});
}

/// The id of a file's own name for those that need it.
std::string name_id(const Facts& facts) {
  const Format format = facts.format.value.value_or(Format::unknown);
  if (format == Format::macho || format == Format::stub) return "install-name";
  return format == Format::coff || format == Format::pe ? "dll-name" : "soname";
}

}  // namespace

std::vector<FactRow> rows(const Facts& facts) {
  std::vector<FactRow> rows;
  add(rows, "format", facts.format);
  add(rows, "kind", facts.kind);
  add(rows, "arch", facts.arch);
  add(rows, "bits", facts.bits);
  add(rows, "endian", facts.endian);
  add(rows, "cpu-floor", facts.cpu_floor);
  add(rows, "float-abi", facts.float_abi);
  add(rows, "os-floor", facts.os_floor);
  add(rows, "subsystem", facts.subsystem);
  add(rows, "c-runtime", facts.c_runtime);
  add(rows, "libc-floor", facts.libc_floor);
  add(rows, "cxx-runtime", facts.cxx_runtime);
  add(rows, "cxx-floor", facts.cxx_floor);
  add(rows, "string-abi", facts.string_abi);
  add(rows, "interface", facts.interface);
  add(rows, "own-strings", facts.own_strings);
  add(rows, "stl-debug", facts.stl_debug);
  add(rows, "configuration", facts.configuration);
  add(rows, "language", facts.language);
  add(rows, "toolset", facts.toolset);
  add(rows, "link-time", facts.link_time);
  add(rows, "exceptions", facts.exceptions);
  add(rows, "threads", facts.threads);
  add(rows, "sanitizers", facts.sanitizers);
  add(rows, "profile", facts.profile);
  add(rows, "openmp", facts.openmp);
  add(rows, "fortran", facts.fortran);
  add(rows, "debug-info", facts.debug_info);
  add(rows, "debug-file", facts.debug_file);
  add(rows, "entry", facts.entry);
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
