#include "jolly_iris/page.hpp"

#include <fmt/format.h>

#include <cmath>
#include <filesystem>
#include <ostream>

#include "bokeh_sheet.hpp"
#include "expose.hpp"
#include "jolly_iris/defocus.hpp"
#include "jolly_iris/depth_code.hpp"
#include "jolly_iris/disk.hpp"
#include "jolly_iris/errors.hpp"
#include "jolly_iris/picture_file.hpp"
#include "jolly_iris/plan.hpp"
#include "jolly_iris/trace.hpp"
#include "jolly_iris/warp.hpp"
#include "likeness_text.hpp"
#include "match_text.hpp"
#include "output.hpp"
#include "progress.hpp"
#include "seen_in_plate.hpp"
#include "text.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

namespace {

constexpr int plate_wide = 1920;   // at most, px: for pointing
constexpr int others_wide = 1280;  // at most, px: for looking
constexpr int steps_wide = 960;
constexpr int survey_wide = 640;
constexpr double largest_mb = 5.0;

std::string jpeg(const Picture& picture, int wide, int quality) {
  return picture_bytes(".jpg", Frame{shrunk(picture, wide), {}}, quality);
}

PixelSize size_of_width(const VirtualCamera& c, int wide) {
  const double scale = std::min(1.0, static_cast<double>(wide) / c.pixels.width);
  return {std::max(1, static_cast<int>(std::lround(c.pixels.width * scale))),
          std::max(1, static_cast<int>(std::lround(c.pixels.height * scale)))};
}

// How bright the plate is: to read off under the cross, and as a sheet.
void add_exposure(const Frame& plate, const LoadedShot& loaded, std::vector<std::string>& files,
                  Page& page) {
  constexpr int wide = 320;
  const Picture small = shrunk(plate.colour, wide);
  page.stops.emplace();
  page.stops->size = small.size();
  for (const Rgba& p : small.pixels()) {
    page.stops->stops.push_back(stops_from_grey(p, loaded.now.primaries));
  }
  try {
    const Look look = look_at(plate, loaded.now.plate->file, {}, loaded, files);
    page.stops->clips_at = std::log2(look.clips_at / grey_value);
    const ExposureSheet sheet = sheet_of(look, plate, loaded);
    page.exposure_words = sheet.title + "; " + sheet.subtitle;
    page.exposure_png = exposure_png(sheet);
  } catch (const PictureError&) {
    page.stops.reset();  // a plate without light has no stops; the numbers stand by themselves
  }
}

// The plate; or, to have something to point at, the scene as a pinhole sees it.
std::optional<PagePicture> plate_of(const LoadedShot& loaded, std::vector<std::string>& files,
                                    Page& page) {
  const Shot& shot = loaded.now;
  const VirtualCamera& c = loaded.answer.camera;
  if (shot.plate && !shot.plate->file.empty()) {
    files.push_back(shot.plate->file);
    const Frame plate = read_plate(*shot.plate);
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
                       jpeg(plate.colour, plate_wide, 85)};
  }
  if (!loaded.scene) return std::nullopt;
  TraceSettings settings;
  settings.pinhole = true;
  settings.samples = 8;
  settings.size = size_of_width(c, steps_wide);
  const Frame seen = trace(*loaded.scene, c, loaded.answer.place, settings);
  return PagePicture{"the scene without blur: the shot has no plate",
                     jpeg(seen.colour, plate_wide, 85)};
}

// A coarse grid of a depth picture, decoded as its shot says.
Survey survey_of(const Frame& picture, const DepthCode& code, const VirtualCamera& camera,
                 const std::string& file) {
  const PixelSize full = picture.colour.size();
  const double step = std::max(1.0, static_cast<double>(full.width) / survey_wide);
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
                               const std::string& sharp_file, std::vector<std::string>& files) {
  const VirtualCamera& camera = loaded.answer.camera;
  if (loaded.scene) {
    return survey(*loaded.scene, camera, loaded.answer.place, size_of_width(camera, survey_wide));
  }
  const auto& depth = loaded.now.depth;
  if (depth && !depth->file.empty()) {
    files.push_back(depth->file);
    return survey_of(read_picture(depth->file, Transfer::linear), depth->code, camera, depth->file);
  }
  if (sharp) return survey_of(*sharp, DepthCode{}, camera, sharp_file);
  return std::nullopt;
}

// The frame that steps are made from: given, or traced anew whenever the framing changes.
class SharpFrames {
 public:
  SharpFrames(const PageOptions& options, const LoadedShot& loaded, std::vector<std::string>& files)
      : options_(options), base_(loaded.answer.camera) {
    if (options.sharp.empty()) return;
    files.push_back(options.sharp);
    given_ = read_picture(options.sharp);
    if (!given_->has_depth()) {
      throw PictureError(options.sharp +
                         ": has no depth (channel Z), which --steps needs to blur it");
    }
  }

