#include "jolly_iris/workflow/live_look.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <limits>
#include <mutex>
#include <system_error>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/exposure.hpp"
#include "jolly_iris/optics/white.hpp"
#include "jolly_iris/picture/depth_map.hpp"
#include "jolly_iris/trace/trace.hpp"

namespace jolly_iris {

namespace {

// A traced look at most: a screen's width. Rays a pixel for a still picture, and for one that
// moves.
constexpr int traced_width = 960;
constexpr int traced_height = 600;
constexpr int still_samples = 16;
constexpr int moving_samples = 3;
// What a pinhole picture of a slightly other framing is still good enough for: a draft.
constexpr double framing_drift = 0.1;
constexpr PixelSize survey_size{480, 270};

std::string base_name(const std::string& file) {
  return std::filesystem::path(file).filename().string();
}

}  // namespace

PreviewLight light_between(const LoadedShot& from, const LoadedShot& to) {
  const Exposure& a = from.answer.exposure;
  const Exposure& b = to.answer.exposure;
  double stops = 2.0 * std::log2(a.working_t / b.working_t) - (b.nd_stops - a.nd_stops);
  if (a.time && b.time) stops += std::log2(b.time->seconds() / a.time->seconds());
  if (a.iso && b.iso) stops += std::log2(*b.iso / *a.iso);
  if (a.ev_is_given && b.ev_is_given) stops = *a.ev100 - *b.ev100;
  PreviewLight light{std::exp2(stops), {1, 1, 1}};
  if (from.answer.white && to.answer.white) {
    const Rgb was = white_gains(*from.answer.white, from.now.primaries);
    const Rgb is = white_gains(*to.answer.white, to.now.primaries);
    for (std::size_t c = 0; c < 3; ++c) light.gains[c] = is[c] / was[c];
  }
  return light;
}

namespace live_look_parts {

// What a pinhole picture of the scene depends on.
struct Framing {
  Pose place{};
  Length focal{};
  Extent picture{};
  PixelSize pixels{};
  Length shift_right{};
  Length shift_up{};
  std::optional<double> frame{};
  friend bool operator==(const Framing&, const Framing&) = default;
};

Framing framing_of(const LoadedShot& loaded) {
  const VirtualCamera& c = loaded.answer.camera;
  return {loaded.answer.place, c.focal,    c.picture,          c.pixels,
          c.shift_right,       c.shift_up, loaded.answer.frame};
}

// Near enough for something that moves.
bool nearly(const Framing& a, const Framing& b) {
  const auto near = [](Length x, Length y) { return std::abs(x / y - 1.0) < framing_drift; };
  return a.place == b.place && a.frame == b.frame && a.pixels == b.pixels &&
         near(a.focal, b.focal) && near(a.picture.width, b.picture.width);
}

}  // namespace live_look_parts

class LiveLook::Inside {
 public:
  Inside(LiveSources sources, const LoadedShot& loaded) : sources_(std::move(sources)) {
    if (sources_.pictures.empty() && !loaded.scene) {
      sources_.pictures.push_back(plate_file(loaded, "to look at", ", or give a picture"));
      flat_plate_ = true;
    }
    if (sources_.pictures.empty()) {
      source_ = base_name(loaded.now.scene->file) + ", traced";
    } else {
      for (const std::string& file : sources_.pictures) {
        source_ += (source_.empty() ? "" : " over ") + base_name(file);
      }
      read(loaded);
    }
  }

  PixelSize size(const LoadedShot& loaded) const {
    const std::lock_guard lock(lock_);
    return given_ ? given_->size()
                  : draft_size(loaded.answer.camera.pixels, traced_width, traced_height);
  }
  const std::string& source() const { return source_; }
  const std::vector<std::string>& notes() const { return notes_; }
  const std::vector<std::string>& files() const { return sources_.pictures; }
  bool traced() const { return sources_.pictures.empty(); }

  LivePicture at(const LoadedShot& loaded, const LiveView& view, bool with_coc,
                 const Execution& execution) {
    LivePicture out;
    const bool draft = view.detail == LiveDetail::draft && !view.box;
    const std::shared_ptr<Preview> preview = preview_for(loaded, draft, out.draft, execution);
    const PixelSize whole = preview->size();
    PreviewView wanted{loaded.answer.camera, whole, view.box, distances(loaded), view.light};
    if (draft) {
      wanted.size = draft_size(whole, view.draft.width, view.draft.height);
      out.draft = out.draft || wanted.size != whole;
    }
    out.picture = preview->at(wanted, execution);
    if (with_coc) out.coc_px = preview->coc(wanted, execution);
    return out;
  }

