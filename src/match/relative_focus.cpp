#include "relative_focus.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <optional>
#include <string>

#include "additive_focus.hpp"
#include "focus_sides.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "track_pieces.hpp"

namespace jolly_iris::matching {

namespace {

// A disc's smallest own deviation, px: what its model is off by.
constexpr double model_px = 0.05;
// Discs so small, px, may have gone through the focus, where they were least: what comes before and
// after is looked at as two.
constexpr double through_focus_px = 20.0;
// Tracks that are enough, the longest: their number squared is what a frame costs.
constexpr std::size_t most_pieces = 240;
// Lamps a frame needs for one that moves, or is another, to be seen as such by the others.
constexpr std::size_t least_lamps = 3;
// By how much discs have to change alike for stop or focal length to have, logarithm.
constexpr double alike = 0.08;
// What half the change of 1/v that a focus wrongly noted makes is, as a share of f/s.
constexpr double noted_bellows = 0.3;
// Px of blur at infinity that nobody sees.
constexpr double hardly_seen_px = 0.5;
// Correlation with the notes from which on theirs is the same move.
constexpr double surely_like = 0.7;

// Px of diameter for each dioptre between a lamp and a focus there (dioptres); 0 where that is no
// camera.
double px_a_dioptre(const CameraEstimate& estimate, double focus) {
  CameraEstimate at = estimate;
  const double least = 1e-3 / estimate.lens.focal.m();
  at.focus = Length::from_m(1.0 / std::max(focus, least));
  at.focus_in_scene = false;
  try {
    const VirtualCamera camera = camera_of(at);
    const double px = std::abs(to_pixels(circle_of_confusion(camera, Length::infinity()), camera));
    return px * camera.focus.m();
  } catch (const OpticsError&) {
    return 0.0;
  }
}

double noted_dioptres(const NotedFrame& frame) {
  return evenly_counted(Parameter::focus, focus_of(frame.estimate).m());
}

// What is to be told of a sequence, step by step.
class FocusChange {
 public:
  FocusChange(const std::vector<NotedFrame>& frames, const CameraFramesSettings& settings)
      : frames_(frames), settings_(settings) {}

  CameraFrames run() {
    CameraFrames out;
    const std::vector<Piece> pieces = read_tracks();
    out.seen = telling_.size();
    out.untold = tell(pieces, out);
    return out;
  }

 private:
  // Pieces of tracks, the longest first.
  std::vector<Piece> read_tracks() {
    std::map<std::string, std::vector<TrackReading>> tracks;
    double count = 0.0;
    for (const NotedFrame& f : frames_) {
      if (f.unplaced.empty()) continue;
      mean_noted_ += noted_dioptres(f);
      count += 1.0;
    }
    mean_noted_ /= std::max(count, 1.0);
    for (std::size_t i = 0; i < frames_.size(); ++i) {
      const double k = px_a_dioptre(frames_[i].estimate, mean_noted_);
      if (!(k > 0.0) || frames_[i].unplaced.empty()) continue;
      typical_px_ = k;
      for (const Observation& o : frames_[i].unplaced) {
        TrackReading one{telling_.size(), o.value, std::hypot(o.sigma, model_px)};
        one.count(k);
        tracks[o.name].push_back(one);
      }
      telling_.push_back(i);
    }
    std::vector<Piece> pieces;
    for (auto& [name, readings] : tracks) {
      add_pieces(name, std::move(readings), through_focus_px / typical_px_, pieces);
    }
    std::stable_sort(pieces.begin(), pieces.end(), [](const Piece& a, const Piece& b) {
      return a.readings.size() > b.readings.size();
    });
    if (pieces.size() > most_pieces) pieces.resize(most_pieces);
    return pieces;
  }

