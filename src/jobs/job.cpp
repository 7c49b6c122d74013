#include "jobs/job.hpp"

#include "base/digest.hpp"

namespace fibula {

uint64_t command_digest(const Job& job) {
  std::string text = job.identity + '\0';
  for (const auto& word : job.command) text += word + '\0';
  return quick_digest(text);
}

std::vector<std::string> command_making(const Job& job, const std::string& path) {
  std::vector<std::string> command = job.through;
  for (const auto& word : job.command) {
    const size_t at = word.find(product_mark);
    command.push_back(at == std::string::npos ? word : word.substr(0, at) + path + word.substr(at + 1));
  }
  return command;
}

}  // namespace fibula
