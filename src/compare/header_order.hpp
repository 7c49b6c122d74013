/// Which of a library's headers one source can include, in which order.
#pragma once

#include <functional>
#include <set>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

/// The lines of a source on which the errors of a compile began: where it includes what they are in. `said` is what a
/// compiler of the GCC or Clang family printed (each prints how an included file was reached before its first message
/// there). Lines count from 1.
std::set<size_t> lines_with_errors(std::string_view said, const std::string& source);

/// Compiles a source that includes these headers, and gives the positions of those with errors; none: it compiles.
using CompileHeaders = std::function<std::set<size_t>(const std::vector<std::string>&)>;

struct OrderedHeaders {
  std::vector<std::string> good;  ///< one source can include them all, in this order
  std::vector<std::string> bad;   ///< these do not compile, not behind the others either
};
/// A bounded number of compiles, however many headers there are: those with errors leave, then they come back behind
/// the rest.
OrderedHeaders order_headers(std::vector<std::string> names, const CompileHeaders& compile);

}  // namespace fibula
