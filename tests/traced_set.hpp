// The demo's hero, traced with as many rays as somebody wants.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/jolly_iris.hpp"
#include "support.hpp"

namespace jolly_iris::testing {

class TracedSet {
 public:
  explicit TracedSet(const char* pixels) {
    std::vector<std::string> files;
    loaded_ =
        open_shot({.file = demo("hero.shot.toml"), .overrides = {{"body.pixels", pixels}}}, files);
  }
  const LoadedShot& loaded() const { return loaded_; }
  Frame traced(int rays, std::uint32_t seed, bool pinhole = false) const {
    TraceSettings settings;
    settings.samples = rays;
    settings.seed = seed;
    settings.plain_random = true;  // as renderers' rays are independent
    settings.pinhole = pinhole;
    return trace(*loaded_.scene, loaded_.answer.camera, loaded_.answer.place, settings);
  }
  std::string written(const std::string& name, const Frame& frame) {
    const std::string file = folder_ / name;
    write_picture(file, frame);
    return file;
  }

 private:
  TempFolder folder_{};
  LoadedShot loaded_{};
};

}  // namespace jolly_iris::testing
