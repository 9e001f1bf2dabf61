#include "jolly_iris/drawing/exposure_sheet.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "exposure_cells.hpp"
#include "palette.hpp"

namespace jolly_iris {

using namespace drawing;

namespace {

constexpr Colour text_outline{1.0, 1.0, 1.0, 0.85};

struct Room {
  double x = 0.0;
  double y = 0.0;
  double width = 0.0;
  double height = 0.0;
};

// The picture's shape within a room, centred.
Room fitted(const Room& room, const Picture& p) {
  const double scale = std::min(room.width / p.width(), room.height / p.height());
  const double w = scale * p.width();
  const double h = scale * p.height();
  return {room.x + 0.5 * (room.width - w), room.y, w, h};
}

std::vector<Spot> outline(const Room& r) {
  return {{r.x, r.y}, {r.x + r.width, r.y}, {r.x + r.width, r.y + r.height}, {r.x, r.y + r.height}};
}

std::string band_text(int band) { return band == 0 ? "0" : fmt::format("{:+d}", band); }

class Sheet {
 public:
  Sheet(Canvas& canvas, const ExposureSheet& sheet) : canvas_(canvas), sheet_(sheet) {}

  void draw() {
    canvas_.fill(outline({0, 0, sheet_width, sheet_height}), paper);
    canvas_.text({20, 28}, sheet_.title, 17, ink, true);
    canvas_.text({20, 49}, sheet_.subtitle, 13, soft);
    const Room left = fitted({20, 64, 610, 344}, sheet_.picture);
    const Room right = fitted({650, 64, 610, 344}, sheet_.picture);
    const Cells fine = cells_of(sheet_, static_cast<int>(2.0 * left.width));
    const Cells coarse = cells_of(sheet_, static_cast<int>(0.5 * right.width));
    canvas_.picture(view_of(fine), {left.x, left.y}, left.width);
    for (const SheetSpot& spot : sheet_.spots) labels_.push_back(on_view(spot, left));
    for (const SheetSpot& spot : sheet_.spots) place(spot, left);
    const Raster map = map_of(coarse, std::max(1, static_cast<int>(right.width)));
    canvas_.picture(map, {right.x, right.y}, right.width);
    map_numbers(coarse, right);
    canvas_.stroke(outline(left), soft, 0.8, true);
    canvas_.stroke(outline(right), soft, 0.8, true);
    canvas_.text({20, 425}, "The picture, and where it was metered", 12, soft);
    canvas_.text({650, 425}, "Its stops from mid-grey (0.18)", 12, soft);
    legend({650, 436, 610, 22});
    histogram({52, 506, 738, 226});
    numbers({836, 506, 424, 270});
  }

 private:
  void haloed(const Spot& at, const std::string& words, double size, const Colour& colour,
              double align) {
    for (const auto& [dx, dy] : {Spot{-1, 0}, Spot{1, 0}, Spot{0, -1}, Spot{0, 1}}) {
      canvas_.text({at[0] + dx, at[1] + dy}, words, size, text_outline, true, align);
    }
    canvas_.text(at, words, size, colour, true, align);
  }

  Room on_view(const SheetSpot& spot, const Room& room) const {
    const double scale = room.width / sheet_.picture.width();
    return {room.x + spot.box[0] * scale, room.y + spot.box[1] * scale, spot.box[2] * scale,
            spot.box[3] * scale};
  }

  void place(const SheetSpot& spot, const Room& room) {
    const Room box = on_view(spot, room);
    const Spot middle{box.x + 0.5 * box.width, box.y + 0.5 * box.height};
    if (spot.round) {
      canvas_.ring(middle, std::max(3.0, 0.5 * box.width), white, 3.5);
      canvas_.ring(middle, std::max(3.0, 0.5 * box.width), mark_red, 1.6);
    } else {
      canvas_.stroke(outline(box), white, 3.5, true);
      canvas_.stroke(outline(box), mark_red, 1.6, true);
    }
    label(spot.words, box, room);
  }