  LivePlace place(const LoadedShot& loaded, double x, double y) {
    LivePlace out;
    bool old = false;
    const std::shared_ptr<Preview> preview = preview_for(loaded, true, old, {});
    const auto given = distances(loaded);
    std::optional<float> z = preview->depth_at(x, y);
    if (!z && !given.empty() && given[0]) z = static_cast<float>(given[0]->m());
    const Survey* seen = survey_for(loaded);
    if (seen != nullptr && x >= 0.0 && x < 1.0 && y >= 0.0 && y < 1.0) {
      const int u = static_cast<int>(x * seen->size.width);
      const int v = static_cast<int>(y * seen->size.height);
      const auto i = static_cast<std::size_t>(v) * static_cast<std::size_t>(seen->size.width) +
                     static_cast<std::size_t>(u);
      if (!z) z = seen->depth[i];
      if (seen->thing[i] >= 0) out.subject = seen->names[static_cast<std::size_t>(seen->thing[i])];
    }
    if (z && *z > 0.0F) {
      out.axial = std::isinf(*z) ? Length::infinity() : Length::from_m(static_cast<double>(*z));
      const VirtualCamera& c = loaded.answer.camera;
      out.coc_px = circle_of_confusion(c, *out.axial) / c.pixel_pitch();
    }
    return out;
  }

  Picture truth(const LoadedShot& loaded, PixelSize size, int samples,
                const Execution& execution) const {
    if (!loaded.scene) throw UsageError(loaded.shot.file + ": has no scene to be traced");
    TraceSettings settings;
    settings.size = size;
    settings.samples = samples;
    settings.execution = execution;
    return trace(*loaded.scene, loaded.answer.camera, loaded.answer.place, settings).colour;
  }

  bool look_again(const LoadedShot& loaded) {
    if (traced()) return false;
    if (stamps() == stamps_) return false;
    read(loaded);
    return true;
  }

  PreviewCounts counts() const {
    const std::lock_guard lock(lock_);
    return given_ ? given_->counts() : whole_.preview ? whole_.preview->counts() : PreviewCounts{};
  }

 private:
  using Framing = live_look_parts::Framing;
  struct Traced {
    Framing framing{};
    std::shared_ptr<Preview> preview{};
  };

  std::vector<std::string> stamps() const {
    std::vector<std::string> out;
    for (const std::string& file : sources_.pictures) {
      std::error_code gone;
      const auto time = std::filesystem::last_write_time(file, gone);
      const auto size = gone ? 0 : std::filesystem::file_size(file, gone);
      out.push_back(gone ? "" : fmt::format("{} {}", time.time_since_epoch().count(), size));
    }
    return out;
  }

  void read(const LoadedShot& loaded) {
    const std::vector<std::string> before = stamps();
    std::vector<std::string> notes;
    std::vector<std::string> files;
    std::vector<DefocusLayer> layers;
    for (const std::string& file : sources_.pictures) {
      Frame frame = read_for_shot(file, sources_.decoding, loaded, files);
      notes.insert(notes.end(), frame.notes.begin(), frame.notes.end());
      if (frame.has_depth() && loaded.now.depth) {
        frame.depth =
            axial_depth(frame, loaded.now.depth->code, loaded.answer.camera, frame.colour.size());
      }
      if (!frame.has_depth() && !flat_distance(loaded)) {
        throw UsageError(
            fmt::format("{}: has no depth (a channel Z, axial metres), and nothing says how far "
                        "away it is",
                        file));
      }
      layers.push_back({std::move(frame), false});
    }
    auto made = std::make_shared<Preview>(std::move(layers));
    const std::lock_guard lock(lock_);
    given_ = std::move(made);
    notes_ = std::move(notes);
    stamps_ = before;
  }

  std::optional<Length> flat_distance(const LoadedShot& loaded) const {
    if (!sources_.distance.empty()) return distance_named(loaded, sources_.distance);
    if (loaded.now.depth && loaded.now.depth->distance) return loaded.now.depth->distance;
    // A plate alone is all at what was in focus.
    if (flat_plate_) return noted_focus_ ? noted_focus_ : noted_focus_ = loaded.answer.camera.focus;
    return std::nullopt;
  }