  const std::optional<Frame>& given() const { return given_; }

  const Frame& of(const LoadedShot& step) {
    const VirtualCamera& c = step.answer.camera;
    if (given_) {
      const double zoom = (c.focal / c.picture.width) / (base_.focal / base_.picture.width);
      if (std::abs(zoom - 1.0) > 0.05) {
        throw UsageError(fmt::format(
            "--steps {}: changes the framing by {:.0f} %, which {} does not show; leave --sharp "
            "out, and each step is traced",
            options_.steps.key, 100.0 * (zoom - 1.0), options_.sharp));
      }
      return *given_;
    }
    if (!step.scene) {
      throw UsageError(step.shot.file +
                       ": has no scene to render the steps of; give a sharp picture with depth: "
                       "--sharp FILE.exr");
    }
    const bool same = traced_ && traced_for_.focal == c.focal && traced_for_.picture == c.picture &&
                      traced_for_.shift_up == c.shift_up &&
                      traced_for_.shift_right == c.shift_right &&
                      traced_from_.isApprox(step.answer.place, 1e-12);
    if (same) return *traced_;
    TraceSettings settings;
    settings.pinhole = true;
    settings.samples = 32;
    settings.size = size_of_width(c, steps_wide);
    traced_ = trace(*step.scene, c, step.answer.place, settings);
    traced_for_ = c;
    traced_from_ = step.answer.place;
    return *traced_;
  }

 private:
  const PageOptions& options_;
  VirtualCamera base_;
  std::optional<Frame> given_;
  std::optional<Frame> traced_;
  VirtualCamera traced_for_;
  Eigen::Isometry3d traced_from_ = Eigen::Isometry3d::Identity();
};

void add_steps(const PageOptions& options, const LoadedShot& loaded, SharpFrames& frames,
               const Streams& io, std::vector<std::string>& files, Page& page) {
  const Steps& steps = options.steps;
  if (steps.values.empty()) return;
  page.step_key = steps.key;
  Progress progress(io.err, "rendering steps");
  const auto told = progress.callback();
  const auto origin = loaded.shot.origins.find(steps.key);
  const std::string now = origin == loaded.shot.origins.end() ? "" : origin->second.text;
  for (std::size_t i = 0; i < steps.values.size(); ++i) {
    ShotOptions tried = options.shot;
    tried.tried.push_back({steps.key, steps.values[i]});
    const LoadedShot step = load(tried, files);
    const Answer& a = step.answer;
    PageStep made;
    made.value = steps.values[i];
    made.words =
        fmt::format("Sharp from {} to {}; infinity is blurred by {:.1f} px. {:.2f} mm at f/{:.3g}.",
                    metres(a.sharp.near), metres(a.sharp.far), std::abs(a.infinity.coc_px),
                    a.camera.focal.mm(), a.camera.f_number);
    made.jpeg = jpeg(defocus(frames.of(step), a.camera), steps_wide, 82);
    if (made.value == now) page.step_now = i;
    page.steps.push_back(std::move(made));
    if (told) told(static_cast<double>(i + 1) / static_cast<double>(steps.values.size()));
  }
}

// One paragraph a line that does not go on another one.
std::vector<std::string> paragraphs(const std::string& text) {
  std::vector<std::string> out;
  std::size_t at = 0;
  while (at < text.size()) {
    const std::size_t end = std::min(text.find('\n', at), text.size());
    const std::string line = text.substr(at, end - at);
    const std::size_t first = line.find_first_not_of(' ');
    if (first != std::string::npos) {
      const bool goes_on = first >= 5 || (first >= 2 && out.size() == 1);
      if (goes_on && !out.empty() && !(line[first] >= '0' && line[first] <= '9' && first == 2)) {
        out.back() += ' ';
        out.back() += line.substr(first);
      } else {
        out.push_back(line.substr(first));
      }
    }
    at = end + 1;
  }
  return out;
}

