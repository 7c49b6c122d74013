#include "os/file_answers.hpp"

#include "os/file_digest.hpp"

namespace fibula {

bool FileAnswers::is_there(const std::filesystem::path& file) {
  return answer(file.native(), [&] {
    std::error_code ignored;
    return std::filesystem::exists(file, ignored);
  });
}

bool FileAnswers::have_same_content(const std::filesystem::path& one, const std::filesystem::path& other) {
  return answer(one.native() + '\0' + other.native(), [&] { return has_same_content(one, other); });
}

bool FileAnswers::answer(const std::string& question, const std::function<bool()>& look) {
  {
    const std::lock_guard one_at_a_time(asking_);
    if (const auto known = answers_.find(question); known != answers_.end()) return known->second;
  }
  const bool found = look();
  const std::lock_guard one_at_a_time(asking_);
  return answers_.emplace(question, found).first->second;
}

}  // namespace fibula
