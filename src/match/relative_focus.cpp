#include "relative_focus.hpp"

#include <fmt/format.h>

#include <Eigen/Dense>
#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <numeric>
#include <optional>
#include <string>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "optics/seeded.hpp"

namespace jolly_iris::matching {

namespace {

// A disc's smallest own deviation, px: what its model is off by.
constexpr double model_px = 0.05;
// Discs so small, px, may have gone through the focus, where they were least: what comes before and
// after is looked at as two.
constexpr double through_focus_px = 20.0;
// Readings of a track, or in common with another, below which it tells nothing.
constexpr std::size_t least_readings = 4;
constexpr std::size_t least_in_common = 3;
// Tracks that are enough, the longest: their number squared is what a frame costs.
constexpr std::size_t most_pieces = 240;
// Lamps a frame needs for one that moves, or is another, to be seen as such by the others.
constexpr std::size_t least_lamps = 3;
// What one reading may cost at the most, in squared deviations: then it is another lamp's.
constexpr double wild = 16.0;
// Another way of signs is as good if it costs no more than that besides (odds of 20 : 1).
constexpr double as_likely = 6.0;
// By how much discs have to change alike for stop or focal length to have, logarithm.
constexpr double alike = 0.08;
// What half the change of 1/v that a focus wrongly noted makes is, as a share of f/s.
constexpr double noted_bellows = 0.3;
constexpr int starts = 12;
// Px of blur at infinity that nobody sees.
constexpr double hardly_seen_px = 0.5;
// Correlation with the notes from which on theirs is the same move.
constexpr double surely_like = 0.7;

struct TrackReading {
  std::size_t frame = 0;  // which of those that tell
  double px = 0.0;        // diameter
  double sigma_px = 0.0;
  double value = 0.0;  // |q − d|, 1/m
  double sigma = 0.0;

  void count(double px_a_dioptre) {
    value = px / px_a_dioptre;
    sigma = sigma_px / px_a_dioptre;
  }
};

// Of one lamp, on one side of the focus.
struct Piece {
  std::string lamp{};
  std::vector<TrackReading> readings{};
  double sign = 1.0;
  double moves = 0.0;  // besides sigma, a deviation: it does not stand still
};

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

double median_of_all(std::vector<double> v) {
  const auto middle = v.begin() + static_cast<std::ptrdiff_t>(v.size() / 2);
  std::nth_element(v.begin(), middle, v.end());
  return *middle;
}

// A track, cut where it may have gone through the focus.
void add_pieces(const std::string& lamp, std::vector<TrackReading> readings, double through,
                std::vector<Piece>& out) {
  if (readings.size() < least_readings) return;
  const auto least = std::min_element(
      readings.begin(), readings.end(),
      [](const TrackReading& a, const TrackReading& b) { return a.value < b.value; });
  const double ends = std::min(readings.front().value, readings.back().value);
  // One that goes fast is far from the focus on both sides of it: no farther than its next step.
  double fast = through;
  if (least != readings.begin()) {
    fast = std::max(fast, 1.5 * (std::prev(least)->value - least->value));
  }
  if (std::next(least) != readings.end()) {
    fast = std::max(fast, 1.5 * (std::next(least)->value - least->value));
  }
  if (least->value < fast && least->value < 0.7 * ends) {
    const std::vector<TrackReading> before(readings.begin(), least);
    const std::vector<TrackReading> after(least + 1, readings.end());
    add_pieces(lamp, before, through, out);
    add_pieces(lamp, after, through, out);
    return;
  }
  out.push_back({lamp, std::move(readings), 1.0, 0.0});
}

// The additive model: what each frame's focus and each piece's lamp are, for signs that are given.
class Additive {
 public:
  explicit Additive(std::vector<Piece> pieces, std::size_t frames)
      : pieces_(std::move(pieces)), focus_(frames, 0.0), weight_(frames, 0.0) {}

  std::vector<Piece>& pieces() { return pieces_; }
  const std::vector<Piece>& pieces() const { return pieces_; }
  const std::vector<double>& focus() const { return focus_; }
  double lamp(std::size_t piece) const { return lamps_(static_cast<Eigen::Index>(piece)); }

