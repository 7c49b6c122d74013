/// Binaries that belong together, by what they are for: architecture, linkage, configuration, run-time.
#include "base/text.hpp"
#include "base/version.hpp"
#include "facts/library_name.hpp"
#include "os/files.hpp"
#include "take/source.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

/// Facts that a card keeps of its variants, because a rule compares them.
constexpr std::string_view kept[] = {
    "kind",       "cpu-floor",  "float-abi",  "os-floor",    "subsystem", "c-runtime", "libc-floor", "cxx-runtime",
    "cxx-floor",  "string-abi", "interface",  "own-strings", "stl-debug", "language",  "link-time",  "toolset",
    "exceptions", "threads",    "sanitizers", "pic",         "entry",     "soname",    "dll-name",   "install-name"};

/// Two files whose values of one of these differ cannot be in one program.
constexpr std::string_view decisive[] = {"c-runtime", "float-abi",  "cxx-runtime", "string-abi",
                                         "stl-debug", "exceptions", "threads",     "configuration"};

/// What a name says of the configuration: used where the bytes are silent.
struct Hint {
  std::string configuration = "unknown";
  Learnt learnt = {};
};

Hint folder_hint(const std::string& file) {
  for (const auto& part : fs::path(file).parent_path()) {
    const std::string name = text::lower(part.string());
    if (name == "debug" || name == "release") return {name, {Certainty::guessed, file, "a folder's name"}};
  }
  return {};
}

Target target_of(const Facts& facts) {
  return {family_of(facts.format.value.value_or(Format::unknown)), facts.arch.value.value_or(Arch::unknown),
          facts.bits.value.value_or(0), facts.endian.value.value_or(Endian::little)};
}

Linkage linkage_of(const Facts& facts) {
  const bool shared = facts.kind.value == Kind::shared_library || facts.kind.value == Kind::import_library;
  return shared ? Linkage::shared : Linkage::static_;
}

/// How makers tell a debug build from the release build beside it.
constexpr std::string_view debug_endings[] = {"d", "_d", "-d", "-gd", "_debug", "-debug", "debug"};

/// `libsaltlogd.a` beside `libsaltlog.a` is the debug build of the two. `beside` are the stems in the same folder.
Hint name_hint(const std::string& file, const std::set<std::string>& beside) {
  const std::string stem = library_stem(file);
  for (const auto ending : debug_endings) {
    const std::string folder = fs::path(file).parent_path().generic_string();
    if (stem.size() > ending.size() && text::lower(stem).ends_with(ending)) {
      const std::string release = stem.substr(0, stem.size() - ending.size());
      if (beside.contains(folder + "/" + release))
        return {"debug", {Certainty::guessed, file, fmt::format("its name, beside {}", release)}};
    }
    for (const std::string& debug : {stem + std::string(ending), stem + text::upper(ending)}) {
      if (beside.contains(folder + "/" + debug))
        return {"release", {Certainty::guessed, file, fmt::format("its name, beside {}", debug)}};
    }
  }
  return {};
}

/// The stems of all libraries, each behind its folder.
std::set<std::string> stems_of(const std::vector<Binary>& binaries) {
  std::set<std::string> stems;
  for (const auto& binary : binaries)
    stems.insert(fs::path(binary.file).parent_path().generic_string() + "/" + library_stem(binary.file));
  return stems;
}

/// A variant while it is put together.
struct Draft {
  Variant variant;
  Hint hint;
  std::set<std::string> folders;
  std::vector<const Binary*> binaries;
};

/// A fact that is a name; empty where the file does not tell it.
std::string fact_of(const std::vector<FactRow>& rows, std::string_view id) {
  const auto found = std::find_if(rows.begin(), rows.end(), [&](const FactRow& row) { return row.id == id; });
  const auto* name = found == rows.end() ? nullptr : std::get_if<std::string>(&found->value);
  return name == nullptr ? std::string() : *name;
}

/// Whether a value says nothing that could stand against another one.
bool is_open(const std::string& value) {
  return value.empty() || value == "none" || value == "both" || value == "any" || value == "unknown";
}

bool agrees(const Draft& draft, const std::vector<FactRow>& rows) {
  return std::none_of(std::begin(decisive), std::end(decisive), [&](std::string_view id) {
    const std::string theirs = fact_of(rows, id);
    const std::string& ours = id == "configuration" ? draft.variant.configuration : draft.variant.fact(id);
    return !is_open(ours) && !is_open(theirs) && ours != theirs;
  });
}

