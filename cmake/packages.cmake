# What Fibula stands on. Debian gives Nettle, libuv, libyaml and xxHash without CMake files, so they are found by name.
find_package(fmt REQUIRED)
find_package(nlohmann_json REQUIRED)
find_package(tl-expected REQUIRED)

find_path(TOMLPP_INCLUDE toml++/toml.h REQUIRED)
find_path(XXHASH_INCLUDE xxhash.h REQUIRED)
find_path(NETTLE_INCLUDE nettle/sha2.h REQUIRED)
find_path(UV_INCLUDE uv.h REQUIRED)
find_path(YAML_INCLUDE yaml.h REQUIRED)
# Loaded only by the command that needs them (src/base/late_library.hpp): of these the headers are enough.
find_path(ARCHIVE_INCLUDE archive.h REQUIRED)
find_path(CURL_INCLUDE curl/curl.h REQUIRED)
find_path(SQLITE_INCLUDE sqlite3.h REQUIRED)
# For programs the archives: two libraries less to load at every start. Debian's libuv archive is not position independent enough for
# a shared library, which takes the shared ones.
find_library(NETTLE_ARCHIVE NAMES libnettle.a nettle REQUIRED)
find_library(NETTLE_SHARED nettle REQUIRED)
find_library(UV_ARCHIVE NAMES uv_a uv REQUIRED)
find_library(UV_SHARED uv REQUIRED)
find_library(YAML_ARCHIVE NAMES libyaml.a yaml REQUIRED)
find_library(YAML_SHARED yaml REQUIRED)