void add_match(const PageOptions& options, std::vector<std::string>& files, Page& page) {
  ShotOptions as_noted = options.shot;
  as_noted.as_noted = true;  // notes are matched, not what was solved from them
  const LoadedShot noted = load(as_noted, files);
  if (!noted.now.plate || noted.now.plate->file.empty()) {
    throw UsageError(noted.shot.file +
                     ": --match: names no plate; write [plate] file = \"plate.exr\"");
  }
  const PlateFacts facts = read_plate_facts(noted.now.plate->file);
  const SeenInPlate seen = seen_in_plate(noted, facts, 12.0, files);
  const Notes notes = notes_of(noted);
  const MatchResult plain = jolly_iris::match(notes, seen.all);
  const Explanations why = explanations(notes, seen.all);
  const bool mended = !why.notes_agree && !why.none;
  const MatchResult& best = mended ? why.ranked.front().result : plain;
  page.match.emplace();
  page.match->words = paragraphs(explanations_text(why, seen.all.size()));
  if (mended) page.match->words.emplace_back("With the first one mended:");
  for (const FoundUnknown& u : best.unknowns) {
    page.match->found.push_back(
        {std::string(to_string(u.unknown)),
         fmt::format("{} ± {}", value_text(u.unknown, u.value), value_text(u.unknown, u.margin)),
         fmt::format("noted {}{}", value_text(u.unknown, u.noted),
                     u.determined ? "" : "; only the note says so")});
  }
}

void add_compare(const PageOptions& options, const LoadedShot& loaded,
                 std::vector<std::string>& files, Page& page) {
  if (!loaded.now.plate || loaded.now.plate->file.empty()) {
    throw UsageError(loaded.shot.file +
                     ": --cg: names no plate to compare with; write [plate] file = \"plate.exr\"");
  }
  files.push_back(options.cg);
  const Frame cg = read_picture(options.cg);
  const Picture plate = read_plate(*loaded.now.plate).colour;
  LikenessSettings settings;
  settings.primaries = loaded.now.primaries;
  const Likeness like = likeness(plate, cg, settings);
  const Alike both = of_one_size(plate, cg.colour);
  page.compare.emplace();
  page.compare->plate_jpeg = jpeg(both.plate, others_wide, 85);
  page.compare->cg_jpeg = jpeg(both.cg, others_wide, 85);
  page.compare->label =
      fmt::format("{} against {}: {:.1f} dB", std::filesystem::path(options.cg).filename().string(),
                  std::filesystem::path(loaded.now.plate->file).filename().string(), like.psnr_db);
  page.compare->differs = likeness_rows(like);
  for (const NextMove& m : next_moves(like, loaded.now))
    page.compare->moves.push_back(move_text(m));
}

void add_bokeh(const LoadedShot& loaded, Page& page) {
  const std::vector<Row> rows = rows_of(BokehOptions{}, loaded);
  page.bokeh_words = shape_text(loaded.answer.camera);
  page.bokeh_png = labelled_png(sheet_over_frame(loaded, rows));
}

}  // namespace

void page(const PageOptions& options, const Streams& io, std::vector<std::string>& files) {
  const std::string name =
      options.out.empty() ? stem_of(options.shot.shot) + ".page.html" : options.out;
  if (std::filesystem::path(name).extension() != ".html") {
    throw UsageError(name + ": a page's name ends in .html; this one does not");
  }
  LoadedShot loaded = load(options.shot, files);
  Page page;
  SharpFrames frames(options, loaded, files);
  page.plate = plate_of(loaded, files, page);
  page.exposure = exposure_rows(loaded);
  if (options.match) add_match(options, files, page);
  if (!options.cg.empty()) add_compare(options, loaded, files, page);
  if (options.bokeh) add_bokeh(loaded, page);
  page.survey = surveyed(loaded, frames.given(), options.sharp, files);
  for (const std::string& file : options.pictures) {
    files.push_back(file);
    const Frame picture = read_picture(file);
    page.pictures.push_back(
        {fmt::format("{}, {} x {} px", std::filesystem::path(file).filename().string(),
                     picture.colour.width(), picture.colour.height()),
         jpeg(picture.colour, others_wide, 82)});
  }
  add_steps(options, loaded, frames, io, files, page);
  Scene* scene = loaded.scene ? &*loaded.scene : nullptr;
  for (const bool side : {false, true}) {
    const Plan plan = plan_of(loaded.shot, loaded.now, scene, loaded.answer, side);
    (side ? page.plan_side_svg : page.plan_above_svg) = plan_svg(plan);
  }
  const std::string html = page_html(loaded.now, loaded.answer, page);
  write_whole_file(name, html);
  const double mb = static_cast<double>(html.size()) / 1e6;
  if (mb > largest_mb) {
    io.err << fmt::format("warning: {} has {:.1f} MB; fewer pictures or steps make it quicker\n",
                          name, mb);
  }
  const std::string text =
      tried_line(loaded.shot) +
      fmt::format("{:<28} {:.1f} MB: open it in a browser; it needs no network\n", name, mb);
  say(options.shot.form, io, written_json({name}, {{"megabytes", mb}}, &loaded.shot), text);
}

}  // namespace jolly_iris::cli
