#include <fibula/project.hpp>

#include "base/digest.hpp"
#include "base/inside_path.hpp"
#include "base/names.hpp"
#include "base/text.hpp"
#include "base/toml.hpp"
#include "base/version.hpp"
#include "os/download.hpp"
#include "os/files.hpp"
#include "project/only_for.hpp"
#include "project/uses.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {

namespace {}  // namespace

/// Fills a Project from the tables of its file.
struct ProjectReader {
  Project& project;
  fs::path file;

  /// Names of lanes and outputs become names of files.
  static void check_name(toml::Reader& reader, const std::string& name, unsigned line) {
    if (!is_file_name(name))
      reader.report(Code::malformed, line, fmt::format("{} cannot be a name", toml::quote(name)),
                    "use letters, digits, - and _");
  }

  void check_range(toml::Reader& reader, const LibraryUse& use, unsigned line) const {
    const auto range = VersionRange::parse(use.version);
    if (!range) reader.report(Code::malformed, line, range.error().what, range.error().hint);
  }

  /// The table of `[kind.name]`; anything else under that name is told how to be written.
  Result<const toml::Table*> table_of(const std::string& kind, const std::string& name,
                                      const toml::Value& value) const {
    if (value.table() != nullptr) return value.table();
    return fail({.code = Code::malformed,
                 .what = fmt::format("{} {} must be a table", kind, name),
                 .file = file.string(),
                 .line = value.line,
                 .hint = fmt::format("write [{}.{}] and its keys below", kind, name)});
  }

  Result<LibraryUse> library(const std::string& name, const toml::Value& value, LibraryUse use) const {
    static constexpr std::string_view linkages[] = {"any", "static", "shared"};
    auto table = table_of("library", name, value);
    if (!table) return pass(table);
    toml::Reader reader(**table, file, fmt::format("[library.{}]", name), value.line);
    use.name = name;
    use.line = value.line;
    // Shelves and lanes keep a folder of that name.
    if (!is_plain_name(name))
      reader.report(Code::malformed, value.line, fmt::format("{} cannot be a library's name", toml::quote(name)),
                    "write it as fibula shelf lists it: letters, digits, . + - _ ~");
    use.version = reader.text("version", use.version);
    const auto linkage = reader.choice("linkage", linkages, to_string(use.linkage));
    use.linkage = linkage == "static" ? Linkage::static_ : linkage == "shared" ? Linkage::shared : Linkage::any;
    if (const auto folder = reader.text("folder"); !folder.empty()) use.folder = absolute_path(project.root_ / folder);
    for (auto& definition : reader.texts("definitions")) use.definitions.push_back(std::move(definition));
    if (const toml::Table* choices = reader.table("choices")) {
      for (const auto& [choice, picked] : choices->entries) {
        if (picked.text() != nullptr) {
          use.choices[choice] = *picked.text();
        } else {
          reader.report(Code::malformed, picked.line, fmt::format("choice {} must be a text", choice),
                        "write it like choices = { bus = \"twi\" }");
        }
      }
    }
    check_range(reader, use, value.line);
    if (auto done = reader.finish(); !done) return pass(done);
    return use;
  }

  /// Keys that outputs and lanes share.
  LinkSettings link_settings(toml::Reader& reader) const {
    static constexpr std::string_view subsystems[] = {"", "console", "windows"};
    LinkSettings settings;
    if (const auto script = reader.text("linker-script"); !script.empty())
      settings.script = absolute_path(project.root_ / script);
    settings.entry = reader.text("entry");
    settings.subsystem = reader.choice("subsystem", subsystems, "");
    const toml::Table* sections = reader.table("sections");
    if (sections == nullptr) return settings;
    for (const auto& [name, value] : sections->entries) {
      if (value.text() != nullptr) {
        settings.sections[name] = *value.text();
      } else {
        reader.report(Code::malformed, value.line, fmt::format("the address of section {} must be a text", name),
                      "write it in double quotes: \"0x20000000\"");
      }
    }
    return settings;
  }

