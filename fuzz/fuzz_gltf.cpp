// glTF and usda scenes of any bytes: a message or a scene.
#include "fuzz_file.hpp"
#include "jolly_iris/files/gltf.hpp"
#include "jolly_iris/files/usda.hpp"
#include "jolly_iris/optics/errors.hpp"

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  if (size == 0) return 0;
  // The first byte chooses what the rest is read as.
  const char* name = data[0] == '#' ? "a.usda" : data[0] == 'g' ? "a.glb" : "a.gltf";
  const std::string file = fuzz::as_file(name, data, size);
  try {
    if (data[0] == '#') {
      (void)jolly_iris::read_usda(file);
    } else {
      (void)jolly_iris::read_gltf(file);
    }
  } catch (const jolly_iris::Error&) {
    // told: that is what shall happen
  }
  return 0;
}
