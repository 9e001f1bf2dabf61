// The additive model of discs over frames: s r = q − d, what each frame's focus q and each piece's
// lamp d are, for sides s that are given.
//
// Source: two factors by weighted least squares (Searle, Linear Models, 1971, chapter 7).
#pragma once

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <vector>

#include "track_pieces.hpp"

namespace jolly_iris::matching {

/// What one reading may cost at the most, in squared deviations: then it is another lamp's.
inline constexpr double wild = 16.0;

class AdditiveFocus {
 public:
  explicit AdditiveFocus(std::vector<Piece> pieces, std::size_t frames)
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

/// A lamp that moves is off by more than its readings say: its pieces count less from then on.
void find_movers(AdditiveFocus& model);

/// By how much all discs of frames are larger than the focus alone makes them: how far its middle
/// reaches from the 10 % to the 90 % point, logarithm.
/// @param worth_asking how exactly a frame has to tell it to be asked
double grown_alike(const AdditiveFocus& model, double worth_asking);

}  // namespace jolly_iris::matching
