// All that a picture tells of its finish.
//
//   const FinishInPlate f = finish_in(plate, {.steps = 255});
//   if (f.grain.grain) f.grain.grain->grey[1].value;     // of green at mid-grey
//
// Each part is found by itself, and each says why where it is not: corners_in_plate.hpp,
// grain_in_plate.hpp, halo_in_plate.hpp, rays_in_plate.hpp, smear_in_plate.hpp.
#pragma once

#include <optional>

#include "jolly_iris/export.hpp"
#include "jolly_iris/measure/corners_in_plate.hpp"
#include "jolly_iris/measure/grain_in_plate.hpp"
#include "jolly_iris/measure/halo_in_plate.hpp"
#include "jolly_iris/measure/rays_in_plate.hpp"
#include "jolly_iris/measure/smear_in_plate.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/optics/finish.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// What a picture's file did to it.
struct FileMarks {
  double steps = 0.0;     ///< from 0 to 1 (255 of an 8-bit one); 0: finer than can be seen
  double clips_at = 0.0;  ///< light from which it is cut off; 0: nowhere
  bool coded = false;     ///< in blocks, as JPEG has them
};

struct FinishInPlate {
  HaloFinding halo{};
  RaysFinding rays{};
  SmearFinding smear{};
  CornersFinding corners{};
  GrainFinding grain{};
};

/// @param camera whose opening spikes are held against; none: they are only counted
/// @param halo whether it is looked for: it takes the longest
/// @throws as grain_in and the others
FinishInPlate finish_in(const Picture& picture, const FileMarks& marks,
                        const std::optional<VirtualCamera>& camera = {},
                        const Execution& execution = {}, bool halo = true);

/// What a finish would be told to make such halo, streak, corners and grain, in px of the picture
/// that was measured; a part that was not told is none. A smear is the shutter's, and spikes are
/// the opening's: they need no number.
Finish finish_like(const FinishInPlate& found);

}  // namespace jolly_iris
