#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "labels.hpp"
#include "plan_blurs.hpp"
#include "plan_view.hpp"

namespace jolly_iris {

using namespace drawing;

namespace {

constexpr double left = 20.0;
constexpr double panel_top = 74.0;
constexpr double panel_bottom = 62.0;
constexpr double gutter = 40.0;  // between two panels
constexpr double letters = 11.5;
constexpr double line_height = 14.0;

// A stretch of the set: metres ahead and aside.
struct Window {
  double from = 0.0;
  double to = 1.0;
  double low = 0.0;
  double high = 0.0;

  void hold(const Spot& p) {
    from = std::min(from, p[0]);
    to = std::max(to, p[0]);
    low = std::min(low, p[1]);
    high = std::max(high, p[1]);
  }
  double deep() const { return to - from; }
  double width() const { return high - low; }
};

// Camera, focus and all that the picture shows.
Window whole_set(const Plan& plan, const PlanBlurs& blurs, const PlanView& view) {
  Window window{0.0, 0.0, 0.0, 0.0};
  const double focus = plan.answer.camera.focus.m();
  if (std::isfinite(focus)) window.hold(view.at_edge(1.15 * focus, 0.5));
  const double far = plan.answer.sharp.far.m();
  if (std::isfinite(far) && far < 4.0 * focus) window.hold(view.at_edge(far, 0.5));
  for (const SubjectPlace& place : plan.places) {
    const SubjectBlur* blur = blurs.of(place.name);
    if (blur == nullptr || !blur->in_picture || place.axial.is_infinite()) continue;
    window.hold(view.of(place));
  }
  // A focus on its way to infinity leaves the set; its path leaves the drawing then.
  const double reach = std::max(1.3 * window.to, 3.0 * (std::isfinite(focus) ? focus : 0.0));
  for (const FocusStep& step : plan.path) {
    const Spot at = view.of_world(step.point);
    if (at[0] < reach) window.hold(at);
  }
  if (!(window.to > 0.0)) window.to = 10.0;  // nothing but a camera, focused at infinity
  window.to *= 1.06;
  for (const double edge : {0.0, 1.0}) window.hold(view.at_edge(window.to, edge));
  if (const auto ground = view.ground()) {
    if (*ground > -0.8 * window.to) window.hold({0.0, *ground});
  }
  window.from = std::min(window.from, -0.03 * window.to);
  const double room = 0.06 * window.width() + 0.01 * window.to;
  window.low -= room;
  window.high += room;
  return window;
}

// Where the focus is too close to be seen in the whole: its surroundings.
std::optional<Window> around_focus(const Plan& plan, const PlanView& view, const Window& whole) {
  const double s = plan.answer.camera.focus.m();
  if (!std::isfinite(s)) return std::nullopt;
  const double near = plan.answer.sharp.near.m();
  const double far = std::min(plan.answer.sharp.far.m(), whole.to);
  Window window;
  if (2.2 * s < 0.6 * whole.to) {
    window = {-0.06 * s, std::max(2.0 * s, std::min(1.2 * far, 3.0 * s)), 0.0, 0.0};
  } else if (far - near < 0.05 * whole.to) {
    const double half = std::max(2.5 * (far - near), 0.02 * whole.to);
    window = {s - half, s + half, 0.0, 0.0};
  } else {
    return std::nullopt;
  }
  const Spot a = view.at_edge(window.to, 0.0);
  const Spot b = view.at_edge(window.to, 1.0);
  const Spot c = view.at_edge(std::max(window.from, 0.0), 0.5);
  window.low = std::min({a[1], b[1], c[1]}) - 0.03 * window.deep();
  window.high = std::max({a[1], b[1], c[1]}) + 0.03 * window.deep();
  return window;
}

PlanPanel panel_for(const Window& window, const PlanBox& box, bool enlarged) {
  PlanPanel panel;
  panel.box = box;
  panel.enlarged = enlarged;
  panel.px_per_m = std::min(box.width / window.deep(), box.height / window.width());
  // What is over goes to both sides, but the camera stays at the left of the whole.
  const double keyframes = box.width / panel.px_per_m - window.deep();
  panel.ahead_m = window.from - (enlarged && window.from > 0.0 ? 0.5 * keyframes : 0.0);
  panel.aside_m = 0.5 * (window.low + window.high);
  return panel;
}

bool shows(const PlanPanel& panel, const Spot& m, bool from_side) {
  const Spot p = PlanView::in_panel(panel, m, from_side);
  const PlanBox& b = panel.box;
  return p[0] >= b.x && p[1] >= b.y && p[0] <= b.x + b.width && p[1] <= b.y + b.height;
}

std::string distance_text(Length l) {
  if (l.is_infinite()) return "infinity";
  return l.m() < 10.0 ? fmt::format("{:.2f} m", l.m()) : fmt::format("{:.1f} m", l.m());
}

std::string blur_text(const SubjectBlur& s) {
  if (s.partly_sharp && s.sharp) return "sharp in part";
  if (s.sharp) return "sharp";
  const double px = std::abs(s.coc_px);
  return fmt::format("{} px {}", px < 9.95 ? fmt::format("{:.1f}", px) : fmt::format("{:.0f}", px),
                     s.coc_px > 0.0 ? "behind" : "in front");
}

void label(const Plan& plan, const PlanBlurs& blurs, const PlanView& view, PlanPanel& panel,
           const std::vector<const PlanPanel*>& elsewhere) {
  std::vector<Wish> wishes;
  std::vector<PlanLabel> labels;
  std::vector<Spot> marks;
  std::vector<const SubjectPlace*> here;
  std::vector<const SubjectPlace*> beside;  // the picture: named last, and only if few
  for (const SubjectPlace& place : plan.places) {
    const SubjectBlur* blur = blurs.of(place.name);
    if (blur == nullptr || place.axial.is_infinite()) continue;
    const Spot m = view.of(place);
    if (!shows(panel, m, plan.from_side)) continue;
    marks.push_back(PlanView::in_panel(panel, m, plan.from_side));
    const bool told = std::any_of(elsewhere.begin(), elsewhere.end(),
                                  [&](const PlanPanel* p) { return shows(*p, m, plan.from_side); });
    if (!told) (blur->in_picture ? here : beside).push_back(&place);
  }
  std::stable_sort(here.begin(), here.end(),
                   [](const auto* a, const auto* b) { return a->axial < b->axial; });
  const bool roomy = here.size() <= 12;
  const std::size_t in_picture = here.size();
  if (in_picture + beside.size() <= 24) here.insert(here.end(), beside.begin(), beside.end());
  for (const SubjectPlace* place : here) {
    const SubjectBlur& blur = *blurs.of(place->name);
    PlanLabel l;
    l.name = place->name;
    const std::string message =
        distance_text(blur.axial) + ", " +
        (blur.in_picture ? blur_text(blur) : std::string("outside the picture"));
    l.lines = roomy ? std::vector{place->name, message} : std::vector{place->name + "  " + message};
    const Spot at = PlanView::in_panel(panel, view.of(*place), plan.from_side);
    l.anchor_x = at[0];
    l.anchor_y = at[1];
    double width = 0.0;
    for (std::size_t i = 0; i < l.lines.size(); ++i) {
      width = std::max(width, text_width(l.lines[i], letters, roomy && i == 0));
    }
    wishes.push_back({at, width + 6.0, line_height * static_cast<double>(l.lines.size()) + 2.0});
    labels.push_back(std::move(l));
  }
  // The scale below the panel's corner and its caption have their own room outside of it; the
  // camera keeps its.
  const Spot eye = PlanView::in_panel(panel, {0.0, 0.0}, plan.from_side);
  std::vector<PlanBox> taken{{eye[0] - 14.0, eye[1] - 9.0, 26.0, 18.0}};
  // The words about the focus stand above it.
  taken.push_back({panel.box.x, panel.box.y, panel.box.width, 15.0});
  const auto boxes = placed(wishes, panel.box, marks, taken);
  for (std::size_t i = 0; i < labels.size(); ++i) {
    if (boxes[i].width == 0.0) {
      ++panel.unlabelled;
      continue;
    }
    labels[i].box = boxes[i];
    panel.labels.push_back(labels[i]);
  }
}

}  // namespace

PlanLayout layout_of(const Plan& plan) {
  PlanLayout layout;
  const PlanView view(plan);
  const PlanBlurs blurs(plan);
  const Window whole = whole_set(plan, blurs, view);
  const auto focus = around_focus(plan, view, whole);
  const PlanBox all{left, panel_top, layout.width - 2.0 * left,
                    layout.height - panel_top - panel_bottom};
  if (!focus) {
    layout.panels.push_back(panel_for(whole, all, false));
  } else if (whole.width() < 0.42 * whole.deep()) {
    const double height = 0.5 * (all.height - gutter);
    layout.panels.push_back(panel_for(whole, {all.x, all.y, all.width, height}, false));
    layout.panels.push_back(
        panel_for(*focus, {all.x, all.y + height + gutter, all.width, height}, true));
  } else {
    const double width = 0.5 * (all.width - gutter);
    layout.panels.push_back(panel_for(whole, {all.x, all.y, width, all.height}, false));
    layout.panels.push_back(
        panel_for(*focus, {all.x + width + gutter, all.y, width, all.height}, true));
  }
  for (PlanPanel& panel : layout.panels) {
    std::vector<const PlanPanel*> elsewhere;
    for (const PlanPanel& other : layout.panels) {
      if (other.enlarged && !panel.enlarged) elsewhere.push_back(&other);
    }
    label(plan, blurs, view, panel, elsewhere);
  }
  return layout;
}

}  // namespace jolly_iris
