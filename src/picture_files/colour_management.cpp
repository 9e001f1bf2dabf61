#include "jolly_iris/picture_files/colour_management.hpp"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <filesystem>
#include <string_view>

#include "colour_backend.hpp"
#include "disk/disk.hpp"
#include "disk/module.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/transfer.hpp"
#include "jolly_iris/version.hpp"
#include "picture/parallel.hpp"

#if defined(JOLLY_IRIS_STATIC) && !defined(JOLLY_IRIS_NO_COLOUR)
extern "C" const void* jolly_iris_colour_backend();
#endif

namespace jolly_iris {

namespace {

using picture_files::ColourBackend;

const ColourBackend& load_colour_backend() {
#ifdef JOLLY_IRIS_NO_COLOUR
  throw FileError("this build goes without OpenColorIO: no \"ocio:\", no display, no view");
#elif defined(JOLLY_IRIS_STATIC)
  return *static_cast<const ColourBackend*>(jolly_iris_colour_backend());
#else
  constexpr const char* file = "libjolly_iris_opencolorio.so";
  const auto* loaded =
      static_cast<const ColourBackend*>(module_entry(file, picture_files::colour_entry_name));
  if (std::string_view(loaded->version) != JOLLY_IRIS_VERSION) {
    throw FileError(std::string(file) + " is of version " + loaded->version + ", but this is " +
                    JOLLY_IRIS_VERSION + "; install both together");
  }
  return *loaded;
#endif
}

const ColourBackend& colour_backend() {
  static const ColourBackend& loaded = load_colour_backend();
  return loaded;
}

// Row by row, on all threads.
void convert(Picture& picture, const void* processor) {
  const auto width = static_cast<std::size_t>(picture.width());
  parallel_for(0, picture.height(), [&](int y) {
    float* row = picture.pixels()[static_cast<std::size_t>(y) * width].data();
    colour_backend().apply(processor, row, width);
  });
}

// Chromaticities of the primaries, adapted to another white as cones see it.
// Bradford's matrix: Lam (1985), as ICC.1 has it.
constexpr ColourMatrix bradford{
    {{0.8951, 0.2664, -0.1614}, {-0.7502, 1.7135, 0.0367}, {0.0389, -0.0685, 1.0296}}};

ColourMatrix adapted(const ColourMatrix& xyz_from_space, const Chromaticity& from,
                     const Chromaticity& to) {
  const Rgb source = product(bradford, xyz_of(from));
  const Rgb target = product(bradford, xyz_of(to));
  ColourMatrix scale{};
  for (std::size_t i = 0; i < 3; ++i) scale[i][i] = target[i] / source[i];
  return product(product(inverse(bradford), product(scale, bradford)), xyz_from_space);
}

// Nothing is chosen for somebody who wrote no more than "ocio:".
void require_named(const ManagedSpace& space) {
  if (!space.name.empty()) return;
  throw UsageError(
      "\"ocio:\" needs the name of a colour space behind it, e.g. \"ocio:camera log\"");
}

}  // namespace

std::string config_file(const ColourConfig& config) {
  if (!config.file.empty()) return config.file;
  // NOLINTNEXTLINE(concurrency-mt-unsafe): nothing here changes the environment
  const char* named = std::getenv("OCIO");
  if (named != nullptr && *named != '\0') return named;
  throw UsageError(
      "colours by OpenColorIO need a config: write ocio = \"FILE\" into [plate] or [body], or let "
      "$OCIO name one");
}

void require_space(const ManagedSpace& space) {
  const std::string file = config_file(space.config);
  require_plain_file(file);
  colour_backend().require(file, space.name);
}

void to_light(Picture& numbers, const ManagedSpace& space) {
  require_named(space);
  const std::string file = config_file(space.config);
  require_plain_file(file);
  note_input(file);
  convert(numbers, colour_backend().between(file, space.name, space.config.working));
}

void from_light(Picture& light, const ManagedSpace& space) {
  require_named(space);
  const std::string file = config_file(space.config);
  require_plain_file(file);
  convert(light, colour_backend().between(file, space.config.working, space.name));
}

Picture as_displayed(const Picture& light, const ColourConfig& config) {
  const std::string file = config_file(config);
  require_plain_file(file);
  const void* processor =
      colour_backend().viewed(file, config.working, config.display, config.view);
  Picture shown = light;
  // Over black, as pictures for looking at are: alpha is done with.
  convert(shown, processor);
  for (Rgba& p : shown.pixels()) {
    for (std::size_t c = 0; c < 3; ++c) {
      p[c] = decode(std::isfinite(p[c]) ? std::clamp(p[c], 0.0F, 1.0F) : 0.0F, Transfer::srgb);
    }
    p[3] = 1.0F;
  }
  return shown;
}

std::optional<Primaries> working_primaries(const ColourConfig& config) {
  const std::string file = config_file(config);
  require_plain_file(file);
  const auto tied = colour_backend().tied(file, config.working);
  if (!tied) return std::nullopt;
  const Chromaticity reference =
      tied->aces ? white_of(Primaries::acescg) : white_of(Primaries::rec709);
  // Configs adapt by one method or another, which differ by less than this; other spaces by more.
  constexpr double alike = 0.02;
  for (const Primaries known : {Primaries::rec709, Primaries::acescg}) {
    const ColourMatrix m = adapted(xyz_from_rgb(known), white_of(known), reference);
    double most = 0.0;
    for (std::size_t row = 0; row < 3; ++row) {
      for (std::size_t column = 0; column < 3; ++column) {
        most = std::max(most, std::abs(m[row][column] - tied->xyz_from_space[row][column]));
      }
    }
    if (most < alike) return known;
  }
  return std::nullopt;
}

}  // namespace jolly_iris
