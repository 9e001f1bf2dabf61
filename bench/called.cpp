// The C++ side of bench/called_from_python.py: how long calls take that it makes, too.
//
//   called SHOT PICTURE.exr        waits for lines; "defocus" and "resolve" answer with seconds a
//   call
#include <fmt/format.h>

#include <chrono>
#include <exception>
#include <iostream>
#include <string>
#include <vector>

#include "jolly_iris/jolly_iris.hpp"

namespace {

double seconds(const auto& work) {
  const auto begin = std::chrono::steady_clock::now();
  work();
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
}

void answer(const std::string& shot, const std::string& picture) {
  using namespace jolly_iris;
  std::vector<std::string> files;
  const LoadedShot loaded = open_shot({.file = shot}, files);
  const Frame frame = read_picture(picture);
  std::string asked;
  while (std::getline(std::cin, asked)) {
    const double each =
        asked == "defocus"
            ? seconds([&] { (void)defocus(frame, loaded.answer.camera, {}); })
            : seconds([&] {
                for (int i = 0; i < 1000; ++i) {
                  (void)resolve(loaded.now.body, loaded.now.lens, loaded.now.take, 2.4_m);
                }
              }) / 1000.0;
    std::cout << fmt::format("{}\n", each) << std::flush;
  }
}

}  // namespace

int main(int argc, char** argv) {
  try {
    if (argc != 3) throw jolly_iris::UsageError("called SHOT PICTURE.exr");
    answer(argv[1], argv[2]);
  } catch (const std::exception& e) {
    std::cerr << e.what() << '\n';
    return 1;
  }
  return 0;
}
