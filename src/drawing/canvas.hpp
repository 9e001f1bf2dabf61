// A drawing of cairo's, as PNG or SVG: one set of strokes for both. The only header of this room
// that knows cairo.
#pragma once

#include <cairo.h>

#include <array>
#include <cstdint>
#include <string>
#include <vector>

namespace jolly_iris::drawing {

struct Colour {
  double r = 0.0;
  double g = 0.0;
  double b = 0.0;
  double a = 1.0;
  Colour faint(double alpha) const { return {r, g, b, alpha}; }
};

using Spot = std::array<double, 2>;

/// A picture to put onto a canvas, row by row, 0xRRGGBB.
struct Raster {
  int width = 0;
  int height = 0;
  std::vector<std::uint32_t> pixels{};
};

class Canvas {
 public:
  enum class Kind { png, svg };
  Canvas(Kind kind, int width, int height);
  ~Canvas();
  Canvas(const Canvas&) = delete;
  Canvas& operator=(const Canvas&) = delete;

  void fill(const std::vector<Spot>& outline, const Colour& colour);
  /// Filled with diagonal lines, `apart` px from each other.
  void hatch(const std::vector<Spot>& outline, const Colour& colour, double apart);
  /// Filled with dots, `apart` px from each other.
  void stipple(const std::vector<Spot>& outline, const Colour& colour, double apart);
  void stroke(const std::vector<Spot>& line, const Colour& colour, double width,
              bool closed = false, const std::vector<double>& dashes = {});
  void disc(const Spot& centre, double radius, const Colour& colour);
  void ring(const Spot& centre, double radius, const Colour& colour, double width);
  /// Its left end at x, its baseline at y. @param align 0 left, 0.5 middle, 1 right
  void text(const Spot& at, const std::string& words, double size, const Colour& colour,
            bool bold = false, double align = 0.0);
  /// Its top left corner at `at`, `wide` px of the canvas across.
  void picture(const Raster& raster, const Spot& at, double width);
  /// Nothing outside is drawn until the next call of whole().
  void only_within(double x, double y, double width, double height);
  void whole();

  /// The file. The canvas is done then.
  std::string bytes();

 private:
  void path(const std::vector<Spot>& line, bool closed);
  void within(const std::vector<Spot>& outline);

  Kind kind_;
  std::string out_;
  cairo_surface_t* surface_ = nullptr;
  cairo_t* cairo_ = nullptr;
};

/// How wide words are, in px.
double text_width(const std::string& words, double size, bool bold = false);

}  // namespace jolly_iris::drawing
