// A plate and a CG picture of the same framing: what differs, as an artist would name it, and what
// to change next.
//
//   const ImageComparison like = compare_images(plate, cg);
//   like.larger.value;                       // 0.04: CG's discs are 4 % larger
//   for (const Suggestion& m : suggestions(like, shot)) fmt::print("{}\n", m.message);
//
// Light is compared in regions, discs one by one where both pictures show one at the same place,
// edges where both have one. Before discs and edges are looked at, CG gets the plate's exposure
// and its clipping, so that like is compared with like.
//
// Margins are two standard deviations.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/measure/discs.hpp"
#include "jolly_iris/optics/plate_match.hpp"
#include "jolly_iris/optics/shot.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// One disc in both pictures, px of the compared size.
struct DiscPair {
  PlateDisc plate{};
  PlateDisc cg{};
  double larger = 0.0;  ///< logarithm of CG's height over the plate's
  double sigma = 0.0;
};

/// One edge in both: the deviation of its blur across it, px.
struct EdgePair {
  std::array<double, 2> at{};
  double plate_px = 0.0;
  double cg_px = 0.0;
  std::optional<Length> distance{};  ///< axial, of the nearer side, where CG has a depth
};

/// Where both pictures still differ once CG has the plate's exposure, px of the compared size.
struct DifferingPlace {
  Box box{};
  double off = 0.0;    ///< root mean square of what differs, of the sRGB-encoded whole
  double noise = 0.0;  ///< of it, what both pictures' noise explains
  double stops = 0.0;  ///< mean by which CG is brighter there
  int discs = 0;       ///< paired discs in it
};

/// What is left over after exposure and white: whether it is noise, and where it is not.
struct LeftOver {
  double off = 0.0;       ///< root mean square over all of the picture, of the encoded whole
  double noise = 0.0;     ///< of one pixel's difference, likewise
  double fraction = 0.0;  ///< share of the picture that differs by more than noise
  std::vector<DifferingPlace> places{};  ///< the most differing first; at most five
};

struct ImageComparison {
  PixelSize size{};  ///< at which they were compared: the smaller of both
  Box part{};        ///< that was compared, px of that size; all of it, or what was asked for
  double psnr_db = 0.0;
  double psnr_lit_db = 0.0;  ///< with CG's exposure and white brought to the plate's
  PlateMatch light{};        ///< by regions
  FoundDiscs plate_discs{};
  FoundDiscs cg_discs{};
  std::vector<DiscPair> discs{};
  Measured larger{};  ///< share by which CG's discs are larger; margin 0: no pairs
  Measured higher{};  ///< the same of their height over width
  /// By how much CG's iris is turned against the plate's, −180/n … 180/n degrees; margin 0: not
  /// known. Which way up either shows discs is decided for both together, by the pairs.
  Measured turned_deg{};
  Measured edge_falloff_stops{};  ///< CG's rim against the plate's
  Measured red_px{};  ///< red fringe, CG's against the plate's; of discs that do not clip
  Measured blue_px{};
  std::vector<EdgePair> edges{};
  LeftOver left{};
  /// Correlation of what both show at a hundred-and-somethingth of the picture's width: 1 for the
  /// same view, 0 for another; none where either shows nothing.
  std::optional<double> view_likeness{};
  bool same_view = true;     ///< else nothing of the above tells anything
  double plate_grain = 0.0;  ///< deviation of a pixel, as a share of its light
  double cg_grain = 0.0;
};

struct ImageComparisonSettings {
  double min_px = 12.0;        ///< diameter of the smallest disc looked for
  std::vector<Box> regions{};  ///< px of the plate; empty: a grid over all of it
  std::optional<Box> box{};    ///< only this part, px of the plate; discs whose middle is within
  Primaries primaries = Primaries::rec709;
  DiscHints hints{};  ///< for the plate, px of it
  Execution execution{};
};

/// @param cg of the plate's shape, of any size; with a depth, edges know their distance
/// @throws UsageError for pictures of other shapes; PictureError for pictures under 24 px or with
///         values that are no numbers
ImageComparison compare_images(const Picture& plate, const Frame& cg,
                               const ImageComparisonSettings& settings = {});

/// The pictures as they were compared: of one size, CG with the plate's exposure and white.
struct SameSizePair {
  Picture plate{};
  Picture cg{};
  Picture cg_lit{};
};
SameSizePair of_one_size(const Picture& plate, const Picture& cg);

/// One thing to change in the shot of the CG picture, or in the picture.
struct Suggestion {
  enum class In { shot, exposure, white };
  std::string key{};      ///< "take.stop"; empty: it is no key of a shot file
  std::string now{};      ///< "f/2"
  std::string to{};       ///< "f/2.11"
  std::string message{};  ///< why, and what it brings
  double weight = 0.0;    ///< how far off it is, in margins (or in just visible steps)
  In in = In::shot;
  double stops = 0.0;  ///< with In::exposure: by so many
};

/// How CG was made, as far as it is known.
struct CgMade {
  Shot shot{};        ///< with which
  bool told = false;  ///< by the picture itself; else it is assumed
};

/// What to do, the most visible first. What is within its margin, or below what is seen (1 % of a
/// disc, 0.05 stops, 0.3 px), is not told; of pictures of two views nothing is.
/// @param grain also of how noisy both are; what compares their finishes tells it better
std::vector<Suggestion> suggestions(const ImageComparison& like, const CgMade& made,
                                    bool grain = true);

}  // namespace jolly_iris
