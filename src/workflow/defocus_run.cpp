#include "jolly_iris/workflow/defocus_run.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture/depth_map.hpp"
#include "jolly_iris/picture/recover_highlights.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/finish_run.hpp"
#include "jolly_iris/workflow/picture_origin.hpp"
#include "jolly_iris/workflow/shot_glass.hpp"
#include "jolly_iris/workflow/write_picture.hpp"
#include "picture/require_finite.hpp"
#include "workflow/coded_depth.hpp"
#include "workflow/run_fingerprint.hpp"

namespace jolly_iris {

namespace {

// Signed px from a picture of discs; of 0 … 1, times the largest.
std::vector<float> discs_of(const DefocusRequest& request, PixelSize size,
                            std::vector<std::string>& files) {
  if (request.blur.empty()) return {};
  files.push_back(request.blur);
  const Frame picture = read_values(request.blur);
  if (picture.colour.size() != size) {
    throw PictureError(fmt::format("{}: is {} x {}, but the picture to blur is {} x {}",
                                   request.blur, picture.colour.width(), picture.colour.height(),
                                   size.width, size.height));
  }
  std::vector<float> coc;
  for (std::size_t i = 0; i < picture.colour.pixels().size(); ++i) {
    const float v = picture.has_depth() ? picture.depth[i] : picture.colour.pixels()[i][0];
    if (request.max_blur && !(v >= 0.0F && v <= 1.0F)) {
      throw PictureError(fmt::format(
          "{}: holds {:g} at pixel {}, {}; as a fraction it holds 0 to 1", request.blur, v,
          i % static_cast<std::size_t>(size.width), i / static_cast<std::size_t>(size.width)));
    }
    coc.push_back(request.max_blur ? v * static_cast<float>(*request.max_blur) : v);
  }
  return coc;
}

void relight(const DefocusRequest& request, Frame& frame, std::vector<std::string>& notes) {
  if (!request.true_peak) return;
  RecoveredHighlights lit =
      recover_highlights(frame.colour, request.clipped_at.value_or(1.0), *request.true_peak);
  notes.push_back(lit.lamps == 0
                      ? fmt::format("no pixel reaches {:g}: no lamp was given its light back",
                                    request.clipped_at.value_or(1.0))
                      : fmt::format("{} clipped lamps ({} px) were given a peak of {:.4g}",
                                    lit.lamps, lit.pixels, *request.true_peak));
  frame.colour = std::move(lit.picture);
}

// Why a lamp's disc is hardly to be seen, if the picture looks clipped.
void explain_faint_discs(const DefocusRequest& request, const Frame& frame,
                         const std::vector<float>& coc, std::vector<std::string>& warnings) {
  if (request.true_peak) return;
  float brightest = 0.0F;
  std::size_t at = 0;
  for (std::size_t i = 0; i < coc.size(); ++i) {
    const Rgba& p = frame.colour.pixels()[i];
    const float v = std::max({p[0], p[1], p[2]});
    if (v > brightest * 1.001F ||
        (v > 0.999F * brightest && std::abs(coc[i]) > std::abs(coc[at]))) {
      brightest = v;
      at = i;
    }
  }
  const double area = std::numbers::pi / 4.0 * std::pow(static_cast<double>(coc[at]), 2.0);
  if (brightest > 1.001F || brightest < 0.98F || area < 50.0) return;
  warnings.push_back(
      fmt::format("the brightest pixels are {:.3g}: lamps look clipped. One of them is spread over "
                  "{:.0f} px, so its disc has {:.2g} and is barely visible; give lamps their light "
                  "back: their true peak, or a disc as it was measured "
                  "in the plate",
                  brightest, area, static_cast<double>(brightest) / area));
}

void save_blur(const std::string& name, const std::vector<float>& coc, PixelSize size) {
  Frame map{Picture(size, {0, 0, 0, 1}), coc};
  for (std::size_t i = 0; i < coc.size(); ++i) {
    map.colour.pixels()[i] = {coc[i], coc[i], coc[i], 1.0F};
  }
  write_picture(name, map);
}

double fraction_of_work(const DefocusRequest& request, PixelSize size, bool even) {
  double fraction = 1.0;
  // A quarter of the pixels; of each disc half the edge, or a quarter of the area.
  if (request.half) fraction *= even ? 1.0 / 6.0 : 1.0 / 16.0;
  if (request.box) {
    fraction *= static_cast<double>(request.box->width) * request.box->height /
                (static_cast<double>(size.width) * size.height);
  }
  return fraction;
}

// Cards lie in front of the pictures with depth: whether something of those stands before one of
// them.
void doubt_cards(const std::vector<DefocusLayer>& layers, const std::vector<PictureCard>& cards,
                 std::vector<std::string>& notes) {
  float nearest = std::numeric_limits<float>::infinity();
  for (const DefocusLayer& layer : layers) {
    if (layer.distance) continue;
    for (const float z : layer.frame.depth) nearest = std::min(nearest, z);
  }
  for (std::size_t k = 0; k < cards.size(); ++k) {
    const Length z = *layers[k].distance;
    if (!(static_cast<double>(nearest) < z.m())) continue;
    notes.push_back(fmt::format(
        "{} lies over all of the picture with depth, though that has something at {:.4g} m, nearer "
        "than its {:.4g} m",
        cards[k].file, nearest, z.m()));
  }
}

// What PICTURE's layers amount to through the shot's lens.
std::vector<DefocusLayer> layers_of(const DefocusRequest& request, const LoadedShot& loaded,
                                    bool& darker_corners, std::vector<std::string>& notes,
                                    std::vector<std::string>& files) {
  if (std::string note = thin_lens_note(loaded); !note.empty()) notes.push_back(std::move(note));
  const auto holds_out = [&](const std::string& name) {
    return std::find(request.holdouts.begin(), request.holdouts.end(), name) !=
           request.holdouts.end();
  };
  for (const std::string& name : request.holdouts) {
    const auto& all = request.pictures;
    if (std::find(all.begin(), all.end(), name) != all.end()) continue;
    throw UsageError(name + ": only hides, but is none of the layers; name it among them too");
  }
  std::vector<DefocusLayer> layers;
  for (const PictureCard& card : request.cards) {
    DefocusLayer layer{read_for_shot(card.file, request.decoding, loaded, files, request.margin)};
    notes.insert(notes.end(), layer.frame.notes.begin(), layer.frame.notes.end());
    layer.distance = distance_named(loaded, card.at);
    relight(request, layer.frame, notes);
    layers.push_back(std::move(layer));
  }
  for (const std::string& name : request.pictures) {
    DefocusLayer layer{read_for_shot(name, request.decoding, loaded, files, request.margin),
                       holds_out(name)};
    notes.insert(notes.end(), layer.frame.notes.begin(), layer.frame.notes.end());
    if (!is_plate(name, loaded) && read_origin(name).darker_corners) darker_corners = true;
    decode_depth(layer.frame, name, request.depth, loaded, notes, files);
    if (request.mend_depth && layer.frame.has_depth()) {
      notes.push_back(
          fmt::format("{} px of depth stood between two surfaces and went to one of them",
                      mend_edges(layer.frame.depth, layer.frame.colour.size())));
    }
    if (!layer.holdout) relight(request, layer.frame, notes);
    layers.push_back(std::move(layer));
  }
  doubt_cards(layers, request.cards, notes);
  return layers;
}

// How far away all of a picture without depth is, at this frame.
std::optional<Length> flat_distance(const DefocusRequest& request, const LoadedShot& loaded,
                                    const Frame& frame) {
  if (!request.distance.empty()) return distance_named(loaded, request.distance);
  if (frame.has_depth() || !request.blur.empty() || !loaded.now.depth) return std::nullopt;
  return loaded.now.depth->distance;
}

// A draft is computed at half the size.
void halve(const DefocusRequest& request, PixelSize whole, std::vector<DefocusLayer>& layers,
           DefocusSettings& settings) {
  for (DefocusLayer& layer : layers) layer.frame = half_of(layer.frame);
  if (!settings.coc_px.empty()) {
    settings.coc_px = half_of({Picture(whole, {0, 0, 0, 1}), settings.coc_px}).depth;
    for (float& c : settings.coc_px) c *= 0.5F;
  }
  settings.margin = {settings.margin.beside / 2, settings.margin.above / 2};
  if (request.box) {
    settings.box = Box{request.box->x / 2, request.box->y / 2, std::max(1, request.box->width / 2),
                       std::max(1, request.box->height / 2)};
  }
}

// A picture whose data window reaches beyond the frame has its margin in it.
DefocusRequest with_data_window(DefocusRequest request, const LoadedShot& loaded,
                                std::vector<std::string>& notes) {
  const bool said = request.margin.beside > 0 || request.margin.above > 0;
  if (said || request.pictures.empty() || !request.depth.empty() || !request.blur.empty() ||
      is_plate(request.pictures.front(), loaded)) {
    return request;
  }
  const std::string& name = request.pictures.front();
  const Margin m = picture_margin(name);
  if (m.beside == 0 && m.above == 0) return request;
  request.margin = m;
  request.decoding.beyond = m;
  if (request.box) {
    request.box->x += m.beside;
    request.box->y += m.above;
  }
  notes.push_back(
      fmt::format("{}: its data window reaches {} px beyond the frame beside and {} "
                  "above: blur there comes from it",
                  name, m.beside, m.above));
  return request;
}

const std::string& first_name(const DefocusRequest& request) {
  return request.pictures.empty() ? request.cards.front().file : request.pictures.front();
}

// Files that a picture is made from, with #### for the frame's number.
std::vector<std::string> inputs_of(const DefocusRequest& request, const LoadedShot& loaded) {
  std::vector<std::string> inputs = request.pictures;
  for (const PictureCard& card : request.cards) inputs.push_back(card.file);
  for (const std::string* name : {&request.depth, &request.blur, &request.decoding.curve_file}) {
    if (!name->empty()) inputs.push_back(*name);
  }
  if (request.finish) {
    for (std::string& file : smear_inputs(loaded.now.finish)) inputs.push_back(std::move(file));
  }
  return inputs;
}

// All that a picture hangs on besides the shot and those files.
std::string settings_text(const DefocusRequest& r) {
  const auto optional = [](const auto& v) { return v ? fmt::format("{:.17g}", *v) : "none"; };
  std::string text =
      fmt::format("defocus {} {} {} {} {} {} {} {} {} {} {} {} {}", r.distance,
                  optional(r.max_blur), r.mend_depth, static_cast<int>(r.edge), r.margin.beside,
                  r.margin.above, r.vignetting, r.squeezed, optional(r.clipped_at),
                  optional(r.true_peak), r.half, r.finish, settings_text(r.decoding));
  if (r.box) text += fmt::format(" {} {} {} {}", r.box->x, r.box->y, r.box->width, r.box->height);
  for (const std::string& hides : r.holdouts) text += " hides " + hides;
  for (const PictureCard& card : r.cards) text += " card at " + card.at;
  return text;
}

}  // namespace

PictureCard picture_card(const std::string& text) {
  const auto equals = text.rfind('=');
  if (equals == std::string::npos || equals == 0 || equals + 1 == text.size()) {
    throw UsageError(text +
                     ": a card is a picture and where it stands: FILE=NAME or FILE=DISTANCE, e.g. "
                     "boat.png=boat or reeds.png=1.2m");
  }
  return {text.substr(0, equals), text.substr(equals + 1)};
}

DefocusedPicture defocus_picture(const DefocusRequest& asked, const LoadedShot& loaded,
                                 std::vector<std::string>& files, const Execution& execution) {
  DefocusedPicture out;
  const DefocusRequest request = with_data_window(asked, loaded, out.notes);
  VirtualCamera camera = loaded.answer.camera;
  if (request.squeezed) {
    camera.pixels = squeezed_size_of(loaded, camera.pixels);
    out.pixel_aspect = loaded.now.lens.squeeze;
  }
  DefocusSettings settings;
  settings.edge = request.edge;
  settings.vignetting = request.vignetting;
  settings.margin = request.margin;
  settings.box = request.box;
  settings.execution = execution;
  settings.glass = glass_for_discs(loaded);
  bool darker_corners = false;
  std::vector<DefocusLayer> layers = layers_of(request, loaded, darker_corners, out.notes, files);
  if (darker_corners) out.header["jolly_iris:fall_off"] = corners_in_picture;
  out.layers = layers.size();
  const PixelSize whole = layers.front().frame.colour.size();
  const bool even = loaded.now.lens.iris.even() && !loaded.now.lens.aberrations.bends();
  out.fraction_of_work = fraction_of_work(request, whole, even);
  // Tracing the discs takes as long for a part of the frame as for all of it.
  if (settings.glass) out.fraction_of_work = std::max(out.fraction_of_work, 0.5);
  settings.coc_px = discs_of(request, whole, files);
  if (request.half) halve(request, whole, layers, settings);
  std::optional<Box> box = settings.box;
  if (box) {
    box->x -= settings.margin.beside;
    box->y -= settings.margin.above;
  }
  if (request.finish) {
    if (!loaded.now.finish.any()) throw UsageError(no_finish(loaded));
    for (DefocusLayer& layer : layers) {
      if (layer.holdout) continue;
      FinishedPicture lifted = before_lens(std::move(layer.frame.colour), loaded.now.finish);
      layer.frame.colour = std::move(lifted.picture);
      out.notes.insert(out.notes.end(), lifted.notes.begin(), lifted.notes.end());
    }
    settings.box.reset();  // light comes from all of the picture
  }
  const bool smears = request.finish && loaded.now.finish.smear.has_value();
  const Frame& front = layers.front().frame;
  settings.distance =
      layers.front().distance ? layers.front().distance : flat_distance(request, loaded, front);
  try {
    if (layers.size() == 1) {
      const std::vector<float> coc = blur_map(front, camera, settings);
      explain_faint_discs(request, front, coc, out.warnings);
      if (!request.save_blur.empty()) save_blur(request.save_blur, coc, front.colour.size());
      if (smears) {
        require_margin(settings.margin, front.colour.size());
        const FoundMotion motion =
            motion_in(first_name(request), front, request.half, settings.margin, request.frame,
                      loaded, files, execution.part(0.0, 0.1));
        settings.execution = execution.part(0.1, 0.9);
        SmearedPicture made = smeared_defocus(front, motion.vectors, motion.span, camera, settings);
        tell_smear(made, motion, out.notes);
        out.frame.colour = std::move(made.picture);
      } else {
        out.frame.colour = defocus(front, camera, settings);
      }
    } else if (smears) {
      throw UsageError(
          "a smear takes one picture with depth; of several layers it is not known how each of "
          "them "
          "moves. Smear them one by one, or take [finish.smear] out");
    } else {
      out.frame.colour = defocus_layers(layers, camera, settings);
    }
  } catch (const NoDepthError& e) {
    throw NoDepthError(first_name(request) + ": " + e.what());
  } catch (const PictureError& e) {
    throw PictureError(first_name(request) + ": " + e.what());
  }
  out.header[lens_in_header] = "in the picture";
  out.frame.rest = layers.front().frame.rest;
  const PixelSize shown{front.colour.width() - 2 * settings.margin.beside,
                        front.colour.height() - 2 * settings.margin.above};
  if (box) out.frame.part = PartOf{shown, box->x, box->y};
  if (std::string note = rest_note(out.frame); !note.empty()) out.notes.push_back(std::move(note));
  if (request.finish) {
    const double frame = request.frame.value_or(loaded.answer.frame.value_or(0.0));
    FinishedPicture made = after_lens(std::move(out.frame.colour), camera, loaded.now.finish,
                                      {.frame = frame, .execution = execution});
    out.frame.colour = std::move(made.picture);
    out.notes.insert(out.notes.end(), made.notes.begin(), made.notes.end());
    out.header[finish_in_header] = fmt::format("{}", fmt::join(parts_of(loaded.now.finish), ", "));
    if (box) out.frame.colour = crop(out.frame, *box).colour;
  }
  return out;
}

PictureWithBlur picture_with_blur(const DefocusRequest& request, const LoadedShot& loaded,
                                  std::vector<std::string>& files) {
  PictureWithBlur out;
  bool darker_corners = false;
  std::vector<DefocusLayer> layers = layers_of(request, loaded, darker_corners, out.notes, files);
  out.frame = std::move(layers.front().frame);
  DefocusSettings settings;
  settings.coc_px = discs_of(request, out.frame.colour.size(), files);
  settings.distance = flat_distance(request, loaded, out.frame);
  try {
    out.coc_px = blur_map(out.frame, loaded.answer.camera, settings);
  } catch (const NoDepthError& e) {
    throw NoDepthError(first_name(request) + ": " + e.what());
  } catch (const PictureError& e) {
    throw PictureError(first_name(request) + ": " + e.what());
  }
  return out;
}

FrameRun defocus_frames(const DefocusRequest& request, const std::vector<std::string>& names,
                        const FrameRunSettings& settings, const LoadedShot& loaded,
                        std::vector<std::string>& files, const Execution& execution) {
  FrameWork work;
  work.names = names;
  work.inputs = inputs_of(request, loaded);
  work.settings = settings_text(request);
  work.make = [&](const LoadedShot& now, double frame, std::vector<std::string>& read,
                  const Execution& how) {
    DefocusRequest one = request;
    one.frame = frame;
    one.pictures = numbered(request.pictures, frame);
    one.holdouts = numbered(request.holdouts, frame);
    for (PictureCard& card : one.cards) card.file = numbered(card.file, frame);
    for (std::string* name : {&one.depth, &one.blur, &one.save_blur}) {
      *name = numbered(*name, frame);
    }
    DefocusedPicture done = defocus_picture(one, now, read, how);
    MadeFrame made;
    made.frame = std::move(done.frame);
    made.pixel_aspect = done.pixel_aspect;
    made.header = std::move(done.header);
    made.notes = std::move(done.notes);
    made.warnings = std::move(done.warnings);
    return made;
  };
  return make_frames(work, settings, loaded, files, execution);
}

}  // namespace jolly_iris
