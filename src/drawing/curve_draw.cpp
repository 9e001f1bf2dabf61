#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/drawing/curve_sheet.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "palette.hpp"
#include "shown.hpp"

namespace jolly_iris {

using namespace drawing;

namespace {

constexpr Colour curve_blue{0.10, 0.33, 0.55};
constexpr Colour note_brown{0.62, 0.38, 0.08};
constexpr double edge_left = 84.0;
constexpr double edge_right = 1256.0;
constexpr double strip_top = 66.0;
constexpr double strip_height = 66.0;

struct Pane {
  double x, y, width, height;
};

std::vector<Spot> corners(const Pane& p) {
  return {{p.x, p.y}, {p.x + p.width, p.y}, {p.x + p.width, p.y + p.height}, {p.x, p.y + p.height}};
}

// From values to px, with room above and below.
class Axes {
 public:
  Axes(const SheetCurve& c, const Pane& pane) : pane_(pane) {
    first_ = c.frames.front();
    last_ = std::max(c.frames.back(), first_ + 1.0);
    low_ = high_ = c.value.front();
    const auto reach = [&](double v) {
      low_ = std::min(low_, v);
      high_ = std::max(high_, v);
    };
    for (std::size_t i = 0; i < c.frames.size(); ++i) {
      reach(c.value[i] - c.margin[i]);
      reach(c.value[i] + c.margin[i]);
      if (!c.notes.empty()) reach(c.notes[i]);
    }
    const double middle = 0.5 * (low_ + high_);
    const double half = 0.5 * std::max({high_ - low_, c.least_range, 1e-9});
    low_ = middle - 1.12 * half;
    high_ = middle + 1.12 * half;
  }
  double x(double frame) const {
    return pane_.x + pane_.width * (frame - first_) / (last_ - first_);
  }
  double y(double value) const { return pane_.y + pane_.height * (high_ - value) / (high_ - low_); }
  bool shows(double value) const { return value >= low_ && value <= high_; }
  double first() const { return first_; }
  double last() const { return last_; }

 private:
  Pane pane_;
  double first_ = 0.0;
  double last_ = 1.0;
  double low_ = 0.0;
  double high_ = 1.0;
};

// About every hundred px, at round frames.
std::vector<double> frame_ticks(const Axes& axes, double width) {
  const double range = axes.last() - axes.first();
  double step = 1.0;
  for (const double s : {1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0, 1000.0, 2000.0,
                         5000.0, 10000.0, 50000.0}) {
    step = s;
    if (range / s * 90.0 <= width) break;
  }
  std::vector<double> out;
  for (double f = std::ceil(axes.first() / step) * step; f <= axes.last(); f += step) {
    out.push_back(f);
  }
  return out;
}

// Words over lines that fit, at most two; what is left over is not said.
std::vector<std::string> foot_lines(const std::string& words) {
  std::vector<std::string> out;
  std::string line;
  std::size_t from = 0;
  while (from < words.size()) {
    const std::size_t to = std::min(words.find(' ', from), words.size());
    const std::string longer = line + (line.empty() ? "" : " ") + words.substr(from, to - from);
    if (!line.empty() && text_width(longer, 12.0) > sheet_width - 40.0) {
      out.push_back(line);
      line = words.substr(from, to - from);
    } else {
      line = longer;
    }
    from = to + 1;
  }
  if (!line.empty()) out.push_back(line);
  if (out.size() > 2) {
    out.resize(2);
    out.back() += " …";
  }
  return out;
}

class CurveDrawing {
 public:
  CurveDrawing(Canvas& canvas, const CurveSheet& sheet) : canvas_(canvas), sheet_(sheet) {}

  void draw() {
    canvas_.fill(corners({0, 0, sheet_width, sheet_height}), paper);
    canvas_.text({20, 28}, sheet_.title, 17, ink, true);
    canvas_.text({20, 49}, sheet_.subtitle, 13, soft);
    const bool strip = !sheet_.strip.empty();
    double y = strip_top + 16.0;
    if (strip) {
      draw_strip();
      y = strip_top + strip_height + 40.0;
    }
    const std::size_t rows = (sheet_.others.size() + 1) / 2;
    const double small = rows > 1 ? 84.0 : 110.0;
    const double below = static_cast<double>(rows) * (small + 44.0);
    const double residual = 58.0;
    const std::vector<std::string> foot = foot_lines(sheet_.foot);
    const double lines = 16.0 * std::max(1.0, static_cast<double>(foot.size()));
    const double room = sheet_height - 24.0 - lines - below - y - residual - 34.0;
    const Pane main{edge_left, y, edge_right - edge_left, room};
    draw_curve(sheet_.main, main, false);
    draw_residuals({edge_left, y + room + 26.0, edge_right - edge_left, residual});
    y += room + residual + 70.0;
    constexpr double between = 76.0;
    const double half = 0.5 * (edge_right - edge_left - between);
    for (std::size_t i = 0; i < sheet_.others.size(); ++i) {
      const std::size_t row = i / 2;
      const double x = i % 2 == 0 ? edge_left : edge_left + half + between;
      draw_curve(sheet_.others[i], {x, y + static_cast<double>(row) * (small + 44.0), half, small},
                 true);
    }
    legend();
    for (std::size_t i = 0; i < foot.size(); ++i) {
      canvas_.text({20, sheet_height + 6.0 - lines + 16.0 * static_cast<double>(i)}, foot[i], 12,
                   ink);
    }
  }

