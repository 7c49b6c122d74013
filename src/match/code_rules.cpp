/// Rules about how the code was made and how it is used: linkage, position independence, compiler, configuration.
#include "base/text.hpp"
#include "base/version.hpp"
#include "match/sides.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

std::optional<Misfit> linkage(const Pairing& p) {
  const Linkage wanted = p.toolchain.static_link ? Linkage::static_ : p.use.linkage;
  if (wanted == Linkage::any || wanted == p.variant.linkage) return std::nullopt;
  const std::string asker =
      p.toolchain.static_link
          ? fmt::format("{} links everything statically (flag -static)", lane_named(p))
          : fmt::format("fibula.toml:{} asks for {} with linkage = \"{}\"", p.use.line, p.card.name, to_string(wanted));
  const std::string_view is = p.variant.fact("kind") == "import library" ? "an import library, which stands for a DLL"
                                                                         : to_string(p.variant.linkage);
  return misfit(
      p, {"linkage",
          {variant_is(p, "linkage", is), asker},
          fmt::format("take a {} build of {}, or ask for the linkage that is there", to_string(wanted), p.card.name)});
}

/// Where shared libraries have nobody to load them.
std::optional<Misfit> loadable(const Pairing& p) {
  if (!is_shared(p) || !p.toolchain.bare_metal()) return std::nullopt;
  return misfit(p, {"linkage",
                    {variant_is(p, "linkage", "shared"), lane_is(p, "bare metal: no loader could load it")},
                    fmt::format("take a static build of {} for {}", p.card.name, to_string(p.toolchain.target))});
}

/// "R_X86_64_32 against tide in section .text at 0x10".
std::string offence(const PicReport& report) {
  const std::string text = to_text(FactValue(report));
  return text.substr(text.find(": ") + 2);
}

/// A caution only, so that a build without the fault is preferred: whether the members at fault come into a program,
/// the rehearsal of its link says.
std::optional<Misfit> pic(const Pairing& p) {
  const auto* report = p.variant.fact_as<PicReport>("pic");
  if (is_shared(p) || report == nullptr || report->level == Pic::yes || p.toolchain.target.format != Format::elf)
    return std::nullopt;
  const std::string file = variant_is(p, "pic", "not position independent: " + offence(*report));
  if (p.into_shared)
    return caution(p, {"pic",
                       {file, "the project links it into a shared library"},
                       "build it with -fPIC, or take its shared library"});
  if (report->level == Pic::no && p.into_program && p.toolchain.pie)
    return caution(p, {"pic",
                       {file, lane_is(p, "one of position-independent programs")},
                       "take a build made with -fPIE or -fPIC, or " + with_flag(p, "-no-pie")});
  return std::nullopt;
}

std::optional<Misfit> link_time_code(const Pairing& p) {
  const auto* code = p.variant.fact_as<LinkTimeCode>("link-time");
  if (code == nullptr) return std::nullopt;
  const std::vector<std::string> sides{variant_has(p, "link-time"),
                                       lane_is(p, fmt::format("{} {}, linker {}", to_string(p.toolchain.family),
                                                              p.toolchain.version, p.toolchain.linker_version))};
  if (code->machine_code) return fine(p, {"toolset", {sides[0], sides[1], "linkers take its machine code"}, {}});
  const bool gcc = code->maker == "GCC";
  const int own = std::atoi(p.toolchain.version.c_str()), made = std::atoi(code->version.c_str());
  const bool lld = p.toolchain.linker_version.find("LLD") != std::string::npos;
  // Other linkers finish LLVM's code with its plug-in, which Clang hands to them when it is told -flto.
  const bool plugin = answer_of(p, "link-time-plugin").find("LLVM") != std::string::npos;
  const bool fits = gcc ? p.toolchain.family == CompilerFamily::gcc && own == made && !lld
                        : p.toolchain.family != CompilerFamily::gcc && own >= made && (lld || plugin);
  if (fits) return fine(p, {"toolset", {sides[0], sides[1], "the lane's compiler can finish it"}, {}});
  return misfit(
      p, {"toolset",
          {sides[0], sides[1], "link-time code serves only its own compiler and version"},
          fmt::format("take a build of {} made without link-time optimisation, or with fat objects", p.card.name)});
}

/// A label of an older toolset is no misfit by itself; a much newer one may ask more of the C++ run-time than there is.
std::optional<Misfit> toolset(const Pairing& p) {
  const auto* toolset = p.variant.fact_as<NamedVersion>("toolset");
  if (toolset == nullptr || is_shared(p)) return std::nullopt;
  const auto& [compiler, version] = *toolset;
  if (compiler != to_string(p.toolchain.family) || version.find('.') == std::string::npos) return std::nullopt;
  const std::string& own = p.toolchain.version;
  const auto order = compare_versions(version, own);
  if (order == 0) return std::nullopt;
  const std::vector<std::string> sides{variant_has(p, "toolset"), lane_is(p, fmt::format("{} {}", compiler, own))};
  if (order < 0)
    return fine(p, {"toolset", {sides[0], sides[1], "compilers keep the ABI of their older versions"}, {}});
  const bool much_newer = order > 0 && std::atoi(version.c_str()) > std::atoi(own.c_str());
  if (!much_newer || p.variant.fact("language") != "C++") return std::nullopt;
  return caution(p, {"toolset",
                     {sides[0], sides[1], "newer compilers call functions that an older C++ run-time may lack"},
                     "build with the compiler it was made with, or newer; the rehearsal names what is missing"});
}

