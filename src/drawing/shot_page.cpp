#include "jolly_iris/drawing/shot_page.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>

#include "drawing/result_sheets.hpp"
#include "jolly_iris/drawing/page.hpp"
#include "jolly_iris/drawing/plan.hpp"
#include "jolly_iris/optics/depth_code.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture/defocus.hpp"
#include "jolly_iris/picture/warp.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/trace/trace.hpp"
#include "jolly_iris/workflow/camera_match.hpp"
#include "jolly_iris/workflow/displayed.hpp"
#include "report/bokeh_report.hpp"
#include "report/comparison_report.hpp"
#include "report/exposure_report.hpp"
#include "report/match_report.hpp"
#include "report/text.hpp"

namespace jolly_iris {

namespace {

constexpr int plate_width = 1920;   // at most, px: for pointing
constexpr int others_width = 1280;  // at most, px: for looking
constexpr int steps_width = 960;
constexpr int survey_width = 640;

std::string jpeg(const LoadedShot& loaded, const Picture& picture, int width, int quality) {
  return picture_bytes(".jpg", Frame{displayed(shrunk(picture, width), loaded), {}}, quality);
}

PixelSize size_of_width(const VirtualCamera& c, int width) {
  const double scale = std::min(1.0, static_cast<double>(width) / c.pixels.width);
  return {std::max(1, static_cast<int>(std::lround(c.pixels.width * scale))),
          std::max(1, static_cast<int>(std::lround(c.pixels.height * scale)))};
}

// How bright the plate is: to read off under the cross, and as a sheet.
void add_exposure(const Frame& plate, const LoadedShot& loaded, std::vector<std::string>& files,
                  Page& page) {
  constexpr int width = 320;
  const Picture small = shrunk(plate.colour, width);
  page.stops.emplace();
  page.stops->size = small.size();
  for (const Rgba& p : small.pixels()) {
    page.stops->stops.push_back(stops_from_grey(p, loaded.now.primaries));
  }
  try {
    const ExposureLook look = look_at(plate, loaded.now.plate->file, {}, loaded, files);
    page.stops->clips_at = std::log2(look.clips_at / grey_value);
    const ExposureSheet sheet = look_sheet(look, plate, loaded);
    page.exposure_words = sheet.title + "; " + sheet.subtitle;
    page.exposure_png = exposure_png(sheet);
  } catch (const PictureError&) {
    page.stops.reset();  // a plate without light has no stops; the numbers stand by themselves
  }
}

// The plate; or, to have something to point at, the scene as a pinhole sees it.
std::optional<PagePicture> plate_of(const LoadedShot& loaded, std::vector<std::string>& files,
                                    std::vector<std::string>& notes, Page& page) {
  const Shot& shot = loaded.now;
  const VirtualCamera& c = loaded.answer.camera;
  if (shot.plate && !shot.plate->file.empty()) {
    files.push_back(shot.plate->file);
    const Frame plate = read_plate(*shot.plate);
    notes.insert(notes.end(), plate.notes.begin(), plate.notes.end());
    const double shape = static_cast<double>(plate.colour.width()) / plate.colour.height();
    const double wanted = static_cast<double>(c.pixels.width) / c.pixels.height;
    if (std::abs(shape / wanted - 1.0) > 0.01) {
      throw UsageError(fmt::format(
          "{}{} is {} x {} px, but body.pixels says {} x {}: another shape, so places in it would "
          "be wrong",
          loaded.shot.where("plate.file"), shot.plate->file, plate.colour.width(),
          plate.colour.height(), c.pixels.width, c.pixels.height));
    }
    add_exposure(plate, loaded, files, page);
    return PagePicture{std::filesystem::path(shot.plate->file).filename().string(),
                       jpeg(loaded, plate.colour, plate_width, 85)};
  }
  if (!loaded.scene) return std::nullopt;
  TraceSettings settings;
  settings.pinhole = true;
  settings.samples = 8;
  settings.size = size_of_width(c, steps_width);
  const Frame seen = trace(*loaded.scene, c, loaded.answer.place, settings);
  return PagePicture{"the scene without blur: the shot has no plate",
                     jpeg(loaded, seen.colour, plate_width, 85)};
}

// A coarse grid of a depth picture, decoded as its shot says.
Survey survey_of(const Frame& picture, const DepthCode& code, const VirtualCamera& camera,
                 const std::string& file) {
  const PixelSize full = picture.colour.size();
  const double step = std::max(1.0, static_cast<double>(full.width) / survey_width);
  Survey s;
  s.size = {static_cast<int>(full.width / step), static_cast<int>(full.height / step)};
  for (int y = 0; y < s.size.height; ++y) {
    for (int x = 0; x < s.size.width; ++x) {
      const int row = static_cast<int>((y + 0.5) * step);
      const int column = static_cast<int>((x + 0.5) * step);
      const std::size_t at = static_cast<std::size_t>(row) * static_cast<std::size_t>(full.width) +
                             static_cast<std::size_t>(column);
      const float value =
          picture.has_depth() ? picture.depth[at] : picture.colour.at(column, row)[0];
      try {
        const Length seen = decode_depth(code, static_cast<double>(value));
        const auto d = direction_of_pixel(camera, (x + 0.5) * camera.pixels.width / s.size.width,
                                          (y + 0.5) * camera.pixels.height / s.size.height);
        const double longer =
            code.kind == DepthCode::Kind::radial ? std::hypot(1.0, d[0], d[1]) : 1.0;
        s.depth.push_back(static_cast<float>(seen.m() / longer));
      } catch (const PictureError& e) {
        throw PictureError(fmt::format("{}: at pixel {}, {}: {}", file, column, row, e.what()));
      }
    }
  }
  return s;
}

// What is where: by the scene, else by a depth picture.
std::optional<Survey> surveyed(const LoadedShot& loaded, const std::optional<Frame>& sharp,
                               const std::string& sharp_file, std::vector<std::string>& files,
                               std::vector<std::string>& notes) {
  const VirtualCamera& camera = loaded.answer.camera;
  if (loaded.scene) {
    return survey(*loaded.scene, camera, loaded.answer.place, size_of_width(camera, survey_width));
  }
  const auto& depth = loaded.now.depth;
  if (depth && !depth->file.empty()) {
    files.push_back(depth->file);
    const Frame picture = read_values(depth->file);
    notes.insert(notes.end(), picture.notes.begin(), picture.notes.end());
    return survey_of(picture, depth->code, camera, depth->file);
  }
  if (sharp) return survey_of(*sharp, DepthCode{}, camera, sharp_file);
  return std::nullopt;
}

// The frame that steps are made from: given, or traced anew whenever the framing changes.
class SharpFrames {
 public:
  SharpFrames(const ShotPageRequest& request, const LoadedShot& loaded,
              std::vector<std::string>& files)
      : request_(request), base_(loaded.answer.camera) {
    if (request.sharp.empty()) return;
    given_ = read_for_shot(request.sharp, {}, loaded, files);
    if (!given_->has_depth()) {
      throw PictureError(request.sharp +
                         ": has no depth (channel Z), which the steps need to blur it");
    }
  }

