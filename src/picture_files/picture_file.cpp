#include "jolly_iris/picture_files/picture_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>
#include <string_view>
#include <thread>

#include "backend.hpp"
#include "disk/disk.hpp"
#include "disk/module.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/memory.hpp"
#include "jolly_iris/picture/mend_numbers.hpp"
#include "jolly_iris/picture_files/colour_management.hpp"
#include "jolly_iris/version.hpp"

#ifdef JOLLY_IRIS_STATIC
extern "C" const void* jolly_iris_picture_backend();
#endif

namespace jolly_iris {

namespace {

using picture_files::Backend;

const Backend& load_backend() {
#ifdef JOLLY_IRIS_STATIC
  return *static_cast<const Backend*>(jolly_iris_picture_backend());
#else
  // Where its threads cannot begin the process would end without a word.
  constexpr double its_libraries = 450e6;  // measured
  constexpr double stack = 8.4e6;
  require_address_space(its_libraries + 2.0 * stack * std::thread::hardware_concurrency(),
                        "loading what reads pictures");
  constexpr const char* file = "libjolly_iris_openimageio.so";
  const auto* loaded = static_cast<const Backend*>(module_entry(file, picture_files::entry_name));
  if (std::string_view(loaded->version) != JOLLY_IRIS_VERSION) {
    throw FileError(std::string(file) + " is of version " + loaded->version + ", but this is " +
                    JOLLY_IRIS_VERSION + "; install both together");
  }
  return *loaded;
#endif
}

const Backend& backend() {
  static const Backend& loaded = load_backend();
  return loaded;
}

std::string ending(const std::filesystem::path& path) {
  std::string e = path.extension().string();
  std::transform(e.begin(), e.end(), e.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  return e;
}

void require_file(const std::filesystem::path& path) {
  if (std::filesystem::is_directory(path)) {
    throw FileError(path.string() + ": is a folder, not a picture");
  }
  require_plain_file(path);
}

void mend(const std::string& path, Frame& frame) {
  try {
    const MendedNumbers mended = mend_numbers(frame);
    if (mended.pixels == 0) return;
    const auto [x, y] = mended.first;
    frame.notes.push_back(
        mended.pixels == 1
            ? fmt::format("{}: its pixel {}, {} is no number (NaN or infinity): taken as those "
                          "around it",
                          path, x, y)
            : fmt::format("{}: {} pixels are no numbers (NaN or infinity), the first at {}, {}: "
                          "taken as those around them",
                          path, mended.pixels, x, y));
  } catch (const PictureError& e) {
    throw PictureError(path + ": " + e.what());
  }
}

// What overflowed on the way is told here, instead of being somebody else's riddle.
void require_numbers(const std::string& path, const Frame& frame) {
  const auto refuse = [&](std::size_t i, float v) {
    const auto width = static_cast<std::size_t>(frame.colour.width());
    throw PictureError(
        fmt::format("{}: not written: its pixel {}, {} would be {}, which is no number", path,
                    i % width, i / width, v));
  };
  for (std::size_t i = 0; i < frame.colour.pixels().size(); ++i) {
    for (const float v : frame.colour.pixels()[i]) {
      if (!std::isfinite(v)) refuse(i, v);
    }
  }
  for (std::size_t i = 0; i < frame.depth.size(); ++i) {
    if (std::isnan(frame.depth[i])) refuse(i, frame.depth[i]);
  }
}

std::string completed(const std::filesystem::path& path, const Frame& frame, std::string bytes) {
  if (ending(path) != ".exr" || !passes_rest(frame)) return bytes;
  return backend().with_rest(path.string(), bytes, frame.rest);
}

}  // namespace

bool passes_rest(const Frame& frame) {
  if (frame.part) return frame.rest.any() && frame.rest.size == frame.part->whole;
  const PixelSize shown{frame.colour.width() - 2 * frame.margin.beside,
                        frame.colour.height() - 2 * frame.margin.above};
  return frame.rest.any() && frame.rest.size == shown;
}

std::string rest_note(const Frame& frame) {
  if (!passes_rest(frame) || frame.rest.channels.empty()) return {};
  constexpr std::size_t named = 6;
  std::string names;
  const auto& all = frame.rest.channels;
  for (std::size_t i = 0; i < std::min(named, all.size()); ++i) {
    names += (i > 0 ? ", " : "") + all[i];
  }
  if (all.size() > named) names += fmt::format(" and {} more", all.size() - named);
  return fmt::format("{}: {} {}, neither blurred nor changed", frame.rest.file, names,
                     all.size() == 1 ? "goes into an EXR as it is" : "go into an EXR as they are");
}

Frame read_picture(const std::filesystem::path& path, const PictureRead& how) {
  require_file(path);
  note_input(path);
  Frame frame;
  try {
    frame = backend().read(path.string(), how);
  } catch (const FileError&) {
    // A damaged file stays so; a stale handle that looks like one may pass, and says so here.
    (void)read_own_file(path);
    throw;
  }
  if (!how.as_it_is) mend(path.string(), frame);
  if (how.transfer == Transfer::managed) {
    if (!working_primaries(how.space.config)) {
      frame.notes.push_back(fmt::format(
          "{}: ties its working space to no primaries that are known here (by a role "
          "aces_interchange or cie_xyz_d65_interchange); white and luminance are counted as "
          "plate.primaries says",
          config_file(how.space.config)));
    }
    to_light(frame.colour, how.space);
    for (Rgba& p : frame.colour.pixels()) {
      if (p[3] == 0.0F && ending(path) == ".exr") continue;
      for (std::size_t c = 0; c < 3; ++c) p[c] *= p[3];
    }
  }
  return frame;
}

Frame read_values(const std::filesystem::path& path) {
  return read_picture(path, PictureRead{Transfer::linear, {}, {}, true, {}});
}

Frame read_values(const std::filesystem::path& path, const std::string& layer) {
  return read_picture(path, PictureRead{Transfer::linear, {}, layer, true, {}});
}

void require_whole_picture(const std::filesystem::path& path) {
  require_file(path);
  (void)backend().read(path.string(), {});
}

Frame read_picture(const std::filesystem::path& path, std::optional<Transfer> transfer,
                   const Curve& curve) {
  return read_picture(path, PictureRead{transfer, curve, {}, false, {}});
}

Frame read_plate(const PlateEntry& plate) {
  return read_picture(plate.file,
                      PictureRead{plate.transfer, plate.curve, {}, false, {}, plate.space});
}

Margin picture_margin(const std::filesystem::path& path) {
  require_file(path);
  note_input(path);
  return backend().margin(path.string());
}

void check_picture_name(const std::filesystem::path& path) {
  constexpr std::array known{".exr", ".png", ".tif", ".tiff", ".jpg", ".jpeg"};
  if (std::find(known.begin(), known.end(), ending(path)) == known.end()) {
    throw UsageError(path.string() +
                     ": a picture's name ends in .exr, .png, .tif or .jpg; this one does not");
  }
  const std::filesystem::path folder = path.has_parent_path() ? path.parent_path() : ".";
  if (!std::filesystem::is_directory(folder)) {
    throw FileError(path.string() + ": cannot write it: there is no folder " + folder.string());
  }
}

void write_picture(const std::filesystem::path& path, const Frame& frame,
                   const std::map<std::string, std::string>& attributes) {
  check_picture_name(path);
  require_numbers(path.string(), frame);
  write_whole_file(path,
                   completed(path, frame, backend().encode(path.string(), frame, attributes, 95)));
}

void write_layers(const std::filesystem::path& path, const Frame& frame,
                  const std::vector<NamedPicture>& layers,
                  const std::map<std::string, std::string>& attributes) {
  check_picture_name(path);
  if (ending(path) != ".exr") {
    throw UsageError(path.string() + ": only an EXR keeps layers; write it as .exr");
  }
  require_numbers(path.string(), frame);
  for (const NamedPicture& layer : layers) {
    if (layer.picture.size() != frame.colour.size()) {
      throw UsageError(fmt::format("{}: its layer {} has another size", path.string(), layer.name));
    }
    require_numbers(path.string(), {layer.picture, {}, {}});
  }
  write_whole_file(
      path,
      completed(path, frame, backend().encode_layers(path.string(), frame, layers, attributes)));
}

std::string picture_bytes(const std::string& ending, const Frame& frame, int quality) {
  check_picture_name("picture" + ending);
  return backend().encode("picture" + ending, frame, {}, quality);
}

void check_position_map_name(const std::filesystem::path& path) {
  check_picture_name(path);
  if (ending(path) != ".exr") {
    throw UsageError(path.string() +
                     ": a position map needs numbers finer than this kind of picture has; write "
                     "it as .exr");
  }
}

void write_position_map(const std::filesystem::path& path, const PositionMap& map) {
  check_position_map_name(path);
  std::vector<float> pairs;
  pairs.reserve(2 * map.from.size());
  for (const auto& [x, y] : map.from) {
    const bool shown = x != -1.0 || y != -1.0;
    pairs.push_back(shown ? static_cast<float>(x / map.source.width) : -1.0F);
    pairs.push_back(shown ? static_cast<float>(1.0 - y / map.source.height) : -1.0F);
  }
  write_whole_file(path, backend().encode_map(path.string(), map.size, pairs));
}

void stamp_picture(const std::filesystem::path& path,
                   const std::map<std::string, std::string>& attributes) {
  require_file(path);
  rewrite_whole_file(path, backend().stamped(path.string(), attributes));
}

std::map<std::string, std::string> read_header(const std::filesystem::path& path) {
  require_file(path);
  return backend().header(path.string());
}

void write_moving_picture(const std::filesystem::path& path, const std::vector<Picture>& pictures,
                          double seconds_each) {
  if (ending(path) != ".gif") {
    throw UsageError(path.string() + ": a moving picture's name ends in .gif; this one does not");
  }
  if (pictures.size() < 2 || !(seconds_each >= 0.02 && seconds_each < 600.0)) {
    throw UsageError("a moving picture has two pictures or more, each for 0.02 s or longer");
  }
  for (const Picture& p : pictures) {
    if (p.empty() || p.size() != pictures.front().size()) {
      throw UsageError("the pictures of a moving one are all of one size");
    }
  }
  write_whole_file(path, backend().moving(pictures, seconds_each));
}

PlateFacts read_plate_facts(const std::filesystem::path& path) {
  require_file(path);
  return backend().facts(path.string());
}

}  // namespace jolly_iris