 private:
  void draw_strip() {
    const auto n = static_cast<double>(sheet_.strip.size());
    constexpr double gap = 4.0;
    const double width = (edge_right - edge_left - gap * (n - 1.0)) / n;
    for (std::size_t i = 0; i < sheet_.strip.size(); ++i) {
      const StripPicture& s = sheet_.strip[i];
      const double x = edge_left + static_cast<double>(i) * (width + gap);
      canvas_.fill(corners({x, strip_top, width, strip_height}), night);
      if (!s.picture.empty()) {
        const double scale = std::min(width / s.picture.width(), strip_height / s.picture.height());
        const double w = scale * s.picture.width();
        canvas_.picture(
            raster_of(s.picture),
            {x + 0.5 * (width - w), strip_top + 0.5 * (strip_height - scale * s.picture.height())},
            w);
      }
      canvas_.text({x + 0.5 * width, strip_top + strip_height + 13.0}, fmt::format("{:g}", s.frame),
                   11.5, soft, false, 0.5);
    }
  }

  void frame_lines(const Axes& axes, const Pane& pane, bool words) {
    for (const double f : frame_ticks(axes, pane.width)) {
      canvas_.stroke({{axes.x(f), pane.y}, {axes.x(f), pane.y + pane.height}}, grid, 0.8);
      if (words) {
        canvas_.text({axes.x(f), pane.y + pane.height + 14.0}, fmt::format("{:g}", f), 11.5, soft,
                     false, 0.5);
      }
    }
  }

  void draw_curve(const SheetCurve& c, const Pane& pane, bool small) {
    const Axes axes(c, pane);
    canvas_.fill(corners(pane), white);
    for (const SheetCurve::Span& m : c.moves) {
      const double a = axes.x(std::clamp(m.begins, axes.first(), axes.last()));
      const double b = axes.x(std::clamp(m.ends, axes.first(), axes.last()));
      canvas_.fill(corners({a, pane.y, std::max(1.0, b - a), pane.height}), curve_blue.faint(0.06));
    }
    frame_lines(axes, pane, small);
    double taken = 1e9;
    for (const SheetCurve::Tick& t : c.ticks) {
      if (!axes.shows(t.at) || std::abs(axes.y(t.at) - taken) < 19.0) continue;
      taken = axes.y(t.at);
      canvas_.stroke({{pane.x, taken}, {pane.x + pane.width, taken}}, grid, 0.8);
      canvas_.text({pane.x - 7.0, taken + 4.0}, t.words, 11.5, soft, false, 1.0);
    }
    canvas_.only_within(pane.x, pane.y, pane.width, pane.height);
    std::vector<Spot> band;
    for (std::size_t i = 0; i < c.frames.size(); ++i) {
      band.push_back({axes.x(c.frames[i]), axes.y(c.value[i] + c.margin[i])});
    }
    for (std::size_t i = c.frames.size(); i-- > 0;) {
      band.push_back({axes.x(c.frames[i]), axes.y(c.value[i] - c.margin[i])});
    }
    canvas_.fill(band, curve_blue.faint(0.22));
    std::vector<Spot> line;
    std::vector<Spot> noted;
    for (std::size_t i = 0; i < c.frames.size(); ++i) {
      line.push_back({axes.x(c.frames[i]), axes.y(c.value[i])});
      if (!c.notes.empty()) noted.push_back({axes.x(c.frames[i]), axes.y(c.notes[i])});
    }
    if (!noted.empty()) canvas_.stroke(noted, note_brown, 1.8, false, {7.0, 5.0});
    canvas_.stroke(line, curve_blue, small ? 1.6 : 2.0);
    for (std::size_t i = 0; i < c.frames.size(); ++i) {
      if (!c.points[i]) continue;
      const Spot at{axes.x(c.frames[i]), axes.y(*c.points[i])};
      if (!small) {
        canvas_.stroke({{at[0], axes.y(*c.points[i] - c.point_margin[i])},
                        {at[0], axes.y(*c.points[i] + c.point_margin[i])}},
                       ink.faint(0.45), 0.8);
      }
      canvas_.disc(at, small ? 1.2 : 1.9, ink.faint(0.8));
    }
    canvas_.whole();
    canvas_.stroke(corners(pane), soft, 0.8, true);
    canvas_.text({pane.x, pane.y - 7.0}, c.title, 12.5, ink, true);
    double free_from = pane.x + text_width(c.title, 12.5, true) + 12.0;
    for (const SheetCurve::Span& m : c.moves) {
      const double w = text_width(m.words, 11.5);
      const double middle = 0.5 * (axes.x(m.begins) + axes.x(m.ends));
      const double x =
          std::clamp(middle - 0.5 * w, pane.x, std::max(pane.x, pane.x + pane.width - w));
      if (x < free_from) continue;
      canvas_.text({x, pane.y - 7.0}, m.words, 11.5, curve_blue);
      free_from = x + w + 12.0;
    }
  }

