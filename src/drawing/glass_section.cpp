#include "jolly_iris/drawing/glass_section.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/glass/aim.hpp"
#include "palette.hpp"

namespace jolly_iris {

using namespace drawing;

namespace {

constexpr Colour clear_glass{0.72, 0.83, 0.90};  // crowns: they part colours little
constexpr Colour dense_glass{0.88, 0.80, 0.66};  // flints
constexpr Colour middle_ray{0.10, 0.33, 0.55};
constexpr Colour corner_ray{0.72, 0.33, 0.10};
// Crowns and flints part at an Abbe number of 50 (55 where the index is low); the trade's line.
constexpr double crown_from = 50.0;
constexpr int outline_points = 48;
constexpr double room_top = 96.0;
constexpr double room_bottom = 704.0;
constexpr double room_left = 48.0;
constexpr double room_right = 1232.0;

struct SectionPanel {
  double y, height;
  Meridian meridian;
};

class SectionPainter {
 public:
  SectionPainter(const GlassLook& look, Canvas& canvas)
      : look_(look), canvas_(canvas), glass_(look.prescription, look.travel.travel) {
    glass_.set_opening(look.opening);
  }

  void run() {
    canvas_.fill({{0, 0}, {sheet_width, 0}, {sheet_width, sheet_height}, {0, sheet_height}}, paper);
    canvas_.text({48, 42}, look_.prescription.name, 24, ink, true);
    canvas_.text({48, 68}, subtitle(), 15, soft);
    std::vector<SectionPanel> panels{{room_top, room_bottom - room_top, Meridian::up}};
    if (look_.across) {
      const double half = 0.5 * (room_bottom - room_top);
      panels = {{room_top, half - 10.0, Meridian::up},
                {room_top + half + 10.0, half - 10.0, Meridian::across}};
    }
    choose_scale(panels);
    for (const SectionPanel& p : panels) paint(p);
    foot();
  }

 private:
  std::string subtitle() const {
    const std::string focal = look_.across
                                  ? fmt::format("{:.2f} mm up and down, {:.2f} mm across",
                                                look_.up.focal.mm(), look_.across->focal.mm())
                                  : fmt::format("{:.2f} mm", look_.up.focal.mm());
    const std::string at = look_.request.distance.is_finite()
                               ? fmt::format("{:.2f} m", look_.request.distance.m())
                               : std::string("infinity");
    return fmt::format("{}, f/{:.2f}, focused at {}; the corner is {:.1f} mm from the middle",
                       focal, look_.request.f_number.value_or(look_.widest), at, corner_mm());
  }

  // The gate's corner, or as far out as a quarter of the middle's light arrives.
  double corner_mm() const {
    double out = 0.0;
    for (const FieldPoint& p : look_.field) {
      if (look_.request.gate || p.light >= 0.25) out = p.height.mm();
    }
    return out;
  }

  double height_of(std::size_t i) const {
    const double clear = std::sqrt(glass_.surfaces()[i].clear_sq);
    return std::isfinite(clear) ? clear : 0.25 * look_.length.mm();
  }

  void choose_scale(const std::vector<SectionPanel>& panels) {
    double tallest = corner_mm();
    for (std::size_t i = 0; i < glass_.surfaces().size(); ++i) {
      tallest = std::max(tallest, height_of(i));
    }
    ahead_ = std::max(0.18 * look_.length.mm(), 0.6 * tallest);
    const double across = (room_right - room_left) / (look_.length.mm() * 1.04 + ahead_);
    scale_ = std::min(across, panels.front().height / (2.16 * tallest));
    const double wide = scale_ * (look_.length.mm() * 1.04 + ahead_);
    left_ = room_left + 0.5 * (room_right - room_left - wide);
  }

  // From the glass's space to the sheet.
  Spot spot(double z, double height) const {
    return {left_ + scale_ * (z + look_.length.mm() + ahead_), middle_ - scale_ * height};
  }

