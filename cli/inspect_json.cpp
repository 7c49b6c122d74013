#include "inspect.hpp"
#include "needs.hpp"
#include "print.hpp"

#include <nlohmann/json.hpp>

namespace cli {
namespace {

using nlohmann::ordered_json;

/// Numbers are numbers, lists are arrays, what has more than a name is an object; what is absent is left out.
struct ValueJson {
  template <class Plain>
  ordered_json operator()(const Plain& value) const {
    return value;
  }
  ordered_json operator()(const fibula::NamedVersion& value) const {
    ordered_json object{{"name", value.name}};
    if (!value.version.empty()) object["version"] = value.version;
    return object;
  }
  ordered_json operator()(const fibula::LinkTimeCode& code) const {
    ordered_json object{{"name", code.maker}, {"machine_code", code.machine_code}};
    if (!code.version.empty()) object["version"] = code.version;
    return object;
  }
  ordered_json operator()(const fibula::PicReport& pic) const {
    ordered_json object{{"name", fibula::to_string(pic.level)}};
    if (pic.level == fibula::Pic::yes) return object;
    object.update({{"relocation", pic.relocation}, {"section", pic.section}, {"offset", pic.offset}});
    if (!pic.symbol.empty()) object["symbol"] = pic.symbol;
    return object;
  }
  ordered_json operator()(const std::vector<fibula::Need>& needs) const {
    ordered_json list = ordered_json::array();
    for (const auto& need : needs) {
      list.push_back({{"name", need.name}, {"kind", fibula::to_string(need.kind)}});
      if (!need.versions.empty()) list.back()["versions"] = need.versions;
    }
    return list;
  }
};

ordered_json fact_table(const fibula::Facts& facts) {
  ordered_json table = ordered_json::object();
  for (const auto& row : fibula::rows(facts)) {
    table[row.id] = {{"value", std::visit(ValueJson(), row.value)},
                     {"certainty", fibula::to_string(row.certainty)},
                     {"from", row.from}};
  }
  return table;
}

ordered_json to_json(const fibula::Facts& facts) {
  ordered_json object{{"path", facts.path},
                      {"format", facts.format ? fibula::to_string(*facts.format.value) : "unknown"},
                      {"kind", facts.kind ? fibula::to_string(*facts.kind.value) : "unknown"},
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

ordered_json to_json(const fibula::SymbolView& symbol) {
  ordered_json object{{"name", symbol.name},
                      {"role", symbol.defines ? "defines" : "needs"},
                      {"binding", fibula::to_string(symbol.binding)},
                      {"visibility", fibula::to_string(symbol.visibility)},
                      {"kind", fibula::to_string(symbol.kind)},
                      {"size", symbol.size},
                      {"address", symbol.address},
                      {"section", symbol.section},
                      {"version", symbol.version},
                      {"member", symbol.member}};
  const std::string readable = fibula::readable_name(symbol.name);
  if (readable != symbol.name) object["readable"] = readable;
  if (!symbol.library.empty()) object["library"] = symbol.library;
  if (symbol.slice != fibula::Arch::unknown) object["slice"] = fibula::to_string(symbol.slice);
  return object;
}

ordered_json to_json(const fibula::Error& error) {
  ordered_json problem = error_json(error);
  problem.erase("file");  // told as the path
  return {{"path", error.file},
          {"format", "unknown"},
          {"kind", "unknown"},
          {"facts", ordered_json::object()},
          {"problem", problem}};
}

void add_wishes(const std::string& path, const InspectWishes& wishes, ordered_json& object) {
  if (wishes.symbols) {
    ordered_json list = ordered_json::array();
    const auto read =
        fibula::visit_symbols(path, [&](const fibula::SymbolView& symbol) { list.push_back(to_json(symbol)); });
    if (read) object["symbols"] = std::move(list);
  }
  if (!wishes.needs) return;
  // Programs ask for thousands of files: nothing is kept of each.
  object["closure"] = needs_json(fibula::closures_of({path}, wishes.closure).front().entries);
}

ordered_json to_json(const std::vector<fibula::FilesInFolder>& folders) {
  ordered_json list = ordered_json::array();
  for (const auto& files : folders)
    list.push_back({{"path", files.path}, {"count", files.count}, {"first", files.first}});
  return list;
}

void add_folder(const Inspected& inspected, const InspectWishes& wishes, ordered_json& files, ordered_json& folders) {
  ordered_json folder{{"path", inspected.path},
                      {"headers", to_json(inspected.folder->headers)},
                      {"sources", to_json(inspected.folder->sources)},
                      {"odd", ordered_json::array()}};
  for (const auto& oddity : inspected.folder->odd)
    folder["odd"].push_back({{"file", oddity.file}, {"what", oddity.what}});
  folders.push_back(std::move(folder));
  for (const auto& binary : inspected.folder->binaries) {
    files.push_back(to_json(binary.facts));
    if (inspected.place) files.back()["path"] = (std::filesystem::path(inspected.path) / binary.path).string();
    if (!binary.links.empty()) files.back()["links"] = binary.links;
    if (!binary.belongs_to.empty()) files.back()["belongs_to"] = binary.belongs_to;
    add_wishes(binary.facts.path, wishes, files.back());
  }
  for (const auto& error : inspected.folder->refused) files.push_back(to_json(error));
}

}  // namespace

void add_json(const Inspected& inspected, const InspectWishes& wishes, ordered_json& files, ordered_json& folders) {
  if (inspected.folder) return add_folder(inspected, wishes, files, folders);
  if (!inspected.facts) {
    files.push_back(to_json(inspected.facts.error()));
    files.back()["path"] = inspected.path;
    return;
  }
  files.push_back(to_json(*inspected.facts));
  add_wishes(inspected.path, wishes, files.back());
}

}  // namespace cli
