#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>

#include "blur_shade.hpp"
#include "labels.hpp"
#include "palette.hpp"
#include "plan_blurs.hpp"
#include "plan_view.hpp"

namespace jolly_iris {

using namespace drawing;

namespace {

constexpr Colour view_tint{0.93, 0.90, 0.80};
constexpr Colour way_teal{0.02, 0.42, 0.45};

Spot plus(const Spot& a, double x, double y) { return {a[0] + x, a[1] + y}; }

double nice_step(double wanted) {
  const double power = std::pow(10.0, std::floor(std::log10(wanted)));
  for (const double k : {1.0, 2.0, 5.0}) {
    if (k * power >= wanted) return k * power;
  }
  return 10.0 * power;
}

std::string length_text(double m) {
  if (m == 0.0) return "0";
  if (std::abs(m) < 0.0995) return fmt::format("{:g} cm", std::round(m * 1e4) / 100.0);
  return fmt::format("{:g} m", std::round(m * 1e4) / 1e4);
}

class Drawing {
 public:
  Drawing(Canvas& canvas, const Plan& plan, const PlanLayout& layout)
      : canvas_(canvas), plan_(plan), layout_(layout), view_(plan), blurs_(plan) {}

  void draw() {
    const double w = layout_.width;
    const double h = layout_.height;
    canvas_.fill({{0, 0}, {w, 0}, {w, h}, {0, h}}, paper);
    const auto split = plan_.title.find('\n');
    canvas_.text({20, 28}, plan_.title.substr(0, split), 17, ink, true);
    if (split != std::string::npos) canvas_.text({20, 49}, plan_.title.substr(split + 1), 13, soft);
    for (const PlanPanel& panel : layout_.panels) draw(panel);
    legend();
  }

 private:
  Spot spot(const PlanPanel& panel, const Spot& m) const {
    return PlanView::in_panel(panel, m, plan_.from_side);
  }
  double end_of(const PlanPanel& panel) const {  // metres ahead at the right side
    return panel.ahead_m + panel.box.width / panel.px_per_m;
  }

  void draw(const PlanPanel& panel) {
    const PlanBox& b = panel.box;
    canvas_.only_within(b.x, b.y, b.width, b.height);
    canvas_.fill(
        {{b.x, b.y}, {b.x + b.width, b.y}, {b.x + b.width, b.y + b.height}, {b.x, b.y + b.height}},
        {1.0, 1.0, 1.0});
    distances(panel, false);
    view(panel);
    ground(panel);
    for (const SubjectPlace& place : plan_.places) extent(panel, place);
    path(panel);
    focus(panel);
    frame_of_enlarged(panel);
    camera(panel);
    for (const PlanLabel& l : panel.labels) leader(l);
    const std::vector<bool> hidden = hidden_marks(panel);
    for (std::size_t i = 0; i < hidden.size(); ++i) {
      if (!hidden[i]) mark(panel, plan_.places[i]);
    }
    for (const PlanLabel& l : panel.labels) words(l);
    canvas_.whole();
    canvas_.stroke(
        {{b.x, b.y}, {b.x + b.width, b.y}, {b.x + b.width, b.y + b.height}, {b.x, b.y + b.height}},
        soft, 0.8, true);
    distances(panel, true);
    scale_bar(panel);
  }

  // Lines across, and their numbers below the panel.
  void distances(const PlanPanel& panel, bool numbers) {
    const PlanBox& b = panel.box;
    const double step = nice_step(70.0 / panel.px_per_m);
    for (double m = std::ceil(panel.ahead_m / step) * step; m <= end_of(panel); m += step) {
      if (m < -1e-9) continue;
      const double x = spot(panel, {m, 0.0})[0];
      if (!numbers) {
        canvas_.stroke({{x, b.y}, {x, b.y + b.height}}, grid, 0.8);
      } else if (x < b.x + b.width - 20.0) {
        canvas_.text({x, b.y + b.height + 13.0}, length_text(std::abs(m) < 1e-9 ? 0.0 : m), 10.5,
                     soft, false, 0.5);
      }
    }
  }