  Result<Output> output(const toml::Value& value) const {
    static constexpr std::string_view kinds[] = {"program", "static-library", "shared-library"};
    toml::Reader reader(*value.table(), file, "[[output]]", value.line);
    reader.require("name");
    reader.require("sources");
    Output output;
    output.line = value.line;
    output.name = reader.text("name");
    if (reader.has("name")) check_name(reader, output.name, value.line);
    const auto kind = reader.choice("kind", kinds, "program");
    output.kind = kind == "program"          ? OutputKind::program
                  : kind == "static-library" ? OutputKind::static_library
                                             : OutputKind::shared_library;
    output.sources = reader.texts("sources");
    output.headers = reader.texts("headers");
    if (reader.has("uses")) output.uses = reader.texts("uses");
    output.standard = reader.text("standard");
    output.definitions = reader.texts("definitions");
    output.flags = reader.texts("flags");
    output.link = link_settings(reader);
    output.data = reader.texts("data");
    output.plugins = reader.texts("plugins");
    output.image = images(reader);
    output.placement = placement(reader, output);
    output.only_for = read_only_for(reader, output.lines);
    for (const char* key : {"sources", "headers", "data", "plugins"}) note_lines(*value.table(), key, output.lines);
    if (auto done = reader.finish(); !done) return pass(done);
    return output;
  }

  /// Regions are those of a linker script: without one there are none.
  static std::map<std::string, std::string> placement(toml::Reader& reader, const Output& output) {
    std::map<std::string, std::string> wanted;
    const toml::Table* table = reader.table("placement");
    if (table == nullptr) return wanted;
    for (const auto& [name, region] : table->entries) {
      if (region.text() != nullptr) {
        wanted[name] = *region.text();
      } else {
        reader.report(Code::malformed, region.line, fmt::format("the region of {} must be a text", name),
                      "write it like placement = { \"add\" = \"SHARED\" }");
      }
    }
    if (output.kind != OutputKind::program)
      reader.report(Code::malformed, reader.line_of("placement"), "placement is for programs",
                    "move it to the program that the library goes into");
    return wanted;
  }

  static std::vector<std::string> images(toml::Reader& reader) {
    auto images = reader.texts("image");
    for (const auto& image : images) {
      if (image != "hex" && image != "bin")
        reader.report(Code::malformed, reader.line_of("image"), fmt::format("{} is no image", toml::quote(image)),
                      "write hex (Intel HEX) or bin (the bytes as they lie in memory)");
    }
    return images;
  }

  static void note_lines(const toml::Table& table, std::string_view key, std::map<std::string, unsigned>& lines) {
    const toml::Value* list = table.find(key);
    if (list == nullptr || list->array() == nullptr) return;
    for (const auto& item : *list->array()) {
      if (item.text() != nullptr) lines[*item.text()] = item.line;
    }
  }

  /// What `[every-lane]` and a lane both can say. What the lane says comes behind, or instead.
  void lane_settings(toml::Reader& reader, Lane& lane) const {
    static constexpr std::string_view configurations[] = {"debug", "release"};
    lane.compiler = reader.text("compiler", lane.compiler);
    const auto add = [&](const char* key, std::vector<std::string>& to) {
      for (auto& word : reader.texts(key)) to.push_back(std::move(word));
    };
    add("flags", lane.flags);
    add("definitions", lane.definitions);
    lane.configuration = reader.choice("configuration", configurations, lane.configuration);
    lane.start_through = reader.text("start-through", lane.start_through);
    LinkSettings link = link_settings(reader);
    if (!link.script.empty()) lane.link.script = std::move(link.script);
    if (!link.entry.empty()) lane.link.entry = std::move(link.entry);
    if (!link.subsystem.empty()) lane.link.subsystem = std::move(link.subsystem);
    for (auto& [section, address] : link.sections) lane.link.sections[section] = std::move(address);
  }

  Result<Lane> shared_settings(const toml::Value* value) const {
    Lane shared;
    if (value == nullptr) return shared;
    auto table = table_of("every-lane", "", *value);
    if (!table) return pass(table);
    toml::Reader reader(**table, file, "[every-lane]", value->line);
    lane_settings(reader, shared);
    if (auto done = reader.finish(); !done) return pass(done);
    return shared;
  }

