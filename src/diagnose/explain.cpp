#include <fibula/explain.hpp>

#include "base/text.hpp"
#include "diagnose/load_causes.hpp"
#include "diagnose/log.hpp"
#include "facts/mangling.hpp"
#include "index/header_search.hpp"
#include "link/providers.hpp"
#include "os/files.hpp"
#include "take/folder_card.hpp"

#include <fmt/format.h>
#include <algorithm>
#include "facts/library_name.hpp"

namespace fibula {
namespace {

using ComplaintKind = Complaint::Kind;

class Explainer {
 public:
  explicit Explainer(const ExplainContext& context) : context_(context) {}

  std::vector<Finding> explain(std::string_view log) {
    const auto complaints = complaints_in(log);
    for (const auto& complaint : complaints) {
      if (complaint.kind == ComplaintKind::header_missing) findings_.push_back(missing_header(complaint));
      if (complaint.kind == ComplaintKind::library_missing) findings_.push_back(missing_library(complaint));
    }
    explain_undefined(complaints);
    for (auto& finding : load_findings(load_complaints_in(log), context_)) findings_.push_back(std::move(finding));
    if (findings_.empty() && !complaints.empty()) findings_.push_back(own_code(complaints.front()));
    return std::move(findings_);
  }

 private:
  bool attached(const std::string& library) const {
    if (context_.project == nullptr) return false;
    const auto& uses = context_.project->libraries();
    return std::any_of(uses.begin(), uses.end(), [&](const LibraryUse& use) { return use.name == library; });
  }

  std::vector<Card> cards() const {
    std::vector<Card> newest;
    for (const auto& use : context_.project == nullptr ? std::vector<LibraryUse>() : context_.project->libraries()) {
      if (use.folder.empty()) continue;
      if (auto card = card_of_folder(use.folder, use.name)) newest.push_back(std::move(*card));
    }
    for (const auto& name : context_.shelf.names()) {
      auto versions = context_.shelf.versions(name);
      if (versions && !versions->empty()) newest.push_back(std::move(versions->front()));
    }
    return newest;
  }

  /// How to use a library: attach it, or, when it is attached, hand its files to the compiler.
  void advise(Finding& finding, const std::string& library, std::string_view response_file) const {
    if (!attached(library)) {
      finding.edit = "fibula attach " + library;
      finding.remedy = fmt::format("attach it: {}", finding.edit);
      return;
    }
    finding.remedy = fmt::format("{} is attached: build with fibula build, or hand @.fibula/<lane>/{} to the compiler",
                                 library, response_file);
  }

  Finding missing_header(const Complaint& complaint) const {
    Finding finding{.cause = "header-not-found", .stage = "compile", .subject = complaint.name, .certainty = "read"};
    finding.because.push_back(fmt::format("{} includes {}", complaint.where, complaint.name));
    const Card* owner = nullptr;
    std::optional<HeaderHit> found;
    const auto all = cards();
    // What is attached was meant before what is not, and the name as it is written before one like it.
    for (const auto& [must_be_attached, as_written] :
         {std::pair{true, true}, {true, false}, {false, true}, {false, false}}) {
      for (const auto& card : all) {
        if (found || (must_be_attached && !attached(card.name))) continue;
        auto hit = header_meant(card, complaint.name);
        if (!hit || hit->as_written != as_written) continue;
        found = std::move(hit);
        owner = &card;
      }
    }
    if (!found) {
      finding.because.push_back(
          fmt::format("no library on the shelf {} has a header of that name", context_.shelf.shown()));
      finding.remedy =
          "take the library that it belongs to onto the shelf, then attach it; or correct the name in the #include";
      return finding;
    }
    finding.culprits.push_back(found->path.string());
    finding.because.push_back(
        fmt::format("{} {} has {}", owner->name, owner->version, found->as_written ? "it" : found->name));
    if (found->as_written || !attached(owner->name)) advise(finding, owner->name, "compile.rsp");
    if (!found->as_written) {
      const std::string spelling = fmt::format("write #include <{}>", found->name);
      finding.remedy = attached(owner->name) ? spelling : fmt::format("{}, and {}", spelling, finding.remedy);
    }
    return finding;
  }

