#include "diagnose/own_sources.hpp"

#include "base/text.hpp"
#include "diagnose/name_forms.hpp"
#include "diagnose/near_files.hpp"
#include "headers/declarations.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

constexpr uint64_t largest_source = 4U << 20U;
constexpr size_t most_sources = 2'000;

std::set<fs::path> on_command(const LinkScene& scene) {
  std::set<fs::path> files;
  for (const auto& input : scene.inputs()) {
    files.insert(input.file);
    if (input.asked.step.kind == LinkStep::Kind::file) files.insert(input.asked.step.name);
  }
  return files;
}

/// "Shape" and "area" of `Shape::area(int)`; of `vtable for Shape` only the class.
struct Parts {
  std::string scope, last;
};
Parts parts_of(const std::string& symbol) {
  std::string name = source_name(symbol);
  for (const std::string_view made : {"vtable for ", "typeinfo for ", "typeinfo name for ", "VTT for "}) {
    if (name.starts_with(made)) return {name.substr(made.size()), {}};
  }
  if (const size_t abi = name.find("[abi:"); abi != std::string::npos) name.erase(abi);
  const size_t colons = name.rfind("::");
  if (colons == std::string::npos) return {{}, name};
  return {name.substr(0, colons), name.substr(colons + 2)};
}

std::string last_part(const std::string& scope) {
  const size_t colons = scope.rfind("::");
  return colons == std::string::npos ? scope : scope.substr(colons + 2);
}

bool source_defines(const std::string& text, const Parts& parts) {
  const std::string scope = last_part(parts.scope);
  // Members are defined behind their class's name; that of the whole class where its first virtual function is.
  if (!scope.empty() && text.find(scope + "::" + parts.last) != std::string::npos) return true;
  return !parts.last.empty() && parts.last[0] != '~' && text.find(parts.last) != std::string::npos &&
         names_in_source(text).defines.contains(parts.last);
}

/// Whether an object has a main, where the link has one.
bool is_of_other_program(const fs::path& object, const std::string& symbol, const LinkScene& scene) {
  if (symbol == "main" || !gives_out(object, "main")) return false;
  return std::any_of(scene.inputs().begin(), scene.inputs().end(),
                     [](const SceneInput& input) { return !input.file.empty() && gives_out(input.file, "main"); });
}

}  // namespace

std::optional<DefiningFile> own_definer(const std::string& symbol, const LinkScene& scene) {
  const auto known = on_command(scene);
  Evidence& evidence = scene.evidence();
  const ToolCommand& command = scene.command();
  for (const auto& object : evidence.files_near(command, {".o", ".obj"})) {
    const auto& facts = evidence.facts(object);
    const bool fits = facts && facts->arch.value == scene.toolchain().target.arch;
    if (fits && !known.contains(object) && gives_out(object, symbol) && !is_of_other_program(object, symbol, scene))
      return DefiningFile{object, true};
  }
  const Parts parts = parts_of(symbol);
  size_t read = 0;
  for (const auto& source : evidence.files_near(command, {".c", ".cc", ".cpp", ".cxx", ".s", ".S", ".m"})) {
    if (known.contains(source) || ++read > most_sources) continue;
    const auto text = read_text(source, largest_source);
    if (!text || !source_defines(*text, parts)) continue;
    // An object of the command that was made of it would have the name, if it had.
    const bool is_made = std::any_of(known.begin(), known.end(), [&](const fs::path& file) {
      return file.stem() == source.stem() || file.stem() == source.filename();
    });
    if (is_made) continue;
    const auto& compiled = evidence.compile(command, source);
    if (!compiled.good) return DefiningFile{source, false};
    if (gives_out(compiled.object, symbol) && !is_of_other_program(compiled.object, symbol, scene))
      return DefiningFile{source, true};
  }
  return std::nullopt;
}

std::optional<fs::path> source_of(const SceneInput& input, const LinkScene& scene) {
  if (input.compiled) return (scene.command().folder / input.asked.step.name).lexically_normal();
  const std::string stem = input.file.stem().string();
  std::optional<fs::path> found;
  for (const auto& source : scene.evidence().files_near(scene.command(), {".c", ".cpp", ".cc", ".cxx"})) {
    // `main.o` of main.cpp, or `main.cpp.o`.
    if (source.stem() != stem && source.filename() != stem) continue;
    if (found) return std::nullopt;
    found = source;
  }
  return found;
}

std::optional<fs::path> own_declaration(const std::string& symbol, const LinkScene& scene) {
  const std::string type = last_part(parts_of(symbol).scope);
  for (const auto& source : type.empty() ? std::vector<CommandFile>() : scene.command().sources) {
    const auto text = read_text(source.path, largest_source);
    for (const std::string_view word : {"struct ", "class "}) {
      if (text && text->find(fmt::format("{}{} ", word, type)) != std::string::npos) return source.path;
    }
  }
  return std::nullopt;
}

std::optional<fs::path> header_that_declares(const std::string& symbol, const LinkScene& scene) {
  const Parts parts = parts_of(symbol);
  const std::string name = parts.last.empty() ? last_part(parts.scope) : parts.last;
  size_t read = 0;
  for (const auto& header : scene.evidence().files_near(scene.command(), {".h", ".hpp", ".hh", ".hxx"})) {
    if (++read > most_sources) break;
    const auto text = read_text(header, largest_source);
    if (!text) continue;
    if (text::has_word(*text, name)) return header;
  }
  return std::nullopt;
}

}  // namespace fibula
