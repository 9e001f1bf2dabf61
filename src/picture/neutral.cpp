#include "jolly_iris/picture/neutral.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>
#include <vector>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/white.hpp"

namespace jolly_iris {

namespace {

constexpr int patch_px = 8;                // px of a patch
constexpr double wanted_fraction = 0.002;  // of all patches, as the brightest ones
constexpr double near_white = 0.02;        // tint that real lights have

struct Patch {
  Rgb mean{};
  double luminance = 0.0;
};

// Patches that are lit, finite and nowhere clipped.
std::vector<Patch> patches_of(const Picture& picture, Primaries primaries, double clips_at) {
  const Rgb w = luminance_weights(primaries);
  std::vector<Patch> patches;
  for (int top = 0; top < picture.height(); top += patch_px) {
    for (int left = 0; left < picture.width(); left += patch_px) {
      const int bottom = std::min(picture.height(), top + patch_px);
      const int right = std::min(picture.width(), left + patch_px);
      Patch patch;
      bool good = true;
      for (int y = top; y < bottom; ++y) {
        for (int x = left; x < right; ++x) {
          const Rgba& p = picture.at(x, y);
          for (std::size_t c = 0; c < 3; ++c) {
            const auto v = static_cast<double>(p[c]);
            good = good && std::isfinite(v) && v < clips_at;
            patch.mean[c] += v;
          }
        }
      }
      const auto n = static_cast<double>((bottom - top) * (right - left));
      for (double& v : patch.mean) v /= n;
      patch.luminance = w[0] * patch.mean[0] + w[1] * patch.mean[1] + w[2] * patch.mean[2];
      good = good && patch.mean[0] > 0.0 && patch.mean[1] > 0.0 && patch.mean[2] > 0.0;
      if (good) patches.push_back(patch);
    }
  }
  return patches;
}

std::optional<White> white_like(const Rgb& rgb, Primaries primaries) {
  try {
    return white_of_patch(rgb, primaries);
  } catch (const OpticsError&) {
    return std::nullopt;
  }
}

}  // namespace

Neutral find_neutral(const Picture& picture, NeutralBy by, Primaries primaries, double clips_at) {
  if (picture.empty()) throw PictureError("has no pixels to find a white in");
  std::vector<Patch> patches = patches_of(picture, primaries, clips_at);
  const double all = std::ceil(static_cast<double>(picture.width()) / patch_px) *
                     std::ceil(static_cast<double>(picture.height()) / patch_px);
  if (patches.empty()) {
    throw PictureError("has no patch that is lit and not clipped, so no white can be found in it");
  }
  Neutral neutral;
  double taken = 0.0;
  if (by == NeutralBy::grey_world) {
    for (const Patch& p : patches) {
      for (std::size_t c = 0; c < 3; ++c) neutral.rgb[c] += p.mean[c];
    }
    taken = static_cast<double>(patches.size());
  } else {
    std::sort(patches.begin(), patches.end(),
              [](const Patch& a, const Patch& b) { return a.luminance > b.luminance; });
    const double enough = std::max(1.0, wanted_fraction * all);
    for (const Patch& p : patches) {
      const auto white = white_like(p.mean, primaries);
      if (!white || std::abs(white->tint) > near_white) continue;
      for (std::size_t c = 0; c < 3; ++c) neutral.rgb[c] += p.mean[c];
      taken += 1.0;
      if (taken >= enough) break;
    }
    if (taken == 0.0) {
      throw PictureError("has nothing that could be white in some light; point at a grey patch");
    }
  }
  for (double& v : neutral.rgb) v /= taken;
  neutral.fraction = taken / all;
  const auto white = white_like(neutral.rgb, primaries);
  if (!white) {
    throw PictureError(fmt::format(
        "has a mean of {:.3g}, {:.3g}, {:.3g}, which no white light makes of grey; point at a grey "
        "patch",
        neutral.rgb[0], neutral.rgb[1], neutral.rgb[2]));
  }
  neutral.white = *white;
  return neutral;
}

}  // namespace jolly_iris
