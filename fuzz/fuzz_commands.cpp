// Whatever stands in a command or a response file: it is read in bounded time, and every input is a word of it.
#include "commands/command_readers.hpp"
#include "commands/tool_command.hpp"
#include "fuzz_text.hpp"
#include "toolchain/answers.hpp"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  const std::string line = text.substr(0, text.find('\n'));
  auto words = fibula::response_words(line);
  (void)fibula::split_command(line);
  for (const char* tool : {"gcc", "clang-cl", "ld", "lld-link", "ar"}) {
    auto whole = words;
    whole.insert(whole.begin(), tool);
    const auto command = fibula::read_command(whole, "/nowhere");
    for (const auto& input : command.inputs) demand(input.word < command.words.size());
    for (const auto& source : command.sources) demand(source.path.is_absolute());
  }
  return 0;
}
