// Tables of any bytes: camera tracks and curves of light. The first byte chooses.
#include "fuzz_file.hpp"
#include "jolly_iris/files/curve_file.hpp"
#include "jolly_iris/files/handoff.hpp"
#include "jolly_iris/files/load.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/scene/answer.hpp"
#include "jolly_iris/scene/frames.hpp"

namespace {

using namespace jolly_iris;

void read_as(unsigned char kind, std::string_view bytes) {
  if (kind % 2 == 0) return (void)read_curve(fuzz::as_file("a.csv", bytes));
  fuzz::as_file("track.csv", bytes);
  const LoadedShot loaded = load_shot(fuzz::as_file(
      "a.shot.toml",
      "[body]\ngate = \"24 x 13.5 mm\"\npixels = \"96 x 54\"\n[lens]\nfocal = \"18 mm\"\n[take]\n"
      "stop = \"f/2\"\nmark = \"3 m\"\nfps = 24\n[scene]\ntrack = \"track.csv\"\n[[subject]]\n"
      "name = \"boat\"\nplace = [0, 0, -2]\n"));
  for (const Answer& a : answers_at(loaded.shot, nullptr, {1.0, 2.5})) {
    fuzz::require_numbers(fuzz::without_texts(answer_json(a)));
  }
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  return fuzz::chosen(data, size, read_as);
}
