#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "drawing/result_sheets.hpp"
#include "report/text.hpp"

namespace jolly_iris {

namespace {

using std::numbers::pi;

// More hide the picture.
constexpr std::size_t most_lamps_drawn = 16;
constexpr std::size_t most_squares_drawn = 120;

using Outline = std::vector<std::array<double, 2>>;

Outline box_outline(double x, double y, double width, double height) {
  return {{x, y}, {x + width, y}, {x + width, y + height}, {x, y + height}};
}

Outline circle_outline(const std::array<double, 2>& at, double radius) {
  Outline out;
  constexpr int corners = 32;
  for (int k = 0; k < corners; ++k) {
    const double a = 2.0 * pi * k / corners;
    out.push_back({at[0] + radius * std::cos(a), at[1] + radius * std::sin(a)});
  }
  return out;
}

// From so many px beside a place to so many, counter-clockwise from the right.
Outline line_outline(const std::array<double, 2>& at, double deg, double from, double to) {
  const double cos = std::cos(deg * pi / 180.0);
  const double sin = std::sin(deg * pi / 180.0);
  return {{at[0] + from * cos, at[1] - from * sin}, {at[0] + to * cos, at[1] - to * sin}};
}

void add_lamps(const HaloFinding& halo, MarkedPicture& out) {
  std::size_t drawn = 0;
  for (const HaloLamp& l : halo.lamps) {
    if (++drawn > most_lamps_drawn) break;
    out.marks.push_back({circle_outline(l.at, l.radius_px + 3.0), "",
                         l.used ? PictureMark::Kind::found : PictureMark::Kind::rejected});
  }
}

// What is no spike and no streak is the scene's own: windows in rows, rails.
bool is_told(const RaysFinding& rays, const PlateRay& ray) {
  constexpr double near_deg = 4.0;
  const double deg = ray.direction_deg.value;
  const bool spike = rays.spikes && std::abs(std::remainder(deg - rays.spikes->first_deg.value,
                                                            360.0 / rays.spikes->rays)) < near_deg;
  return spike || (rays.streak && std::abs(std::remainder(deg - rays.streak->direction_deg.value,
                                                          180.0)) < near_deg);
}

void add_rays(const RaysFinding& rays, MarkedPicture& out) {
  std::size_t drawn = 0;
  for (const RayLamp& l : rays.lamps) {
    if (!l.used || ++drawn > most_lamps_drawn) continue;
    for (const PlateRay& r : rays.rays) {
      if (!is_told(rays, r)) continue;
      out.marks.push_back(
          {line_outline(l.at, r.direction_deg.value, 10.0, std::max(24.0, r.seen_to_px)), "",
           PictureMark::Kind::doubted});
    }
  }
}

void add_smear(const SmearFinding& smear, MarkedPicture& out) {
  for (const SmearedLamp& l : smear.lamps) {
    if (!l.drawn) continue;
    const double half = 0.5 * l.way.length_px.value;
    out.marks.push_back(
        {line_outline(l.at, l.way.direction_deg.value, -half, half),
         fmt::format("{:.1f} px", l.way.length_px.value),
         l.of_all || !smear.smear ? PictureMark::Kind::found : PictureMark::Kind::doubted});
  }
}

void add_squares(const FinishInPlate& found, MarkedPicture& out) {
  for (const EvenSurface& s : found.corners.surfaces) {
    out.marks.push_back({box_outline(s.box.x, s.box.y, s.box.width, s.box.height),
                         s.used ? fmt::format("{:.2f} stops", s.stops.value) : "",
                         s.used ? PictureMark::Kind::found : PictureMark::Kind::rejected});
  }
  if (!found.grain.grain) return;
  const auto& places = found.grain.grain->places;
  const std::size_t every = 1 + places.size() / most_squares_drawn;
  for (std::size_t i = 0; i < places.size(); i += every) {
    const Box& b = places[i].box;
    out.marks.push_back(
        {box_outline(b.x + 0.35 * b.width, b.y + 0.35 * b.height, 0.3 * b.width, 0.3 * b.height),
         "", PictureMark::Kind::found});
  }
}

}  // namespace

MarkedPicture finish_overlay(const FinishMeasurement& measured, const LoadedShot& loaded) {
  const FinishInPlate& f = measured.found;
  MarkedPicture out;
  out.picture = measured.plate;
  std::string parts;
  const auto add = [&](bool there, const std::string& what) {
    if (there) parts += (parts.empty() ? "" : ", ") + what;
  };
  add(f.halo.halo.has_value(), "halo");
  add(f.rays.spikes.has_value(),
      f.rays.spikes ? fmt::format("{} spikes", f.rays.spikes->rays) : std::string());
  add(f.rays.streak.has_value(), "streak");
  add(f.smear.smear.has_value(),
      f.smear.smear ? fmt::format("{:.1f} px of smear", f.smear.smear->length_px.value)
                    : std::string());
  add(f.corners.stops.has_value(), "corners");
  add(f.grain.grain.has_value(), "grain");
  out.title = fmt::format("{}: {}", report::file_name(loaded.now.plate->file),
                          parts.empty() ? "nothing of a finish is told" : parts);
  out.subtitle = fmt::format("{} x {} px; lamps that tell are drawn around, others dotted",
                             measured.plate.width(), measured.plate.height());
  out.foot =
      "circles: lamps;  lines through them: smear;  dashed lines: rays;  large boxes: even "
      "surfaces;  small squares: flat ones, for grain";
  add_squares(f, out);
  add_lamps(f.halo, out);
  add_rays(f.rays, out);
  add_smear(f.smear, out);
  return out;
}

}  // namespace jolly_iris
