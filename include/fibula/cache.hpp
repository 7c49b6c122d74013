/// Where answers are kept that cost much to find out: what compilers answered, what headers declare, which files define
/// which names, which run-time files a program needs, cards and lock files as they were read, what builds ran.
///
/// Everything kept is checked before it is used: it holds while each file that it rests on is as it was. So a cache can
/// be removed, shared between processes, or left out at any time, and nothing but the time of the next call changes.
/// What was not used for a month goes, and the oldest when it grows beyond a gigabyte.
#pragma once

#include <fibula/export.hpp>

#include <filesystem>

namespace fibula {

/// A value: copies mean the same place. Safe to use from several threads and processes.
class FIBULA_API Cache {
 public:
  /// `fibula` in the user's cache folder (XDG Base Directory Specification), or the folder that FIBULA_CACHE names.
  /// Nothing is kept where FIBULA_CACHE is `off`, or no variable says where the user's folder is.
  static Cache standard();
  static Cache at(std::filesystem::path folder) { return Cache(std::move(folder)); }
  /// Keeps nothing: each call finds out anew.
  static Cache none() { return Cache({}); }

  /// Empty where nothing is kept.
  const std::filesystem::path& folder() const { return folder_; }

 private:
  explicit Cache(std::filesystem::path folder) : folder_(std::move(folder)) {}
  std::filesystem::path folder_;
};

}  // namespace fibula
