// What a page looks at: pictures, the plate, places, the plan.
#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/drawing/plan.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture/depth_map.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/focus_keys.hpp"
#include "live/desk.hpp"
#include "live/display.hpp"
#include "live/words.hpp"
#include "optics/value_text.hpp"

namespace jolly_iris::live {

namespace {

Json panels_of(const PlanLayout& layout) {
  Json list = Json::array();
  for (const PlanPanel& p : layout.panels) {
    list.push_back({{"x", p.box.x},
                    {"y", p.box.y},
                    {"width", p.box.width},
                    {"height", p.box.height},
                    {"px_per_m", p.px_per_m},
                    {"ahead_m", p.ahead_m}});
  }
  return list;
}

// The part of the whole picture that is meant; none: all of it.
std::optional<Box> box_in(const Words& words) {
  if (!has(words, "box_w")) return std::nullopt;
  return Box{whole_number(words, "box_x", 0, largest_side * 4),
             whole_number(words, "box_y", 0, largest_side * 4),
             whole_number(words, "box_w", 1, 2048), whole_number(words, "box_h", 1, 2048)};
}

}  // namespace

Reply Desk::picture(const Words& words) {
  LiveView view;
  const std::string& detail = word(words, "detail");
  if (detail != "draft" && detail != "whole") throw UsageError("detail is draft or whole");
  view.detail = detail == "draft" ? LiveDetail::draft : LiveDetail::whole;
  if (has(words, "w")) {
    view.draft = {whole_number(words, "w", 16, largest_side),
                  whole_number(words, "h", 16, largest_side)};
  }
  view.box = box_in(words);
  std::shared_ptr<const LoadedShot> loaded;
  std::uint64_t version = 0;
  {
    const std::lock_guard lock(lock_);
    loaded = snapshot_;
    version = version_;
    if (word(words, "exposed") == "1") view.light = light_between(shot_.as_in_file(), *loaded);
  }
  view.finished = word(words, "finished") == "1";
  const bool shade = word(words, "shade") == "1";
  const LivePicture made = look_.at(*loaded, view, shade);
  Reply reply{200, "application/octet-stream", display_bytes(*made.picture, *loaded), {}};
  if (shade) {
    // What counts as sharp is said for the delivered picture.
    const VirtualCamera& c = loaded->answer.camera;
    const double shown = view.box ? look_.size(*loaded).width : made.picture->width();
    const double limit = loaded->answer.coc_limit / c.pixel_pitch() * shown / c.pixels.width;
    shade_blur(reply.body, made.picture->width(), made.coc_px, limit);
  }
  reply.headers = {{"X-Version", fmt::format("{}", version)},
                   {"X-Width", fmt::format("{}", made.picture->width())},
                   {"X-Height", fmt::format("{}", made.picture->height())},
                   {"X-Draft", made.draft ? "1" : "0"}};
  return reply;
}

Reply Desk::plate(const Words& words) {
  const int width = whole_number(words, "w", 16, largest_side);
  const int height = whole_number(words, "h", 16, largest_side);
  const std::lock_guard lock(lock_);
  const LoadedShot& loaded = shot_.as_in_file();
  (void)plate_file(loaded, "to look at");
  if (!plate_) plate_ = read_plate(*loaded.now.plate);
  const PixelSize size = draft_size(plate_->colour.size(), width, height);
  const Frame small = size == plate_->colour.size() ? *plate_ : reduced(*plate_, size);
  return {
      200,
      "application/octet-stream",
      display_bytes(small.colour, loaded),
      {{"X-Width", fmt::format("{}", size.width)}, {"X-Height", fmt::format("{}", size.height)}}};
}

Reply Desk::place(const Words& words) {
  const std::shared_ptr<const LoadedShot> loaded = now();
  const LivePlace p = look_.place(*loaded, number(words, "x"), number(words, "y"));
  const double limit = loaded->answer.coc_limit / loaded->answer.camera.pixel_pitch();
  std::string said = "its distance is not known";
  if (p.axial) {
    said = short_metres_text(*p.axial) + (p.axial->is_infinite() ? "" : " along the view axis");
    if (!p.subject.empty()) said = p.subject + ": " + said;
    said += std::abs(p.coc_px) <= limit
                ? ", sharp"
                : fmt::format(", {:.1f} px blurred, {} the focus", std::abs(p.coc_px),
                              p.coc_px > 0.0 ? "behind" : "in front of");
  }
  return json_reply({{"said", said}, {"subject", p.subject}});
}

Reply Desk::plan(const Words& words) {
  const std::shared_ptr<const LoadedShot> loaded = now();
  std::optional<Scene> scene = loaded->scene;
  const Plan plan = plan_of(loaded->shot, loaded->now, scene ? &*scene : nullptr, loaded->answer,
                            word(words, "side") == "1");
  if (word(words, "panels") == "1") {
    return json_reply({{"panels", panels_of(layout_of(plan))}});
  }
  return {200, "image/png", plan_png(plan), {}};
}

Reply Desk::focus_curve_reply() {
  const FocusCurve curve = focus_curve(*now());
  const auto metres = [](const Length& l) { return l.is_finite() ? Json(l.m()) : Json(nullptr); };
  Json points = Json::array();
  for (std::size_t i = 0; i < curve.frames.size(); ++i) {
    points.push_back({{"frame", curve.frames[i]}, {"m", metres(curve.axial[i])}});
  }
  Json keys = Json::array();
  for (const FocusKey& k : curve.keys) {
    keys.push_back({{"frame", k.frame},
                    {"on", k.on},
                    {"m", metres(k.axial)},
                    {"said", short_metres_text(k.axial)},
                    {"ease", k.ease}});
  }
  return json_reply({{"first", curve.range.first},
                     {"last", curve.range.last},
                     {"points", points},
                     {"keys", keys}});
}

Reply Desk::truth(const Words& words) {
  const std::shared_ptr<const LoadedShot> loaded = now();
  const PixelSize whole = look_.size(*loaded);
  const std::optional<Box> box = box_in(words);
  const PixelSize size = box ? whole
                             : draft_size(whole, whole_number(words, "w", 16, 1920),
                                          whole_number(words, "h", 16, 1200));
  const Picture traced = look_.truth(*loaded, size, whole_number(words, "samples", 1, 256), box);
  return {200,
          "application/octet-stream",
          display_bytes(traced, *loaded),
          {{"X-Width", fmt::format("{}", traced.width())},
           {"X-Height", fmt::format("{}", traced.height())}}};
}

Reply Desk::thumb(const Words& words) {
  const std::lock_guard lock(lock_);
  const auto i = static_cast<std::size_t>(whole_number(words, "try", 0, 100000));
  if (i >= kept_.size()) throw UsageError("there is no such try");
  return {200,
          "application/octet-stream",
          kept_[i].bytes,
          {{"X-Width", fmt::format("{}", kept_[i].size.width)},
           {"X-Height", fmt::format("{}", kept_[i].size.height)}}};
}

}  // namespace jolly_iris::live
