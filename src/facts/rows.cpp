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
  if (pic.independent) return "yes";
  const std::string symbol = pic.symbol.empty() ? "" : " against " + pic.symbol;
  return fmt::format("no: {}{} in section {} at {:#x}", pic.relocation, symbol, pic.section, pic.offset);
}

std::string shown(const std::vector<Need>& needs) {
  std::string text;
  for (const auto& need : needs) text += (text.empty() ? "" : ", ") + need.name;
  return text;
}

template <class T>
void add(std::vector<FactRow>& rows, std::string id, const Fact<T>& fact) {
  if (fact) rows.push_back({std::move(id), shown(*fact.value), fact.certainty, fact.from});
}

}  // namespace

std::vector<FactRow> rows(const Facts& facts) {
  std::vector<FactRow> rows;
  add(rows, "format", facts.format);
  add(rows, "kind", facts.kind);
  add(rows, "arch", facts.arch);
  add(rows, "bits", facts.bits);
  add(rows, "endian", facts.endian);
  add(rows, "os-floor", facts.os_floor);
  add(rows, "c-runtime", facts.c_runtime);
  add(rows, "libc-floor", facts.libc_floor);
  add(rows, "cxx-runtime", facts.cxx_runtime);
  add(rows, "cxx-floor", facts.cxx_floor);
  add(rows, "language", facts.language);
  add(rows, "toolset", facts.toolset);
  add(rows, "pic", facts.pic);
  add(rows, "soname", facts.soname);
  add(rows, "needs", facts.needs);
  add(rows, "rpath", facts.rpath);
  add(rows, "runpath", facts.runpath);
  add(rows, "build-id", facts.build_id);
  return rows;
}

}  // namespace fibula