/// Objects of the GNU tools for Windows call functions of their own run-time, which the other linkers do not have.
std::optional<Misfit> gnu_code(const Pairing& p) {
  const auto* toolset = p.variant.fact_as<NamedVersion>("toolset");
  const bool gnu = toolset != nullptr && toolset->name == "gcc";
  if (!gnu || is_shared(p) || p.toolchain.family != CompilerFamily::msvc) return std::nullopt;
  const std::vector<std::string> sides{variant_has(p, "toolset"), lane_is(p, "MSVC-style")};
  if (p.variant.fact("language") == "C++") return misfit(p, {"toolset", sides, take_another(p)});
  return caution(p, {"toolset",
                     {sides[0], sides[1], "it may need libgcc and libmingwex, which are not part of such a link"},
                     take_another(p)});
}

std::optional<Misfit> configuration(const Pairing& p) {
  const std::string& file = p.variant.configuration;
  if (file == "unknown" || file == p.lane.configuration) return std::nullopt;
  // Where a debug build is one because of its run-time, that is what must agree: other rules say it.
  const bool told_by_run_time = p.toolchain.family == CompilerFamily::msvc || p.variant.fact("stl-debug") == "on";
  if (told_by_run_time) return std::nullopt;
  const std::vector<std::string> sides{variant_is(p, "configuration", fmt::format("a {} build", file)),
                                       fmt::format("{} is {}", lane_named(p), p.lane.configuration)};
  if (file == "release")
    return fine(p, {"configuration", {sides[0], sides[1], "no run-time of theirs depends on it"}, {}});
  return caution(p, {"configuration",
                     {sides[0], sides[1], "it is slower, and stops where its own checks fail"},
                     fmt::format("take a release build of {}", p.card.name)});
}

std::optional<Misfit> sanitizer(const Pairing& p) {
  const auto* file = p.variant.fact_as<std::vector<std::string>>("sanitizers");
  const std::string& lane = answer_of(p, "sanitizers");
  if (file == nullptr) return std::nullopt;
  std::vector<std::string> missing;
  std::copy_if(file->begin(), file->end(), std::back_inserter(missing), [&](const auto& name) { return name != lane; });
  if (missing.empty()) return std::nullopt;
  const std::string flags = "-fsanitize=" + text::join(missing, ",");
  // Of the two families only Clang checks for uses of what was never written.
  const bool possible = p.toolchain.family == CompilerFamily::clang ||
                        (p.toolchain.family == CompilerFamily::gcc &&
                         std::find(missing.begin(), missing.end(), "memory") == missing.end());
  const std::string plain = fmt::format("take a plain build of {}", p.card.name);
  return misfit(p,
                {"sanitizer",
                 {variant_has(p, "sanitizers"), lane_is(p, lane.empty() ? "without sanitizers" : "one with " + lane)},
                 possible ? fmt::format("{}, or {}", plain, with_flag(p, flags)) : plain});
}

std::optional<Misfit> entry(const Pairing& p) {
  const std::string& name = p.variant.fact("entry");
  if (name.empty() || !p.into_program || is_shared(p)) return std::nullopt;
  return caution(p, {"entry",
                     {variant_is(p, "entry", fmt::format("a library that brings its own {}", name)),
                      "linkers take it when no object of the program has one, and else it can clash"},
                     fmt::format("take a build of {} without its test or tool programs, unless this {} is meant",
                                 p.card.name, name)});
}

std::optional<Misfit> soname(const Pairing& p) {
  const bool dll = p.variant.target.format == Format::pe;
  const std::string& asked = p.variant.fact(dll ? "dll-name" : "soname");
  if (!is_shared(p) || asked.empty() || p.variant.runtime.empty()) return std::nullopt;
  const auto has_name = [&](const std::string& file) {
    const std::string name = std::filesystem::path(file).filename().string();
    return dll ? text::lower(name) == text::lower(asked) : name == asked;
  };
  if (std::any_of(p.variant.runtime.begin(), p.variant.runtime.end(), has_name)) return std::nullopt;
  return misfit(p, {"soname",
                    {variant_is(p, dll ? "dll-name" : "soname", fmt::format("asked for as {}", asked)),
                     fmt::format("the library has {}", text::join(p.variant.runtime, ", "))},
                    fmt::format("put a file or link of the name {} beside it{}", asked,
                                p.card.lies_open ? "" : ", and take the library again with --replace")});
}

/// Licences of the GNU family, by their SPDX identifiers, ask for more when code becomes part of a program.
std::optional<Misfit> licence_static(const Pairing& p) {
  if (!p.check_licences || is_shared(p) || p.card.licence.find("GPL-") == std::string::npos) return std::nullopt;
  return caution(
      p, {"licence-static",
          {fmt::format("{} is under {} (its card)", p.card.name, p.card.licence), variant_is(p, "linkage", "static")},
          fmt::format("use its shared library, or see what {} asks of programs that hold it", p.card.licence)});
}

}  // namespace

std::vector<Rule> code_rules() {
  return {linkage,       loadable,  pic,   link_time_code, toolset,       gnu_code,
          configuration, sanitizer, entry, soname,         licence_static};
}

}  // namespace fibula
