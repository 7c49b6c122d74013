#include "build/recipe.hpp"

#include "base/digest.hpp"
#include "base/packed.hpp"

#include <algorithm>
#include <filesystem>

namespace fibula {
namespace {

/// Of a job, in the order in which they are kept; paths as texts.
template <class Way>
void each_member(const Way& way, auto& job, auto& directory, auto& workshop, auto& searched) {
  way(job.kind, job.lane, job.subject, job.product, job.command, job.through, job.identity, directory, workshop,
      job.inputs, searched, job.tells_inputs, job.lister);
}

void pack(Packer& to, const Job& job) {
  const std::string directory = job.directory.string(), workshop = job.workshop.string();
  static const std::vector<std::string> none;
  each_member(Pack{to}, job, directory, workshop, job.searched ? *job.searched : none);
}

Job unpacked_job(Unpacker& from) {
  Job job{};
  std::string directory, workshop;
  std::vector<std::string> searched;
  each_member(Unpack{from}, job, directory, workshop, searched);
  job.directory = std::move(directory);
  job.workshop = std::move(workshop);
  if (!searched.empty()) job.searched = std::make_shared<const std::vector<std::string>>(std::move(searched));
  return job;
}

void replace_words(std::vector<std::string>& words, const std::string& word, const std::string& by) {
  std::replace(words.begin(), words.end(), word, by);
}

std::string ending_of(const std::string& source) {
  return std::filesystem::path(source).extension().string();
}

}  // namespace

Job for_any_source(Job compile, const std::string& source) {
  const std::string mark(1, source_mark);
  replace_words(compile.command, source, mark);
  replace_words(compile.inputs, source, mark);
  replace_words(compile.lister, source, mark);
  return compile;
}

std::optional<Job> Recipe::compile(const std::string& object) const {
  const auto holds = [&](const Compiles& one) { return object.starts_with(one.folder); };
  const auto output = std::find_if(compiles.begin(), compiles.end(), holds);
  if (output == compiles.end() || !object.ends_with(".o")) return std::nullopt;
  // Objects are called like their sources: `Project::object_of`.
  const std::string name = object.substr(output->folder.size(), object.size() - output->folder.size() - 2);
  const auto found = output->by_ending.find(ending_of(name));
  if (found == output->by_ending.end()) return std::nullopt;
  Job job = found->second;
  const std::string source = (job.directory / name).string();
  const std::string mark(1, source_mark);
  for (auto* words : {&job.command, &job.inputs, &job.lister}) replace_words(*words, mark, source);
  replace_words(job.lister, job.product, object);
  job.subject = name;
  job.product = object;
  return job;
}

bool Recipe::speaks_of(std::string_view name) const {
  return std::binary_search(names.begin(), names.end(), quick_digest(name));
}

std::string text_of(const Recipe& recipe) {
  Packer packed;
  packed.number(recipe.compiles.size());
  for (const auto& output : recipe.compiles) {
    packed.value(output.folder);
    packed.number(output.by_ending.size());
    for (const auto& [ending, job] : output.by_ending) {
      packed.value(ending);
      pack(packed, job);
    }
  }
  packed.number(recipe.others.size());
  for (const auto& job : recipe.others) pack(packed, job);
  packed.value(recipe.names);
  return packed.take();
}

std::optional<Recipe> read_recipe(std::string_view text) {
  Unpacker from(text);
  Recipe recipe;
  for (size_t left = from.count(); left > 0; --left) {
    Recipe::Compiles& output = recipe.compiles.emplace_back();
    from.value(output.folder);
    for (size_t endings = from.count(); endings > 0; --endings) {
      std::string ending;
      from.value(ending);
      output.by_ending.emplace(std::move(ending), unpacked_job(from));
    }
  }
  for (size_t left = from.count(); left > 0; --left) recipe.others.push_back(unpacked_job(from));
  from.value(recipe.names);
  if (!from.good()) return std::nullopt;
  return recipe;
}

}  // namespace fibula
