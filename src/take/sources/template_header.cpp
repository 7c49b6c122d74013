/// Two kinds of templates are in use: those of GNU Autoheader, with `#undef NAME` for what a test may define, and those
/// with `#cmakedefine NAME` and values between @ or in ${}.
#include "take/sources/template_header.hpp"

#include "base/text.hpp"
#include "take/sources/library_functions.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <filesystem>
#include <initializer_list>
#include <optional>

namespace fibula {
namespace {

constexpr std::string_view system_mark = "@CMAKE_SYSTEM_NAME@";

/// What is said of a name, and of a line, that only a configure step can settle.
constexpr std::string_view undefined_mark = " stays undefined */", open_mark = "/* its value is not known:";

bool is_one_of(std::string_view name, std::initializer_list<std::string_view> names) {
  return std::find(names.begin(), names.end(), name) != names.end();
}

std::string if_so(const std::string& condition, const std::string& name) {
  return fmt::format("#if {}\n#define {} 1\n#endif", condition, name);
}

/// What compilers say of their types by themselves (GCC's manual, "Common Predefined Macros").
std::string size_of(std::string_view type) {
  if (is_one_of(type, {"CHAR", "UNSIGNED_CHAR", "INT8_T"})) return "1";
  if (is_one_of(type, {"INT16_T", "UINT16_T"})) return "2";
  if (is_one_of(type, {"INT32_T", "UINT32_T"})) return "4";
  if (is_one_of(type, {"INT64_T", "UINT64_T", "__INT64"})) return "8";
  if (type == "VOIDP" || type == "VOID_P" || type == "VOID_PTR" || type == "CHAR_P") return "__SIZEOF_POINTER__";
  if (is_one_of(type, {"SHORT", "INT", "LONG", "LONG_LONG", "FLOAT", "DOUBLE", "LONG_DOUBLE", "SIZE_T", "WCHAR_T",
                       "PTRDIFF_T", "WINT_T"}))
    return fmt::format("__SIZEOF_{}__", type);
  if (type == "UNSIGNED_INT") return "__SIZEOF_INT__";
  if (type == "UNSIGNED_LONG") return "__SIZEOF_LONG__";
  if (type == "OFF_T") return "__SIZEOF_LONG__";  // unless the source asks for large files
  if (type == "SSIZE_T") return "__SIZEOF_SIZE_T__";
  return {};
}

/// SYS_TYPES_H -> sys/types.h.
std::string header_named(std::string_view name) {
  std::string header = text::lower(name.substr(0, name.size() - 2));
  for (const std::string_view folder : {"sys_", "netinet_", "arpa_", "net_", "linux_", "asm_", "mach_", "machine_"}) {
    if (header.starts_with(folder)) header[folder.size() - 1] = '/';
  }
  return header + ".h";
}

/// A HAVE_… that a configure script would try out; `rest` is what stands behind HAVE_.
std::optional<std::string> have(std::string_view rest, const std::string& name) {
  if (rest.ends_with("_H")) return if_so(fmt::format("__has_include(<{}>)", header_named(rest)), name);
  const std::string function = text::lower(rest.starts_with("DECL_") ? rest.substr(5) : rest);
  if (is_one_of(rest, {"DECL_ISNAN", "DECL_ISINF", "DECL_INFINITY", "DECL_NAN", "DECL_SIGNBIT", "DECL_ISFINITE"}))
    return fmt::format("#define {} 1", name);
  if (is_c99_function(function)) return fmt::format("#define {} 1", name);
  if (function == "getrandom") return if_so("__has_include(<sys/random.h>)", name);
  if (is_also_in_mingw(function)) return if_so("defined(__unix__) || defined(__APPLE__) || defined(__MINGW32__)", name);
  if (is_posix_function(function) || is_beyond_posix(function))
    return if_so("defined(__unix__) || defined(__APPLE__)", name);
  if (is_of_linux(function)) return if_so("defined(__linux__)", name);
  if (is_one_of(rest, {"CADDR_T", "SSIZE_T", "OFF_T", "IN_ADDR_T", "IN_PORT_T", "NLINK_T", "SIGSET_T", "SOCKLEN_T",
                       "TYPE_SOCKLEN", "SA_FAMILY_T", "STRUCT_SOCKADDR_STORAGE", "STRUCT_ADDRINFO", "STRUCT_TIMEVAL",
                       "STRUCT_TIMESPEC", "MODE_T", "PID_T", "UID_T", "STRUCT_SIGACTION"}))
    return if_so("defined(__unix__) || defined(__APPLE__)", name);
  if (is_one_of(rest, {"U_INT8_T", "U_INT16_T", "U_INT32_T", "U_INT64_T", "U_CHAR", "U_SHORT", "U_INT", "U_LONG"}))
    return if_so("defined(__unix__) || defined(__APPLE__)", name);
  if (rest == "LINUX") return if_so("defined(__linux__)", name);
  if (is_one_of(rest, {"DARWIN", "MACOS", "OSX"})) return if_so("defined(__APPLE__)", name);
  if (is_one_of(rest, {"WIN32", "WINDOWS"})) return if_so("defined(_WIN32)", name);
  if (rest.starts_with("BUILTIN") || rest.starts_with("__BUILTIN") || rest.starts_with("GCC_") ||
      rest.find("ATTRIBUTE") != std::string_view::npos || rest.find("VISIBILITY") != std::string_view::npos)
    return if_so("defined(__GNUC__)", name);
  if (is_one_of(rest,
                {"STDINT",   "STDBOOL",         "INTTYPES", "LONG_LONG", "LONG_LONG_INT",   "UNSIGNED_LONG_LONG_INT",
                 "INT8_T",   "INT16_T",         "INT32_T",  "INT64_T",   "UINT8_T",         "UINT16_T",
                 "UINT32_T", "UINT64_T",        "INTPTR_T", "UINTPTR_T", "SIZE_T",          "PTRDIFF_T",
                 "_BOOL",    "VARIADIC_MACROS", "C99_VLA",  "__FUNC__",  "COMPILER__FUNC__"}))
    return fmt::format("#define {} 1", name);
  return std::nullopt;
}

/// WORDS_BIGENDIAN, TIDE_LITTLE_ENDIAN: what it asks; empty for other names.
std::string byte_order_asked(const std::string& name) {
  if (name.find("ENDIAN") == std::string::npos) return {};
  if (name.find("BIG") != std::string::npos) return "__BYTE_ORDER__ == __ORDER_BIG_ENDIAN__";
  return name.find("LITTLE") != std::string::npos ? "__BYTE_ORDER__ == __ORDER_LITTLE_ENDIAN__" : "";
}

/// What a line that may define a name becomes.
std::string definition_of(const std::string& name, const std::string& library) {
  if (name.starts_with("SIZEOF_")) {
    if (const auto size = size_of(std::string_view(name).substr(7)); !size.empty())
      return fmt::format("#define {} {}", name, size);
  }
  const size_t at = name.find("HAVE_");
  if (at == 0 || (at != std::string::npos && name[at - 1] == '_')) {
    std::string_view rest = std::string_view(name).substr(at + 5);
    // HAVE_LIBTIDE_SIZE_T asks for size_t.
    const std::string own = text::upper(library) + "_";
    if (rest.starts_with(own)) rest.remove_prefix(own.size());
    if (auto found = have(rest, name)) return *found;
  }
  if (name == "STDC_HEADERS") return "#define STDC_HEADERS 1";
  if (name == "RETSIGTYPE") return "#define RETSIGTYPE void";  // C99, 7.14
  // Each asks one system for all that it has, and is nothing to others (Autoconf, AC_USE_SYSTEM_EXTENSIONS).
  if (is_one_of(name, {"_GNU_SOURCE", "_ALL_SOURCE", "_DARWIN_C_SOURCE", "__EXTENSIONS__", "_NETBSD_SOURCE",
                       "_OPENBSD_SOURCE", "_POSIX_PTHREAD_SEMANTICS", "_TANDEM_SOURCE"}))
    return fmt::format("#define {} 1", name);
  if (name == "BYTEORDER")
    return "#if __BYTE_ORDER__ == __ORDER_BIG_ENDIAN__\n#define BYTEORDER 4321\n#else\n#define BYTEORDER 1234\n#endif";
  if (const auto order = byte_order_asked(name); !order.empty()) return if_so(order, name);
  if (is_one_of(name, {"PACKAGE", "PACKAGE_NAME", "PACKAGE_TARNAME"}))
    return fmt::format("#define {} \"{}\"", name, library);
  if (is_one_of(name, {"VERSION", "PACKAGE_VERSION"})) return fmt::format("#define {} \"@version@\"", name);
  if (name == "PACKAGE_STRING") return fmt::format("#define {} \"{} @version@\"", name, library);
  if (is_one_of(name, {"PACKAGE_BUGREPORT", "PACKAGE_URL"})) return fmt::format("#define {} \"\"", name);
  return fmt::format("/* {}{}", name, undefined_mark);
}

/// What stands for a value between @ or in ${}; nothing where nobody can know it.
std::optional<std::string> value_of(const std::string& name, const std::string& library) {
  const std::string upper = text::upper(name);
  const auto has = [&](std::string_view word) { return upper.find(word) != std::string::npos; };
  // A library's files may be counted in a way of their own (libtool's manual, "Versioning").
  const bool of_files = has("LIBRARY_VERSION") || has("SOVERSION") || has("SO_VERSION") || has("ABI_VERSION") ||
                        has("API_VERSION") || has("INTERFACE_VERSION") || has("LT_VERSION");
  if (!of_files && (has("VERSION") || has("VER_"))) {
    if (has("MAJOR")) return "@major@";
    if (has("MINOR")) return "@minor@";
    if (has("PATCH") || has("MICRO") || has("REVISION") || has("BUGFIX")) return "@patch@";
    if (has("SUFFIX") || has("EXTRA") || has("TWEAK")) return "";
    if (!has("NUMBER") && !has("HEX")) return "@version@";
  }
  if (is_one_of(upper, {"PACKAGE", "PACKAGE_TARNAME"}) || upper.ends_with("PACKAGE_NAME") ||
      upper.ends_with("PROJECT_NAME"))
    return library;
  if (has("INLINE")) return "inline";
  if (const auto order = byte_order_asked(upper); !order.empty()) return "(" + order + ")";
  if (has("BUILD") || has("DATE") || has("BUGREPORT") || has("URL")) return "";
  if (has("THREAD_LOCAL") || upper == "THREADLOCAL") return "__thread";
  if (upper == "SIZE_T") return "__SIZEOF_SIZE_T__";
  if (upper.starts_with("SIZEOF_")) {
    if (auto size = size_of(std::string_view(upper).substr(7)); !size.empty()) return size;
  }
  if (has("HAVE_") && upper.ends_with("_H_01"))
    return fmt::format("__has_include(<{}>)",
                       header_named(upper.substr(upper.find("HAVE_") + 5, upper.size() - upper.find("HAVE_") - 8)));
  if (upper.ends_with("INCLUDE_STDINT_H") || upper.ends_with("INCLUDE_INTTYPES_H") ||
      upper.ends_with("INCLUDE_SYS_TYPES_H") || has("HAVE_LONG_LONG") || has("HAVE_STDINT") || has("HAVE_LOCALECONV"))
    return "1";
  if (has("BUILTINS")) return "1";
  // The sizes that libraries ask for under names of their own: SIZE16, USIZE32.
  for (const std::string_view bits : {"16", "32", "64"}) {
    if (upper == fmt::format("SIZE{}", bits)) return fmt::format("int{}_t", bits);
    if (upper == fmt::format("USIZE{}", bits)) return fmt::format("uint{}_t", bits);
  }
  return std::nullopt;
}

bool is_name(std::string_view text) {
  return !text.empty() && std::all_of(text.begin(), text.end(), text::is_identifier_character) &&
         (text[0] < '0' || text[0] > '9');
}

/// Replaces each @NAME@ and ${NAME}; nothing where one has no value.
std::optional<std::string> with_values(std::string_view line, const std::string& library) {
  std::string filled;
  for (size_t at = 0; at < line.size();) {
    const bool braces = line.substr(at).starts_with("${");
    const size_t start = at + (braces ? 2 : 1);
    const size_t end = line[at] == '@' || braces ? line.find(braces ? '}' : '@', start) : std::string_view::npos;
    if (end == std::string_view::npos || !is_name(line.substr(start, end - start))) {
      filled += line[at++];
      continue;
    }
    const auto value = value_of(std::string(line.substr(start, end - start)), library);
    // A version with dots is a text, and no number.
    const bool quoted = std::count(line.begin(), line.begin() + static_cast<std::ptrdiff_t>(at), '"') % 2 == 1;
    if (!value || (*value == "@version@" && !quoted && line.find("//") == std::string_view::npos)) return std::nullopt;
    filled += *value;
    at = end + 1;
  }
  return filled;
}

/// A definition that is there in any case: 0 where the other form would leave the name undefined.
std::string yes_or_no(std::string definition, const std::string& name) {
  if (definition.ends_with("#endif"))
    return definition.replace(definition.size() - 6, 6, fmt::format("#else\n#define {} 0\n#endif", name));
  return definition.starts_with("#define") ? definition : fmt::format("#define {} 0", name);
}

/// A line whose value is not known, as a comment: what it holds of comments itself ends before.
std::string left_open(std::string_view line) {
  const size_t comment = std::min(line.find("/*"), line.find("*/"));
  return fmt::format("{} {} */", open_mark, text::trim(line.substr(0, comment)));
}

/// A comment may hold anything.
bool is_comment(std::string_view line) {
  return line.starts_with("//") || line.starts_with('*') || line.starts_with("/*");
}

/// Whether a comment of several lines is open behind a line, when it was or was not before.
bool is_open_behind(std::string_view line, bool open) {
  for (size_t at = 0; at + 1 < line.size(); ++at) {
    const auto sign = line.substr(at, 2);
    if (!open && sign == "//") return false;
    if (sign != (open ? "*/" : "/*")) continue;
    open = !open;
    ++at;
  }
  return open;
}

/// `#if`, `#elif`: taken out, what follows would hang in the air.
bool is_condition(std::string_view directive) {
  return directive.starts_with("if") || directive.starts_with("elif");
}

/// A condition that asks for nothing, as behind `&&`.
bool lacks_operand(std::string_view condition) {
  condition = text::trim(condition);
  return condition.ends_with("&&") || condition.ends_with("||") || condition == "#if" || condition == "#elif";
}

/// `@INLINE_CODE@` alone on a line is no value.
bool stands_for_lines(std::string_view line) {
  return line.size() > 2 && line.front() == '@' && line.back() == '@' && is_name(line.substr(1, line.size() - 2));
}

class Filler {
 public:
  Filler(const std::string& library, const ChosenValues& chosen) : library_(library), chosen_(chosen) {}

