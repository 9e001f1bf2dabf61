#include "edge_unmix.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>

#include "parallel.hpp"
#include "to_size.hpp"

namespace jolly_iris::blur {

namespace {

// A step of blur is an edge from this on: px, and as a share of the larger blur. Seams of less are
// not seen, and depth that only trembles or slopes has less.
constexpr float min_step = 1.0F;
constexpr float min_fraction = 0.25F;
constexpr int around = 3;            // px: where both sides' colours are looked for
constexpr int close = 2;             // px: the same for what is thin
constexpr float alike = 0.35F;       // of the step: so far from a side's blur is still that side
constexpr float sharp_below = 2.0F;  // px: a nearer thing with less blur keeps its shares
constexpr float min_contrast = 0.03F;
constexpr float max_unexplained = 0.25F;  // of the difference of both colours
constexpr float nearly_whole = 0.03F;     // a share this near to 0 or 1 is that
constexpr float hardly = 0.10F;           // so little of a sharp edge is not missed

using Side = std::array<float, 4>;

bool is_step(float low, float high) {
  return high - low > std::max(min_step, min_fraction * std::max(std::abs(low), std::abs(high)));
}

// One side of an edge, from the pixels that are clear of it.
struct Surface {
  Side sum{};
  float weight = 0.0F;
  float nearest = 1e9F;  // px², to the clear pixel whose blur stands for the side
  std::size_t at = 0;

  void add(const Rgba& p, float distance, std::size_t i) {
    const float w = 1.0F / distance;
    for (std::size_t c = 0; c < 4; ++c) sum[c] += w * p[c];
    weight += w;
    if (distance < nearest) {
      nearest = distance;
      at = i;
    }
  }
  Side colour() const {
    return {sum[0] / weight, sum[1] / weight, sum[2] / weight, sum[3] / weight};
  }
};

class Edges {
 public:
  Edges(const Picture& picture, const std::vector<float>& coc,
        const std::vector<std::int16_t>& step, const std::vector<float>& lamps)
      : picture_(picture),
        coc_(coc),
        step_(step),
        lamps_(lamps),
        width_(picture.width()),
        height_(picture.height()) {}

  std::vector<PartedPixel> row(int y) const {
    std::vector<PartedPixel> out;
    const std::size_t width = to_size(width_);
    const float* above = coc_.data() + to_size(std::max(0, y - 1)) * width;
    const float* here = coc_.data() + to_size(y) * width;
    const float* below = coc_.data() + to_size(std::min(height_ - 1, y + 1)) * width;
    std::vector<float> low(width + 2);
    std::vector<float> high(width + 2);
    for (std::size_t x = 0; x < width; ++x) {
      low[x + 1] = std::min({above[x], here[x], below[x]});
      high[x + 1] = std::max({above[x], here[x], below[x]});
    }
    low[0] = low[1];
    high[0] = high[1];
    low[width + 1] = low[width];
    high[width + 1] = high[width];
    for (std::size_t x = 0; x < width; ++x) {
      const float l = std::min({low[x], low[x + 1], low[x + 2]});
      const float h = std::max({high[x], high[x + 1], high[x + 2]});
      if (!is_step(l, h)) continue;
      if (const auto unmixed = part(static_cast<int>(x), y, l, h)) out.push_back(*unmixed);
    }
    return out;
  }

 private:
  std::size_t index(int x, int y) const { return to_size(y) * to_size(width_) + to_size(x); }

  bool clear_of_edges(int x, int y) const {
    float low = coc_[index(x, y)];
    float high = low;
    for (int v = std::max(0, y - 1); v <= std::min(height_ - 1, y + 1); ++v) {
      for (int u = std::max(0, x - 1); u <= std::min(width_ - 1, x + 1); ++u) {
        low = std::min(low, coc_[index(u, v)]);
        high = std::max(high, coc_[index(u, v)]);
      }
    }
    return !is_step(low, high);
  }

  // Nearer things have the smaller signed blur.
  std::optional<PartedPixel> part(int x, int y, float low, float high) const {
    const std::size_t here = index(x, y);
    if (lamps_[here] > 0.0F) return {};
    Surface near;
    Surface far;
    const bool own_is_near = coc_[here] - low < high - coc_[here];
    bool third = false;
    float own_kind = 1e30F;  // how near its colour comes to one of its own side
    for (int v = std::max(0, y - around); v <= std::min(height_ - 1, y + around); ++v) {
      for (int u = std::max(0, x - around); u <= std::min(width_ - 1, x + around); ++u) {
        const std::size_t i = index(u, v);
        const float reach = alike * (high - low);
        const bool is_near = std::abs(coc_[i] - low) < reach;
        if (!is_near && !(std::abs(coc_[i] - high) < reach)) {
          third = true;
          continue;
        }
        if (lamps_[i] > 0.0F || !clear_of_edges(u, v)) continue;
        const auto distance = static_cast<float>((u - x) * (u - x) + (v - y) * (v - y));
        (is_near ? near : far).add(picture_.pixels()[i], distance, i);
        if (is_near == own_is_near) {
          own_kind = std::min(own_kind, apart(picture_.pixels()[here], picture_.pixels()[i]));
        }
      }
    }
    if (far.weight <= 0.0F) return {};
    const auto told = [&](const Surface& n) {
      const Mixture m = mixture(picture_.pixels()[here], n.colour(), far.colour());
      // What looks like a pixel of its own side is one: a side may show several things, a lamp and
      // the ground behind it, whose mean is like neither.
      return m.explained && m.unexplained < own_kind;
    };
    if (near.weight > 0.0F && told(near)) return shared(x, here, near, far, own_is_near, third);
    near = purest(x, y, low, high, far.colour());
    if (near.weight <= 0.0F || !told(near)) return {};
    return shared(x, here, near, far, own_is_near, third);
  }

