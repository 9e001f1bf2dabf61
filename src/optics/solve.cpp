#include "jolly_iris/optics/solve.hpp"

#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

// A take with some stop, for what does not depend on it.
Take at_any_stop(Take take, const Lens& lens) {
  if (!(take.stop.value > 0.0)) take.stop = lens.widest.value_or(f_number(1.0));
  return take;
}

Stop stop_for_diameter(const Lens& lens, double diameter_mm) {
  return f_number(lens.converter * lens.focal.mm() / diameter_mm);
}

}  // namespace

Hold hold(const Body& body, const Lens& lens, const Take& take, const Criterion& criterion,
          Length a, Length b) {
  const double difference = std::abs(1.0 / a.mm() - 1.0 / b.mm());
  if (!(a.mm() > 0.0 && b.mm() > 0.0) || !(difference > 0.0)) {
    throw OpticsError(
        fmt::format("two different distances in front of the camera are needed to hold both, not "
                    "{:.4g} m and {:.4g} m",
                    a.m(), b.m()));
  }
  Hold result;
  result.focus = Length::from_mm(2.0 / (1.0 / a.mm() + 1.0 / b.mm()));
  const VirtualCamera camera = resolve(body, lens, at_any_stop(take, lens), result.focus);
  const double c = coc_limit(criterion, body, camera).mm();
  result.stop = stop_for_diameter(lens, 2.0 * c / (camera.focal.mm() * difference));
  result.f_number = lens.adapter * result.stop.value;
  return result;
}

Stop stop_for_blur(const Body& body, const Lens& lens, const Take& take, Length focus, Length z,
                   Length coc) {
  const double difference = std::abs(1.0 / focus.mm() - 1.0 / z.mm());
  if (!(z.mm() > 0.0) || !(difference > 0.0) || !(std::abs(coc.mm()) > 0.0)) {
    throw OpticsError(fmt::format(
        "no stop blurs something at {:.4g} m by {:.4g} mm while the focus is at {:.4g} m", z.m(),
        coc.mm(), focus.m()));
  }
  const VirtualCamera camera = resolve(body, lens, at_any_stop(take, lens), focus);
  return stop_for_diameter(lens, std::abs(coc.mm()) / (camera.focal.mm() * difference));
}

LensAndDistance lens_for_blur(const Body& body, const Lens& lens, const Take& take, Length focus,
                              Length behind, Length coc) {
  if (!(behind.mm() > 0.0) || !(coc.mm() > 0.0)) {
    throw OpticsError(
        fmt::format("a lens is found for something behind the subject and a blur above zero, not "
                    "for {:.4g} m and {:.4g} mm",
                    behind.m(), coc.mm()));
  }
  if (focus.is_infinite() || !lens.breathing.empty() || lens.converter != 1.0 ||
      lens.close_up.dioptres() != 0.0) {
    throw OpticsError(
        "another focal length is found for a subject at a finite distance and a lens without "
        "converter, close-up or measured breathing, which belong to the lens that is mounted");
  }
  const double m = resolve(body, lens, take, focus).magnification;
  const double n = marked_f_number(lens, take.stop);
  const double a = lens.adapter;
  // c n (f B + Δ) = f m Δ with B = 1 + A/m; with Δ = ∞, c n = f m
  const double b = 1.0 + a / m;
  const double max = m * behind.mm() / (n * b);  // what ever longer lenses tend to
  if (behind.is_finite() && !(coc.mm() < max)) {
    const VirtualCamera now = resolve(body, lens, take, focus);
    throw OpticsError(
        fmt::format("at f/{:.3g} no lens blurs something {:.4g} m behind the subject by {:.1f} px: "
                    "ever longer ones tend to {:.1f} px. Open the stop, or move the subject away "
                    "from it",
                    n, behind.m(), to_pixels(coc, now), to_pixels(Length::from_mm(max), now)));
  }
  const double f = behind.is_infinite()
                       ? coc.mm() * n / m
                       : coc.mm() * n * behind.mm() / (m * behind.mm() - coc.mm() * n * b);
  return {Length::from_mm(f), Length::from_mm(f * b)};
}

Equivalent equivalent_on(const VirtualCamera& camera, const Body& other, double adapter) {
  const Extent gate = recorded_gate(other);
  const double v =
      (camera.focal * (shown_by_picture(other, gate).width / camera.picture.width)).mm();
  // v = A f s / (s − f)
  const double f = v / (adapter + v / camera.focus.mm());
  if (!(f > 0.0) || !std::isfinite(f)) {
    throw OpticsError("the other body's gate gives no lens; its width must be above zero",
                      "body.gate");
  }
  const Stop stop = f_number(f / (2.0 * camera.aperture_radius.mm()));
  return {Length::from_mm(f), stop, adapter * stop.value};
}

std::string real_lens_doubt(double f_number) {
  if (f_number < 0.5) {
    return fmt::format(
        "f/{:.3g} is wider than f/0.5, the most any lens in air can have: take it as "
        "a number for CG",
        f_number);
  }
  if (f_number < 0.9) {
    return fmt::format("f/{:.3g} is wider than lenses for cameras are made", f_number);
  }
  if (f_number > 64.0) {
    return fmt::format("f/{:.3g} is smaller than lenses for cameras close", f_number);
  }
  return {};
}

}  // namespace jolly_iris
