#include "jolly_iris/workflow/carry.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <charconv>
#include <cmath>
#include <cstdlib>

#include "disk/disk.hpp"
#include "jolly_iris/files/shot_edit.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/quantity.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "jolly_iris/optics/solve.hpp"
#include "jolly_iris/workflow/shot_list.hpp"
#include "optics/nearest.hpp"
#include "optics/value_text.hpp"
#include "picture/parallel.hpp"
#include "workflow/shot_values.hpp"

namespace jolly_iris {

namespace {

// Whose blur is meant, as one shot sees it.
const SubjectBlur& blurred_thing(const LoadedShot& loaded, const std::string& of) {
  if (of.empty()) return loaded.answer.infinity;
  std::vector<std::string> names;
  for (const SubjectBlur& s : loaded.answer.subjects) {
    if (s.name == of) return s;
    names.push_back(s.name);
  }
  throw UsageError(
      fmt::format("there is no '{}' in front of the camera.{}", of, did_you_mean(of, names)));
}

// How many px of blur one unit of the measure is.
double px_a_unit(const LoadedShot& loaded, BlurMeasure measure) {
  const VirtualCamera& camera = loaded.answer.camera;
  switch (measure) {
    case BlurMeasure::pixels:
      return 1.0;
    case BlurMeasure::picture:
      return camera.pixels.width;
    case BlurMeasure::subject:
      break;
  }
  for (const SubjectBlur& s : loaded.answer.subjects) {
    const bool focused = std::abs(s.axial / camera.focus - 1.0) < 1e-6;
    if (focused && s.size_px) return *s.size_px;
  }
  throw UsageError(fmt::format(
      "{}: nothing that is in focus has a size; write size = \"30 cm\" in its [[subject]], or keep "
      "the blur against the picture",
      loaded.shot.file));
}

LoadedShot with_stop(const LoadedShot& at, const Stop& stop) {
  LoadedShot out = at;
  out.now.take.stop = stop;
  if (!opens_to(out.now.lens, stop)) out.now.lens.widest = stop;
  out.answer = answer_numbers(out.now, out.scene ? &*out.scene : nullptr);
  return out;
}

// The stop that blurs a thing so much, with the lens's faults: by the formula, then by what is
// seen.
std::optional<Stop> stop_for(const LoadedShot& at, const std::string& of, double wanted_px,
                             std::string& note) {
  const SubjectBlur& thing = blurred_thing(at, of);
  const VirtualCamera& camera = at.answer.camera;
  try {
    Stop stop = stop_for_blur(at.now.body, at.now.lens, at.now.take, camera.focus, thing.axial,
                              std::abs(wanted_px) * camera.pixel_pitch());
    // A lens with faults blurs otherwise than the formula says: a few steps of the secant's kind.
    for (int i = 0; i < 6; ++i) {
      const double got = blurred_thing(with_stop(at, stop), of).coc_px;
      const double ratio = std::abs(got) / std::abs(wanted_px);
      if (!(ratio > 0.0) || std::abs(ratio - 1.0) < 1e-6) break;
      stop.value *= ratio;
    }
    return stop;
  } catch (const OpticsError& e) {
    note = e.what();
    return std::nullopt;
  }
}

std::string limit_of(const LoadedShot& at, const Stop& stop) {
  if (!opens_to(at.now.lens, stop)) {
    return fmt::format("the lens opens to {} only", stop_text(widest_as(at.now.lens, stop.kind)));
  }
  return real_lens_doubt(stop.value);
}

CarriedFrame carried_frame(const CarryRequest& request, const MasterBlur& master,
                           const LoadedShot& at) {
  CarriedFrame out;
  out.frame = at.answer.frame;
  const SubjectBlur& thing = blurred_thing(at, request.of);
  out.now_px = thing.coc_px;
  out.wanted_px = master.value * px_a_unit(at, request.in);
  if (thing.coc_px == 0.0 || (thing.coc_px > 0.0) != (out.wanted_px > 0.0)) {
    out.note = thing.coc_px == 0.0 ? "is in focus here: no stop blurs it"
                                   : "is on the other side of the focus here";
    if (thing.coc_px == 0.0) return out;
  }
  out.stop = stop_for(at, request.of, out.wanted_px, out.note);
  if (!out.stop) return out;
  Stop set = *out.stop;
  if (!opens_to(at.now.lens, set)) set = widest_as(at.now.lens, set.kind);
  out.gets_px = blurred_thing(with_stop(at, set), request.of).coc_px;
  const std::string limit = limit_of(at, *out.stop);
  if (!limit.empty()) out.note = out.note.empty() ? limit : out.note + "; " + limit;
  if (set.kind == at.now.take.stop.kind && at.now.take.stop.value > 0.0) {
    out.ev_off = 2.0 * std::log2(at.now.take.stop.value / set.value);
  }
  out.stop = set;
  return out;
}

bool starts_with_any(const std::string& key, std::initializer_list<const char*> all) {
  return std::any_of(all.begin(), all.end(), [&](const char* p) { return key.starts_with(p); });
}

// What names a file stands relative to another one, and a list is no value.
bool is_file(const std::string& key) {
  return key.ends_with(".picture") || key.ends_with(".outline") || key.ends_with(".vectors");
}

void take_keys(const Shot& master, std::initializer_list<const char*> prefixes, CarriedShot& out) {
  for (const auto& [key, origin] : master.origins) {
    if (!starts_with_any(key, prefixes)) continue;
    if (is_file(key) || origin.text.empty() || key.find('[') != std::string::npos) {
      out.notes.push_back(fmt::format("{} is left behind: take it over by hand", key));
      continue;
    }
    out.keys.push_back({key, origin.text});
  }
}

// Lengths in px go with the picture's width.
void scale_px(std::vector<CarriedKey>& keys, double by) {
  for (CarriedKey& k : keys) {
    if (!k.key.starts_with("finish.") || !k.text.ends_with("px")) continue;
    const double v = std::strtod(k.text.c_str(), nullptr);
    k.text = fmt::format("{:.4g} px", v * by);
  }
}

std::string shutter_as_typed(const Shutter& shutter) {
  if (shutter.angle) return fmt::format("{:.6g} deg", shutter.angle->degrees());
  return fmt::format("{:.6g} s", shutter.time->seconds());
}

void carry_light(const CarryRequest& request, const LoadedShot& master, const LoadedShot& other,
                 CarriedShot& out) {
  LoadedShot now = other;
  if (out.frames.size() == 1 && out.frames.front().stop) {
    now = with_stop(other, *out.frames.front().stop);
  }
  if (!master.answer.ev100) {
    out.notes.emplace_back("the master's exposure is not known: it needs stop, shutter and ISO");
    return;
  }
  try {
    const auto& ev = now.answer.ev100;
    if (!ev) {
      out.notes.emplace_back("its own exposure is not known: it needs stop, shutter and ISO");
      return;
    }
    const Trade trade =
        change_exposure(now.now.lens, now.now.take, *ev - *master.answer.ev100, request.pays);
    const Take& t = trade.exact;
    switch (request.pays) {
      case Partner::iso:
        out.keys.push_back({"take.iso", fmt::format("{:.4g}", *t.iso)});
        break;
      case Partner::nd:
        out.keys.push_back({"take.nd", fmt::format("{:.4g} stops", t.nd_stops)});
        break;
      case Partner::shutter:
        out.keys.push_back({"take.shutter", shutter_as_typed(*t.shutter)});
        break;
      case Partner::stop:
        throw UsageError("the stop makes the blur; let iso, nd or shutter pay for the light");
    }
  } catch (const OpticsError& e) {
    out.notes.push_back(fmt::format("the light is not kept: {}", e.what()));
  }
}

CarriedShot carried_shot(const CarryRequest& request, const LoadedShot& master,
                         const std::optional<MasterBlur>& blur, const std::string& file) {
  CarriedShot out;
  out.file = file;
  out.name = shot_name(file);
  LoadSettings settings = shot_settings();
  settings.numbers_only = true;
  const LoadedShot other = load_shot(file, settings);
  std::vector<LoadedShot> at;
  if (request.frames.asked) {
    for (const double frame : chosen_frames(request.frames, other)) {
      at.push_back(posed_at_frame(other, frame));
    }
  } else {
    at.push_back(other);
  }
  if (blur) {
    for (const LoadedShot& one : at) out.frames.push_back(carried_frame(request, *blur, one));
    if (out.frames.size() == 1 && out.frames.front().stop) {
      out.keys.push_back({"take.stop", stop_text(*out.frames.front().stop)});
    }
  }
  if (request.disc) take_keys(master.shot, {"lens.iris.", "lens.faults."}, out);
  if (request.white) take_keys(master.shot, {"take.white"}, out);
  if (request.finish) {
    take_keys(master.shot, {"finish."}, out);
    scale_px(out.keys, static_cast<double>(other.answer.camera.pixels.width) /
                           master.answer.camera.pixels.width);
  }
  if (request.exposure) carry_light(request, master, other, out);
  return out;
}

}  // namespace

Carried carry(const CarryRequest& request, std::vector<std::string>& files) {
  const LoadedShot master = open_shot(request.master, files);
  Carried out;
  out.master = shot_name(master.shot.file);
  out.of = request.of.empty() ? "infinity" : request.of;
  if (request.blur) {
    const double px = blurred_thing(master, request.of).coc_px;
    if (px == 0.0) {
      throw UsageError(fmt::format("{} is in focus in {}: it has no blur that could be kept",
                                   out.of, master.shot.file));
    }
    out.blur = MasterBlur{px, px / px_a_unit(master, request.in)};
  }
  out.shots.resize(request.to.size());
  std::atomic<std::size_t> done = 0;
  with_threads(request.execution.threads, [&] {
    parallel_for(std::size_t{0}, request.to.size(), [&](std::size_t i) {
      const std::string& file = request.to[i];
      try {
        out.shots[i] = carried_shot(request, master, out.blur, file);
      } catch (const Cancelled&) {
        throw;
      } catch (const Error& e) {
        out.shots[i] = {.file = file, .name = shot_name(file), .problem = e.what()};
      }
      request.execution.tell(static_cast<double>(++done) / static_cast<double>(request.to.size()));
    });
  });
  files.insert(files.end(), request.to.begin(), request.to.end());
  return out;
}

ShotListEdit carried_variants(const Carried& carried, const std::string& variant,
                              const std::string& journal) {
  require_variant_name(variant);
  ShotListEdit out;
  out.table = journal;
  for (const CarriedShot& shot : carried.shots) {
    if (!shot.problem.empty()) continue;
    const std::string before = read_own_file(shot.file);
    std::vector<ShotValue> values;
    for (const CarriedKey& k : shot.keys) values.push_back({k.key, k.text});
    std::vector<ShotEdit> edits = edits_for(before, shot.file, variant, values);
    if (shot.frames.size() > 1) {
      for (const CarriedFrame& f : shot.frames) {
        if (!f.stop || !f.frame) continue;
        edits.push_back({fmt::format("variant.{}.over.take.stop.{:g}", variant, *f.frame),
                         toml_spelling(stop_text(*f.stop))});
      }
    }
    if (edits.empty()) continue;
    const std::string after = edited_shot(before, shot.file, edits);
    if (after == before) continue;
    for (const CarriedKey& k : shot.keys) {
      out.changes.push_back({shot.name, "variant." + variant + "." + k.key, "", k.text, ""});
    }
    if (shot.frames.size() > 1) {
      out.changes.push_back({shot.name, "variant." + variant + ".over.take.stop", "",
                             fmt::format("{} frames", shot.frames.size()), ""});
    }
    out.files.push_back({shot.file, before, after});
  }
  return out;
}

std::vector<FeltValue> felt_values(const std::string& text) {
  std::vector<FeltValue> out;
  for (std::size_t from = 0; from <= text.size();) {
    const std::size_t to = std::min(text.find(',', from), text.size());
    const std::string one = text.substr(from, to - from);
    from = to + 1;
    const auto at = one.find(" at ");
    const auto begin = one.find_first_not_of(' ');
    double value = 0.0;
    const char* first = one.data() + (begin == std::string::npos ? 0 : begin);
    const auto end = std::from_chars(first, one.data() + one.size(), value);
    if (at == std::string::npos || end.ec != std::errc{} || end.ptr > one.data() + at) {
      throw UsageError(fmt::format(
          "'{}' is no value at a distance; write e.g. 9 at 20 m, several with commas between",
          one));
    }
    out.push_back({value, parse_distance(one.substr(at + 4))});
  }
  return out;
}

}  // namespace jolly_iris
