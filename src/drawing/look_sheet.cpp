// What is drawn of a look at a picture's light.
#include <fmt/format.h>

#include <cmath>

#include "drawing/result_sheets.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/exposure_hold.hpp"
#include "jolly_iris/picture/warp.hpp"
#include "report/text.hpp"

namespace jolly_iris {

namespace {

constexpr int widest = 1280;           // px: what is drawn needs no more
constexpr double much_clipped = 0.02;  // of the picture: more than lamps and a spark or two

void add_spots(const ExposureLook& look, const LoadedShot& loaded, ExposureSheet& sheet) {
  if (look.how.way == MeterWay::spot) {
    const double r = look.how.radius;
    sheet.spots.push_back({{look.how.at[0] - r, look.how.at[1] - r, 2.0 * r, 2.0 * r},
                           true,
                           fmt::format("{:+.2f}", sheet.level_stops)});
  }
  const double width = static_cast<double>(look.size.width) / loaded.answer.camera.pixels.width;
  const double height = static_cast<double>(look.size.height) / loaded.answer.camera.pixels.height;
  for (const RegionRead& r : look.read) {
    const std::string value =
        r.light.luminance > 0.0 ? fmt::format("{:+.2f}", std::log2(r.light.luminance / grey_value))
                                : std::string("black");
    sheet.spots.push_back(
        {{r.box[0] * width, r.box[1] * height, r.box[2] * width, r.box[3] * height},
         false,
         r.name + " " + value});
  }
}

std::string way_there(const LoadedShot& loaded, double stops, Partner partner) {
  if (!loaded.answer.exposure.by_numbers) return "not known";
  try {
    const Trade t = change_exposure(loaded.now.lens, loaded.now.take, stops, partner);
    return fmt::format("{} (set {})", partner_text(partner, t.exact),
                       partner_text(partner, t.nearest));
  } catch (const OpticsError&) {
    return partner == Partner::nd        ? std::string("cannot: it only takes light")
           : partner == Partner::shutter ? std::string("cannot be open that long")
           : partner == Partner::stop && loaded.now.lens.widest
               ? fmt::format("the lens opens to {}", stop_text(*loaded.now.lens.widest))
               : std::string("cannot: out of reach");
  }
}

void add_numbers(const ExposureLook& look, const LoadedShot& loaded, ExposureSheet& sheet) {
  const auto head = [&](const std::string& words) { sheet.numbers.push_back({words, ""}); };
  const auto row = [&](const std::string& words, const std::string& value) {
    sheet.numbers.push_back({words, value});
  };
  const double stops = look.metered.stops();
  head(look.how.way == MeterWay::highlights ? "To let no more than that clip"
                                            : fmt::format("To bring it to {:g}", look.how.wanted));
  row("in CG", fmt::format("{:+.2f} stops, times {:.4g}", stops, std::exp2(stops)));
  for (const Partner partner : {Partner::stop, Partner::shutter, Partner::iso, Partner::nd}) {
    row(report::partner_name(partner), way_there(loaded, stops, partner));
  }
  if (loaded.answer.ev100) {
    head("The take");
    row("EV100", fmt::format("{:.2f}", *loaded.answer.ev100));
    row("metered grey", fmt::format("{:.4g} cd/m2", metered_luminance(*loaded.answer.ev100)));
  }
  if (look.match) {
    head("As the plate");
    row("CG", fmt::format("{:+.2f} stops, R x {:.3f}, B x {:.3f}", look.match->stops,
                          look.match->gains[0], look.match->gains[2]));
    if (look.plate_white) row("the plate's light", white_text(*look.plate_white));
  }
  if (look.neutral || look.seen_white) head("White");
  if (look.neutral) row("the light", white_text(look.neutral->white));
  if (look.seen_white) {
    row("told, light", fmt::format("{}, {}", white_text(look.told), white_text(look.light)));
    row("a grey card", cast_in_words(*look.seen_white));
  }
}

void make_small(ExposureSheet& sheet) {
  if (sheet.picture.width() <= 2 * widest) return;
  const double by = static_cast<double>(widest) / sheet.picture.width();
  sheet.picture = shrunk(sheet.picture, widest);
  for (SheetSpot& spot : sheet.spots) {
    for (double& v : spot.box) v *= by;
  }
}

}  // namespace

ExposureSheet look_sheet(const ExposureLook& look, const Frame& frame, const LoadedShot& loaded) {
  ExposureSheet sheet;
  const std::string name = report::file_name(look.file);
  const double stops = look.metered.stops();
  const std::string off = report::stops_text(stops) + (stops > 0.0 ? " too dark" : " too bright");
  sheet.title = name + ": " + (std::abs(stops) < 0.05 ? "well exposed" : off);
  sheet.subtitle =
      fmt::format("{} x {} px, {}, {}; metered by {}: value {:.4g}, wanted {:.4g}", look.size.width,
                  look.size.height, look.coded, to_string(loaded.now.primaries),
                  to_string(look.how.way), look.metered.level, look.metered.target);
  sheet.picture = frame.colour;
  sheet.primaries = loaded.now.primaries;
  sheet.clips_at = look.clips_at;
  sheet.histogram = stops_histogram(frame.colour, loaded.now.primaries);
  Metering all = look.how;
  all.way = MeterWay::average;
  const Metered whole = meter(frame.colour, all);
  sheet.black = whole.black;
  sheet.clipped = whole.clipped;
  sheet.non_finite = whole.non_finite;
  if (whole.clipped > much_clipped) {
    sheet.title += fmt::format(", {:.1f} % clipped", 100.0 * whole.clipped);
  }
  sheet.level_stops = std::log2(look.metered.level / grey_value);
  add_spots(look, loaded, sheet);
  add_numbers(look, loaded, sheet);
  make_small(sheet);
  return sheet;
}

}  // namespace jolly_iris
