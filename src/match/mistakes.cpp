#include "mistakes.hpp"

#include <fmt/format.h>

#include <array>
#include <cmath>

#include "jolly_iris/distance.hpp"

namespace jolly_iris::matching {

namespace {

using Family = Mistake::Family;

// Factors of adapters that are sold.
constexpr std::array<double, 6> adapters{0.64, 0.71, 0.84, 1.25, 1.4, 2.0};
// Parts of a sensor's width that bodies record.
constexpr std::array<double, 6> windows{0.9, 0.8, 0.75, 0.667, 0.5, 0.6};
constexpr std::array<double, 5> squeezes{1.25, 1.33, 1.5, 1.8, 2.0};

constexpr std::array<double, 6> stretches{1.05, 1.1, 1.2, 1.0 / 1.05, 1.0 / 1.1, 1.0 / 1.2};

constexpr double common = -2.5;  // logarithm of the odds
constexpr double rare = -3.5;

double one_of(std::size_t count) { return -std::log(static_cast<double>(count)); }

void add_adapters(const Notes& notes, std::vector<Mistake>& out) {
  if (notes.lens.adapter != 1.0) {
    const double a = notes.lens.adapter;
    out.push_back({Family::adapter,
                   fmt::format("the noted focal length had the adapter {:g} in it already", a),
                   common,
                   [a](Notes n) {
                     n.lens.focal = n.lens.focal / a;
                     return n;
                   },
                   {}});
    out.push_back({Family::adapter,
                   fmt::format("the noted stop had the adapter {:g} in it already", a),
                   common,
                   [a](Notes n) {
                     n.take.stop.value /= a;
                     return n;
                   },
                   {}});
    out.push_back({Family::adapter,
                   fmt::format("the adapter {:g} was not mounted", a),
                   common,
                   [](Notes n) {
                     n.lens.adapter = 1.0;
                     return n;
                   },
                   {}});
    return;
  }
  for (const double a : adapters) {
    const double prior = common + one_of(adapters.size());
    out.push_back({Family::adapter,
                   fmt::format("adapter {:g} left out of the stop", a),
                   prior,
                   [a](Notes n) {
                     n.lens.focal = n.lens.focal / a;
                     n.lens.adapter = a;
                     return n;
                   },
                   {}});
    out.push_back({Family::adapter,
                   fmt::format("adapter {:g} left out of the focal length", a),
                   prior,
                   [a](Notes n) {
                     n.lens.adapter = a;
                     n.take.stop.value /= a;
                     return n;
                   },
                   {}});
    out.push_back({Family::adapter,
                   fmt::format("adapter {:g} left out of both focal length and stop", a),
                   prior,
                   [a](Notes n) {
                     n.lens.adapter = a;
                     return n;
                   },
                   {}});
  }
}

void add_window(const Notes& notes, std::vector<Mistake>& out) {
  if (notes.body.window) {
    out.push_back({Family::window,
                   "the record window was noted, but the whole gate was recorded",
                   common,
                   [](Notes n) {
                     n.body.window.reset();
                     return n;
                   },
                   {}});
    return;
  }
  for (const double k : windows) {
    out.push_back(
        {Family::window,
         fmt::format("record window forgotten: only {:.0f} % of the gate's width was recorded",
                     100.0 * k),
         common + one_of(windows.size()),
         [k](Notes n) {
           n.body.gate = {n.body.gate.width * k, n.body.gate.height * k};
           return n;
         },
         {}});
  }
}

void add_squeeze(const Notes& notes, std::vector<Mistake>& out) {
  if (notes.lens.squeeze > 1.0) {
    out.push_back(
        {Family::squeeze,
         fmt::format("the squeeze {:g} was noted, but the lens has none", notes.lens.squeeze),
         common,
         [](Notes n) {
           n.lens.squeeze = 1.0;
           return n;
         },
         {}});
    const double s = notes.lens.squeeze;
    out.push_back({Family::squeeze,
                   fmt::format("the squeeze {:g} was used twice: the noted gate is the desqueezed "
                               "one",
                               s),
                   common,
                   [s](Notes n) {
                     n.body.gate.width = n.body.gate.width / s;
                     return n;
                   },
                   {}});
    return;
  }
  for (const double s : squeezes) {
    out.push_back({Family::squeeze,
                   fmt::format("squeeze {:g} forgotten", s),
                   common + one_of(squeezes.size()),
                   [s](Notes n) {
                     // The noted gate is the desqueezed one then.
                     n.body.gate.width = n.body.gate.width / s;
                     n.lens.squeeze = s;
                     return n;
                   },
                   {}});
  }
}

void add_focus(const Notes& notes, std::vector<Mistake>& out) {
  const auto times = [](double k) {
    return [k](Notes n) {
      n.focus = n.focus * k;
      return n;
    };
  };
  out.push_back({Family::focus_place,
                 "focus was not where noted",
                 rare,
                 [](Notes n) { return n; },
                 {Unknown::focus}});
  if (notes.focus.is_infinite()) return;
  const double f4 = 4.0 * notes.lens.focal.mm();
  if (notes.focus.mm() > f4) {
    out.push_back({Family::focus_place,
                   "the barrel's mark was read as the distance from the camera",
                   common,
                   [](Notes n) {
                     n.focus = focus_from_mark(n.lens, n.focus);
                     return n;
                   },
                   {}});
  }
  if (std::cos(notes.off_axis) < 0.98) {
    out.push_back({Family::focus_place,
                   "the focus distance was measured along the ray, not along the axis",
                   common,
                   times(std::cos(notes.off_axis)),
                   {}});
  }
  if (notes.half_deep.mm() > 0.0) {
    out.push_back({Family::focus_place,
                   "focus was on the near side of the thing, not on its middle",
                   common,
                   [](Notes n) {
                     n.focus = n.focus - n.half_deep;
                     return n;
                   },
                   {}});
  }
  // A tape along the floor against the way to a thing on it, or from a crane.
  const Length height = notes.take.height.value_or(Length{});
  if (height.mm() > 0.0 && height.m() < 0.9 * notes.focus.m() &&
      height.m() > 0.1 * notes.focus.m()) {
    out.push_back({Family::focus_place,
                   "the focus distance was measured along the floor",
                   common,
                   [height](Notes n) {
                     n.focus = Length::from_m(std::hypot(n.focus.m(), height.m()));
                     return n;
                   },
                   {}});
  }
  out.push_back({Family::focus_unit,
                 "the focus distance is in feet, not in metres",
                 common,
                 times(0.3048),
                 {}});
  out.push_back({Family::focus_unit,
                 "the focus distance is in metres, not in feet",
                 rare,
                 times(1.0 / 0.3048),
                 {}});
  out.push_back({Family::focus_unit,
                 "the focus distance is in centimetres, not in inches",
                 rare,
                 times(1.0 / 2.54),
                 {}});
  out.push_back({Family::focus_unit,
                 "the focus distance is in inches, not in centimetres",
                 rare,
                 times(2.54),
                 {}});
}

void add_rest(const Notes& notes, std::vector<Mistake>& out) {
  for (const auto& [k, said] :
       {std::pair{10.0, "10 times too small"},
        {0.1, "10 times too large"},
        {100.0, "100 times too small"},
        {0.01, "100 times too large"},
        {2.54, "2.54 times too small: inches taken for centimetres"},
        {1.0 / 2.54, "2.54 times too large: centimetres taken for inches"}}) {
    const double factor = k;
    out.push_back({Family::scale,
                   fmt::format("the scene is {}", said),
                   common - 1.0,
                   [factor](Notes n) {
                     n.scene_scale *= factor;
                     return n;
                   },
                   {}});
  }
  if (notes.take.stop.kind == Stop::Kind::f && !notes.lens.transmission) {
    constexpr double passes = 0.8;
    out.push_back({Family::stop,
                   "the noted f-number is a T-number",
                   rare,
                   [](Notes n) {
                     n.take.stop.value *= std::sqrt(passes);
                     return n;
                   },
                   {}});
  }
  out.push_back({Family::stop,
                 "the stop was computed from the opening's radius instead of its diameter",
                 rare,
                 [](Notes n) {
                   n.take.stop.value *= 0.5;
                   return n;
                 },
                 {}});
  out.push_back({Family::stop,
                 "the opening's diameter was typed as its radius",
                 rare,
                 [](Notes n) {
                   n.take.stop.value *= 2.0;
                   return n;
                 },
                 {}});
  // Sideways, since that is what tricks with aspect ratios leave behind.
  for (const double k : stretches) {
    out.push_back({Family::stretch,
                   k > 1.0 ? fmt::format("a stretch of {:g} to the side was left on the plate", k)
                           : fmt::format("the plate was left {:g} times as wide", k),
                   rare + one_of(stretches.size()),
                   [k](Notes n) {
                     n.body.pixel_aspect /= k;
                     return n;
                   },
                   {}});
  }
  const Extent gate = recorded_gate(notes.body);
  const double crop = std::hypot(36.0, 24.0) / std::hypot(gate.width.mm(), gate.height.mm());
  if (std::abs(crop - 1.0) > 0.05) {
    out.push_back({Family::equivalent,
                   "a focal length equivalent on a 36 x 24 mm gate was typed in",
                   common,
                   [crop](Notes n) {
                     n.lens.focal = n.lens.focal / crop;
                     return n;
                   },
                   {}});
  }
}

}  // namespace

std::vector<Mistake> mistakes_for(const Notes& notes) {
  std::vector<Mistake> out;
  add_adapters(notes, out);
  add_window(notes, out);
  add_squeeze(notes, out);
  add_focus(notes, out);
  add_rest(notes, out);
  return out;
}

}  // namespace jolly_iris::matching