  FilledTemplate fill(std::string_view text) {
    for (const auto line : text::lines(text)) {
      const bool inside = in_comment_;
      in_comment_ = is_open_behind(line, in_comment_);
      filled_.text += (inside ? std::string(line) : filled_line(line)) + "\n";
    }
    return std::move(filled_);
  }

 private:
  std::string filled_line(std::string_view line) {
    const auto trimmed = text::trim(line);
    if (is_comment(trimmed)) return std::string(line);
    if (stands_for_lines(trimmed)) {
      ++filled_.open;
      return left_open(trimmed);
    }
    const std::string_view directive = trimmed.starts_with('#') ? text::trim(trimmed.substr(1)) : std::string_view();
    const auto words = text::words(directive);
    const bool asks = words.size() > 1 && is_one_of(words[0], {"undef", "cmakedefine", "cmakedefine01", "mesondefine"});
    const bool capital = words.size() > 1 && std::string(words[1]) == text::upper(words[1]);
    if (asks && words[0] != "undef" && !capital) return fmt::format("/* {}{}", words[1], undefined_mark);
    // `#undef inline` gives way to the compiler's own.
    if (asks && capital && is_name(words[1])) return asked_line(directive, words);
    if (const size_t system = line.find(system_mark); system != std::string_view::npos) return by_system(line, system);
    auto values = with_values(line, library_);
    if (is_condition(directive) && (!values || lacks_operand(*values))) {
      ++filled_.open;
      return fmt::format("#{} 0 {}", words[0], left_open(trimmed));
    }
    if (values) return *values;
    if (words.size() > 1 && words[0] == "define") {
      if (const auto value = borrowed(std::string(words[1])); !value.empty()) return value;
    }
    ++filled_.open;
    return left_open(trimmed);
  }

