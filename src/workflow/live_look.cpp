#include "jolly_iris/workflow/live_look.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <cmath>
#include <filesystem>
#include <functional>
#include <list>
#include <mutex>
#include <stop_token>

#include "disk/file_stamp.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/exposure.hpp"
#include "jolly_iris/optics/white.hpp"
#include "jolly_iris/picture/depth_map.hpp"
#include "jolly_iris/trace/trace.hpp"
#include "jolly_iris/workflow/sequence.hpp"
#include "jolly_iris/workflow/shot_glass.hpp"

namespace jolly_iris {

namespace {

// A traced look at most: a screen's width. Rays a pixel for a still picture, and for one that
// moves.
constexpr int traced_width = 960;
constexpr int traced_height = 600;
constexpr int still_samples = 6;
constexpr int moving_samples = 3;
// What a pinhole picture of a slightly other framing is still good enough for: a draft.
constexpr double framing_drift = 0.1;
constexpr PixelSize survey_size{480, 270};
// Of a sequence, so many frames stay ready.
constexpr std::size_t max_frames = 3;

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
    if (traced() && !loaded.scene) {
      sources_.pictures.push_back(plate_file(loaded, "to look at", ", or give a picture"));
      flat_plate_ = true;
    }
    if (traced()) {
      source_ = base_name(loaded.now.scene->file) + ", traced";
    } else {
      for (const PictureCard& card : sources_.cards) {
        source_ += (source_.empty() ? "" : ", ") + base_name(card.file) + " at " + card.at;
      }
      for (const std::string& file : sources_.pictures) {
        source_ += (source_.empty() ? "" : " over ") + base_name(file);
      }
      (void)given(loaded);
    }
  }

  PixelSize size(const LoadedShot& loaded) const {
    if (traced()) return draft_size(loaded.answer.camera.pixels, traced_width, traced_height);
    const std::lock_guard one(reading_);
    return given_.front().preview->size();
  }
  const std::string& source() const { return source_; }
  const std::vector<std::string>& notes() const { return notes_; }
  const std::vector<std::string>& files() const { return sources_.pictures; }
  bool traced() const { return sources_.pictures.empty() && sources_.cards.empty(); }

  LivePicture at(const LoadedShot& loaded, const LiveView& view, bool with_coc,
                 const Execution& execution) {
    LivePicture out;
    const bool draft = view.detail == LiveDetail::draft && !view.box;
    const std::shared_ptr<Preview> preview = preview_for(loaded, draft, out.draft, execution);
    const PixelSize whole = preview->size();
    PreviewView wanted{loaded.answer.camera, whole, view.box, distances(loaded), view.light};
    wanted.glass = glass_for_discs(loaded);
    if (view.finished) {
      wanted.finish = loaded.now.finish;
      wanted.frame = loaded.answer.frame.value_or(0.0);
    }
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
                const std::optional<Box>& box, const Execution& execution) const {
    if (!loaded.scene) throw UsageError(loaded.shot.file + ": has no scene to be traced");
    TraceSettings settings;
    settings.size = size;
    settings.samples = samples;
    settings.box = box;
    settings.execution = execution;
    return trace(*loaded.scene, loaded.answer.camera, loaded.answer.place, settings).colour;
  }

  bool look_again(const LoadedShot& loaded) {
    if (traced()) return false;
    const std::lock_guard one(reading_);
    const auto before = given_.size();
    given_.remove_if([&](const Given& g) {
      return g.files != given_.front().files && file_stamps(g.files) != g.stamps;
    });
    if (file_stamps(given_.front().files) == given_.front().stamps) return given_.size() != before;
    Given again = read(loaded);
    given_.pop_front();
    given_.push_front(std::move(again));
    return true;
  }

  PreviewCounts counts() const {
    if (!traced()) {
      const std::lock_guard one(reading_);
      return given_.front().preview->counts();
    }
    const std::lock_guard lock(lock_);
    return whole_.preview ? whole_.preview->counts() : PreviewCounts{};
  }

 private:
  using Framing = live_look_parts::Framing;
  // A trace, for as long as it takes.
  struct Work {
    Framing framing{};
    std::stop_source stop{};
  };
  class UnderWay {
   public:
    UnderWay(Inside& of, const Framing& framing, const Execution& execution)
        : of_(of), outside_(execution.stop, [this] { work_.stop.request_stop(); }) {
      work_.framing = framing;
      const std::lock_guard lock(of_.lock_);
      of_.under_way_ = &work_;
    }
    ~UnderWay() {
      const std::lock_guard lock(of_.lock_);
      of_.under_way_ = nullptr;
    }
    UnderWay(const UnderWay&) = delete;
    UnderWay& operator=(const UnderWay&) = delete;
    std::stop_token token() const { return work_.stop.get_token(); }

