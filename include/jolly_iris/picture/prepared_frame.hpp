// A frame that is blurred again and again: what no lens has a say in is found once, and discs that
// come up again are not drawn again.
//
//   PreparedFrame ready(std::move(frame));
//   for (const double n : {1.4, 2.0, 2.8}) show(ready.defocus(camera_at(n)));
#pragma once

#include <cstddef>
#include <memory>
#include <optional>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/picture/defocus.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Not for several threads at once.
class PreparedFrame {
 public:
  /// @throws PictureError for colour that is not finite, with the pixel
  explicit PreparedFrame(Frame frame, const Execution& execution = {});
  ~PreparedFrame();
  PreparedFrame(PreparedFrame&&) noexcept;
  PreparedFrame& operator=(PreparedFrame&&) noexcept;
  PreparedFrame(const PreparedFrame&) = delete;
  PreparedFrame& operator=(const PreparedFrame&) = delete;

  const Frame& frame() const { return frame_; }

  /// The same picture as defocus(frame(), camera, settings) makes. @throws as that
  Picture defocus(const VirtualCamera& camera, const DefocusSettings& settings = {});

  /// Discs drawn so far, and those that were there already when a picture wanted them.
  std::size_t discs_made() const;
  std::size_t discs_reused() const;

 private:
  struct Found;
  Frame frame_;
  std::unique_ptr<Found> found_;
};

/// One of several that lie in front of each other; see DefocusLayer.
struct PreparedLayer {
  PreparedFrame frame;
  bool holdout = false;
};

/// As defocus_layers of the frames themselves.
/// @param layers from front to back, none null
/// @param distances one a layer, for those that have none of their own; or none at all
/// @throws as defocus_layers
Picture defocus_layers(const std::vector<PreparedLayer*>& layers,
                       const std::vector<std::optional<Length>>& distances,
                       const VirtualCamera& camera, const DefocusSettings& settings = {});

}  // namespace jolly_iris
