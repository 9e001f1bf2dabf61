#include <OpenColorIO/OpenColorIO.h>
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <memory>
#include <mutex>

#include "colour_backend.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/version.hpp"
#include "optics/nearest.hpp"

namespace OCIO = OCIO_NAMESPACE;

namespace jolly_iris::picture_files {

namespace {

struct Opened {
  OCIO::ConstConfigRcPtr config;
  std::map<std::string, OCIO::ConstCPUProcessorRcPtr> processors;
};

// Configs stay open, and what was made of them: a processor costs 0.2 s. A config that changes on
// the disk while we run is the old one, as it is for every program that reads it once.
std::mutex& guard() {
  static std::mutex mutex;
  return mutex;
}

std::string first_line(const std::string& text) { return text.substr(0, text.find('\n')); }

Opened& opened(const std::string& file) {
  static std::map<std::string, Opened> all;
  const auto found = all.find(file);
  if (found != all.end()) return found->second;
  try {
    OCIO::SetLoggingLevel(OCIO::LOGGING_LEVEL_NONE);
    OCIO::ConstConfigRcPtr config = OCIO::Config::CreateFromFile(file.c_str());
    config->validate();
    return all.emplace(file, Opened{config, {}}).first->second;
  } catch (const OCIO::Exception& e) {
    throw FileError(fmt::format("{}: is no OpenColorIO config that can be used: {}", file,
                                first_line(e.what())));
  }
}

std::vector<std::string> spaces_of(const OCIO::Config& config) {
  std::vector<std::string> names;
  for (int i = 0; i < config.getNumColorSpaces(); ++i) {
    names.emplace_back(config.getColorSpaceNameByIndex(i));
  }
  return names;
}

// The name that the config knows a space by; roles and aliases are names as well.
std::string space_named(const OCIO::Config& config, const std::string& file,
                        const std::string& name) {
  const std::string asked = name.empty() ? OCIO::ROLE_SCENE_LINEAR : name;
  if (const auto space = config.getColorSpace(asked.c_str())) {
    if (space->isData()) {
      throw UsageError(fmt::format("'{}' of {} holds data, no colour", asked, file));
    }
    return space->getName();
  }
  if (name.empty()) {
    throw UsageError(
        fmt::format("{} has no role scene_linear; say in which linear space to work: plate.working "
                    "= \"NAME\".{}",
                    file, did_you_mean("scene_linear", spaces_of(config))));
  }
  throw UsageError(fmt::format("{} has no colour space '{}'.{}", file, name,
                               did_you_mean(name, spaces_of(config))));
}

void require(const std::string& file, const std::string& space) {
  const std::lock_guard<std::mutex> alone(guard());
  (void)space_named(*opened(file).config, file, space);
}

template <class Make>
const void* kept(const std::string& file, const std::string& key, const Make& make) {
  const std::lock_guard<std::mutex> alone(guard());
  OCIO::ConstCPUProcessorRcPtr& processor = opened(file).processors[key];
  if (!processor) {
    try {
      OCIO::ConstProcessorRcPtr made = make(*opened(file).config);
      processor = made->getOptimizedCPUProcessor(OCIO::OPTIMIZATION_LOSSLESS);
    } catch (const OCIO::Exception& e) {
      throw FileError(fmt::format("{}: {}", file, first_line(e.what())));
    }
  }
  return processor.get();
}

const void* between(const std::string& file, const std::string& from, const std::string& to) {
  return kept(file, "between\n" + from + "\n" + to, [&](const OCIO::Config& config) {
    return config.getProcessor(space_named(config, file, from).c_str(),
                               space_named(config, file, to).c_str());
  });
}

const void* viewed(const std::string& file, const std::string& from, const std::string& display,
                   const std::string& view) {
  return kept(
      file, "viewed\n" + from + "\n" + display + "\n" + view, [&](const OCIO::Config& config) {
        std::vector<std::string> displays;
        for (int i = 0; i < config.getNumDisplays(); ++i)
          displays.emplace_back(config.getDisplay(i));
        if (std::find(displays.begin(), displays.end(), display) == displays.end()) {
          throw UsageError(fmt::format("{} has no display '{}'.{}", file, display,
                                       did_you_mean(display, displays)));
        }
        std::vector<std::string> views;
        for (int i = 0; i < config.getNumViews(display.c_str()); ++i) {
          views.emplace_back(config.getView(display.c_str(), i));
        }
        const std::string shown = view.empty() ? config.getDefaultView(display.c_str()) : view;
        if (std::find(views.begin(), views.end(), shown) == views.end()) {
          throw UsageError(fmt::format("the display '{}' of {} has no view '{}'.{}", display, file,
                                       shown, did_you_mean(shown, views)));
        }
        return config.getProcessor(space_named(config, file, from).c_str(), display.c_str(),
                                   shown.c_str(), OCIO::TRANSFORM_DIR_FORWARD);
      });
}

void apply(const void* processor, float* rgba, std::size_t pixels) {
  OCIO::PackedImageDesc image(rgba, static_cast<long>(pixels), 1, 4);
  static_cast<const OCIO::CPUProcessor*>(processor)->apply(image);
}

// ACES2065-1 → XYZ (SMPTE ST 2065-1).
constexpr ColourMatrix xyz_from_aces{{{0.9525523959, 0.0, 0.0000936786},
                                      {0.3439664498, 0.7281660966, -0.0721325464},
                                      {0.0, 0.0, 1.0088251844}}};

std::optional<ColourBackend::Tied> tied(const std::string& file, const std::string& space) {
  bool aces = false;
  std::string role;
  {
    const std::lock_guard<std::mutex> alone(guard());
    const OCIO::ConstConfigRcPtr config = opened(file).config;
    (void)space_named(*config, file, space);
    aces = config->hasRole("aces_interchange");
    if (!aces && !config->hasRole("cie_xyz_d65_interchange")) return std::nullopt;
    role = aces ? "aces_interchange" : "cie_xyz_d65_interchange";
  }
  const void* processor = between(file, space, role);
  // The three primaries, and one of them twice: a space with a curve is no place to keep light in.
  std::array<float, 16> rgba{1, 0, 0, 1, 0, 1, 0, 1, 0, 0, 1, 1, 2, 0, 0, 1};
  apply(processor, rgba.data(), 4);
  for (std::size_t i = 0; i < 3; ++i) {
    if (std::abs(rgba[12 + i] - 2.0F * rgba[i]) > 1e-4F) {
      throw UsageError(fmt::format("'{}' of {} is not linear; light is kept in a linear space",
                                   space.empty() ? "scene_linear" : space, file));
    }
  }
  ColourMatrix m{};
  for (std::size_t column = 0; column < 3; ++column) {
    for (std::size_t row = 0; row < 3; ++row) {
      m[row][column] = static_cast<double>(rgba[4 * column + row]);
    }
  }
  return ColourBackend::Tied{aces ? product(xyz_from_aces, m) : m, aces};
}

}  // namespace

}  // namespace jolly_iris::picture_files

extern "C" __attribute__((visibility("default"))) const void* jolly_iris_colour_backend() {
  static const jolly_iris::picture_files::ColourBackend backend{JOLLY_IRIS_VERSION,
                                                                jolly_iris::picture_files::require,
                                                                jolly_iris::picture_files::between,
                                                                jolly_iris::picture_files::viewed,
                                                                jolly_iris::picture_files::apply,
                                                                jolly_iris::picture_files::tied};
  return &backend;
}