  std::vector<Spot> profile(std::size_t i, double height) const {
    std::vector<Spot> out;
    const TracedSurface& s = glass_.surfaces()[i];
    for (int k = 0; k <= outline_points; ++k) {
      const double h = height * (2.0 * k / outline_points - 1.0);
      const double sag = meridian_ == Meridian::up ? sag_of(s, 0.0, h) : sag_of(s, h, 0.0);
      if (std::isfinite(sag)) out.push_back(spot(s.z + sag, h));
    }
    return out;
  }

  void paint(const SectionPanel& panel) {
    meridian_ = panel.meridian;
    middle_ = panel.y + 0.5 * panel.height;
    const std::vector<TracedSurface>& all = glass_.surfaces();
    canvas_.stroke({spot(all.front().z - ahead_, 0.0), spot(0.02 * look_.length.mm(), 0.0)}, grid,
                   1.0, false, {9, 4, 2, 4});
    for (std::size_t i = 0; i + 1 < all.size(); ++i) {
      const Medium& medium = look_.prescription.surfaces[i].medium;
      if (medium.is_air()) continue;
      const double height = std::max(height_of(i), height_of(i + 1));
      std::vector<Spot> outline = profile(i, height);
      const std::vector<Spot> back = profile(i + 1, height);
      outline.insert(outline.end(), back.rbegin(), back.rend());
      canvas_.fill(outline, medium.v_d >= crown_from ? clear_glass : dense_glass);
      canvas_.stroke(outline, ink, 1.1, true);
    }
    rays();
    stop();
    pupils();
    const double film = std::max(corner_mm(), 1.0);
    canvas_.stroke({spot(0.0, -film), spot(0.0, film)}, ink, 2.5);
    if (look_.across) {
      canvas_.text({room_left, panel.y + 16},
                   meridian_ == Meridian::up ? "cut from above to below" : "cut from side to side",
                   14, soft, true);
    }
  }

  void stop() {
    const TracedSurface& s = glass_.surfaces()[glass_.stop()];
    const double open = glass_.opening().mm();
    const double out = std::max(1.25 * std::sqrt(s.clear_sq), open + 12.0 / scale_);
    canvas_.stroke({spot(s.z, open), spot(s.z, out)}, mark_red, 3.0);
    canvas_.stroke({spot(s.z, -open), spot(s.z, -out)}, mark_red, 3.0);
    canvas_.text({spot(s.z, -out)[0], spot(s.z, -out)[1] + 16}, "opening", 13, mark_red, false,
                 0.5);
  }

  void pupils() {
    const ParaxialFacts facts = paraxial_facts(glass_, meridian_);
    const double front = glass_.surfaces().front().z - 0.9 * ahead_;
    const auto mark = [&](Length z, Length wide, const char* words, bool above) {
      if (!z.is_finite() || !wide.is_finite() || z.mm() < front || z.mm() > 0.0) return;
      const double r = 0.5 * wide.mm();
      for (const double side : {-1.0, 1.0}) {
        canvas_.stroke({spot(z.mm(), side * r), spot(z.mm(), side * (r + 8.0 / scale_))}, soft,
                       1.5);
      }
      canvas_.stroke({spot(z.mm(), -r), spot(z.mm(), r)}, soft, 0.8, false, {2, 4});
      const Spot end = spot(z.mm(), above ? r : -r);
      canvas_.text({end[0], end[1] + (above ? -14.0 : 46.0)}, words, 13, soft, false, 0.5);
    };
    mark(facts.entrance_pupil, facts.entrance_diameter, "entrance pupil", true);
    mark(facts.exit_pupil, facts.exit_diameter, "exit pupil", false);
  }

  void rays() {
    const double corner = meridian_ == Meridian::up ? corner_mm() : 0.0;
    fan(RaySource::point({0.0, 0.0, 0.0}), middle_ray);
    if (corner > 0.0) fan(RaySource::point({0.0, -corner, 0.0}), corner_ray);
  }

