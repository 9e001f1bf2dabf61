#include "jolly_iris/workflow/comparison.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture/region_light.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/finish_measurement.hpp"

namespace jolly_iris {

namespace {

std::string file_name(const std::string& path) {
  return std::filesystem::path(path).filename().string();
}

TriedPicture read_try(const std::string& file, const ComparisonRequest& request,
                      const LoadedShot& loaded, std::vector<std::string>& files) {
  TriedPicture t{file, {}, {}, read_for_shot(file, request.decoding, loaded, files)};
  t.origin = read_origin(file);
  t.made = {shot_of(t.origin, loaded), t.origin.told()};
  return t;
}

// The plate with what is drawn in it: regions of light, and lamps.
Frame read_reference(const LoadedShot& loaded, const ComparisonRequest& request,
                     ImageComparisonSettings& settings) {
  const PlateEntry& plate = *loaded.now.plate;
  Frame reference = read_plate(plate);
  const Picture& picture = reference.colour;
  const double to_plate = static_cast<double>(picture.width()) / loaded.now.body.pixels.width;
  for (const DrawnBox& b : plate.marks.boxes) {
    if (request.box) break;  // its own light is asked for, not that of drawn regions
    settings.regions.push_back(box_in_picture(b.box, loaded.now.body.pixels, picture.size()));
  }
  settings.hints.lamps = plate.marks.lamps;
  for (DrawnLamp& lamp : settings.hints.lamps) {
    for (double& v : lamp.at) v *= to_plate;
    if (lamp.diameter) *lamp.diameter *= to_plate;
  }
  return reference;
}

// Corners that are off make all of the picture brighter or darker: what is advised for its light is
// what is left when they are right.
void without_corners(const FinishComparison& finish, std::vector<Suggestion>& advised) {
  const auto corners =
      std::find_if(finish.numbers.begin(), finish.numbers.end(),
                   [](const FinishDifference& d) { return d.part == FinishPart::corners; });
  if (corners == finish.numbers.end() || std::abs(corners->off.value) <= corners->off.margin)
    return;
  // (r / corner)² has the mean 1/3 over a rectangle.
  const double by_corners = corners->off.value / 3.0;
  constexpr double seen = 0.05;  // stops
  std::erase_if(advised, [&](Suggestion& s) {
    if (s.in != Suggestion::In::exposure) return false;
    s.stops -= by_corners;
    s.message = fmt::format("{} CG by {:.2f} stops, all of it, besides its corners",
                            s.stops > 0.0 ? "brighten" : "darken", std::abs(s.stops));
    return std::abs(s.stops) < seen;
  });
}

void add_finish(const LoadedShot& loaded, const ComparisonRequest& request, PlateComparison& out) {
  const ImageComparison& like = out.likes.front();
  const TriedPicture& cg = out.tries.front();
  if (!like.same_view) return;
  if (out.picture.width() != cg.frame.colour.width()) {
    out.no_finish = fmt::format(
        "finishes (grain, halo, smear …) are compared at one size only: {} is {} px wide, {} {} px",
        out.reference, out.picture.width(), file_name(cg.file), cg.frame.colour.width());
    return;
  }
  // A picture that is decoded by a table is told by its name alone.
  const auto as_picture = [&](const Picture& picture, const std::string& file) {
    const Transfer transfer = request.decoding.transfer.value_or(Transfer::srgb);
    return marks_of(picture, file, transfer == Transfer::table ? Transfer::srgb : transfer);
  };
  const FileMarks plate_marks =
      request.among_themselves
          ? as_picture(out.picture, request.pictures.front())
          : marks_of(out.picture, loaded.now.plate->file,
                     loaded.now.plate->transfer.value_or(Transfer::srgb), loaded.now.plate->curve);
  const FileMarks cg_marks = as_picture(cg.frame.colour, cg.file);
  const SameSizePair both = compared_pair(out);
  try {
    out.finish = compare_finishes(both.plate, both.cg, plate_marks, cg_marks);
  } catch (const PictureError& e) {
    out.no_finish = fmt::format("finishes are not compared: {}", e.what());
  }
}

}  // namespace

PlateComparison compare_pictures(const LoadedShot& loaded, const ComparisonRequest& request,
                                 std::vector<std::string>& files) {
  PlateComparison out;
  for (const std::string& file : request.pictures) {
    out.tries.push_back(read_try(file, request, loaded, files));
  }
  ImageComparisonSettings settings;
  settings.min_px = request.min_px;
  settings.box = request.box;
  settings.primaries = loaded.now.primaries;
  if (request.among_themselves) {
    out.reference = file_name(out.tries.front().file);
    out.picture = out.tries.front().frame.colour;
    out.notes = out.tries.front().frame.notes;
    out.tries.erase(out.tries.begin());
  } else {
    const std::string& plate = plate_file(loaded, "to compare with");
    files.push_back(plate);
    out.reference = file_name(plate);
    Frame read = read_reference(loaded, request, settings);
    out.picture = std::move(read.colour);
    out.notes = std::move(read.notes);
  }
  const auto n = static_cast<double>(out.tries.size());
  for (const TriedPicture& t : out.tries) {
    const auto i = static_cast<double>(out.likes.size());
    settings.execution = request.execution.part(i / n, (i + 1.0) / n);
    try {
      out.likes.push_back(compare_images(out.picture, t.frame, settings));
    } catch (const Cancelled&) {
      throw;
    } catch (const Error& e) {
      throw UsageError(fmt::format("{}: {}", t.file, e.what()));
    }
  }
  if (request.finish && out.tries.size() == 1) add_finish(loaded, request, out);
  return out;
}

std::vector<Suggestion> advice(const PlateComparison& comparison, std::size_t of) {
  const ImageComparison& like = comparison.likes.at(of);
  const CgMade& made = comparison.tries.at(of).made;
  std::vector<Suggestion> out = suggestions(like, made, !comparison.finish);
  if (!comparison.finish || !like.same_view) return out;
  without_corners(*comparison.finish, out);
  std::vector<Suggestion> more = finish_suggestions(*comparison.finish, made);
  out.insert(out.end(), more.begin(), more.end());
  std::stable_sort(out.begin(), out.end(),
                   [](const Suggestion& a, const Suggestion& b) { return a.weight > b.weight; });
  return out;
}

SameSizePair compared_pair(const PlateComparison& comparison) {
  SameSizePair both = of_one_size(comparison.picture, comparison.tries.front().frame.colour);
  const Box& part = comparison.likes.front().part;
  if (part.width == both.plate.width() && part.height == both.plate.height()) return both;
  for (Picture* p : {&both.plate, &both.cg}) *p = crop({*p, {}, {}}, part).colour;
  return both;
}

Picture beside(const Picture& a, const Picture& b) {
  constexpr int gap = 4;
  Picture out({a.width() + gap + b.width(), a.height()}, {0, 0, 0, 1});
  for (int y = 0; y < a.height(); ++y) {
    for (int x = 0; x < a.width(); ++x) out.at(x, y) = a.at(x, y);
    for (int x = 0; x < b.width(); ++x) out.at(a.width() + gap + x, y) = b.at(x, y);
  }
  return out;
}

Picture split(const Picture& a, const Picture& b, double at) {
  Picture out = a;
  const int line = static_cast<int>(std::lround(at * a.width()));
  for (int y = 0; y < a.height(); ++y) {
    for (int x = line; x < a.width(); ++x) out.at(x, y) = b.at(x, y);
    if (line > 0 && line < a.width()) out.at(line, y) = {1, 1, 1, 1};
  }
  return out;
}

// Around mid-grey: what is brighter in CG is brighter.
Picture difference(const Picture& a, const Picture& b, double times) {
  constexpr float grey = 0.18F;
  Picture out(a.size());
  for (std::size_t i = 0; i < a.pixels().size(); ++i) {
    for (std::size_t c = 0; c < 3; ++c) {
      out.pixels()[i][c] = grey + static_cast<float>(times) * (b.pixels()[i][c] - a.pixels()[i][c]);
    }
    out.pixels()[i][3] = 1.0F;
  }
  return out;
}

}  // namespace jolly_iris
