#include <fibula/stage.hpp>

#include "base/digest.hpp"
#include "base/files.hpp"

#include <fmt/format.h>

namespace fibula {
Result<bool> place_runtime_files(const Fit& fit) {
  const fs::path folder = fit.folder / "bin";
  if (auto made = make_folder(folder); !made) return made;
  for (const auto& file : fit.runtime_files) {
    std::error_code error;
    const fs::path real = fs::canonical(file.path, error);
    const fs::path target = folder / file.path.filename();
    if (error)
      return fail({.code = Code::absent,
                   .what = "is not there any more",
                   .file = file.path.string(),
                   .hint = "fibula shelf check tells what changed"});
    if (has_same_content(real, target)) continue;
    // Made beside its place and renamed, so that a program that runs keeps the file it has.
    const fs::path temporary = target.string() + ".new";
    fs::remove(temporary, error);
    fs::create_hard_link(real, temporary, error);
    if (error) fs::copy_file(real, temporary, error);
    if (!error) fs::rename(temporary, target, error);
    if (error)
      return fail({.code = Code::io,
                   .what = fmt::format("cannot be put in place: {}", error.message()),
                   .file = target.string()});
  }
  return true;
}

}  // namespace fibula