  void scale_bar(const PlanPanel& panel) {
    const PlanBox& b = panel.box;
    const double step = nice_step(50.0 / panel.px_per_m);
    const double long_px = step * panel.px_per_m;
    const double x = b.x + b.width - long_px - 4.0;
    const double y = b.y - 7.0;
    canvas_.stroke({{x, y - 4}, {x, y}, {x + long_px, y}, {x + long_px, y - 4}}, ink, 1.4);
    canvas_.text({x - 6.0, y}, length_text(step), 11, ink, false, 1.0);
    std::string caption = panel.enlarged ? "Around the focus, enlarged" : "The whole set";
    if (panel.unlabelled > 0)
      caption += fmt::format(" ({} more than fit are not named)", panel.unlabelled);
    canvas_.text({b.x, b.y - 7.0}, caption, 12, ink, true);
  }

  void view(const PlanPanel& panel) {
    const double far = 3.0 * end_of(panel);
    canvas_.fill({spot(panel, {0, 0}), spot(panel, view_.at_edge(far, 0.0)),
                  spot(panel, view_.at_edge(far, 1.0))},
                 view_tint.faint(0.55));
    const double end = std::min(plan_.answer.sharp.far.m(), far);
    const double start = plan_.answer.sharp.near.m();
    if (std::isfinite(start) && start < far) {
      const std::vector<Spot> band{
          spot(panel, view_.at_edge(start, 0.0)), spot(panel, view_.at_edge(start, 1.0)),
          spot(panel, view_.at_edge(end, 1.0)), spot(panel, view_.at_edge(end, 0.0))};
      canvas_.fill(band, ink.faint(0.13));
      canvas_.stroke({band[0], band[1]}, ink, 1.0, false, {5, 3});
      canvas_.stroke({band[2], band[3]}, ink, 1.0, false, {5, 3});
    }
    for (const double edge : {0.0, 1.0}) {
      canvas_.stroke({spot(panel, {0, 0}), spot(panel, view_.at_edge(far, edge))}, soft, 1.1);
    }
    canvas_.stroke({spot(panel, {0, 0}), spot(panel, view_.at_edge(far, 0.5))}, soft, 0.7, false,
                   {9, 4, 2, 4});
  }

  void ground(const PlanPanel& panel) {
    const auto height = view_.ground();
    if (!height) return;
    const Spot a = spot(panel, {panel.ahead_m, *height});
    const Spot b = spot(panel, {end_of(panel), *height});
    canvas_.stroke({a, b}, ink, 1.2);
    if (panel.enlarged) return;
    canvas_.text({a[0] + 6.0, a[1] + 13.0}, "ground", 10.5, soft);
  }

  // The plane of focus with its distance, and the limits where there is room to say them.
  void focus(const PlanPanel& panel) {
    const double s = plan_.answer.camera.focus.m();
    if (!std::isfinite(s)) return;
    const Spot a = spot(panel, view_.at_edge(s, 0.0));
    const Spot b = spot(panel, view_.at_edge(s, 1.0));
    canvas_.stroke({a, b}, ink, 2.4);
    const double near = plan_.answer.sharp.near.m();
    const double far = plan_.answer.sharp.far.m();
    if (plan_.answer.nothing_sharp) {
      canvas_.text({a[0] + 4.0, panel.box.y + 13.0},
                   fmt::format("focus {:.4g} m; the lens's faults leave nothing sharp", s), 11, ink,
                   true);
      return;
    }
    const double apart = (std::min(far, end_of(panel)) - near) * panel.px_per_m;
    if (apart < 110.0 && !panel.enlarged && layout_.panels.size() > 1) return;  // said there
    say_range(panel, near, s, far, apart > 230.0);
  }

