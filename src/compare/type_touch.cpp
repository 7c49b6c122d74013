#include "compare/type_touch.hpp"

#include <algorithm>

namespace fibula {
namespace {

/// Whole numbers and truth values of one size are passed alike; pointers all are.
std::string passed(const std::string& form) {
  if (form.empty()) return form;
  switch (form[0]) {
    case '*': return "*";
    case 'i':
    case 'u':
    case 'b': return "n" + form.substr(1);
    case 'e': return "n" + form.substr(1, form.find(':') - 1);
    default: return form;
  }
}

/// Of a pointer to a function, what it takes and gives: "*F(i4,*v,)f8" -> i4, *v, f8.
std::vector<std::string> parts_of_call(std::string_view form) {
  std::vector<std::string> parts(1);
  int depth = 1;
  for (const char c : form.substr(3)) {
    depth += c == '(' ? 1 : c == ')' ? -1 : 0;
    if ((c == ',' && depth == 1) || (c == ')' && depth == 0)) {
      parts.emplace_back();
    } else {
      parts.back() += c;
    }
  }
  return parts;
}

/// Whether both are pointers to functions, and calls through them pass other bytes.
bool calls_differ(const std::string& before, const std::string& after) {
  if (!before.starts_with("*F(") || !after.starts_with("*F(")) return false;
  const auto one = parts_of_call(before), other = parts_of_call(after);
  return !std::equal(one.begin(), one.end(), other.begin(), other.end(),
                     [](const std::string& a, const std::string& b) { return passed(a) == passed(b); });
}

}  // namespace

Touch touch(const TypeText& before, const TypeText& after) {
  if (before.form == after.form || before.form == "?" || after.form == "?") return Touch::same;
  if (passed(before.form) != passed(after.form) || calls_differ(before.form, after.form)) return Touch::bytes;
  // A pointer to void stands for one to anything; an enumeration for its number.
  const bool any = before.form == "*v" || after.form == "*v" || before.form[0] == 'e' || after.form[0] == 'e';
  return any ? Touch::same : Touch::meaning;
}

}  // namespace fibula