/// The same library twice in one variant: they are alternatives. The names of one shared library are not, nor are a DLL
/// and its import library.
bool is_alternative(const Draft& draft, const Binary& binary) {
  if (linkage_of(binary.facts) == Linkage::shared) return false;
  const auto clashes = [&](const Binary* other) {
    return library_stem(other->file) == library_stem(binary.file) &&
           fs::path(other->file).parent_path() != fs::path(binary.file).parent_path();
  };
  return std::any_of(draft.binaries.begin(), draft.binaries.end(), clashes);
}

Learnt told_by(const FactRow& row, const std::string& file) {
  return {row.certainty, file, row.from};
}

/// Whether a later file's value stands for the whole variant: a floor as the highest, position dependence as the worst.
struct Outdoes {
  std::string_view id;

  bool operator()(const std::string& fresh, const std::string& known) const {
    if (id.ends_with("-floor")) return compare_versions(fresh, known) > 0;
    if (id == "string-abi" || id == "own-strings") return is_open(known) && known != "both";
    return (id == "language" || id == "interface") && fresh == "C++";
  }
  bool operator()(const NamedVersion& fresh, const NamedVersion& known) const {
    return id.ends_with("-floor") && fresh.name == known.name && compare_versions(fresh.version, known.version) > 0;
  }
  bool operator()(const PicReport& fresh, const PicReport& known) const { return fresh.level > known.level; }
  template <class One, class Other>
  bool operator()(const One&, const Other&) const {
    return false;
  }
};

bool outdoes(std::string_view id, const FactValue& fresh, const FactValue& known) {
  return std::visit(Outdoes{id}, fresh, known);
}

void learn(const std::vector<FactRow>& rows, const std::string& file, Variant& variant) {
  for (const auto& row : rows) {
    if (row.id == "arch" || row.id == "kind")
      variant.learnt.try_emplace(row.id == "kind" ? "linkage" : row.id, told_by(row, file));
    if (std::find(std::begin(kept), std::end(kept), row.id) == std::end(kept)) continue;
    const auto known = variant.facts.find(row.id);
    if (known != variant.facts.end() && !outdoes(row.id, row.value, known->second)) continue;
    variant.facts[row.id] = row.value;
    variant.learnt[row.id] = told_by(row, file);
  }
}

void learn_configuration(const std::vector<FactRow>& rows, const Binary& binary, Draft& draft) {
  Variant& variant = draft.variant;
  if (variant.configuration != "unknown") return;
  for (const auto& row : rows) {
    if (row.id != "configuration") continue;
    variant.configuration = std::get<std::string>(row.value);
    variant.learnt["configuration"] = told_by(row, binary.file);
    return;
  }
  if (draft.hint.configuration == "unknown") return;
  variant.configuration = draft.hint.configuration;
  variant.learnt["configuration"] = draft.hint.learnt;
}

/// The draft that a binary goes into: one in whose folders it lies, else any other, else a new one.
Draft& draft_for(std::vector<Draft>& drafts, const Binary& binary, const std::vector<FactRow>& rows, const Hint& hint) {
  const Target target = target_of(binary.facts);
  const Linkage linkage = linkage_of(binary.facts);
  const std::string folder = fs::path(binary.file).parent_path().string();
  Draft* found = nullptr;
  for (auto& draft : drafts) {
    if (draft.variant.target != target || draft.variant.linkage != linkage ||
        draft.hint.configuration != hint.configuration)
      continue;
    if (!agrees(draft, rows) || is_alternative(draft, binary)) continue;
    if (found == nullptr || draft.folders.contains(folder)) found = &draft;
  }
  if (found != nullptr) return *found;
  Draft fresh;
  fresh.variant.target = target;
  fresh.variant.linkage = linkage;
  fresh.hint = hint;
  return drafts.emplace_back(std::move(fresh));
}

/// The names of one shared library: the development link, the soname, the file itself. Which of them exist is what
/// counts.
void add_shared(const Source& source, const Binary& binary, Variant& variant) {
  const fs::path path = source.root / binary.file;
  std::error_code ignored;
  const fs::path real = fs::canonical(path, ignored);
  const fs::path soname = fs::path(binary.facts.soname.value.value_or(path.filename().string())).filename();
  const fs::path beside = fs::exists(path.parent_path() / soname, ignored) ? path.parent_path() : real.parent_path();
  const fs::path runtime = fs::exists(beside / soname, ignored) ? beside / soname : path;
  const auto runtime_name = shown_from(source.root, runtime);
  if (std::find(variant.runtime.begin(), variant.runtime.end(), runtime_name) == variant.runtime.end())
    variant.runtime.push_back(runtime_name);
  const auto same_library = [&](const std::string& other) {
    std::error_code gone;
    return fs::canonical(source.root / other, gone) == real;
  };
  const auto known = std::find_if(variant.link.begin(), variant.link.end(), same_library);
  if (known == variant.link.end()) {
    variant.link.push_back(binary.file);
  } else if (binary.file.ends_with(".so")) {
    *known = binary.file;
  }
}