  // From where to where it is sharp, and where the focus is: beside their lines, or in a row above
  // them where those are close to each other.
  void say_range(const PlanPanel& panel, double near, double focus, double far, bool at_lines) {
    struct Word {
      std::string text;
      double begin, width;
      bool bold;
    };
    std::vector<Word> words;
    const auto add = [&](double m, const std::string& text, bool bold, double align) {
      const double x = spot(panel, view_.at_edge(m, 0.5))[0];
      if (x < panel.box.x || x > panel.box.x + panel.box.width) return;
      const double width = text_width(text, 11, bold);
      const double beside = align == 1.0 ? -4.0 : align == 0.0 ? 4.0 : 0.0;
      words.push_back({text, x + beside - align * width, width, bold});
    };
    add(near, fmt::format("{}from {:.4g} m", at_lines ? "" : "sharp ", near), false, 1.0);
    add(focus, fmt::format("focus {:.4g} m", focus), true, 0.5);
    if (std::isfinite(far)) add(far, fmt::format("to {:.4g} m", far), false, 0.0);
    constexpr double gap = 6.0;
    // Those at the sides make room for the focus; none of them leaves the panel.
    for (std::size_t i = 0; i + 1 < words.size(); ++i) {
      Word& a = words[i];
      Word& b = words[i + 1];
      const double covered = a.begin + a.width + gap - b.begin;
      if (covered <= 0.0) continue;
      (b.bold ? a.begin : b.begin) += b.bold ? -covered : covered;
    }
    double least = panel.box.x + gap;
    for (Word& w : words) {
      w.begin = std::max(w.begin, least);
      least = w.begin + w.width + gap;
    }
    double most = panel.box.x + panel.box.width - gap;
    for (auto w = words.rbegin(); w != words.rend(); ++w) {
      w->begin = std::min(w->begin, most - w->width);
      most = w->begin - gap;
    }
    for (const Word& w : words) {
      canvas_.text({w.begin, panel.box.y + 13.0}, w.text, 11, ink, w.bold);
    }
  }

  void frame_of_enlarged(const PlanPanel& panel) {
    if (panel.enlarged) return;
    for (const PlanPanel& other : layout_.panels) {
      if (!other.enlarged) continue;
      const double up = other.box.height / other.px_per_m * 0.5;
      const Spot a = spot(panel, {other.ahead_m, other.aside_m - up});
      const Spot b = spot(panel, {end_of(other), other.aside_m + up});
      canvas_.stroke({a, {b[0], a[1]}, b, {a[0], b[1]}}, soft, 0.9, true, {3, 3});
    }
  }

  void camera(const PlanPanel& panel) {
    const Spot eye = spot(panel, {0, 0});
    const Spot ahead = spot(panel, view_.at_edge(1.0, 0.5));
    const double angle = std::atan2(ahead[1] - eye[1], ahead[0] - eye[0]);
    const auto at = [&](double x, double y) -> Spot {
      return {eye[0] + x * std::cos(angle) - y * std::sin(angle),
              eye[1] + x * std::sin(angle) + y * std::cos(angle)};
    };
    canvas_.fill({at(-13, -6), at(-2, -6), at(-2, 6), at(-13, 6)}, ink);
    canvas_.fill({at(-3, 0), at(4, -5), at(4, 5)}, ink);
  }

  void extent(const PlanPanel& panel, const SubjectPlace& place) {
    const SubjectBlur* blur = of(place);
    if (blur == nullptr || place.extent.size() < 2) return;
    std::vector<Spot> corners;
    for (const Vec3& p : place.extent) corners.push_back(spot(panel, view_.on_paper(p)));
    const auto hull = hull_of(corners);
    Spot low{1e9, 1e9};
    Spot high{-1e9, -1e9};
    for (const Spot& p : hull) {
      low = {std::min(low[0], p[0]), std::min(low[1], p[1])};
      high = {std::max(high[0], p[0]), std::max(high[1], p[1])};
    }
    // Grounds, waters and rows of houses are under everything: only their outline.
    const bool vast =
        high[0] - low[0] > 0.35 * panel.box.width || high[1] - low[1] > 0.35 * panel.box.height;
    if (!blur->in_picture) {
      if (!vast) canvas_.fill(hull, soft.faint(0.10));
      canvas_.stroke(hull, soft.faint(0.5), vast ? 0.7 : 1.0, true,
                     vast ? std::vector<double>{2, 4} : std::vector<double>{});
    } else if (vast) {
      canvas_.stroke(hull, shade(*blur).colour, 0.7, true, {2, 4});
    } else {
      fill(canvas_, hull, shade(*blur));
    }
  }

