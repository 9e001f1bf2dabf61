// The camera over a plate's frames, as a sheet of curves.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "drawing/result_sheets.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture/warp.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "report/camera_sequence_report.hpp"
#include "report/text.hpp"

namespace jolly_iris {

namespace {

constexpr std::size_t strip_pictures = 10;
constexpr int strip_px = 240;

// Distances, stops and focal lengths as people call them, that lie in the curve's reach.
std::vector<SheetCurve::Tick> ticks_for(Parameter of, double low, double high) {
  std::vector<SheetCurve::Tick> out;
  const auto add = [&](double written, std::string words) {
    out.push_back({evenly_counted(of, written), std::move(words)});
  };
  switch (of) {
    case Parameter::focus:
      out.push_back({0.0, "infinity"});
      for (const double m :
           {100.0, 50.0, 30.0, 20.0, 15.0, 10.0, 8.0, 6.0, 5.0, 4.0, 3.5, 3.0, 2.8, 2.6,  2.4, 2.2,
            2.0,   1.8,  1.6,  1.4,  1.2,  1.0,  0.9, 0.8, 0.7, 0.6, 0.5, 0.4, 0.3, 0.25, 0.2}) {
        add(m, fmt::format("{:g} m", m));
      }
      break;
    case Parameter::stop:
      for (const double n : {1.0, 1.2, 1.4, 1.8, 2.0, 2.2, 2.5,  2.8,  3.2,  3.5,  4.0,  4.5,
                             5.0, 5.6, 6.3, 7.1, 8.0, 9.0, 10.0, 11.0, 13.0, 16.0, 22.0, 32.0}) {
        add(n, fmt::format("f/{:g}", n));
      }
      break;
    case Parameter::focal: {
      const double near = as_written(of, 0.5 * (low + high));
      const double step = near < 30.0 ? 1.0 : near < 100.0 ? 2.0 : 10.0;
      for (double mm = step * std::floor(0.4 * near / step); mm < 2.5 * near; mm += step) {
        if (mm > 0.0) add(mm, fmt::format("{:g} mm", mm));
      }
      break;
    }
    default: {
      const double range = std::max(high - low, 1e-6);
      double step = 0.1;
      for (const double s :
           {0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0}) {
        step = s;
        if (range / s < 5.0) break;
      }
      const int digits = static_cast<int>(std::ceil(std::max(0.0, -std::log10(step) - 1e-9)));
      for (double v = step * std::floor(low / step); v <= high + step; v += step) {
        out.push_back({v, report::signed_text(v, digits)});
      }
    }
  }
  return out;
}

const char* title_of(Parameter of) {
  switch (of) {
    case Parameter::focus:
      return "Focus (evenly in dioptres)";
    case Parameter::focus_change:
      return "Focus, dioptres against the first frame (+ nearer)";
    case Parameter::stop:
      return "Stop";
    case Parameter::focal:
      return "Focal length";
    case Parameter::exposure:
      return "Exposure, stops against the first frame";
    default:
      return "White, mired against the first frame (+ warmer)";
  }
}

double least_range(Parameter of) {
  switch (of) {
    case Parameter::focus:
    case Parameter::focus_change:
      return 0.02;
    case Parameter::stop:
      return 1.0;
    case Parameter::focal:
      return 0.1;
    case Parameter::exposure:
      return 1.0;
    default:
      return 40.0;
  }
}

SheetCurve curve_of(const FollowedValue& v) {
  SheetCurve out;
  out.title = title_of(v.of);
  // Notes do not tell exposure and white by frames.
  const bool noted = !v.relative || v.of == Parameter::focus_change;
  double low = v.at.front().curve;
  double high = low;
  for (const FrameValue& f : v.at) {
    out.frames.push_back(f.frame);
    out.value.push_back(f.curve);
    out.margin.push_back(f.margin);
    if (noted) out.notes.push_back(f.noted);
    out.points.push_back(f.value);
    out.point_margin.push_back(f.value_margin);
    low = std::min({low, f.curve - f.margin, noted ? f.noted : low});
    high = std::max({high, f.curve + f.margin, noted ? f.noted : high});
  }
  out.least_range = least_range(v.of);
  out.ticks = ticks_for(v.of, low - 0.5 * out.least_range, high + 0.5 * out.least_range);
  for (const Move& m : v.moves.moves) {
    out.moves.push_back({m.begins, m.ends,
                         fmt::format("{}, {:.0f} to {:.0f}", to_string(m.kind), m.begins, m.ends)});
  }
  return out;
}

}  // namespace

CurveSheet sequence_sheet(const CameraSequence& sequence, std::vector<std::string>& notes) {
  CurveSheet sheet;
  sheet.title = fmt::format("{}: the camera of {} frames, read out of the plate",
                            report::stem_of(sequence.loaded.shot.file), sequence.frames.size());
  sheet.subtitle = fmt::format("{} frames show lamps of {} distance, {} are bridged",
                               sequence.camera.seen, sequence.camera.relative ? "unknown" : "known",
                               sequence.frames.size() - sequence.camera.seen);
  if (!sequence.findings.empty()) sheet.foot = sequence.findings.front().message;
  for (const FollowedValue& v : sequence.camera.values) {
    if (v.at.empty()) continue;
    if (v.of == Parameter::focus || v.of == Parameter::focus_change) {
      sheet.main = curve_of(v);
    } else {
      sheet.others.push_back(curve_of(v));
    }
  }
  if (sheet.main.frames.empty()) {
    if (sheet.others.empty()) throw OpticsError(sequence.camera.untold + ": nothing to draw");
    sheet.main = sheet.others.front();
    sheet.others.erase(sheet.others.begin());
  }
  const std::size_t n = std::min(strip_pictures, sequence.frames.size());
  for (std::size_t i = 0; i < n; ++i) {
    const std::size_t at = n < 2 ? 0 : i * (sequence.frames.size() - 1) / (n - 1);
    StripPicture one{sequence.frames[at].frame, {}};
    try {
      const LoadedShot now = at_frame(sequence.loaded, one.frame);
      const Frame plate = read_plate(*now.now.plate);
      one.picture = plate.colour.width() > strip_px ? shrunk(plate.colour, strip_px) : plate.colour;
    } catch (const Error& e) {
      notes.push_back(fmt::format("frame {:g} is not shown: {}", one.frame, e.what()));
    }
    sheet.strip.push_back(std::move(one));
  }
  // Without any plate a row of dark fields would say nothing.
  const bool none = std::all_of(sheet.strip.begin(), sheet.strip.end(),
                                [](const StripPicture& s) { return s.picture.empty(); });
  if (none) sheet.strip.clear();
  return sheet;
}

}  // namespace jolly_iris