  // Least squares, wild readings counting less in each round.
  double solve(int rounds) {
    trust_.clear();
    for (const Piece& p : pieces_) trust_.emplace_back(p.readings.size(), 1.0);
    double cost = 0.0;
    for (int round = 0; round < rounds; ++round) {
      solve_once();
      cost = weigh();
    }
    return cost;
  }

  // Deviation of each frame's focus: its own readings', and what it shares with other frames by
  // lamps being off, against the first frame that tells.
  void deviations(std::vector<double>& own, std::vector<double>& shared) const {
    const auto n = static_cast<Eigen::Index>(pieces_.size());
    // Its one direction without a hold is that everything is nearer alike: it cancels in changes.
    const Eigen::MatrixXd held =
        schur_ + Eigen::MatrixXd::Constant(n, n, schur_.trace() / static_cast<double>(n * n));
    const Eigen::MatrixXd covariance = held.ldlt().solve(Eigen::MatrixXd::Identity(n, n));
    Eigen::MatrixXd share = Eigen::MatrixXd::Zero(n, static_cast<Eigen::Index>(focus_.size()));
    for (std::size_t p = 0; p < pieces_.size(); ++p) {
      for (std::size_t k = 0; k < pieces_[p].readings.size(); ++k) {
        const std::size_t f = pieces_[p].readings[k].frame;
        if (!(weight_[f] > 0.0)) continue;
        share(static_cast<Eigen::Index>(p), static_cast<Eigen::Index>(f)) =
            weight_of(p, k) / weight_[f];
      }
    }
    own.assign(focus_.size(), 0.0);
    shared.assign(focus_.size(), 0.0);
    std::ptrdiff_t first = -1;
    for (std::size_t f = 0; f < focus_.size(); ++f) {
      if (!(weight_[f] > 0.0)) continue;
      if (first < 0) first = static_cast<std::ptrdiff_t>(f);
      own[f] = 1.0 / std::sqrt(weight_[f]);
      const Eigen::VectorXd apart = share.col(static_cast<Eigen::Index>(f)) - share.col(first);
      shared[f] = std::sqrt(std::max(0.0, apart.dot(covariance * apart)));
    }
  }

  bool told(std::size_t frame) const { return weight_[frame] > 0.0; }

  double left_over(std::size_t piece, const TrackReading& r) const {
    return pieces_[piece].sign * (focus_[r.frame] - lamp(piece)) - r.value;
  }

 private:
  double weight_of(std::size_t p, std::size_t k) const {
    const TrackReading& r = pieces_[p].readings[k];
    const double sigma = std::hypot(r.sigma, pieces_[p].moves);
    return trust_[p][k] / (sigma * sigma);
  }

  void solve_once() {
    const auto n = static_cast<Eigen::Index>(pieces_.size());
    Eigen::MatrixXd cross = Eigen::MatrixXd::Zero(n, static_cast<Eigen::Index>(focus_.size()));
    Eigen::VectorXd right = Eigen::VectorXd::Zero(n);
    Eigen::VectorXd of_lamp = Eigen::VectorXd::Zero(n);
    std::vector<double> sum(focus_.size(), 0.0);
    std::fill(weight_.begin(), weight_.end(), 0.0);
    for (std::size_t p = 0; p < pieces_.size(); ++p) {
      const auto at = static_cast<Eigen::Index>(p);
      for (std::size_t k = 0; k < pieces_[p].readings.size(); ++k) {
        const TrackReading& r = pieces_[p].readings[k];
        const double w = weight_of(p, k);
        const double y = pieces_[p].sign * r.value;
        cross(at, static_cast<Eigen::Index>(r.frame)) = w;
        weight_[r.frame] += w;
        sum[r.frame] += w * y;
        of_lamp(at) += w;
        right(at) -= w * y;
      }
    }
    // Frames put out of the way: (W_d − C W_q⁻¹ Cᵀ) d = Σ w (−y) + C W_q⁻¹ Σ w y.
    Eigen::MatrixXd scaled = cross;
    for (std::size_t f = 0; f < focus_.size(); ++f) {
      const auto at = static_cast<Eigen::Index>(f);
      if (!(weight_[f] > 0.0)) continue;
      right += cross.col(at) * (sum[f] / weight_[f]);
      scaled.col(at) /= weight_[f];
    }
    schur_ = -cross * scaled.transpose();
    schur_.diagonal() += of_lamp;
    Eigen::MatrixXd held = schur_;
    held.array() += schur_.trace() / static_cast<double>(n * n);
    lamps_ = held.ldlt().solve(right);
    for (std::size_t f = 0; f < focus_.size(); ++f) {
      if (!(weight_[f] > 0.0)) continue;
      focus_[f] = (sum[f] + cross.col(static_cast<Eigen::Index>(f)).dot(lamps_)) / weight_[f];
    }
  }

