#include "fit/given_program.hpp"

#include "base/text.hpp"
#include "os/files.hpp"
#include "project/source_kind.hpp"

#include <fibula/facts.hpp>

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// The one program that files can be of.
Result<const Output*> program_of(const Project& project) {
  const Output* found = nullptr;
  for (const auto& output : project.outputs()) {
    if (output.kind != OutputKind::program) continue;
    if (found != nullptr)
      return fail({.code = Code::usage,
                   .what = fmt::format("makes several programs, {} and {}: whose files these are is not known",
                                       found->name, output.name),
                   .file = project.file().string(),
                   .hint = "fibula build compiles and links each of them"});
    found = &output;
  }
  if (found != nullptr) return found;
  return fail({.code = Code::usage,
               .what = "makes no program that files could be of",
               .file = project.file().string(),
               .hint = "fibula fit without them says what the outputs are given"});
}

/// Letters, digits and the few signs that compilers put into names.
bool looks_like_a_symbol(const std::string& name) {
  const auto is_fit = [](char c) {
    return text::is_identifier_character(c) || c == '$' || c == '.' || c == '?' || c == '@';
  };
  return !name.empty() && (name[0] < '0' || name[0] > '9') && std::all_of(name.begin(), name.end(), is_fit);
}

/// The names of a list: the last word of each line, as `nm -u` prints them, without the version that some are followed
/// by.
Result<std::set<std::string>> names_in_list(const fs::path& file) {
  const auto text = read_text(file);
  if (!text) return fail(text.error());
  std::set<std::string> names;
  for (const auto line : text::lines(*text)) {
    const auto words = text::words(line);
    if (words.empty() || words.front().starts_with('#') || words.back().ends_with(':')) continue;
    const auto word = words.back();
    // What a versioned name ends with; in names of Windows the sign is part of the name.
    const size_t version = word.find("@GLIBC");
    names.emplace(word.substr(0, version == std::string_view::npos ? word.find("@@") : version));
  }
  if (!names.empty() && std::all_of(names.begin(), names.end(), looks_like_a_symbol)) return names;
  return fail({.code = Code::usage,
               .what = "is no object file, no archive, and no list of names",
               .file = file.string(),
               .hint = "name the program's object files, or a list with one name a line, as nm -u prints it"});
}

bool is_text(const Error& error) {
  return error.code == Code::not_a_library || error.code == Code::unsupported;
}

}  // namespace

Result<void> add_program(Gathered::State& state, const std::vector<fs::path>& files) {
  if (files.empty()) return {};
  const auto program = program_of(state.project);
  if (!program) return fail(program.error());
  OwnOutput& own = state.elsewhere[(*program)->name];
  for (const auto& named : files) {
    const fs::path file = absolute_path(named);
    const auto facts = inspect(file);
    if (!facts && !is_text(facts.error())) return fail(facts.error());
    if (!facts) {
      auto names = names_in_list(file);
      if (!names) return pass(names);
      own.names.merge(*names);
    } else if (facts->kind.value == Kind::object) {
      own.objects.push_back(file);
    } else if (facts->kind.value == Kind::program) {
      return fail({.code = Code::usage,
                   .what = "is a program that is linked already",
                   .file = file.string(),
                   .hint = "name the object files that it is linked from"});
    } else {
      state.given[(*program)->name].push_back(file);
    }
  }
  return {};
}

}  // namespace fibula
