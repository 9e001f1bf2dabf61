#include "jolly_iris/picture/meter.hpp"

#include <fmt/format.h>
#include <tbb/blocked_range.h>
#include <tbb/parallel_reduce.h>

#include <algorithm>
#include <limits>
#include <numbers>

#include "jolly_iris/optics/errors.hpp"
#include "luminance.hpp"
#include "optics/enum_name.hpp"

namespace jolly_iris {

namespace {

constexpr double black_stops = 12.0;  // below the median: shadows hold less than that

// Luminance by its logarithm, fine enough to cut off what is black afterwards.
class Tally {
 public:
  static constexpr int low = -40;
  static constexpr int high = 40;
  static constexpr int per_stop = 4;

  void add(float luminance, double weight) {
    if (!(luminance > 0.0F)) {
      ++dark_;
      dark_weight_ += weight;
      return;
    }
    const float stops = std::log2(luminance);
    const auto at = static_cast<std::size_t>(
        std::clamp(static_cast<int>((stops - low) * per_stop), 0, count - 1));
    bins_[at].pixels += 1.0;
    bins_[at].weight += weight;
    bins_[at].sum += weight * static_cast<double>(stops);
  }
  void add(const Tally& other) {
    for (std::size_t i = 0; i < bins_.size(); ++i) {
      bins_[i].pixels += other.bins_[i].pixels;
      bins_[i].weight += other.bins_[i].weight;
      bins_[i].sum += other.bins_[i].sum;
    }
    dark_ += other.dark_;
    dark_weight_ += other.dark_weight_;
    clipped += other.clipped;
    non_finite += other.non_finite;
  }

  // Mean of the logarithm and the number of black pixels. The bins' own sums make it exact.
  struct Mean {
    double log2 = 0.0;
    double weight = 0.0;
    double black = 0.0;
  };
  Mean mean() const {
    double lit_pixels = 0.0;
    for (const Bin& bin : bins_) lit_pixels += bin.pixels;
    double seen = 0.0;
    std::size_t median = 0;
    while (median + 1 < bins_.size() && seen + bins_[median].pixels < 0.5 * lit_pixels) {
      seen += bins_[median++].pixels;
    }
    const auto cut =
        static_cast<std::ptrdiff_t>(median) - static_cast<std::ptrdiff_t>(black_stops * per_stop);
    Mean m;
    m.black = static_cast<double>(dark_);
    double sum = 0.0;
    for (std::size_t i = 0; i < bins_.size(); ++i) {
      if (static_cast<std::ptrdiff_t>(i) < cut) {
        m.black += bins_[i].pixels;
        continue;
      }
      sum += bins_[i].sum;
      m.weight += bins_[i].weight;
    }
    if (m.weight > 0.0) m.log2 = sum / m.weight;
    return m;
  }

  std::size_t clipped = 0;
  std::size_t non_finite = 0;

