#include "canvas.hpp"

#include <cairo-svg.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <stdexcept>

namespace jolly_iris::drawing {

namespace {

constexpr const char* font = "DejaVu Sans";

cairo_status_t append(void* out, const unsigned char* data, unsigned int length) {
  static_cast<std::string*>(out)->append(reinterpret_cast<const char*>(data), length);
  return CAIRO_STATUS_SUCCESS;
}

void choose(cairo_t* cairo, double size, bool bold) {
  cairo_select_font_face(cairo, font, CAIRO_FONT_SLANT_NORMAL,
                         bold ? CAIRO_FONT_WEIGHT_BOLD : CAIRO_FONT_WEIGHT_NORMAL);
  cairo_set_font_size(cairo, size);
}

struct Bounds {
  Spot low{1e9, 1e9};
  Spot high{-1e9, -1e9};
};

Bounds bounds_of(const std::vector<Spot>& outline) {
  Bounds b;
  for (const Spot& p : outline) {
    b.low = {std::min(b.low[0], p[0]), std::min(b.low[1], p[1])};
    b.high = {std::max(b.high[0], p[0]), std::max(b.high[1], p[1])};
  }
  return b;
}

void use(cairo_t* cairo, const Colour& c) { cairo_set_source_rgba(cairo, c.r, c.g, c.b, c.a); }

}  // namespace

Canvas::Canvas(Kind kind, int width, int height) : kind_(kind) {
  surface_ = kind == Kind::png ? cairo_image_surface_create(CAIRO_FORMAT_RGB24, width, height)
                               : cairo_svg_surface_create_for_stream(append, &out_, width, height);
  // "1280 x 800" are pixels, not the points that cairo would write.
  if (kind == Kind::svg) cairo_svg_surface_set_document_unit(surface_, CAIRO_SVG_UNIT_PX);
  cairo_ = cairo_create(surface_);
  if (cairo_status(cairo_) != CAIRO_STATUS_SUCCESS) {
    throw std::runtime_error(std::string("cannot draw: ") +
                             cairo_status_to_string(cairo_status(cairo_)));
  }
  cairo_set_line_join(cairo_, CAIRO_LINE_JOIN_ROUND);
}

Canvas::~Canvas() {
  cairo_destroy(cairo_);
  cairo_surface_destroy(surface_);
}

void Canvas::path(const std::vector<Spot>& line, bool closed) {
  cairo_new_path(cairo_);
  for (const Spot& p : line) cairo_line_to(cairo_, p[0], p[1]);
  if (closed) cairo_close_path(cairo_);
}

void Canvas::fill(const std::vector<Spot>& outline, const Colour& colour) {
  path(outline, true);
  use(cairo_, colour);
  cairo_fill(cairo_);
}

namespace {

// The multiples of `apart` from a to b, a little beyond them: patterns of neighbours run on.
std::vector<double> rungs(double a, double b, double apart) {
  std::vector<double> at;
  for (double k = std::floor(a / apart); k * apart < b + apart; k += 1.0) at.push_back(k * apart);
  return at;
}

}  // namespace

void Canvas::within(const std::vector<Spot>& outline) {
  cairo_save(cairo_);
  path(outline, true);
  cairo_clip(cairo_);
}

void Canvas::hatch(const std::vector<Spot>& outline, const Colour& colour, double apart) {
  const Bounds b = bounds_of(outline);
  within(outline);
  use(cairo_, colour);
  cairo_set_line_width(cairo_, 0.32 * apart);
  cairo_set_dash(cairo_, nullptr, 0, 0.0);
  const double high = b.high[1] - b.low[1];
  for (const double x : rungs(b.low[0] + b.low[1], b.high[0] + b.high[1], apart * std::sqrt(2.0))) {
    cairo_move_to(cairo_, x - b.low[1], b.low[1]);
    cairo_line_to(cairo_, x - b.low[1] - high, b.high[1]);
  }
  cairo_stroke(cairo_);
  cairo_restore(cairo_);
}

void Canvas::stipple(const std::vector<Spot>& outline, const Colour& colour, double apart) {
  const Bounds b = bounds_of(outline);
  within(outline);
  use(cairo_, colour);
  // Dashes without length and with round ends are dots.
  const std::array<double, 2> dashes{0.0, apart};
  cairo_set_dash(cairo_, dashes.data(), 2, 0.0);
  cairo_set_line_cap(cairo_, CAIRO_LINE_CAP_ROUND);
  cairo_set_line_width(cairo_, 0.5 * apart);
  const double left = std::floor(b.low[0] / apart) * apart;
  bool odd = false;
  for (const double y : rungs(b.low[1], b.high[1], apart * 0.866)) {
    cairo_move_to(cairo_, left - (odd ? 0.5 * apart : 0.0), y);
    cairo_line_to(cairo_, b.high[0] + apart, y);
    odd = !odd;
  }
  cairo_stroke(cairo_);
  cairo_restore(cairo_);
}

void Canvas::stroke(const std::vector<Spot>& line, const Colour& colour, double width, bool closed,
                    const std::vector<double>& dashes) {
  path(line, closed);
  use(cairo_, colour);
  cairo_set_line_width(cairo_, width);
  cairo_set_dash(cairo_, dashes.data(), static_cast<int>(dashes.size()), 0.0);
  cairo_stroke(cairo_);
}

void Canvas::disc(const Spot& centre, double radius, const Colour& colour) {
  // A line without length and with round ends: a fifth of what an arc takes in SVG.
  cairo_save(cairo_);
  cairo_new_path(cairo_);
  cairo_move_to(cairo_, centre[0], centre[1]);
  cairo_line_to(cairo_, centre[0], centre[1]);
  use(cairo_, colour);
  cairo_set_line_width(cairo_, 2.0 * radius);
  cairo_set_line_cap(cairo_, CAIRO_LINE_CAP_ROUND);
  cairo_set_dash(cairo_, nullptr, 0, 0.0);
  cairo_stroke(cairo_);
  cairo_restore(cairo_);
}

void Canvas::ring(const Spot& centre, double radius, const Colour& colour, double width) {
  cairo_new_path(cairo_);
  cairo_arc(cairo_, centre[0], centre[1], radius, 0.0, 6.283185307179586);
  use(cairo_, colour);
  cairo_set_line_width(cairo_, width);
  cairo_set_dash(cairo_, nullptr, 0, 0.0);
  cairo_stroke(cairo_);
}

void Canvas::text(const Spot& at, const std::string& words, double size, const Colour& colour,
                  bool bold, double align) {
  choose(cairo_, size, bold);
  use(cairo_, colour);
  const double left = align == 0.0 ? at[0] : at[0] - align * text_width(words, size, bold);
  cairo_move_to(cairo_, left, at[1]);
  cairo_show_text(cairo_, words.c_str());
}

void Canvas::picture(const Raster& raster, const Spot& at, double width) {
  cairo_surface_t* image =
      cairo_image_surface_create(CAIRO_FORMAT_RGB24, raster.width, raster.height);
  if (cairo_surface_status(image) == CAIRO_STATUS_SUCCESS) {
    const int stride = cairo_image_surface_get_stride(image);
    unsigned char* bytes = cairo_image_surface_get_data(image);
    for (int y = 0; y < raster.height; ++y) {
      const auto row = static_cast<std::size_t>(y) * static_cast<std::size_t>(raster.width);
      std::memcpy(bytes + static_cast<std::ptrdiff_t>(y) * stride, raster.pixels.data() + row,
                  static_cast<std::size_t>(raster.width) * sizeof(std::uint32_t));
    }
    cairo_surface_mark_dirty(image);
    cairo_save(cairo_);
    cairo_translate(cairo_, at[0], at[1]);
    cairo_scale(cairo_, width / raster.width, width / raster.width);
    cairo_set_source_surface(cairo_, image, 0.0, 0.0);
    cairo_paint(cairo_);
    cairo_restore(cairo_);
  }
  cairo_surface_destroy(image);
}

void Canvas::only_within(double x, double y, double width, double height) {
  cairo_save(cairo_);
  cairo_rectangle(cairo_, x, y, width, height);
  cairo_clip(cairo_);
}

void Canvas::whole() { cairo_restore(cairo_); }

std::string Canvas::bytes() {
  if (kind_ == Kind::png) {
    cairo_surface_flush(surface_);
    cairo_surface_write_to_png_stream(surface_, append, &out_);
  } else {
    cairo_surface_finish(surface_);
  }
  if (cairo_status(cairo_) != CAIRO_STATUS_SUCCESS) {
    throw std::runtime_error(std::string("cannot draw: ") +
                             cairo_status_to_string(cairo_status(cairo_)));
  }
  return out_;
}

double text_width(const std::string& words, double size, bool bold) {
  struct Scratch {
    cairo_surface_t* surface = cairo_image_surface_create(CAIRO_FORMAT_A8, 1, 1);
    cairo_t* cairo = cairo_create(surface);
    ~Scratch() {
      cairo_destroy(cairo);
      cairo_surface_destroy(surface);
    }
  };
  thread_local const Scratch scratch;
  choose(scratch.cairo, size, bold);
  cairo_text_extents_t extents;
  cairo_text_extents(scratch.cairo, words.c_str(), &extents);
  return extents.x_advance;
}

}  // namespace jolly_iris::drawing
