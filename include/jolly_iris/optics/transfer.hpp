// How a picture file's numbers stand for light. Inside, everything is linear.
#pragma once

#include <array>
#include <string>
#include <string_view>
#include <vector>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// How a picture file's numbers stand for light.
enum class Transfer { linear, srgb, rec709, acescct, table, managed };

/// "linear", "sRGB", "Rec.709", "ACEScct", "table", "managed": by a colour config, whose spaces mix
/// channels, so that no number alone can be decoded.
std::string_view to_string(Transfer transfer);

/// A transfer curve measured or published as a table.
struct Curve {
  std::string file{};
  std::vector<std::array<double, 2>> rows{};  ///< a file's number, its light; both strictly rising
};

/// A file's number → linear light. sRGB: IEC 61966-2-1; Rec.709: the inverse of the camera curve of
/// ITU-R BT.709; both go on as odd functions below zero and unclamped above one. ACEScct: AMPAS
/// S-2016-001, without its upper end; its light is ACEScg's.
/// @throws UsageError for Transfer::table, which needs its curve, and Transfer::managed
float decode(float encoded, Transfer transfer);
/// Linear light → a file's number.
float encode(float linear, Transfer transfer);

/// By a table: straight lines between its rows, and on beyond its ends.
/// @throws UsageError for a curve of fewer than two rows
float decode(float encoded, const Curve& curve);
float encode(float linear, const Curve& curve);

/// The most light that such a file can hold where its numbers end at 1: what lies there is clipped.
double max_light(Transfer transfer, const Curve& curve = {});

}  // namespace jolly_iris
