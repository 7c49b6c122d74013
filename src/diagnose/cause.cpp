#include "diagnose/cause.hpp"

#include <fibula/explain.hpp>

namespace fibula {
namespace {

constexpr CauseRow causes[] = {
    {"compile", "header-not-found"},
    {"compile", "header-name"},
    {"compile", "header-of-other-library"},
    {"compile", "header-generated"},
    {"compile", "header-order"},
    {"compile", "wrong-header-found-first"},
    {"compile", "header-needs-definition"},
    {"compile", "header-needs-standard"},
    {"compile", "header-needs-language"},
    {"compile", "wrong-platform"},
    {"compile", "quoting"},
    {"compile", "file-not-found"},
    {"compile", "not-about-libraries"},
    {"compile", "unknown"},
    {"compile", "toolchain-missing"},
    {"link", "library-not-found"},
    {"link", "library-name"},
    {"link", "library-not-linked"},
    {"link", "order"},
    {"link", "circular"},
    {"link", "missing-system-input"},
    {"link", "missing-transitive-input"},
    {"link", "cxx-runtime-not-linked"},
    {"link", "linkage"},
    {"link", "wrong-library-found-first"},
    {"link", "architecture"},
    {"link", "object-format"},
    {"link", "slice-missing"},
    {"link", "toolchain-family"},
    {"link", "not-a-library"},
    {"link", "damaged-file"},
    {"link", "no-symbol-table"},
    {"link", "thin-member-gone"},
    {"link", "lto-toolset"},
    {"link", "language-linkage"},
    {"link", "decoration"},
    {"link", "import-define"},
    {"link", "string-abi"},
    {"link", "cxx-runtime"},
    {"link", "stl-debug"},
    {"link", "runtime-flavour"},
    {"link", "rtti"},
    {"link", "version-skew"},
    {"link", "hidden-symbol"},
    {"link", "duplicate"},
    {"link", "two-copies"},
    {"link", "missing-source"},
    {"link", "registration-dropped"},
    {"link", "entry"},
    {"link", "subsystem"},
    {"link", "pic"},
    {"link", "float-abi"},
    {"link", "cpu-level"},
    {"link", "c-runtime"},
    {"link", "region-overflow"},
    {"link", "sanitizer-runtime"},
    {"link", "stale-library"},
    {"link", "undefined"},
    {"load", "runtime-file-missing"},
    {"load", "runtime-file-wrong-arch"},
    {"load", "search-path"},
    {"load", "search-path-not-inherited"},
    {"load", "soname"},
    {"load", "soname-version"},
    {"load", "libc-floor"},
    {"load", "cxx-floor"},
    {"load", "runtime-symbol-missing"},
    {"load", "program-symbols-not-exported"},
    {"load", "permission"},
    {"run", "data-file-missing"},
};

}  // namespace

std::vector<CauseRow> all_causes() {
  return {std::begin(causes), std::end(causes)};
}

std::string_view stage_of(std::string_view cause) {
  for (const auto& row : causes) {
    if (row.cause == cause) return row.stage;
  }
  return {};
}

}  // namespace fibula
