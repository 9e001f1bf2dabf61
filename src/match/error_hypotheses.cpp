#include "error_hypotheses.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "jolly_iris/optics/distance.hpp"
#include "match/constants.hpp"

namespace jolly_iris::matching {

namespace {

using Family = ErrorHypothesis::Family;

template <std::size_t count>
double one_of(const std::array<double, count>&) {
  return -std::log(static_cast<double>(count));
}
// Any factor that an adapter could be marked with: a number that is read off the plate's header
// assumes more than one of six that everybody knows.
double one_of_all_factors() {
  return -std::log((mistakes::strongest - mistakes::weakest) / mistakes::hundredth);
}

// The mistakes that these notes leave room for, one line each.
class List {
 public:
  List(const CameraEstimate& estimate, const std::vector<Observation>& seen)
      : notes_(estimate), seen_(seen) {
    // A glass has its own focal length and squeeze: nobody has mixed them with others.
    const bool numbers = notes_.lens.glass.empty();
    if (numbers) adapter();
    window();
    if (numbers) squeeze();
    focus_place();
    focus_unit();
    scale();
    stop();
    resample();
    if (numbers) equivalent();
    plainly_wrong();
  }

  std::vector<ErrorHypothesis> all{};

 private:
  /// @param mend changes the notes to what they should have said
  template <class Apply>
  void add(Family family, double log_prior, std::string message, Apply apply,
           std::vector<Parameter> free = {}) {
    const auto applied = [apply](CameraEstimate n) {
      apply(n);
      return n;
    };
    all.push_back({family, std::move(message), log_prior, applied, std::move(free)});
  }

  void adapter() {
    if (const double a = notes_.lens.adapter; a != 1.0) {
      const auto message = [a](const char* text) { return fmt::format(fmt::runtime(text), a); };
      add(Family::adapter, mistakes::common,
          message("the noted focal length had the adapter {:g} in it already"),
          [a](CameraEstimate& n) { n.lens.focal = n.lens.focal / a; });
      add(Family::adapter, mistakes::common,
          message("the noted stop had the adapter {:g} in it already"),
          [a](CameraEstimate& n) { n.take.stop.value /= a; });
      add(Family::adapter, mistakes::common, message("the adapter {:g} was not mounted"),
          [](CameraEstimate& n) { n.lens.adapter = 1.0; });
      return;
    }
    const auto left_out_of_stop = [this](double a, double prior) {
      add(Family::adapter, prior, fmt::format("adapter {:g} left out of the stop", a),
          [a](CameraEstimate& n) {
            n.lens.focal = n.lens.focal / a;
            n.lens.adapter = a;
          });
    };
    if (const auto a = told_factor()) left_out_of_stop(*a, mistakes::common + one_of_all_factors());
    for (const double a : mistakes::adapters) {
      const double prior = mistakes::common + one_of(mistakes::adapters);
      const auto left_out = [a](const char* of) {
        return fmt::format("adapter {:g} left out of {}", a, of);
      };
      left_out_of_stop(a, prior);
      add(Family::adapter, prior, left_out("the focal length"), [a](CameraEstimate& n) {
        n.lens.adapter = a;
        n.take.stop.value /= a;
      });
      add(Family::adapter, prior, left_out("both focal length and stop"),
          [a](CameraEstimate& n) { n.lens.adapter = a; });
    }
  }

  // The factor that makes the focal length which the lens told of itself into the noted one.
  std::optional<double> told_factor() const {
    for (const Observation& o : seen_) {
      if (o.kind != Observation::Kind::engraved_focal) continue;
      const double a =
          std::round(notes_.lens.focal.mm() / o.value / mistakes::hundredth) * mistakes::hundredth;
      const auto is_that = [a](double known) {
        return std::abs(a - known) < 1.5 * mistakes::hundredth;
      };
      const bool known = is_that(1.0) ||
                         std::any_of(mistakes::adapters.begin(), mistakes::adapters.end(), is_that);
      if (a >= mistakes::weakest && a <= mistakes::strongest && !known) return a;
    }
    return std::nullopt;
  }

  void window() {
    if (notes_.body.window) {
      add(Family::window, mistakes::common,
          "the record window was noted, but the whole gate was recorded",
          [](CameraEstimate& n) { n.body.window.reset(); });
      return;
    }
    for (const double k : mistakes::windows) {
      add(Family::window, mistakes::common + one_of(mistakes::windows),
          fmt::format("record window forgotten: only {:.0f} % of the gate's width was recorded",
                      100.0 * k),
          [k](CameraEstimate& n) {
            n.body.gate = {n.body.gate.width * k, n.body.gate.height * k};
          });
    }
  }

  void squeeze() {
    const auto narrower = [](CameraEstimate& n, double s) {
      n.body.gate.width = n.body.gate.width / s;
    };
    if (const double s = notes_.lens.squeeze; s > 1.0) {
      add(Family::squeeze, mistakes::common,
          fmt::format("the squeeze {:g} was noted, but the lens has none", s),
          [](CameraEstimate& n) { n.lens.squeeze = 1.0; });
      add(Family::squeeze, mistakes::common,
          fmt::format("the squeeze {:g} was used twice: the noted gate is the desqueezed one", s),
          [=](CameraEstimate& n) { narrower(n, s); });
      return;
    }
    // One edit of the file each: the key left out, or left out because the gate was written down
    // as the desqueezed picture shows it.
    for (const double s : mistakes::squeezes) {
      const double prior = mistakes::common + one_of(mistakes::squeezes) - std::log(2.0);
      add(Family::squeeze, prior, fmt::format("squeeze {:g} forgotten", s),
          [=](CameraEstimate& n) { n.lens.squeeze = s; });
      all.back().way_of = ways_;
      add(Family::squeeze, prior,
          fmt::format("squeeze {:g} forgotten, and the noted gate is the desqueezed one", s),
          [=](CameraEstimate& n) {
            narrower(n, s);
            n.lens.squeeze = s;
          });
      all.back().way_of = ways_++;
    }
  }

