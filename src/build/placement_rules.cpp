#include "build/placement_rules.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

Misfit misfit(const std::string& name, const std::string& output, std::vector<std::string> evidence,
              std::string remedy) {
  return {.rule = "placement",
          .verdict = Verdict::misfit,
          .subject = name,
          .library = output,
          .evidence = std::move(evidence),
          .remedy = std::move(remedy)};
}

std::string place_of(const Placement& placement) {
  return fmt::format("{:#x}{}{}", placement.address,
                     placement.section.empty() ? "" : " in section " + placement.section,
                     placement.region.empty() ? ", in no region" : ", in region " + placement.region);
}

void judge_one(const std::string& file, const BuiltOutput& product, std::vector<Misfit>& said) {
  for (const auto& placement : product.placements) {
    const std::string asked =
        fmt::format("{} wants {} of {} in region {}", file, placement.name, product.output, placement.wanted);
    if (!placement.found) {
      said.push_back(misfit(placement.name, product.output,
                            {asked, product.path.string() + " defines nothing of that name"},
                            "correct the name, or see to it that the linker keeps it (KEEP, or -u among the flags)"));
    } else if (placement.region.empty() && !placement.judged) {
      said.push_back(misfit(placement.name, product.output,
                            {asked, fmt::format("it lies at {:#x}, and the script leaves to others where regions lie",
                                                placement.address)},
                            "write the origin and length of each region as numbers, or look into the linker's map "
                            "(-Wl,-Map=FILE)"));
      said.back().verdict = Verdict::caution;
    } else if (placement.region != placement.wanted) {
      said.push_back(
          misfit(placement.name, product.output, {asked, "it lies at " + place_of(placement)},
                 fmt::format("place its section there: sections = {{ \"{}\" = \"ADDRESS\" }} of the output, or "
                             "> {} behind it in the linker script",
                             placement.section.empty() ? placement.name : placement.section, placement.wanted)));
    }
  }
}

/// The first program that is to have the same thing in the same region.
const Placement* elsewhere(const std::vector<BuiltOutput>& products, const BuiltOutput& product, const Placement& one,
                           std::string& other) {
  for (const auto& earlier : products) {
    if (&earlier == &product) return nullptr;
    for (const auto& placement : earlier.placements) {
      if (placement.name != one.name || placement.wanted != one.wanted || !placement.found) continue;
      other = earlier.output;
      return &placement;
    }
  }
  return nullptr;
}

}  // namespace

std::vector<Misfit> judge_placements(const Project& project, const std::vector<BuiltOutput>& products) {
  std::vector<Misfit> said;
  for (const auto& product : products) {
    judge_one(project.file().string(), product, said);
    for (const auto& placement : product.placements) {
      std::string other;
      const Placement* first = elsewhere(products, product, placement, other);
      if (first == nullptr || !placement.found || first->address == placement.address) continue;
      said.push_back(
          misfit(placement.name, product.output,
                 {fmt::format("{} has {} at {}", other, placement.name, place_of(*first)),
                  fmt::format("{} has {} at {}", product.output, placement.name, place_of(placement))},
                 "give its section the same address in both: what one program calls must be what the other placed"));
    }
  }
  return said;
}

}  // namespace fibula
