#include "answers/parts.hpp"

#include <fibula/symbols.hpp>

namespace fibula::answers {
namespace {

/// Numbers are numbers, lists are arrays, what has more than a name is an object; what is absent is left out.
struct ValueJson {
  template <class Plain>
  ordered_json operator()(const Plain& value) const {
    return value;
  }
  ordered_json operator()(const NamedVersion& value) const {
    ordered_json object{{"name", value.name}};
    if (!value.version.empty()) object["version"] = value.version;
    return object;
  }
  ordered_json operator()(const LinkTimeCode& code) const {
    ordered_json object{{"name", code.maker}, {"machine_code", code.machine_code}};
    if (!code.version.empty()) object["version"] = code.version;
    return object;
  }
  ordered_json operator()(const PicReport& pic) const {
    ordered_json object{{"name", to_string(pic.level)}};
    if (pic.level == Pic::yes) return object;
    object.update({{"relocation", pic.relocation}, {"section", pic.section}, {"offset", pic.offset}});
    if (!pic.symbol.empty()) object["symbol"] = pic.symbol;
    return object;
  }
  ordered_json operator()(const std::vector<Need>& needs) const {
    ordered_json list = ordered_json::array();
    for (const auto& need : needs) {
      list.push_back({{"name", need.name}, {"kind", to_string(need.kind)}});
      if (!need.versions.empty()) list.back()["versions"] = need.versions;
    }
    return list;
  }
};

ordered_json fact_table(const Facts& facts) {
  ordered_json table = ordered_json::object();
  for (const auto& row : rows(facts)) {
    table[row.id] = {
        {"value", std::visit(ValueJson(), row.value)}, {"certainty", to_string(row.certainty)}, {"from", row.from}};
  }
  return table;
}

ordered_json to_json(const Facts& facts) {
  ordered_json object{{"path", facts.path},
                      {"format", facts.format ? to_string(*facts.format.value) : "unknown"},
                      {"kind", facts.kind ? to_string(*facts.kind.value) : "unknown"},
                      {"facts", fact_table(facts)},
                      {"defined", facts.defined_count},
                      {"undefined", facts.undefined_count},
                      {"notes", facts.notes}};
  for (const auto& [key, parts] : {std::pair{"slices", &facts.slices}, {"members", &facts.members}}) {
    if (parts->empty()) continue;
    object[key] = ordered_json::array();
    for (const auto& part : *parts) object[key].push_back(to_json(part));
  }
  return object;
}

ordered_json to_json(const SymbolView& symbol) {
  ordered_json object{{"name", symbol.name},
                      {"role", symbol.defines ? "defines" : "needs"},
                      {"binding", to_string(symbol.binding)},
                      {"visibility", to_string(symbol.visibility)},
                      {"kind", to_string(symbol.kind)},
                      {"size", symbol.size},
                      {"address", symbol.address},
                      {"section", symbol.section},
                      {"version", symbol.version},
                      {"member", symbol.member}};
  const std::string readable = readable_name(symbol.name);
  if (readable != symbol.name) object["readable"] = readable;
  if (!symbol.library.empty()) object["library"] = symbol.library;
  if (symbol.slice != Arch::unknown) object["slice"] = to_string(symbol.slice);
  return object;
}

ordered_json problem_json(const Error& error) {
  ordered_json problem = error_json(error);
  problem.erase("file");  // told as the path
  return {{"path", error.file},
          {"format", "unknown"},
          {"kind", "unknown"},
          {"facts", ordered_json::object()},
          {"problem", problem}};
}

ordered_json to_json(const ClosureEntry& entry) {
  return {{"name", entry.name},
          {"path", entry.path},
          {"needed_by", entry.needed_by},
          {"status", to_string(entry.status)},
          {"why", entry.why},
          {"kind", to_string(entry.kind)},
          {"asked_by", entry.asked_by},
          {"passed_over", entry.passed_over}};
}

void add_wishes(const std::string& path, const Inspection::Wishes& wishes, ordered_json& object) {
  if (wishes.symbols) {
    ordered_json list = ordered_json::array();
    const auto read = visit_symbols(path, [&](const SymbolView& symbol) { list.push_back(to_json(symbol)); });
    if (read) object["symbols"] = std::move(list);
  }
  if (!wishes.needs) return;
  // Programs ask for thousands of files: nothing is kept of each.
  const auto closures = closures_of({path}, *wishes.needs);
  object["closure"] = listed(closures.front().entries, [](const ClosureEntry& entry) { return to_json(entry); });
}

ordered_json to_json(const std::vector<FilesInFolder>& folders) {
  return listed(folders, [](const FilesInFolder& files) {
    return ordered_json{{"path", files.path}, {"count", files.count}, {"first", files.first}};
  });
}

ordered_json to_json(const JudgedPath& judged) {
  ordered_json object{{"path", judged.path.string()}, {"verdict", to_string(judged.verdict)}};
  if (!judged.variant.empty()) object["variant"] = judged.variant;
  if (!judged.what.empty()) object["what"] = judged.what;
  if (judged.first) object["first"] = {{"rule", judged.first->rule}, {"evidence", judged.first->evidence}};
  if (judged.problem) object["problem"] = render(*judged.problem);
  return object;
}

}  // namespace

struct Inspection::State {
  Wishes wishes;
  ordered_json files = ordered_json::array(), folders = ordered_json::array();
  bool has_problems = false;

  void add_problem(const std::string& path, const Error& error) {
    files.push_back(problem_json(error));
    files.back()["path"] = path;
    has_problems = true;
  }
};

Inspection::Inspection(Wishes wishes) : state_(std::make_unique<State>(State{.wishes = std::move(wishes)})) {}

Inspection::~Inspection() = default;

void Inspection::add(const std::string& path, const Facts& facts) {
  state_->files.push_back(to_json(facts));
  add_wishes(path, state_->wishes, state_->files.back());
}

void Inspection::add(const std::string& path, const FolderView& folder, const std::string& shown) {
  ordered_json& files = state_->files;
  state_->folders.push_back({{"path", path},
                             {"headers", to_json(folder.headers)},
                             {"sources", to_json(folder.sources)},
                             {"odd", listed(folder.odd, [](const Oddity& oddity) {
                                return ordered_json{{"file", oddity.file}, {"what", oddity.what}};
                              })}});
  for (const auto& binary : folder.binaries) {
    files.push_back(to_json(binary.facts));
    if (!shown.empty()) files.back()["path"] = (std::filesystem::path(shown) / binary.path).string();
    if (!binary.links.empty()) files.back()["links"] = binary.links;
    if (!binary.belongs_to.empty()) files.back()["belongs_to"] = binary.belongs_to;
    add_wishes(binary.facts.path, state_->wishes, files.back());
  }
  for (const auto& error : folder.refused) state_->add_problem(error.file, error);
}

void Inspection::add(const std::string& path, const Error& error) {
  state_->add_problem(path, error);
}

bool Inspection::has_problems() const {
  return state_->has_problems;
}

std::string Inspection::text() const {
  return document("fibula.inspect/1", {{"files", state_->files}, {"folders", state_->folders}});
}

std::string inspected_for(const std::string& whom, const std::vector<JudgedPath>& paths) {
  return document("fibula.inspect-for/1",
                  {{"for", whom}, {"paths", listed(paths, [](const JudgedPath& path) { return to_json(path); })}});
}

}  // namespace fibula::answers
