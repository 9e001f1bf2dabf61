#include "jolly_iris/workflow/reshape_run.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture/resample.hpp"
#include "jolly_iris/picture/warp.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"

namespace jolly_iris {

namespace {

double width_to_height(PixelSize size) { return static_cast<double>(size.width) / size.height; }

bool about_equal(double a, double b) { return std::abs(a / b - 1.0) < 0.004; }

double squeeze_of(const LoadedShot& loaded) {
  if (loaded.now.lens.squeeze != 1.0) return loaded.now.lens.squeeze;
  throw UsageError(loaded.shot.where("lens.squeeze") +
                   "the lens does not squeeze; write lens.squeeze = 2");
}

// Where a picture without a margin had nothing to show, a border stays empty.
void tell_empty(const Frame& frame, MadeFrame& made) {
  std::size_t empty = 0;
  for (const Rgba& p : frame.colour.pixels()) empty += p[3] == 0.0F ? 1U : 0U;
  if (empty == 0) return;
  made.notes.push_back(fmt::format(
      "{:.1f} % of the result is empty, at its border: the straight picture has nothing there. "
      "Render it with the margin below",
      100.0 * static_cast<double>(empty) / static_cast<double>(frame.colour.pixels().size())));
}

MadeFrame bent(const ReshapeRequest& request, const LoadedShot& loaded, const Margin& margin,
               std::vector<std::string>& files) {
  const DistortionMap map = distortion_of(loaded);
  MadeFrame out;
  const Frame frame = read_for_shot(request.picture, request.decoding, loaded, files, map.margin());
  out.notes = frame.notes;
  try {
    if (request.reshape == Reshape::redistort) {
      out.frame = redistorted(frame, map);
      tell_empty(out.frame, out);
    } else {
      out.frame = undistorted(frame, map, margin);
    }
  } catch (const PictureError& e) {
    throw PictureError(request.picture + ": " + e.what());
  }
  return out;
}

// What the file says of its own pixels against what is about to be done to it.
void doubt_pixels(const ReshapeRequest& request, const LoadedShot& loaded, PixelSize size,
                  double squeeze, MadeFrame& made) {
  const std::string& picture = request.picture;
  const double aspect = read_plate_facts(picture).pixel_aspect.value_or(1.0);
  if (request.reshape == Reshape::squeeze) {
    if (std::abs(aspect / squeeze - 1.0) < 0.01) {
      throw UsageError(fmt::format(
          "{}: is squeezed already: its header says that pixels are {:g} times as wide as high",
          picture, aspect));
    }
    return;
  }
  if (aspect != 1.0 && std::abs(aspect / squeeze - 1.0) > 0.01) {
    made.warnings.push_back(fmt::format(
        "{} says that its pixels are {:g} times as wide as high, but the lens squeezes {:g} times "
        "({})",
        picture, aspect, squeeze, loaded.shot.where("lens.squeeze") + "lens.squeeze"));
  }
  if (aspect == 1.0 && size == loaded.answer.camera.pixels) {
    made.warnings.push_back(
        fmt::format("{} is as large as the delivered picture, {} x {}: if it is desqueezed "
                    "already, this does it twice",
                    picture, size.width, size.height));
  }
}

// To the delivered picture's own size where that is what it comes to: no rounding of 1706.67.
PixelSize wanted_size(const ReshapeRequest& request, const LoadedShot& loaded, PixelSize size,
                      double squeeze) {
  const PixelSize delivered = loaded.answer.camera.pixels;
  const KeptSide side = request.kept.value_or(KeptSide::height);
  if (request.reshape == Reshape::squeeze) return squeezed_size(size, squeeze, side);
  const bool fits = loaded.now.body.pixel_aspect == 1.0 &&
                    about_equal(width_to_height(size) * squeeze, width_to_height(delivered));
  const bool kept = size.height == delivered.height || size.width == delivered.width;
  if (fits && kept && !request.kept) return delivered;
  return desqueezed_size(size, squeeze, side);
}

MadeFrame squeezed(const ReshapeRequest& request, const LoadedShot& loaded,
                   std::vector<std::string>& files) {
  const double by = squeeze_of(loaded);
  MadeFrame out;
  const Frame frame = read_for_shot(request.picture, request.decoding, loaded, files);
  out.notes = frame.notes;
  const PixelSize size = frame.colour.size();
  doubt_pixels(request, loaded, size, by, out);
  const PixelSize wanted = wanted_size(request, loaded, size, by);
  out.frame = resampled(frame, wanted);
  const PixelSize delivered = loaded.answer.camera.pixels;
  const bool back = request.reshape == Reshape::squeeze;
  if (!back && !about_equal(width_to_height(wanted), width_to_height(delivered))) {
    out.notes.push_back(fmt::format(
        "the result is {:.2f} : 1, the delivered picture {:.2f} : 1 (body.pixels): it shows more "
        "or less of the gate",
        width_to_height(wanted), width_to_height(delivered)));
  }
  out.pixel_aspect = back ? by : 1.0;
  return out;
}

// A lens that breathes or zooms needs another margin at each frame, but a sequence has one size.
Margin common_margin(const LoadedShot& loaded, FrameRequest frames) {
  frames.part = {};
  Margin most{};
  for (const double frame : chosen_frames(frames, loaded)) {
    const Margin one = distortion_of(at_frame(loaded, frame)).margin();
    most = {std::max(most.beside, one.beside), std::max(most.above, one.above)};
    if (!loaded.answer.frame) break;  // nothing moves
  }
  return most;
}

std::string settings_text(const ReshapeRequest& r, const Margin& margin) {
  return fmt::format("reshape {} {} {} {} {} {}", static_cast<int>(r.reshape), r.same_size,
                     r.kept ? static_cast<int>(*r.kept) : -1, margin.beside, margin.above,
                     settings_text(r.decoding));
}

}  // namespace

DistortionMap distortion_of(const LoadedShot& loaded) {
  if (loaded.answer.camera.distortion.any()) return DistortionMap(loaded.answer.camera);
  throw UsageError(
      loaded.shot.file +
      ": says nothing of the lens's distortion; measure it from edges drawn in the plate "
      "(jolly-iris measure), or write [lens.distortion] k1 = 0.03");
}

MadeFrame reshaped_picture(const ReshapeRequest& request, const LoadedShot& loaded,
                           std::vector<std::string>& files) {
  const bool squeezes =
      request.reshape == Reshape::squeeze || request.reshape == Reshape::desqueeze;
  if (squeezes) return squeezed(request, loaded, files);
  const Margin margin = request.same_size ? Margin{} : distortion_of(loaded).margin();
  return bent(request, loaded, margin, files);
}

FrameRun reshape_frames(const ReshapeRequest& request, const std::vector<std::string>& names,
                        const FrameRunSettings& settings, const LoadedShot& loaded,
                        std::vector<std::string>& files, const Execution& execution) {
  const bool straightens = request.reshape == Reshape::undistort;
  const Margin margin =
      straightens && !request.same_size ? common_margin(loaded, settings.frames) : Margin{};
  FrameWork work;
  work.names = names;
  work.inputs = {request.picture};
  if (!request.decoding.curve_file.empty()) work.inputs.push_back(request.decoding.curve_file);
  work.settings = settings_text(request, margin);
  work.order = FrameOrder::side_by_side;
  work.make = [&](const LoadedShot& now, double frame, std::vector<std::string>& read,
                  const Execution&) {
    ReshapeRequest one = request;
    one.picture = numbered(request.picture, frame);
    return straightens ? bent(one, now, margin, read) : reshaped_picture(one, now, read);
  };
  return make_frames(work, settings, loaded, files, execution);
}

}  // namespace jolly_iris
