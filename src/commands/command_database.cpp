#include "commands/log_reader.hpp"
#include "commands/shell_words.hpp"

#include <nlohmann/json.hpp>

namespace fibula {

std::vector<LoggedCommand> commands_in_database(std::string_view text) {
  const auto database = nlohmann::json::parse(text, nullptr, false);
  std::vector<LoggedCommand> commands;
  if (!database.is_array()) return commands;
  for (const auto& entry : database) {
    if (!entry.is_object()) continue;
    LoggedCommand command;
    if (const auto folder = entry.find("directory"); folder != entry.end() && folder->is_string())
      command.folder = folder->get<std::string>();
    if (const auto words = entry.find("arguments"); words != entry.end() && words->is_array()) {
      for (const auto& word : *words) {
        if (word.is_string()) command.words.push_back(word.get<std::string>());
      }
    } else if (const auto line = entry.find("command"); line != entry.end() && line->is_string()) {
      auto all = shell_commands(line->get<std::string>());
      if (!all.empty()) command.words = std::move(all.back());
    }
    if (!command.words.empty()) commands.push_back(std::move(command));
  }
  return commands;
}

}  // namespace fibula
