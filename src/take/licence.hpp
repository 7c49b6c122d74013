/// Under which licence a library comes, by what its files say of it.
#pragma once

#include "take/source.hpp"

#include <string>
#include <string_view>

namespace fibula {

struct LicenceFound {
  std::string expression = {};  ///< SPDX licence expression; empty: nothing says it
  std::string from = {};        ///< the file, and how: "LICENSE: its text"
};

/// Licence files first, by their text; then a Debian copyright file; then tags in headers, where all that have one say
/// the same.
LicenceFound licence_of(const Source& source);

/// The identifier of SPDX's list (https://spdx.org/licenses) for a licence's whole text; empty for a text that is none
/// of the common ones. Of the GNU licences the identifier without `-only` or `-or-later`: the text does not say which.
std::string licence_in_text(std::string_view text);

}  // namespace fibula