  const std::optional<Frame>& given() const { return given_; }

  const Frame& of(const LoadedShot& step) {
    const VirtualCamera& c = step.answer.camera;
    if (given_) {
      const double zoom = (c.focal / c.picture.width) / (base_.focal / base_.picture.width);
      if (std::abs(zoom - 1.0) > 0.05) {
        throw UsageError(
            fmt::format("{}: changes the framing by {:.0f} %, which {} does not show; leave that "
                        "picture out, and "
                        "each step is traced",
                        request_.steps.key, 100.0 * (zoom - 1.0), request_.sharp));
      }
      return *given_;
    }
    if (!step.scene) {
      throw UsageError(step.shot.file +
                       ": has no scene to render the steps of; give a sharp picture with depth");
    }
    const bool same = traced_ && traced_for_.focal == c.focal && traced_for_.picture == c.picture &&
                      traced_for_.shift_up == c.shift_up &&
                      traced_for_.shift_right == c.shift_right && traced_from_ == step.answer.place;
    if (same) return *traced_;
    TraceSettings settings;
    settings.pinhole = true;
    settings.samples = 32;
    settings.size = size_of_width(c, steps_width);
    traced_ = trace(*step.scene, c, step.answer.place, settings);
    traced_for_ = c;
    traced_from_ = step.answer.place;
    return *traced_;
  }

