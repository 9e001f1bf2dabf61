#include "jolly_iris/workflow/blur_ways.hpp"

#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/optics/body.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/solve.hpp"
#include "jolly_iris/workflow/solutions.hpp"
#include "optics/value_text.hpp"

namespace jolly_iris {

namespace {

std::string stops_of_light(double stops) {
  return fmt::format("{:.2f} {} {} light", std::abs(stops),
                     std::abs(stops) < 1.005 ? "stop" : "stops", stops > 0.0 ? "more" : "less");
}

// Nearest of the trade's gates that is at least so wide, by its name.
std::string format_as_wide(Length width) {
  std::string name;
  Length best = Length::infinity();
  for (const TradeFormat& f : trade_formats()) {
    if (f.gate.width >= width && f.gate.width < best) {
      best = f.gate.width;
      name = f.name;
    }
  }
  return name;
}

class Ways {
 public:
  Ways(const LoadedShot& loaded, const BlurSize& blur, const std::string& at)
      : loaded_(loaded), blur_(blur) {
    const VirtualCamera& c = loaded.answer.camera;
    out_.at = at.empty() ? "infinity" : at;
    out_.z = distance_named(loaded, out_.at);
    wanted_ = on_gate(blur, c);
    out_.wanted_px = wanted_ / c.pixel_pitch();
    now_ = circle_of_confusion(c, out_.z);
    out_.now_px = now_ / c.pixel_pitch();
    if (!(out_.z > c.focus)) {
      throw OpticsError(fmt::format(
          "{} at {} is not behind the focus at {}: these are ways to blur what is behind it",
          out_.at, short_metres_text(out_.z), short_metres_text(c.focus)));
    }
  }

  BlurWays all() {
    wider();
    longer();
    closer();
    farther();
    body();
    return out_;
  }

 private:
  template <class Work>
  void way(BlurWay::Kind kind, const Work& work) {
    BlurWay w;
    w.kind = kind;
    try {
      work(w);
      w.possible = true;
    } catch (const OpticsError& e) {
      w.possible = false;
      w.overrides.clear();
      w.what.clear();
      w.price = e.what();
    }
    out_.ways.push_back(std::move(w));
  }

  void wider() {
    way(BlurWay::Kind::wider, [&](BlurWay& w) {
      const BlurSolution s = solve_blur(loaded_, blur_, out_.at, false);
      const Stop& was = loaded_.now.take.stop;
      const Lens& lens = loaded_.now.lens;
      w.what = fmt::format("{} instead of {}", stop_text(*s.stop), stop_text(was));
      const double light =
          2.0 * std::log2(marked_f_number(lens, was) / marked_f_number(lens, *s.stop));
      w.price = stops_of_light(light) + ", and less is sharp around the focus";
      if (!opens_to(lens, *s.stop)) {
        w.price += fmt::format("; this lens opens to {} only", stop_text(*lens.widest));
      }
      w.overrides = overrides_for(s, loaded_);
    });
  }

  void longer() {
    way(BlurWay::Kind::longer, [&](BlurWay& w) {
      const BlurSolution s = solve_blur(loaded_, blur_, out_.at, true);
      const Length moved = s.lens->distance - s.now.focus;
      w.what = fmt::format("{:.4g} mm instead of {:.4g} mm, from {}", s.lens->focal.mm(),
                           loaded_.now.lens.focal.mm(), short_metres_text(s.lens->distance));
      w.price = fmt::format("the camera moves {} {}: all behind the focus looks larger",
                            short_metres_text(Length::from_m(std::abs(moved.m()))),
                            moved.mm() > 0.0 ? "back" : "closer");
      if (loaded_.now.scene && !loaded_.now.scene->file.empty())
        w.overrides = overrides_for(s, loaded_);
    });
  }

