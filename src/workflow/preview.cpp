#include "jolly_iris/workflow/preview.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <deque>
#include <list>
#include <mutex>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture/depth_map.hpp"
#include "jolly_iris/picture/finish.hpp"
#include "jolly_iris/picture/prepared_frame.hpp"

namespace jolly_iris {

namespace {

// Sizes that are kept ready besides the whole: a draft, and the one before somebody resized.
constexpr std::size_t max_sizes = 3;
// Pictures that are kept: a draft, the whole, and a part, of two cameras that are flipped between;
// fewer of large ones.
constexpr std::size_t max_pictures = 6;
constexpr std::size_t max_bytes = std::size_t{320} << 20U;

bool same(const std::optional<Box>& a, const std::optional<Box>& b) {
  if (!a || !b) return a.has_value() == b.has_value();
  return a->x == b->x && a->y == b->y && a->width == b->width && a->height == b->height;
}

bool same(const std::shared_ptr<const GlassCamera>& a,
          const std::shared_ptr<const GlassCamera>& b) {
  if (!a || !b) return !a && !b;
  return a->alike(*b);
}

}  // namespace

PixelSize draft_size(PixelSize whole, int width, int height) {
  const double times = std::min(
      {1.0, static_cast<double>(width) / whole.width, static_cast<double>(height) / whole.height});
  return {std::max(1, static_cast<int>(std::lround(times * whole.width))),
          std::max(1, static_cast<int>(std::lround(times * whole.height)))};
}

class Preview::Inside {
 public:
  Inside(std::vector<DefocusLayer> layers, DefocusSettings settings)
      : settings_(std::move(settings)) {
    if (layers.empty()) throw PictureError("there is no layer to blur");
    whole_.size = layers.front().frame.colour.size();
    for (DefocusLayer& layer : layers) {
      distances_.push_back(layer.distance);
      whole_.layers.push_back({PreparedFrame(std::move(layer.frame)), layer.holdout});
    }
    for (std::size_t k = 1; k < whole_.layers.size(); ++k) {
      const PixelSize own = whole_.layers[k].frame.frame().colour.size();
      if (own == whole_.size) continue;
      throw PictureError(fmt::format("layer {} is {} x {}, but the first is {} x {}", k + 1,
                                     own.width, own.height, whole_.size.width, whole_.size.height));
    }
    counts_.prepared = whole_.layers.size();
    size_ = {whole_.size.width - 2 * settings_.margin.beside,
             whole_.size.height - 2 * settings_.margin.above};
  }

  PixelSize size() const { return size_; }

  PreviewCounts counts() const {
    const std::lock_guard work(work_);
    return counts_;
  }

  std::vector<float> coc(const PreviewView& view, const Execution& execution) {
    check(view);
    const std::lock_guard work(work_);
    Size& at = ready(view.size, execution);
    DefocusSettings settings = settings_;
    settings.execution = execution;
    settings.margin = margin_of(view.size);
    const auto distances = distances_of(view);
    const std::size_t front = layer_order(distances).front();
    const Frame& frame = at.layers[front].frame.frame();
    if (distances[front]) settings.distance = distances[front];
    const std::vector<float> all = blur_map(frame, view.camera, settings);
    const Box inner = view.box.value_or(Box{0, 0, view.size.width, view.size.height});
    std::vector<float> out;
    out.reserve(static_cast<std::size_t>(inner.width) * static_cast<std::size_t>(inner.height));
    for (int y = 0; y < inner.height; ++y) {
      const auto row = all.begin() +
                       std::ptrdiff_t{frame.colour.width()} * (y + inner.y + settings.margin.above);
      const auto from = row + inner.x + settings.margin.beside;
      out.insert(out.end(), from, from + inner.width);
    }
    return out;
  }

  std::optional<float> depth_at(double x, double y) const {
    const Frame& frame = whole_.layers.front().frame.frame();
    if (!frame.has_depth() || !(x >= 0.0 && x < 1.0 && y >= 0.0 && y < 1.0)) return std::nullopt;
    const int u = settings_.margin.beside + static_cast<int>(x * size_.width);
    const int v = settings_.margin.above + static_cast<int>(y * size_.height);
    return frame.depth[static_cast<std::size_t>(v) * static_cast<std::size_t>(whole_.size.width) +
                       static_cast<std::size_t>(u)];
  }

  std::shared_ptr<const Picture> at(const PreviewView& view, const Execution& execution) {
    check(view);
    std::stop_source own;
    const std::stop_callback outside(execution.stop, [&] { own.request_stop(); });
    const Turn turn(*this, view, own);
    const std::lock_guard work(work_);
    if (own.stop_requested()) throw Cancelled();
    Execution stoppable = execution;
    stoppable.stop = own.get_token();
    const Finish finish = shown_finish(view);
    if (!finish.any()) return lit(blurred(view, stoppable), view.light);
    return finished(view, finish, stoppable);
  }

