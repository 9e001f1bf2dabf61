// What a camera and its file make of light: photosites, noise, demosaicing, sharpening, denoising,
// a transfer curve, bits, a codec. Each is there or not, so that measuring is tried on all of them.
#pragma once

#include <OpenImageIO/imageio.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <filesystem>
#include <random>
#include <stdexcept>
#include <string>
#include <vector>

#include "jolly_iris/picture/picture.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"

namespace jolly_iris::plates {

/// How edges come to be as they are in the file.
enum class Edges {
  ideal,       ///< each pixel the mean over its square
  softened,    ///< a low-pass filter before the sensor
  sharpened,   ///< an unsharp mask on coded luma: edges overshoot
  denoised,    ///< small differences evened out
  demosaiced,  ///< one colour a photosite, the others from around it
};
inline constexpr std::array all_edges{Edges::ideal, Edges::softened, Edges::sharpened,
                                      Edges::denoised, Edges::demosaiced};

inline const char* name_of(Edges edges) {
  constexpr std::array names{"ideal", "softened", "sharpened", "denoised", "demosaiced"};
  return names[static_cast<std::size_t>(edges)];
}

struct CameraFile {
  Edges edges = Edges::ideal;
  double snr = 60.0;    ///< of linear light 1; noise grows with the light's root
  double clip = 1.0;    ///< linear, where photosites are full; 0: nowhere
  int quality = 0;      ///< of an 8-bit JPEG; 0: half floats, linear
  bool coarse = false;  ///< colours at half the size (4:2:0)
  std::uint32_t seed = 1;
};

/// Means under a bell, mirrored at the borders.
inline Picture bell(const Picture& in, double sigma) {
  const int reach = static_cast<int>(std::ceil(4.0 * sigma));
  std::vector<float> weight;
  float sum = 0.0F;
  for (int i = -reach; i <= reach; ++i) {
    weight.push_back(static_cast<float>(std::exp(-0.5 * i * i / (sigma * sigma))));
    sum += weight.back();
  }
  const auto inside = [](int i, int n) {
    return std::clamp(i < 0 ? -i : i >= n ? 2 * n - 2 - i : i, 0, n - 1);
  };
  Picture across = in;
  Picture out = in;
  const int w = in.width();
  const int h = in.height();
  for (const bool down : {false, true}) {
    const Picture& from = down ? across : in;
    Picture& to = down ? out : across;
    for (int y = 0; y < h; ++y) {
      for (int x = 0; x < w; ++x) {
        std::array<float, 3> mean{};
        for (int k = -reach; k <= reach; ++k) {
          const Rgba& p = down ? from.at(x, inside(y + k, h)) : from.at(inside(x + k, w), y);
          const float share = weight[static_cast<std::size_t>(k + reach)] / sum;
          for (std::size_t c = 0; c < 3; ++c) mean[c] += share * p[c];
        }
        for (std::size_t c = 0; c < 3; ++c) to.at(x, y)[c] = mean[c];
      }
    }
  }
  return out;
}

/// A mosaic of red, green and blue photosites, filled in along the smaller of two slopes (green)
/// and by differences to green (red and blue): the usual way, as Hamilton and Adams describe it in
/// US patent 5,629,734.
inline Picture demosaiced(const Picture& in) {
  const int w = in.width();
  const int h = in.height();
  const auto colour_at = [](int x, int y) -> std::size_t {
    return (x + y) % 2 != 0 ? 1U : y % 2 == 0 ? 0U : 2U;
  };
  const auto raw = [&](int x, int y) {
    const auto mirrored = [](int i, int n) {
      return std::clamp(i < 0 ? -i : i >= n ? 2 * n - 2 - i : i, 0, n - 1);
    };
    x = mirrored(x, w);
    y = mirrored(y, h);
    return in.at(x, y)[colour_at(x, y)];
  };
  Picture out(in.size(), {0.0F, 0.0F, 0.0F, 1.0F});
  for (int y = 0; y < h; ++y) {
    for (int x = 0; x < w; ++x) {
      if (colour_at(x, y) == 1U) {
        out.at(x, y)[1] = raw(x, y);
        continue;
      }
      const float bend_x = 2.0F * raw(x, y) - raw(x - 2, y) - raw(x + 2, y);
      const float bend_y = 2.0F * raw(x, y) - raw(x, y - 2) - raw(x, y + 2);
      const float slope_x = std::abs(raw(x - 1, y) - raw(x + 1, y)) + std::abs(bend_x);
      const float slope_y = std::abs(raw(x, y - 1) - raw(x, y + 1)) + std::abs(bend_y);
      const float green_x = 0.5F * (raw(x - 1, y) + raw(x + 1, y)) + 0.25F * bend_x;
      const float green_y = 0.5F * (raw(x, y - 1) + raw(x, y + 1)) + 0.25F * bend_y;
      const float green = slope_x < slope_y   ? green_x
                          : slope_y < slope_x ? green_y
                                              : 0.5F * (green_x + green_y);
      out.at(x, y)[1] = std::max(0.0F, green);
    }
  }
  for (int y = 0; y < h; ++y) {
    for (int x = 0; x < w; ++x) {
      for (const std::size_t c : {std::size_t{0}, std::size_t{2}}) {
        if (colour_at(x, y) == c) {
          out.at(x, y)[c] = raw(x, y);
          continue;
        }
        float sum = 0.0F;
        int count = 0;
        for (int j = -1; j <= 1; ++j) {
          for (int i = -1; i <= 1; ++i) {
            const int u = x + i;
            const int v = y + j;
            if (u < 0 || v < 0 || u >= w || v >= h || colour_at(u, v) != c) continue;
            sum += raw(u, v) - out.at(u, v)[1];
            ++count;
          }
        }
        out.at(x, y)[c] =
            std::max(0.0F, out.at(x, y)[1] + (count > 0 ? sum / static_cast<float>(count) : 0.0F));
      }
    }
  }
  return out;
}

/// IEC 61966-2-1, written out here so that reading it is judged by something else than itself.
inline float srgb_coded(float linear) {
  const float v = std::clamp(linear, 0.0F, 1.0F);
  return v <= 0.0031308F ? 12.92F * v : 1.055F * std::pow(v, 1.0F / 2.4F) - 0.055F;
}

/// Means of coded values around that differ by less than some deviations of the noise (a bilateral
/// filter; Tomasi and Manduchi, ICCV 1998).
inline Picture evened(const Picture& in, float range) {
  Picture out = in;
  constexpr int reach = 2;
  for (int y = 0; y < in.height(); ++y) {
    for (int x = 0; x < in.width(); ++x) {
      const Rgba& here = in.at(x, y);
      std::array<float, 3> sum{};
      float total = 0.0F;
      for (int j = std::max(0, y - reach); j <= std::min(in.height() - 1, y + reach); ++j) {
        for (int i = std::max(0, x - reach); i <= std::min(in.width() - 1, x + reach); ++i) {
          const Rgba& there = in.at(i, j);
          float off = 0.0F;
          for (std::size_t c = 0; c < 3; ++c) off += (there[c] - here[c]) * (there[c] - here[c]);
          const auto away = static_cast<float>((i - x) * (i - x) + (j - y) * (j - y));
          const float weight = std::exp(-off / (6.0F * range * range) - away / 4.5F);
          for (std::size_t c = 0; c < 3; ++c) sum[c] += weight * there[c];
          total += weight;
        }
      }
      for (std::size_t c = 0; c < 3; ++c) out.at(x, y)[c] = sum[c] / total;
    }
  }
  return out;
}

/// Coded values with edges drawn harder: radius 1 px, amount 0.8, on luma.
inline Picture sharpened(const Picture& in) {
  const Picture soft = bell(in, 1.0);
  Picture out = in;
  for (std::size_t i = 0; i < in.pixels().size(); ++i) {
    const Rgba& a = in.pixels()[i];
    const Rgba& b = soft.pixels()[i];
    const float more =
        0.8F * (0.2126F * (a[0] - b[0]) + 0.7152F * (a[1] - b[1]) + 0.0722F * (a[2] - b[2]));
    for (std::size_t c = 0; c < 3; ++c) out.pixels()[i][c] = a[c] + more;
  }
  return out;
}

/// Writes 8-bit coded values as a JPEG.
inline void write_jpeg(const std::string& file, const Picture& coded, int quality, bool coarse) {
  std::vector<std::uint8_t> bytes;
  for (const Rgba& p : coded.pixels()) {
    for (std::size_t c = 0; c < 3; ++c) {
      bytes.push_back(
          static_cast<std::uint8_t>(std::lround(255.0F * std::clamp(p[c], 0.0F, 1.0F))));
    }
  }
  OIIO::ImageSpec spec(coded.width(), coded.height(), 3, OIIO::TypeDesc::UINT8);
  spec.attribute("Compression", "jpeg:" + std::to_string(quality));
  spec.attribute("jpeg:subsampling", coarse ? "4:2:0" : "4:4:4");
  const auto out = OIIO::ImageOutput::create(file);
  if (!out || !out->open(file, spec) || !out->write_image(OIIO::TypeDesc::UINT8, bytes.data()) ||
      !out->close()) {
    throw std::runtime_error(file + ": " + (out ? out->geterror() : OIIO::geterror()));
  }
}

/// Puts what a lens tells its body into a JPEG's header.
inline void add_exif(const std::string& file, double focal_mm, double f_number) {
  auto in = OIIO::ImageInput::open(file);
  if (!in) throw std::runtime_error(file + ": " + OIIO::geterror());
  OIIO::ImageSpec spec = in->spec();
  spec.attribute("Exif:FocalLength", static_cast<float>(focal_mm));
  spec.attribute("FNumber", static_cast<float>(f_number));
  const std::string with = file + ".exif.jpg";
  // The coefficients are copied, so that nothing is coded twice.
  const auto out = OIIO::ImageOutput::create(with);
  if (!out || !out->open(with, spec) || !out->copy_image(in.get()) || !out->close()) {
    throw std::runtime_error(with + ": " + (out ? out->geterror() : OIIO::geterror()));
  }
  in->close();
  std::filesystem::rename(with, file);
}

/// The light as a file of that camera has it.
/// @param file ending in .jpg where the quality is not 0, else in .exr
inline void record(const Picture& light, const CameraFile& camera, const std::string& file) {
  std::mt19937 random(camera.seed);
  std::normal_distribution<float> normal(0.0F, 1.0F);
  // A low-pass filter: about two thirds of a pixel, as sharp cameras have; the softened kind has it
  // alone.
  Picture p = camera.edges == Edges::softened ? bell(light, 0.7) : light;
  for (Rgba& pixel : p.pixels()) {
    for (std::size_t c = 0; c < 3; ++c) {
      const float mean = std::max(pixel[c], 0.0F);
      const float read = 0.1F;  // of the noise at 1, what is left in the dark
      pixel[c] =
          mean + normal(random) * std::sqrt(mean + read * read) / static_cast<float>(camera.snr);
      if (camera.clip > 0.0) pixel[c] = std::min(pixel[c], static_cast<float>(camera.clip));
    }
  }
  if (camera.edges == Edges::demosaiced) p = demosaiced(p);
  if (camera.quality == 0) {
    // Half floats of a camera: what works on coded values does it on a root.
    if (camera.edges == Edges::denoised || camera.edges == Edges::sharpened) {
      for (Rgba& pixel : p.pixels()) {
        for (std::size_t c = 0; c < 3; ++c) pixel[c] = std::sqrt(std::max(pixel[c], 0.0F));
      }
      p = camera.edges == Edges::denoised ? evened(p, 1.5F / static_cast<float>(camera.snr))
                                          : sharpened(p);
      for (Rgba& pixel : p.pixels()) {
        for (std::size_t c = 0; c < 3; ++c)
          pixel[c] = std::max(pixel[c], 0.0F) * std::max(pixel[c], 0.0F);
      }
    }
    write_picture(file, {p, {}});
    return;
  }
  for (Rgba& pixel : p.pixels()) {
    for (std::size_t c = 0; c < 3; ++c) {
      pixel[c] = srgb_coded(pixel[c] / static_cast<float>(camera.clip > 0.0 ? camera.clip : 1.0));
    }
  }
  if (camera.edges == Edges::denoised) p = evened(p, 1.5F / static_cast<float>(camera.snr));
  if (camera.edges == Edges::sharpened) p = sharpened(p);
  write_jpeg(file, p, camera.quality, camera.coarse);
}

}  // namespace jolly_iris::plates
