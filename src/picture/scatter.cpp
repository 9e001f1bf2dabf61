#include "jolly_iris/picture/scatter.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "fourier.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/memory.hpp"
#include "parallel.hpp"
#include "require_finite.hpp"
#include "to_size.hpp"

namespace jolly_iris {

namespace {

using Spectrum = std::vector<RealTransform::Complex>;
using ShapePtr = std::shared_ptr<const ScatterShape>;

// A shape made ready for one size of picture.
struct ReadyShape {
  // Real, since shapes are the same from both sides.
  std::vector<double> spectrum{};
  // Of each pixel, how much of what it spreads lands within the frame.
  std::vector<float> kept{};
};

// What one kernel does to one colour.
struct OfOne {
  double fraction = 0.0;
  const double* spectrum = nullptr;
  const float* kept = nullptr;
};

// Shapes beyond the picture's size never meet anything.
int met(int reach, int size) { return std::min(reach, size - 1); }

std::vector<double> spectrum_of(const ScatterShape& shape, PixelSize picture,
                                const RealTransform& transform, PixelSize padded, Spectrum& work) {
  const int rx = met(shape.reach_x, picture.width);
  const int ry = met(shape.reach_y, picture.height);
  const auto read = [&](int line, double* row) {
    const int y = line <= ry ? line : line - padded.height;
    for (int x = -rx; x <= rx; ++x) {
      row[x < 0 ? x + padded.width : x] = static_cast<double>(shape.at(x, y));
    }
  };
  transform.forward({{0, ry + 1}, {padded.height - ry, padded.height}}, read, work);
  std::vector<double> out(work.size());
  parallel_for(std::size_t{0}, work.size(), [&](std::size_t i) { out[i] = work[i].real(); });
  return out;
}

// By sums from the shape's corner.
std::vector<float> kept_by(const ScatterShape& shape, PixelSize picture) {
  const std::size_t width = to_size(2 * shape.reach_x + 2);
  std::vector<double> sums(width * to_size(2 * shape.reach_y + 2));
  for (int y = -shape.reach_y; y <= shape.reach_y; ++y) {
    double row = 0.0;
    double* out = sums.data() + to_size(y + shape.reach_y + 1) * width;
    for (int x = -shape.reach_x; x <= shape.reach_x; ++x) {
      row += static_cast<double>(shape.at(x, y));
      out[x + shape.reach_x + 1] =
          row + out[x + shape.reach_x + 1 - static_cast<std::ptrdiff_t>(width)];
    }
  }
  std::vector<float> kept(to_size(picture.width) * to_size(picture.height));
  parallel_for(0, picture.height, [&](int y) {
    const int top = std::max(-shape.reach_y, -y) + shape.reach_y;
    const int bottom = std::min(shape.reach_y, picture.height - 1 - y) + shape.reach_y + 1;
    const double* above = sums.data() + to_size(top) * width;
    const double* below = sums.data() + to_size(bottom) * width;
    float* out = kept.data() + to_size(y) * to_size(picture.width);
    for (int x = 0; x < picture.width; ++x) {
      const int left = std::max(-shape.reach_x, -x) + shape.reach_x;
      const int right = std::min(shape.reach_x, picture.width - 1 - x) + shape.reach_x + 1;
      out[x] = static_cast<float>(below[right] - below[left] - above[right] + above[left]);
    }
  });
  return kept;
}

void spectrum_of(const Picture& picture, std::size_t channel, const RealTransform& transform,
                 Spectrum& work) {
  const auto read = [&](int y, double* row) {
    for (int x = 0; x < picture.width(); ++x) {
      row[x] = static_cast<double>(picture.at(x, y)[channel]);
    }
  };
  transform.forward({{0, picture.height()}}, read, work);
}

void require_enough_light(const std::vector<ScatterKernel>& kernels) {
  for (std::size_t c = 0; c < 3; ++c) {
    double sum = 0.0;
    for (const ScatterKernel& k : kernels) sum += k.fraction[c];
    if (sum <= 1.0 + 1e-6) continue;
    throw OpticsError(
        fmt::format("finish: halo, spikes and streak together spread {:.3g} times the light that "
                    "there is",
                    sum),
        "finish");
  }
}

}  // namespace

Scattered scattered(const Picture& picture, const std::vector<ScatterKernel>& kernels, bool layers,
                    const Execution& execution) {
  require_finite(picture);
  require_enough_light(kernels);
  Scattered out{picture, {}};
  if (kernels.empty()) return out;
  int reach_x = 0;
  int reach_y = 0;
  std::map<ShapePtr, ReadyShape> ready;
  for (const ScatterKernel& k : kernels) {
    for (const ShapePtr& shape : k.shape) {
      reach_x = std::max(reach_x, met(shape->reach_x, picture.width()));
      reach_y = std::max(reach_y, met(shape->reach_y, picture.height()));
      ready[shape];
    }
  }
  const PixelSize padded{quick_size(picture.width() + reach_x),
                         quick_size(picture.height() + reach_y)};
  const double cells = 0.5 * padded.width * padded.height;
  const double pixels = static_cast<double>(picture.width()) * picture.height();
  require_memory(
      cells * (32.0 + 8.0 * static_cast<double>(ready.size())) +
          pixels * (16.0 * (1.0 + (layers ? static_cast<double>(kernels.size()) : 0.0)) +
                    4.0 * static_cast<double>(ready.size())),
      fmt::format("scattering light over {} x {} pixels", picture.width(), picture.height()));
  with_threads(execution.threads, [&] {
    const double steps = static_cast<double>(ready.size()) + 3.0;
    double done = 0.0;
    const RealTransform transform(padded);
    Spectrum light;
    Spectrum product;
    for (auto& [shape, r] : ready) {
      execution.tell(done++ / steps);
      r = {spectrum_of(*shape, picture.size(), transform, padded, light),
           kept_by(*shape, picture.size())};
    }
    if (layers) {
      for (const ScatterKernel& k : kernels)
        out.layers.push_back({k.name, Picture(picture.size())});
    }
    for (std::size_t c = 0; c < 3; ++c) {
      execution.tell(done++ / steps);
      spectrum_of(picture, c, transform, light);
      // @param of the kernels that count; @param to where it is put
      const auto spread = [&](const std::vector<const ScatterKernel*>& of, Picture& to) {
        std::vector<OfOne> parts;
        for (const ScatterKernel* k : of) {
          const ReadyShape& shape = ready.at(k->shape[c]);
          parts.push_back({k->fraction[c], shape.spectrum.data(), shape.kept.data()});
        }
        // Where the light's own frequencies are wanted no more, the product lies in their place.
        Spectrum& spreads = layers ? product : light;
        spreads.resize(light.size());
        parallel_for(std::size_t{0}, light.size(), [&](std::size_t i) {
          double times = 0.0;
          for (const OfOne& p : parts) times += p.fraction * p.spectrum[i];
          spreads[i] = times * light[i];
        });
        transform.backward(spreads, picture.height(), [&](int y, const double* row) {
          for (int x = 0; x < picture.width(); ++x) {
            const std::size_t i = to_size(y) * to_size(picture.width()) + to_size(x);
            double taken = 0.0;
            for (const OfOne& p : parts) taken += p.fraction * static_cast<double>(p.kept[i]);
            float& at = to.pixels()[i][c];
            at = static_cast<float>(static_cast<double>(at) + row[x] -
                                    taken * static_cast<double>(picture.pixels()[i][c]));
          }
        });
      };
      if (!layers) {
        std::vector<const ScatterKernel*> all;
        for (const ScatterKernel& k : kernels) all.push_back(&k);
        spread(all, out.picture);
        continue;
      }
      for (std::size_t k = 0; k < kernels.size(); ++k) {
        spread({&kernels[k]}, out.layers[k].added);
        for (std::size_t i = 0; i < out.picture.pixels().size(); ++i) {
          out.picture.pixels()[i][c] += out.layers[k].added.pixels()[i][c];
        }
      }
    }
    execution.tell(1.0);
  });
  return out;
}

}  // namespace jolly_iris
