#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <unistd.h>
#include <cstdlib>
#include <fstream>
#include <iterator>

namespace test {

Folder::Folder() {
  std::string name = (fs::temp_directory_path() / "fibula-test-XXXXXX").string();
  if (::mkdtemp(name.data()) == nullptr) throw std::runtime_error("no temporary folder");
  path_ = fs::canonical(name);
}

Folder::~Folder() {
  std::error_code ignored;
  fs::remove_all(path_, ignored);
}

fs::path Folder::write(const fs::path& name, const std::string& content) const {
  fs::create_directories((path_ / name).parent_path());
  std::ofstream(path_ / name, std::ios::binary) << content;
  return path_ / name;
}

std::string read(const fs::path& path) {
  std::ifstream stream(path, std::ios::binary);
  return {std::istreambuf_iterator<char>(stream), std::istreambuf_iterator<char>()};
}

std::string quoted(const fs::path& word) {
  std::string text = "'";
  for (const char c : word.string()) text += c == '\'' ? std::string("'\\''") : std::string(1, c);
  return text + "'";
}

Ran shell(const std::string& command, const fs::path& folder) {
  const Folder output;
  const std::string line = fmt::format(
      "cd {} && unset LIBRARY_PATH CPATH C_INCLUDE_PATH CPLUS_INCLUDE_PATH && export LC_ALL=C.UTF-8 && {{ {}\n}} >{} "
      "2>{} </dev/null",
      quoted(folder), command, quoted(output / "out"), quoted(output / "err"));
  const int status = std::system(line.c_str());
  return {WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status), read(output / "out"), read(output / "err")};
}

std::string must(const std::string& command, const fs::path& folder) {
  const Ran ran = shell(command, folder);
  if (ran.status != 0) throw std::runtime_error(fmt::format("{}\nended with {}:\n{}", command, ran.status, ran.all()));
  return ran.out;
}

Workplace::Workplace() {
  fs::create_directories(folder_ / "work");
}

Ran Workplace::fibula(const std::string& arguments, const fs::path& in) const {
  const std::string settings = fmt::format("FIBULA_SHELF={} XDG_CACHE_HOME={} XDG_STATE_HOME={}", quoted(shelf()),
                                           quoted(folder_ / "cache"), quoted(folder_ / "state"));
  return test::shell(fmt::format("{} '{}' {}", settings, FIBULA_TOOL, arguments), in.empty() ? folder_ / "work" : in);
}

Ran Workplace::shell(const std::string& command) const {
  return test::shell(
      fmt::format("export FIBULA={} FIBULA_SHELF={} XDG_CACHE_HOME={} XDG_STATE_HOME={}; {}", FIBULA_TOOL,
                  quoted(shelf()), quoted(folder_ / "cache"), quoted(folder_ / "state"), command),
      folder_ / "work");
}

nlohmann::json Workplace::fibula_json(const std::string& arguments, const fs::path& in) const {
  const Ran ran = fibula(arguments + " --json", in);
  const auto parsed = nlohmann::json::parse(ran.out, nullptr, false);
  EXPECT_TRUE(parsed.is_object()) << arguments << "\n" << ran.all();
  return parsed;
}

fs::path Workplace::prebuilt(const std::string& flags) const {
  must(fmt::format("'{}/demo/build_libraries.sh' '{}' {}", FIBULA_SOURCE, (folder_ / "prebuilt").string(), flags));
  return folder_ / "prebuilt";
}

fs::path Workplace::harbourlog() const {
  fs::copy(fs::path(FIBULA_SOURCE) / "demo" / "harbourlog", folder_ / "harbourlog",
           fs::copy_options::recursive | fs::copy_options::overwrite_existing);
  fs::remove_all(folder_ / "harbourlog" / ".fibula");
  return folder_ / "harbourlog";
}

std::vector<std::string> Workplace::shelf_entries() const {
  std::vector<std::string> entries;
  std::error_code none;
  for (auto walk = fs::recursive_directory_iterator(shelf(), none); !none && walk != fs::recursive_directory_iterator();
       walk.increment(none)) {
    const std::string name = walk->path().lexically_relative(shelf()).string();
    // Of the index the last two forms stay: which, depends on what was there before.
    const bool of_shelf = name == ".lock" || name == ".arriving" || name == ".leaving" || name.starts_with(".index");
    if (!of_shelf) entries.push_back(name);
  }
  std::sort(entries.begin(), entries.end());
  return entries;
}

}  // namespace test
