#include "jolly_iris/solve.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "jolly_iris/errors.hpp"
#include "jolly_iris/nearest.hpp"
#include "jolly_iris/quantity.hpp"
#include "jolly_iris/shot_file.hpp"
#include "output.hpp"
#include "solve_found.hpp"
#include "text.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

namespace {

std::string number(double v) { return fmt::format("{:.6g}", v); }

void add_focus(Found& f, Length focus) {
  f.json["focus_m"] = focus.is_infinite() ? Json(nullptr) : Json(focus.m());
  f.tries.push_back(focus.is_infinite() ? "focus.at=infinity"
                                        : fmt::format("focus.at={} m", number(focus.m())));
}

void add_stop(Found& f, const Stop& stop, double effective) {
  f.json["stop"] = stop.value;
  f.json["f_number"] = effective;
  f.tries.push_back(fmt::format("take.stop=f/{}", number(stop.value)));
  const std::string doubt = real_lens_doubt(stop.value);
  if (!doubt.empty()) f.notes.push_back(doubt + ".");
}

// Where the stop is wider than the lens opens: said, and the tried lens opens so far.
void add_widest(Found& f, const Lens& lens, const Stop& stop, bool same_lens) {
  if (opens_to(lens, stop)) return;
  f.tries.push_back(fmt::format("lens.widest=f/{}", number(stop.value)));
  if (!same_lens || !real_lens_doubt(stop.value).empty()) return;
  f.notes.push_back(
      fmt::format("This lens opens to {} only: take another, or take it as a number "
                  "for CG.",
                  stop_text(*lens.widest)));
}

// The camera at such a stop, whether the lens opens so far or not.
VirtualCamera camera_at(const Shot& shot, const Stop& stop, Length focus) {
  Lens lens = shot.lens;
  if (!opens_to(lens, stop)) lens.widest = stop;
  Take take = shot.take;
  take.stop = stop;
  return resolve(shot.body, lens, take, focus);
}

void add_diffraction(Found& f, const LoadedShot& loaded, const VirtualCamera& camera) {
  const Length limit = coc_limit(loaded.now.criterion, loaded.now.body, camera);
  const Length airy = airy_diameter(camera);
  f.json["airy_px"] = to_pixels(airy, camera);
  if (airy <= limit) return;
  f.notes.push_back(
      fmt::format("Diffraction alone blurs by {:.1f} px there, more than the limit of {:.1f} px: "
                  "nothing gets as sharp as asked.",
                  to_pixels(airy, camera), to_pixels(limit, camera)));
}

Found solve_hold(const SolveOptions& o, const LoadedShot& loaded) {
  const bool hold_two = !o.hold.empty();
  const auto& ends = hold_two ? o.hold : o.sharp;
  const char* option = hold_two ? "--hold" : "--sharp";
  const Length a = distance_named(loaded, ends[0], option);
  const Length b = distance_named(loaded, ends[1], option);
  const Shot& shot = loaded.now;
  const Hold found = hold(shot.body, shot.lens, shot.take, shot.criterion, a, b);
  const VirtualCamera camera = camera_at(shot, found.stop, found.focus);
  Found f;
  f.text = fmt::format("{} at {} and {} at {} are both just sharp", hold_two ? ends[0] : "near",
                       metres(a), hold_two ? ends[1] : "far", metres(b));
  f.text +=
      fmt::format(":\n  focus {}, {} on the lens (f/{:.6g} with all that is mounted)\n",
                  found.focus.is_infinite() ? "infinity" : fmt::format("{:.6f} m", found.focus.m()),
                  fmt::format("f/{}", number(found.stop.value)), found.f_number);
  add_focus(f, found.focus);
  add_stop(f, found.stop, found.f_number);
  add_widest(f, shot.lens, found.stop, true);
  add_diffraction(f, loaded, camera);
  return f;
}

Found solve_blur(const SolveOptions& o, const LoadedShot& loaded) {
  const Shot& shot = loaded.now;
  const VirtualCamera camera = without_cheat(loaded.answer.camera);
  const std::string where = o.at.empty() ? "infinity" : o.at;
  const Length z = distance_named(loaded, where, "--at");
  const Length coc = on_gate(*o.blur, camera);
  Found f;
  const bool itself = where == metres(z);  // "infinity at infinity" says nothing
  const std::string wish = fmt::format("{}{} is blurred by {:.4g} px", where,
                                       itself ? "" : " at " + metres(z), to_pixels(coc, camera));
  if (o.by == SolveOptions::By::stop) {
    const Stop stop = stop_for_blur(shot.body, shot.lens, shot.take, camera.focus, z, coc);
    f.text = fmt::format("{} at:\n  f/{} on the lens instead of {}\n", wish, number(stop.value),
                         stop_text(shot.take.stop));
    add_stop(f, stop, shot.lens.adapter * stop.value);
    add_widest(f, shot.lens, stop, true);
    add_diffraction(f, loaded, camera_at(shot, stop, camera.focus));
    return f;
  }
  const LensAndDistance found =
      lens_for_blur(shot.body, shot.lens, shot.take, camera.focus, z - camera.focus, coc);
  f.text = fmt::format(
      "{} at {}, with what is in focus as large as now, by:\n  a lens of {} mm at {} from it "
      "(instead of {:.4g} mm at {})\n",
      wish, stop_text(shot.take.stop), number(found.focal.mm()), metres(found.distance),
      shot.lens.focal.mm(), metres(camera.focus));
  f.json["focal_mm"] = found.focal.mm();
  f.json["distance_m"] = found.distance.m();
  f.tries.push_back(fmt::format("lens.focal={} mm", number(found.focal.mm())));
  f.tries.push_back(fmt::format("focus.at={} m", number(found.distance.m())));
  f.notes.push_back(
      fmt::format("The camera moves {:.4g} m {} for that: in the picture everything behind what is "
                  "in focus changes its size.",
                  std::abs(found.distance.m() - camera.focus.m()),
                  found.distance > camera.focus ? "back" : "closer"));
  return f;
}

Found solve_body(const SolveOptions& o, const LoadedShot& loaded, std::vector<std::string>& files) {
  const Body other = read_body_file(o.body);
  files.push_back(o.body);
  const Equivalent found = equivalent_on(without_cheat(loaded.answer.camera), other, o.adapter);
  Found f;
  const Extent gate = recorded_gate(other);
  f.text = fmt::format(
      "The same picture, framed and blurred alike at every distance, on {} ({:.4g} x {:.4g} mm):\n"
      "  a lens of {} mm at f/{}{}, focused at the same {}\n",
      other.name.empty() ? o.body : other.name, gate.width.mm(), gate.height.mm(),
      number(found.focal.mm()), number(found.stop.value),
      o.adapter != 1.0 ? fmt::format(" behind it a {:g} x adapter", o.adapter) : "",
      metres(loaded.answer.camera.focus));
  f.json["focal_mm"] = found.focal.mm();
  add_stop(f, found.stop, found.f_number);
  add_widest(f, loaded.now.lens, found.stop, false);
  f.tries.insert(f.tries.begin(), fmt::format("body={}", o.body));
  f.tries.push_back(fmt::format("lens.focal={} mm", number(found.focal.mm())));
  if (loaded.now.lens.adapter != o.adapter) {
    f.tries.push_back(fmt::format("lens.adapter={:g}", o.adapter));
  }
  return f;
}

}  // namespace

void solve(const SolveOptions& options, const Streams& io, std::vector<std::string>& files) {
  const LoadedShot loaded = load(options.shot, files);
  Found found = options.level           ? solve_level(options, loaded)
                : !options.clip.empty() ? solve_clip(options, loaded)
                : options.blur          ? solve_blur(options, loaded)
                : !options.body.empty() ? solve_body(options, loaded, files)
                                        : solve_hold(options, loaded);
  std::string text = tried_line(loaded.shot) + found.text;
  for (const std::string& note : found.notes) text += wrapped(note, "- ", "  ");
  if (!found.tries.empty()) text += "Try it: jolly-iris report " + loaded.shot.file;
  for (const std::string& t : found.tries) text += fmt::format(" --set \"{}\"", t);
  found.json["notes"] = found.notes;
  found.json["try"] = found.tries;
  if (!found.tries.empty()) text += '\n';
  say(options.shot.form, io, found.json.dump(2) + "\n", text);
}

}  // namespace jolly_iris::cli
