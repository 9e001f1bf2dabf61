#include "jolly_iris/drawing/glass_curves.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <limits>

#include "jolly_iris/glass/field.hpp"
#include "jolly_iris/glass/focus_travel.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "palette.hpp"

namespace jolly_iris {

using namespace drawing;

namespace {

constexpr int curve_points = 49;  // over the picture's height
constexpr int focus_points = 24;  // over its focus
constexpr std::array<Colour, most_glass_curves> glass_inks{
    {{0.10, 0.33, 0.55}, {0.72, 0.33, 0.10}, {0.16, 0.47, 0.27}, {0.52, 0.20, 0.46}, ink}};
// Blacker than this the eye sees no more difference, and axes need an end.
constexpr double darkest_stops = -5.0;
constexpr double dash = 6.0;

struct CurveLine {
  std::vector<Spot> points{};
  Colour colour{};
  bool dashed = false;
};

struct CurvePanel {
  std::string title{};
  std::string under{};
  std::vector<CurveLine> lines{};
  std::vector<std::pair<double, std::string>> ticks_x{};
  double least_y = 0.0;  // how much the axis shows at least
  bool from_zero = false;
  bool decades = false;  // values are logarithms of ten
};

// Steps of an axis: 1, 2 or 5 times a power of ten.
double tick_step(double range, int about) {
  const double raw = range / about;
  const double ten = std::pow(10.0, std::floor(std::log10(raw)));
  for (const double times : {1.0, 2.0, 5.0}) {
    if (times * ten >= raw) return times * ten;
  }
  return 10.0 * ten;
}

std::vector<std::pair<double, std::string>> ticks_y(double low, double high, bool decades) {
  std::vector<std::pair<double, std::string>> out;
  if (decades) {
    for (int ten = static_cast<int>(std::floor(low)); ten <= high; ++ten) {
      for (const double times : {1.0, 2.0, 5.0}) {
        const double value = times * std::pow(10.0, ten);
        const double v = std::log10(value);
        if (v >= low && v <= high) out.emplace_back(v, fmt::format("{:g}", value));
      }
    }
    return out;
  }
  const double step = tick_step(high - low, 5);
  const int last = static_cast<int>(std::floor(high / step));
  for (int k = static_cast<int>(std::ceil(low / step)); k <= last; ++k) {
    out.emplace_back(k * step, fmt::format("{:.6g}", k * step));
  }
  return out;
}

class CurvesPainter {
 public:
  CurvesPainter(const std::vector<GlassLook>& looks, Canvas& canvas)
      : looks_(looks), canvas_(canvas) {}

  void run() {
    canvas_.fill({{0, 0}, {sheet_width, 0}, {sheet_width, sheet_height}, {0, sheet_height}}, paper);
    canvas_.text({48, 42},
                 looks_.size() == 1 ? looks_.front().prescription.name : "Lenses compared", 24, ink,
                 true);
    legend();
    const std::vector<CurvePanel> panels = all_panels();
    for (std::size_t i = 0; i < panels.size(); ++i) {
      const std::size_t row = i / 3;
      const std::size_t column = i % 3;
      const double left = 96.0 + 408.0 * static_cast<double>(column);
      const double top = 142.0 + 324.0 * static_cast<double>(row);
      paint(panels[i], left, top);
    }
    canvas_.text(
        {48, 782},
        "Heights are on the film, straight up; a curve ends where the lens lights no more (its "
        "light at five stops). Focus is counted from the film plane.",
        14, soft);
  }

 private:
  static constexpr double panel_width = 320.0;
  static constexpr double panel_height = 216.0;

  void legend() {
    double x = 48.0;
    for (std::size_t i = 0; i < looks_.size(); ++i) {
      const GlassLook& look = looks_[i];
      const std::string words = fmt::format(
          "{}, f/{:.3g}, {}", look.prescription.name, look.request.f_number.value_or(look.widest),
          look.request.distance.is_finite() ? fmt::format("at {:.3g} m", look.request.distance.m())
                                            : std::string("at infinity"));
      canvas_.stroke({{x, 71}, {x + 26, 71}}, glass_inks[i], 2.5);
      canvas_.text({x + 34, 76}, words, 14, ink);
      x += 34.0 + text_width(words, 14) + 26.0;
      if (x > 1000.0 && i + 1 < looks_.size()) break;  // the rest is told by colour alone
    }
  }

