#include <fibula/linkage.hpp>

#include "base/names.hpp"

namespace fibula {

std::string_view to_string(Linkage linkage) {
  static constexpr Name<Linkage> names[] = {
      {Linkage::any, "any"}, {Linkage::static_, "static"}, {Linkage::shared, "shared"}};
  return name_in<Linkage>(names, linkage);
}

}  // namespace fibula
