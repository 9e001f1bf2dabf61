// Pictures of any bytes, through our own checks: a message, or a picture of a size that the file
// can hold, with what its header says of the camera.
#include "fuzz_file.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/memory.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"

// Where libpng jumps out of OpenImageIO's reader a text of it stays behind, which is not ours to
// mend. Whose it is shows only in a whole stack.
extern "C" const char* __lsan_default_suppressions() { return "leak:libOpenImageIO\n"; }
extern "C" const char* __asan_default_options() { return "fast_unwind_on_malloc=0"; }

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  using namespace jolly_iris;
  static const bool bounded = (set_memory_limit(64'000'000), true);
  (void)bounded;
  const std::string file = fuzz::as_file("a.picture", data, size);
  try {
    const Frame frame = read_picture(file);
    if (frame.colour.empty()) fuzz::fail("a picture without pixels");
    (void)read_plate_facts(file);
    (void)read_header(file);
  } catch (const Error&) {
    // told: that is what shall happen
  }
  return 0;
}
