#pragma once

/// Marks what a shared build of the library shows; everything else stays hidden.
#define FIBULA_API __attribute__((visibility("default")))
