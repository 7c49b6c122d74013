#include "project/source_kind.hpp"

#include <string>
#include <string_view>

namespace fibula {

SourceKind source_kind(const std::filesystem::path& file) {
  struct Ending {
    std::string_view text;
    SourceKind kind;
  };
  static constexpr Ending endings[] = {{".c", SourceKind::c},           {".cpp", SourceKind::cxx},
                                       {".cc", SourceKind::cxx},        {".cxx", SourceKind::cxx},
                                       {".c++", SourceKind::cxx},       {".cp", SourceKind::cxx},
                                       {".C", SourceKind::cxx},         {".CPP", SourceKind::cxx},
                                       {".m", SourceKind::objective_c}, {".mm", SourceKind::objective_cxx},
                                       {".S", SourceKind::assembly},    {".s", SourceKind::assembly},
                                       {".sx", SourceKind::assembly},   {".asm", SourceKind::nasm},
                                       {".o", SourceKind::object},      {".obj", SourceKind::object},
                                       {".a", SourceKind::archive},     {".lib", SourceKind::archive}};
  const std::string ending = file.extension().string();
  for (const auto& known : endings) {
    if (known.text == ending) return known.kind;
  }
  return SourceKind::no_source;
}

}  // namespace fibula
