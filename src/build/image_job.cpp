#include "build/image_job.hpp"

#include "build/jobs_of.hpp"

namespace fibula {

Job image_job(const Fit& fit, const Output& output, const std::filesystem::path& product, const std::string& form) {
  const std::string tool = tool_beside(fit.toolchain.compiler, "objcopy");
  const std::string mark(1, product_mark);
  return {.kind = Job::Kind::image,
          .lane = fit.lane.name,
          .subject = output.name + "." + form,
          .product = product.string() + "." + form,
          .command = {tool, "-O", form == "hex" ? "ihex" : "binary", product.string(), mark},
          .identity = identity_of_program(tool),
          .directory = fit.folder.parent_path().parent_path(),
          .workshop = fit.folder / "making",
          .inputs = {product.string()}};
}

}  // namespace fibula
