#include "binary/stub.hpp"

#include "base/text.hpp"
#include "base/yaml.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <map>

namespace fibula {
namespace {

using yaml::Node;

/// The largest libraries of a system fit into a few megabytes of text.
constexpr uint64_t stub_limit = 16U << 20U;

Target target_named(std::string_view name) {
  Target target = target_of_triple(name);  // "arm64e-macos", or only "arm64e" in early versions
  if (name.starts_with("i386")) target = {.arch = Arch::x86, .bits = 32};
  target.format = Format::stub;
  return target;
}

/// How a list of names becomes symbols: Objective-C classes stand for two symbols each.
struct Names {
  std::string_view key;
  std::vector<std::string_view> prefixes;
  Binding binding;
  SymbolKind kind;
};

const std::vector<Names>& name_lists() {
  static const std::vector<Names> lists = {
      {"symbols", {""}, Binding::global, SymbolKind::none},
      {"global", {""}, Binding::global, SymbolKind::none},
      {"weak", {""}, Binding::weak, SymbolKind::none},
      {"weak-symbols", {""}, Binding::weak, SymbolKind::none},
      {"weak-def-symbols", {""}, Binding::weak, SymbolKind::none},
      {"thread_local", {""}, Binding::global, SymbolKind::thread_local_},
      {"thread-local-symbols", {""}, Binding::global, SymbolKind::thread_local_},
      {"objc-classes", {"_OBJC_CLASS_$_", "_OBJC_METACLASS_$_"}, Binding::global, SymbolKind::data},
      {"objc_class", {"_OBJC_CLASS_$_", "_OBJC_METACLASS_$_"}, Binding::global, SymbolKind::data},
      {"objc-eh-types", {"_OBJC_EHTYPE_$_"}, Binding::global, SymbolKind::data},
      {"objc_eh_type", {"_OBJC_EHTYPE_$_"}, Binding::global, SymbolKind::data},
      {"objc-ivars", {"_OBJC_IVAR_$_"}, Binding::global, SymbolKind::data},
      {"objc_ivar", {"_OBJC_IVAR_$_"}, Binding::global, SymbolKind::data},
  };
  return lists;
}

/// One target of the stub while it is put together; the names it owns are kept by its image.
struct Builder {
  std::string target;
  Image image;
  std::shared_ptr<std::deque<std::string>> names = std::make_shared<std::deque<std::string>>();

  void add(const Node& section, bool defines) {
    for (const auto& list : name_lists()) {
      for (const auto& item : section.list_of(list.key)) {
        if (item.text.empty()) continue;
        for (const auto prefix : list.prefixes) {
          // Early versions spell a class with its leading underscore.
          const auto plain = prefix.empty() || !item.text.starts_with('_') ? std::string_view(item.text)
                                                                           : std::string_view(item.text).substr(1);
          const auto& name = names->emplace_back(std::string(prefix) + std::string(plain));
          image.dynamic_symbols.push_back(
              {.name = name, .binding = list.binding, .kind = list.kind, .defined = defines});
        }
      }
    }
    for (const auto& item : section.list_of("re-exports")) add_re_export(item.text);
  }

