/// Further forms of a program, for devices that are given bytes.
#pragma once

#include <fibula/fit.hpp>

#include "jobs/job.hpp"

namespace fibula {

/// Makes `<program>.<form>` from a linked program: "hex" (Intel HEX) or "bin", by the lane's objcopy (GNU Binary
/// Utilities manual, objcopy).
Job image_job(const Fit& fit, const Output& output, const std::filesystem::path& product, const std::string& form);

}  // namespace fibula
