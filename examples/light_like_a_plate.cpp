// CG as bright and as warm as the plate, from the regions drawn in it.
//
//   light_like_a_plate SHOT CG.exr OUT.exr
#include <fmt/format.h>

#include <cmath>
#include <iostream>

#include "jolly_iris/files/load.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/plate_match.hpp"
#include "jolly_iris/optics/white.hpp"
#include "jolly_iris/picture/expose_picture.hpp"
#include "jolly_iris/picture/region_light.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"

int main(int argc, char** argv) {
  using namespace jolly_iris;
  if (argc != 4) {
    std::cerr << "usage: light_like_a_plate SHOT CG.exr OUT.exr\n";
    return 2;
  }
  try {
    const LoadedShot loaded = load_shot(argv[1]);
    const Shot& shot = loaded.now;
    if (!shot.plate) throw UsageError("the shot names no plate");
    const Frame plate = read_plate(*shot.plate);
    Frame cg = read_picture(argv[2]);

    std::vector<RegionPair> pairs;
    const auto light = [&](const Picture& p, const DrawnBox& drawn) {
      const Box box = box_in_picture(drawn.box, shot.body.pixels, p.size());
      return light_of_region(p, box, shot.primaries).mean;
    };
    for (const DrawnBox& drawn : shot.plate->marks.boxes) {
      pairs.push_back({drawn.name, light(plate.colour, drawn), light(cg.colour, drawn)});
    }

    const PlateMatch match = match_to_plate(pairs, shot.primaries);
    const White there = matched_white(match, White{5600_K}, shot.primaries);
    fmt::print("CG must become {:+.2f} stops brighter; the plate's light is {:.0f} K\n",
               match.stops, there.temperature.kelvin());
    for (const RegionLeft& left : match.regions) {
      if (left.apart) fmt::print("{} is lit otherwise, by {:+.2f} stops\n", left.name, left.stops);
    }

    change(cg.colour, {.gains = match.factors});
    write_picture(argv[3], cg);
  } catch (const Error& e) {
    std::cerr << e.what() << '\n';
    return 1;
  }
}
