#include "left_over.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include "jolly_iris/optics/transfer.hpp"
#include "jolly_iris/picture/warp.hpp"
#include "measure/constants.hpp"
#include "optics/quantile.hpp"

namespace jolly_iris::measuring {

namespace {

// As 8 bits show it; from a table, since millions of pixels ask. Its steps are a thirtieth of 1/255
// where the curve is steepest.
float shown(float light) {
  static const std::vector<float> table = [] {
    std::vector<float> t;
    for (int i = 0; i <= 0xffff; ++i)
      t.push_back(encode(static_cast<float>(i) / 0xffff, Transfer::srgb));
    return t;
  }();
  return table[static_cast<std::size_t>(std::lround(std::clamp(light, 0.0F, 1.0F) * 0xffff))];
}

double luma(const Rgba& p) {
  return 0.2126 * static_cast<double>(shown(p[0])) + 0.7152 * static_cast<double>(shown(p[1])) +
         0.0722 * static_cast<double>(shown(p[2]));
}

// One block's difference of the three encoded channels.
struct LightBlock {
  double sum_of_squares = 0.0;
  std::array<double, 3> mean{};
  double plate_light = 0.0;  // luminance, linear
  double cg_light = 0.0;
  double times = 0.0;  // of what noise and eyes let pass
};

class Blocks {
 public:
  Blocks(const Picture& plate, const Picture& cg)
      : columns((plate.width() + left::block - 1) / left::block),
        rows((plate.height() + left::block - 1) / left::block),
        blocks_(static_cast<std::size_t>(columns) * static_cast<std::size_t>(rows)) {
    std::vector<double> steps;
    for (int row = 0; row < rows; ++row) {
      for (int column = 0; column < columns; ++column) fill(plate, cg, row, column, steps);
    }
    // A difference of two neighbours' differences has the noise of two pixels of each picture.
    noise = steps.size() < 100 ? 0.0 : quantile(steps, 0.4) / 0.524 / std::sqrt(2.0);
    judge();
  }

  int columns;
  int rows;
  double noise = 0.0;

  const LightBlock& at(int column, int row) const {
    return blocks_[static_cast<std::size_t>(row) * static_cast<std::size_t>(columns) +
                   static_cast<std::size_t>(column)];
  }

 private:
  void fill(const Picture& plate, const Picture& cg, int row, int column,
            std::vector<double>& steps) {
    LightBlock& b = blocks_[static_cast<std::size_t>(row) * static_cast<std::size_t>(columns) +
                            static_cast<std::size_t>(column)];
    const int x1 = std::min(plate.width(), (column + 1) * left::block);
    const int y1 = std::min(plate.height(), (row + 1) * left::block);
    double count = 0.0;
    for (int y = row * left::block; y < y1; ++y) {
      double before = 0.0;
      for (int x = column * left::block; x < x1; ++x) {
        const Rgba& p = plate.at(x, y);
        const Rgba& q = cg.at(x, y);
        double green = 0.0;
        for (std::size_t c = 0; c < 3; ++c) {
          const double d = static_cast<double>(shown(q[c])) - static_cast<double>(shown(p[c]));
          b.mean[c] += d;
          b.sum_of_squares += d * d / 3.0;
          if (c == 1) green = d;
        }
        b.plate_light += static_cast<double>(p[0] + p[1] + p[2]) / 3.0;
        b.cg_light += static_cast<double>(q[0] + q[1] + q[2]) / 3.0;
        if (x > column * left::block && ((x ^ y) & 3) == 0) {
          steps.push_back(std::abs(green - before));
        }
        before = green;
        count += 1.0;
      }
    }
    for (double& m : b.mean) m /= count;
    b.sum_of_squares /= count;
    b.plate_light /= count;
    b.cg_light /= count;
  }

  void judge() {
    const double of_mean =
        std::max(left::deviations * left::correlated * noise / left::block, left::seen_mean);
    const double of_scatter = std::max(left::scatter * noise, left::seen_scatter);
    for (LightBlock& b : blocks_) {
      double mean = 0.0;
      for (const double m : b.mean) mean = std::max(mean, std::abs(m));
      b.times = std::max(mean / of_mean, std::sqrt(b.sum_of_squares) / of_scatter);
    }
  }

