#include "jolly_iris/workflow/picture_origin.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <filesystem>
#include <string_view>

#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/comparison.hpp"
#include "jolly_iris/workflow/write_picture.hpp"

namespace jolly_iris {

namespace {

// Focusing elsewhere changes a focal length by some per cent; another lens changes it by more.
constexpr double another_focal = 0.03;
// Pictures of one shape differ by a row or a column where they were scaled.
constexpr double another_shape = 0.01;

class HeaderTexts {
 public:
  explicit HeaderTexts(const std::map<std::string, std::string>& header) : header_(header) {}

  std::string text(const char* name) const {
    const auto found = header_.find(std::string("jolly_iris:") + name);
    return found == header_.end() ? std::string() : found->second;
  }

  // A number that a header may have; one that is none is as good as not there.
  std::optional<double> number(const char* name) const {
    const std::string written = text(name);
    return number_in(written);
  }

  std::optional<double> positive(const char* name) const {
    const auto v = number(name);
    return v && *v > 0.0 ? v : std::nullopt;
  }

  static std::optional<double> number_in(std::string_view text) {
    double v = 0.0;
    // cppcheck-suppress invalidLifetime ; every caller's text outlives the call
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), v);
    if (error != std::errc{} || end != text.data() + text.size() || !std::isfinite(v)) {
      return std::nullopt;
    }
    return v;
  }

 private:
  const std::map<std::string, std::string>& header_;
};

std::optional<Stop> stop_in(const std::string& text) {
  const bool f = text.starts_with("f/");
  if (!f && !text.starts_with("T")) return std::nullopt;
  const auto value = HeaderTexts::number_in(std::string_view(text).substr(f ? 2 : 1));
  if (!value || !(*value > 0.0)) return std::nullopt;
  return Stop{*value, f ? Stop::Kind::f : Stop::Kind::t};
}

std::optional<BladeRadius> blade_radius_in(const std::string& text) {
  if (text == "straight") return BladeRadius::straight();
  const auto blank = text.find(' ');
  if (blank == std::string::npos) return std::nullopt;
  const auto value = HeaderTexts::number_in(std::string_view(text).substr(0, blank));
  if (!value) return std::nullopt;
  if (text.substr(blank) == " x") return BladeRadius::multiple(*value);
  if (text.substr(blank) == " mm") return BladeRadius::of_length(Length::from_mm(*value));
  return std::nullopt;
}

// Formats that keep no names of ours keep the words: "41.21 mm, f/1.71, focus 2.350 m".
std::optional<double> f_number_in(const std::string& words) {
  const auto from = words.find(" f/");
  if (from == std::string::npos) return std::nullopt;
  const auto to = words.find(',', from);
  if (to == std::string::npos) return std::nullopt;
  const auto value =
      HeaderTexts::number_in(std::string_view(words).substr(from + 3, to - from - 3));
  return value && *value > 0.0 ? value : std::nullopt;
}

double shape_of(PixelSize size) { return static_cast<double>(size.width) / size.height; }

bool same_shape(double a, double b) { return std::abs(a / b - 1.0) <= another_shape; }

}  // namespace

PictureOrigin origin_of(const std::map<std::string, std::string>& header) {
  const HeaderTexts h(header);
  PictureOrigin out;
  const auto words = header.find("ImageDescription");
  if (words != header.end() && words->second.starts_with(made_with_mark)) {
    out.made_with = words->second.substr(std::string_view(made_with_mark).size());
  }
  out.shot = h.text("shot");
  out.focal_mm = h.positive("focal_mm");
  out.f_number = h.positive("f_number");
  out.stop = stop_in(h.text("take_stop"));
  out.squeeze = h.positive("squeeze");
  if (const auto n = h.number("blades"); n && *n >= 0.0 && *n <= 1000.0) {
    out.blades = static_cast<int>(std::lround(*n));
  }
  out.rotation_deg = h.number("iris_rotation_deg");
  out.blade_radius = blade_radius_in(h.text("blade_radius"));
  out.frame = h.number("frame");
  out.axial_depth = h.text("depth") == axial_metres;
  out.darker_corners = h.text("fall_off") == corners_in_picture;
  out.fingerprint = h.text("fingerprint");
  const auto software = header.find("Software");
  if (out.fingerprint.empty() && software != header.end() &&
      software->second.starts_with(software_mark)) {
    const auto from = software->second.find('[');
    const auto to = software->second.find(']');
    if (from != std::string::npos && to != std::string::npos && to > from) {
      out.fingerprint = software->second.substr(from + 1, to - from - 1);
    }
  }
  if (!out.f_number) out.f_number = f_number_in(out.made_with);
  return out;
}

PictureOrigin read_origin(const std::string& file) {
  PictureOrigin out = origin_of(read_header(file));
  out.pixel_aspect = read_plate_facts(file).pixel_aspect;
  return out;
}

Shot shot_of(const PictureOrigin& origin, const LoadedShot& loaded) {
  Shot shot = loaded.now;
  const VirtualCamera& camera = loaded.answer.camera;
  if (origin.stop) {
    shot.take.stop = *origin.stop;
  } else if (origin.f_number) {
    shot.take.stop.value *= *origin.f_number / camera.f_number;
  }
  if (origin.squeeze) shot.lens.squeeze *= *origin.squeeze / camera.squeeze;
  if (origin.blades) shot.lens.iris.blades = *origin.blades;
  if (origin.rotation_deg) {
    shot.lens.iris.rotation = Angle::from_degrees(*origin.rotation_deg);
  }
  if (origin.blade_radius) shot.lens.iris.blade_radius = *origin.blade_radius;
  return shot;
}

std::vector<std::string> contradictions(const std::string& file, PixelSize size,
                                        const PictureOrigin& origin, const LoadedShot& loaded,
                                        const Margin& margin) {
  std::vector<std::string> out;
  const VirtualCamera& camera = loaded.answer.camera;
  const std::string shot = std::filesystem::path(loaded.shot.file).filename().string();
  if (!origin.shot.empty() && origin.shot != shot) {
    out.push_back(fmt::format("{}: was made for another shot by its header, {}; this is {}", file,
                              origin.shot, shot));
  }
  const double focal = camera.focal.mm();
  if (origin.focal_mm && std::abs(*origin.focal_mm / focal - 1.0) > another_focal) {
    out.push_back(
        fmt::format("{}: was made with {:.4g} mm by its header, the shot has {:.4g} mm: "
                    "it is framed otherwise",
                    file, *origin.focal_mm, focal));
  }
  if (origin.frame && loaded.answer.frame && *origin.frame != *loaded.answer.frame) {
    out.push_back(
        fmt::format("{}: shows frame {:g} by its header, but the shot is answered at {:g}", file,
                    *origin.frame, *loaded.answer.frame));
  }
  const PixelSize whole{camera.pixels.width + 2 * margin.beside,
                        camera.pixels.height + 2 * margin.above};
  const double squeeze = loaded.now.lens.squeeze;
  const double shape = shape_of(size);
  const bool squeezed = same_shape(shape * squeeze, shape_of(camera.pixels));
  if (!same_shape(shape, shape_of(whole)) && !same_shape(shape, shape_of(camera.pixels)) &&
      !(squeeze != 1.0 && squeezed)) {
    out.push_back(fmt::format(
        "{}: is {} x {} px, {:.3f} : 1, but the shot's pictures are {} x {}, {:.3f} : 1 "
        "(body.pixels): it is cut or framed otherwise",
        file, size.width, size.height, shape, camera.pixels.width, camera.pixels.height,
        shape_of(camera.pixels)));
  }
  return out;
}

}  // namespace jolly_iris