  /// A line with the name of the system that programs are for, as CMake spells it.
  std::string by_system(std::string_view line, size_t at) {
    const auto called = [&](std::string_view system) {
      return filled_line(fmt::format("{}{}{}", line.substr(0, at), system, line.substr(at + system_mark.size())));
    };
    return fmt::format("#if defined(_WIN32)\n{}\n#elif defined(__APPLE__)\n{}\n#else\n{}\n#endif", called("Windows"),
                       called("Darwin"), called("Linux"));
  }

  /// A line that defines a name, or does not.
  std::string asked_line(std::string_view directive, const std::vector<std::string_view>& words) {
    const std::string name(words[1]);
    // With a value behind it, it is the value that counts, where it can be known.
    if (words.size() > 2 && words[0] == "cmakedefine" && words[2].find_first_of("@$") != std::string_view::npos) {
      if (const auto value =
              with_values(directive.substr(static_cast<size_t>(words[2].data() - directive.data())), library_))
        return fmt::format("#define {} {}", name, *value);
    }
    std::string definition = definition_of(name, library_);
    if (!definition.starts_with('#')) {
      if (auto value = borrowed(name); !value.empty()) return value;
    }
    // Of some it is asked whether they are, not whether they are defined.
    return words[0] == "cmakedefine01" ? yes_or_no(std::move(definition), name) : definition;
  }

