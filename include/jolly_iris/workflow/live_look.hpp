// What a shot in somebody's hand looks like: its CG picture through the lens, as a draft while
// something moves and whole when it stands still; what a place of it shows; the traced truth.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/workflow/defocus_run.hpp"
#include "jolly_iris/workflow/load.hpp"
#include "jolly_iris/workflow/preview.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// What is looked at.
struct LiveSources {
  /// CG pictures, sharp, with depth; several are layers from front to back. None: the shot's scene
  /// is traced through a pinhole; without a scene, the plate is taken as flat.
  /// "####" in names stands for the frame's number.
  std::vector<std::string> pictures{};
  std::vector<PictureCard> cards{};  ///< over them by their distance
  /// Of a picture without depth: a distance or a subject. Empty: the shot's depth.distance, else
  /// what is in focus as the shot file has it.
  std::string distance{};
  Decoding decoding{};
};

enum class LiveDetail {
  draft,  ///< quick, for something that moves
  whole   ///< as defocus makes it
};

struct LiveView {
  LiveDetail detail = LiveDetail::draft;
  PixelSize draft{480, 270};  ///< the most a draft has
  std::optional<Box> box{};   ///< a part of the whole picture, px of it; no draft
  PreviewLight light{};       ///< see light_between
  bool finished = false;      ///< the shot's finish besides, as PreviewView has it
};

struct LivePicture {
  std::shared_ptr<const Picture> picture{};  ///< never null
  std::vector<float> coc_px{};               ///< where it was asked for: px of this picture, signed
  bool draft = false;  ///< smaller than the whole, or of a framing a little out of date
};

/// What a place of the picture shows.
struct LivePlace {
  std::optional<Length> axial{};  ///< infinite: sky; none: not known
  std::string subject{};          ///< empty: none
  double coc_px = 0.0;            ///< of the delivered picture, signed
};

/// How much brighter, and in which white, a camera makes the same picture than another: by stop,
/// shutter, ISO and ND as far as both know them, and by what they were told the light is.
PreviewLight light_between(const LoadedShot& from, const LoadedShot& to);

/// May be asked from several threads.
class LiveLook {
 public:
  /// @param loaded the shot as its file has it
  /// @throws as read_picture; UsageError where there is nothing to look at
  LiveLook(LiveSources sources, const LoadedShot& loaded);
  ~LiveLook();
  LiveLook(const LiveLook&) = delete;
  LiveLook& operator=(const LiveLook&) = delete;

  /// Of the whole picture: as it was given, or traced for this shot.
  PixelSize size(const LoadedShot& loaded) const;
  /// How the picture came about, in a few words: "pinhole.exr", "regatta.gltf, traced".
  const std::string& source() const;
  /// Whether it is traced from the shot's scene, and so follows a camera that moves.
  bool is_traced() const;
  /// What reading decided or doubts.
  const std::vector<std::string>& notes() const;
  /// Files that it is made from.
  const std::vector<std::string>& files() const;

  /// @param with_coc asks for the size of each pixel's disc as well
  /// @throws as defocus and trace; Cancelled once another camera is asked for
  LivePicture at(const LoadedShot& loaded, const LiveView& view, bool with_coc = false,
                 const Execution& execution = {});

  /// @param x, y 0 … 1 from the picture's left and top
  LivePlace place(const LoadedShot& loaded, double x, double y);

  /// The scene traced through the lens.
  /// @param size of the whole picture, @param box a part of it: only that
  /// @throws UsageError for a shot without a scene, a box outside the picture; Cancelled
  Picture truth(const LoadedShot& loaded, PixelSize size, int samples,
                const std::optional<Box>& box = {}, const Execution& execution = {});

  /// Reads pictures again that were saved meanwhile. @return whether any was
  /// @throws as read_picture; then the old ones stay
  bool look_again(const LoadedShot& loaded);

  PreviewCounts counts() const;

 private:
  class Inside;
  std::unique_ptr<Inside> inside_;
};

}  // namespace jolly_iris
