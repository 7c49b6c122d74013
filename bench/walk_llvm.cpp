// The walk of walk_symbols.cpp written with LLVM's Object library, as a reference for bench/symbols.py.
#include <llvm/Object/Archive.h>
#include <llvm/Object/ELFObjectFile.h>
#include <llvm/Object/ObjectFile.h>

#include <chrono>
#include <cstdio>
#include <functional>
#include <string_view>

using namespace llvm;

namespace {

uint64_t symbols = 0, hash_of_all = 0;

void look_at(object::ObjectFile& object) {
  const auto add = [](const object::SymbolRef& symbol) {
    auto flags = symbol.getFlags();
    if (!flags || (*flags & (object::SymbolRef::SF_Global | object::SymbolRef::SF_Undefined)) == 0) return;
    auto name = symbol.getName();
    if (!name) return consumeError(name.takeError());
    ++symbols;
    hash_of_all ^= std::hash<std::string_view>()(std::string_view(name->data(), name->size()));
  };
  if (object.isRelocatableObject()) {
    for (const auto& symbol : object.symbols()) add(symbol);
  } else if (auto* elf = dyn_cast<object::ELFObjectFileBase>(&object)) {
    for (const auto& symbol : elf->getDynamicSymbolIterators()) add(symbol);
  }
}

}  // namespace

int main(int argc, char** argv) {
  const auto start = std::chrono::steady_clock::now();
  for (int i = 1; i < argc; ++i) {
    auto binary = object::createBinary(argv[i]);
    if (!binary) {
      consumeError(binary.takeError());
      continue;
    }
    if (auto* archive = dyn_cast<object::Archive>(binary->getBinary())) {
      Error error = Error::success();
      for (const auto& child : archive->children(error)) {
        auto member = child.getAsBinary();
        if (!member) {
          consumeError(member.takeError());
          continue;
        }
        if (auto* object = dyn_cast<object::ObjectFile>(member->get())) look_at(*object);
      }
      consumeError(std::move(error));
    } else if (auto* object = dyn_cast<object::ObjectFile>(binary->getBinary())) {
      look_at(*object);
    }
  }
  const std::chrono::duration<double> took = std::chrono::steady_clock::now() - start;
  std::printf("%.6f %llu %llx\n", took.count(), static_cast<unsigned long long>(symbols),
              static_cast<unsigned long long>(hash_of_all));
}
