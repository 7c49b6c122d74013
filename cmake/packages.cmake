# What Fibula stands on. Debian gives Nettle, libuv and xxHash without CMake files, so they are found by name.
find_package(fmt REQUIRED)
find_package(nlohmann_json REQUIRED)
find_package(tl-expected REQUIRED)

find_path(TOMLPP_INCLUDE toml++/toml.h REQUIRED)
find_path(XXHASH_INCLUDE xxhash.h REQUIRED)
find_path(NETTLE_INCLUDE nettle/sha2.h REQUIRED)
find_library(NETTLE_LIBRARY NAMES libnettle.a nettle REQUIRED)  # the archive first: one library less to load at every start
find_path(UV_INCLUDE uv.h REQUIRED)
find_library(UV_LIBRARY NAMES uv_a uv REQUIRED)
