#include "blur_shade.hpp"

#include <numbers>

#include "blur_strength.hpp"
#include "palette.hpp"

namespace jolly_iris::drawing {

namespace {

constexpr Colour ochre{0.72, 0.46, 0.02};
constexpr Colour plum{0.43, 0.13, 0.38};
constexpr double palest = 0.35;  // share of the full colour at the limit of sharpness

Colour mixed(const Colour& a, const Colour& b, double t) {
  return {a.r + t * (b.r - a.r), a.g + t * (b.g - a.g), a.b + t * (b.b - a.b), 1.0};
}

BlurShade shade(BlurShade::Pattern pattern, const Colour& full, double strength) {
  const Colour colour = mixed(paper, full, palest + (1.0 - palest) * strength);
  return {pattern, colour, mixed(full, ink, 0.45)};
}

void fill_pattern(Canvas& canvas, const std::vector<Spot>& outline, const BlurShade& shade,
                  double apart) {
  switch (shade.pattern) {
    case BlurShade::Pattern::solid:
      canvas.fill(outline, shade.colour);
      return;
    case BlurShade::Pattern::hatched:
      canvas.hatch(outline, shade.colour, apart);
      return;
    case BlurShade::Pattern::dotted:
      canvas.stipple(outline, shade.colour, apart);
      return;
  }
}

std::vector<Spot> circle(const Spot& centre, double radius) {
  constexpr int corners = 12;  // their edges are under the ring
  std::vector<Spot> outline;
  for (int i = 0; i < corners; ++i) {
    const double a = 2.0 * std::numbers::pi * i / corners;
    outline.push_back({centre[0] + radius * std::cos(a), centre[1] + radius * std::sin(a)});
  }
  return outline;
}

}  // namespace

BlurShade shade_in_front(double strength) {
  return shade(BlurShade::Pattern::hatched, ochre, strength);
}

BlurShade shade_behind(double strength) {
  return shade(BlurShade::Pattern::dotted, plum, strength);
}

BlurShade shade_sharp() { return {BlurShade::Pattern::solid, ink, ink}; }

BlurShade shade_of(const SubjectBlur& subject, double limit_px) {
  if (subject.sharp) return shade_sharp();
  const double strength = blur_strength(subject.coc_px, limit_px);
  return subject.coc_px > 0.0 ? shade_behind(strength) : shade_in_front(strength);
}

void fill(Canvas& canvas, const std::vector<Spot>& outline, const BlurShade& shade) {
  constexpr double apart = 5.0;
  fill_pattern(canvas, outline, shade, apart);
  canvas.stroke(outline, shade.colour, 1.2, true);
}

void mark(Canvas& canvas, const Spot& at, const BlurShade& shade) {
  constexpr double radius = 5.0;
  constexpr double apart = 3.0;
  canvas.disc(at, radius + 1.0, white);
  fill_pattern(canvas, circle(at, radius), shade, apart);
  canvas.ring(at, radius, shade.colour, 1.4);
}

}  // namespace jolly_iris::drawing
