#include "exposure_cells.hpp"

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/transfer.hpp"
#include "palette.hpp"

namespace jolly_iris::drawing {

namespace {

std::uint32_t packed(const Colour& c) {
  const auto byte = [](double v) {
    return static_cast<std::uint32_t>(std::lround(255.0 * std::clamp(v, 0.0, 1.0)));
  };
  return (byte(c.r) << 16U) | (byte(c.g) << 8U) | byte(c.b);
}

// What a file wrote as clipped comes back a little less so.
constexpr double nearly = 0.97;

Cell cell_of(const ExposureSheet& sheet, int x0, int y0, int x1, int y1) {
  Cell cell;
  double n = 0.0;
  double lost = 0.0;
  for (int y = y0; y < y1; ++y) {
    for (int x = x0; x < x1; ++x) {
      const Rgba& p = sheet.picture.at(x, y);
      if (!std::isfinite(p[0]) || !std::isfinite(p[1]) || !std::isfinite(p[2])) {
        lost += 1.0;
        continue;
      }
      n += 1.0;
      for (std::size_t c = 0; c < 3; ++c) cell.mean[c] += static_cast<double>(p[c]);
    }
  }
  for (double& v : cell.mean) v /= std::max(1.0, n);
  const Rgba mean{static_cast<float>(cell.mean[0]), static_cast<float>(cell.mean[1]),
                  static_cast<float>(cell.mean[2]), 1.0F};
  const auto stops = static_cast<double>(stops_from_grey(mean, sheet.primaries));
  const double max = std::max({cell.mean[0], cell.mean[1], cell.mean[2]});
  if (lost > 0.0) {
    cell.kind = CellKind::no_number;
  } else if (max >= nearly * sheet.clips_at) {
    cell.kind = CellKind::clipped;
  } else if (!(stops > lowest_band - 4.5)) {
    cell.kind = CellKind::black;
  }
  cell.band = std::clamp(static_cast<int>(std::lround(std::clamp(stops, -20.0, 20.0))), lowest_band,
                         highest_band);
  return cell;
}

}  // namespace

Colour colour_of_band(int band) {
  const double k = std::clamp(band, lowest_band, highest_band);
  const double light = 0.14 + 0.83 * (k - lowest_band) / (highest_band - lowest_band);
  if (k < 0) {
    const double tint = -k / -lowest_band;
    return {light - 0.06 * tint, light + 0.01 * tint, light + 0.12 * tint};
  }
  const double tint = k / highest_band;
  return {std::min(1.0, light + 0.06 * tint), light - 0.02 * tint, light - 0.20 * tint};
}

Cells cells_of(const ExposureSheet& sheet, int columns) {
  const Picture& p = sheet.picture;
  Cells cells;
  cells.width = std::clamp(columns, 1, p.width());
  const double step = static_cast<double>(p.width()) / cells.width;
  cells.height = std::max(1, static_cast<int>(std::lround(p.height() / step)));
  const double down = static_cast<double>(p.height()) / cells.height;
  for (int y = 0; y < cells.height; ++y) {
    for (int x = 0; x < cells.width; ++x) {
      const int x0 = static_cast<int>(x * step);
      const int y0 = static_cast<int>(y * down);
      const int x1 = std::clamp(static_cast<int>((x + 1) * step), x0 + 1, p.width());
      const int y1 = std::clamp(static_cast<int>((y + 1) * down), y0 + 1, p.height());
      cells.all.push_back(cell_of(sheet, x0, y0, x1, y1));
    }
  }
  return cells;
}

std::uint32_t painted(CellKind kind, int band, int x, int y) {
  switch (kind) {
    case CellKind::clipped:
      return packed((x + y) % 6 < 2 ? mark_red : colour_of_band(highest_band));
    case CellKind::black:
      return packed(x % 6 < 2 && y % 6 < 2 ? Colour{0.55, 0.58, 0.62} : Colour{0.05, 0.05, 0.07});
    case CellKind::no_number:
      return packed((x / 4 + y / 4) % 2 == 0 ? white : mark_red);
    case CellKind::stop:
      break;
  }
  return packed(colour_of_band(band));
}

Raster map_of(const Cells& cells, int width) {
  Raster raster;
  raster.width = width;
  raster.height = std::max(
      1, static_cast<int>(std::lround(static_cast<double>(width) * cells.height / cells.width)));
  for (int y = 0; y < raster.height; ++y) {
    const int row = std::min(cells.height - 1, y * cells.height / raster.height);
    for (int x = 0; x < raster.width; ++x) {
      const Cell& c = cells.at(std::min(cells.width - 1, x * cells.width / raster.width), row);
      raster.pixels.push_back(painted(c.kind, c.band, x, y));
    }
  }
  return raster;
}

Raster view_of(const Cells& cells) {
  Raster raster{cells.width, cells.height, {}};
  for (const Cell& c : cells.all) {
    const auto shown = [](double v) {
      return static_cast<double>(
          encode(static_cast<float>(std::clamp(v, 0.0, 1.0)), Transfer::srgb));
    };
    raster.pixels.push_back(packed({shown(c.mean[0]), shown(c.mean[1]), shown(c.mean[2])}));
  }
  return raster;
}

}  // namespace jolly_iris::drawing