 private:
  struct Size {
    PixelSize size{};
    std::vector<PreparedLayer> layers{};
    std::size_t discs_made = 0;
    std::size_t discs_reused = 0;
  };
  struct Made {
    VirtualCamera camera{};
    PixelSize size{};
    std::optional<Box> box{};
    std::vector<std::optional<Length>> distances{};
    std::shared_ptr<const Picture> picture{};
    std::shared_ptr<const GlassCamera> glass{};
  };

  // Stands in the row of those that wait or work, and ends those before that want something else.
  class Turn {
   public:
    Turn(Inside& of, const PreviewView& view, std::stop_source& stop) : of_(of), stop_(&stop) {
      const std::lock_guard lock(of_.row_);
      for (Waiting& w : of_.waiting_) {
        if (!(w.view->camera == view.camera && w.view->distances == view.distances)) {
          w.stop->request_stop();
        }
      }
      of_.waiting_.push_back({&view, stop_});
    }
    ~Turn() {
      const std::lock_guard lock(of_.row_);
      of_.waiting_.remove_if([this](const Waiting& w) { return w.stop == stop_; });
    }
    Turn(const Turn&) = delete;
    Turn& operator=(const Turn&) = delete;

   private:
    Inside& of_;
    std::stop_source* stop_;
  };
  // A finished picture, to show again where nothing changed.
  struct Finished {
    std::shared_ptr<const Picture> of{};
    VirtualCamera camera{};
    Finish finish{};
    PreviewLight light{};
    double frame = 0.0;
    std::shared_ptr<const Picture> picture{};
  };
  struct Waiting {
    const PreviewView* view;
    std::stop_source* stop;
  };

  void check(const PreviewView& view) const {
    const PixelSize s = view.size;
    const auto wrong = [&](const char* why) {
      throw UsageError(fmt::format("a look of {} x {} {} of the picture, which is {} x {}", s.width,
                                   s.height, why, size_.width, size_.height));
    };
    if (s.width < 1 || s.height < 1 || s.width > size_.width || s.height > size_.height) {
      wrong("is no smaller size");
    }
    // Up to the rounding of a side.
    const double times = static_cast<double>(s.width) / size_.width;
    if (std::abs(times * size_.height - s.height) > 1.0) wrong("has not the shape");
    if (view.box) require_within(*view.box, s);
  }

  // All of the frame, margin included, at the size whose inner part is `inner`.
  Size& ready(PixelSize inner, const Execution& execution) {
    if (inner == size_) return whole_;
    for (auto s = smaller_.begin(); s != smaller_.end(); ++s) {
      if (s->size != inner) continue;
      smaller_.splice(smaller_.begin(), smaller_, s);
      return smaller_.front();
    }
    const Margin m = margin_of(inner);
    const PixelSize all{inner.width + 2 * m.beside, inner.height + 2 * m.above};
    Size made{inner, {}};
    for (const PreparedLayer& layer : whole_.layers) {
      execution.check();
      made.layers.push_back(
          {PreparedFrame(reduced(layer.frame.frame(), all), execution), layer.holdout});
      ++counts_.prepared;
    }
    smaller_.push_front(std::move(made));
    if (smaller_.size() > max_sizes) smaller_.pop_back();
    return smaller_.front();
  }

  Margin margin_of(PixelSize inner) const {
    return {settings_.margin.beside * inner.width / size_.width,
            settings_.margin.above * inner.height / size_.height};
  }

  std::shared_ptr<const Picture> blurred(const PreviewView& view, const Execution& execution) {
    for (auto m = made_.begin(); m != made_.end(); ++m) {
      if (!(m->size == view.size && same(m->box, view.box) && m->distances == view.distances &&
            m->camera == view.camera && same(m->glass, view.glass))) {
        continue;
      }
      made_.splice(made_.begin(), made_, m);
      ++counts_.kept;
      return made_.front().picture;
    }
    Size& at = ready(view.size, execution);
    make_room(view);
    DefocusSettings settings = settings_;
    settings.execution = execution;
    settings.margin = margin_of(view.size);
    settings.box = view.box;
    if (settings.box) {
      settings.box->x += settings.margin.beside;
      settings.box->y += settings.margin.above;
    }
    std::vector<PreparedLayer*> layers;
    for (PreparedLayer& layer : at.layers) layers.push_back(&layer);
    settings.glass = view.glass;
    Made made{view.camera, view.size, view.box, view.distances, {}, view.glass};
    if (layers.size() == 1) {
      const auto distances = distances_of(view);
      if (distances[0]) settings.distance = distances[0];
      made.picture =
          std::make_shared<const Picture>(layers[0]->frame.defocus(view.camera, settings));
    } else {
      made.picture = std::make_shared<const Picture>(
          defocus_layers(layers, distances_of(view), view.camera, settings));
    }
    ++counts_.blurred;
    count_discs(at);
    made_.push_front(std::move(made));
    return made_.front().picture;
  }

