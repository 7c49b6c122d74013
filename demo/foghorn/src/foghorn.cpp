#include <saltlog/extra/foghorn.hpp>

namespace foghorn {

int blasts(const saltlog::Entry& entry) {
  return static_cast<int>(entry.text.size()) / 8;
}

}  // namespace foghorn
