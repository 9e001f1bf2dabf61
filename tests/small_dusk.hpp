// The dusk plate at a quarter of its width with its CG: what costs time by the pixel is run on it
// under the sanitizers as well.
#pragma once

#include <regex>
#include <string>

#include "jolly_iris/picture/resample.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "support.hpp"

namespace jolly_iris::testing {

struct SmallDusk {
  std::string shot;
  std::string cg;
};

/// Written into the folder: the shot with its drawn boxes, the plate, the sharp CG with depth.
inline SmallDusk small_dusk(const TempFolder& folder) {
  const PixelSize small{480, 270};
  write_picture(folder / "dusk.png", resampled(read_picture(demo("dusk.jpg")), small));
  const SmallDusk out{folder / "dusk.shot.toml", folder / "sharp.exr"};
  write_picture(out.cg, resampled(read_picture(demo("pinhole.exr")), small));
  std::string text = slurp(demo("dusk.shot.toml"));
  const auto replace = [&](const std::string& from, const std::string& to) {
    const auto at = text.find(from);
    EXPECT_NE(at, std::string::npos) << from;
    text.replace(at, from.size(), to);
  };
  replace("\"tansy.body.toml\"", "\"" + demo("tansy.body.toml") + "\"\npixels = \"480 x 270\"");
  replace("\"linden-53.lens.toml\"", "\"" + demo("linden-53.lens.toml") + "\"");
  replace("\"regatta.gltf\"", "\"" + demo("regatta.gltf") + "\"");
  replace("\"dusk.jpg\"", "\"dusk.png\"");
  const std::regex box("box  = \\[(\\d+), (\\d+), (\\d+), (\\d+)\\]");
  std::smatch m;
  std::string rest = text;
  text.clear();
  while (std::regex_search(rest, m, box)) {
    text += m.prefix().str() + "box  = [";
    for (std::size_t i = 1; i <= 4; ++i) {
      text += (i > 1 ? ", " : "") + std::to_string(std::stoi(m[i].str()) / 4);
    }
    text += "]";
    rest = m.suffix().str();
  }
  folder.write("dusk.shot.toml", text + rest);
  return out;
}

}  // namespace jolly_iris::testing