  void focus_place() {
    if (notes_.focus.is_infinite()) return;
    if (notes_.focus > notes_.lens.focal * 4.0) {
      add(Family::focus_place, mistakes::common,
          "the barrel's mark was read as the distance from the camera",
          [](CameraEstimate& n) { n.focus = focus_from_mark(n.lens, n.focus); });
    }
    if (std::cos(notes_.off_axis) < 0.98) {
      add(Family::focus_place, mistakes::common,
          "the focus distance was measured along the ray, not along the axis",
          [](CameraEstimate& n) { n.focus = n.focus * std::cos(n.off_axis); });
    }
    if (notes_.half_deep.mm() > 0.0) {
      add(Family::focus_place, mistakes::common,
          "focus was on the near side of the thing, not on its middle",
          [](CameraEstimate& n) { n.focus = n.focus - n.half_deep; });
    }
    // A tape along the floor against the way to a thing on it, or from a crane.
    const Length height = notes_.take.height.value_or(Length{});
    if (height > notes_.focus * 0.1 && height < notes_.focus * 0.9) {
      add(Family::focus_place, mistakes::common, "the focus distance was measured along the floor",
          [height](CameraEstimate& n) {
            n.focus = Length::from_m(std::hypot(n.focus.m(), height.m()));
          });
    }
  }

  void focus_unit() {
    if (notes_.focus.is_infinite()) return;
    const auto is_in = [&](const char* really, const char* noted, double times, double prior) {
      add(Family::focus_unit, prior,
          fmt::format("the focus distance is in {}, not in {}", really, noted),
          [times](CameraEstimate& n) { n.focus = n.focus * times; });
    };
    is_in("feet", "metres", 0.3048, mistakes::common);
    is_in("metres", "feet", 1.0 / 0.3048, mistakes::rare);
    is_in("centimetres", "inches", 1.0 / 2.54, mistakes::rare);
    is_in("inches", "centimetres", 2.54, mistakes::rare);
  }

  void scale() {
    const auto too = [&](const char* message, double times) {
      add(Family::scale, mistakes::common - 1.0, fmt::format("the scene is {}", message),
          [times](CameraEstimate& n) { n.scene_scale *= times; });
    };
    too("10 times too small", 10.0);
    too("10 times too large", 0.1);
    too("100 times too small", 100.0);
    too("100 times too large", 0.01);
    too("2.54 times too small: inches taken for centimetres", 2.54);
    too("2.54 times too large: centimetres taken for inches", 1.0 / 2.54);
  }

  void stop() {
    const auto times = [&](const char* message, double factor) {
      add(Family::stop, mistakes::rare, message,
          [factor](CameraEstimate& n) { n.take.stop.value *= factor; });
    };
    if (notes_.take.stop.kind == Stop::Kind::f && !notes_.lens.transmission) {
      times("the noted f-number is a T-number", std::sqrt(mistakes::usual_transmission));
    }
    times("the stop was computed from the opening's radius instead of its diameter", 0.5);
    times("the opening's diameter was typed as its radius", 2.0);
  }

  // Sideways, since that is what tricks with aspect ratios leave behind.
  void resample() {
    for (const double k : mistakes::stretches) {
      add(Family::resample, mistakes::rare + one_of(mistakes::stretches),
          k > 1.0 ? fmt::format("a stretch of {:g} to the side was left on the plate", k)
                  : fmt::format("the plate was left {:g} times as wide", k),
          [k](CameraEstimate& n) { n.body.pixel_aspect /= k; });
      all.back().way_of = ways_;
      if (k > 1.0) {
        add(Family::resample, mistakes::rare + one_of(mistakes::stretches),
            fmt::format(
                "a stretch of {:g} to the side was left on the plate, and its sides cut off", k),
            [k](CameraEstimate& n) {
              n.body.pixel_aspect /= k;
              n.body.gate = {n.body.gate.width / k, n.body.gate.height / k};
            });
        all.back().way_of = ways_;
      }
      ++ways_;
    }
  }

  void equivalent() {
    const Extent gate = recorded_gate(notes_.body);
    const double crop = std::hypot(36.0, 24.0) / std::hypot(gate.width.mm(), gate.height.mm());
    if (std::abs(crop - 1.0) <= 0.05) return;
    add(Family::equivalent, mistakes::common,
        "a focal length equivalent on a 36 x 24 mm gate was typed in",
        [crop](CameraEstimate& n) { n.lens.focal = n.lens.focal / crop; });
  }

  // A number from another column, another lens, another slate: nothing but what the plate says.
  void plainly_wrong() {
    const auto wrong = [&](Family family, Parameter which, const char* what) {
      add(family, mistakes::common, what, [](CameraEstimate&) {}, {which});
      all.back().instead = which;
    };
    wrong(Family::stop, Parameter::stop, "the stop is another");
    if (notes_.lens.glass.empty()) {
      wrong(Family::focal, Parameter::focal, "the focal length is another");
    }
    wrong(Family::focus_place, Parameter::focus, "focus was not where noted");
  }

  int ways_ = 0;  // mistakes so far that can be made in several
  const CameraEstimate& notes_;
  const std::vector<Observation>& seen_;
};

}  // namespace

std::vector<ErrorHypothesis> error_hypotheses(const CameraEstimate& estimate,
                                              const std::vector<Observation>& seen) {
  return List(estimate, seen).all;
}

}  // namespace jolly_iris::matching
