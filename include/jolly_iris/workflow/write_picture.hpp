// Pictures with the shot's camera in their headers.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// What a picture was made with, as its header keeps it: "53 mm, f/2.2, focus 2.350 m; take.stop =
/// f/2.8" (the last for what was tried).
std::string made_with(const LoadedShot& loaded);

/// What a program that opens a picture may want to know of its camera: numbers by the names that
/// docs/report-json.md lists, and the shot.
std::map<std::string, std::string> camera_header(const LoadedShot& loaded);

/// How our own pictures' depth counts, as their header's "jolly_iris:depth" says it.
inline constexpr const char* axial_metres = "axial m";

/// Writes a picture whole or not at all, with that header.
/// @param pixel_aspect a pixel's width against its height, besides what the shot says
/// @param more for the header, by name
/// @param layers besides, of an EXR
/// @throws as write_picture
void write_for_shot(const std::string& name, const Frame& frame, const LoadedShot& loaded,
                    double pixel_aspect = 1.0, const std::map<std::string, std::string>& more = {},
                    const std::vector<NamedPicture>& layers = {});

/// The size of a picture that is not desqueezed: narrower by the nominal squeeze.
/// @throws UsageError where the shot's lens does not squeeze, or its pixels are squeezed already
PixelSize squeezed_size_of(const LoadedShot& loaded, PixelSize desqueezed);

}  // namespace jolly_iris
