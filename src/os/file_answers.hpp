/// What was found out of files that stay as they are for a while, so that each is asked about once.
#pragma once

#include <filesystem>
#include <functional>
#include <mutex>
#include <string>
#include <unordered_map>

namespace fibula {

/// Several threads may ask; none waits while another looks at a file.
class FileAnswers {
 public:
  bool is_there(const std::filesystem::path& file);
  bool have_same_content(const std::filesystem::path& one, const std::filesystem::path& other);

 private:
  bool answer(const std::string& question, const std::function<bool()>& look);

  std::mutex asking_;
  std::unordered_map<std::string, bool> answers_;  ///< by the names of the files
};

}  // namespace fibula