  // Words beside a spot, within the picture and not on other words.
  void label(const std::string& words, const Room& box, const Room& room) {
    constexpr double size = 12.0;
    const double w = text_width(words, size, true) + 6.0;
    const double h = size + 4.0;
    const double middle = box.x + 0.5 * box.width - 0.5 * w;
    const double level = box.y + 0.5 * box.height - 0.5 * h;
    Room best{};
    double min = 1e9;
    for (const Room& r :
         {Room{middle, box.y - h - 2.0, w, h}, Room{middle, box.y + box.height + 2.0, w, h},
          Room{box.x + box.width + 3.0, level, w, h}, Room{box.x - w - 3.0, level, w, h},
          Room{middle, box.y - 2.0 * h, w, h}, Room{middle, box.y + box.height + h, w, h}}) {
      Room within = r;
      within.x = std::clamp(r.x, room.x + 1.0, std::max(room.x + 1.0, room.x + room.width - w));
      within.y = std::clamp(r.y, room.y + 1.0, std::max(room.y + 1.0, room.y + room.height - h));
      double covers = std::abs(within.x - r.x) + std::abs(within.y - r.y);
      for (const Room& other : labels_) {
        const double width_both =
            std::min(within.x + w, other.x + other.width) - std::max(within.x, other.x);
        const double height_both =
            std::min(within.y + h, other.y + other.height) - std::max(within.y, other.y);
        if (width_both > 0.0 && height_both > 0.0) covers += width_both * height_both;
      }
      if (covers >= min) continue;
      min = covers;
      best = within;
    }
    labels_.push_back(best);
    haloed({best.x + 0.5 * w, best.y + h - 4.0}, words, size, mark_red, 0.5);
  }

  // A terrace's number where it is broad, and not beside another of the same.
  void map_numbers(const Cells& cells, const Room& room) {
    const double scale = room.width / cells.width;
    const int reach = std::max(2, static_cast<int>(11.0 / scale));
    const double apart = 130.0;
    std::vector<std::pair<Spot, int>> taken;
    for (int y = reach; y < cells.height - reach; y += 2) {
      for (int x = reach; x < cells.width - reach; x += 2) {
        const Cell& c = cells.at(x, y);
        if (c.kind != CellKind::stop || !even(cells, x, y, reach)) continue;
        const Spot at{room.x + (x + 0.5) * scale, room.y + (y + 0.5) * scale};
        const bool crowded = std::any_of(taken.begin(), taken.end(), [&](const auto& t) {
          const double d = std::hypot(t.first[0] - at[0], t.first[1] - at[1]);
          return d < (t.second == c.band ? apart : 24.0);
        });
        if (crowded) continue;
        taken.emplace_back(at, c.band);
        canvas_.text({at[0], at[1] + 4.5}, band_text(c.band), 12.5, c.band <= -2 ? paper : ink,
                     true, 0.5);
      }
    }
  }

  static bool even(const Cells& cells, int x, int y, int reach) {
    int same = 0;
    int all = 0;
    for (int j = -reach; j <= reach; ++j) {
      for (int i = -reach; i <= reach; ++i) {
        const Cell& c = cells.at(x + i, y + j);
        same += c.kind == CellKind::stop && c.band == cells.at(x, y).band ? 1 : 0;
        ++all;
      }
    }
    return same >= 0.93 * all;
  }

  void swatch(const Room& box, CellKind kind, int band, const std::string& words) {
    Raster raster{static_cast<int>(box.width), static_cast<int>(box.height), {}};
    for (int y = 0; y < raster.height; ++y) {
      for (int x = 0; x < raster.width; ++x) raster.pixels.push_back(painted(kind, band, x, y));
    }
    canvas_.picture(raster, {box.x, box.y}, box.width);
    canvas_.stroke(outline(box), soft, 0.6, true);
    canvas_.text({box.x + 0.5 * box.width, box.y + box.height + 13.0}, words, 10.5, ink, false,
                 0.5);
  }

  void legend(const Room& room) {
    constexpr int bands = highest_band - lowest_band + 1;
    const double end = 58.0;
    const double one = (room.width - 2.0 * end - 16.0) / bands;
    swatch({room.x, room.y, end, room.height}, CellKind::black, 0, "black");
    for (int b = lowest_band; b <= highest_band; ++b) {
      swatch({room.x + end + 8.0 + one * (b - lowest_band), room.y, one, room.height},
             CellKind::stop, b, band_text(b));
    }
    swatch({room.x + room.width - end, room.y, end, room.height}, CellKind::clipped, 0, "clipped");
  }

  double histogram_x(const Room& r, double stops) const {
    const StopsHistogram& h = sheet_.histogram;
    const double range = h.step * static_cast<double>(h.shares.size());
    return r.x + r.width * std::clamp((stops - h.first) / range, 0.0, 1.0);
  }

