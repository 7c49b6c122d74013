#include <fibula/build.hpp>

#include "headers/header_folders.hpp"
#include "os/folder.hpp"
#include "os/host.hpp"
#include "os/stamp.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>
#include <algorithm>

namespace fibula {
namespace {

Error refusal(const Project& project, std::string what, std::string hint) {
  return {.code = Code::refused, .what = std::move(what), .file = project.file().string(), .hint = std::move(hint)};
}

Result<const Output*> library_called(const Project& project, const std::string& name) {
  std::string there;
  for (const auto& output : project.outputs()) {
    if (output.kind == OutputKind::program) continue;
    if (output.name == name) return &output;
    there += (there.empty() ? "" : ", ") + output.name;
  }
  return fail(refusal(project, fmt::format("makes no library {}", name),
                      there.empty() ? "an output of kind static-library or shared-library can be handed on"
                                    : fmt::format("it makes {}", there)));
}

/// The output's headers, as users will include them.
Result<size_t> copy_headers(const Project& project, const Output& output, const Folder& into) {
  size_t copied = 0;
  for (const auto& folder : output.headers) {
    const auto files = files_below(project.root() / folder);
    if (!files) return fail(files.error());
    for (const auto& file : *files) {
      if (!is_header_name(file.string())) continue;
      if (auto done = into.copy_in(project.root() / folder / file, "include/" + file.generic_string()); !done)
        return fail(done.error());
      ++copied;
    }
  }
  return copied;
}

/// The library itself, and what linkers take beside it.
Result<void> copy_product(const fs::path& product, const std::string& lane, const Folder& into) {
  for (const fs::path& file :
       {product, fs::path(product.string() + ".a"), fs::path(product).replace_extension(".lib")}) {
    if (!stamp_of(file).is_file() || into.has_file(lane + "/" + file.filename().string())) continue;
    if (auto done = into.copy_in(file, lane + "/" + file.filename().string()); !done) return done;
  }
  return {};
}

}  // namespace

Result<Taken> take_output(const Shelf& shelf, const Project& project, const std::string& name, TakeRequest request) {
  const auto output = library_called(project, name);
  if (!output) return fail(output.error());
  auto tree = TemporaryFolder::make(temporary_place(), "fibula-output-");
  if (!tree) return pass(tree);
  const auto folder = Folder::open(tree->path());
  if (!folder) return fail(folder.error());
  const auto headers = copy_headers(project, **output, *folder);
  if (!headers) return fail(headers.error());
  if (*headers == 0)
    return fail(refusal(project, fmt::format("gives {} no headers, so nobody could use it", name),
                        "name the folder of its headers: headers = [\"include\"]"));
  const auto gathered = gather(project, project.lanes(), shelf);
  if (!gathered) return fail(gathered.error());
  std::vector<std::string> without;
  for (const auto& lane : project.lanes()) {
    const auto own = own_code(*gathered, lane);
    const auto made = own ? own->find(name) : OwnCode::const_iterator();
    if (!own || made == own->end() || made->second.product.empty()) {
      without.push_back(lane.name);
    } else if (auto copied = copy_product(made->second.product, lane.name, *folder); !copied) {
      return pass(copied);
    }
  }
  if (without.size() == project.lanes().size())
    return fail(
        refusal(project, fmt::format("has not built {} as its sources are now", name), "build it first: fibula build"));
  request.sources = {tree->path().string()};
  request.called_from = project.root().string();
  if (request.name.empty()) request.name = name;
  auto taken = take(shelf, request);
  if (taken && !without.empty())
    taken->remarks.push_back(
        fmt::format("not built as its sources are now, and left out: {}", fmt::join(without, ", ")));
  return taken;
}

}  // namespace fibula