  // Before the next picture is made: it gets the memory of those that go.
  void make_room(const PreviewView& next) {
    const PixelSize wanted = next.box ? PixelSize{next.box->width, next.box->height} : next.size;
    std::size_t bytes = static_cast<std::size_t>(wanted.width) *
                        static_cast<std::size_t>(wanted.height) * sizeof(Rgba);
    for (const Made& m : made_) bytes += m.picture->pixels().size() * sizeof(Rgba);
    while (!made_.empty() && (made_.size() >= max_pictures || bytes > max_bytes)) {
      bytes -= made_.back().picture->pixels().size() * sizeof(Rgba);
      made_.pop_back();
    }
  }

  void count_discs(Size& at) {
    std::size_t discs = 0;
    std::size_t reused = 0;
    for (const PreparedLayer& layer : at.layers) {
      discs += layer.frame.discs_made();
      reused += layer.frame.discs_reused();
    }
    counts_.discs_made += discs - at.discs_made;
    counts_.discs_reused += reused - at.discs_reused;
    at.discs_made = discs;
    at.discs_reused = reused;
  }

  Finish shown_finish(const PreviewView& view) const {
    Finish out = view.finish;
    out.lift.reset();
    out.smear.reset();
    if (view.size == size_) return out;
    out.spikes.reset();
    out.grain.reset();
    return out;
  }

  // Light comes from all of the picture, whatever part is looked at.
  std::shared_ptr<const Picture> finished(const PreviewView& view, const Finish& finish,
                                          const Execution& execution) {
    PreviewView whole = view;
    whole.box.reset();
    const std::shared_ptr<const Picture> of = blurred(whole, execution);
    const bool there = last_.picture && last_.of == of && last_.camera == view.camera &&
                       last_.finish == finish && last_.light == view.light &&
                       last_.frame == view.frame;
    if (!there) {
      FinishSettings settings;
      settings.factor = view.light.factor;
      settings.gains = view.light.gains;
      settings.frame = view.frame;
      settings.execution = execution;
      last_ = {
          of,
          view.camera,
          finish,
          view.light,
          view.frame,
          std::make_shared<const Picture>(after_lens(*of, view.camera, finish, settings).picture)};
    }
    if (!view.box) return last_.picture;
    return std::make_shared<const Picture>(crop({*last_.picture, {}, {}}, *view.box).colour);
  }

  static std::shared_ptr<const Picture> lit(std::shared_ptr<const Picture> picture,
                                            const PreviewLight& light) {
    if (light == PreviewLight{}) return picture;
    Picture out = *picture;
    std::array<float, 3> times{};
    for (std::size_t c = 0; c < 3; ++c)
      times[c] = static_cast<float>(light.factor * light.gains[c]);
    for (Rgba& p : out.pixels()) {
      for (std::size_t c = 0; c < 3; ++c) p[c] *= times[c];
    }
    return std::make_shared<const Picture>(std::move(out));
  }

  // Of each layer: as the view says, else as it was given.
  std::vector<std::optional<Length>> distances_of(const PreviewView& view) const {
    std::vector<std::optional<Length>> out = distances_;
    for (std::size_t k = 0; k < std::min(out.size(), view.distances.size()); ++k) {
      if (view.distances[k]) out[k] = view.distances[k];
    }
    return out;
  }

  DefocusSettings settings_;
  std::vector<std::optional<Length>> distances_{};
  PixelSize size_{};
  mutable std::mutex work_;
  Size whole_{};
  std::list<Size> smaller_{};
  std::list<Made> made_{};
  Finished last_{};
  PreviewCounts counts_{};
  std::mutex row_;
  std::list<Waiting> waiting_{};
};

Preview::Preview(std::vector<DefocusLayer> layers, DefocusSettings settings)
    : inside_(std::make_unique<Inside>(std::move(layers), std::move(settings))) {}
Preview::~Preview() = default;

PixelSize Preview::size() const { return inside_->size(); }
std::vector<float> Preview::coc(const PreviewView& view, const Execution& execution) {
  return inside_->coc(view, execution);
}
std::optional<float> Preview::depth_at(double x, double y) const { return inside_->depth_at(x, y); }
PreviewCounts Preview::counts() const { return inside_->counts(); }
std::shared_ptr<const Picture> Preview::at(const PreviewView& view, const Execution& execution) {
  return inside_->at(view, execution);
}

}  // namespace jolly_iris
