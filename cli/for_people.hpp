/// Fits as people read them.
#pragma once

#include <fibula/fit.hpp>

#include <string>
#include <vector>

namespace cli {

/// The same fits with the paths of a shelf's files written short, `shelf: tidecalc/2.1.0/lib/libtidecalc.a`; what is to
/// be typed, in remedies, stays in full.
std::vector<fibula::Fit> with_short_paths(std::vector<fibula::Fit> fits);

/// A few files by their names, of more than `few` the first and how many there are.
std::string shown_files(const std::vector<std::string>& files, size_t few = 3);

/// A version as people see it: a library in a folder that tells none has the version 0, and nothing is shown for it.
/// `before` is put in front of one.
std::string shown_version(const std::string& version, const char* before = "");

}  // namespace cli
