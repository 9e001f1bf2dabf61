// From a shot on: what it would take (solve), its light, its white, cameras of a folder side by
// side, a look carried to others, files for other programs.
#include <fmt/format.h>

#include "convert.hpp"
#include "jolly_iris/files/handoff.hpp"
#include "jolly_iris/files/usda.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/quantity.hpp"
#include "jolly_iris/optics/white.hpp"
#include "jolly_iris/workflow/carry.hpp"
#include "jolly_iris/workflow/exposure_look.hpp"
#include "jolly_iris/workflow/exposure_trades.hpp"
#include "jolly_iris/workflow/handoff_run.hpp"
#include "jolly_iris/workflow/shot_list.hpp"
#include "jolly_iris/workflow/solutions.hpp"
#include "long_work.hpp"
#include "parts.hpp"
#include "report/carry_report.hpp"
#include "report/exposure_report.hpp"
#include "report/look_report.hpp"
#include "report/shots_report.hpp"
#include "report/solve_report.hpp"
#include "shot.hpp"

namespace jolly_iris::python {

namespace {

// What was solved: in words, as numbers, and as values to try.
struct Solution {
  report::Solved said{};
  std::vector<Override> values{};
};

template <class Found>
Solution solution(const Found& found, const LoadedShot& loaded, report::Solved said) {
  return {std::move(said), overrides_for(found, loaded)};
}

Solution hold_both(const PythonShot& shot, const std::string& a, const std::string& b) {
  const HoldSolution s = solve_hold(shot.loaded, a, b);
  return solution(s, shot.loaded, report::say(s, shot.loaded, a, b));
}

Solution for_blur(const PythonShot& shot, const std::string& blur, const std::string& at,
                  bool by_lens) {
  const BlurSolution s = solve_blur(shot.loaded, parse_blur_size(blur), at, by_lens);
  return solution(s, shot.loaded, report::say(s, shot.loaded));
}

Solution on_body(const PythonShot& shot, const std::filesystem::path& body, double adapter) {
  std::vector<std::string> files;
  const BodySolution s = solve_body(shot.loaded, body.string(), adapter, files);
  return solution(s, shot.loaded, report::say(s, shot.loaded));
}

Solution levelled_camera(const PythonShot& shot, const std::string& keep) {
  const LevelSolution s = solve_level(shot.loaded, LeanFrom::usual, keep);
  return solution(s, shot.loaded, report::say(s, shot.loaded));
}

Primaries primaries_named(const std::string& name) {
  for (const Primaries p : {Primaries::rec709, Primaries::acescg}) {
    if (name == to_string(p)) return p;
  }
  throw UsageError(name + ": is none of the primaries that are known here: Rec.709, ACEScg");
}

White white(double kelvin, double tint) {
  const White w{Temperature::from_kelvin(kelvin), tint};
  (void)chromaticity_of(w);  // refuses what is none
  return w;
}

py::object exposure(const PythonShot& shot) {
  std::vector<std::string> files;
  return to_python(
      report::take_json(take_exposure({}, shot.request, shot.loaded, files), shot.loaded));
}

py::object look(const PythonShot& shot, const std::filesystem::path& picture, bool as_plate) {
  std::vector<std::string> files;
  Json json;
  {
    const py::gil_scoped_release unlocked;
    LookRequest wanted;
    wanted.as_plate = as_plate;
    const Frame frame = read_for_shot(picture.string(), {}, shot.loaded, files);
    json = report::look_json(look_at(frame, picture.string(), wanted, shot.loaded, files));
  }
  return to_python(json);
}

py::object listed(const std::vector<std::string>& what, const std::vector<std::string>& columns,
                  int threads, const py::object& progress) {
  ShotListRequest wanted;
  wanted.what = what;
  wanted.columns = columns;
  const ShotList list = run_long(threads, progress, [&](const Execution& execution) {
    wanted.execution = execution;
    return list_shots(wanted);
  });
  return to_python(report::shots_json(list));
}

py::object carried(const PythonShot& master, const std::vector<std::string>& to, bool disc,
                   bool exposed, bool white_too, bool finish, const std::string& of, int threads,
                   const py::object& progress) {
  CarryRequest wanted;
  wanted.master = master.request;
  wanted.to = to;
  wanted.disc = disc;
  wanted.exposure = exposed;
  wanted.white = white_too;
  wanted.finish = finish;
  wanted.of = of;
  const Carried out = run_long(threads, progress, [&](const Execution& execution) {
    wanted.execution = execution;
    std::vector<std::string> files;
    return carry(wanted, files);
  });
  return to_python(report::carry_json(out, wanted.in));
}

std::vector<std::string> handed(const PythonShot& shot, const std::filesystem::path& folder,
                                const std::vector<std::string>& stamp) {
  HandoffRequest wanted;
  wanted.folder = folder.string();
  wanted.one_frame = shot.request.frame.has_value();
  wanted.stamp = stamp;
  const py::gil_scoped_release unlocked;
  std::vector<std::string> names;
  for (HandedFile& file : hand_off(wanted, shot.loaded).files)
    names.push_back(std::move(file.name));
  return names;
}

}  // namespace

void add_answers(py::module_& module) {
  using namespace py::literals;
  py::class_<Solution>(module, "Solution", plain_type(), "What it would take, and how to try it.")
      .def_property_readonly(
          "values",
          [](const Solution& s) {
            py::dict out;
            for (const Override& o : s.values) out[py::str(o.key)] = py::str(o.text);
            return out;
          },
          "for Shot.with_values and Shot.save")
      .def_property_readonly("notes", [](const Solution& s) { return s.said.notes; })
      .def(
          "to_dict", [](const Solution& s) { return to_python(s.said.json); },
          "What `jolly-iris solve --json` says of it.")
      .def("to_text", [](const Solution& s) { return s.said.text; })
      .def("__repr__", [](const Solution& s) {
        return "<Solution: " + s.said.text.substr(0, s.said.text.find('\n')) + ">";
      });
  module.def("solve_hold", &hold_both, "shot"_a, "a"_a, "b"_a,
             "Focus and stop that keep two subjects, or distances, just sharp.");
  module.def(
      "solve_blur", &for_blur, "shot"_a, "blur"_a, "at"_a, "by_lens"_a = false,
      "The stop (or the lens, from another place) that blurs something by so much: \"12 px\".");
  module.def("solve_body", &on_body, "shot"_a, "body"_a, "adapter"_a = 1.0,
             "The lens and the stop that make the same picture on another body, by its file.");
  module.def("solve_level", &levelled_camera, "shot"_a, "keep"_a = "",
             "The level camera with a shifted lens that sees the same.");

  py::class_<White>(module, "White", plain_type(), "The white of a light.")
      .def(py::init(&white), "kelvin"_a, "tint"_a = 0.0,
           "kelvin: 1000 to 25000. tint: distance from the white locus (Duv), + greener, -0.05 to "
           "0.05.")
      .def_property_readonly("kelvin", [](const White& w) { return w.temperature.kelvin(); })
      .def_readonly("tint", &White::tint)
      .def(
          "gains",
          [](const White& w, const std::string& p) { return white_gains(w, primaries_named(p)); },
          "primaries"_a = "Rec.709",
          "Red, green, blue that make this light's grey neutral; green is 1.")
      .def("__repr__", [](const White& w) {
        return fmt::format("<White {:.0f} K, tint {:+.4f}>", w.temperature.kelvin(), w.tint);
      });
  module.def(
      "white_of_gains",
      [](const Rgb& gains, const std::string& p) {
        return white_of_gains(gains, primaries_named(p));
      },
      "gains"_a, "primaries"_a = "Rec.709", "The white that such gains neutralise.");
  module.def(
      "white_of_patch",
      [](const Rgb& rgb, const std::string& p) { return white_of_patch(rgb, primaries_named(p)); },
      "rgb"_a, "primaries"_a = "Rec.709", "The light in which a grey card looks so; linear.");

  module.def("exposure", &exposure, "shot"_a,
             "What the take means for light, as `jolly-iris expose --json` says it.");
  module.def(
      "look_at", &look, "shot"_a, "picture"_a, "as_plate"_a = false,
      "What a picture's file shows of its light: metered, its white, against the shot's plate.");
  module.def(
      "list_shots", &listed, "what"_a, "columns"_a = std::vector<std::string>{}, py::kw_only(),
      "threads"_a = 0, "progress"_a = py::none(),
      "All cameras of files and folders side by side, as `jolly-iris shots --json` has them.");
  module.def(
      "carry", &carried, "master"_a, "to"_a, py::kw_only(), "disc"_a = false, "exposure"_a = false,
      "white"_a = false, "finish"_a = false, "of"_a = "", "threads"_a = 0,
      "progress"_a = py::none(),
      "A master shot's blur (and more) carried to other shots by optics; no file is touched.");
  module.def("hand_off", &handed, "shot"_a, "folder"_a, "stamp"_a = std::vector<std::string>{},
             "Writes the camera for other programs into a folder; the files' names.");
}

}  // namespace jolly_iris::python