  std::vector<LightBlock> blocks_;
};

// The window of so many blocks that holds most of what differs.
struct Window {
  int column = 0;
  int row = 0;
  double energy = 0.0;
  int differing = 0;
};

Window most_differing(const std::vector<double>& energy, const Blocks& blocks, int wide, int high) {
  const auto stride = static_cast<std::size_t>(blocks.columns + 1);
  std::vector<double> sums(stride * static_cast<std::size_t>(blocks.rows + 1), 0.0);
  const auto place = [&](int column, int row) {
    return static_cast<std::size_t>(row) * stride + static_cast<std::size_t>(column);
  };
  for (int row = 0; row < blocks.rows; ++row) {
    for (int column = 0; column < blocks.columns; ++column) {
      sums[place(column + 1, row + 1)] =
          energy[static_cast<std::size_t>(row) * static_cast<std::size_t>(blocks.columns) +
                 static_cast<std::size_t>(column)] +
          sums[place(column, row + 1)] + sums[place(column + 1, row)] - sums[place(column, row)];
    }
  }
  Window best;
  for (int row = 0; row + high <= blocks.rows; ++row) {
    for (int column = 0; column + wide <= blocks.columns; ++column) {
      const double here = sums[place(column + wide, row + high)] - sums[place(column, row + high)] -
                          sums[place(column + wide, row)] + sums[place(column, row)];
      if (here > best.energy * (1.0 + 1e-9) + 1e-15) best = {column, row, here, 0};
    }
  }
  return best;
}

}  // namespace

LeftOver left_over(const Picture& plate, const Picture& cg, const std::vector<DiscPair>& discs) {
  const Blocks blocks(plate, cg);
  LeftOver out;
  out.noise = blocks.noise;
  std::vector<double> energy;
  double all = 0.0;
  std::size_t differing = 0;
  for (int row = 0; row < blocks.rows; ++row) {
    for (int column = 0; column < blocks.columns; ++column) {
      const LightBlock& b = blocks.at(column, row);
      all += b.sum_of_squares;
      differing += b.times > 1.0 ? 1U : 0U;
      energy.push_back(b.times > 1.0 ? b.sum_of_squares : 0.0);
    }
  }
  out.off = std::sqrt(all / static_cast<double>(energy.size()));
  out.fraction = static_cast<double>(differing) / static_cast<double>(energy.size());
  const int wide = std::clamp(blocks.columns / left::across, 1, blocks.columns);
  const int high = std::clamp(blocks.rows / left::down, 1, blocks.rows);
  double first = 0.0;
  while (out.places.size() < left::most_places) {
    const Window w = most_differing(energy, blocks, wide, high);
    if (!(w.energy > left::worth_naming * first)) break;
    int x0 = blocks.columns;
    int y0 = blocks.rows;
    int x1 = -1;
    int y1 = -1;
    double squares = 0.0;
    double plate_light = 0.0;
    double cg_light = 0.0;
    int count = 0;
    double strongest = 0.0;
    for (int row = w.row; row < w.row + high; ++row) {
      for (int column = w.column; column < w.column + wide; ++column) {
        double& e =
            energy[static_cast<std::size_t>(row) * static_cast<std::size_t>(blocks.columns) +
                   static_cast<std::size_t>(column)];
        if (!(e > 0.0)) continue;
        const LightBlock& b = blocks.at(column, row);
        squares += e;
        e = 0.0;
        x0 = std::min(x0, column);
        x1 = std::max(x1, column);
        y0 = std::min(y0, row);
        y1 = std::max(y1, row);
        plate_light += b.plate_light;
        cg_light += b.cg_light;
        strongest = std::max(strongest, b.times);
        ++count;
      }
    }
    if (count == 0) break;
    // One block in some thousands is beyond by chance.
    if (count < left::fewest_blocks && strongest < left::alone) continue;
    if (first == 0.0) first = w.energy;
    DifferingPlace place;
    place.box = {x0 * left::block, y0 * left::block,
                 std::min(plate.width(), (x1 + 1) * left::block) - x0 * left::block,
                 std::min(plate.height(), (y1 + 1) * left::block) - y0 * left::block};
    place.off = std::sqrt(squares / count);
    place.noise = blocks.noise;
    place.stops = std::log2(std::max(cg_light, 1e-9) / std::max(plate_light, 1e-9));
    for (const DiscPair& d : discs) {
      const double x = d.plate.at[0] - place.box.x;
      const double y = d.plate.at[1] - place.box.y;
      place.discs += x >= 0.0 && y >= 0.0 && x < place.box.width && y < place.box.height ? 1 : 0;
    }
    out.places.push_back(place);
  }
  return out;
}

std::optional<double> view_likeness(const Picture& plate, const Picture& cg) {
  const int width = std::min(plate.width(), view::width);
  const Picture a = shrunk(plate, width);
  const Picture b = shrunk(cg, width);
  const int w = std::min(a.width(), b.width());
  const int h = std::min(a.height(), b.height());
  // What is left of the mean around it: light may be another, and so may blur be.
  const auto detail = [&](const Picture& p) {
    std::vector<double> sums(static_cast<std::size_t>(w + 1) * static_cast<std::size_t>(h + 1),
                             0.0);
    const auto at = [&](int x, int y) -> double& {
      return sums[static_cast<std::size_t>(y) * static_cast<std::size_t>(w + 1) +
                  static_cast<std::size_t>(x)];
    };
    for (int y = 0; y < h; ++y) {
      for (int x = 0; x < w; ++x) {
        at(x + 1, y + 1) = luma(p.at(x, y)) + at(x, y + 1) + at(x + 1, y) - at(x, y);
      }
    }
    const auto mean = [&](int x, int y, int reach) {
      const int x0 = std::max(0, x - reach);
      const int x1 = std::min(w, x + reach + 1);
      const int y0 = std::max(0, y - reach);
      const int y1 = std::min(h, y + reach + 1);
      return (at(x1, y1) - at(x0, y1) - at(x1, y0) + at(x0, y0)) / ((x1 - x0) * (y1 - y0));
    };
    std::vector<double> out;
    for (int y = 0; y < h; ++y) {
      for (int x = 0; x < w; ++x) {
        out.push_back(mean(x, y, view::fine) - mean(x, y, view::coarse));
      }
    }
    return out;
  };
  const std::vector<double> p = detail(a);
  const std::vector<double> q = detail(b);
  double pp = 0.0;
  double qq = 0.0;
  double pq = 0.0;
  for (std::size_t i = 0; i < p.size(); ++i) {
    pp += p[i] * p[i];
    qq += q[i] * q[i];
    pq += p[i] * q[i];
  }
  const double least = static_cast<double>(p.size()) * view::hardly_any * view::hardly_any;
  if (pp < least || qq < least) return std::nullopt;
  return pq / std::sqrt(pp * qq);
}

}  // namespace jolly_iris::measuring