  std::vector<CurvePanel> all_panels() const {
    std::vector<CurvePanel> out(6);
    out[0] = {"light, stops against the middle", "mm from the middle", {}, {}, 1.0, false};
    out[1] = {"distortion, %", "mm from the middle", {}, {}, 1.0, false};
    out[2] = {"spot, um rms", "mm from the middle", {}, {}, 0.5, false, true};
    out[3] = {
        "sharp up, sideways (dashed): mm behind film", "mm from the middle", {}, {}, 0.2, false};
    out[4] = {"frames as, % of infinity", "focused at, m", {}, {}, 1.0, false};
    out[5] = {"travel of its groups, mm", "focused at, m", {}, {}, 1.0, false};
    for (std::size_t i = 0; i < looks_.size(); ++i) {
      over_picture(looks_[i], glass_inks[i], out);
      over_focus(looks_[i], glass_inks[i], out);
    }
    const double nearest = nearest_mark();
    for (const double m : {10.0, 3.0, 1.5, 1.0, 0.7, 0.5, 0.4, 0.3, 0.25, 0.2}) {
      if (m < nearest * 0.98) continue;
      for (std::size_t k : {std::size_t{4}, std::size_t{5}}) {
        out[k].ticks_x.emplace_back(1.0 / m, fmt::format("{:g}", m));
      }
    }
    for (std::size_t k : {std::size_t{4}, std::size_t{5}}) {
      out[k].ticks_x.emplace_back(0.0, "infinity");
    }
    return out;
  }

  double nearest_mark() const {
    double out = 1e9;
    for (const GlassLook& look : looks_) out = std::min(out, look.nearest.m());
    return out;
  }

  void over_picture(const GlassLook& look, const Colour& colour,
                    std::vector<CurvePanel>& out) const {
    TracedGlass glass(look.prescription, look.travel.travel);
    glass.set_opening(look.opening);
    const std::vector<FieldPoint> field =
        over_field(glass, look.request.distance, look.field.back().height, curve_points);
    const auto line = [&](std::size_t panel, bool dashed,
                          const std::function<double(const FieldPoint&)>& value) {
      CurveLine l{{}, colour, dashed};
      for (const FieldPoint& f : field) {
        const double v = value(f);
        if (std::isfinite(v)) l.points.push_back({f.height.mm(), v});
      }
      out[panel].lines.push_back(std::move(l));
    };
    constexpr double none = std::numeric_limits<double>::quiet_NaN();
    line(0, false, [](const FieldPoint& f) {
      const double stops = f.light > 0.0 ? std::log2(f.light) : none;
      return stops >= darkest_stops ? stops : none;
    });
    line(1, false, [](const FieldPoint& f) { return 100.0 * f.distortion; });
    line(2, false, [](const FieldPoint& f) { return std::log10(1e3 * f.spot.mm()); });
    line(3, false, [](const FieldPoint& f) { return f.tangential.mm(); });
    line(3, true, [](const FieldPoint& f) { return f.sagittal.mm(); });
  }

  static void over_focus(const GlassLook& look, const Colour& colour,
                         std::vector<CurvePanel>& out) {
    CurveLine breathes{{}, colour, false};
    CurveLine travels{{}, colour, false};
    const GlassMark far = mark_at(look.prescription, Length::infinity());
    for (int k = 0; k <= focus_points; ++k) {
      // Even steps of 1/m; a hair before the nearest, where the travel ends.
      const double per_m = 0.999 * k / focus_points / look.nearest.m();
      const GlassMark m = k == 0 ? far : mark_at(look.prescription, Length::from_m(1.0 / per_m));
      breathes.points.push_back({per_m, 100.0 * (m.focal_scene / far.focal_scene)});
      travels.points.push_back({per_m, m.travel.mm() - far.travel.mm()});
    }
    out[4].lines.push_back(std::move(breathes));
    out[5].lines.push_back(std::move(travels));
  }

