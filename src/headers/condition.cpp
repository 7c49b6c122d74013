#include "headers/condition.hpp"

#include "base/text.hpp"

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
    bool value = false;
    if (take("!")) {
      value = !single();
    } else if (take("(")) {
      value = either();
      take(")");
    } else {
      value = name_or_number();
    }
    --depth_;
    return comparison(value);
  }
  /// `__GNUC__ >= 4`: true where the name is defined, since compilers of today are newer than what headers ask for.
  bool comparison(bool left) {
    for (const std::string_view sign : {">=", "<=", "==", "!=", ">", "<"}) {
      if (!take(sign)) continue;
      word();
      return left && sign[0] != '<';
    }
    return left;
  }
  bool name_or_number() {
    const auto name = word();
    if (name.empty()) {
      if (at_ < text_.size()) ++at_;  // a sign that means nothing here
      return false;
    }
    if (name == "defined") {
      const bool parenthesis = take("(");
      const bool value = defined_.contains(word());
      if (parenthesis) take(")");
      return value;
    }
    if (name[0] >= '0' && name[0] <= '9') return name.find_first_not_of('0') != std::string_view::npos;
    return defined_.contains(name);
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