  void histogram(const Room& r) {
    const StopsHistogram& h = sheet_.histogram;
    double max = 0.02;
    for (const double s : h.shares) max = std::max(max, s);
    // By the root, so that a few lamps are seen beside a large sky.
    const auto tall = [&](double fraction) { return r.height * std::sqrt(fraction / (1.1 * max)); };
    canvas_.fill(outline(r), white);
    for (const double fraction : {0.001, 0.01, 0.05, 0.1, 0.2, 0.4, 0.8}) {
      if (fraction > max) break;
      const double y = r.y + r.height - tall(fraction);
      canvas_.stroke({{r.x, y}, {r.x + r.width, y}}, grid, 0.8);
      canvas_.text({r.x - 5.0, y + 4.0}, fmt::format("{:g} %", 100.0 * fraction), 10, soft, false,
                   1.0);
    }
    const double one = r.width / static_cast<double>(std::max<std::size_t>(1, h.shares.size()));
    for (std::size_t i = 0; i < h.shares.size(); ++i) {
      const double middle = h.first + h.step * (static_cast<double>(i) + 0.5);
      const double x = r.x + one * static_cast<double>(i);
      const double top = r.y + r.height - tall(h.shares[i]);
      const Room bar{x, top, one, r.y + r.height - top};
      canvas_.fill(outline(bar), colour_of_band(static_cast<int>(std::lround(middle))));
      if (h.shares[i] > 0.0) canvas_.stroke(outline(bar), soft, 0.5, true);
    }
    const double last = h.first + h.step * static_cast<double>(h.shares.size());
    for (double s = std::ceil(h.first); s <= last + 1e-9; s += 1.0) {
      const double x = histogram_x(r, s);
      canvas_.stroke({{x, r.y + r.height}, {x, r.y + r.height + 4.0}}, soft, 0.8);
      canvas_.text({x, r.y + r.height + 16.0}, band_text(static_cast<int>(s)), 10.5, soft, false,
                   0.5);
    }
    upright(r, 0.0, "mid-grey", soft, 0);
    upright(r, std::log2(sheet_.clips_at / grey_value),
            fmt::format("clips at {:g}", sheet_.clips_at), mark_red, 1);
    if (std::isfinite(sheet_.level_stops)) {
      upright(r, sheet_.level_stops, fmt::format("metered {:+.2f}", sheet_.level_stops), ink, 2);
    }
    canvas_.stroke(outline(r), soft, 0.8, true);
    canvas_.text({r.x + 0.5 * r.width, r.y + r.height + 34.0},
                 "stops from mid-grey; height: share of the pixels, drawn by its root", 11, soft,
                 false, 0.5);
    const auto fraction = [](double s) {
      return s > 0.0 && s < 0.0005 ? std::string("under 0.05 %")
                                   : fmt::format("{:.1f} %", 100.0 * s);
    };
    canvas_.text({r.x, r.y - 10.0},
                 fmt::format("black {}   clipped {}   no number {}", fraction(sheet_.black),
                             fraction(sheet_.clipped), fraction(sheet_.non_finite)),
                 12, ink, true);
  }

  // A line through the histogram, with its words at the top, each kind on its own row.
  void upright(const Room& r, double stops, const std::string& words, const Colour& colour,
               int row) {
    const double x = histogram_x(r, stops);
    canvas_.stroke({{x, r.y}, {x, r.y + r.height}}, colour, 1.6, false,
                   row == 0   ? std::vector<double>{2, 3}
                   : row == 1 ? std::vector<double>{8, 3}
                              : std::vector<double>{});
    const double w = text_width(words, 11, true) + 10.0;
    // To the left where its words would leave the panel, or where the metered line goes through.
    const double metered = histogram_x(r, sheet_.level_stops);
    const bool crossed = row < 2 && metered > x && metered < x + w;
    const bool at_end = x + w > r.x + r.width || crossed;
    haloed({x + (at_end ? -5.0 : 5.0), r.y + 14.0 + 15.0 * row}, words, 11, colour,
           at_end ? 1.0 : 0.0);
  }

  void numbers(const Room& r) {
    double y = r.y - 10.0;
    constexpr double line = 19.0;
    for (const auto& [name, value] : sheet_.numbers) {
      if (y > r.y + r.height) break;
      if (value.empty()) {
        if (y > r.y) y += 6.0;
        canvas_.text({r.x, y}, name, 12.5, ink, true);
      } else {
        canvas_.text({r.x, y}, name, 12, soft);
        canvas_.text({r.x + 142.0, y}, value, 12, ink);
      }
      y += line;
    }
  }

  Canvas& canvas_;
  const ExposureSheet& sheet_;
  std::vector<Room> labels_{};
};

std::string drawn(const ExposureSheet& sheet, Canvas::Kind kind) {
  Canvas canvas(kind, static_cast<int>(sheet_width), static_cast<int>(sheet_height));
  Sheet(canvas, sheet).draw();
  return canvas.bytes();
}

}  // namespace

std::string exposure_png(const ExposureSheet& sheet) { return drawn(sheet, Canvas::Kind::png); }
std::string exposure_svg(const ExposureSheet& sheet) { return drawn(sheet, Canvas::Kind::svg); }

}  // namespace jolly_iris
