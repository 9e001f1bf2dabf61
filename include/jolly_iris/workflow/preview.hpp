// A picture through a lens, again and again while the lens is turned: what did not change is not
// made again.
//
//   Preview preview({{read_for_shot("pinhole.exr", {}, loaded, files)}});
//   show(*preview.at(camera, {480, 270}));       // a draft
//   show(*preview.at(camera, preview.size()));   // as defocus makes it
#pragma once

#include <cstddef>
#include <memory>
#include <optional>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/optics/finish.hpp"
#include "jolly_iris/optics/white.hpp"
#include "jolly_iris/picture/defocus.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// What is done to the light behind the lens.
struct PreviewLight {
  double factor = 1.0;  ///< > 0
  Rgb gains{1, 1, 1};   ///< of the channels, > 0
  friend bool operator==(const PreviewLight&, const PreviewLight&) = default;
};

/// What one look asks for.
struct PreviewView {
  VirtualCamera camera{};
  PixelSize size{};  ///< of the whole picture, at most the preview's own; smaller is a draft
  std::optional<Box> box{};  ///< only this part of it, px of `size`
  /// Of layers without depth, one a layer; empty: all have depth.
  std::vector<std::optional<Length>> distances{};
  PreviewLight light{};
  /// What comes behind the lens, from halo to grain; lift and smear come before it and are left
  /// out. A draft has no spikes, which take long, and no grain, whose size it cannot show.
  Finish finish{};
  double frame = 0.0;  ///< whose grain
  /// Discs are traced through it; null: the thin lens's.
  std::shared_ptr<const GlassCamera> glass{};
};

/// What was made so far, and what was not.
struct PreviewCounts {
  std::size_t prepared = 0;  ///< layers made ready, one for each size
  std::size_t blurred = 0;   ///< pictures blurred
  std::size_t kept = 0;      ///< pictures that were there already
  std::size_t discs_made = 0;
  std::size_t discs_reused = 0;
};

/// May be asked from several threads: one picture is made at a time. A request with another camera
/// or other distances ends those that are under way, which then throw Cancelled.
class Preview {
 public:
  /// @param layers from front to back, see DefocusLayer; one picture is one layer
  /// @param settings edge, margin and vignetting count
  /// @throws PictureError for layers of different sizes, none, or colour that is not finite
  explicit Preview(std::vector<DefocusLayer> layers, DefocusSettings settings = {});
  ~Preview();
  Preview(const Preview&) = delete;
  Preview& operator=(const Preview&) = delete;

  /// Of the picture that `defocus` makes: without its margin.
  PixelSize size() const;

  /// At its full size and without `light`, the same picture as defocus (or defocus_layers) makes.
  /// Never null; shared with what the preview keeps to show again, which is why it cannot be
  /// changed.
  /// @throws as defocus; UsageError for a size larger than the picture's own or of another shape;
  ///         Cancelled
  std::shared_ptr<const Picture> at(const PreviewView& view, const Execution& execution = {});
  std::shared_ptr<const Picture> at(const VirtualCamera& camera, PixelSize size) {
    return at({camera, size});
  }

  /// How large each pixel's disc is in that view, px of it, signed; of the frontmost layer.
  /// @throws as `at`
  std::vector<float> coc(const PreviewView& view, const Execution& execution = {});
  /// What the frontmost layer has at a place of the picture (0 … 1 from its left and top): axial
  /// metres, infinity for sky; none where it has no depth.
  std::optional<float> depth_at(double x, double y) const;

  PreviewCounts counts() const;

 private:
  class Inside;
  std::unique_ptr<Inside> inside_;
};

/// The largest size of that shape within so many pixels a side, at most `whole`.
PixelSize draft_size(PixelSize whole, int width, int height);

}  // namespace jolly_iris