  // Marks that lie outside, or all but exactly under a later one of their kind: a drawing of twenty
  // thousand nodes is read by nobody, and would be thirty megabytes with them.
  std::vector<bool> hidden_marks(const PlanPanel& panel) const {
    constexpr double reach = 8.0;  // px, a mark with all that belongs to it
    constexpr double fine = 4.0;   // places a px
    std::vector<bool> hidden(plan_.places.size(), true);
    std::set<std::array<long, 3>> seen;
    for (std::size_t i = hidden.size(); i-- > 0;) {
      const SubjectPlace& place = plan_.places[i];
      const SubjectBlur* blur = of(place);
      if (blur == nullptr || place.axial.is_infinite()) continue;
      const Spot at = spot(panel, view_.of(place));
      const PlanBox& b = panel.box;
      if (!(at[0] > b.x - reach && at[1] > b.y - reach && at[0] < b.x + b.width + reach &&
            at[1] < b.y + b.height + reach)) {
        continue;
      }
      const long kind = (place.middle ? 2 : 0) + (blur->in_picture ? 1 : 0);
      hidden[i] = !seen.insert({std::lround(fine * at[0]), std::lround(fine * at[1]), kind}).second;
    }
    return hidden;
  }

  void mark(const PlanPanel& panel, const SubjectPlace& place) {
    const SubjectBlur* blur = of(place);
    if (blur == nullptr || place.axial.is_infinite()) return;
    const Spot at = spot(panel, view_.of(place));
    if (!place.middle) {
      only_distance(at, blur->in_picture ? shade(*blur).colour : soft.faint(0.6));
    } else if (!blur->in_picture) {
      canvas_.ring(at, 2.0, soft.faint(0.6), 1.0);
    } else {
      drawing::mark(canvas_, at, shade(*blur));
    }
  }

  // A lozenge: nobody knows where beside the axis it stands.
  void only_distance(const Spot& at, const Colour& colour) {
    const std::vector<Spot> lozenge{plus(at, 0, -5), plus(at, 5, 0), plus(at, 0, 5),
                                    plus(at, -5, 0)};
    canvas_.fill(lozenge, paper);
    canvas_.stroke(lozenge, colour, 1.5, true);
  }

  void leader(const PlanLabel& l) {
    const Spot from{l.anchor_x, l.anchor_y};
    const Spot to = nearest_of(l.box, from);
    if (std::hypot(to[0] - from[0], to[1] - from[1]) < 12.0) return;
    canvas_.stroke({from, to}, soft, 0.8);
  }

  Colour text_colour(const std::string& name) const {
    const SubjectBlur* s = blurs_.of(name);
    if (s == nullptr) return ink;
    return s->in_picture ? shade(*s).words : soft;
  }

  void words(const PlanLabel& l) {
    const PlanBox& b = l.box;
    canvas_.fill(
        {{b.x, b.y}, {b.x + b.width, b.y}, {b.x + b.width, b.y + b.height}, {b.x, b.y + b.height}},
        Colour{1, 1, 1, 0.82});
    const Colour colour = text_colour(l.name);
    for (std::size_t i = 0; i < l.lines.size(); ++i) {
      canvas_.text({b.x + 3.0, b.y + 12.0 + 14.0 * static_cast<double>(i)}, l.lines[i], 11.5,
                   i == 0 && l.lines.size() > 1 ? ink : colour, i == 0 && l.lines.size() > 1);
    }
  }

