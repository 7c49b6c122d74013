#include "diagnose/missing_symbol.hpp"

#include "binary/open.hpp"
#include "diagnose/name_forms.hpp"
#include "diagnose/near_files.hpp"
#include "facts/mangling.hpp"

#include <fibula/facts.hpp>
#include <fibula/symbols.hpp>

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

class MissingSymbol {
 public:
  MissingSymbol(Finding& finding, const Complaint& complaint, const LoadedProgram& program,
                const ExplainContext& context)
      : finding_(finding), complaint_(complaint), program_(program), context_(context), symbol_(complaint.name) {
    where_ = complaint.user.empty() ? complaint.file : complaint.user;
  }

  void explain() {
    finding_.cause = "runtime-symbol-missing";
    finding_.subject = symbol_;
    if (asked_by_name()) return;
    because(complaint_.user.empty() ? fmt::format("{} does not have {}", where_, symbol_)
                                    : fmt::format("{} needs {}", where_, readable_name(symbol_)));
    if (!complaint_.user.empty() && !complaint_.file.empty() && complaint_.file != complaint_.user)
      because(fmt::format("{} does not have it", complaint_.file));
    if (passed_over() || of_other_library() || in_the_program()) return;
    finding_.culprits.push_back(where_);
    for (const auto& one : program_.closure) {
      if (one.status != NeedStatus::found && one.status != NeedStatus::by_luck) continue;
      if (gives_out(one.path, symbol_)) return started_otherwise(one);
      because(fmt::format("{} does not define it{}", one.path,
                          one.why.starts_with("LD_LIBRARY_PATH") ? fmt::format(" ({})", one.why) : ""));
    }
    if (linked_without_it()) return;
    finding_.remedy =
        "headers, link and run-time files are of different versions: build again with fibula build, which "
        "brings the files that the link was made with";
  }

 private:
  void because(std::string text) { finding_.because.push_back(std::move(text)); }

  /// A program asked for it by `dlsym`: the file does not need it itself. glibc says the same of both.
  bool asked_by_name() {
    if (complaint_.user.empty()) return false;
    const auto opened = open_binary(context_.folder / complaint_.user, want_symbols | want_dynamic);
    const Image* image = opened ? opened->image() : nullptr;
    if (image == nullptr || image->target.format != Format::elf) return false;
    const auto& symbols = image->dynamic_symbols;
    const bool needs =
        std::any_of(symbols.begin(), symbols.end(), [&](const ImageSymbol& one) { return one.name == symbol_; });
    if (needs) return false;
    finding_.culprits = {where_};
    because(fmt::format("{} was asked for {}, and does not have it", where_, symbol_));
    finding_.remedy = fmt::format("define {} where {} is made, and export it", symbol_, where_);
    for (const auto& one : symbols) {
      const auto how = one.defined ? difference(symbol_, one.name) : std::nullopt;
      if (!how || how->cause != "language-linkage") continue;
      finding_.cause = "language-linkage";
      because(fmt::format("it has {}: {}", how->has, readable_name(one.name)));
      finding_.remedy = fmt::format("declare it extern \"C\" where {} is made", where_);
      break;
    }
    return true;
  }

  bool passed_over() {
    for (const auto& one : program_.closure) {
      for (const auto& other : one.passed_over) {
        if (!gives_out(other, symbol_)) continue;
        finding_.cause = "wrong-library-found-first";
        finding_.culprits = {one.path};
        because(fmt::format("{} has it, and the loader takes {} ({})", other, one.path, one.why));
        finding_.remedy = fmt::format(
            "move {} away, or link with a run path that leads to the right one: -Wl,-rpath,'$ORIGIN'", one.path);
        return true;
      }
    }
    return false;
  }

  bool of_other_library() {
    const auto is_loader = [](const ClosureEntry& one) { return one.name.find("ld-musl-") != std::string::npos; };
    if (!symbol_.starts_with("__") || std::none_of(program_.closure.begin(), program_.closure.end(), is_loader))
      return false;
    finding_.cause = "c-runtime";
    because("the program runs with musl, and the name is one of glibc's");
    finding_.remedy = "take a build of the library for musl";
    return true;
  }

  bool in_the_program() {
    const bool by_plugin =
        !program_.file.empty() && absolute_path(where_) != program_.file && !context_.command.empty();
    if (!by_plugin || !program_defines()) return false;
    finding_.cause = "program-symbols-not-exported";
    finding_.culprits = {program_.file.string()};
    because(fmt::format("{} defines it, and does not show it to libraries", program_.file.string()));
    finding_.remedy = "link the program with -rdynamic: flags = [\"-rdynamic\"] of the output";
    return true;
  }

  /// A name that stays inside a program is in its own table, which is there unless it was stripped, and in its objects.
  bool program_defines() const {
    if (keeps_to_itself(program_.file, symbol_)) return true;
    if (context_.project == nullptr || context_.toolchain == nullptr) return false;
    for (const auto& lane : context_.project->lanes()) {
      for (const auto& output : context_.project->outputs()) {
        for (const auto& source : context_.project->sources(output)) {
          if (gives_out(context_.project->object_of(lane, output, source), symbol_)) return true;
        }
      }
    }
    return false;
  }

  /// The loader took another file than it would now.
  void started_otherwise(const ClosureEntry& one) {
    finding_.cause = "wrong-library-found-first";
    finding_.certainty = "guessed";
    because(fmt::format("{} defines it, and is what is found here ({})", one.path, one.why));
    finding_.remedy =
        "it was started with other settings than here: look at LD_LIBRARY_PATH, and at what LD_DEBUG=libs says that "
        "the loader takes";
  }

  /// Linkers let shared libraries leave names open that nothing they name has.
  bool linked_without_it() {
    const auto file = context_.folder / where_;
    const auto facts = inspect(file);
    if (!facts || (facts->kind.value != Kind::shared_library && facts->kind.value != Kind::plugin)) return false;
    const auto needs = facts->needs.value.value_or(std::vector<Need>());
    const auto is_systems = [](const Need& need) {
      return need.name.starts_with("libc.") || need.name.starts_with("ld-linux") || need.name.starts_with("libm.") ||
             need.name.starts_with("libstdc++.") || need.name.starts_with("libgcc_s.");
    };
    if (!std::all_of(needs.begin(), needs.end(), is_systems)) return false;
    because(fmt::format("{} names no library beside the system's that could have it", where_));
    finding_.remedy =
        fmt::format("link {} with the library that has it; -Wl,-z,defs tells at the link what is missing", where_);
    return true;
  }

  Finding& finding_;
  const Complaint& complaint_;
  const LoadedProgram& program_;
  const ExplainContext& context_;
  const std::string& symbol_;
  std::string where_;
};

}  // namespace

void explain_missing_symbol(Finding& finding, const Complaint& complaint, const LoadedProgram& program,
                            const ExplainContext& context) {
  MissingSymbol(finding, complaint, program, context).explain();
}

}  // namespace fibula
