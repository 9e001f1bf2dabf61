// One HTML page of a shot, complete in itself: the camera, who is sharp, the plan, pictures, steps
// of a value to slide through, and the plate to point into, which gives the TOML to paste back. It
// opens from disk and asks no network.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/shot.hpp"
#include "jolly_iris/scene/answer.hpp"
#include "jolly_iris/trace/survey.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A picture as the page carries it.
struct PagePicture {
  std::string label{};
  std::string jpeg{};  ///< the bytes of a JPEG
};

/// One of several values of one key, rendered beforehand.
struct PageStep {
  std::string value{};  ///< "f/2.8"
  std::string words{};  ///< what is sharp then
  std::string jpeg{};
};

/// How bright a plate is, place by place, in stops from mid-grey.
struct PageStops {
  PixelSize size{};
  std::vector<float> stops{};  ///< row by row; −infinity: black, NaN: no number
  double clips_at = 0.0;       ///< stops from which on the plate has nothing to tell
};

/// What the plate says of the notes.
struct PageMatch {
  std::vector<std::string> words{};                 ///< the verdict, and the likeliest mistakes
  std::vector<std::array<std::string, 3>> found{};  ///< what, its value, what was noted
};

/// A render beside the plate.
struct PageCompare {
  std::string plate_jpeg{};  ///< of one size with CG's
  std::string cg_jpeg{};
  std::string label{};
  std::vector<std::array<std::string, 3>> differs{};  ///< what, how much, a word to it
  std::vector<std::string> moves{};                   ///< what to change next; empty: nothing
  std::vector<std::string> places{};                  ///< where they differ most
  std::string verdict{};                              ///< beneath all that; may be empty
};

struct Page {
  std::optional<PagePicture> plate{};  ///< of the delivered picture's shape
  std::optional<PageStops> stops{};    ///< of the plate
  /// What the exposure is made of: what, how much, a word to it.
  std::vector<std::array<std::string, 3>> exposure{};
  std::string exposure_words{};  ///< of the sheet, for those who cannot see it
  std::string exposure_png{};    ///< the plate's sheet; may be empty
  std::optional<Survey> survey{};
  std::optional<PageMatch> match{};
  std::optional<PageCompare> compare{};
  std::string bokeh_words{};
  std::string bokeh_png{};  ///< discs over the frame; may be empty
  std::vector<PagePicture> pictures{};
  std::string step_key{};
  std::vector<PageStep> steps{};
  std::size_t step_now = 0;  ///< the one that is as the shot file has it, or nearest
  std::string plan_above_svg{};
  std::string plan_side_svg{};
};

/// The page's HTML.
/// @param now the shot as it is at the answer's frame
std::string page_html(const Shot& now, const Answer& answer, const Page& page);

}  // namespace jolly_iris
