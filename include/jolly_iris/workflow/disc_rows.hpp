// Where over the frame, and at which distances, the discs of small lights are looked at.
#pragma once

#include <array>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/files/load.hpp"
#include "jolly_iris/picture/bokeh.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct DiscColumn {
  const char* name;
  FramePlace place;
};
inline constexpr std::size_t corner_column = 0;
inline constexpr std::size_t half_way_column = 1;
inline constexpr std::size_t middle_column = 2;
inline constexpr std::array disc_columns{
    DiscColumn{"upper left corner", {-0.97, 0.97}}, DiscColumn{"half-way there", {-0.5, 0.5}},
    DiscColumn{"middle", {0.0, 0.0}}, DiscColumn{"right edge", {0.97, 0.0}},
    DiscColumn{"upper right corner", {0.97, 0.97}}};

/// Lights at one distance.
struct DiscRow {
  std::string name{};
  Length z{};
};

/// @param at subjects or distances; none: as much blur in front as infinity has, half of it, the
///        focus, and likewise behind
/// @throws UsageError for what is not in front of the camera
std::vector<DiscRow> disc_rows(const LoadedShot& loaded, const std::vector<std::string>& at);

/// The same with infinity alone where nothing is asked for.
DiscRow disc_row(const LoadedShot& loaded, const std::vector<std::string>& at);

/// Width or height of the largest disc of these rows, px of the picture; at least 1.
double largest_disc(const VirtualCamera& camera, const std::vector<DiscRow>& rows,
                    const GlassCamera* glass = nullptr);

}  // namespace jolly_iris
