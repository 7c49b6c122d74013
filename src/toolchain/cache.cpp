/// Answers of compilers, kept as CBOR (RFC 8949), which takes names of files byte by byte.
#include "toolchain/cache.hpp"

#include "os/files.hpp"
#include "os/kept.hpp"
#include "os/stamp.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <nlohmann/json.hpp>

namespace fibula {
namespace {

using nlohmann::json;

std::vector<std::string> to_texts(const std::vector<fs::path>& paths) {
  return {paths.begin(), paths.end()};
}

std::vector<fs::path> to_paths(const json& texts) {
  std::vector<fs::path> paths;
  for (const auto& text : texts) paths.emplace_back(text.get<std::string>());
  return paths;
}

/// The files that an answer rests on beside the compiler itself: a wrapper stays the same while what it starts, or the
/// C library that it finds, is replaced.
json witnesses_of(const Toolchain& t) {
  json list = json::array();
  const auto add = [&](const fs::path& path) { list.push_back({path.string(), to_text(stamp_of(path))}); };
  add(t.linker);
  for (const auto& folder : t.library_directories) {
    for (const char* name : {"libc.so", "libc.a", "libstdc++.so"}) {
      if (stamp_of(folder / name).there()) add(folder / name);
    }
  }
  return list;
}

bool all_as_they_were(const json& witnesses) {
  return std::all_of(witnesses.begin(), witnesses.end(), [](const json& witness) {
    return witness.at(1).get<std::string>() == to_text(stamp_of(witness.at(0).get<std::string>()));
  });
}

json to_json(const Toolchain& t) {
  json steps = json::array();
  for (const auto& step : t.link_steps) steps.push_back({static_cast<int>(step.kind), step.name});
  json answers = json::object();
  for (const auto& [id, answer] : t.answers) answers[id] = {answer.value, answer.from, answer.version};
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
          {"cxx-include", to_texts(t.cxx_include_directories)},
          {"library", to_texts(t.library_directories)},
          {"steps", std::move(steps)},
          {"environment", t.environment},
          {"answers", std::move(answers)},
          {"witnesses", witnesses_of(t)}};
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
  t.cxx_include_directories = to_paths(j.at("cxx-include"));
  t.library_directories = to_paths(j.at("library"));
  for (const auto& step : j.at("steps"))
    t.link_steps.push_back({static_cast<LinkStep::Kind>(step.at(0).get<int>()), step.at(1)});
  t.environment = j.at("environment");
  for (const auto& [id, answer] : j.at("answers").items()) t.answers[id] = {answer.at(0), answer.at(1), answer.at(2)};
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

std::string key_of(const fs::path& compiler, const Question& question) {
  std::error_code ignored;
  const auto real = fs::canonical(compiler, ignored);
  // The number changes with what is read of the answers: those of an older tool say less.
  std::string key = fmt::format("4\n{}\n{}\n{}\n", compiler.string(), real.string(), to_text(stamp_of(real)));
  for (const auto& flag : question.flags) key += flag + "\n";
  for (const auto& variable : influencing_environment()) key += variable + "\n";
  return key;
}

std::optional<Toolchain> kept_toolchain(const Cache& cache, const std::string& key) {
  const auto kept = kept_answer(cache, kept_kind::compilers, key);
  if (!kept) return std::nullopt;
  const json j = json::from_cbor(*kept, true, false);
  try {
    if (!all_as_they_were(j.at("witnesses"))) return std::nullopt;
    return from_json(j);
  } catch (const json::exception&) {
    return std::nullopt;  // of another form: as good as none
  }
}

void keep_toolchain(const Cache& cache, const std::string& key, const Toolchain& toolchain) {
  std::string bytes;
  json::to_cbor(to_json(toolchain), bytes);
  keep_answer(cache, kept_kind::compilers, key, bytes);
}

}  // namespace fibula
