#include "session.hpp"

#include "print.hpp"

#include <nlohmann/json.hpp>

namespace cli {
namespace {

int exit_for(fibula::Code code) {
  switch (code) {
    case fibula::Code::usage: return wrong_usage;
    case fibula::Code::refused: return answer_is_no;
    case fibula::Code::missing_tool:
    case fibula::Code::io: return something_missing;
    case fibula::Code::absent:
    case fibula::Code::unreadable:
    case fibula::Code::truncated:
    case fibula::Code::malformed:
    case fibula::Code::not_a_library:
    case fibula::Code::unsupported:
    case fibula::Code::limit: return bad_input;
  }
  return bad_input;
}

}  // namespace

fibula::Result<fibula::Shelf> Session::shelf() const {
  if (!shelf_folder.empty()) return fibula::Shelf::at(shelf_folder);
  return fibula::Shelf::standard();
}

int report(const Session& session, const fibula::Error& error) {
  if (session.json) {
    print_json({{"schema", "fibula.error/1"},
                {"code", fibula::to_string(error.code)},
                {"what", error.what},
                {"file", error.file},
                {"place", error.place},
                {"hint", error.hint}});
  } else {
    complain(fibula::render(error), error.hint);
  }
  return exit_for(error.code);
}

}  // namespace cli
