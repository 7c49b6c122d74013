#include "fit/changed_in_place.hpp"

#include "os/file_digest.hpp"
#include "os/kept.hpp"
#include "os/stamp.hpp"
#include "shelf/contents.hpp"

#include <fmt/format.h>
#include <map>

namespace fibula {
namespace {

std::string kept_digest(const std::filesystem::path& file, const Cache& cache) {
  const std::string key = file.string() + "\n" + to_text(stamp_of(file));
  if (auto known = kept_answer(cache, kept_kind::digests, key)) return *known;
  const std::string digest = sha256_of_file(file).value_or("");
  if (!digest.empty()) keep_answer(cache, kept_kind::digests, key, digest);
  return digest;
}

}  // namespace

std::optional<Misfit> changed_in_place(const Choice& choice, const Cache& cache) {
  if (!choice.card || !choice.card->in_place || !choice.variant) return std::nullopt;
  const Card& card = *choice.card;
  const auto contents = read_contents(card.entry / "contents.sha256");
  if (!contents) return std::nullopt;
  std::map<std::string, std::string> taken;
  for (const auto& file : *contents) taken[file.file] = file.sha256;
  for (const auto* files : {&choice.variant->link, &choice.variant->runtime}) {
    for (const auto& file : *files) {
      const auto known = taken.find(file);
      if (known == taken.end()) continue;
      const std::string now = kept_digest(card.root / file, cache);
      if (now.empty() || now == known->second) continue;
      const std::string again =
          card.origin.kind == "prefix"
              ? fmt::format("fibula take {} --library {} --in-place --replace", card.origin.path, card.name)
              : fmt::format("fibula take {} --name {} --version {} --in-place --replace", card.origin.path, card.name,
                            card.version);
      return Misfit{.rule = "staleness",
                    .verdict = Verdict::caution,
                    .subject = (card.root / file).string(),
                    .library = card.name,
                    .evidence = {fmt::format("{} is no longer as it was when {} {} was taken",
                                             (card.root / file).string(), card.name, card.version),
                                 fmt::format("its SHA-256 is {}, and was {}", now, known->second)},
                    .remedy = fmt::format("where the new one is right, take it again: {}", again)};
    }
  }
  return std::nullopt;
}

}  // namespace fibula