  // @return why it cannot be told; empty: it is in `out`
  std::string tell(const std::vector<Piece>& pieces, CameraFrames& out) {
    if (pieces.size() < least_lamps) {
      return fmt::format(
          "fewer than {} lamps are seen over several frames, and a focus that changes is not to be "
          "told from a lamp that moves",
          least_lamps);
    }
    AdditiveFocus model(connected(pieces), telling_.size());
    if (model.pieces().size() < least_lamps) return "too few lamps are seen in the same frames";
    find_sides(model, settings_.execution);
    settings_.execution.tell(0.5);
    find_movers(model);
    const double way = likeness_to_notes(model) < 0.0 ? -1.0 : 1.0;
    for (int round = 0; round < 2; ++round) mind_bellows(model, way);
    const double grown = grown_alike(model, alike / 3.0);
    if (grown > alike) {
      return fmt::format(
          "discs on both sides of the focus become larger and smaller alike, by {:.0f} %: the stop "
          "or the focal length changed, too, and without a distance the two are not to be told "
          "apart",
          100.0 * (std::exp(grown) - 1.0));
    }
    if (may_turn_back(model, 3.0 * hardly_seen_px / typical_px_)) {
      return "at one time so few lamps are seen that the focus may go on from there or come back";
    }
    take_points(model, way);
    if (points_.size() < 3) return "fewer than three frames show three lamps or more";
    out.residual_px = left_over_px(model);
    out.values.push_back(followed());
    // Nothing moved: there is nothing that could be mirrored.
    out.way_open =
        std::abs(likeness_to_notes(model)) < surely_like && !out.values.back().moves.moves.empty();
    std::vector<std::string> names;
    for (const Piece& p : model.pieces()) names.push_back(p.lamp);
    std::sort(names.begin(), names.end());
    out.lamps = static_cast<std::size_t>(std::unique(names.begin(), names.end()) - names.begin());
    return {};
  }

  // The nearer the focus, the farther the gate from the lens and the larger all discs.
  void mind_bellows(AdditiveFocus& model, double way) const {
    double mean = 0.0;
    double count = 0.0;
    for (std::size_t f = 0; f < telling_.size(); ++f) {
      if (!model.told(f)) continue;
      mean += model.focus()[f];
      count += 1.0;
    }
    mean /= std::max(count, 1.0);
    std::vector<double> px(telling_.size(), 0.0);
    for (std::size_t f = 0; f < telling_.size(); ++f) {
      const double focus = mean_noted_ + (model.told(f) ? way * (model.focus()[f] - mean) : 0.0);
      px[f] = px_a_dioptre(frames_[telling_[f]].estimate, focus);
    }
    for (Piece& p : model.pieces()) {
      for (TrackReading& r : p.readings) {
        if (px[r.frame] > 0.0) r.count(px[r.frame]);
      }
    }
    model.solve(6);
  }

  // Correlation with the notes' focus: mirrored or not is theirs.
  double likeness_to_notes(const AdditiveFocus& model) const {
    std::vector<std::array<double, 2>> both;
    std::array<double, 2> mean{};
    for (std::size_t f = 0; f < telling_.size(); ++f) {
      if (!model.told(f)) continue;
      both.push_back({noted_dioptres(frames_[telling_[f]]), model.focus()[f]});
      mean[0] += both.back()[0];
      mean[1] += both.back()[1];
    }
    const auto count = static_cast<double>(both.size());
    double product = 0.0;
    std::array<double, 2> square{};
    for (const auto& [noted, seen] : both) {
      const double a = noted - mean[0] / count;
      const double b = seen - mean[1] / count;
      product += a * b;
      square[0] += a * a;
      square[1] += b * b;
    }
    const double of_both = square[0] * square[1];
    return of_both > 0.0 ? product / std::sqrt(of_both) : 0.0;
  }

