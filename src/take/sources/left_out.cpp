#include "take/sources/left_out.hpp"

#include "base/text.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {

std::string told_of(const std::vector<std::string>& files, std::string_view of_one, std::string_view of_several) {
  constexpr size_t enough = 3;
  const std::vector<std::string> first(files.begin(),
                                       files.begin() + static_cast<std::ptrdiff_t>(std::min(files.size(), enough)));
  const std::string more = files.size() > enough ? fmt::format(" and {} more", files.size() - enough) : "";
  return fmt::format("{}{} {}", text::join(first, ", "), more, files.size() == 1 ? of_one : of_several);
}

std::vector<std::string> remarks_of(const LeftOut& left_out) {
  std::vector<std::string> remarks;
  const auto tell = [&](const std::vector<std::string>& files, std::string_view of_one, std::string_view of_several) {
    if (!files.empty()) remarks.push_back(told_of(files, of_one, of_several));
  };
  tell(left_out.programs, "has a main of its own, and is not compiled into the library",
       "have a main of their own, and are not compiled into the library");
  tell(left_out.beside_programs, "lies with programs, and is not compiled into the library",
       "lie with programs, and are not compiled into the library");
  tell(left_out.included, "is included by another file, and not compiled by itself",
       "are included by other files, and not compiled by themselves");
  tell(left_out.fragments, "is a part of which something makes a source, and not compiled by itself",
       "are parts of which something makes a source, and not compiled by themselves");
  tell(left_out.collections, "only includes other sources, and is left out: these are compiled one by one",
       "only include other sources, and are left out: these are compiled one by one");
  tell(left_out.unreached, "left out: nothing that the public headers declare needs it",
       "left out: nothing that the public headers declare needs them");
  tell(left_out.unlisted, "left out: its own makefiles name what lies beside it, and not it",
       "left out: its own makefiles name what lies beside them, and not them");
  tell(left_out.bindings, "left out: it is for users in another language",
       "left out: they are for users in other languages");
  for (const auto& [name, files] : left_out.incomplete)
    tell(files, fmt::format("left out: it includes {}, which is not here", name),
         fmt::format("left out: they include {}, which is not here", name));
  tell(left_out.foreign, "left out: for another system", "left out: for other systems");
  tell(left_out.tried, "left out: its configure step tries something out with it",
       "left out: its configure step tries something out with them");
  tell(left_out.side, "left out: it belongs to tests or samples", "left out: they belong to tests or samples");
  tell(left_out.outdone, "left out: on each system others define the same",
       "left out: on each system others define the same");
  return remarks;
}

}  // namespace fibula
