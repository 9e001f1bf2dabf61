#include "jolly_iris/workflow/disc_measurement.hpp"

#include "jolly_iris/picture_files/picture_file.hpp"

namespace jolly_iris {

DiscMeasurement measure_discs(const LoadedShot& loaded, const DiscSearch& search,
                              std::vector<std::string>& files) {
  files.push_back(plate_file(loaded, "to find discs in"));
  DiscMeasurement out;
  out.plate = read_plate(*loaded.now.plate);
  out.found = discs_in_plate(out.plate.colour, disc_hints(search, loaded, out.plate.colour.size()),
                             disc_settings(search, out.plate.colour.size()));
  out.rim = rim_of(out.found.vignetting, loaded.answer.camera, out.plate.colour.height());
  return out;
}

}  // namespace jolly_iris