  // The way of the focus over frames, with the frames of its keys.
  void path(const PlanPanel& panel) {
    if (plan_.path.empty()) return;
    std::vector<Spot> way;
    std::vector<Spot> dolly;
    for (const FocusStep& step : plan_.path) {
      way.push_back(spot(panel, view_.of_world(step.point)));
      dolly.push_back(spot(panel, view_.of_world(step.eye)));
    }
    canvas_.stroke(way, way_teal.faint(0.85), 1.8);
    canvas_.stroke(dolly, way_teal.faint(0.6), 1.2, false, {4, 3});
    double row = 0.0;
    std::vector<std::pair<Spot, std::string>> keys;
    for (std::size_t i = 0; i < plan_.path.size(); ++i) {
      if (!plan_.path[i].key) continue;
      canvas_.disc(way[i], 3.4, way_teal);
      // A focus that rests is named once: first to last frame.
      const bool rests = !keys.empty() && std::hypot(keys.back().first[0] - way[i][0],
                                                     keys.back().first[1] - way[i][1]) < 6.0;
      if (rests) {
        const std::string first = keys.back().second.substr(0, keys.back().second.find(" to "));
        keys.back().second = first + fmt::format(" to {:g}", plan_.path[i].frame);
      } else {
        keys.emplace_back(way[i], fmt::format("frame {:g}", plan_.path[i].frame));
      }
    }
    for (const auto& [at, words] : keys) {
      const double y = panel.box.y + panel.box.height - 10.0 - 14.0 * row;
      if (at[0] < panel.box.x || at[0] > panel.box.x + panel.box.width) continue;
      canvas_.stroke({at, {at[0], y + 3.0}}, way_teal.faint(0.5), 0.8, false, {2, 3});
      const bool right_end = at[0] > panel.box.x + panel.box.width - 120.0;
      canvas_.text({at[0] + (right_end ? -4.0 : 4.0), y}, words, 11, way_teal, false,
                   right_end ? 1.0 : 0.0);
      row = row < 2.5 ? row + 1.0 : 0.0;
    }
  }

  double limit_px() const { return plan_.answer.coc_limit / plan_.answer.camera.pixel_pitch(); }
  BlurShade shade(const SubjectBlur& subject) const { return shade_of(subject, limit_px()); }

  void legend() {
    double x = 20.0;
    const double y = layout_.height - 17.0;
    const auto item = [&](const std::string& words, const auto& draw) {
      draw();
      canvas_.text({x + 24.0, y}, words, 11.5, ink);
      x += 24.0 + text_width(words, 11.5) + 18.0;
    };
    const auto shaded = [&](const BlurShade& shade, const std::string& words) {
      item(words, [&] {
        fill(canvas_, {{x, y - 10}, {x + 18, y - 10}, {x + 18, y + 2}, {x, y + 2}}, shade);
      });
    };
    shaded(shade_sharp(), fmt::format("sharp (blur up to {:.3g} px)", limit_px()));
    shaded(shade_in_front(1.0), "in front of focus");
    shaded(shade_behind(1.0), "behind focus; paler: less blur");
    const bool distance_alone =
        std::any_of(plan_.places.begin(), plan_.places.end(), [](const SubjectPlace& p) {
          return !p.middle && p.axial.is_finite() && p.axial.mm() > 0.0;
        });
    if (distance_alone) {
      item("only its distance is known", [&] { only_distance({x + 9.0, y - 4.0}, soft); });
    }
    if (!plan_.path.empty()) {
      item("way of the focus; dashed: of the camera", [&] {
        canvas_.stroke({{x, y - 4.0}, {x + 18.0, y - 4.0}}, way_teal, 1.8);
      });
    }
    const Lean lean = lean_of(plan_.answer.place);
    if (!plan_.from_side && std::abs(lean.tilt.degrees()) > 2.0) {
      canvas_.text(
          {x, y},
          fmt::format("The paper lies in the view axis, which looks {:.1f} deg {}.",
                      std::abs(lean.tilt.degrees()), lean.tilt.radians() > 0 ? "up" : "down"),
          11.5, soft);
    }
  }

  const SubjectBlur* of(const SubjectPlace& place) const { return blurs_.of(place.name); }

  Canvas& canvas_;
  const Plan& plan_;
  const PlanLayout& layout_;
  PlanView view_;
  PlanBlurs blurs_;
};

std::string drawn(const Plan& plan, Canvas::Kind kind) {
  const PlanLayout layout = jolly_iris::layout_of(plan);
  Canvas canvas(kind, layout.width, layout.height);
  Drawing(canvas, plan, layout).draw();
  return canvas.bytes();
}

}  // namespace

std::string plan_png(const Plan& plan) { return drawn(plan, Canvas::Kind::png); }
std::string plan_svg(const Plan& plan) { return drawn(plan, Canvas::Kind::svg); }

}  // namespace jolly_iris