  std::string borrowed(const std::string& name) {
    const auto found = chosen_.find(name);
    if (found == chosen_.end()) return {};
    ++filled_.borrowed;
    return fmt::format("#define {} {}", name, found->second);
  }

  const std::string& library_;
  const ChosenValues& chosen_;
  FilledTemplate filled_;
  bool in_comment_ = false;
};

}  // namespace

std::string header_of_template(const std::string& file) {
  std::string name = text::lower(std::filesystem::path(file).filename().string());
  bool is_template = false;
  for (bool more = true; more;) {
    more = false;
    for (const std::string_view ending : {".in", ".cmake", ".cmakein", ".meson", "_cmake"}) {
      if (name.size() <= ending.size() || !name.ends_with(ending)) continue;
      name.erase(name.size() - ending.size());
      is_template = more = true;
    }
  }
  if (name.ends_with(".hin")) return name.substr(0, name.size() - 2);
  for (const std::string_view middle : {".cmake.h", "_cmake.h", ".in.h"}) {
    if (!name.ends_with(middle)) continue;
    name = name.substr(0, name.size() - middle.size()) + ".h";
    is_template = true;
  }
  return is_template && (name.ends_with(".h") || name.ends_with(".hpp")) ? name : std::string();
}

ChosenValues chosen_values(std::string_view header) {
  ChosenValues values;
  for (const auto line : text::lines(header)) {
    const auto words = text::words(line);
    const bool number = words.size() > 2 && words[2].find_first_not_of("0123456789") == std::string_view::npos;
    if (number && words[0] == "#define") values.emplace(words[1], words[2]);
  }
  return values;
}

bool leaves_open(std::string_view filled) {
  return filled.find(undefined_mark) != std::string_view::npos || filled.find(open_mark) != std::string_view::npos;
}

std::vector<std::string> names_left_open(std::string_view filled) {
  std::vector<std::string> names;
  for (const auto line : text::lines(filled)) {
    if (!line.starts_with(open_mark)) continue;
    const auto words = text::words(line.substr(open_mark.size()));
    if (words.size() > 1 && words[0] == "#define") names.emplace_back(words[1]);
  }
  return names;
}

std::vector<std::string> names_left_undefined(std::string_view filled) {
  std::vector<std::string> names;
  for (const auto line : text::lines(filled)) {
    if (line.starts_with("/* ") && line.ends_with(undefined_mark))
      names.emplace_back(line.substr(3, line.size() - 3 - undefined_mark.size()));
  }
  return names;
}

FilledTemplate filled_template(std::string_view text, const std::string& name, const ChosenValues& chosen) {
  return Filler(name, chosen).fill(text);
}

}  // namespace fibula
