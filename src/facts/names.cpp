/// The names of the enums that facts are made of.
#include "base/names.hpp"

#include <fibula/facts.hpp>
#include <fibula/symbols.hpp>

namespace fibula {
namespace {

constexpr Name<Certainty> certainties[] = {
    {Certainty::read, "read"}, {Certainty::derived, "derived"}, {Certainty::guessed, "guessed"}};

constexpr Name<Kind> kinds[] = {{Kind::object, "object"},
                                {Kind::static_library, "static"},
                                {Kind::shared_library, "shared"},
                                {Kind::import_library, "import"},
                                {Kind::program, "program"},
                                {Kind::plugin, "plugin"},
                                {Kind::core, "core"},
                                {Kind::script, "script"},
                                {Kind::empty, "empty"}};

constexpr Name<Binding> bindings[] = {
    {Binding::local, "local"}, {Binding::global, "global"}, {Binding::weak, "weak"}, {Binding::unique, "unique"}};

constexpr Name<Visibility> visibilities[] = {{Visibility::normal, "default"},
                                             {Visibility::protected_, "protected"},
                                             {Visibility::hidden, "hidden"},
                                             {Visibility::internal, "internal"}};

constexpr Name<SymbolKind> symbol_kinds[] = {{SymbolKind::none, "none"},         {SymbolKind::function, "function"},
                                             {SymbolKind::data, "data"},         {SymbolKind::thread_local_, "tls"},
                                             {SymbolKind::indirect, "indirect"}, {SymbolKind::section, "section"},
                                             {SymbolKind::file, "file"}};

constexpr Name<Pic> pic_levels[] = {{Pic::yes, "yes"}, {Pic::programs_only, "programs-only"}, {Pic::no, "no"}};

constexpr Name<NeedKind> need_kinds[] = {{NeedKind::ordinary, "ordinary"},
                                         {NeedKind::weak, "weak"},
                                         {NeedKind::delayed, "delayed"},
                                         {NeedKind::re_export, "re-export"}};

}  // namespace

std::string_view to_string(Pic pic) {
  return name_in<Pic>(pic_levels, pic);
}
std::string_view to_string(NeedKind kind) {
  return name_in<NeedKind>(need_kinds, kind);
}
std::string_view to_string(Certainty certainty) {
  return name_in<Certainty>(certainties, certainty);
}
std::string_view to_string(Kind kind) {
  return name_in<Kind>(kinds, kind);
}
std::string_view to_string(Binding binding) {
  return name_in<Binding>(bindings, binding);
}
std::string_view to_string(Visibility visibility) {
  return name_in<Visibility>(visibilities, visibility);
}
std::string_view to_string(SymbolKind kind) {
  return name_in<SymbolKind>(symbol_kinds, kind);
}

}  // namespace fibula