   private:
    Inside& of_;
    Work work_{};
    std::stop_callback<std::function<void()>> outside_;
  };
  struct Traced {
    Framing framing{};
    std::shared_ptr<Preview> preview{};
  };

  // Pictures of one frame, or of all where their names have no number.
  struct Given {
    std::vector<std::string> files{};
    std::vector<std::string> stamps{};
    std::shared_ptr<Preview> preview{};
  };

  // Cards first, then pictures, as they are called at the shot's frame.
  std::vector<std::string> names_at(const LoadedShot& loaded) const {
    std::vector<std::string> names;
    for (const PictureCard& card : sources_.cards) names.push_back(card.file);
    names.insert(names.end(), sources_.pictures.begin(), sources_.pictures.end());
    return loaded.answer.frame ? numbered(names, std::floor(*loaded.answer.frame)) : names;
  }

  Given read(const LoadedShot& loaded) {
    Given made{names_at(loaded), {}, {}};
    made.stamps = file_stamps(made.files);
    std::vector<std::string> notes;
    std::vector<std::string> files;
    std::vector<DefocusLayer> layers;
    for (std::size_t i = 0; i < made.files.size(); ++i) {
      const std::string& file = made.files[i];
      Frame frame = read_for_shot(file, sources_.decoding, loaded, files);
      notes.insert(notes.end(), frame.notes.begin(), frame.notes.end());
      const bool card = i < sources_.cards.size();
      if (!card && frame.has_depth() && loaded.now.depth) {
        frame.depth =
            axial_depth(frame, loaded.now.depth->code, loaded.answer.camera, frame.colour.size());
      }
      if (!card && !frame.has_depth() && !flat_distance(loaded)) {
        throw UsageError(
            fmt::format("{}: has no depth (a channel Z, axial metres), and nothing says how far "
                        "away it is",
                        file));
      }
      has_depth_ = has_depth_ || (!card && frame.has_depth());
      layers.push_back({std::move(frame), false, {}});
    }
    made.preview = std::make_shared<Preview>(std::move(layers));
    const std::lock_guard lock(lock_);
    notes_ = std::move(notes);
    return made;
  }

  std::optional<Length> flat_distance(const LoadedShot& loaded) const {
    if (!sources_.distance.empty()) return distance_named(loaded, sources_.distance);
    if (loaded.now.depth && loaded.now.depth->distance) return loaded.now.depth->distance;
    // A plate alone is all at what was in focus.
    if (flat_plate_) return noted_focus_ ? noted_focus_ : noted_focus_ = loaded.answer.camera.focus;
    return std::nullopt;
  }

  // One a layer: cards by where they stand now; pictures without depth by their one distance.
  std::vector<std::optional<Length>> distances(const LoadedShot& loaded) {
    if (traced()) return {};
    std::vector<std::optional<Length>> out;
    for (const PictureCard& card : sources_.cards) {
      out.emplace_back(distance_named(loaded, card.at));
    }
    const auto flat = has_depth_ ? std::nullopt : flat_distance(loaded);
    out.resize(out.size() + sources_.pictures.size(), flat);
    return out;
  }

  // The pictures of the shot's frame, read if they are not there yet; of few frames at a time.
  std::shared_ptr<Preview> given(const LoadedShot& loaded) {
    const std::lock_guard one(reading_);
    const std::vector<std::string> wanted = names_at(loaded);
    for (auto g = given_.begin(); g != given_.end(); ++g) {
      if (g->files != wanted) continue;
      given_.splice(given_.begin(), given_, g);
      return given_.front().preview;
    }
    given_.push_front(read(loaded));
    if (given_.size() > max_frames) given_.pop_back();
    return given_.front().preview;
  }

  std::shared_ptr<Preview> preview_for(const LoadedShot& loaded, bool draft, bool& old,
                                       const Execution& execution) {
    if (!traced()) return given(loaded);
    const Framing wanted = live_look_parts::framing_of(loaded);
    {
      const std::lock_guard lock(lock_);
      // What is being traced for a framing that nobody looks at any more is given up.
      if (under_way_ && !(under_way_->framing == wanted)) under_way_->stop.request_stop();
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
    const UnderWay own(*this, wanted, execution);
    settings.execution = execution;
    settings.execution.stop = own.token();
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
  mutable std::mutex lock_;
  mutable std::mutex reading_;  // taken before lock_
  std::mutex tracing_;
  std::list<Given> given_{};
  std::atomic<bool> has_depth_{false};
  Work* under_way_ = nullptr;  // one at a time: see tracing_
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
bool LiveLook::is_traced() const { return inside_->traced(); }
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
                        const std::optional<Box>& box, const Execution& execution) {
  return inside_->truth(loaded, size, samples, box, execution);
}
bool LiveLook::look_again(const LoadedShot& loaded) { return inside_->look_again(loaded); }
PreviewCounts LiveLook::counts() const { return inside_->counts(); }

}  // namespace jolly_iris
