// Whatever the text: a card names nothing outside of its library, and is read again as it was written.
#include "base/inside_path.hpp"
#include "card/card_form.hpp"
#include "fuzz_text.hpp"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  const auto table = fibula::toml::parse(text, "card.toml");
  if (!table) return 0;
  const auto card = fibula::card_in(*table, "/shelf/x/1");
  if (!card) return 0;
  demand(fibula::is_plain_name(card->name) || card->name.empty());
  demand(fibula::is_plain_name(card->version) || card->version.empty());
  for (const auto& variant : card->variants) {
    for (const auto& file : variant.runtime) demand(file == "." || fibula::InsidePath::of(file).has_value());
    for (const auto& file : variant.link) demand(file == "." || fibula::InsidePath::of(file).has_value());
  }
  const std::string written = fibula::card_text(*card);
  const auto again = fibula::toml::parse(written, "card.toml");
  demand(again.has_value());
  const auto same = fibula::card_in(*again, "/shelf/x/1");
  demand(same.has_value() && fibula::card_text(*same) == written);
  return 0;
}