  // From a point of the film outwards: what the glass does to light is the same both ways.
  void fan(const RaySource& from, const Colour& colour) {
    for (const double u : {-0.98, -0.5, 0.0, 0.5, 0.98}) {
      const double h = u * glass_.opening().mm();
      const std::array<double, 2> at =
          meridian_ == Meridian::up ? std::array{0.0, h} : std::array{h, 0.0};
      const auto ray = aimed(glass_, from, at);
      if (!ray) continue;
      const GlassWay out = glass_.to_scene(*ray);
      if (out.end != RayEnd::passed) continue;
      const std::size_t axis = meridian_ == Meridian::up ? 1 : 0;
      const GlassRay in{out.ray.at, {-out.ray.along[0], -out.ray.along[1], -out.ray.along[2]}};
      std::vector<Spot> line;
      const double before = -ahead_ / in.along[2];
      line.push_back(spot(in.at[2] + before * in.along[2], in.at[axis] + before * in.along[axis]));
      for (std::size_t i = 0; i < glass_.surfaces().size(); ++i) {
        const GlassWay way = glass_.to_surface(in, i);
        if (way.end != RayEnd::passed) break;
        line.push_back(spot(way.ray.at[2], way.ray.at[axis]));
      }
      line.push_back(spot(0.0, from.at[axis]));
      canvas_.only_within(0, room_top - 20, sheet_width, room_bottom - room_top + 40);
      canvas_.stroke(line, colour, 1.1);
      canvas_.whole();
    }
  }

  void foot() {
    double x = 48.0;
    const double y = 752.0;
    const auto key = [&](const Colour& colour, const std::string& words, bool line) {
      if (line) {
        canvas_.stroke({{x, y - 5}, {x + 26, y - 5}}, colour, 2.0);
      } else {
        canvas_.fill({{x, y - 13}, {x + 26, y - 13}, {x + 26, y + 2}, {x, y + 2}}, colour);
      }
      canvas_.text({x + 34, y}, words, 14, ink);
      x += 34.0 + text_width(words, 14) + 26.0;
    };
    key(clear_glass, "crown (V 50 and more)", false);
    key(dense_glass, "flint", false);
    key(middle_ray, "light of the middle", true);
    key(corner_ray, "of the corner, where it passes", true);
    // A length to scale.
    double bar = 1.0;
    for (const double mm : {1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0}) {
      if (mm * scale_ <= 150.0) bar = mm;
    }
    const double right = 1232.0;
    canvas_.stroke({{right - bar * scale_, y - 5}, {right, y - 5}}, ink, 2.0);
    canvas_.text({right - bar * scale_ - 10, y}, fmt::format("{:g} mm", bar), 14, ink, false, 1.0);
    canvas_.text(
        {48, 782},
        fmt::format("To scale, the scene at the left, the film at the right. {}", travel_words()),
        14, soft);
  }

  std::string travel_words() const {
    if (look_.focus.size() < 2) return {};
    const GlassMark& near = look_.focus.back();
    return fmt::format("From infinity to {:.2f} m its groups travel {:.2f} mm.", near.distance.m(),
                       std::abs(near.travel.mm() - look_.focus.front().travel.mm()));
  }

  const GlassLook& look_;
  Canvas& canvas_;
  TracedGlass glass_;
  Meridian meridian_ = Meridian::up;
  double middle_ = 400.0;
  double scale_ = 1.0;
  double left_ = 0.0;
  double ahead_ = 0.0;  // mm that rays are shown before the glass
};

std::string drawn_section(const GlassLook& look, Canvas::Kind kind) {
  Canvas canvas(kind, static_cast<int>(sheet_width), static_cast<int>(sheet_height));
  SectionPainter(look, canvas).run();
  return canvas.bytes();
}

}  // namespace

std::string section_png(const GlassLook& look) { return drawn_section(look, Canvas::Kind::png); }
std::string section_svg(const GlassLook& look) { return drawn_section(look, Canvas::Kind::svg); }

}  // namespace jolly_iris
