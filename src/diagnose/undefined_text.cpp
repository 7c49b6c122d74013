#include "diagnose/undefined_text.hpp"

#include "diagnose/library_advice.hpp"
#include "diagnose/name_forms.hpp"
#include "diagnose/well_known_names.hpp"
#include "facts/library_name.hpp"
#include "facts/mangling.hpp"
#include "index/shelf_names.hpp"
#include "link/providers.hpp"
#include "take/folder_card.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

class Undefined {
 public:
  explicit Undefined(Evidence& evidence) : evidence_(evidence), context_(evidence.context()) {}

  std::vector<Finding> explain(const std::vector<Complaint>& complaints) {
    std::map<fs::path, size_t> finding_of;
    for (const auto& complaint : complaints) {
      if (complaint.kind != Complaint::Kind::undefined) continue;
      const bool by_microsoft = complaint.teller == Complaint::Teller::microsoft;
      if (const auto known = well_known_name(complaint.name, by_microsoft)) {
        add(complaint, *known);
        continue;
      }
      const auto provider = provider_of(complaint);
      const fs::path key = provider ? provider->path : fs::path();
      const auto [known, is_new] = finding_of.emplace(key, findings_.size());
      if (is_new) {
        findings_.push_back(finding(complaint, provider));
      } else if (findings_[known->second].because.size() < 4) {
        findings_[known->second].because.push_back(needs(complaint));
      }
    }
    return std::move(findings_);
  }

 private:
  /// What names themselves tell.
  void add(const Complaint& complaint, const WellKnown& known) {
    for (auto& finding : findings_) {
      if (finding.cause != known.cause || finding.remedy != known.remedy) continue;
      if (finding.because.size() < 4) finding.because.insert(finding.because.begin() + 1, needs(complaint));
      return;
    }
    findings_.push_back({.cause = std::string(known.cause),
                         .stage = "link",
                         .subject = shown_name(complaint),
                         .because = {needs(complaint), known.why},
                         .remedy = known.remedy,
                         .certainty = "guessed"});
  }

  /// As the tool reads it, where it says so: names of Microsoft's compiler are read by its tools alone.
  static const std::string& shown_name(const Complaint& complaint) {
    const bool mangled = complaint.name.starts_with('?') && !complaint.detail.empty();
    return mangled ? complaint.detail : complaint.name;
  }

  static std::string needs(const Complaint& complaint) {
    return fmt::format("{} needs {}", complaint.user.empty() ? "an object" : complaint.user, shown_name(complaint));
  }

  std::string nowhere(const Complaint& complaint) const {
    if (context_.toolchain == nullptr || complaint.teller != Complaint::Teller::any)
      return "no library on the shelf defines it";
    return fmt::format("no library on the shelf defines it, nor one in the folders that {} searches here{}",
                       context_.toolchain->compiler.filename().string(), but_inside(complaint.name));
  }

  Finding finding(const Complaint& complaint, const std::optional<Provider>& provider) const {
    Finding finding{.cause = "library-not-linked",
                    .stage = "link",
                    .subject = shown_name(complaint),
                    .certainty = provider ? "read" : "guessed"};
    finding.because.push_back(needs(complaint));
    if (!provider) {
      finding.cause = "undefined";
      finding.because.push_back(nowhere(complaint));
      finding.remedy =
          "a source file that defines it is left out of the build, or its library is not on the shelf: fibula take "
          "FOLDER";
      return finding;
    }
    finding.culprits.push_back(fmt::format("{} defines it", provider->path.string()));
    if (library_stem(provider->path) == "c") {
      finding.cause = "c-runtime";
      finding.remedy =
          "every program links it: the link leaves it out (-nostdlib, ld called directly), or its machine has another "
          "C library, or an older one";
    } else if (provider->library.empty()) {
      finding.edit = attach_command(*provider);
      finding.remedy = fmt::format("link it: {}; or take and attach it: {}", word_of(provider->path), finding.edit);
    } else {
      advise_using(finding, provider->library, context_.project, "link.rsp");
    }
    return finding;
  }

  /// `-l` finds no file whose name ends in a version.
  std::string word_of(const fs::path& file) const {
    const std::string stem = library_stem(file);
    const auto& toolchain = *context_.toolchain;
    return find_library(toolchain.library_directories, stem, toolchain.static_link, linking_of(toolchain))
               ? "-l" + stem
               : file.string();
  }

  /// A C name directly, a readable C++ name by what each mangled name reads as.
  std::optional<Provider> provider_of(const Complaint& complaint) {
    const std::string& name = complaint.name;
    for (const auto& library : libraries_defining(context_.shelf, context_.cache, {name})) {
      const auto versions = context_.shelf.versions(library);
      for (const auto& variant : versions && !versions->empty() ? versions->front().variants : std::vector<Variant>()) {
        for (const auto& link : variant.link) {
          if (has(versions->front().root / link, name)) return Provider{versions->front().root / link, library};
        }
      }
    }
    // This machine's libraries say nothing of Windows and macOS.
    if (context_.toolchain == nullptr || complaint.teller != Complaint::Teller::any) return std::nullopt;
    const auto found =
        find_providers(evidence_.files(), evidence_.providers(), {name}, *context_.toolchain, context_.shelf);
    return found.empty() ? std::nullopt : std::optional(found.begin()->second);
  }

  static bool has(const fs::path& file, const std::string& name) {
    bool found = false;
    const std::string bare = source_name(name.substr(0, name.find('(')));
    const std::string last = bare.substr(bare.rfind(':') + 1);
    const auto counted = visit_symbols(file, [&](const SymbolView& symbol) {
      if (found || !symbol.defines) return;
      const bool mangled = is_itanium_mangled(symbol.name) && symbol.name.find(last) != std::string_view::npos;
      found = symbol.name == name || (mangled && readable_name(symbol.name) == name);
    });
    return counted && found;
  }

  Evidence& evidence_;
  const ExplainContext& context_;
  std::vector<Finding> findings_;
};

}  // namespace

std::vector<Finding> undefined_by_text(const std::vector<Complaint>& complaints, Evidence& evidence) {
  return Undefined(evidence).explain(complaints);
}

}  // namespace fibula
