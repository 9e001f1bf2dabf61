// CG pictures of a shot against its plate, or tries of it against each other.
//
//   const PlateComparison c = compare_pictures(loaded, {.pictures = {"try.exr"}}, files);
//   c.likes.front().psnr_db;
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/measure/finish_comparison.hpp"
#include "jolly_iris/measure/image_comparison.hpp"
#include "jolly_iris/workflow/load.hpp"
#include "jolly_iris/workflow/picture_origin.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct ComparisonRequest {
  std::vector<std::string> pictures{};  ///< at least one
  bool among_themselves = false;        ///< with the first of them instead of the plate
  std::optional<Box> box{};             ///< only this part, px of the reference
  double min_px = 12.0;                 ///< diameter of the smallest disc looked for
  Decoding decoding{};                  ///< of the pictures, not of the plate
  bool finish = true;                   ///< of one picture: its finish too
  Execution execution{};
};

/// One picture, and what its file says made it.
struct TriedPicture {
  std::string file{};
  PictureOrigin origin{};
  CgMade made{};  ///< the shot as it was then; without a header as it is now
  Frame frame{};
};

struct PlateComparison {
  std::string reference{};           ///< name of the plate's file, or of the first picture's
  Picture picture{};                 ///< what the tries are compared with
  std::vector<std::string> notes{};  ///< what reading it decided or doubts
  std::vector<TriedPicture> tries{};
  std::vector<ImageComparison> likes{};      ///< one a try
  std::optional<FinishComparison> finish{};  ///< of one try of the plate's size
  std::string no_finish{};                   ///< a sentence where there is none, though asked for
};

/// @throws UsageError for a shot without a plate, and for pictures that are no match of it, by name
PlateComparison compare_pictures(const LoadedShot& loaded, const ComparisonRequest& request,
                                 std::vector<std::string>& files);

/// What to change of a try, the most visible first: camera, light and finish.
std::vector<Suggestion> advice(const PlateComparison& comparison, std::size_t of);

/// The reference and the first try as they were compared: of one size, the part that was asked for.
SameSizePair compared_pair(const PlateComparison& comparison);

/// What a picture was made with is kept in its header behind these words.
inline constexpr const char* made_with_mark = "Jolly Iris: ";

/// Two pictures of one height beside each other.
Picture beside(const Picture& a, const Picture& b);
/// The first left of a line, the second right of it. @param at of the width, 0 … 1
Picture split(const Picture& a, const Picture& b, double at);
/// b − a, enlarged, around mid-grey: what is brighter in b is brighter.
Picture difference(const Picture& a, const Picture& b, double times);

}  // namespace jolly_iris
