#include "drawing/result_sheets.hpp"

#include <fmt/format.h>

#include "report/discs_report.hpp"
#include "report/text.hpp"

namespace jolly_iris {

MarkedPicture disc_overlay(const DiscMeasurement& discs, const LoadedShot& loaded) {
  const FoundDiscs& found = discs.found;
  const Frame& plate = discs.plate;
  MarkedPicture out;
  out.picture = plate.colour;
  out.title = fmt::format("{}: {} discs, iris: {}", report::file_name(loaded.now.plate->file),
                          found.discs.size(), report::blades_words(found.iris));
  out.subtitle =
      fmt::format("{} x {} px; numbers are those of the table, diameters in px of height",
                  plate.colour.width(), plate.colour.height());
  out.foot =
      "drawn through: found;  dashed: does not go with the others;  dotted: looked like a disc, "
      "refused";
  for (std::size_t i = 0; i < found.discs.size(); ++i) {
    const PlateDisc& d = found.discs[i];
    out.marks.push_back(
        {outline_of(d, found.iris),
         i < report::max_rows ? fmt::format("{}: {:.1f}", i + 1, d.height_px.value) : "",
         d.outlier ? PictureMark::Kind::doubted : PictureMark::Kind::found});
  }
  for (const RejectedDisc& r : found.rejected) {
    PlateDisc d;
    d.at = r.at;
    d.height_px.value = d.width_px.value = r.diameter_px;
    out.marks.push_back({outline_of(d, {}), "", PictureMark::Kind::rejected});
  }
  return out;
}

}  // namespace jolly_iris
