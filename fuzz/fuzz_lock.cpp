// Whatever the text: what is locked has names that can be.
#include "base/inside_path.hpp"
#include "choose/lock.hpp"
#include "fuzz_text.hpp"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  const auto lock = fibula::Lock::parsed(text, "fibula.lock");
  if (!lock) return 0;
  for (const auto& library : lock->libraries("desk"))
    demand(fibula::is_plain_name(lock->find("desk", library)->version));
  return 0;
}
