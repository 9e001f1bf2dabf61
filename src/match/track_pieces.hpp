// Diameters of a lamp's discs over frames, cut where the lamp may have gone through the focus.
#pragma once

#include <string>
#include <vector>

namespace jolly_iris::matching {

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

/// Adds a track's pieces. @param through diameters so small, in dioptres, may be on either side
void add_pieces(const std::string& lamp, std::vector<TrackReading> readings, double through,
                std::vector<Piece>& out);

/// Those that hang together by frames that they share: of such groups the one with most readings.
/// @param all at least one
std::vector<Piece> connected(const std::vector<Piece>& all);

}  // namespace jolly_iris::matching
