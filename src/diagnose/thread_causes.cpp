/// Names that one file takes for a thread's own, and another one not ("ELF Handling For Thread-Local Storage").
#include "diagnose/findings.hpp"
#include "facts/mangling.hpp"

#include <fibula/symbols.hpp>

#include <fmt/format.h>
#include <optional>

namespace fibula {
namespace {

/// A file that names a symbol.
struct NameUser {
  std::string file;  ///< with its member; empty: the C library
  bool defines = false;
};

/// The first that takes it for a thread's own, and the first that does not.
struct Sides {
  std::optional<NameUser> in_thread, plainly;
};

std::string said(const NameUser& user) {
  return fmt::format("{} {} it", user.file.empty() ? "the C library" : user.file, user.defines ? "defines" : "uses");
}

void look_into(const fs::path& file, const std::string& shown, const std::string& symbol, Sides& sides) {
  (void)visit_symbols(file, [&](const SymbolView& each) {
    if (each.name != symbol || each.binding == Binding::local) return;
    auto& side = each.kind == SymbolKind::thread_local_ ? sides.in_thread : sides.plainly;
    const std::string name = each.member.empty() ? shown : fmt::format("{}({})", shown, each.member);
    if (!side) side = NameUser{name, each.defines};
  });
}

Finding clash(const std::string& symbol, const Sides& sides) {
  Finding finding{.cause = "thread-local", .stage = "link", .subject = readable_name(symbol), .certainty = "read"};
  finding.because = {fmt::format("{} as one for each thread", said(*sides.in_thread)),
                     fmt::format("{} as one for all", said(*sides.plainly))};
  for (const auto& side : {sides.in_thread, sides.plainly}) {
    if (!side->file.empty()) finding.culprits.push_back(side->file);
  }
  finding.remedy = "declare it alike in both: with thread_local (__thread in C) or without";
  if (symbol == "errno")
    finding.remedy =
        fmt::format("include <errno.h> in place of a declaration of its own where {} is made", finding.culprits.back());
  return finding;
}

}  // namespace

std::vector<Finding> thread_findings(const LinkScene& scene, const Rehearsal& rehearsal) {
  std::vector<Finding> findings;
  for (const auto& symbol : rehearsal.thread_clashes) {
    Sides sides;
    for (const auto& input : scene.inputs()) {
      if (!input.file.empty() && input.own) look_into(input.file, shown_in(scene, input.file), symbol, sides);
    }
    if (symbol == "errno" && sides.plainly && !sides.in_thread) sides.in_thread = NameUser{{}, true};
    if (sides.in_thread && sides.plainly) findings.push_back(clash(symbol, sides));
  }
  return findings;
}

}  // namespace fibula
