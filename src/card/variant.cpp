#include <fibula/variant.hpp>

#include <fmt/format.h>

namespace fibula {

const std::string& Variant::fact(std::string_view of) const {
  static const std::string untold;
  const auto* name = fact_as<std::string>(of);
  return name == nullptr ? untold : *name;
}

std::string to_text(const Learnt& learnt) {
  if (learnt.file.empty()) return fmt::format("{}: {}", to_string(learnt.certainty), learnt.from);
  return fmt::format("{} from {}: {}", to_string(learnt.certainty), learnt.file, learnt.from);
}

}  // namespace fibula