  void paint(const CurvePanel& panel, double left, double top) {
    Spot low{1e300, 1e300};
    Spot high{-1e300, -1e300};
    for (const CurveLine& l : panel.lines) {
      for (const Spot& p : l.points) {
        for (std::size_t k = 0; k < 2; ++k) {
          low[k] = std::min(low[k], p[k]);
          high[k] = std::max(high[k], p[k]);
        }
      }
    }
    if (!(high[0] > low[0])) return;
    low[0] = 0.0;
    if (panel.from_zero) low[1] = 0.0;
    const double more = std::max(0.0, panel.least_y - (high[1] - low[1]));
    if (!panel.from_zero) low[1] -= 0.5 * more;
    high[1] += panel.from_zero ? more : 0.5 * more;
    const double spare = 0.06 * (high[1] - low[1]);
    if (!panel.from_zero) low[1] -= spare;
    high[1] += spare;
    const auto at = [&](const Spot& p) {
      return Spot{left + panel_width * (p[0] - low[0]) / (high[0] - low[0]),
                  top + panel_height * (high[1] - p[1]) / (high[1] - low[1])};
    };
    canvas_.fill({{left, top},
                  {left + panel_width, top},
                  {left + panel_width, top + panel_height},
                  {left, top + panel_height}},
                 white);
    for (const auto& [v, words] : ticks_y(low[1], high[1], panel.decades)) {
      const Spot y = at({low[0], v});
      const bool zero = v == 0.0 && !panel.decades;
      canvas_.stroke({{left, y[1]}, {left + panel_width, y[1]}}, grid, zero ? 2.0 : 1.0);
      canvas_.text({left - 8, y[1] + 5}, words, 13, soft, false, 1.0);
    }
    std::vector<std::pair<double, std::string>> ticks = panel.ticks_x;
    if (ticks.empty()) {
      const double along = tick_step(high[0] - low[0], 6);
      for (int k = 0; k * along <= high[0]; ++k) {
        ticks.emplace_back(k * along, fmt::format("{:g}", k * along));
      }
    }
    double free_from = -1e9;
    std::sort(ticks.begin(), ticks.end());
    for (const auto& [v, words] : ticks) {
      const Spot x = at({v, low[1]});
      const double half = 0.5 * text_width(words, 13);
      if (x[0] > left + panel_width + 1.0 || x[0] - half < free_from) continue;
      free_from = x[0] + half + 8.0;
      canvas_.stroke({{x[0], top}, {x[0], top + panel_height}}, grid, 1.0);
      canvas_.text({x[0], top + panel_height + 18}, words, 13, soft, false, 0.5);
    }
    canvas_.only_within(left, top, panel_width, panel_height);
    for (const CurveLine& l : panel.lines) {
      std::vector<Spot> drawn;
      for (const Spot& p : l.points) drawn.push_back(at(p));
      canvas_.stroke(drawn, l.colour, 2.2, false,
                     l.dashed ? std::vector<double>{dash, dash} : std::vector<double>{});
    }
    canvas_.whole();
    canvas_.text({left - 48, top - 14}, panel.title, 14, ink, true);
    canvas_.text({left + panel_width, top + panel_height + 38}, panel.under, 13, soft, false, 1.0);
  }

  const std::vector<GlassLook>& looks_;
  Canvas& canvas_;
};

std::string drawn_curves(const std::vector<GlassLook>& looks, Canvas::Kind kind) {
  if (looks.empty() || looks.size() > most_glass_curves) {
    throw UsageError(fmt::format("{} glasses on one drawing of curves; 1 to {} are told apart",
                                 looks.size(), most_glass_curves));
  }
  Canvas canvas(kind, static_cast<int>(sheet_width), static_cast<int>(sheet_height));
  CurvesPainter(looks, canvas).run();
  return canvas.bytes();
}

}  // namespace

std::string glass_curves_png(const std::vector<GlassLook>& looks) {
  return drawn_curves(looks, Canvas::Kind::png);
}
std::string glass_curves_svg(const std::vector<GlassLook>& looks) {
  return drawn_curves(looks, Canvas::Kind::svg);
}

}  // namespace jolly_iris
