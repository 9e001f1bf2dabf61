// What discs, irises and lenses are like, in words and as JSON.
#pragma once

#include <string>
#include <vector>

#include "disk/json.hpp"
#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/vignetting_mask.hpp"
#include "jolly_iris/workflow/disc_rows.hpp"
#include "jolly_iris/workflow/lens_tries.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

/// "boat, 2.35 m", or the distance alone.
std::string row_name(const DiscRow& row);
/// "84 x 84 px"; "-0.31 stops"; "rim +0.50 stops".
std::string size_text(const BokehDisc& d);
std::string light_text(const BokehDisc& d);
std::string rim_text(double stops);
/// "7 blades, flattened by 1.2 %, 661.0 mm2 open, 1.00 times as high as wide, even".
std::string shape_text(const VirtualCamera& c);
/// "25.9 x 14.6 mm".
std::string gate_text(const VirtualCamera& c);

std::string opening_text(const VirtualCamera& c);
Json opening_json(const VirtualCamera& c);

/// Discs in the middle, half-way out and in a corner, a line a distance.
/// @param glass traces them; null: the thin lens's
std::string discs_table(const VirtualCamera& c, const std::vector<DiscRow>& rows,
                        const GlassCamera* glass = nullptr);
Json discs_json(const VirtualCamera& c, const std::vector<DiscRow>& rows,
                const GlassCamera* glass = nullptr);

/// How the squeeze goes with the focus, and what that does to shapes; nothing where none is.
std::string squeeze_text(const LoadedShot& loaded);
void add_squeeze_json(const LoadedShot& loaded, Json& json);

/// Focal length, gate and blur of each lens.
std::string lenses_table(const LensTries& tries);
Json lenses_json(const LensTries& tries);

/// Blur, exposure and white of each variant beside the shot, as their sheet has them.
std::string variants_table(const LensTries& tries);
Json variants_json(const LensTries& tries);

/// How many rays a pixel keep the noise of highlights low.
struct RaysQuestion {
  double noise = 0.05;  ///< wanted, as a fraction
  double contrast = 100.0;
  double highlight_px = 2.0;
};
struct RaysAnswer {
  std::string name{};
  double coc_px = 0.0;
  long rays = 0;
};
/// @param at distances that are asked about; none: all subjects in the picture, and infinity
std::vector<RaysAnswer> rays_needed(const Answer& answer, const RaysQuestion& question,
                                    const std::vector<DiscRow>& at = {});
std::string rays_text(const std::vector<RaysAnswer>& rays, const RaysQuestion& question);
void add_rays_json(const std::vector<RaysAnswer>& rays, Json& json);

Json mask_json(const VignettingMask& mask);

/// The lens for a renderer's own sampling (lens_sampler.hpp), as one line of JSON.
std::string lens_table(const VirtualCamera& c);

}  // namespace report
}  // namespace jolly_iris
