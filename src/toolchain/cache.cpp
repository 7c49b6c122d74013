/// Answers of compilers, kept as JSON under the user's cache folder.
#include "toolchain/cache.hpp"

#include "base/digest.hpp"
#include "os/files.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <nlohmann/json.hpp>

namespace fibula {
namespace {

using nlohmann::json;

/// Raised whenever what is asked or kept changes, so that older answers are not taken for new ones.
constexpr int answer_version = 9;

std::vector<std::string> to_texts(const std::vector<fs::path>& paths) {
  return {paths.begin(), paths.end()};
}

std::vector<fs::path> to_paths(const json& texts) {
  std::vector<fs::path> paths;
  for (const auto& text : texts) paths.emplace_back(text.get<std::string>());
  return paths;
}

/// A file that an answer rests on beside the compiler itself: a wrapper stays the same while what it starts, or the C
/// library that it finds, is replaced.
struct Witness {
  std::string path;
  uint64_t size = 0;
  int64_t time = 0;
  bool operator==(const Witness&) const = default;
};

Witness witness(const fs::path& path) {
  std::error_code error;
  const uint64_t size = fs::file_size(path, error);
  if (error) return {path.string()};
  return {path.string(), size, fs::last_write_time(path, error).time_since_epoch().count()};
}

std::vector<Witness> witnesses_of(const Toolchain& t) {
  std::vector<Witness> found{witness(t.linker)};
  for (const auto& folder : t.library_directories) {
    for (const char* name : {"libc.so", "libc.a", "libstdc++.so"}) {
      std::error_code ignored;
      if (fs::exists(folder / name, ignored)) found.push_back(witness(folder / name));
    }
  }
  return found;
}

json to_json(const std::vector<Witness>& witnesses) {
  json list = json::array();
  for (const auto& w : witnesses) list.push_back({w.path, w.size, w.time});
  return list;
}

bool all_as_they_were(const json& witnesses) {
  return std::all_of(witnesses.begin(), witnesses.end(), [](const json& j) {
    return witness(j.at(0).get<std::string>()) == Witness{j.at(0), j.at(1), j.at(2)};
  });
}

json to_json(const Toolchain& t) {
  json steps = json::array();
  for (const auto& step : t.link_steps) steps.push_back({static_cast<int>(step.kind), step.name});
  json answers = json::object();
  for (const auto& [id, answer] : t.answers) answers[id] = {answer.value, answer.from};
  return {{"compiler", t.compiler.string()},
          {"family", static_cast<int>(t.family)},
          {"cxx", t.cxx},
          {"version", t.version},
          {"triple", t.triple},
          {"format", static_cast<int>(t.target.format)},
          {"arch", static_cast<int>(t.target.arch)},
          {"bits", t.target.bits},
          {"endian", static_cast<int>(t.target.endian)},
          {"pie", t.pie},
          {"static", t.static_link},
          {"sysroot", t.sysroot.string()},
          {"linker", t.linker.string()},
          {"linker-version", t.linker_version},
          {"loader", t.loader.string()},
          {"include", to_texts(t.include_directories)},
          {"library", to_texts(t.library_directories)},
          {"steps", std::move(steps)},
          {"environment", t.environment},
          {"answers", std::move(answers)},
          {"witnesses", to_json(witnesses_of(t))}};
}

Toolchain from_json(const json& j) {
  Toolchain t;
  t.compiler = j.at("compiler").get<std::string>();
  t.family = static_cast<CompilerFamily>(j.at("family").get<int>());
  t.cxx = j.at("cxx");
  t.version = j.at("version");
  t.triple = j.at("triple");
  t.target = {static_cast<Format>(j.at("format").get<int>()), static_cast<Arch>(j.at("arch").get<int>()), j.at("bits"),
              static_cast<Endian>(j.at("endian").get<int>())};
  t.pie = j.at("pie");
  t.static_link = j.at("static");
  t.sysroot = j.at("sysroot").get<std::string>();
  t.linker = j.at("linker").get<std::string>();
  t.linker_version = j.at("linker-version");
  t.loader = j.at("loader").get<std::string>();
  t.include_directories = to_paths(j.at("include"));
  t.library_directories = to_paths(j.at("library"));
  for (const auto& step : j.at("steps"))
    t.link_steps.push_back({static_cast<LinkStep::Kind>(step.at(0).get<int>()), step.at(1)});
  t.environment = j.at("environment");
  for (const auto& [id, answer] : j.at("answers").items()) t.answers[id] = {answer.at(0), answer.at(1)};
  return t;
}

}  // namespace

std::vector<std::string> influencing_environment() {
  std::vector<std::string> set;
  for (const char* name : {"CPATH", "C_INCLUDE_PATH", "CPLUS_INCLUDE_PATH", "LIBRARY_PATH", "COMPILER_PATH",
                           "GCC_EXEC_PREFIX", "SDKROOT", "INCLUDE", "LIB", "CL", "_CL_"}) {
    if (const auto value = environment(name)) set.push_back(fmt::format("{}={}", name, *value));
  }
  return set;
}

std::string cache_key(const fs::path& compiler, const Question& question) {
  std::error_code ignored;
  const auto real = fs::canonical(compiler, ignored);
  std::string identity =
      fmt::format("{}\n{}\n{}\n{}\n{}\n", answer_version, compiler.string(), real.string(),
                  fs::file_size(real, ignored), fs::last_write_time(real, ignored).time_since_epoch().count());
  for (const auto& flag : question.flags) identity += flag + "\n";
  for (const auto& variable : influencing_environment()) identity += variable + "\n";
  return fmt::format("{:016x}", quick_digest(identity));
}

std::optional<Toolchain> kept_answer(const std::string& key) {
  const auto folder = cache_folder("compilers");
  if (!folder) return std::nullopt;
  const auto text = read_text(*folder / (key + ".json"));
  if (!text) return std::nullopt;
  // A cache file cut short or from elsewhere is as good as none.
  const json j = json::parse(*text, nullptr, false);
  if (!j.is_object()) return std::nullopt;
  try {
    if (!all_as_they_were(j.at("witnesses"))) return std::nullopt;
    return from_json(j);
  } catch (const json::exception&) {
    return std::nullopt;
  }
}

void keep_answer(const std::string& key, const Toolchain& toolchain) {
  const auto folder = cache_folder("compilers");
  if (!folder || !make_folder(*folder)) return;
  (void)write_whole(*folder / (key + ".json"), to_json(toolchain).dump());
}

}  // namespace fibula
