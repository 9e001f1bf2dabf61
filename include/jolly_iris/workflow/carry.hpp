// The look of a master shot taken to others: how blurred something is, what discs look like, light,
// white and finish.
//
// The blur is kept by the stop, since the lens and the place of another shot are its own:
// c₂/c₁ = D₂v₂(1/s₂ − 1/z₂) / (D₁v₁(1/s₁ − 1/z₁)), solved for D₂.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/carried_value.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/optics/exposure_hold.hpp"
#include "jolly_iris/workflow/load.hpp"
#include "jolly_iris/workflow/sequence.hpp"
#include "jolly_iris/workflow/shot_list_edit.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// In what a blur is the same.
enum class BlurMeasure {
  pixels,   ///< of the delivered picture
  picture,  ///< as a share of the picture's width
  subject   ///< as a share of the focused subject's size in the picture
};

struct CarryRequest {
  ShotRequest master{};
  std::vector<std::string> to{};  ///< shot files
  bool blur = true;
  bool disc = false;      ///< blades, rims and faults of the lens: what discs look like
  bool exposure = false;  ///< as much light as the master's take lets in
  bool white = false;     ///< what the master's camera was told
  bool finish = false;    ///< with lengths in px scaled by the picture's width
  std::string of{};       ///< whose blur: a subject that all have; empty: what is infinitely far
  BlurMeasure in = BlurMeasure::picture;
  Partner pays = Partner::iso;  ///< who holds the exposure
  FrameRequest frames{};        ///< of the other shots; not asked: the frame they are answered at
  Execution execution{};
};

/// A blur as the master has it.
struct MasterBlur {
  double px = 0.0;     ///< signed
  double value = 0.0;  ///< in the measure that is kept
};

struct CarriedFrame {
  std::optional<double> frame{};
  double now_px = 0.0;             ///< as the shot is
  double wanted_px = 0.0;          ///< as the master's would be there
  double gets_px = 0.0;            ///< with `stop`
  std::optional<Stop> stop{};      ///< none: no stop does it
  std::optional<double> ev_off{};  ///< stops of light that the new stop adds, against the master's
  std::string note{};              ///< what stands in the way
};

struct CarriedKey {
  std::string key{};
  std::string text{};  ///< as --set takes it
};

struct CarriedShot {
  std::string file{};
  std::string name{};
  std::vector<CarriedFrame> frames{};
  std::vector<CarriedKey> keys{};    ///< for all frames: disc, exposure, white, finish, one stop
  std::vector<std::string> notes{};  ///< what was left behind, and why
  std::string problem{};             ///< why nothing could be carried to it
};

struct Carried {
  std::string master{};
  std::string of{};  ///< "footbridge", "infinity"
  std::optional<MasterBlur> blur{};
  std::vector<CarriedShot> shots{};
};

/// @throws as open_shot for the master; UsageError for a subject that it has not, or a measure that
///         is not known. What is wrong with another shot is said in its row. Cancelled
Carried carry(const CarryRequest& request, std::vector<std::string>& files);

/// The same as changes of the files: into [variant.NAME] of each, for write_shot_list. A stop that
/// differs by frame goes over frames.
/// @param journal beside which file the journal stands while they are written: the master's
/// @throws UsageError for a name that cannot be one
ShotListEdit carried_variants(const Carried& carried, const std::string& variant,
                              const std::string& journal);

/// "9 at 20 m, 14 at 12 m". @throws UsageError
std::vector<FeltValue> felt_values(const std::string& text);

}  // namespace jolly_iris