  Result<Lane> lane(const std::string& name, const toml::Value& value, Lane lane) const {
    auto table = table_of("lane", name, value);
    if (!table) return pass(table);
    toml::Reader reader(**table, file, fmt::format("[lane.{}]", name), value.line);
    if (lane.compiler.empty()) reader.require("compiler");
    check_name(reader, name, value.line);
    lane.name = name;
    lane.line = value.line;
    lane_settings(reader, lane);
    const toml::Table* overrides = reader.table("library");
    if (auto done = reader.finish(); !done) return pass(done);
    if (overrides == nullptr) return lane;
    for (const auto& entry : overrides->entries) {
      const auto& library_name = entry.first;  // a lambda below names it, which a structured binding would not allow
      const auto& settings = entry.second;
      const auto known = std::find_if(project.libraries_.begin(), project.libraries_.end(),
                                      [&](const LibraryUse& use) { return use.name == library_name; });
      auto use = library(library_name, settings, known == project.libraries_.end() ? LibraryUse{} : *known);
      if (!use) return pass(use);
      lane.overrides.emplace(library_name, std::move(*use));
    }
    return lane;
  }

  static unsigned count(toml::Reader& reader, std::string_view key) {
    const int64_t number = reader.number(key, 0);
    if (number < 0 || number > 1'000'000)
      reader.report(Code::malformed, reader.line_of(key), fmt::format("{} must be between 0 and 1000000", key));
    return static_cast<unsigned>(number);
  }

  Result<void> read(const toml::Table& table) {
    toml::Reader reader(table, file, "the project", 1);
    project.compile_through_ = reader.texts("compile-through");
    for (const auto& place : reader.texts("shelves"))
      project.shelves_.push_back(is_url(place) ? place : absolute_path(project.root_ / place).string());
    project.check_licences_ = reader.flag("check-licences", false);
    project.jobs_ = count(reader, "jobs");
    project.time_limit_ = count(reader, "time-limit");
    for (const auto* value : reader.tables("output")) {
      auto read = output(*value);
      if (!read) return pass(read);
      project.outputs_.push_back(std::move(*read));
    }
    const toml::Table* libraries = reader.table("library");
    const toml::Table* lanes = reader.table("lane");
    reader.know("every-lane");
    if (auto done = reader.finish(); !done) return done;
    for (const auto& [name, value] : (libraries != nullptr ? *libraries : toml::Table{}).entries) {
      auto use = library(name, value, {});
      if (!use) return pass(use);
      project.libraries_.push_back(std::move(*use));
    }
    const auto shared = shared_settings(table.find("every-lane"));
    if (!shared) return fail(shared.error());
    for (const auto& [name, value] : (lanes != nullptr ? *lanes : toml::Table{}).entries) {
      auto read = lane(name, value, *shared);
      if (!read) return pass(read);
      project.lanes_.push_back(std::move(*read));
    }
    return check_outputs(project.outputs_, file);
  }
};

Result<Project> Project::from_text(std::string_view text, const fs::path& root) {
  Project project;
  project.root_ = root;
  project.text_digest_ = quick_digest(text);
  auto table = toml::parse(text, project.file());
  if (!table) return pass(table);
  ProjectReader reader{project, project.file()};
  if (auto read = reader.read(*table); !read) return pass(read);
  return project;
}

Result<Project> Project::from_values(ProjectValues values) {
  Project project;
  project.root_ = absolute_path(values.root);
  const auto refuse = [&](const std::string& what, const std::string& hint) {
    return fail({.code = Code::malformed, .what = what, .file = project.root_.string(), .hint = hint});
  };
  std::vector<std::string> names;
  for (const auto& output : values.outputs) names.push_back(output.name);
  for (const auto& lane : values.lanes) names.push_back(lane.name);
  for (const auto& name : names) {
    if (!is_file_name(name))
      return refuse(fmt::format("{} cannot be a name", toml::quote(name)), "use letters, digits, - and _");
  }
  for (const auto& use : values.libraries) {
    if (!is_plain_name(use.name))
      return refuse(fmt::format("{} cannot be a library's name", toml::quote(use.name)),
                    "use letters, digits, . + - _ ~");
    if (const auto range = VersionRange::parse(use.version); !range)
      return refuse(range.error().what, range.error().hint);
  }
  if (auto right = check_outputs(values.outputs, project.root_); !right) return pass(right);
  if (auto known = check_uses(values.libraries, values.outputs, project.root_); !known) return pass(known);
  project.outputs_ = std::move(values.outputs);
  project.libraries_ = std::move(values.libraries);
  project.lanes_ = std::move(values.lanes);
  project.compile_through_ = std::move(values.compile_through);
  project.shelves_ = std::move(values.shelves);
  project.check_licences_ = values.check_licences;
  project.jobs_ = values.jobs;
  project.time_limit_ = values.time_limit;
  return project;
}

