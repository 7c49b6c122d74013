#include <fibula/fact_value.hpp>

#include "base/text.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

struct FactRule {
  std::string_view id;
  FactForm form;
};

/// Every fact that files, headers and cards tell. A new one is a row here, a member of Facts and a line in rows.cpp.
constexpr FactRule facts[] = {
    {"format", FactForm::name},
    {"kind", FactForm::name},
    {"arch", FactForm::name},
    {"bits", FactForm::number},
    {"endian", FactForm::name},
    {"cpu-floor", FactForm::name},
    {"float-abi", FactForm::name},
    {"os-floor", FactForm::named_version},
    {"subsystem", FactForm::name},
    {"c-runtime", FactForm::name},
    {"libc-floor", FactForm::name},
    {"cxx-runtime", FactForm::name},
    {"cxx-floor", FactForm::name},
    {"string-abi", FactForm::name},
    {"interface", FactForm::name},
    {"own-strings", FactForm::name},
    {"stl-debug", FactForm::name},
    {"configuration", FactForm::name},
    {"language", FactForm::name},
    {"toolset", FactForm::named_version},
    {"link-time", FactForm::link_time_code},
    {"exceptions", FactForm::name},
    {"threads", FactForm::name},
    {"sanitizers", FactForm::names},
    {"profile", FactForm::names},
    {"openmp", FactForm::name},
    {"fortran", FactForm::name},
    {"debug-info", FactForm::named_version},
    {"debug-file", FactForm::name},
    {"entry", FactForm::name},
    {"pic", FactForm::pic},
    {"soname", FactForm::name},
    {"install-name", FactForm::name},
    {"dll-name", FactForm::name},
    {"needs", FactForm::needs},
    {"search", FactForm::names},
    {"build-paths", FactForm::names},
    {"file-version", FactForm::name},
    {"build-id", FactForm::name},
    // What headers tell.
    {"import-macro", FactForm::name},
    {"static-macro", FactForm::name},
    {"header-imports", FactForm::flag},
};

const FactRule* rule_of(std::string_view id) {
  const auto* found =
      std::find_if(std::begin(facts), std::end(facts), [&](const FactRule& rule) { return rule.id == id; });
  return found == std::end(facts) ? nullptr : found;
}

struct Words {
  std::string operator()(const std::string& value) const { return value; }
  std::string operator()(int64_t value) const { return fmt::format("{}", value); }
  std::string operator()(bool value) const { return value ? "yes" : "no"; }
  std::string operator()(const std::vector<std::string>& names) const { return text::join(names, ", "); }
  std::string operator()(const NamedVersion& value) const {
    return value.version.empty() ? value.name : fmt::format("{} {}", value.name, value.version);
  }
  std::string operator()(const LinkTimeCode& code) const {
    const std::string version = code.version.empty() ? "" : " " + code.version;
    return fmt::format("{}{} {}", code.maker, version, code.machine_code ? "beside machine code" : "only");
  }
  std::string operator()(const PicReport& pic) const {
    if (pic.level == Pic::yes) return std::string(to_string(pic.level));
    const std::string symbol = pic.symbol.empty() ? "" : " against " + pic.symbol;
    return fmt::format("{}: {}{} in section {} at {:#x}", to_string(pic.level), pic.relocation, symbol, pic.section,
                       pic.offset);
  }
  std::string operator()(const std::vector<Need>& needs) const {
    if (needs.empty()) return "nothing";
    std::vector<std::string> names;
    for (const auto& need : needs)
      names.push_back(need.kind == NeedKind::ordinary ? need.name
                                                      : fmt::format("{} ({})", need.name, to_string(need.kind)));
    return text::join(names, ", ");
  }
};

}  // namespace

FactForm form_of(std::string_view id) {
  const FactRule* rule = rule_of(id);
  return rule == nullptr ? FactForm::name : rule->form;
}

bool is_fact(std::string_view id) {
  return rule_of(id) != nullptr;
}

std::vector<std::string> fact_ids() {
  std::vector<std::string> ids;
  for (const auto& rule : facts) ids.emplace_back(rule.id);
  return ids;
}

std::string to_text(const FactValue& value) {
  return std::visit(Words(), value);
}

}  // namespace fibula
