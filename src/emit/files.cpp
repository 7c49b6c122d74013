#include "base/json_text.hpp"
#include "base/quoting.hpp"
#include "emit/arguments.hpp"
#include "fit/shared_include.hpp"
#include "os/folder.hpp"
#include "os/parallel.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <nlohmann/json.hpp>

namespace fibula::emit {

std::string response_text(const std::vector<std::string>& arguments, CompilerFamily family) {
  if (family == CompilerFamily::msvc) {
    std::string text;
    bool for_linker = false;  // what stands behind /link ends with its line
    for (const auto& argument : arguments) {
      for_linker = for_linker || argument == "/link";
      text += windows_word(argument) + (for_linker ? " " : "\n");
    }
    return for_linker ? text + "\n" : text;
  }
  std::string text;
  for (const auto& argument : arguments) {
    if (argument.empty()) text += "\"\"";
    for (const char c : argument) {
      const bool special = std::string_view(" \t\n\r\f\v\\'\"").find(c) != std::string_view::npos;
      if (special) text += '\\';
      text += c;
    }
    text += '\n';
  }
  return text;
}

namespace {

/// A response file's name and its words.
using Responses = std::vector<std::pair<std::string, std::vector<std::string>>>;

Responses responses_of(const Fit& fit) {
  Responses files;
  const auto add = [&](const std::string& what, const std::string& output, bool first, std::vector<std::string> words) {
    if (first) files.emplace_back(what + ".rsp", words);
    if (!output.empty()) files.emplace_back(fmt::format("{}-{}.rsp", what, output), std::move(words));
  };
  std::vector<std::string> outputs;
  for (const auto& compile : fit.compiles) outputs.push_back(compile.output);
  if (outputs.empty()) outputs.emplace_back();  // libraries alone: one set serves everybody
  for (const auto& output : outputs) {
    const bool first = &output == &outputs.front();
    add("compile", output, first, compile_arguments(fit, output));
    add("assemble", output, first, assemble_arguments(fit, output));
  }
  for (const auto& link : fit.links)
    add("link", link.output, &link == &fit.links.front(), link_arguments(fit, link, run_paths_by_hand(fit)));
  return files;
}

}  // namespace

Result<void> response_files(const Fit& fit, const fs::path& folder) {
  const auto place = Folder::make(folder);
  if (!place) return fail(place.error());
  for (const auto& [name, words] : responses_of(fit)) {
    if (auto written = place->write_if_changed(name, response_text(words, fit.toolchain.family)); !written)
      return pass(written);
  }
  return {};
}

/// Where the lane's folder, `.fibula/<lane>`, lies.
static fs::path project_root_of(const Fit& fit) {
  return fit.folder.parent_path().parent_path();
}

Result<void> shared_headers(const Fit& fit) {
  for (const auto& shared : fit.shared_headers) {
    if (auto written = write_shared_headers(shared, project_root_of(fit)); !written) return written;
  }
  return {};
}

Result<void> lane_files(const Fit& fit) {
  const auto place = Folder::make_in(project_root_of(fit), shown_from(project_root_of(fit), fit.folder));
  if (!place) return fail(place.error());
  if (auto written = shared_headers(fit); !written) return written;
  if (auto written = response_files(fit, fit.folder); !written) return written;
  if (auto written = build_files(fit, fit.folder); !written) return written;
  return without_value(place->write_if_changed("fit.json", json({&fit, 1}) + "\n"));
}

Result<void> lane_files(const std::vector<Fit>& fits) {
  std::vector<Result<void>> written(fits.size());
  each_in_parallel(fits.size(), 1, [&](size_t i) {
    if (fits[i].verdict() != Verdict::misfit) written[i] = lane_files(fits[i]);
  });
  const auto failed = std::find_if(written.begin(), written.end(), [](const auto& one) { return !one; });
  return failed == written.end() ? Result<void>() : std::move(*failed);
}

Result<void> write_text(const fs::path& file, const std::string& text) {
  const fs::path path = absolute_path(file);
  auto written = write_in(path.parent_path(), path.filename().string(), text, Flush::later);
  if (!written && written.error().code == Code::absent) written.error().hint = "make the folder first";
  return written;
}

}  // namespace fibula::emit
