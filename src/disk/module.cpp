#include "disk/module.hpp"

#include <dlfcn.h>

#include <filesystem>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

const void* module_entry(const std::string& file, const char* entry) {
  Dl_info self{};
  ::dladdr(reinterpret_cast<void*>(&module_entry), &self);
  const std::filesystem::path folder =
      self.dli_fname == nullptr ? "" : std::filesystem::path(self.dli_fname).parent_path();
  const std::string path = (folder / "jolly_iris" / file).string();
  void* module = ::dlopen(path.c_str(), RTLD_NOW | RTLD_LOCAL);
  // NOLINTNEXTLINE(concurrency-mt-unsafe): glibc keeps what it says for each thread
  if (module == nullptr) throw FileError(std::string("cannot load a part: ") + ::dlerror());
  using Entry = const void* (*)();
  const auto found = reinterpret_cast<Entry>(::dlsym(module, entry));
  if (found == nullptr) throw FileError(path + " is not part of this version of Jolly Iris");
  return found();
}

}  // namespace jolly_iris