  // A thin thing (a tip, a wire, a rim of another colour) has no pixel clear of edges: the one of
  // its depth close by that is least like what is behind it stands for it.
  Surface purest(int x, int y, float low, float high, const Side& behind) const {
    Surface found;
    float max = 0.0F;
    for (int v = std::max(0, y - close); v <= std::min(height_ - 1, y + close); ++v) {
      for (int u = std::max(0, x - close); u <= std::min(width_ - 1, x + close); ++u) {
        const std::size_t i = index(u, v);
        if (std::abs(coc_[i] - low) >= alike * (high - low) || lamps_[i] > 0.0F) continue;
        const Rgba& p = picture_.pixels()[i];
        float off = 0.0F;
        for (std::size_t c = 0; c < 4; ++c) off += (p[c] - behind[c]) * (p[c] - behind[c]);
        if (off <= max) continue;
        max = off;
        found = {};
        found.add(p, 1.0F, i);
      }
    }
    return found;
  }

  static float apart(const Rgba& a, const Rgba& b) {
    float sum = 0.0F;
    for (std::size_t c = 0; c < 4; ++c) sum += (a[c] - b[c]) * (a[c] - b[c]);
    return sum;
  }

  struct Mixture {
    float fraction = 0.0F;  // of the nearer one
    bool explained = false;
    float unexplained = 0.0F;  // squared
  };
  static Mixture mixture(const Rgba& own, const Side& n, const Side& f) {
    float along = 0.0F;
    float squared = 0.0F;
    float size = 0.0F;
    for (std::size_t c = 0; c < 4; ++c) {
      along += (own[c] - f[c]) * (n[c] - f[c]);
      squared += (n[c] - f[c]) * (n[c] - f[c]);
      size += c < 3 ? n[c] * n[c] + f[c] * f[c] : 0.0F;
    }
    if (!(squared > min_contrast * min_contrast * size)) return {};
    const float fraction = std::clamp(along / squared, 0.0F, 1.0F);
    float unexplained = 0.0F;
    for (std::size_t c = 0; c < 4; ++c) {
      const float rest = own[c] - f[c] - fraction * (n[c] - f[c]);
      unexplained += rest * rest;
    }
    return {fraction, unexplained <= max_unexplained * max_unexplained * squared, unexplained};
  }

  std::optional<PartedPixel> shared(int x, std::size_t here, const Surface& near,
                                    const Surface& far, bool own_is_near, bool third) const {
    const Rgba& own = picture_.pixels()[here];
    const Side n = near.colour();
    const Side f = far.colour();
    const float fraction = mixture(own, n, f).fraction;
    const bool softly = std::abs(coc_[near.at]) < sharp_below;
    // Beside a third thing, a pixel that shows hardly anything of the nearer one is what is behind:
    // nothing else may show that so near to the edge, and the third would be spread in its place.
    const float least = own_is_near || !third ? nearly_whole : hardly;
    const bool to_near = softly ? fraction > least : fraction >= 0.5F;
    if (to_near ? fraction > 1.0F - nearly_whole && own_is_near
                : fraction < nearly_whole && !own_is_near)
      return {};
    const Surface& side = to_near ? near : far;
    PartedPixel out{x, step_[side.at], coc_[side.at], 1.0F, {}};
    // What the other side brings is taken out; the rest keeps the pixel's own texture.
    const Side& other = to_near ? f : n;
    const float others = to_near ? 1.0F - fraction : fraction;
    for (std::size_t c = 0; c < 4; ++c) out.light[c] = std::max(0.0F, own[c] - others * other[c]);
    if (softly) {
      if (to_near) out.fraction = fraction;
    } else if (others > 0.5F) {  // too little of its own is left to be enlarged
      for (std::size_t c = 0; c < 4; ++c) out.light[c] = (to_near ? n : f)[c];
    } else {
      for (float& c : out.light) c /= 1.0F - others;
    }
    return out;
  }

  const Picture& picture_;
  const std::vector<float>& coc_;
  const std::vector<std::int16_t>& step_;
  const std::vector<float>& lamps_;
  int width_;
  int height_;
};

}  // namespace

std::vector<std::vector<PartedPixel>> part_edges(const Picture& picture,
                                                 const std::vector<float>& coc,
                                                 const std::vector<std::int16_t>& step,
                                                 const std::vector<float>& lamp_fraction) {
  std::vector<std::vector<PartedPixel>> rows(to_size(picture.height()));
  const Edges edges(picture, coc, step, lamp_fraction);
  parallel_for(0, picture.height(), [&](int y) { rows[to_size(y)] = edges.row(y); });
  return rows;
}

}  // namespace jolly_iris::blur
