// Whatever stands in the files of a tree of sources: makefiles, templates of headers, conditionals, licences.
#include "headers/branches.hpp"
#include "headers/stripped_code.hpp"
#include "making/makefile_lines.hpp"
#include "take/licence.hpp"
#include "take/sources/template_header.hpp"

#include <algorithm>
#include <cstdlib>
#include "fuzz_text.hpp"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  const auto lines = std::count(text.begin(), text.end(), '\n') + 1;
  for (const auto& line : fibula::logical_lines(text)) demand(line.number >= 1 && line.number <= lines);
  // The last line may lack its end, or go on where nothing follows.
  const auto kept = [&](const std::string& other) {
    return std::abs(std::count(other.begin(), other.end(), '\n') - (lines - 1)) <= 1;
  };
  const auto texts = fibula::branch_texts(text);
  demand(!texts.empty() && texts.size() <= 8);
  for (const auto& one : texts) demand(kept(one));
  demand(kept(fibula::text_where(text, fibula::names_of_linux())));
  (void)fibula::stripped_code(text);
  (void)fibula::macro_bodies(text);
  (void)fibula::licence_in_text(text);
  const auto filled = fibula::filled_template(text, "tide", fibula::chosen_values(text));
  (void)fibula::names_left_open(filled.text);
  return 0;
}