  std::vector<std::optional<Length>> distances(const LoadedShot& loaded) {
    const std::lock_guard lock(lock_);
    if (!given_) return {};
    const auto flat = flat_distance(loaded);
    if (!flat) return {};
    return std::vector<std::optional<Length>>(sources_.pictures.size(), flat);
  }

  std::shared_ptr<Preview> preview_for(const LoadedShot& loaded, bool draft, bool& old,
                                       const Execution& execution) {
    {
      const std::lock_guard lock(lock_);
      if (given_) return given_;
    }
    const Framing wanted = live_look_parts::framing_of(loaded);
    {
      const std::lock_guard lock(lock_);
      if (whole_.preview && whole_.framing == wanted) return whole_.preview;
      if (draft) {
        for (const Traced* t : {&draft_, &whole_}) {
          if (!t->preview || !nearly(t->framing, wanted)) continue;
          old = true;
          return t->preview;
        }
      }
    }
    // One at a time; who waits for the same framing finds it made.
    const std::lock_guard one(tracing_);
    {
      const std::lock_guard lock(lock_);
      Traced& kept = draft ? draft_ : whole_;
      if (kept.preview && kept.framing == wanted) {
        old = draft;
        return kept.preview;
      }
    }
    TraceSettings settings;
    settings.pinhole = true;
    settings.size = draft ? draft_size(size(loaded), 480, 270) : size(loaded);
    settings.samples = draft ? moving_samples : still_samples;
    settings.execution = execution;
    Frame frame = trace(*loaded.scene, loaded.answer.camera, loaded.answer.place, settings);
    std::vector<DefocusLayer> layers;
    layers.push_back({std::move(frame), false});
    Traced made{wanted, std::make_shared<Preview>(std::move(layers))};
    const std::lock_guard lock(lock_);
    (draft ? draft_ : whole_) = made;
    old = draft;
    return made.preview;
  }

  const Survey* survey_for(const LoadedShot& loaded) {
    if (!loaded.scene) return nullptr;
    const Framing wanted = live_look_parts::framing_of(loaded);
    const std::lock_guard one(surveying_);
    if (!survey_ || !nearly(surveyed_, wanted)) {
      survey_ = survey(*loaded.scene, loaded.answer.camera, loaded.answer.place, survey_size);
      surveyed_ = wanted;
    }
    return &*survey_;
  }

  LiveSources sources_;
  bool flat_plate_ = false;
  mutable std::optional<Length> noted_focus_{};
  std::string source_{};
  std::vector<std::string> notes_{};
  std::vector<std::string> stamps_{};
  mutable std::mutex lock_;
  std::mutex tracing_;
  std::shared_ptr<Preview> given_{};
  Traced draft_{};
  Traced whole_{};
  std::mutex surveying_;
  std::optional<Survey> survey_{};
  Framing surveyed_{};
};

LiveLook::LiveLook(LiveSources sources, const LoadedShot& loaded)
    : inside_(std::make_unique<Inside>(std::move(sources), loaded)) {}
LiveLook::~LiveLook() = default;
PixelSize LiveLook::size(const LoadedShot& loaded) const { return inside_->size(loaded); }
const std::string& LiveLook::source() const { return inside_->source(); }
const std::vector<std::string>& LiveLook::notes() const { return inside_->notes(); }
const std::vector<std::string>& LiveLook::files() const { return inside_->files(); }
LivePicture LiveLook::at(const LoadedShot& loaded, const LiveView& view, bool with_coc,
                         const Execution& execution) {
  return inside_->at(loaded, view, with_coc, execution);
}
LivePlace LiveLook::place(const LoadedShot& loaded, double x, double y) {
  return inside_->place(loaded, x, y);
}
Picture LiveLook::truth(const LoadedShot& loaded, PixelSize size, int samples,
                        const Execution& execution) {
  return inside_->truth(loaded, size, samples, execution);
}
bool LiveLook::look_again(const LoadedShot& loaded) { return inside_->look_again(loaded); }
PreviewCounts LiveLook::counts() const { return inside_->counts(); }

}  // namespace jolly_iris
