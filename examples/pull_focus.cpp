// A shot over its frames: where the focus is, and how blurred the first subject gets.
//
//   pull_focus drift.shot.toml
#include <fmt/format.h>

#include <iostream>

#include "jolly_iris/files/load.hpp"

int main(int argc, char** argv) {
  using namespace jolly_iris;
  if (argc != 2) {
    std::cerr << "usage: pull_focus SHOT\n";
    return 2;
  }
  try {
    LoadedShot loaded = load_shot(argv[1]);
    Scene* scene = loaded.scene ? &*loaded.scene : nullptr;
    const FrameRange range = loaded.shot.frames.value_or(FrameRange{1.0, 1.0});
    for (const Answer& a : answers_at(loaded.shot, scene, frames_of(range, 12.0))) {
      fmt::print("{:6g}  focus {:8.4f} m  sharp {:8.4f} to {:8.4f} m\n", a.frame.value_or(0.0),
                 a.camera.focus.m(), a.sharp.near.m(), a.sharp.far.m());
    }
  } catch (const Error& e) {
    std::cerr << "pull_focus: " << e.what() << '\n';
    return 1;
  }
  return 0;
}
