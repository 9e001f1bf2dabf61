// A picture, or layers of it, through a shot's lens: read, blurred, ready to be written.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/picture/defocus.hpp"
#include "jolly_iris/workflow/frame_run.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A flat picture with alpha, all of it at one distance.
struct PictureCard {
  std::string file{};
  std::string at{};  ///< a subject, or a distance
};

/// "boat.png=boat", "reeds.png=1.2 m". @throws UsageError for text without a = between two parts
PictureCard picture_card(const std::string& text);

struct DefocusRequest {
  std::vector<std::string> pictures{};  ///< one, or layers from front to back
  std::vector<std::string> holdouts{};  ///< those of them that only hide
  /// Laid over the pictures by their distance, nearest in front; as many as wanted.
  std::vector<PictureCard> cards{};
  // what is how far away
  std::string distance{};  ///< of all of the picture: a length, or a subject
  std::string depth{};     ///< a depth picture of its own
  std::string blur{};      ///< a picture of signed CoC in px, or with `max_blur` of 0 … 1
  std::optional<double> max_blur{};
  std::string save_blur{};  ///< writes each pixel's disc
  bool mend_depth = false;  ///< its edges are averages
  // edges and light
  FrameEdge edge = FrameEdge::repeat;
  Margin margin{};  ///< that the picture has beyond the frame, px; else what its data window has
  bool vignetting = true;
  bool squeezed = false;  ///< the picture is as the sensor has it
  std::optional<double> clipped_at{};
  std::optional<double> true_peak{};
  bool finish = false;  ///< the shot's finish besides: lift before the blur, the rest behind it
  std::optional<double> frame{};  ///< whose grain; none: the one that the shot is answered at
  // drafts
  bool half = false;
  std::optional<Box> box{};
  Decoding decoding{};
};

struct DefocusedPicture {
  Frame frame{};
  std::size_t layers = 1;
  double pixel_aspect = 1.0;
  std::map<std::string, std::string> header{};  ///< what its header says besides the camera
  double fraction_of_work = 1.0;                ///< of a draft, against the whole
  std::vector<std::string> notes{};             ///< what was done to the input, a sentence each
  std::vector<std::string> warnings{};          ///< what looks wrong with it
};

/// @throws as defocus and read_picture, with the file's name; UsageError for a holdout that is no
///         layer; Cancelled
DefocusedPicture defocus_picture(const DefocusRequest& request, const LoadedShot& loaded,
                                 std::vector<std::string>& files, const Execution& execution = {});

/// A picture, and how large each of its pixels' discs is: signed px, as defocus_picture would have
/// it.
struct PictureWithBlur {
  Frame frame{};
  std::vector<float> coc_px{};
  std::vector<std::string> notes{};
};

/// @param request with one picture, whose `decoding`, `depth`, `distance`, `blur` and `max_blur`
/// count
/// @throws as defocus_picture
PictureWithBlur picture_with_blur(const DefocusRequest& request, const LoadedShot& loaded,
                                  std::vector<std::string>& files);

/// A sequence: "####" in names stands for the frame's number.
/// @throws as make_frames and defocus_picture
FrameRun defocus_frames(const DefocusRequest& request, const std::vector<std::string>& names,
                        const FrameRunSettings& settings, const LoadedShot& loaded,
                        std::vector<std::string>& files, const Execution& execution = {});

}  // namespace jolly_iris
