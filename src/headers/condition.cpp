#include "headers/condition.hpp"

#include "base/text.hpp"

#include <cstdlib>
#include <optional>

namespace fibula {
namespace {

/// Of two numbers.
bool is_so(unsigned long left, std::string_view sign, unsigned long right) {
  if (sign == "==") return left == right;
  if (sign == "!=") return left != right;
  if (sign == ">=") return left >= right;
  if (sign == "<=") return left <= right;
  return sign == ">" ? left > right : left < right;
}

/// Where a reading of an expression is.
class ExpressionText {
 protected:
  explicit ExpressionText(std::string_view text) : text_(text) {}

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

  std::string_view text_;
  size_t at_ = 0;
};

class Condition : private ExpressionText {
 public:
  Condition(std::string_view text, const DefinedNames& defined) : ExpressionText(text), defined_(defined) {}
  bool evaluate() { return either(); }

 private:
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

  const DefinedNames& defined_;
  int depth_ = 0;
};

/// The same in three values: what is known of a part may settle the whole (`0 && x`).
class DoubtfulCondition : private ExpressionText {
 public:
  DoubtfulCondition(std::string_view text, const NameQuestion& is_never_defined)
      : ExpressionText(text), is_never_defined_(is_never_defined) {}

  std::optional<bool> evaluate() {
    const auto value = either();
    skip();
    return at_ < text_.size() || is_strange_ ? std::nullopt : value;
  }

 private:
  using Truth = std::optional<bool>;
  using Number = std::optional<unsigned long>;
  /// What is in parentheses may be known not to be 0 without being known.
  struct Value {
    Truth truth;
    Number number;
  };
  static Value known(unsigned long number) { return {number != 0, number}; }

  Truth either() {
    return joined("||", true, [this] { return both(); });
  }
  Truth both() {
    return joined("&&", false, [this] { return compared(); });
  }
  /// Parts between signs: one that `settles` it is enough, and else all have to be known.
  template <class Part>
  Truth joined(std::string_view sign, bool settles, const Part& part) {
    Truth value = part();
    while (take(sign)) {
      const Truth other = part();
      if (value != settles && (other == settles || !other)) value = other;
    }
    return value;
  }
  Truth compared() {
    const Value left = calculated();
    for (const std::string_view sign : {">=", "<=", "==", "!=", ">", "<"}) {
      if (!take(sign)) continue;
      const Value right = calculated();
      return left.number && right.number ? Truth(is_so(*left.number, sign, *right.number)) : std::nullopt;
    }
    return left.truth;
  }
  /// Sums and the like are not worked out.
  Value calculated() {
    Value value = operand();
    while (!is_strange_ && take_arithmetic()) {
      operand();
      value = {};
    }
    return value;
  }
  bool take_arithmetic() {
    skip();
    const auto rest = text_.substr(at_);
    if (rest.starts_with("&&") || rest.starts_with("||")) return false;
    for (const std::string_view sign : {"<<", ">>", "+", "-", "*", "/", "%", "&", "|", "^", "?", ":"}) {
      if (take(sign)) return true;
    }
    return false;
  }
  Value operand() {
    constexpr int deep = 200;
    if (depth_ == deep) is_strange_ = true;
    if (is_strange_) return {};
    ++depth_;
    const Value value = signed_operand();
    --depth_;
    return value;
  }
  Value signed_operand() {
    if (take("!")) {
      const Truth inner = operand().truth;
      return inner ? known(*inner ? 0UL : 1UL) : Value();
    }
    if (take("-") || take("+") || take("~")) {
      operand();
      return {};
    }
    if (!take("(")) return name_or_number();
    const Truth inner = either();
    is_strange_ = is_strange_ || !take(")");
    return inner == false ? known(0UL) : Value{inner, std::nullopt};
  }
  Value name_or_number() {
    const auto name = word();
    if (name.empty()) {
      is_strange_ = true;
      return {};
    }
    if (name == "defined") {
      const bool parenthesis = take("(");
      const bool never = is_never_defined_(word());
      is_strange_ = is_strange_ || (parenthesis && !take(")"));
      return never ? known(0UL) : Value();
    }
    if (name[0] >= '0' && name[0] <= '9') return known(std::strtoul(std::string(name).c_str(), nullptr, 0));
    if (take("(")) {
      skip_arguments();
      return {};
    }
    return is_never_defined_(name) ? known(0UL) : Value();
  }
  /// Of a macro: `TIDE_AT_LEAST(2, (1))`, `__has_include(<tide.h>)`.
  void skip_arguments() {
    int open = 1;
    for (; at_ < text_.size() && open > 0; ++at_) {
      if (text_[at_] == '(') ++open;
      if (text_[at_] == ')') --open;
    }
    is_strange_ = is_strange_ || open > 0;
  }

  const NameQuestion& is_never_defined_;
  int depth_ = 0;
  bool is_strange_ = false;  ///< holds what is not understood here
};

}  // namespace

std::optional<bool> settled_condition(std::string_view expression, const NameQuestion& is_never_defined) {
  return DoubtfulCondition(expression, is_never_defined).evaluate();
}

bool condition_holds(std::string_view expression, const DefinedNames& defined) {
  return Condition(expression, defined).evaluate();
}

}  // namespace fibula
