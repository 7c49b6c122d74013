#include "base/yaml.hpp"

#include <fmt/format.h>
#include <yaml.h>
#include <algorithm>

namespace fibula::yaml {
namespace {

constexpr int depth_limit = 64;

/// The parser of libyaml and the event it gave last.
class Events {
 public:
  explicit Events(Bytes bytes) : usable_(yaml_parser_initialize(&parser_) == 1) {
    yaml_parser_set_input_string(&parser_, reinterpret_cast<const unsigned char*>(bytes.data()), bytes.size());
  }
  Events(const Events&) = delete;
  Events& operator=(const Events&) = delete;
  ~Events() {
    drop();
    yaml_parser_delete(&parser_);
  }

  /// The next event; nothing when the text is no YAML.
  const yaml_event_t* next() {
    drop();
    held_ = usable_ && yaml_parser_parse(&parser_, &event_) == 1;
    return held_ ? &event_ : nullptr;
  }

  Error error() const {
    const char* problem = parser_.problem == nullptr ? "unreadable text" : parser_.problem;
    return {.code = Code::malformed, .what = problem, .line = parser_.problem_mark.line + 1};
  }

 private:
  void drop() {
    if (held_) yaml_event_delete(&event_);
    held_ = false;
  }

  yaml_parser_t parser_{};
  yaml_event_t event_{};
  bool usable_;
  bool held_ = false;
};

Error at_line(Code code, uint64_t line, std::string what) {
  return {.code = code, .what = std::move(what), .line = line};
}

std::string scalar_text(const yaml_event_t& event) {
  return {reinterpret_cast<const char*>(event.data.scalar.value), event.data.scalar.length};
}

Result<Node> read_node(Events& events, const yaml_event_t& event, int depth);

Result<Node> read_list(Events& events, Node node, int depth) {
  while (true) {
    const yaml_event_t* event = events.next();
    if (event == nullptr) return fail(events.error());
    if (event->type == YAML_SEQUENCE_END_EVENT) return node;
    auto item = read_node(events, *event, depth);
    if (!item) return item;
    node.items.push_back(std::move(*item));
  }
}

Result<Node> read_map(Events& events, Node node, int depth) {
  while (true) {
    const yaml_event_t* event = events.next();
    if (event == nullptr) return fail(events.error());
    if (event->type == YAML_MAPPING_END_EVENT) return node;
    if (event->type != YAML_SCALAR_EVENT)
      return fail(at_line(Code::malformed, event->start_mark.line + 1, "a key is not a plain text"));
    node.keys.push_back(scalar_text(*event));
    event = events.next();
    if (event == nullptr) return fail(events.error());
    auto value = read_node(events, *event, depth);
    if (!value) return value;
    node.items.push_back(std::move(*value));
  }
}

Result<Node> read_node(Events& events, const yaml_event_t& event, int depth) {
  Node node{.line = event.start_mark.line + 1};
  if (depth > depth_limit) return fail(at_line(Code::limit, node.line, "is nested too deeply"));
  switch (event.type) {
    case YAML_SCALAR_EVENT: node.text = scalar_text(event); return node;
    case YAML_SEQUENCE_START_EVENT: node.kind = Node::Kind::list; return read_list(events, std::move(node), depth + 1);
    case YAML_MAPPING_START_EVENT: node.kind = Node::Kind::map; return read_map(events, std::move(node), depth + 1);
    case YAML_ALIAS_EVENT: return fail(at_line(Code::malformed, node.line, "an alias stands where a value should"));
    default: return fail(at_line(Code::malformed, node.line, "a value is missing"));
  }
}

}  // namespace

const Node* Node::find(std::string_view key) const {
  const auto found = std::find(keys.begin(), keys.end(), key);
  return found == keys.end() ? nullptr : &items[static_cast<size_t>(found - keys.begin())];
}

std::string_view Node::text_of(std::string_view key) const {
  const Node* node = find(key);
  return node == nullptr ? std::string_view() : std::string_view(node->text);
}

const std::vector<Node>& Node::list_of(std::string_view key) const {
  static const std::vector<Node> none;
  const Node* node = find(key);
  return node == nullptr || node->kind != Kind::list ? none : node->items;
}

Result<Node> parse(Bytes bytes) {
  Events events(bytes);
  while (const yaml_event_t* event = events.next()) {
    if (event->type == YAML_STREAM_START_EVENT || event->type == YAML_DOCUMENT_START_EVENT) continue;
    if (event->type == YAML_STREAM_END_EVENT || event->type == YAML_DOCUMENT_END_EVENT) return Node{};
    return read_node(events, *event, 0);
  }
  return fail(events.error());
}

}  // namespace fibula::yaml
