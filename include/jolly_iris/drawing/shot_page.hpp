// A shot's page from the shot itself: everything that it shows is gathered here.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/workflow/lens_tries.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct ShotPageRequest {
  ShotRequest shot{};
  std::vector<std::string> pictures{};  ///< made so far, to be shown
  Steps steps{};                        ///< values to slide through, rendered now
  std::string sharp{};                  ///< with depth, to blur for the steps; empty: traced
  std::string cg{};                     ///< a render to compare with the plate
  bool match = false;                   ///< what the plate says of the notes
  bool bokeh = false;                   ///< a sheet of the lens's discs
};

struct ShotPage {
  std::string html{};
  std::vector<std::string> notes{};  ///< of the pictures that it shows, see Frame::notes
};

/// @throws UsageError for a plate of another shape than the delivered picture, for steps that
/// change
///         the framing of a given sharp picture, for a match or comparison without a plate; as what
///         it shows throws
ShotPage shot_page(const ShotPageRequest& request, const LoadedShot& loaded,
                   std::vector<std::string>& files, const Execution& execution = {});

}  // namespace jolly_iris
