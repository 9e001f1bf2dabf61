#include "jolly_iris/workflow/finish_run.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture/depth_map.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/picture_origin.hpp"
#include "jolly_iris/workflow/write_picture.hpp"
#include "picture/require_finite.hpp"
#include "workflow/coded_depth.hpp"

namespace jolly_iris {

namespace {

void require_fresh(const std::string& file, const Finish& finish, std::vector<std::string>& notes) {
  const auto header = read_header(file);
  const PictureOrigin origin = origin_of(header);
  if (finish.corners && origin.darker_corners) {
    notes.push_back(file +
                    ": has the lens's darker corners by its header; finish.corners come on top");
  }
  if (finish.smear && header.contains(lens_in_header)) {
    notes.push_back(file +
                    ": went through the lens already, so whole discs are smeared; defocus with the "
                    "finish smears before the blur, and what is behind shows past it");
  }
  if (finish.lift && header.contains(lens_in_header)) {
    notes.push_back(file +
                    ": went through the lens already, so its discs are lifted and not its lamps; "
                    "defocus with the finish lifts before the blur");
  }
  const auto found = header.find(finish_in_header);
  if (found == header.end()) return;
  for (const std::string& part : parts_of(finish)) {
    for (std::size_t from = 0; from < found->second.size();) {
      const std::size_t to = std::min(found->second.find(", ", from), found->second.size());
      if (found->second.substr(from, to - from) == part) {
        throw UsageError(
            fmt::format("{}: has its {} already, by its header ({}); finish the "
                        "picture from before that",
                        file, part, found->second));
      }
      from = to + 2;
    }
  }
}

Picture without_margin(Picture picture, const Margin& m) {
  if (m.beside == 0 && m.above == 0) return picture;
  const Box inner{m.beside, m.above, picture.width() - 2 * m.beside,
                  picture.height() - 2 * m.above};
  return crop({std::move(picture), {}, {}}, inner).colour;
}

}  // namespace

void tell_smear(const SmearedPicture& smear, const FoundMotion& motion,
                std::vector<std::string>& notes) {
  notes.insert(notes.end(), motion.notes.begin(), motion.notes.end());
  notes.push_back(fmt::format("smear: up to {:.1f} px while the shutter is open, {:.3g} of a frame",
                              smear.longest_px, motion.span.closes - motion.span.opens));
  if (smear.unusable == 0) return;
  notes.push_back(
      fmt::format("smear: {} px have a vector that is no number, or goes beyond four "
                  "frames: taken as still",
                  smear.unusable));
}

std::vector<std::string> smear_inputs(const Finish& finish) {
  if (!finish.smear || finish.smear->from != Smear::From::vectors || finish.smear->file.empty()) {
    return {};
  }
  return {finish.smear->file};
}

std::vector<std::string> parts_of(const Finish& finish) {
  std::vector<std::string> out;
  const auto add = [&](bool there, const char* name) {
    if (there) out.emplace_back(name);
  };
  add(finish.lift.has_value(), "lift");
  add(finish.smear.has_value(), "smear");
  add(finish.halo.has_value(), "halo");
  add(finish.spikes.has_value(), "spikes");
  add(finish.streak.has_value(), "streak");
  add(finish.corners.has_value(), "corners");
  add(finish.cast.has_value(), "cast");
  add(finish.grain.has_value(), "grain");
  return out;
}

std::string no_finish(const LoadedShot& loaded) {
  return loaded.shot.file +
         ": says nothing of a finish; write e.g. finish.halo.share = \"4 %\" and "
         "finish.halo.reach = \"6 px\", or take a look that has one";
}

FinishedFrame finish_picture(const FinishRequest& request, const LoadedShot& loaded,
                             std::vector<std::string>& files, const Execution& execution) {
  const Finish& finish = loaded.now.finish;
  if (!finish.any() && request.stops == 0.0) {
    throw UsageError(no_finish(loaded));
  }
  FinishedFrame out;
  Frame read = read_for_shot(request.picture, request.decoding, loaded, files, request.margin);
  out.notes = std::move(read.notes);
  require_fresh(request.picture, finish, out.notes);
  decode_depth(read, request.picture, {}, loaded, out.notes, files);
  FinishSettings settings;
  settings.margin = request.margin;
  settings.factor = std::exp2(request.stops);
  settings.frame = request.frame.value_or(loaded.answer.frame.value_or(0.0));
  settings.layers = request.layers;
  settings.execution = execution;
  if (request.half) {
    read = half_of(read);
    settings.margin = {request.margin.beside / 2, request.margin.above / 2};
  }
  FinishedPicture made;
  try {
    require_margin(settings.margin, read.colour.size());
    made = before_lens(std::move(read.colour), finish, settings);
    if (finish.smear) {
      const FoundMotion motion = motion_in(request.picture, read, request.half, settings.margin,
                                           request.frame, loaded, files, execution.part(0.0, 0.2));
      SmearedPicture smear = smeared({made.picture, read.depth, {}}, motion.vectors, motion.span,
                                     execution.part(0.2, 0.5));
      tell_smear(smear, motion, made.notes);
      take_part(made, "smear", std::move(smear.picture), request.layers);
      settings.execution = execution.part(0.5, 1.0);
    }
    FinishedPicture after =
        after_lens(std::move(made.picture), loaded.answer.camera, finish, settings);
    made.picture = std::move(after.picture);
    made.layers.insert(made.layers.end(), std::make_move_iterator(after.layers.begin()),
                       std::make_move_iterator(after.layers.end()));
    made.notes.insert(made.notes.end(), after.notes.begin(), after.notes.end());
  } catch (const PictureError& e) {
    throw PictureError(request.picture + ": " + e.what());
  }
  out.frame.colour = without_margin(std::move(made.picture), settings.margin);
  if (read.has_depth() && settings.margin.beside == 0 && settings.margin.above == 0) {
    out.frame.depth = std::move(read.depth);
  }
  out.frame.rest = read.rest;
  if (std::string note = rest_note(out.frame); !note.empty()) out.notes.push_back(std::move(note));
  out.layers = std::move(made.layers);
  for (FinishLayer& layer : out.layers) {
    layer.added = without_margin(std::move(layer.added), settings.margin);
  }
  out.notes.insert(out.notes.end(), made.notes.begin(), made.notes.end());
  out.parts = parts_of(finish);
  std::string in_it = fmt::format("{}", fmt::join(out.parts, ", "));
  const auto before = read_header(request.picture);
  if (const auto found = before.find(finish_in_header);
      found != before.end() && !found->second.empty()) {
    in_it = found->second + (in_it.empty() ? "" : ", " + in_it);
  }
  if (!in_it.empty()) out.header[finish_in_header] = in_it;
  if (before.contains(lens_in_header)) out.header[lens_in_header] = before.at(lens_in_header);
  if (origin_of(before).darker_corners) out.header["jolly_iris:fall_off"] = corners_in_picture;
  return out;
}

FrameRun finish_frames(const FinishRequest& request, const std::vector<std::string>& names,
                       const std::string& layers, const FrameRunSettings& settings,
                       const LoadedShot& loaded, std::vector<std::string>& files,
                       const Execution& execution) {
  FrameWork work;
  work.names = names;
  if (!layers.empty()) work.names.push_back(layers);
  work.inputs = smear_inputs(loaded.now.finish);
  work.inputs.push_back(request.picture);
  if (!request.decoding.curve_file.empty()) work.inputs.push_back(request.decoding.curve_file);
  work.settings = fmt::format("finish {:.17g} {} {} {} {}", request.stops, request.margin.beside,
                              request.margin.above, request.half, settings_text(request.decoding));
  work.make = [&](const LoadedShot& now, double frame, std::vector<std::string>& read,
                  const Execution& how) {
    FinishRequest one = request;
    one.picture = numbered(request.picture, frame);
    one.frame = frame;
    one.layers = !layers.empty();
    FinishedFrame made = finish_picture(one, now, read, how);
    MadeFrame out;
    out.frame = std::move(made.frame);
    out.header = std::move(made.header);
    out.notes = std::move(made.notes);
    for (FinishLayer& layer : made.layers) {
      out.layers.push_back({layer.name, std::move(layer.added)});
    }
    if (one.layers) out.layered = numbered(layers, frame);
    return out;
  };
  return make_frames(work, settings, loaded, files, execution);
}

}  // namespace jolly_iris
