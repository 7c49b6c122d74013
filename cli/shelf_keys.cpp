#include "print.hpp"
#include "session.hpp"

#include <fmt/format.h>
#include <memory>

namespace cli {
namespace {

struct ShelfKeysOptions {
  std::string subject, name;
};

void print_keys(const std::vector<fibula::Key>& keys) {
  std::vector<std::vector<Cell>> rows;
  for (const auto& key : keys) {
    const bool revoked = key.trust == fibula::KeyTrust::revoked;
    rows.push_back({{key.name, Style::strong},
                    {key.id},
                    {std::string(fibula::to_string(key.trust)), revoked ? Style::bad : Style::plain},
                    {key.file.string(), Style::faint}});
  }
  print_table(rows);
}

int tell(const Session& session, const fibula::Result<fibula::Key>& key, const std::string& what) {
  if (!key) return report(session, key.error());
  if (session.json) {
    print_json(fibula::answers::keys({*key}));
  } else {
    print_line(fmt::format("{} {} {}", styled(key->name, Style::strong), key->id, what));
  }
  return all_good;
}

int list(const Session& session, const fibula::Keys& keys, const ShelfKeysOptions&) {
  const auto all = keys.list();
  if (!all) return report(session, all.error());
  if (session.json) {
    print_json(fibula::answers::keys(*all));
  } else if (all->empty()) {
    print_line("there are no keys: fibula shelf keys make NAME, or fibula shelf keys trust FILE");
  } else {
    print_keys(*all);
  }
  return all_good;
}

int make(const Session& session, const fibula::Keys& keys, const ShelfKeysOptions& options) {
  const auto key = keys.make(options.subject);
  const int status = tell(session, key, "is made");
  if (key && !session.json)
    print_sentence(fmt::format("{} is what others get: fibula shelf keys trust FILE, there; what is beside it under "
                               ".secret stays here",
                               key->file.string()),
                   "  ");
  return status;
}

int trust(const Session& session, const fibula::Keys& keys, const ShelfKeysOptions& options) {
  return tell(session, keys.trust(options.subject, options.name), "is trusted: parcels that it signed are taken");
}

int revoke(const Session& session, const fibula::Keys& keys, const ShelfKeysOptions& options) {
  return tell(session, keys.revoke(options.subject), "is revoked: nothing that it signed is taken");
}

using KeyAction = int (*)(const Session&, const fibula::Keys&, const ShelfKeysOptions&);

}  // namespace

void add_keys(Command& shelf, Session& session) {
  auto options = std::make_shared<ShelfKeysOptions>();
  const auto with_keys = [&session, options](KeyAction action) {
    return [&session, options, action] {
      const auto keys = fibula::Keys::standard();
      return keys ? action(session, *keys, *options) : report(session, keys.error());
    };
  };
  auto command = shelf.below("keys", "the keys that vouch for parcels: made here, and trusted");
  command.below("make", "make a key to sign parcels with").argument("NAME", options->subject, "").does(with_keys(make));
  command.below("trust", "trust somebody else's key")
      .argument("FILE", options->subject, "the .key file that they made")
      .option("--name", "NAME", options->name, "what to call it here")
      .does(with_keys(trust));
  command.below("revoke", "take nothing more that a key signed")
      .argument("KEY", options->subject, "its name or id")
      .does(with_keys(revoke));
  command.does(with_keys(list));
}

}  // namespace cli
