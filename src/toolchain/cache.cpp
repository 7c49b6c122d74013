/// Answers of compilers, kept as JSON under the user's cache folder (XDG Base Directory Specification).
#include "toolchain/cache.hpp"

#include "base/digest.hpp"
#include "base/files.hpp"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace fibula {
namespace {

using nlohmann::json;

/// Raised whenever what is asked or kept changes, so that older answers are not taken for new ones.
constexpr int answer_version = 1;

std::optional<fs::path> cache_folder() {
  if (const auto folder = environment("XDG_CACHE_HOME")) return fs::path(*folder) / "fibula" / "compilers";
  if (const auto home = environment("HOME")) return fs::path(*home) / ".cache" / "fibula" / "compilers";
  return std::nullopt;
}

std::vector<std::string> to_texts(const std::vector<fs::path>& paths) {
  return {paths.begin(), paths.end()};
}

std::vector<fs::path> to_paths(const json& texts) {
  std::vector<fs::path> paths;
  for (const auto& text : texts) paths.emplace_back(text.get<std::string>());
  return paths;
}

json to_json(const Toolchain& t) {
  json steps = json::array();
  for (const auto& step : t.link_steps) steps.push_back({static_cast<int>(step.kind), step.name});
  return {{"compiler", t.compiler.string()},
          {"family", static_cast<int>(t.family)},
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
          {"include", to_texts(t.include_directories)},
          {"library", to_texts(t.library_directories)},
          {"steps", std::move(steps)},
          {"environment", t.environment}};
}

Toolchain from_json(const json& j) {
  Toolchain t;
  t.compiler = j.at("compiler").get<std::string>();
  t.family = static_cast<Family>(j.at("family").get<int>());
  t.version = j.at("version");
  t.triple = j.at("triple");
  t.target = {static_cast<Format>(j.at("format").get<int>()), static_cast<Arch>(j.at("arch").get<int>()), j.at("bits"),
              static_cast<Endian>(j.at("endian").get<int>())};
  t.pie = j.at("pie");
  t.static_link = j.at("static");
  t.sysroot = j.at("sysroot").get<std::string>();
  t.linker = j.at("linker").get<std::string>();
  t.include_directories = to_paths(j.at("include"));
  t.library_directories = to_paths(j.at("library"));
  for (const auto& step : j.at("steps"))
    t.link_steps.push_back({static_cast<LinkStep::Kind>(step.at(0).get<int>()), step.at(1)});
  t.environment = j.at("environment");
  return t;
}

}  // namespace

std::vector<std::string> influencing_environment() {
  std::vector<std::string> set;
  for (const char* name : {"CPATH", "C_INCLUDE_PATH", "CPLUS_INCLUDE_PATH", "LIBRARY_PATH", "COMPILER_PATH",
                           "GCC_EXEC_PREFIX", "SDKROOT"}) {
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
  const auto folder = cache_folder();
  if (!folder) return std::nullopt;
  const auto text = read_text(*folder / (key + ".json"));
  if (!text) return std::nullopt;
  // A cache file cut short or from elsewhere is as good as none.
  const json j = json::parse(*text, nullptr, false);
  if (!j.is_object()) return std::nullopt;
  try {
    return from_json(j);
  } catch (const json::exception&) {
    return std::nullopt;
  }
}

void keep_answer(const std::string& key, const Toolchain& toolchain) {
  const auto folder = cache_folder();
  if (!folder || !make_folder(*folder)) return;
  (void)write_whole(*folder / (key + ".json"), to_json(toolchain).dump());
}

}  // namespace fibula