  // What each frame tells, against the first that does.
  void take_points(const AdditiveFocus& model, double way) {
    std::vector<std::size_t> lamps_in(telling_.size(), 0);
    for (const Piece& p : model.pieces()) {
      for (const TrackReading& r : p.readings) ++lamps_in[r.frame];
    }
    std::vector<double> own;
    std::vector<double> shared;
    model.deviations(own, shared);
    const double alike_share = notes_share();
    std::optional<double> first;
    for (std::size_t f = 0; f < telling_.size(); ++f) {
      if (!model.told(f) || lamps_in[f] < least_lamps) continue;
      const double value = way * model.focus()[f];
      if (!first) {
        first = value;
        first_ = telling_[f];
      }
      points_.push_back({frames_[telling_[f]].frame, value - *first, own[f]});
      common_.push_back(std::hypot(shared[f], alike_share * (value - *first)));
    }
  }

  // A diameter is D v = f v / N a dioptre: what the notes of stop and focal length are off by.
  double notes_share() const {
    const CameraEstimate& e = frames_[telling_[telling_.size() / 2]].estimate;
    const Length s = focus_of(e);
    const double bellows = s.is_finite() ? e.lens.focal / s : 0.0;
    return std::hypot(usual_deviation(Parameter::stop), 2.0 * usual_deviation(Parameter::focal),
                      noted_bellows * bellows);
  }

  double left_over_px(const AdditiveFocus& model) const {
    double square = 0.0;
    double count = 0.0;
    for (std::size_t p = 0; p < model.pieces().size(); ++p) {
      for (const TrackReading& r : model.pieces()[p].readings) {
        const double off = typical_px_ * model.left_over(p, r);
        square += std::min(off * off, 100.0);
        count += 1.0;
      }
    }
    return std::sqrt(square / std::max(count, 1.0));
  }

  FollowedValue followed() const {
    std::vector<double> numbers;
    for (const NotedFrame& f : frames_) numbers.push_back(f.frame);
    const ValueCurve curve = smooth_curve(points_, numbers);
    FollowedValue out;
    out.of = Parameter::focus_change;
    out.relative = true;
    out.moves = moves_of(points_, curve, {.least = hardly_seen_px / typical_px_});
    const double zero = curve.value[first_];
    for (Move& m : out.moves.moves) {
      m.from -= zero;
      m.to -= zero;
    }
    out.moves.rest -= zero;
    // What does not scatter from frame to frame is not evened out by many of them.
    const double lasting = std::sqrt(std::max(0.0, 1.0 - curve.scatter * curve.scatter));
    const double noted_first = noted_dioptres(frames_[first_]);
    std::size_t next = 0;
    for (std::size_t i = 0; i < frames_.size(); ++i) {
      FrameValue at;
      at.frame = numbers[i];
      at.noted = noted_dioptres(frames_[i]) - noted_first;
      while (next + 1 < points_.size() && points_[next].frame < at.frame) ++next;
      if (points_[next].frame == at.frame) {
        at.value = points_[next].value - zero;
        at.value_margin = 2.0 * std::hypot(points_[next].sigma, common_[next]);
      }
      at.curve = curve.value[i] - zero;
      const double of_curve = std::hypot(curve.sigma[i], curve.sigma[first_]);
      at.margin = 2.0 * std::hypot(of_curve, common_[next], lasting * points_[next].sigma);
      out.at.push_back(at);
    }
    return out;
  }

  const std::vector<NotedFrame>& frames_;
  const CameraFramesSettings& settings_;
  std::vector<std::size_t> telling_{};  // which frames show anything
  double mean_noted_ = 0.0;             // dioptres
  double typical_px_ = 1.0;             // px a dioptre
  std::vector<CurvePoint> points_{};
  std::vector<double> common_{};  // of each: what is off in all frames alike
  std::size_t first_ = 0;         // the frame that all changes are against
};

}  // namespace

CameraFrames relative_focus(const std::vector<NotedFrame>& frames,
                            const CameraFramesSettings& settings) {
  return FocusChange(frames, settings).run();
}

}  // namespace jolly_iris::matching
