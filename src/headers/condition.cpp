#include "headers/condition.hpp"

#include "base/text.hpp"

#include <cstdlib>
#include <optional>

namespace fibula {
namespace {

class Condition {
 public:
  Condition(std::string_view text, const DefinedNames& defined) : text_(text), defined_(defined) {}
  bool evaluate() { return either(); }

 private:
  void skip() {
    while (at_ < text_.size() && (text_[at_] == ' ' || text_[at_] == '\t')) ++at_;
  }
  bool take(std::string_view sign) {
    skip();
    if (text_.substr(at_, sign.size()) != sign) return false;
    at_ += sign.size();
    return true;
  }
  std::string_view word() {
    skip();
    const size_t start = at_;
    while (at_ < text_.size() && text::is_identifier_character(text_[at_])) ++at_;
    return text_.substr(start, at_ - start);
  }
  /// A number where it is known: a name that is not defined is 0 (C 2018, 6.10.1.4).
  struct Value {
    bool holds = false;
    std::optional<unsigned long> number;
  };

  bool either() {
    bool value = both();
    while (take("||")) value = both() || value;
    return value;
  }
  bool both() {
    bool value = single();
    while (take("&&")) value = single() && value;
    return value;
  }
  bool single() {
    if (depth_++ > 200) return false;
    const bool value = compared(operand());
    --depth_;
    return value;
  }
  Value operand() {
    if (take("!")) return {!single(), std::nullopt};
    if (!take("(")) return name_or_number();
    const bool value = either();
    take(")");
    return {value, std::nullopt};
  }
  /// `__GNUC__ >= 4`: true where the name is defined, since compilers of today are newer than what headers ask for.
  bool compared(const Value& left) {
    for (const std::string_view sign : {">=", "<=", "==", "!=", ">", "<"}) {
      if (!take(sign)) continue;
      const Value right = operand();
      if (left.number && right.number) return is_so(*left.number, sign, *right.number);
      return left.holds && sign[0] != '<';
    }
    return left.holds;
  }
  static bool is_so(unsigned long left, std::string_view sign, unsigned long right) {
    if (sign == "==") return left == right;
    if (sign == "!=") return left != right;
    if (sign == ">=") return left >= right;
    if (sign == "<=") return left <= right;
    return sign == ">" ? left > right : left < right;
  }
  Value name_or_number() {
    const auto name = word();
    if (name.empty()) {
      if (at_ < text_.size()) ++at_;  // a sign that means nothing here
      return {};
    }
    if (name == "defined") {
      const bool parenthesis = take("(");
      const bool value = defined_.contains(word());
      if (parenthesis) take(")");
      return {value, std::nullopt};
    }
    if (name[0] >= '0' && name[0] <= '9') {
      const unsigned long number = std::strtoul(std::string(name).c_str(), nullptr, 0);
      return {number != 0, number};
    }
    if (defined_.contains(name)) return {true, std::nullopt};
    return {false, 0UL};
  }

  std::string_view text_;
  const DefinedNames& defined_;
  size_t at_ = 0;
  int depth_ = 0;
};

}  // namespace

bool condition_holds(std::string_view expression, const DefinedNames& defined) {
  return Condition(expression, defined).evaluate();
}

}  // namespace fibula
