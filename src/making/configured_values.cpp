#include "making/configured_values.hpp"

#include "base/text.hpp"
#include "making/configure_script.hpp"
#include "os/files.hpp"

#include <algorithm>
#include <utility>

namespace fibula {
namespace {

const std::pair<const char*, const char*> usual_directories[] = {{"prefix", "/usr/local"},
                                                                 {"exec_prefix", "$(prefix)"},
                                                                 {"bindir", "$(exec_prefix)/bin"},
                                                                 {"sbindir", "$(exec_prefix)/sbin"},
                                                                 {"libexecdir", "$(exec_prefix)/libexec"},
                                                                 {"libdir", "$(exec_prefix)/lib"},
                                                                 {"includedir", "$(prefix)/include"},
                                                                 {"datarootdir", "$(prefix)/share"},
                                                                 {"datadir", "$(datarootdir)"},
                                                                 {"localedir", "$(datarootdir)/locale"},
                                                                 {"mandir", "$(datarootdir)/man"},
                                                                 {"infodir", "$(datarootdir)/info"},
                                                                 {"sysconfdir", "$(prefix)/etc"},
                                                                 {"localstatedir", "$(prefix)/var"},
                                                                 {"sharedstatedir", "$(prefix)/com"},
                                                                 {"docdir", "$(datarootdir)/doc/$(PACKAGE)"},
                                                                 {"pkgdatadir", "$(datadir)/$(PACKAGE)"},
                                                                 {"pkglibdir", "$(libdir)/$(PACKAGE)"}};

}  // namespace

std::map<std::string, std::string> configured_values(const std::filesystem::path& root) {
  std::map<std::string, std::string> values;
  const std::string script = read_text(root / "configure").value_or("");
  const std::string name = configured_name(root), version = configured_version(root);
  if (!name.empty()) {
    values.insert(std::begin(usual_directories), std::end(usual_directories));
    values["PACKAGE"] = values["PACKAGE_TARNAME"] = name;
    if (!version.empty()) values["VERSION"] = values["PACKAGE_VERSION"] = version;
    return values;
  }
  for (const auto line : text::lines(script)) {
    const size_t equals = std::min(line.find('='), line.size());
    const auto key = line.substr(0, equals), value = line.substr(std::min(equals + 1, line.size()));
    const bool plain = !key.empty() && std::all_of(key.begin(), key.end(), text::is_identifier_character) &&
                       !value.empty() && value.find_first_of("$`'\"\\ ;|&") == std::string_view::npos;
    if (plain) values.emplace(key, value);
  }
  return values;
}

}  // namespace fibula
