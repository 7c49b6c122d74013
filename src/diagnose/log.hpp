/// What a log says, line by line, before anything is looked up.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace fibula {

struct Complaint {
  enum class Kind {
    header_missing,   ///< name: the header as it was included
    undefined,        ///< name: the symbol, readable or mangled
    library_missing,  ///< name: what stood behind -l
    other,            ///< an error that is none of these; name: its text
  };
  Kind kind;
  std::string name;
  std::string where;  ///< "main.cpp:3", "main.o: in function `main'"
};

/// The complaints of a compiler or linker, each name once, in order.
std::vector<Complaint> complaints_in(std::string_view log);

}  // namespace fibula
