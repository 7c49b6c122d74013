#include "emit/told.hpp"

#include "base/text.hpp"

#include <fibula/emit.hpp>

#include <algorithm>

namespace fibula::emit {
namespace {

Place place_for(const Misfit& misfit, const Project& project, const Lane& lane) {
  if (!misfit.place.file.empty()) return misfit.place;
  const std::string file = project.file().string();
  for (const auto& use : project.libraries()) {
    if (use.name == misfit.library && use.line != 0) return {file, use.line};
  }
  for (const auto& output : project.outputs()) {
    if (output.name == misfit.library && output.line != 0) return {file, output.line};
  }
  return {file, lane.line};
}

bool is_same(const Misfit& one, const Misfit& other) {
  return one.rule == other.rule && one.library == other.library && one.subject == other.subject &&
         one.evidence == other.evidence && one.remedy == other.remedy;
}

}  // namespace

Misfit said_of_each(Misfit misfit, const std::string& lane) {
  const std::string one = "lane " + lane;
  for (auto& text : misfit.evidence) {
    // Where in an object is another thing in each lane.
    if (const size_t place = text.find(", section "); text.find(" is needed by ") < place && place != std::string::npos)
      text = text.substr(0, place);
    for (size_t at = text.find(one); at != std::string::npos; at = text.find(one, at + 1)) {
      const size_t end = at + one.size();
      const bool whole = end == text.size() || !(text::is_identifier_character(text[end]) || text[end] == '-');
      if (whole) text.replace(at, one.size(), "each lane");
    }
  }
  return misfit;
}

std::vector<Told> told_misfits(const Project& project, const std::vector<Fit>& fits) {
  std::vector<Told> all;
  for (const auto& fit : fits) {
    for (auto& misfit : fit.misfits()) {
      if (misfit.verdict == Verdict::ok || misfit.verdict == Verdict::unknown) continue;
      const auto known = std::find_if(all.begin(), all.end(), [&](const Told& told) {
        return is_same(said_of_each(told.misfit, told.lanes.front()), said_of_each(misfit, fit.lane.name));
      });
      if (known != all.end()) {
        known->misfit = said_of_each(known->misfit, known->lanes.front());
        known->lanes.push_back(fit.lane.name);
      } else {
        Place place = place_for(misfit, project, fit.lane);
        all.push_back({std::move(misfit), std::move(place), {fit.lane.name}});
      }
    }
  }
  std::stable_sort(all.begin(), all.end(),
                   [](const Told& a, const Told& b) { return a.misfit.verdict > b.misfit.verdict; });
  return all;
}

}  // namespace fibula::emit
