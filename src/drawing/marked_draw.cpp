#include "jolly_iris/drawing/marked_picture.hpp"

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/transfer.hpp"
#include "labels.hpp"
#include "palette.hpp"

namespace jolly_iris {

using namespace drawing;

namespace {

constexpr double margin = 20.0;
constexpr double picture_top = 62.0;
constexpr double picture_bottom = 34.0;
constexpr double label_size = 11.5;
constexpr Colour light{0.98, 0.96, 0.90};
constexpr Colour doubt{0.98, 0.62, 0.28};

// No finer than the drawing shows it: means of whole blocks.
Raster raster_of(const Picture& p, double scale) {
  const int by = std::max(1, static_cast<int>(std::floor(0.5 / scale)));
  Raster r{std::max(1, p.width() / by), std::max(1, p.height() / by), {}};
  for (int y = 0; y < r.height; ++y) {
    for (int x = 0; x < r.width; ++x) {
      std::array<float, 3> sum{};
      for (int j = 0; j < by; ++j) {
        for (int i = 0; i < by; ++i) {
          const Rgba& v =
              p.at(std::min(x * by + i, p.width() - 1), std::min(y * by + j, p.height() - 1));
          for (std::size_t c = 0; c < 3; ++c) sum[c] += v[c];
        }
      }
      std::uint32_t out = 0;
      for (const float s : sum) {
        const float v =
            encode(std::clamp(s / static_cast<float>(by * by), 0.0F, 1.0F), Transfer::srgb);
        out = out << 8U | static_cast<std::uint32_t>(std::lround(255.0F * v));
      }
      r.pixels.push_back(out);
    }
  }
  return r;
}

// A dark line under a light one is seen on any ground.
void outline(Canvas& canvas, const std::vector<Spot>& line, PictureMark::Kind kind) {
  const Colour colour = kind == PictureMark::Kind::found     ? light
                        : kind == PictureMark::Kind::doubted ? doubt
                                                             : light.faint(0.55);
  std::vector<double> dashes;
  if (kind == PictureMark::Kind::doubted) dashes = {6.0, 4.0};
  if (kind == PictureMark::Kind::rejected) dashes = {1.5, 4.0};
  canvas.stroke(line, night.faint(0.75), 2.6, true, dashes);
  canvas.stroke(line, colour, 1.2, true, dashes);
}

void label(Canvas& canvas, const PlanBox& box, const std::string& words, const Spot& anchor) {
  const Spot end = nearest_of(box, anchor);
  if (std::hypot(end[0] - anchor[0], end[1] - anchor[1]) > 6.0) {
    canvas.stroke({anchor, end}, night.faint(0.6), 2.2);
    canvas.stroke({anchor, end}, light.faint(0.8), 0.9);
  }
  canvas.fill({{box.x - 2, box.y - 1},
               {box.x + box.width + 2, box.y - 1},
               {box.x + box.width + 2, box.y + box.height + 1},
               {box.x - 2, box.y + box.height + 1}},
              night.faint(0.72));
  canvas.text({box.x, box.y + box.height - 3.0}, words, label_size, light);
}

void check(const MarkedPicture& marked) {
  if (marked.picture.empty()) throw UsageError("there is no picture to mark");
}

std::string draw(const MarkedPicture& marked, Canvas::Kind kind) {
  check(marked);
  Canvas canvas(kind, static_cast<int>(sheet_width), static_cast<int>(sheet_height));
  canvas.fill({{0, 0}, {sheet_width, 0}, {sheet_width, sheet_height}, {0, sheet_height}}, paper);
  canvas.text({margin, 28}, marked.title, 17, ink, true);
  canvas.text({margin, 49}, marked.subtitle, 13, soft);
  canvas.text({margin, sheet_height - 12}, marked.foot, 12, soft);
  const Picture& p = marked.picture;
  const double scale = std::min((sheet_width - 2.0 * margin) / p.width(),
                                (sheet_height - picture_top - picture_bottom) / p.height());
  const PlanBox panel{0.5 * (sheet_width - scale * p.width()), picture_top, scale * p.width(),
                      scale * p.height()};
  canvas.only_within(panel.x, panel.y, panel.width, panel.height);
  canvas.picture(raster_of(p, scale), {panel.x, panel.y}, panel.width);
  std::vector<Wish> wishes;
  std::vector<const PictureMark*> named;
  std::vector<Spot> marks;
  for (const PictureMark& m : marked.marks) {
    std::vector<Spot> line;
    Spot right{-1e9, 0.0};
    for (const auto& at : m.outline) {
      line.push_back({panel.x + scale * at[0], panel.y + scale * at[1]});
      if (line.back()[0] > right[0]) right = line.back();
      marks.push_back(line.back());
    }
    if (line.empty()) continue;
    outline(canvas, line, m.kind);
    if (m.label.empty()) continue;
    wishes.push_back({right, text_width(m.label, label_size), label_size + 3.0});
    named.push_back(&m);
  }
  if (marks.size() > 4000) marks.clear();  // a crowd: words may lie over outlines
  const std::vector<PlanBox> boxes = placed(wishes, panel, marks, {});
  for (std::size_t i = 0; i < boxes.size(); ++i) {
    if (boxes[i].width > 0.0) label(canvas, boxes[i], named[i]->label, wishes[i].anchor);
  }
  canvas.whole();
  return canvas.bytes();
}

}  // namespace

std::string marked_png(const MarkedPicture& marked) { return draw(marked, Canvas::Kind::png); }
std::string marked_svg(const MarkedPicture& marked) { return draw(marked, Canvas::Kind::svg); }

}  // namespace jolly_iris