  // The camera goes nearer by d and still focuses on the same thing.
  void closer() {
    way(BlurWay::Kind::closer, [&](BlurWay& w) {
      const VirtualCamera& now = loaded_.answer.camera;
      if (now.focus.is_infinite()) throw OpticsError("nothing is nearer than a focus at infinity");
      const double s0 = now.focus.m();
      const auto at = [&](double d) {
        const VirtualCamera c =
            resolve(loaded_.now.body, loaded_.now.lens, loaded_.now.take, Length::from_m(s0 - d));
        const Length z = out_.z.is_infinite() ? out_.z : Length::from_m(out_.z.m() - d);
        return std::pair(c, circle_of_confusion(c, z));
      };
      // Blur rises all the way as the camera goes nearer.
      double low = std::min(0.0, -s0);
      double high = s0 - 1.001 * nearest_focus().m();
      if (high <= low || at(high).second < wanted_) {
        throw OpticsError(
            fmt::format("even at the nearest focus, {}, it is blurred by {:.4g} px",
                        short_metres_text(nearest_focus()),
                        high <= 0.0 ? out_.now_px : at(high).second / now.pixel_pitch()));
      }
      for (int i = 0; i < 200; ++i) {
        const double middle = 0.5 * (low + high);
        (at(middle).second < wanted_ ? low : high) = middle;
      }
      const double d = 0.5 * (low + high);
      const VirtualCamera c = at(d).first;
      const double larger = (c.focal / now.focal) * s0 / (s0 - d);
      w.what = fmt::format("the camera {} {}", short_metres_text(Length::from_m(std::abs(d))),
                           d > 0.0 ? "closer" : "farther back");
      w.price = fmt::format("what is in focus looks {:.3g} times as large", larger);
      const auto& scene = loaded_.now.scene;
      if (scene && !scene->file.empty()) {
        w.overrides = {{"scene.back", fmt::format("{:.9g} m", scene->back.m() - d)},
                       {"focus.at", fmt::format("{:.9g} m", s0 - d)}};
      }
    });
  }

  Length nearest_focus() const {
    const Lens& lens = loaded_.now.lens;
    // Half life-size, where nothing says how near the barrel goes.
    return lens.close_focus ? focus_from_mark(lens, *lens.close_focus) : lens.focal * 3.0;
  }

  void farther() {
    way(BlurWay::Kind::farther, [&](BlurWay& w) {
      const VirtualCamera& c = loaded_.answer.camera;
      const Length most = circle_of_confusion(c, Length::infinity());
      if (most <= wanted_) {
        throw OpticsError(fmt::format("even infinitely far it is blurred by {:.4g} px only",
                                      most / c.pixel_pitch()));
      }
      // c = D v (1/s − 1/z)
      const double strength = 2.0 * c.aperture_radius.m() * c.focal.m();
      const double inverse =
          (c.focus.is_infinite() ? 0.0 : 1.0 / c.focus.m()) - wanted_.m() / strength;
      const Length z = Length::from_m(1.0 / inverse);
      w.what = fmt::format("{} at {} instead of {}", out_.at, short_metres_text(z),
                           short_metres_text(out_.z));
      w.price = out_.z.is_infinite() ? std::string("nearer than infinity is enough")
                                     : fmt::format("it looks {:.3g} times as large", out_.z / z);
      for (const SubjectEntry& e : loaded_.now.subjects) {
        if (e.name == out_.at && e.distance) {
          w.overrides = {{"subject." + e.name + ".at", fmt::format("{:.9g} m", z.m())}};
        }
      }
    });
  }

  // Blur in px goes with the gate where view and f-number stay.
  void body() {
    way(BlurWay::Kind::body, [&](BlurWay& w) {
      const Body& body = loaded_.now.body;
      const VirtualCamera& now = loaded_.answer.camera;
      const auto on_gate_of = [&](double k) {
        Body larger = body;
        larger.gate = {body.gate.width * k, body.gate.height * k};
        Equivalent lens =
            equivalent_on(without_blur_override(now), larger, loaded_.now.lens.adapter);
        Lens other = loaded_.now.lens;
        other.focal = lens.focal;
        other.zoom.reset();
        other.breathing.clear();
        return std::pair(lens, resolve(larger, other, loaded_.now.take, now.focus));
      };
      const auto px = [&](double k) {
        const VirtualCamera c = on_gate_of(k).second;
        return circle_of_confusion(c, out_.z) / c.pixel_pitch();
      };
      double low = 0.1;
      double high = 10.0;
      if (px(high) < out_.wanted_px || px(low) > out_.wanted_px) {
        throw OpticsError("no gate between a tenth and ten times this one does it");
      }
      for (int i = 0; i < 100; ++i) {
        const double middle = std::sqrt(low * high);
        (px(middle) < out_.wanted_px ? low : high) = middle;
      }
      const Extent gate = recorded_gate(body);
      const Length width = gate.width * high;
      w.what = fmt::format("a gate of {:.1f} x {:.1f} mm with {:.3g} mm, at {}", width.mm(),
                           gate.height.mm() * high, on_gate_of(high).first.focal.mm(),
                           stop_text(loaded_.now.take.stop));
      const std::string name = format_as_wide(width);
      w.price = name.empty()
                    ? "no format of the trade is so large"
                    : fmt::format("another camera: {} is the next format that is as wide", name);
    });
  }

  const LoadedShot& loaded_;
  const BlurSize& blur_;
  Length wanted_{};
  Length now_{};
  BlurWays out_{};
};

}  // namespace

BlurWays ways_to_blur(const LoadedShot& loaded, const BlurSize& blur, const std::string& at) {
  return Ways(loaded, blur, at).all();
}

}  // namespace jolly_iris
