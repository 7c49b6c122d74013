/// From what was described to an entry of a shelf, whole or not at all.
#pragma once

#include "os/digest_list.hpp"
#include "shelf/storage.hpp"
#include "take/arrival.hpp"

#include <fibula/take.hpp>

#include <future>
#include <string>
#include <vector>

namespace fibula {

/// Where an arrival is unpacked, inside the entry's folder.
inline constexpr const char* unpacked_name = "unpacked";

/// Taken while the files are described, since each takes about as long as the other.
using Digests = std::future<Result<DigestList>>;

/// What was asked for, and since when the source must be as it is.
struct Taking {
  const TakeRequest& request;
  int64_t began;
};

/// Puts what was described on the shelf. Errors: refused (it changed meanwhile; another entry is there), io.
Result<void> put_on_shelf(const Shelf& shelf, const Arrival& arrival, const std::vector<std::string>& files,
                          Digests digests, ArrivingEntry& entry, const Taking& taking, Taken& taken);

/// Puts the builds beside those of the version that is there. Errors: refused (it is not there, or has them), io.
Result<void> join_entry(const Shelf& shelf, const Arrival& arrival, const std::vector<std::string>& files,
                        ArrivingEntry& entry, const Taking& taking, Taken& taken);

/// Writes card and list of an entry whose files are in place, and puts it on its shelf. Errors: refused (it is there,
/// and `replace` is not set), io.
Result<void> write_and_publish(const DigestList& contents, ArrivingEntry& entry, bool replace, const Card& card);

}  // namespace fibula
