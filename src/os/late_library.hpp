/// Shared libraries that only some commands need, loaded when such a command runs: an archive library alone costs more
/// than the whole start of a program.
#pragma once

#include <fibula/result.hpp>

#include <string>
#include <string_view>

namespace fibula {

class LateLibrary {
 public:
  /// `package` is Debian's name of what to install, `purpose` what it is needed for. Stays loaded until the program
  /// ends. Errors: missing_tool.
  static Result<LateLibrary> open(const char* soname, std::string_view package, std::string_view purpose);

  /// Sets the pointer to the function of that name. Errors: missing_tool (the library is of another version).
  template <class Function>
  Result<void> bind(Function*& into, const char* name) const {
    auto address = find(name);
    if (!address) return pass(address);
    into = reinterpret_cast<Function*>(*address);
    return {};
  }

 private:
  LateLibrary(void* handle, std::string soname) : handle_(handle), soname_(std::move(soname)) {}
  Result<void*> find(const char* name) const;

  void* handle_;
  std::string soname_;
};

}  // namespace fibula
