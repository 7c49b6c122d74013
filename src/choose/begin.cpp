#include <fibula/begin.hpp>

#include "choose/beginning.hpp"
#include "os/folder.hpp"
#include "project/edit.hpp"

#include <set>

namespace fibula {

Result<void> write_beginning(const Beginning& beginning) {
  const fs::path& root = beginning.begun.project.root();
  if (auto made = make_folder(root); !made) return made;
  for (const auto& header : beginning.headers) {
    if (auto written = write_in(root, header.path, header.text, Flush::now); !written) return written;
  }
  if (!beginning.first_source.empty()) {
    if (auto written = write_in(root, beginning.first_source, beginning.first_text, Flush::now); !written)
      return written;
  }
  return write_in(root, "fibula.toml", beginning.text, Flush::now);
}

Result<ProposedLane> add_lane(const Project& project, const std::string& name, const LaneWish& wish,
                              const Cache& cache) {
  std::set<std::string> taken;
  for (const auto& lane : project.lanes()) taken.insert(lane.name);
  auto proposed = propose_lane_named(name, wish, taken, cache);
  if (!proposed) return proposed;
  const auto text = read_text(project.file());
  if (!text) return fail(text.error());
  const std::string after = with_lane(*text, proposed->lane);
  const auto now = Project::from_text(after, project.root());
  if (!now) return fail(now.error());
  if (auto written = write_in(project.root(), project.file().filename().string(), after, Flush::now); !written)
    return fail(written.error());
  return proposed;
}

Result<Begun> begin(const BeginRequest& request) {
  auto plan = plan_beginning(request, false);
  if (!plan) return pass(plan);
  if (auto written = write_beginning(*plan); !written) return pass(written);
  return std::move(plan->begun);
}

}  // namespace fibula
