// Results of the workflow as what the drawings take: sheets with names and words.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/drawing/curve_sheet.hpp"
#include "jolly_iris/drawing/exposure_sheet.hpp"
#include "jolly_iris/drawing/labelled_sheet.hpp"
#include "jolly_iris/drawing/marked_picture.hpp"
#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/camera_sequence.hpp"
#include "jolly_iris/workflow/comparison.hpp"
#include "jolly_iris/workflow/disc_measurement.hpp"
#include "jolly_iris/workflow/disc_rows.hpp"
#include "jolly_iris/workflow/exposure_look.hpp"
#include "jolly_iris/workflow/finish_measurement.hpp"
#include "jolly_iris/workflow/lens_tries.hpp"
#include "jolly_iris/workflow/line_measurement.hpp"
#include "jolly_iris/workflow/shot_list.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// So many cells as a sheet that is about as wide as high.
struct SheetGrid {
  std::size_t across = 1;
  std::size_t down = 1;
};
SheetGrid grid_of(std::size_t cells);
/// Puts them there, row by row, without names of rows and columns.
void lay_out(std::vector<SheetCell> cells, const SheetGrid& grid, LabelledSheet& sheet);

/// A plate with the discs that were found in it.
MarkedPicture disc_overlay(const DiscMeasurement& discs, const LoadedShot& loaded);

/// A plate with what told of its finish.
MarkedPicture finish_overlay(const FinishMeasurement& measured, const LoadedShot& loaded);

/// A plate with the edges that were drawn in it, each with how far it is off the fit.
/// @throws UsageError for a shot without a plate
/// @param notes gets what reading the plate decided or doubts
MarkedPicture line_overlay(const LineMeasurement& lines, const LoadedShot& loaded,
                           std::vector<std::string>& notes, std::vector<std::string>& files);

/// A picture, its map of stops, its histogram and what was found of its light.
ExposureSheet look_sheet(const ExposureLook& look, const Frame& frame, const LoadedShot& loaded);

/// Discs over the frame, a row for each distance.
LabelledSheet discs_sheet(const LoadedShot& loaded, const std::vector<DiscRow>& rows);

/// Tries beside each other: as discs (as many rows for each try), or as pictures of the scene.
LabelledSheet tries_sheet(const LensTries& tries, const std::vector<DiscRow>& rows);
LabelledSheet tries_sheet(const LensTries& tries, const TriedScenes& scenes);
/// Room of one of so many pictures of the scene, px.
SheetRoom room_of_try(std::size_t tries);

/// The plates of a list of shots, small, with their words; one that is not there stays empty.
std::vector<SheetCell> shot_pictures(const ShotList& list, std::vector<std::string>& notes,
                                     const Execution& execution);
LabelledSheet shots_sheet(const ShotList& list, const std::vector<SheetCell>& pictures);

/// The camera over frames. @param notes gain which of the strip's plates could not be read
CurveSheet sequence_sheet(const CameraSequence& sequence, std::vector<std::string>& notes);

/// The plate beside CG, with the places marked in both where they differ most.
MarkedPicture differing_places(const PlateComparison& comparison);

/// The reference and all tries, each with what made it and how it differs.
LabelledSheet comparison_sheet(const PlateComparison& comparison);

}  // namespace jolly_iris