  // How badly it goes together; and what each reading counts from now on.
  double weigh() {
    double cost = 0.0;
    for (std::size_t p = 0; p < pieces_.size(); ++p) {
      for (std::size_t k = 0; k < pieces_[p].readings.size(); ++k) {
        const TrackReading& r = pieces_[p].readings[k];
        const double off = left_over(p, r) / std::hypot(r.sigma, pieces_[p].moves);
        cost += wild * off * off / (wild + off * off);
        const double share = wild / (wild + off * off);
        trust_[p][k] = std::max(share * share, 1e-6);
      }
    }
    return cost;
  }

  std::vector<Piece> pieces_;
  std::vector<double> focus_;
  std::vector<double> weight_;
  std::vector<std::vector<double>> trust_{};
  Eigen::VectorXd lamps_{};
  Eigen::MatrixXd schur_{};
};

// Too many to ask what each sign does to all of it.
bool is_large(const Additive& model) {
  return model.pieces().size() > 40 || model.focus().size() > 500;
}

std::size_t in_common(const Piece& a, const Piece& b) {
  std::size_t n = 0;
  auto other = b.readings.begin();
  for (const TrackReading& r : a.readings) {
    while (other != b.readings.end() && other->frame < r.frame) ++other;
    n += other != b.readings.end() && other->frame == r.frame ? 1U : 0U;
  }
  return n;
}

// Those that hang together by frames that they share: of such groups the one with most readings.
std::vector<Piece> connected(const std::vector<Piece>& all) {
  std::vector<std::size_t> group(all.size());
  std::iota(group.begin(), group.end(), std::size_t{0});
  const auto root = [&](std::size_t i) {
    while (group[i] != i) i = group[i] = group[group[i]];
    return i;
  };
  for (std::size_t a = 0; a < all.size(); ++a) {
    for (std::size_t b = 0; b < a; ++b) {
      if (in_common(all[a], all[b]) >= least_in_common) group[root(a)] = root(b);
    }
  }
  std::map<std::size_t, std::size_t> readings;
  for (std::size_t i = 0; i < all.size(); ++i) readings[root(i)] += all[i].readings.size();
  const auto most = std::max_element(readings.begin(), readings.end(),
                                     [](auto& a, auto& b) { return a.second < b.second; });
  std::vector<Piece> out;
  for (std::size_t i = 0; i < all.size(); ++i) {
    if (root(i) == most->first) out.push_back(all[i]);
  }
  return out;
}

// Turns signs of pieces that go better with the rest the other way round, which stays as it is
// meanwhile: of many pieces one has little to say in that.
void turn_against_the_rest(Additive& model) {
  for (int sweep = 0; sweep < 20; ++sweep) {
    model.solve(1);
    bool any = false;
    for (std::size_t p = 0; p < model.pieces().size(); ++p) {
      Piece& piece = model.pieces()[p];
      const auto off_as = [&](double sign) {
        std::vector<double> lamps;
        for (const TrackReading& r : piece.readings) {
          lamps.push_back(model.focus()[r.frame] - sign * r.value);
        }
        const double lamp = median_of_all(lamps);
        double sum = 0.0;
        for (std::size_t k = 0; k < lamps.size(); ++k) {
          const double off = (lamps[k] - lamp) / piece.readings[k].sigma;
          sum += wild * off * off / (wild + off * off);
        }
        return sum;
      };
      if (off_as(-piece.sign) >= off_as(piece.sign)) continue;
      piece.sign = -piece.sign;
      any = true;
    }
    if (!any) return;
  }
}

// Turns every sign that makes it go together better, until none does.
double settle_signs(Additive& model) {
  if (is_large(model)) {
    turn_against_the_rest(model);
    return model.solve(6);
  }
  double cost = model.solve(3);
  for (bool better = true; better;) {
    better = false;
    for (Piece& p : model.pieces()) {
      p.sign = -p.sign;
      const double turned = model.solve(3);
      if (turned < cost - 1e-9) {
        cost = turned;
        better = true;
      } else {
        p.sign = -p.sign;
      }
    }
  }
  model.solve(6);
  return cost;
}

std::vector<double> signs_of(const Additive& model) {
  std::vector<double> out;
  for (const Piece& p : model.pieces()) out.push_back(p.sign);
  return out;
}

void set_signs(Additive& model, const std::vector<double>& signs) {
  for (std::size_t i = 0; i < signs.size(); ++i) model.pieces()[i].sign = signs[i];
}

// Signs by how pieces grow, from the longest on: each as most of what it grows beside.
void signs_by_growth(Additive& model) {
  std::vector<Piece>& all = model.pieces();
  std::vector<std::size_t> order(all.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
    return all[a].readings.size() > all[b].readings.size();
  });
  const auto grow_alike = [](const Piece& a, const Piece& b) {
    std::map<std::size_t, double> of_b;
    for (const TrackReading& r : b.readings) of_b[r.frame] = r.value;
    double sa = 0.0;
    double sb = 0.0;
    double sab = 0.0;
    double n = 0.0;
    for (const TrackReading& r : a.readings) {
      const auto found = of_b.find(r.frame);
      if (found == of_b.end()) continue;
      sa += r.value;
      sb += found->second;
      sab += r.value * found->second;
      n += 1.0;
    }
    return n > 0.0 ? sab - sa * sb / n : 0.0;
  };
  for (std::size_t k = 1; k < order.size(); ++k) {
    double vote = 0.0;
    for (std::size_t before = 0; before < k; ++before) {
      vote += all[order[before]].sign * grow_alike(all[order[k]], all[order[before]]);
    }
    all[order[k]].sign = vote < 0.0 ? -1.0 : 1.0;
  }
}

void best_signs(Additive& model, const Execution& execution) {
  Seeded random(1);
  signs_by_growth(model);
  double least = settle_signs(model);
  std::vector<double> best = signs_of(model);
  // Many pieces hold each other; a few have many ways, which are soon looked at.
  const int tries = is_large(model) ? 0 : starts;
  for (int i = 0; i < tries; ++i) {
    execution.check();
    for (Piece& p : model.pieces()) p.sign = random.next() < 0.5 ? 1.0 : -1.0;
    const double cost = settle_signs(model);
    if (cost >= least - 1e-9) continue;
    least = cost;
    best = signs_of(model);
  }
  set_signs(model, best);
  model.solve(6);
}

// Whether everything after some frame could be mirrored as well: it is told by too few lamps there
// which way the focus goes on.
bool may_turn_back(Additive& model, double least_change) {
  const double cost = model.solve(3);
  const std::vector<double> signs = signs_of(model);
  const std::vector<double> focus = model.focus();
  std::vector<std::size_t> ends;
  for (const Piece& p : model.pieces()) ends.push_back(p.readings.back().frame);
  std::sort(ends.begin(), ends.end());
  ends.erase(std::unique(ends.begin(), ends.end()), ends.end());
  constexpr std::size_t most_looked_at = 24;
  const std::size_t step = is_large(model) ? ends.size() / most_looked_at + 1 : 1;
  bool open = false;
  for (std::size_t k = 0; k < ends.size(); k += step) {
    const std::size_t end = ends[k];
    bool any = false;
    bool rest = false;
    for (Piece& p : model.pieces()) {
      const std::size_t middle = p.readings[p.readings.size() / 2].frame;
      if (middle > end) p.sign = -p.sign;
      (middle > end ? any : rest) = true;
    }
    if (any && rest && model.solve(3) < cost + as_likely) {
      // It matters where that makes another curve, or the mirrored one, of it.
      double apart = 0.0;
      double mirrored = 0.0;
      for (std::size_t f = 0; f < focus.size(); ++f) {
        if (!model.told(f)) continue;
        apart = std::max(
            apart, std::abs(model.focus()[f] - model.focus().front() - focus[f] + focus.front()));
        mirrored = std::max(mirrored, std::abs(model.focus()[f] - model.focus().front() + focus[f] -
                                               focus.front()));
      }
      open = open || std::min(apart, mirrored) > least_change;
    }
    set_signs(model, signs);
  }
  model.solve(6);
  return open;
}

// A lamp that moves is off by more than its readings say.
void find_movers(Additive& model) {
  for (int round = 0; round < 4; ++round) {
    for (std::size_t p = 0; p < model.pieces().size(); ++p) {
      Piece& piece = model.pieces()[p];
      double off = 0.0;
      double own = 0.0;
      for (const TrackReading& r : piece.readings) {
        off += std::min(std::pow(model.left_over(p, r), 2.0), 100.0 * r.sigma * r.sigma);
        own += r.sigma * r.sigma;
      }
      const auto n = static_cast<double>(piece.readings.size());
      piece.moves = std::sqrt(std::max(0.0, (off - own) / n));
    }
    model.solve(3);
  }
}

// By how much all discs of frames are larger than the focus alone makes them: how far its middle
// reaches from the 10 % to the 90 % point, logarithm.
double grown_alike(const Additive& model, std::size_t frames) {
  struct Sums {
    double n = 0.0, x = 0.0, y = 0.0, xx = 0.0, xy = 0.0;
  };
  std::vector<Sums> sums(frames);
  for (std::size_t p = 0; p < model.pieces().size(); ++p) {
    const Piece& piece = model.pieces()[p];
    for (const TrackReading& r : piece.readings) {
      const double sigma = std::hypot(r.sigma, piece.moves);
      const double w = 1.0 / (sigma * sigma);
      // s r = k (q − d): k is the slope against −d.
      const double x = -model.lamp(p);
      const double y = piece.sign * r.value;
      Sums& s = sums[r.frame];
      s.n += w;
      s.x += w * x;
      s.y += w * y;
      s.xx += w * x * x;
      s.xy += w * x * y;
    }
  }
  std::vector<double> slopes;
  for (const Sums& s : sums) {
    if (!(s.n > 0.0)) continue;
    const double spread = s.xx - s.x * s.x / s.n;
    // Worth asking where the slope is known to a third of what is looked for.
    if (!(spread > std::pow(3.0 / alike, 2.0))) continue;
    slopes.push_back((s.xy - s.x * s.y / s.n) / spread);
  }
  if (slopes.size() < 8) return 0.0;
  std::sort(slopes.begin(), slopes.end());
  const double low = slopes[slopes.size() / 10];
  const double high = slopes[slopes.size() - 1 - slopes.size() / 10];
  return low > 0.0 ? std::log(high / low) : 1.0;
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
    Additive model(connected(pieces), telling_.size());
    if (model.pieces().size() < least_lamps) return "too few lamps are seen in the same frames";
    best_signs(model, settings_.execution);
    settings_.execution.tell(0.5);
    find_movers(model);
    const double way = likeness_to_notes(model) < 0.0 ? -1.0 : 1.0;
    for (int round = 0; round < 2; ++round) mind_bellows(model, way);
    const double grown = grown_alike(model, telling_.size());
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
  void mind_bellows(Additive& model, double way) const {
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
  double likeness_to_notes(const Additive& model) const {
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
  void take_points(const Additive& model, double way) {
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

  double left_over_px(const Additive& model) const {
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
