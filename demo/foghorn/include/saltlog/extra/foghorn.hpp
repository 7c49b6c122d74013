// foghorn: an add-on of saltlog that signals its entries.
// SPDX-License-Identifier: MIT
#pragma once

#include "../log.hpp"

#define FOGHORN_VERSION "0.4.0"

namespace foghorn {

/// Blasts for an entry: two for each metre of water, by the table in share/foghorn/blasts.dat.
int blasts(const saltlog::Entry& entry);

}  // namespace foghorn