  // What single frames are off the curve, in their own margins: 1 is the edge of 95 %.
  void draw_residuals(const Pane& pane) {
    const SheetCurve& c = sheet_.main;
    const Axes axes(c, pane);
    canvas_.fill(corners(pane), white);
    frame_lines(axes, pane, true);
    constexpr double most = 2.2;
    const auto y = [&](double share) {
      return pane.y + pane.height * 0.5 * (1.0 - std::clamp(share, -most, most) / most);
    };
    for (const double at : {-1.0, 0.0, 1.0}) {
      canvas_.stroke({{pane.x, y(at)}, {pane.x + pane.width, y(at)}}, grid, at == 0.0 ? 1.4 : 0.8);
      canvas_.text({pane.x - 7.0, y(at) + 4.0}, fmt::format("{:+g}", at), 11.5, soft, false, 1.0);
    }
    for (std::size_t i = 0; i < c.frames.size(); ++i) {
      if (!c.points[i] || !(c.point_margin[i] > 0.0)) continue;
      const double share = (*c.points[i] - c.value[i]) / c.point_margin[i];
      canvas_.disc({axes.x(c.frames[i]), y(share)}, 1.9,
                   std::abs(share) > most ? mark_red : ink.faint(0.8));
    }
    canvas_.stroke(corners(pane), soft, 0.8, true);
    canvas_.text({pane.x, pane.y - 5.0}, "Single frames against the curve, in their margins", 11.5,
                 soft);
  }

  void legend() {
    double x = edge_right;
    const auto entry = [&](const std::string& words, const auto& mark) {
      x -= text_width(words, 12.0);
      canvas_.text({x, 49}, words, 12.0, soft);
      x -= 34.0;
      mark(x);
      x -= 18.0;
    };
    const bool noted = !sheet_.main.notes.empty();
    if (noted) {
      entry("noted", [&](double at) {
        canvas_.stroke({{at, 45}, {at + 27.0, 45}}, note_brown, 1.8, false, {7.0, 5.0});
      });
    }
    entry("curve and its margin (95 %)", [&](double at) {
      canvas_.fill(corners({at, 39, 27.0, 12.0}), curve_blue.faint(0.22));
      canvas_.stroke({{at, 45}, {at + 27.0, 45}}, curve_blue, 2.0);
    });
    entry("single frames", [&](double at) {
      for (const double dx : {4.0, 13.0, 22.0}) canvas_.disc({at + dx, 45}, 1.9, ink.faint(0.8));
    });
  }

  Canvas& canvas_;
  const CurveSheet& sheet_;
};

void check_curve_lists(const SheetCurve& c) {
  const std::size_t n = c.frames.size();
  const bool good = n > 0 && c.value.size() == n && c.margin.size() == n && c.points.size() == n &&
                    c.point_margin.size() == n && (c.notes.empty() || c.notes.size() == n);
  if (!good) {
    throw UsageError(fmt::format("'{}' is a curve with one entry a frame in each list", c.title));
  }
}

std::string draw_curves(const CurveSheet& sheet, Canvas::Kind kind) {
  check_curve_lists(sheet.main);
  for (const SheetCurve& c : sheet.others) check_curve_lists(c);
  if (sheet.others.size() > 4) throw UsageError("a sheet of curves has room for four small ones");
  Canvas canvas(kind, static_cast<int>(sheet_width), static_cast<int>(sheet_height));
  CurveDrawing(canvas, sheet).draw();
  return canvas.bytes();
}

}  // namespace

std::string curves_png(const CurveSheet& sheet) { return draw_curves(sheet, Canvas::Kind::png); }
std::string curves_svg(const CurveSheet& sheet) { return draw_curves(sheet, Canvas::Kind::svg); }

}  // namespace jolly_iris
