#include "choose/import_sides.hpp"

#include "headers/conditionals.hpp"
#include "os/files.hpp"

namespace fibula {
namespace {

/// One of several is enough: the one that says what it is about.
void add_best(const std::vector<std::string>& names, std::vector<std::string>& to) {
  if (const auto best = telling_name(names); !best.empty()) to.push_back(best);
}

}  // namespace

ImportSides import_sides(const Card& card, const Toolchain& toolchain, Linkage linkage) {
  ImportSides sides;
  if (toolchain.target.format != Format::pe) return sides;
  for (const auto& header : card.public_headers) {
    const auto text = read_text(card.root / header);
    if (!text || text->find("dllimport") == std::string::npos) continue;
    const auto macros = import_macros(*text, macros_of_windows(toolchain.triple.find("msvc") == std::string::npos &&
                                                               toolchain.family != CompilerFamily::msvc));
    if (macros.line == 0) continue;
    // The first header that says something about imports says it for all: the others include it.
    add_best(linkage == Linkage::shared ? macros.for_shared : macros.for_static, sides.users);
    if (linkage == Linkage::shared) add_best(macros.for_export, sides.own);
    return sides;
  }
  return sides;
}

}  // namespace fibula
