// What a shot is put together from, of any bytes: lens, body and look files, a solved file,
// dialects and typed cameras. The first byte chooses.
#include "fuzz_file.hpp"
#include "jolly_iris/files/dialect_file.hpp"
#include "jolly_iris/files/handoff.hpp"
#include "jolly_iris/files/shot_file.hpp"
#include "jolly_iris/files/solved_file.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/scene/answer.hpp"

namespace {

using namespace jolly_iris;

const std::string take = "[take]\nstop = \"f/2\"\nmark = \"3 m\"\n";
const std::string body = "[body]\ngate = \"24 x 13.5 mm\"\npixels = \"96 x 54\"\n";
const std::string lens = "[lens]\nfocal = \"18 mm\"\n";

void answered(const std::string& shot) {
  fuzz::require_numbers(fuzz::without_texts(
      answer_json(answer(read_shot(fuzz::as_file("a.shot.toml", shot)), nullptr))));
}

void read_as(unsigned char kind, std::string_view bytes) {
  switch (kind % 6) {
    case 0:
      fuzz::as_file("b.body.toml", bytes);
      return answered("[body]\nfile = \"b.body.toml\"\n" + lens + take);
    case 1:
      fuzz::as_file("l.lens.toml", bytes);
      return answered(body + "[lens]\nfile = \"l.lens.toml\"\n" + take);
    case 2:
      fuzz::as_file("l.look.toml", bytes);
      return answered(body + lens + "look = \"l.look.toml\"\n" + take);
    case 3: {
      const std::string solved =
          fuzz::as_file(solved_file_of(fuzz::folder() / "a.shot.toml").filename().string(), bytes);
      try {
        answered(body + lens + take);
      } catch (const Error&) {
        std::filesystem::remove(solved);
        throw;
      }
      std::filesystem::remove(solved);
      return;
    }
    case 4:
      return (void)read_dialect(fuzz::as_file("d.dialect.toml", bytes));
    default:
      return (void)read_typed(fuzz::as_file("t.toml", bytes));
  }
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  return fuzz::chosen(data, size, read_as);
}