  Finding missing_library(const Complaint& complaint) const {
    Finding finding{.cause = "library-not-found", .stage = "link", .subject = complaint.name, .certainty = "read"};
    finding.because.push_back(
        fmt::format("the linker looked for lib{0}.so and lib{0}.a in its search directories", complaint.name));
    for (const auto& card : cards()) {
      for (const auto& variant : card.variants) {
        for (const auto& link : variant.link) {
          const std::string name = fs::path(link).filename().string();
          if (!name.starts_with("lib" + complaint.name + ".")) continue;
          finding.culprits.push_back((card.root / link).string());
          finding.because.push_back(fmt::format("{} {} has it", card.name, card.version));
          advise(finding, card.name, "link.rsp");
          return finding;
        }
      }
    }
    finding.remedy = "install its development package, or take the library and attach it";
    return finding;
  }

  /// Linkers print readable names; symbol tables have mangled ones. The function's own name is in both.
  static std::string bare_name(const std::string& readable) {
    std::string name = readable.substr(0, readable.find('('));
    return name.substr(name.rfind(':') + 1);
  }

  void explain_undefined(const std::vector<Complaint>& complaints) {
    std::vector<const Complaint*> open;
    for (const auto& complaint : complaints) {
      if (complaint.kind == ComplaintKind::undefined) open.push_back(&complaint);
    }
    if (open.empty()) return;
    std::map<fs::path, size_t> finding_of;
    for (const auto* complaint : open) {
      const auto provider = provider_of(complaint->name);
      const fs::path key = provider ? provider->path : fs::path();
      if (const auto known = finding_of.find(key); known != finding_of.end()) {
        findings_[known->second].because.push_back(fmt::format("{} needs {}", complaint->where, complaint->name));
        continue;
      }
      finding_of[key] = findings_.size();
      findings_.push_back(undefined(*complaint, provider));
    }
  }

  Finding undefined(const Complaint& complaint, const std::optional<Provider>& provider) const {
    Finding finding{.cause = "library-not-linked",
                    .stage = "link",
                    .subject = complaint.name,
                    .certainty = provider ? "read" : "guessed"};
    finding.because.push_back(fmt::format("{} needs {}", complaint.where, complaint.name));
    if (!provider) {
      finding.cause = "missing-source";
      finding.because.emplace_back("no library on the shelf or in the compiler's search directories defines it");
      finding.remedy =
          "a source file that defines it is left out of the build, or its library is not on the shelf: fibula take "
          "FOLDER";
      return finding;
    }
    finding.culprits.push_back(fmt::format("{} defines it", provider->path.string()));
    if (!provider->library.empty()) {
      advise(finding, provider->library, "link.rsp");
      return finding;
    }
    finding.edit = attach_command(*provider);
    finding.remedy =
        fmt::format("link it: -l{}; or take and attach it: {}", library_stem(provider->path), finding.edit);
    return finding;
  }

  /// The library that defines a name: a C name directly, a readable C++ name by looking at what each mangled name reads
  /// as.
  std::optional<Provider> provider_of(const std::string& name) {
    for (const auto& card : cards()) {
      for (const auto& variant : card.variants) {
        for (const auto& link : variant.link) {
          const auto symbols = symbols_of(card.root / link);
          if (!symbols) continue;
          const auto matches = [&](const Symbol& symbol) {
            return symbol.defines && (symbol.name == name || readable(symbol.name, name));
          };
          if (std::any_of(symbols->begin(), symbols->end(), matches)) return Provider{card.root / link, card.name};
        }
      }
    }
    if (context_.toolchain == nullptr) return std::nullopt;
    const auto found = find_providers(files_, providers_, {name}, *context_.toolchain, context_.shelf);
    return found.empty() ? std::nullopt : std::optional(found.begin()->second);
  }

  static bool readable(const std::string& symbol, const std::string& name) {
    if (!is_itanium_mangled(symbol) || symbol.find(bare_name(name)) == std::string::npos) return false;
    return readable_name(symbol) == name;
  }

  static Finding own_code(const Complaint& complaint) {
    return {.cause = "not-about-libraries",
            .stage = "compile",
            .subject = complaint.where,
            .because = {complaint.name},
            .remedy = "the fault is in the program's own code, at the place the compiler names",
            .certainty = "guessed"};
  }

  const ExplainContext& context_;
  FileStore files_;
  ProviderStore providers_{Cache::standard()};
  std::vector<Finding> findings_;
};

}  // namespace

std::vector<Finding> explain(std::string_view log, const ExplainContext& context) {
  return Explainer(context).explain(log);
}

}  // namespace fibula