 private:
  static constexpr int count = (high - low) * per_stop;
  struct Bin {
    double pixels = 0.0;
    double weight = 0.0;
    double sum = 0.0;
  };
  std::vector<Bin> bins_ = std::vector<Bin>(count);
  std::size_t dark_ = 0;
  double dark_weight_ = 0.0;
};

// The same sum on every machine: rows are cut up alike, whatever the number of threads.
template <class Value, class Add, class Composition>
Value over_rows(int height, const Value& nothing, const Add& add, const Composition& join) {
  return tbb::parallel_deterministic_reduce(
      tbb::blocked_range<int>(0, height, 64), nothing,
      [&](const tbb::blocked_range<int>& range, Value value) {
        for (int y = range.begin(); y < range.end(); ++y) add(value, y);
        return value;
      },
      join);
}

void require_settings(const Picture& picture, const Metering& m) {
  if (picture.empty()) throw PictureError("has no pixels to meter");
  const auto require = [](bool good, const char* what, double value, const char* wanted) {
    if (!good || !std::isfinite(value)) {
      throw UsageError(fmt::format("{} is {:g}; it is {}", what, value, wanted));
    }
  };
  require(m.wanted > 0.0, "the wanted grey", m.wanted, "a picture value above zero, e.g. 0.18");
  require(m.clips_at > 0.0, "the value that clips", m.clips_at, "above zero, e.g. 1");
  if (m.way == MeterWay::highlights) {
    require(m.may_clip >= 0.0 && m.may_clip < 1.0, "the share that may clip", m.may_clip,
            "0 or more and less than 1, e.g. 0.001");
  }
  if (m.way == MeterWay::region) require_within(m.box, picture.size());
  if (m.way != MeterWay::spot) return;
  require(m.radius > 0.0, "the spot's radius in px", m.radius, "above zero");
  if (!(m.at[0] >= 0.0 && m.at[1] >= 0.0 && m.at[0] <= picture.width() &&
        m.at[1] <= picture.height())) {
    throw UsageError(fmt::format("the spot at {:g}, {:g} is outside the picture of {} x {}",
                                 m.at[0], m.at[1], picture.width(), picture.height()));
  }
}

// The part of the picture that is looked at.
Box part_of(const Picture& picture, const Metering& m) {
  if (m.way == MeterWay::region) return m.box;
  if (m.way != MeterWay::spot) return {0, 0, picture.width(), picture.height()};
  // Within the picture before it becomes an int: a radius may be beyond any.
  const auto from = [&](double at, int size) {
    return static_cast<int>(std::clamp(std::floor(at - m.radius), 0.0, size - 1.0));
  };
  const auto to = [&](double at, int first, int size) {
    return static_cast<int>(
        std::clamp(std::ceil(at + m.radius), first + 1.0, static_cast<double>(size)));
  };
  const int left = from(m.at[0], picture.width());
  const int top = from(m.at[1], picture.height());
  return {left, top, to(m.at[0], left, picture.width()) - left,
          to(m.at[1], top, picture.height()) - top};
}

[[noreturn]] void refuse_black(const Metered& m) {
  throw PictureError(fmt::format(
      "is nothing but black where it is metered: of {} pixels {:.0f} % have no light and {:.0f} % "
      "are no numbers",
      m.pixels, 100.0 * m.black, 100.0 * m.non_finite));
}

struct Sum {
  double luminance = 0.0;
  double pixels = 0.0;
  double dark = 0.0;
  double clipped = 0.0;
  double non_finite = 0.0;
};

void take_mean(const Picture& picture, const Metering& how, const Weights& weights, Metered& m) {
  const Box w = part_of(picture, how);
  Sum sum;
  for (int y = w.y; y < w.y + w.height; ++y) {
    for (int x = w.x; x < w.x + w.width; ++x) {
      // Of a spot smaller than a pixel, the pixel that it lies in.
      constexpr double to_corner = std::numbers::sqrt2 / 2.0;  // px, from a pixel's centre
      const bool outside =
          how.way == MeterWay::spot && w.width * w.height > 1 &&
          std::hypot(x + 0.5 - how.at[0], y + 0.5 - how.at[1]) > std::max(how.radius, to_corner);
      if (outside) continue;
      const Rgba& p = picture.at(x, y);
      sum.pixels += 1.0;
      if (!finite(p)) {
        sum.non_finite += 1.0;
        continue;
      }
      const float luminance = weights.of(p);
      sum.luminance += static_cast<double>(luminance);
      sum.dark += luminance > 0.0F ? 0.0 : 1.0;
      sum.clipped += static_cast<double>(brightest(p)) >= how.clips_at ? 1.0 : 0.0;
    }
  }
  m.pixels = static_cast<std::size_t>(sum.pixels);
  m.black = sum.dark / sum.pixels;
  m.clipped = sum.clipped / sum.pixels;
  m.non_finite = sum.non_finite / sum.pixels;
  m.level = sum.luminance / std::max(1.0, sum.pixels - sum.non_finite);
}

void take_logarithms(const Picture& picture, const Metering& how, const Weights& weights,
                     Metered& m) {
  const bool centre = how.way == MeterWay::centre;
  const int width = picture.width();
  // exp2(−d²) with d = 1 at a quarter of the width: a product of a column's and a row's share.
  const auto psf_sigma = [&](double off) {
    return std::exp2(-off * off * 16.0 / (width * static_cast<double>(width)));
  };
  std::vector<double> across(static_cast<std::size_t>(width), 1.0);
  for (int x = 0; centre && x < width; ++x) {
    across[static_cast<std::size_t>(x)] = psf_sigma(x + 0.5 - 0.5 * width);
  }
  const Tally tally = over_rows(
      picture.height(), Tally{},
      [&](Tally& t, int y) {
        const double down = centre ? psf_sigma(y + 0.5 - 0.5 * picture.height()) : 1.0;
        for (int x = 0; x < width; ++x) {
          const Rgba& p = picture.at(x, y);
          if (!finite(p)) {
            ++t.non_finite;
            continue;
          }
          t.clipped += static_cast<double>(brightest(p)) >= how.clips_at ? 1U : 0U;
          t.add(weights.of(p), down * across[static_cast<std::size_t>(x)]);
        }
      },
      [](Tally a, const Tally& b) {
        a.add(b);
        return a;
      });
  const auto mean = tally.mean();
  const auto all = static_cast<double>(picture.pixels().size());
  m.pixels = picture.pixels().size();
  m.black = mean.black / all;
  m.clipped = static_cast<double>(tally.clipped) / all;
  m.non_finite = static_cast<double>(tally.non_finite) / all;
  m.level = mean.weight > 0.0 ? std::exp2(mean.log2) : 0.0;
}

// The value that all but a share stay at or below.
void take_highlights(const Picture& picture, const Metering& how, Metered& m) {
  std::vector<float> values;
  values.reserve(picture.pixels().size());
  for (const Rgba& p : picture.pixels()) {
    if (finite(p)) values.push_back(brightest(p));
  }
  if (values.empty()) refuse_black(m);
  const auto beyond = static_cast<std::size_t>(how.may_clip * static_cast<double>(values.size()));
  const auto at = values.begin() + static_cast<std::ptrdiff_t>(std::min(beyond, values.size() - 1));
  std::nth_element(values.begin(), at, values.end(), std::greater<>());
  m.level = static_cast<double>(*at);
  m.target = how.clips_at;
}

}  // namespace

std::string_view to_string(MeterWay way) {
  return name_of<MeterWay::highlights>(way, {"average", "centre", "spot", "region", "highlights"});
}

Metered meter(const Picture& picture, const Metering& how) {
  require_settings(picture, how);
  const Weights weights(how.primaries);
  Metered m;
  m.target = how.wanted;
  if (how.way == MeterWay::spot || how.way == MeterWay::region) {
    take_mean(picture, how, weights, m);
  } else {
    take_logarithms(picture, how, weights, m);
    if (how.way == MeterWay::highlights) take_highlights(picture, how, m);
  }
  if (!(m.level > 0.0)) refuse_black(m);
  return m;
}

StopsHistogram stops_histogram(const Picture& picture, Primaries primaries, double first,
                               double last, double step) {
  if (picture.empty()) throw PictureError("has no pixels to count");
  if (!(step > 0.0) || !(last > first)) {
    throw UsageError(
        fmt::format("a histogram from {:g} to {:g} by {:g} stops has no bins", first, last, step));
  }
  const auto bins = static_cast<std::size_t>(std::lround((last - first) / step));
  const auto counts = over_rows(
      picture.height(), std::vector<double>(bins + 2, 0.0),
      [&](std::vector<double>& sum, int y) {
        for (int x = 0; x < picture.width(); ++x) {
          const auto stops = static_cast<double>(stops_from_grey(picture.at(x, y), primaries));
          if (std::isnan(stops)) continue;
          const double at = std::floor((stops - first) / step) + 1.0;
          sum[static_cast<std::size_t>(std::clamp(at, 0.0, static_cast<double>(bins + 1)))] += 1.0;
        }
      },
      [](std::vector<double> a, const std::vector<double>& b) {
        for (std::size_t i = 0; i < a.size(); ++i) a[i] += b[i];
        return a;
      });
  const auto all = static_cast<double>(picture.pixels().size());
  StopsHistogram h{first, step, {}, counts.front() / all, counts.back() / all};
  for (std::size_t i = 1; i + 1 < counts.size(); ++i) h.shares.push_back(counts[i] / all);
  return h;
}

float stops_from_grey(const Rgba& pixel, Primaries primaries) {
  if (!finite(pixel)) return std::numeric_limits<float>::quiet_NaN();
  const float luminance = Weights(primaries).of(pixel);
  if (!(luminance > 0.0F)) return -std::numeric_limits<float>::infinity();
  return std::log2(luminance / static_cast<float>(grey_value));
}

}  // namespace jolly_iris
