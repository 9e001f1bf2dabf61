// Tables of any bytes: camera tracks and curves of light. The first byte chooses.
#include "fuzz_file.hpp"
#include "jolly_iris/files/curve_file.hpp"
#include "jolly_iris/files/handoff.hpp"
#include "jolly_iris/files/load.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/scene/answer.hpp"
#include "jolly_iris/scene/frames.hpp"

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  using namespace jolly_iris;
  if (size == 0) return 0;
  const std::string_view bytes(reinterpret_cast<const char*>(data) + 1, size - 1);
  try {
    if (data[0] % 2 == 0) {
      (void)read_curve(fuzz::as_file("a.csv", bytes));
      return 0;
    }
    fuzz::as_file("track.csv", bytes);
    const LoadedShot loaded = load_shot(fuzz::as_file(
        "a.shot.toml",
        "[body]\ngate = \"24 x 13.5 mm\"\npixels = \"96 x 54\"\n[lens]\nfocal = \"18 mm\"\n[take]\n"
        "stop = \"f/2\"\nmark = \"3 m\"\nfps = 24\n[scene]\ntrack = \"track.csv\"\n[[subject]]\n"
        "name = \"boat\"\nplace = [0, 0, -2]\n"));
    for (const Answer& a : answers_at(loaded.shot, nullptr, {1.0, 2.5})) {
      fuzz::require_numbers(fuzz::without_texts(answer_json(a)));
    }
  } catch (const Error&) {
    // told: that is what shall happen
  }
  return 0;
}
