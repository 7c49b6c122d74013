#include "base/text.hpp"
#include "binary/open.hpp"
#include "facts/fact.hpp"
#include "facts/facts.hpp"
#include "os/files.hpp"
#include "os/parallel.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

/// A script that stands for a library names a few files; one that names thousands, or itself, must not cost as many
/// reads.
constexpr size_t most_followed = 32;

/// The real files that a script names, each once, as far as they lie where it says: what they are for is what the
/// script is for.
void follow(const Script& script, const std::filesystem::path& path, Facts& facts) {
  std::set<std::filesystem::path> seen{absolute_path(path)};
  for (const auto& input : script.inputs) {
    const std::filesystem::path target = path.parent_path() / input.name;  // an absolute name replaces the folder
    std::error_code error;
    if (seen.size() > most_followed) return;
    if (input.name.starts_with('-') || !seen.insert(absolute_path(target)).second) continue;
    if (!std::filesystem::is_regular_file(target, error) || std::filesystem::equivalent(target, path, error)) continue;
    const auto file = open_binary(target, want_facts);
    if (!file || file->script() != nullptr)
      continue;  // one step: scripts that name scripts are not followed in circles
    auto real = facts_of(file->content, {}, target);
    if (!real) continue;
    if (!facts.arch && real->arch) {
      facts.arch = real->arch;
      facts.bits = real->bits;
      facts.endian = real->endian;
      facts.arch.from = real->arch.from + " of " + input.name;
    }
    real->path = input.name;
    facts.members.push_back(std::move(*real));
  }
}

Facts facts_of_script(const Script& script, const std::filesystem::path& path) {
  Facts facts;
  facts.format = {.value = Format::script, .from = "text"};
  facts.kind = {.value = Kind::script, .from = "linker script commands"};
  std::vector<Need> needs;
  for (const auto& input : script.inputs) needs.push_back({.name = input.name});
  facts.needs = {.value = std::move(needs), .from = "GROUP and INPUT"};
  follow(script, path, facts);
  return facts;
}

/// What all slices share stands above them; architectures are joined.
Facts facts_of_slices(std::vector<Facts> slices, Format format, std::string from) {
  Facts whole;
  whole.format = {.value = format, .from = from};
  whole.slices = std::move(slices);
  if (whole.slices.empty()) {
    whole.kind = {.value = Kind::empty, .from = std::move(from)};
    return whole;
  }
  whole.kind = whole.slices.front().kind;
  whole.soname = whole.slices.front().soname;
  if (whole.slices.size() == 1) whole.arch = whole.slices.front().arch;
  for (const auto& slice : whole.slices) {
    whole.defined_count += slice.defined_count;
    whole.undefined_count += slice.undefined_count;
  }
  return whole;
}

std::string slice_name(const Facts& slice) {
  const std::string arch(slice.arch ? to_string(*slice.arch.value) : "unknown");
  return slice.os_floor && slice.format.value == Format::stub ? arch + " " + to_text(*slice.os_floor.value) : arch;
}

Result<Facts> facts_of_universal(const Universal& universal, const InspectOptions& options,
                                 const std::filesystem::path& path) {
  std::vector<Facts> slices;
  for (const auto& slice : universal.slices) {
    auto content = read_content(slice.bytes, want_facts);
    auto facts = content ? facts_of(*content, options, path) : Result<Facts>(pass(content));
    if (!facts) {
      facts.error().place = fmt::format("slice for {}{}{}", to_string(slice.target.arch),
                                        facts.error().place.empty() ? "" : ", ", facts.error().place);
      return facts;
    }
    facts->path = slice_name(*facts);
    if (facts->arch && slice.target.arch != Arch::unknown && facts->arch.value != slice.target.arch) {
      facts->notes.push_back(fmt::format("the table of slices says {}", to_string(slice.target.arch)));
    }
    slices.push_back(std::move(*facts));
  }
  return facts_of_slices(std::move(slices), Format::macho, "universal header");
}

Facts facts_of_stub(const Stub& stub) {
  std::vector<Facts> slices;
  for (const auto& image : stub.targets) {
    slices.push_back(facts_of_image(image));
    slices.back().path = slice_name(slices.back());
  }
  return facts_of_slices(std::move(slices), Format::stub, "text stub");
}

}  // namespace

bool has_library_name(const std::filesystem::path& path) {
  const std::string name = text::lower(path.filename().string());
  for (const std::string_view ending : {".so.", ".a."}) {
    const size_t at = name.rfind(ending);
    const size_t version = at + ending.size();
    if (at != std::string::npos && name.find_first_not_of("0123456789.", version) == std::string::npos) return true;
  }
  static constexpr std::string_view endings[] = {".a", ".so", ".lib", ".dll", ".dylib", ".tbd"};
  return std::any_of(std::begin(endings), std::end(endings),
                     [&](std::string_view ending) { return name.ends_with(ending); });
}

Result<Facts> facts_of(const FileContent& content, const InspectOptions& options, const std::filesystem::path& path) {
  if (const auto* archive = std::get_if<Archive>(&content)) return facts_of_archive(*archive, options.members, path);
  if (const auto* script = std::get_if<Script>(&content)) return facts_of_script(*script, path);
  if (const auto* stub = std::get_if<Stub>(&content)) return facts_of_stub(*stub);
  if (const auto* universal = std::get_if<Universal>(&content)) return facts_of_universal(*universal, options, path);
  return facts_of_image(std::get<Image>(content));
}

Result<Facts> inspect(const std::filesystem::path& path, const InspectOptions& options) {
  auto file = open_binary(path, want_facts);
  if (!file) return pass(file);
  auto facts = facts_of(file->content, options, path);
  if (!facts) return fail(about_file(std::move(facts.error()), path));
  facts->path = path.string();
  return facts;
}

std::vector<Result<Facts>> inspect_all(const std::vector<std::filesystem::path>& paths, const InspectOptions& options) {
  constexpr size_t worth_a_thread = 4;
  std::vector<Result<Facts>> all(paths.size());
  each_in_parallel(paths.size(), worth_a_thread, [&](size_t i) { all[i] = inspect(paths[i], options); });
  return all;
}

}  // namespace fibula