Result<Project> Project::open(const fs::path& folder) {
  const fs::path start = absolute_path(folder);
  std::error_code ignored;
  for (fs::path root = start; !root.empty(); root = root.parent_path()) {
    if (fs::exists(root / "fibula.toml", ignored)) {
      auto text = read_text(root / "fibula.toml");
      if (!text) return pass(text);
      return from_text(*text, root);
    }
    if (root == root.parent_path()) break;
  }
  return fail({.code = Code::absent,
               .what = "no fibula.toml here or in a folder above",
               .file = start.string(),
               .hint = "fibula begin in the folder of your program writes one"});
}

Project Project::with_program_made_elsewhere() const {
  Project whole = *this;
  if (outputs_.empty()) whole.outputs_.push_back({.name = "program", .made_elsewhere = true});
  return whole;
}

Result<std::vector<Lane>> Project::lanes_named(const std::vector<std::string>& names) const {
  if (lanes_.empty()) {
    return fail({.code = Code::malformed,
                 .what = "names no lane, so there is nothing to build for",
                 .file = file().string(),
                 .hint = "add one:  [lane.desk-debug]  compiler = \"g++\"  configuration = \"debug\""});
  }
  if (names.empty()) return lanes_;
  std::vector<Lane> chosen;
  for (const auto& name : names) {
    const auto found = std::find_if(lanes_.begin(), lanes_.end(), [&](const Lane& lane) { return lane.name == name; });
    if (found != lanes_.end()) {
      chosen.push_back(*found);
      continue;
    }
    std::vector<std::string> known;
    for (const auto& lane : lanes_) known.push_back(lane.name);
    return fail({.code = Code::usage,
                 .what = fmt::format("has no lane {}", name),
                 .file = file().string(),
                 .hint = "its lanes: " + text::join(known, ", ")});
  }
  return chosen;
}

Shelf Project::shelf(const Shelf& users) const {
  const auto own = Shelf::in_order(shelves_);
  return own ? own->before(users) : users;
}

std::vector<LibraryUse> Project::uses(const Output& output, const Lane& lane) const {
  std::vector<LibraryUse> found;
  for (const auto& use : libraries_) {
    const bool used =
        !output.uses || std::find(output.uses->begin(), output.uses->end(), use.name) != output.uses->end();
    const auto override = lane.overrides.find(use.name);
    if (used) found.push_back(override == lane.overrides.end() ? use : override->second);
  }
  return found;
}

fs::path Project::object_of(const Lane& lane, const Output& output, const fs::path& source) const {
  // Put together as a text: there are thousands.
  return folder_of(lane).string() + "/objects/" + output.name + "/" + shown_from(root_, source) + ".o";
}

fs::path Project::product_of(const Lane& lane, const Toolchain& toolchain, const Output& output) const {
  const bool windows = toolchain.target.format == Format::pe, macos = toolchain.target.format == Format::macho;
  const fs::path folder = folder_of(lane);
  switch (output.kind) {
    case OutputKind::program: return folder / "bin" / (output.name + (windows ? ".exe" : ""));
    case OutputKind::static_library:
      return folder / (toolchain.family == CompilerFamily::msvc ? output.name + ".lib" : "lib" + output.name + ".a");
    case OutputKind::shared_library:
      return folder / "bin" / (windows ? output.name + ".dll" : "lib" + output.name + (macos ? ".dylib" : ".so"));
  }
  return {};
}

std::string_view to_string(OutputKind kind) {
  static constexpr Name<OutputKind> names[] = {{OutputKind::program, "program"},
                                               {OutputKind::static_library, "static-library"},
                                               {OutputKind::shared_library, "shared-library"}};
  return name_in<OutputKind>(names, kind);
}

}  // namespace fibula
