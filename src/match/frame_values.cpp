#include "frame_values.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <optional>
#include <string>

#include "fit.hpp"
#include "focus_walk.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "match/constants.hpp"
#include "parameter_layout.hpp"

namespace jolly_iris::matching {

namespace {

using SeenKind = Observation::Kind;

// Frames that tell together what all have in common: more add little, and time.
constexpr std::size_t together = 8;
// A focus is where its frame shows it, wherever it was noted: a deviation, as a share.
constexpr double anywhere = 3.0;
// How far a stop may be off its note at a frame, logarithm of the f-number: two thirds of a stop
// (one deviation), while nobody knows whether it stood still.
constexpr double stop_may_move = 0.23;
// Likewise a focal length that frames tell themselves: a zoom.
constexpr double focal_may_move = 0.5;
// By how much the places of lamps have to change for the lens to have zoomed, besides breathing.
constexpr double least_zoom = 0.03;
// By how much discs have to change for the stop to have, logarithm.
constexpr double least_restop = 0.08;
// As good as known.
constexpr double fixed = 1e-5;
// The logarithm of an f-number that one stop is.
const double stop_share = 0.5 * std::log(2.0);
// What is no move of a stop, stops, and of a focal length, as a share: nobody sees it.
constexpr double unseen_stop = 0.08;
constexpr double unseen_zoom = 0.01;
// Of blur, px of the picture, at infinity: likewise.
constexpr double unseen_px = 0.5;
// Notes that are so far off in their own deviations are wrong (ranking::too_far).
constexpr double disagreed = ranking::too_far;

bool has_view(const NotedFrame& f) {
  return std::any_of(f.seen.begin(), f.seen.end(),
                     [](const Observation& o) { return o.kind == SeenKind::view; });
}

double median_of(std::vector<double> v) {
  const auto middle = v.begin() + static_cast<std::ptrdiff_t>(v.size() / 2);
  std::nth_element(v.begin(), middle, v.end());
  return *middle;
}

// How far most of them reach: from the 10 % to the 90 % point.
double reach_of(std::vector<double> v) {
  if (v.size() < 4) return 0.0;
  std::sort(v.begin(), v.end());
  const auto at = [&](double share) {
    return v[static_cast<std::size_t>(std::lround(share * static_cast<double>(v.size() - 1)))];
  };
  return at(0.9) - at(0.1);
}

const FittedParameter* find(const std::vector<FittedParameter>& all, Parameter of) {
  for (const FittedParameter& p : all) {
    if (p.parameter == of) return &p;
  }
  return nullptr;
}

}  // namespace

bool tells_focus(const Observation& o) {
  return (o.kind == SeenKind::disc || o.kind == SeenKind::edge) && o.at;
}

FrameFitter::FrameFitter(const std::vector<NotedFrame>& frames,
                         const CameraFramesSettings& settings)
    : frames_(frames), settings_(settings) {
  for (std::size_t i = 0; i < frames.size(); ++i) {
    numbers_.push_back(frames[i].frame);
    estimates_.push_back(frames[i].estimate);
    estimates_.back().focus = focus_of(frames[i].estimate);
    estimates_.back().focus_in_scene = false;
    const auto& seen = frames[i].seen;
    if (std::any_of(seen.begin(), seen.end(), tells_focus)) telling_.push_back(i);
  }
}

// A frame's blur of something at infinity, px: how much of it there is to tell.
double FrameFitter::largest_px(std::size_t frame) const {
  double most = 0.0;
  for (const Observation& o : frames_[frame].seen) {
    if (tells_focus(o)) most = std::max(most, o.value);
  }
  return most;
}

// Spread over the sequence, of each stretch the frame that shows most.
std::vector<std::size_t> FrameFitter::told_by() const {
  std::vector<std::size_t> out;
  const std::size_t parts = std::min(together, telling_.size());
  for (std::size_t p = 0; p < parts; ++p) {
    const std::size_t from = telling_.size() * p / parts;
    const std::size_t to = telling_.size() * (p + 1) / parts;
    std::size_t best = from;
    double most = -1.0;
    for (std::size_t k = from; k < to; ++k) {
      const double worth =
          static_cast<double>(frames_[telling_[k]].seen.size()) + 0.001 * largest_px(telling_[k]);
      if (worth > most) {
        most = worth;
        best = k;
      }
    }
    out.push_back(telling_[best]);
  }
  return out;
}

NotedPlate FrameFitter::at_walk(std::size_t frame) const {
  NotedPlate out{estimates_[frame], frames_[frame].seen};
  const double dioptres = walk_[frame];
  out.estimate.focus = Length::from_m(1.0 / std::max(dioptres, 1e-3));
  for (Observation& o : out.seen) o.placed_px *= placed_;
  return out;
}

void FrameFitter::fit_common() {
  const std::vector<std::size_t> which = told_by();
  std::vector<NotedPlate> plates;
  for (const std::size_t i : which) {
    plates.push_back(at_walk(i));
    out_.told_by.push_back(numbers_[i]);
  }
  MatchSettings how;
  how.doubts = settings_.doubts;
  how.doubts.push_back({Parameter::focus, anywhere});
  how.shared = {Parameter::gate, Parameter::squeeze, Parameter::scale};
  if (!zoomed_) {
    how.shared.push_back(Parameter::focal);
  } else {
    how.doubts.push_back({Parameter::focal, focal_may_move});
  }
  if (!restopped_) {
    how.shared.push_back(Parameter::stop);
  } else {
    how.doubts.push_back({Parameter::stop, stop_may_move});
  }
  std::vector<MatchResult> fitted = fit_nearby(plates, how);
  const auto contradicts = [&](const std::vector<MatchResult>& all) {
    for (const MatchResult& m : all) {
      for (const FittedParameter& p : m.parameters) {
        const bool own = p.parameter == Parameter::focus ||
                         (p.parameter == Parameter::focal && zoomed_) ||
                         (p.parameter == Parameter::stop && restopped_);
        if (!own && std::abs(p.moved) > disagreed) return true;
      }
    }
    return false;
  };
  // Notes that the plate contradicts are not held to, what they say of the opening first.
  out_.notes_disagree = fitted.empty() || contradicts(fitted);
  if (out_.notes_disagree) {
    if (!restopped_) how.doubts.push_back({Parameter::stop, 2.0 * stop_may_move});
    if (!zoomed_) how.doubts.push_back({Parameter::focal, 0.1});
    fitted = fit_nearby(plates, how);
  }
  if (fitted.empty()) {
    throw OpticsError(
        "no camera near the notes fits what these frames show; match one of them by "
        "itself, which also asks for mistakes in the notes");
  }
  std::vector<NotedPlate> refined = placed_as_seen(plates, fitted);
  for (std::size_t i = 0; i < plates.size(); ++i) {
    for (std::size_t k = 0; k < plates[i].seen.size(); ++k) {
      if (!(plates[i].seen[k].placed_px > 0.0)) continue;
      placed_ = refined[i].seen[k].placed_px / plates[i].seen[k].placed_px;
    }
  }
  // Where a lamp stands is off by the same in each frame: seen in n of them it tells no more of
  // that than in one, as n readings do that are √n times as uncertain.
  std::map<std::string, int> seen_in;
  for (const NotedPlate& p : refined) {
    for (const Observation& o : p.seen) ++seen_in[o.name];
  }
  for (NotedPlate& p : refined) {
    for (Observation& o : p.seen) o.placed_px *= std::sqrt(seen_in[o.name]);
  }
  const std::vector<MatchResult> again = fit_nearby(refined, how);
  if (!again.empty()) fitted = again;
  out_.residual_px = residual_px(fitted, false);
  for (const FittedParameter& p : fitted.front().parameters) {
    if (p.parameter == Parameter::focus) continue;
    if (p.parameter == Parameter::focal && zoomed_) continue;
    if (p.parameter == Parameter::stop && restopped_) continue;
    out_.common.push_back(p);
  }
}

// What the frames have in common is what they have together shown.
void FrameFitter::believe_common() {
  for (CameraEstimate& e : estimates_) {
    for (const FittedParameter& p : out_.common) {
      // A keyed stop or zoom is off everywhere by the same factor.
      const double now = matching::value_of(e, p.parameter);
      const double by = std::log(p.value / p.noted) / usual_deviation(p.parameter);
      if (now > 0.0 && p.noted > 0.0) move(e, p.parameter, by);
    }
  }
}

// One deviation of what all frames have in common, as a share of it.
double FrameFitter::common_share(std::size_t frame, Parameter of) const {
  const auto told = [&](double otherwise) {
    const FittedParameter* p = find(out_.common, of);
    return p != nullptr && p->value > 0.0 ? 0.5 * p->margin / p->value : otherwise;
  };
  const auto own = [&](const Followed& f, double even_share) {
    if (f.curve.empty()) return told(usual_deviation(of));
    const double common = f.common_sigma.empty() ? 0.0 : median_of(f.common_sigma);
    return even_share * std::hypot(f.curve.sigma[frame], common);
  };
  if (of == Parameter::stop) return own(stop_, stop_share);
  return of == Parameter::focal ? own(focal_, 1.0) : told(usual_deviation(of));
}

bool FrameFitter::fit_frame(std::size_t frame, bool own_free, const NotedPlate& plate,
                            MatchResult& out) const {
  MatchSettings how;
  how.doubts = {{Parameter::focus, anywhere},
                {Parameter::gate, fixed},
                {Parameter::scale, fixed},
                {Parameter::squeeze, fixed}};
  how.doubts.push_back({Parameter::stop, own_free ? stop_may_move : fixed});
  const bool focal_free = own_free && has_view(frames_[frame]);
  how.doubts.push_back({Parameter::focal, focal_free ? focal_may_move : fixed});
  std::vector<MatchResult> fitted = fit_nearby({plate}, how);
  if (fitted.empty()) return false;
  out = std::move(fitted.front());
  return true;
}

// How far a focus would lie elsewhere if what all frames have in common were off by a deviation:
// each frame's own discs are part of what told that, so they cannot be asked to narrow it again.
double FrameFitter::common_dioptres(std::size_t frame, const MatchResult& alone) const {
  double square = 0.0;
  const double here = 1.0 / find(alone.parameters, Parameter::focus)->value;
  for (const FittedParameter& p : alone.parameters) {
    if (p.parameter == Parameter::focus) continue;
    const double share = common_share(frame, p.parameter);
    if (!(share > 10.0 * fixed)) continue;
    NotedPlate moved = at_walk(frame);
    moved.estimate = alone.estimate;
    move(moved.estimate, p.parameter, share / usual_deviation(p.parameter));
    MatchResult there;
    if (!fit_frame(frame, false, moved, there)) continue;
    const double off = 1.0 / find(there.parameters, Parameter::focus)->value - here;
    square += off * off;
  }
  return std::sqrt(square);
}

Followed FrameFitter::smoothed(Parameter of, std::vector<CurvePoint> points,
                               std::vector<double> common_sigma, double least) const {
  Followed out;
  out.points = std::move(points);
  out.common_sigma = std::move(common_sigma);
  out.curve = smooth_curve(out.points, numbers_);
  out.moves = moves_of(out.points, out.curve, {.least = least});
  (void)of;
  return out;
}

// Stop and focal length, frame by frame: do they stand still?
void FrameFitter::follow_own() {
  std::vector<CurvePoint> stops;
  std::vector<CurvePoint> focals;
  for (const std::size_t i : telling_) {
    settings_.execution.check();
    MatchResult m;
    if (!fit_frame(i, true, at_walk(i), m)) continue;
    const FittedParameter* stop = find(m.parameters, Parameter::stop);
    const double stop_sigma = 0.5 * stop->margin / stop->value;
    if (stop_sigma < 0.7 * stop_may_move) {
      stops.push_back({numbers_[i], evenly_counted(Parameter::stop, stop->value),
                       2.0 * stop_sigma / std::log(2.0)});
    }
    const FittedParameter* focal = find(m.parameters, Parameter::focal);
    const double focal_sigma = 0.5 * focal->margin / focal->value;
    if (has_view(frames_[i]) && focal_sigma < 0.2) {
      focals.push_back({numbers_[i], evenly_counted(Parameter::focal, focal->value), focal_sigma});
    }
  }
  const auto follow = [&](Parameter of, std::vector<CurvePoint> points, double least,
                          double even_share, Followed& into) {
    if (points.size() < 3) return;
    const FittedParameter* p = find(out_.common, of);
    // What several frames said together is off alike in all of them.
    const double common =
        p != nullptr && p->value > 0.0 ? 0.5 * p->margin / p->value / even_share : 0.0;
    std::vector<double> sigma(points.size(), common);
    Followed f = smoothed(of, std::move(points), std::move(sigma), least);
    into = std::move(f);
    // What stands still is one value, which several frames tell better together.
    if (into.moves.moves.empty()) into.curve = {};
  };
  follow(Parameter::stop, std::move(stops), unseen_stop, stop_share, stop_);
  follow(Parameter::focal, std::move(focals), unseen_zoom, 1.0, focal_);
  const auto set = [&](Parameter of, const Followed& f) {
    if (f.curve.empty()) return;
    for (std::size_t i = 0; i < estimates_.size(); ++i) {
      const double wanted = as_written(of, f.curve.value[i]);
      const double now = matching::value_of(estimates_[i], of);
      move(estimates_[i], of, std::log(wanted / now) / usual_deviation(of));
    }
  };
  set(Parameter::stop, stop_);
  set(Parameter::focal, focal_);
}

void FrameFitter::follow_focus() {
  constexpr std::size_t every = 4;
  std::vector<CurvePoint> points;
  std::vector<double> common;
  double last_common = 0.0;
  for (std::size_t k = 0; k < telling_.size(); ++k) {
    const std::size_t i = telling_[k];
    settings_.execution.tell(0.5 +
                             0.5 * static_cast<double>(k) / static_cast<double>(telling_.size()));
    MatchResult alone;
    if (!fit_frame(i, false, at_walk(i), alone)) continue;
    const FittedParameter& p = *find(alone.parameters, Parameter::focus);
    const double value = 1.0 / p.value;
    const double sigma = 0.5 * p.margin / (p.value * p.value);
    // A frame that tells it no better than anybody could guess is none.
    if (!(sigma > 0.0) || !(sigma < 0.3 * std::max(value, 0.2))) continue;
    // What is off in all frames alike changes slowly from one to the next.
    if (points.size() % every == 0) last_common = common_dioptres(i, alone);
    points.push_back({numbers_[i], value, sigma});
    common.push_back(last_common);
  }
  if (points.empty()) {
    throw OpticsError(
        "no frame tells where the focus is: its discs are too few, or all at one "
        "distance");
  }
  // What half a px of blur at infinity is, in dioptres.
  double least = 0.0;
  const std::size_t middle = telling_[telling_.size() / 2];
  try {
    const VirtualCamera camera = camera_of(at_walk(middle).estimate);
    const double px = std::abs(to_pixels(circle_of_confusion(camera, Length::infinity()), camera));
    if (px > 0.0) least = unseen_px / px / camera.focus.m();
  } catch (const OpticsError&) {
    least = 0.0;
  }
  focus_ = smoothed(Parameter::focus, std::move(points), std::move(common), least);
}

FollowedValue FrameFitter::value_of_followed(Parameter of, const Followed& f) const {
  FollowedValue out;
  out.of = of;
  out.moves = f.moves;
  std::size_t next = 0;
  for (std::size_t i = 0; i < frames_.size(); ++i) {
    FrameValue v;
    v.frame = numbers_[i];
    CameraEstimate noted = frames_[i].estimate;
    v.noted = evenly_counted(
        of, of == Parameter::focus ? focus_of(noted).m() : matching::value_of(noted, of));
    while (next + 1 < f.points.size() && f.points[next].frame < v.frame) ++next;
    double sigma = 0.0;
    if (!f.points.empty()) {
      // What does not scatter from frame to frame is not evened out by many of them.
      const auto lasting = [&](std::size_t k) {
        const double share = std::max(0.0, 1.0 - f.curve.scatter * f.curve.scatter);
        return std::hypot(f.common_sigma[k], std::sqrt(share) * f.points[k].sigma);
      };
      const CurvePoint& p = f.points[next];
      sigma = lasting(next);
      if (p.frame == v.frame) {
        v.value = p.value;
        v.value_margin = 2.0 * std::hypot(p.sigma, f.common_sigma[next]);
      } else if (next > 0 && p.frame > v.frame) {
        const double t =
            (v.frame - f.points[next - 1].frame) / (p.frame - f.points[next - 1].frame);
        sigma = (1.0 - t) * lasting(next - 1) + t * lasting(next);
      }
    }
    if (!f.curve.empty()) {
      v.curve = f.curve.value[i];
      v.margin = 2.0 * std::hypot(f.curve.sigma[i], sigma);
    } else if (const FittedParameter* p = find(out_.common, of)) {
      v.curve = evenly_counted(of, p->value);
      const double share = 0.5 * p->margin / p->value;
      v.margin = 2.0 * (of == Parameter::stop ? 2.0 * share / std::log(2.0) : share);
    }
    out.at.push_back(v);
  }
  return out;
}

// Where the lens zoomed, places of lamps say at once about how far: a fit that begins at the notes
// would not get there. Frames without them have what their neighbours say.
void FrameFitter::begin_at_zoom() {
  std::optional<double> last;
  std::vector<std::size_t> before;
  for (std::size_t i = 0; i < frames_.size(); ++i) {
    for (const Observation& o : frames_[i].seen) {
      if (o.kind == SeenKind::view) last = std::log(o.value / predicted(o, at_walk(i).estimate));
    }
    before.push_back(i);
    if (!last) continue;
    for (const std::size_t k : before) {
      move(estimates_[k], Parameter::focal, *last / usual_deviation(Parameter::focal));
    }
    before.clear();
  }
  std::vector<NotedFrame> known = frames_;
  for (std::size_t i = 0; i < known.size(); ++i) known[i].estimate = estimates_[i];
  walk_ = walk_focus(known, stop_may_move).dioptres;
}

CameraFrames FrameFitter::run() {
  if (telling_.empty()) {
    throw OpticsError(
        "no frame shows a disc of a lamp whose distance is known. Give the scene the lamps, or "
        "draw "
        "one ([[plate.lamp]]) and name it after a subject");
  }
  out_.seen = telling_.size();
  const FocusWalk first = walk_focus(frames_, stop_may_move);
  walk_ = first.dioptres;
  std::vector<double> larger;
  std::vector<double> views;
  for (const std::size_t i : telling_) {
    double zoom = 0.0;
    for (const Observation& o : frames_[i].seen) {
      if (o.kind != SeenKind::view) continue;
      zoom = std::log(o.value / predicted(o, at_walk(i).estimate));
      views.push_back(zoom);
    }
    // At one f-number discs go with the square of the focal length.
    if (frames_[i].seen.size() >= 3) larger.push_back(first.larger[i] - 2.0 * zoom);
  }
  zoomed_ = reach_of(views) > least_zoom;
  if (zoomed_) begin_at_zoom();
  restopped_ = reach_of(larger) > least_restop;
  fit_common();
  settings_.execution.tell(0.2);
  believe_common();
  follow_own();
  settings_.execution.tell(0.5);
  // With what is known by now, once more: another opening puts the focus elsewhere.
  std::vector<NotedFrame> known = frames_;
  for (std::size_t i = 0; i < known.size(); ++i) known[i].estimate = estimates_[i];
  const FocusWalk second = walk_focus(known, 0.1);
  walk_ = second.dioptres;
  out_.two_sides = second.two_sides;
  follow_focus();
  // A stop or focal length that stood still, though it was looked at frame by frame.
  const auto still = [&](Parameter of, bool apart, const Followed& f) {
    if (!f.curve.empty() || !apart || find(out_.common, of) != nullptr) return;
    FittedParameter p;
    p.parameter = of;
    p.noted = p.mended = p.value = matching::value_of(estimates_[telling_.front()], of);
    p.margin = 2.0 * usual_deviation(of) * p.value;
    out_.common.push_back(p);
  };
  still(Parameter::stop, restopped_, stop_);
  still(Parameter::focal, zoomed_, focal_);
  out_.values.push_back(value_of_followed(Parameter::focus, focus_));
  out_.values.push_back(value_of_followed(Parameter::stop, stop_));
  out_.values.push_back(value_of_followed(Parameter::focal, focal_));
  return std::move(out_);
}

}  // namespace jolly_iris::matching
