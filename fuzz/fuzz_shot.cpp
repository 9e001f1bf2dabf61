// Shot files of any bytes: a message or a shot, and a shot answers or says why not.
#include "fuzz_file.hpp"
#include "jolly_iris/files/shot_file.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/scene/answer.hpp"

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  try {
    const jolly_iris::Shot shot = jolly_iris::read_shot(fuzz::as_file("a.shot.toml", data, size));
    (void)jolly_iris::answer(shot, nullptr);
  } catch (const jolly_iris::Error&) {
    // told: that is what shall happen
  }
  return 0;
}
