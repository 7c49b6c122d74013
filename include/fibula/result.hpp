/// Errors as values.
///
/// Every public function that can fail for a reason outside the program returns `Result<T>`: the value, or an
/// `Error` that names the file, the place in it, what was expected, and what to do. Nothing in the library throws
/// on input, prints, or exits; a mistake of the calling program is an assertion.
#pragma once

#include <fibula/export.hpp>

#include <cstddef>
#include <string>
#include <tl/expected.hpp>
#include <utility>

namespace fibula {

/// What the caller can do about an error. The comments say when to use each, and not its neighbour.
enum class Code {
  usage,          ///< the call or the command line is wrong; the files were not looked at
  absent,         ///< a file or folder that was named does not exist
  unreadable,     ///< it exists, and the system refuses to read it
  truncated,      ///< the bytes end before the format says they do
  malformed,      ///< all bytes are there, and a field contradicts the format or the schema
  not_a_library,  ///< sound, and of a kind that no linker takes: a web page, an archive to unpack, a script
  unsupported,    ///< a known format that this version cannot read
  limit,          ///< sound perhaps, but beyond a stated bound
  refused,        ///< the request is understood and the answer is no: a conflict, an unknown library, a failed build
  missing_tool,   ///< a compiler or another program is not on this machine
  io,             ///< writing failed: disk full, folder not writable
};

/// The name of a code, as it stands in JSON.
FIBULA_API std::string to_string(Code code);

/// Why something could not be done.
struct Error {
  Code code = Code::malformed;
  std::string what;        ///< one sentence without a full stop, lower case
  std::string file = {};   ///< the file or folder it is about; may be empty
  size_t line = 0;         ///< where in it, of a text; 0: none
  std::string place = {};  ///< where in it: "0x76", a member's name; may be empty
  std::string hint = {};   ///< what to do; may be empty
};

/// `libx.a: at 0x76: member size is not a decimal number`, `fibula.toml:12: unknown key lnie`; without the hint.
FIBULA_API std::string render(const Error& error);

/// A value, or the reason why there is none.
template <class T>
class [[nodiscard]] Result : public tl::expected<T, Error> {
 public:
  using tl::expected<T, Error>::expected;
};

/// Makes the failed side of a Result.
inline tl::unexpected<Error> fail(Error error) {
  return tl::unexpected<Error>(std::move(error));
}

/// Hands the error of one Result on as the failed side of another.
template <class T>
tl::unexpected<Error> pass(Result<T>& failed) {
  return tl::unexpected<Error>(std::move(failed.error()));
}

/// The same outcome, without the value: for those who only ask whether it went well.
template <class T>
Result<void> without_value(Result<T> result) {
  if (!result) return pass(result);
  return {};
}

}  // namespace fibula