 private:
  const ShotPageRequest& request_;
  VirtualCamera base_;
  std::optional<Frame> given_;
  std::optional<Frame> traced_;
  VirtualCamera traced_for_;
  Pose traced_from_{};
};

void add_steps(const ShotPageRequest& request, const LoadedShot& loaded, SharpFrames& frames,
               std::vector<std::string>& files, const Execution& execution, Page& page) {
  const Steps& steps = request.steps;
  if (steps.values.empty()) return;
  page.step_key = steps.key;
  const auto origin = loaded.shot.origins.find(steps.key);
  const std::string now = origin == loaded.shot.origins.end() ? "" : origin->second.text;
  const std::vector<TriedValue> values = tried_values(steps);
  std::optional<LoadedShot> base_step;
  for (std::size_t i = 0; i < values.size(); ++i) {
    ShotRequest tried = request.shot;
    if (!values[i].text.empty()) {
      tried.overrides.push_back({steps.key, values[i].text, steps.place});
    }
    const LoadedShot step = open_shot(tried, files);
    if (!base_step) base_step = step;
    std::optional<TryLight> own_light;
    if (tries_variants(steps)) own_light = light_beside(*base_step, step);
    const Answer& a = step.answer;
    PageStep made;
    made.value = tries_variants(steps) ? values[i].name : values[i].text;
    made.words = (a.nothing_sharp ? std::string("Nothing is sharp")
                                  : fmt::format("Sharp from {} to {}", metres_text(a.sharp.near),
                                                metres_text(a.sharp.far))) +
                 fmt::format("; infinity is blurred by {:.1f} px. {:.2f} mm at f/{:.3g}.",
                             std::abs(a.infinity.coc_px), a.camera.focal.mm(), a.camera.f_number);
    if (own_light && i > 0)
      made.words += " " + light_words(*own_light, step) + " against the shot.";
    DefocusSettings blur;
    blur.execution = {execution.threads, {}, execution.stop};
    made.jpeg = jpeg(step, tried_picture(frames.of(step), step, own_light, blur), steps_width, 82);
    if (made.value == now) page.step_now = i;
    page.steps.push_back(std::move(made));
    execution.tell(static_cast<double>(i + 1) / static_cast<double>(values.size()));
  }
}

void add_match(const ShotPageRequest& request, std::vector<std::string>& files,
               const Execution& execution, Page& page) {
  CameraMatchRequest wanted;
  wanted.shots = {request.shot};
  wanted.execution = {execution.threads, {}, execution.stop};
  const CameraMatch match = match_camera(wanted, files);
  page.match.emplace();
  const report::Verdict verdict = report::verdict_of(match);
  page.match->words = verdict.head;
  page.match->words.insert(page.match->words.end(), verdict.ranked.begin(), verdict.ranked.end());
  if (match.corrected) page.match->words.emplace_back("With the first one mended:");
  for (const FittedParameter& p : match.plates.front().best.parameters) {
    page.match->found.push_back(
        {std::string(to_string(p.parameter)),
         fmt::format("{} ± {}", value_text(p.parameter, p.value),
                     value_text(p.parameter, p.margin)),
         fmt::format("noted {}{}{}", value_text(p.parameter, p.noted),
                     p.mended != p.noted ? "; mended to " + value_text(p.parameter, p.mended)
                                         : std::string(),
                     p.determined ? "" : "; only the note says so")});
  }
}

void add_compare(const ShotPageRequest& request, const LoadedShot& loaded,
                 std::vector<std::string>& files, std::vector<std::string>& notes,
                 const Execution& execution, Page& page) {
  ComparisonRequest wanted;
  wanted.pictures = {request.cg};
  wanted.execution = {execution.threads, {}, execution.stop};
  const PlateComparison comparison = compare_pictures(loaded, wanted, files);
  const ImageComparison& like = comparison.likes.front();
  const SameSizePair both = compared_pair(comparison);
  notes.insert(notes.end(), comparison.tries.front().frame.notes.begin(),
               comparison.tries.front().frame.notes.end());
  page.compare.emplace();
  page.compare->plate_jpeg = jpeg(loaded, both.plate, others_width, 85);
  page.compare->cg_jpeg = jpeg(loaded, both.cg, others_width, 85);
  page.compare->label = fmt::format("{} against {}: {}", report::file_name(request.cg),
                                    comparison.reference, report::decibels(like.psnr_db));
  page.compare->differs = report::comparison_rows(comparison);
  for (const Suggestion& s : advice(comparison, 0)) {
    page.compare->moves.push_back(report::suggestion_text(s));
  }
  page.compare->verdict = report::verdict_sentence(like, !page.compare->moves.empty());
  for (const DifferingPlace& p : like.left.places) {
    page.compare->places.push_back(report::place_text(p));
  }
}

}  // namespace

ShotPage shot_page(const ShotPageRequest& request, const LoadedShot& loaded,
                   std::vector<std::string>& files, const Execution& execution) {
  Page page;
  std::vector<std::string> notes;
  SharpFrames frames(request, loaded, files);
  if (frames.given()) notes = frames.given()->notes;
  page.plate = plate_of(loaded, files, notes, page);
  page.exposure = report::exposure_rows(loaded);
  if (request.match) add_match(request, files, execution, page);
  if (!request.cg.empty()) add_compare(request, loaded, files, notes, execution, page);
  if (request.bokeh) {
    page.bokeh_words = report::shape_text(loaded.answer.camera);
    page.bokeh_png = labelled_png(discs_sheet(loaded, disc_rows(loaded, {})));
  }
  page.survey = surveyed(loaded, frames.given(), request.sharp, files, notes);
  for (const std::string& file : request.pictures) {
    execution.check();
    const Frame picture = read_for_shot(file, {}, loaded, files);
    notes.insert(notes.end(), picture.notes.begin(), picture.notes.end());
    page.pictures.push_back({fmt::format("{}, {} x {} px", report::file_name(file),
                                         picture.colour.width(), picture.colour.height()),
                             jpeg(loaded, picture.colour, others_width, 82)});
  }
  add_steps(request, loaded, frames, files, execution, page);
  const Scene* scene = loaded.scene ? &*loaded.scene : nullptr;
  for (const bool side : {false, true}) {
    const Plan plan = plan_of(loaded.shot, loaded.now, scene, loaded.answer, side);
    (side ? page.plan_side_svg : page.plan_above_svg) = plan_svg(plan);
  }
  return {page_html(loaded.now, loaded.answer, page), notes};
}

}  // namespace jolly_iris
