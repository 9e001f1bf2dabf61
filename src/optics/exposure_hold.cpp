#include "jolly_iris/optics/exposure_hold.hpp"

#include <fmt/format.h>

#include <cmath>
#include <vector>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/exposure.hpp"
#include "optics/enum_name.hpp"

namespace jolly_iris {

namespace {

// Of a series as marked, the member nearest in ratio.
double nearest_in(const std::vector<double>& series, double value) {
  double best = series.front();
  for (const double s : series) {
    if (std::abs(std::log(s / value)) < std::abs(std::log(best / value))) best = s;
  }
  return best;
}

// The light on the sensor times the sensitivity, in stops; only differences count.
double brightness(const Lens& lens, const Take& take) {
  require_possible(take);
  const double t = marked_t_number(lens, take.stop);
  const auto time = shutter_time(take);
  if (!time) {
    throw OpticsError(take.shutter
                          ? "a shutter angle needs take.fps for its exposure time"
                          : "to hold the exposure, the shutter must be known: shutter = \"1/48 s\"",
                      take.shutter ? "take.fps" : "take.shutter");
  }
  if (!take.iso) {
    throw OpticsError("to hold the exposure, the sensitivity must be known: iso = 800", "take.iso");
  }
  return std::log2(time->seconds() / (t * t)) + std::log2(*take.iso / 100.0) - take.nd_stops;
}

void require_open(const Lens& lens, const Stop& stop) {
  if (opens_to(lens, stop)) return;
  const auto as_marked = [](const Stop& s) {
    return fmt::format("{}{:.3g}", s.kind == Stop::Kind::t ? "T" : "f/", s.value);
  };
  throw OpticsError(fmt::format("the stop would have to be {}; the lens opens to {}",
                                as_marked(stop), as_marked(*lens.widest)),
                    "take.stop");
}

void pay_by_stop(const Lens& lens, Trade& trade, double by) {
  Stop& stop = trade.exact.stop;
  stop.value *= std::exp2(0.5 * by);
  if (!(stop.value >= 0.7 && stop.value <= 128.0)) {
    throw OpticsError(fmt::format("the stop would have to be {:.3g}; lenses "
                                  "have f/0.7 to f/128",
                                  stop.value),
                      "take.stop");
  }
  require_open(lens, stop);
  trade.nearest.stop.value = nearest_f_number(stop.value);
  if (!opens_to(lens, trade.nearest.stop)) trade.nearest.stop = widest_as(lens, stop.kind);
}

void pay_by_shutter(Trade& trade, double by) {
  Shutter& shutter = *trade.exact.shutter;
  const double longer = std::exp2(-by);
  if (shutter.time) {
    shutter.time = *shutter.time * longer;
    trade.nearest.shutter = Shutter{nearest_time(*shutter.time), {}};
    return;
  }
  shutter.angle = *shutter.angle * longer;
  const double degrees = shutter.angle->degrees();
  if (degrees > 360.0 + 1e-9) {
    throw OpticsError(fmt::format("the shutter would have to be open {:.4g} "
                                  "deg; a frame's turn has 360",
                                  degrees),
                      "take.shutter");
  }
  // Angles are set to a tenth of a degree.
  const double set = std::max(0.1, std::round(degrees * 10.0) / 10.0);
  trade.nearest.shutter = Shutter{{}, Angle::from_degrees(set)};
}

void pay_by_iso(Trade& trade, double by) {
  double& iso = *trade.exact.iso;
  iso *= std::exp2(-by);
  if (!(iso >= 1.0 && iso <= 1e7)) {
    throw OpticsError(fmt::format("the sensitivity would have to be ISO {:.3g}", iso), "take.iso");
  }
  trade.nearest.iso = nearest_iso(iso);
}

void pay_by_nd(Trade& trade, double by) {
  double& nd = trade.exact.nd_stops;
  nd += by;
  if (nd < -1e-9) {
    throw OpticsError(fmt::format("the neutral density would have to be "
                                  "{:+.2f} stops: a filter only takes light",
                                  nd),
                      "take.nd");
  }
  nd = std::max(0.0, nd);
  trade.nearest.nd_stops = nearest_nd_stops(nd);
}

}  // namespace

std::string_view to_string(Partner partner) {
  return name_of<Partner::nd>(partner, {"stop", "shutter", "iso", "nd"});
}

namespace {

// The partner takes back so many stops of light; what that makes of the picture is told.
Trade paid(const Lens& lens, const Take& was, const Take& now, Partner pays, double back,
           double wanted) {
  Trade trade;
  trade.pays = pays;
  trade.exact = trade.nearest = now;
  switch (pays) {
    case Partner::stop:
      pay_by_stop(lens, trade, back);
      break;
    case Partner::shutter:
      pay_by_shutter(trade, back);
      break;
    case Partner::iso:
      pay_by_iso(trade, back);
      break;
    case Partner::nd:
      pay_by_nd(trade, back);
      break;
  }
  trade.left_stops = brightness(lens, trade.nearest) - brightness(lens, was) - wanted;
  trade.noise_stops = std::log2(*trade.nearest.iso / *was.iso);
  trade.motion_blur_times = *shutter_time(trade.nearest) / *shutter_time(was);
  trade.blur_times = marked_f_number(lens, was.stop) / marked_f_number(lens, trade.nearest.stop);
  return trade;
}

}  // namespace

Trade hold_exposure(const Lens& lens, const Take& was, const Take& now, Partner pays) {
  require_open(lens, now.stop);
  const double light = brightness(lens, now) - brightness(lens, was);
  Trade trade = paid(lens, was, now, pays, light, 0.0);
  trade.light_stops = light;
  return trade;
}

Trade change_exposure(const Lens& lens, const Take& was, double stops, Partner by) {
  (void)brightness(lens, was);  // says what is not known
  Trade trade = paid(lens, was, was, by, -stops, stops);
  trade.light_stops = stops;
  return trade;
}

double nearest_f_number(double n) {
  static const std::vector<double> series{
      0.7, 0.8, 0.9, 1.0, 1.1, 1.2, 1.4, 1.6,  1.8,  2.0,  2.2,  2.5,  2.8,  3.2, 3.5, 4.0,
      4.5, 5.0, 5.6, 6.3, 7.1, 8.0, 9.0, 10.,  11.0, 13.0, 14.0, 16.,  18.,  20., 22., 25.,
      29., 32., 36., 40., 45., 51., 57., 64.0, 72.0, 80.0, 90.,  102., 114., 128.};
  return nearest_in(series, n);
}

double nearest_iso(double iso) {
  static const std::vector<double> series = [] {
    std::vector<double> s{1,  1.2, 1.6, 2,  2.5, 3,  4,  5,  6,  8,
                          10, 12,  16,  20, 25,  32, 40, 50, 64, 80};
    // From 100 on every third doubles as it is written: 1000, 1250, 1600.
    const double decade[] = {100, 125, 160, 200, 250, 320, 400, 500, 640, 800};
    s.insert(s.end(), std::begin(decade), std::end(decade));
    for (double k = 1.0; k < 2e4; k *= 2.0) {
      for (const double v : {1000.0, 1250.0, 1600.0}) s.push_back(v * k);
    }
    return s;
  }();
  return nearest_in(series, iso);
}

Duration nearest_time(Duration time) {
  static const std::vector<double> series = [] {
    std::vector<double> s{60, 50,  40,  30, 25,  20,  15, 13,  10,  8,   6,   5,
                          4,  3.2, 2.5, 2,  1.6, 1.3, 1,  0.8, 0.6, 0.5, 0.4, 1.0 / 3.0};
    for (const double d :
         {4,    5,    6,    8,    10,   13,   15,    20,    25,    30,    40,    50,   60,   80,
          100,  125,  160,  200,  250,  320,  400,   500,   640,   800,   1000,  1250, 1600, 2000,
          2500, 3200, 4000, 5000, 6400, 8000, 10000, 12800, 16000, 20000, 25600, 32000}) {
      s.push_back(1.0 / d);
    }
    return s;
  }();
  return Duration::from_seconds(nearest_in(series, time.seconds()));
}

double nearest_nd_stops(double stops) { return std::round(stops * 3.0) / 3.0; }

}  // namespace jolly_iris