  void add_re_export(const std::string& library) {
    image.needs.push_back({.name = library, .kind = NeedKind::re_export});
  }
};

/// Whether a section is about this target: its list may name targets, or architectures alone.
bool is_about(const Node& section, const std::string& target) {
  const auto* list = section.find("targets") != nullptr ? section.find("targets") : section.find("archs");
  if (list == nullptr) return true;
  return std::any_of(list->items.begin(), list->items.end(), [&](const Node& item) { return item.text == target; });
}

/// Versions 1 to 4.
void fill_yaml(const Node& document, std::vector<Builder>& builders) {
  for (auto& builder : builders) {
    builder.image.soname = builder.names->emplace_back(document.text_of("install-name"));
    for (const auto& [key, defines] : {std::pair{"exports", true}, {"reexports", true}, {"undefineds", false}}) {
      for (const auto& section : document.list_of(key)) {
        if (is_about(section, builder.target)) builder.add(section, defines);
      }
    }
    for (const auto& section : document.list_of("reexported-libraries")) {
      if (!is_about(section, builder.target)) continue;
      for (const auto& library : section.list_of("libraries")) builder.add_re_export(library.text);
    }
  }
}

/// Version 5: names stand apart for code and data.
void fill_json(const Node& library, std::vector<Builder>& builders) {
  for (auto& builder : builders) {
    for (const auto& name : library.list_of("install_names")) {
      if (is_about(name, builder.target)) builder.image.soname = builder.names->emplace_back(name.text_of("name"));
    }
    for (const auto& [key, defines] :
         {std::pair{"exported_symbols", true}, {"reexported_symbols", true}, {"undefined_symbols", false}}) {
      for (const auto& section : library.list_of(key)) {
        if (!is_about(section, builder.target)) continue;
        for (const char* part : {"text", "data"}) {
          if (const Node* names = section.find(part)) builder.add(*names, defines);
        }
      }
    }
    for (const auto& section : library.list_of("reexported_libraries")) {
      if (!is_about(section, builder.target)) continue;
      for (const auto& name : section.list_of("names")) builder.add_re_export(name.text);
    }
  }
}

/// The targets' names, from whichever list the version has.
std::vector<std::string> targets_of(const Node& document) {
  std::vector<std::string> names;
  for (const char* key : {"targets", "archs"}) {
    for (const auto& item : document.list_of(key)) names.push_back(item.text);
  }
  for (const auto& info : document.list_of("target_info")) names.emplace_back(info.text_of("target"));
  return names;
}

RecordedSystem system_of(const Node& document, const Node* info, const std::string& target) {
  const size_t dash = target.find('-');
  std::string platform(dash == std::string::npos ? document.text_of("platform")
                                                 : std::string_view(target).substr(dash + 1));
  if (platform == "macosx") platform = "macos";
  const auto least = info == nullptr ? std::string_view() : info->text_of("min_deployment");
  return {std::move(platform), std::string(least), "targets"};
}

}  // namespace

bool is_stub(Bytes bytes) {
  const auto head = text::trim(bytes.text().substr(0, 4096));
  if (head.starts_with("--- !tapi-tbd") || head.starts_with("---\narchs:")) return true;
  return head.starts_with('{') && head.find("\"tapi_tbd_version\"") != std::string_view::npos;
}

Result<std::vector<Image>> read_stub(Bytes bytes) {
  if (bytes.size() > stub_limit)
    return fail(bytes.error(Code::limit, 0, fmt::format("text stub has {} bytes", bytes.size())));
  auto document = yaml::parse(bytes);
  if (!document) return pass(document);
  const Node* json = document->find("main_library");
  const Node& library = json != nullptr ? *json : *document;
  std::vector<Builder> builders;
  const auto& infos = library.list_of("target_info");
  for (auto& target : targets_of(library)) {
    Builder builder{.target = std::move(target)};
    const auto info =
        std::find_if(infos.begin(), infos.end(), [&](const Node& n) { return n.text_of("target") == builder.target; });
    builder.image.target = target_named(builder.target);
    builder.image.type = ImageType::stub;
    builder.image.system = system_of(library, info == infos.end() ? nullptr : &*info, builder.target);
    builders.push_back(std::move(builder));
  }
  if (builders.empty()) return fail({.code = Code::malformed, .what = "text stub names no target"});
  if (builders.size() > 64)
    return fail({.code = Code::limit, .what = fmt::format("text stub names {} targets", builders.size())});
  json != nullptr ? fill_json(library, builders) : fill_yaml(library, builders);
  std::vector<Image> images;
  for (auto& builder : builders) {
    builder.image.made_names = builder.names;
    images.push_back(std::move(builder.image));
  }
  return images;
}

}  // namespace fibula