/// A DLL is for the loader; linkers take its import library where there is one.
void add_dll(const Draft& draft, const Binary& binary, Variant& variant) {
  variant.runtime.push_back(binary.file);
  const auto name = text::lower(fs::path(binary.file).filename().string());
  const auto stands_for_it = [&](const Binary* other) {
    return other->facts.kind.value == Kind::import_library &&
           text::lower(other->facts.soname.value.value_or("")) == name;
  };
  if (std::none_of(draft.binaries.begin(), draft.binaries.end(), stands_for_it)) variant.link.push_back(binary.file);
}

void add_needs(const Facts& facts, Variant& variant) {
  for (const auto& need : facts.needs.value.value_or(std::vector<Need>())) {
    if (std::find(variant.needs.begin(), variant.needs.end(), need.name) == variant.needs.end())
      variant.needs.push_back(need.name);
  }
}

void add_files(const Source& source, Draft& draft) {
  for (const Binary* binary : draft.binaries) {
    const Facts& facts = binary->facts;
    const bool image = facts.kind.value == Kind::shared_library && facts.format.value != Format::stub;
    add_needs(facts, draft.variant);
    if (image && draft.variant.target.format == Format::pe) {
      add_dll(draft, *binary, draft.variant);
    } else if (image) {
      add_shared(source, *binary, draft.variant);
    } else {
      draft.variant.link.push_back(binary->file);
    }
  }
}

std::string plain_id(const Variant& variant) {
  std::string id = fmt::format("{}-{}-{}", to_string(variant.target.arch), to_string(variant.target.format),
                               to_string(variant.linkage));
  return variant.configuration == "unknown" ? id : id + "-" + variant.configuration;
}

/// What tells this draft from the others of the same name: a fact, else the folder it came in.
std::string difference(const Draft& draft, const std::vector<const Draft*>& others) {
  for (const auto id : decisive) {
    const std::string& value = draft.variant.fact(id);
    const auto same = [&](const Draft* other) { return other->variant.fact(id) == value; };
    if (value.empty() || std::any_of(others.begin(), others.end(), same)) continue;
    // "level 2" alone would say nothing in an id.
    const size_t space = value.rfind(' ');
    return space == std::string::npos ? value : fmt::format("{}-{}", id, value.substr(space + 1));
  }
  return draft.folders.empty() ? "" : fs::path(*draft.folders.begin()).filename().string();
}

void give_ids(std::vector<Draft>& drafts) {
  std::set<std::string> taken;
  for (auto& draft : drafts) {
    std::vector<const Draft*> others;
    for (const auto& other : drafts) {
      if (&other != &draft && plain_id(other.variant) == plain_id(draft.variant)) others.push_back(&other);
    }
    std::string id = plain_id(draft.variant);
    if (const auto more = others.empty() ? "" : difference(draft, others); !more.empty()) id += "-" + more;
    draft.variant.id = id;
    for (int number = 2; !taken.insert(draft.variant.id).second; ++number)
      draft.variant.id = fmt::format("{}-{}", id, number);
  }
}

/// A universal file counts once for each of its architectures.
std::vector<Binary> without_slices(const std::vector<Binary>& binaries) {
  std::vector<Binary> single;
  for (const auto& binary : binaries) {
    if (binary.facts.slices.empty()) single.push_back(binary);
    for (const auto& slice : binary.facts.slices) {
      single.push_back({binary.file, slice});
      if (!slice.kind) single.back().facts.kind = binary.facts.kind;
    }
  }
  return single;
}

}  // namespace

std::vector<Variant> variants_in(const Source& source) {
  std::vector<Draft> drafts;
  const auto binaries = without_slices(source.binaries);
  const auto stems = source.from_prefix ? std::set<std::string>() : stems_of(binaries);
  for (const auto& binary : binaries) {
    if (binary.facts.kind.value == Kind::program || !binary.facts.format) continue;
    const auto facts = rows(binary.facts);
    Hint hint = folder_hint(binary.file);
    if (hint.configuration == "unknown") hint = name_hint(binary.file, stems);
    Draft& draft = draft_for(drafts, binary, facts, hint);
    draft.binaries.push_back(&binary);
    draft.folders.insert(fs::path(binary.file).parent_path().string());
    learn(facts, binary.file, draft.variant);
    learn_configuration(facts, binary, draft);
  }
  give_ids(drafts);
  std::vector<Variant> variants;
  for (auto& draft : drafts) {
    add_files(source, draft);
    variants.push_back(std::move(draft.variant));
  }
  return variants;
}

}  // namespace fibula
