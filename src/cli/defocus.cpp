#include "jolly_iris/defocus.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <functional>
#include <numbers>
#include <ostream>

#include "jolly_iris/clipped.hpp"
#include "jolly_iris/depth_map.hpp"
#include "jolly_iris/disk.hpp"
#include "jolly_iris/errors.hpp"
#include "jolly_iris/picture_file.hpp"
#include "output.hpp"
#include "progress.hpp"
#include "sequence.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

namespace {

// A file's own trouble is told with its name.
template <class Work>
auto of_file(const std::string& file, const Work& work) {
  try {
    return work();
  } catch (const PictureError& e) {
    throw PictureError(file + ": " + e.what());
  }
}

// Depth as the shot says it counts, or from a picture of its own.
void decode(const DefocusOptions& o, const LoadedShot& loaded, const std::string& name,
            Frame& frame, std::vector<std::string>& files) {
  const DepthCode code = loaded.now.depth ? loaded.now.depth->code : DepthCode{};
  const PixelSize size = frame.colour.size();
  if (!o.depth.empty()) {
    files.push_back(o.depth);
    const Frame picture = read_picture(o.depth, Transfer::linear);
    frame.depth =
        of_file(o.depth, [&] { return axial_depth(picture, code, loaded.answer.camera, size); });
  } else if (frame.has_depth() && loaded.now.depth) {
    frame.depth =
        of_file(name, [&] { return axial_depth(frame, code, loaded.answer.camera, size); });
  }
}

// Signed px from a picture of discs; of 0 … 1, times the largest.
std::vector<float> discs_of(const DefocusOptions& o, PixelSize size,
                            std::vector<std::string>& files) {
  if (o.blur.empty()) return {};
  files.push_back(o.blur);
  const Frame picture = read_picture(o.blur, Transfer::linear);
  if (picture.colour.size() != size) {
    throw PictureError(fmt::format("{}: is {} x {}, but the picture to blur is {} x {}", o.blur,
                                   picture.colour.width(), picture.colour.height(), size.width,
                                   size.height));
  }
  std::vector<float> coc;
  for (std::size_t i = 0; i < picture.colour.pixels().size(); ++i) {
    const float v = picture.has_depth() ? picture.depth[i] : picture.colour.pixels()[i][0];
    if (o.most_blur && !(v >= 0.0F && v <= 1.0F)) {
      throw PictureError(fmt::format("{}: holds {:g} at pixel {}, {}; with --most it holds 0 to 1",
                                     o.blur, v, i % static_cast<std::size_t>(size.width),
                                     i / static_cast<std::size_t>(size.width)));
    }
    coc.push_back(o.most_blur ? v * static_cast<float>(*o.most_blur) : v);
  }
  return coc;
}

void relight(const DefocusOptions& o, Frame& frame, std::string& notes) {
  if (!o.true_peak) return;
  RelitPicture lit = relit(frame.colour, o.clipped_at.value_or(1.0), *o.true_peak);
  notes += lit.lamps == 0 ? fmt::format("no pixel reaches {:g}: no lamp was given its light back\n",
                                        o.clipped_at.value_or(1.0))
                          : fmt::format("{} clipped lamps ({} px) were given a peak of {:.4g}\n",
                                        lit.lamps, lit.pixels, *o.true_peak);
  frame.colour = std::move(lit.picture);
}

// Why a lamp's disc is hardly to be seen, if the picture looks clipped.
void explain_faint_discs(const DefocusOptions& o, const Frame& frame, const std::vector<float>& coc,
                         const Streams& io) {
  if (o.true_peak) return;
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
  io.err << fmt::format(
      "warning: the brightest pixels are {:.3g}: lamps look clipped. One of them is spread over "
      "{:.0f} px, so its disc has {:.2g} and is barely visible; give lamps their light back with "
      "--true-peak VALUE, or --disc VALUE,PX as measured in the plate\n",
      brightest, area, static_cast<double>(brightest) / area);
}

void save_blur(const std::string& name, const std::vector<float>& coc, PixelSize size) {
  Frame map{Picture(size, {0, 0, 0, 1}), coc};
  for (std::size_t i = 0; i < coc.size(); ++i) {
    map.colour.pixels()[i] = {coc[i], coc[i], coc[i], 1.0F};
  }
  write_picture(name, map);
}

double share_of_work(const DefocusOptions& o, PixelSize size, bool even) {
  double share = 1.0;
  // A quarter of the pixels; of each disc half the edge, or a quarter of the area.
  if (o.half) share *= even ? 1.0 / 6.0 : 1.0 / 16.0;
  if (o.box) {
    share *= static_cast<double>(o.box->width) * o.box->height /
             (static_cast<double>(size.width) * size.height);
  }
  return share;
}

struct Blurred {
  Frame frame{};
  std::string words{};
  double pixel_aspect = 1.0;
  PixelSize whole{};  ///< of PICTURE
};

// What PICTURE's layers amount to through the shot's lens.
std::vector<DefocusLayer> layers_of(const DefocusOptions& options, const LoadedShot& loaded,
                                    std::string& notes, std::vector<std::string>& files) {
  const auto holds_out = [&](const std::string& name) {
    return std::find(options.holdouts.begin(), options.holdouts.end(), name) !=
           options.holdouts.end();
  };
  for (const std::string& name : options.holdouts) {
    const auto& all = options.pictures;
    if (std::find(all.begin(), all.end(), name) != all.end()) continue;
    throw UsageError("--holdout " + name + ": is none of the layers; name it among PICTURE too");
  }
  std::vector<DefocusLayer> layers;
  for (const std::string& name : options.pictures) {
    files.push_back(name);
    DefocusLayer layer{read_coded(name, options.coding, files), holds_out(name)};
    decode(options, loaded, name, layer.frame, files);
    if (options.mend_depth && layer.frame.has_depth()) {
      notes += fmt::format("{} px of depth stood between two surfaces and went to one of them\n",
                           mend_edges(layer.frame.depth, layer.frame.colour.size()));
    }
    if (!layer.holdout) relight(options, layer.frame, notes);
    layers.push_back(std::move(layer));
  }
  return layers;
}

// How far away all of a picture without depth is, at this frame.
std::optional<Length> flat_distance(const DefocusOptions& options, const LoadedShot& loaded,
                                    const Frame& frame) {
  if (!options.distance.empty()) return distance_named(loaded, options.distance, "--distance");
  if (frame.has_depth() || !options.blur.empty() || !loaded.now.depth) return std::nullopt;
  return loaded.now.depth->distance;
}

// A draft is computed at half the size.
void halve(const DefocusOptions& options, PixelSize whole, std::vector<DefocusLayer>& layers,
           DefocusSettings& settings) {
  for (DefocusLayer& layer : layers) layer.frame = half_of(layer.frame);
  if (!settings.coc_px.empty()) {
    settings.coc_px = half_of({Picture(whole, {0, 0, 0, 1}), settings.coc_px}).depth;
    for (float& c : settings.coc_px) c *= 0.5F;
  }
  settings.margin = {settings.margin.beside / 2, settings.margin.above / 2};
  if (options.box) {
    settings.box = Box{options.box->x / 2, options.box->y / 2, std::max(1, options.box->width / 2),
                       std::max(1, options.box->height / 2)};
  }
}

Blurred blur(const DefocusOptions& options, const LoadedShot& loaded, const Streams& io,
             const std::function<void(double)>& progress, std::vector<std::string>& files) {
  Blurred out;
  VirtualCamera camera = loaded.answer.camera;
  if (options.squeezed) {
    camera.pixels = squeezed_size(loaded, camera.pixels);
    out.pixel_aspect = loaded.now.lens.squeeze;
  }
  DefocusSettings settings;
  settings.edge = options.edge;
  settings.vignetting = !options.no_vignetting;
  settings.margin = options.margin;
  settings.box = options.box;
  settings.threads = options.threads;
  settings.progress = progress;
  std::string notes;
  std::vector<DefocusLayer> layers = layers_of(options, loaded, notes, files);
  const PixelSize whole = layers.front().frame.colour.size();
  out.whole = whole;
  settings.coc_px = discs_of(options, whole, files);
  if (options.half) halve(options, whole, layers, settings);
  const Frame& front = layers.front().frame;
  settings.distance = flat_distance(options, loaded, front);
  try {
    if (layers.size() == 1) {
      const std::vector<float> coc = blur_map(front, camera, settings);
      explain_faint_discs(options, front, coc, io);
      if (!options.save_blur.empty()) save_blur(options.save_blur, coc, front.colour.size());
      out.frame.colour = jolly_iris::defocus(front, camera, settings);
    } else {
      out.frame.colour = defocus_layers(layers, camera, settings);
    }
  } catch (const PictureError& e) {
    const bool needs_depth = !front.has_depth() && !settings.distance && settings.coc_px.empty();
    throw PictureError(options.pictures.front() + ": " + e.what() +
                       (needs_depth ? ", e.g. --distance 12m" : ""));
  }
  io.err << notes;
  out.words = layers.size() == 1 ? "defocused" : fmt::format("{} layers defocused", layers.size());
  return out;
}

// Frame by frame, each by itself and written whole, so that what is there after a stop is good.
void defocus_frames(const DefocusOptions& options, const LoadedShot& loaded, const Streams& io,
                    std::vector<std::string>& files) {
  const std::vector<std::string> names =
      picture_names(options.out, stem_of(options.pictures.front()) + ".defocus.exr");
  for (const std::string& name : names) {
    if (name.find('#') != std::string::npos) continue;
    throw UsageError(name + ": one picture for all frames; write #### where the number stands");
  }
  const std::vector<double> frames = chosen_frames(options.frames, loaded);
  for (const double frame : frames) {
    for (const std::string& name : options.pictures) {
      const std::string file = numbered(name, frame);
      if (!std::filesystem::exists(file)) {
        throw FileError(file + ": cannot read it: No such file or directory");
      }
    }
  }
  Progress progress(io.err, "defocusing");
  const auto told = progress.callback();
  std::size_t kept = 0;
  std::vector<std::string> written;
  for (std::size_t i = 0; i < frames.size(); ++i) {
    DefocusOptions one = options;
    for (std::vector<std::string>* list : {&one.pictures, &one.holdouts}) {
      for (std::string& name : *list) name = numbered(name, frames[i]);
    }
    for (std::string* name : {&one.depth, &one.blur, &one.save_blur}) {
      *name = numbered(*name, frames[i]);
    }
    std::vector<std::string> wanted;
    for (const std::string& name : names) wanted.push_back(numbered(name, frames[i]));
    const auto there = [](const std::string& name) { return std::filesystem::exists(name); };
    if (options.resume && std::all_of(wanted.begin(), wanted.end(), there)) {
      ++kept;
      continue;
    }
    const LoadedShot now = at_frame(loaded, frames[i]);
    std::function<void(double)> part;
    if (told) {
      part = [&](double share) {
        told((static_cast<double>(i) + share) / static_cast<double>(frames.size()));
      };
    }
    const Blurred blurred = blur(one, now, io, part, files);
    for (const std::string& name : wanted) {
      write_one(name, blurred.frame, now, blurred.pixel_aspect);
      written.push_back(name);
    }
  }
  say(options.shot.form, io,
      written_json(written,
                   {{"frames", static_cast<double>(frames.size())},
                    {"kept", static_cast<double>(kept)},
                    {"seconds", progress.seconds()}},
                   &loaded.shot),
      tried_line(loaded.shot) + fmt::format("{:<28} {} frames defocused{}, {:.1f} s\n",
                                            names.front(), frames.size() - kept,
                                            kept > 0 ? fmt::format(", {} kept", kept) : "",
                                            progress.seconds()));
}

}  // namespace

void defocus(const DefocusOptions& options, const Streams& io, std::vector<std::string>& files) {
  const LoadedShot loaded = load(options.shot, files);
  if (options.frames.asked) {
    defocus_frames(options, loaded, io, files);
    return;
  }
  WrittenPicture what;
  what.names = picture_names(options.out, stem_of(options.pictures.front()) + ".defocus.exr");
  if (!options.save_blur.empty()) check_picture_name(options.save_blur);
  Progress progress(io.err, "defocusing");
  const Blurred blurred = blur(options, loaded, io, progress.callback(), files);
  what.words = blurred.words;
  what.pixel_aspect = blurred.pixel_aspect;
  what.seconds = progress.seconds();
  const bool even = loaded.now.lens.iris.even() && !loaded.now.lens.faults.bends();
  const double share = share_of_work(options, blurred.whole, even);
  if (share < 1.0) {
    what.words += fmt::format(", a draft (the whole takes about {:.1f} s)", what.seconds / share);
  }
  write_pictures(what, blurred.frame, loaded, options.shot.form, io);
}

}  // namespace jolly_iris::cli
