// What is drawn of a shot, as the bytes of a file: the plan, discs over the frame, its page.
#include "convert.hpp"
#include "drawing/result_sheets.hpp"
#include "jolly_iris/drawing/plan.hpp"
#include "jolly_iris/drawing/shot_page.hpp"
#include "jolly_iris/workflow/disc_rows.hpp"
#include "long_work.hpp"
#include "parts.hpp"
#include "shot.hpp"

namespace jolly_iris::python {

namespace {

bool is_vector(const std::string& kind) {
  if (kind == "svg") return true;
  if (kind == "png") return false;
  throw py::value_error("kind is 'png' or 'svg', not '" + kind + "'");
}

py::bytes plan_drawn(const PythonShot& shot, bool side, const std::string& kind) {
  const bool vector = is_vector(kind);
  std::string bytes;
  {
    const py::gil_scoped_release unlocked;
    const LoadedShot& loaded = shot.loaded;
    const Scene* scene = loaded.scene ? &*loaded.scene : nullptr;
    const Plan plan = plan_of(loaded.shot, loaded.now, scene, loaded.answer, side);
    bytes = vector ? plan_svg(plan) : plan_png(plan);
  }
  return bytes;
}

py::bytes discs_drawn(const PythonShot& shot, const std::vector<std::string>& at,
                      const std::string& kind) {
  const bool vector = is_vector(kind);
  std::string bytes;
  {
    const py::gil_scoped_release unlocked;
    const LabelledSheet sheet = discs_sheet(shot.loaded, disc_rows(shot.loaded, at));
    bytes = vector ? labelled_svg(sheet) : labelled_png(sheet);
  }
  return bytes;
}

std::string page_written(const PythonShot& shot, const std::vector<std::string>& pictures,
                         const std::string& cg, bool match, bool bokeh, int threads,
                         const py::object& progress) {
  return run_long(threads, progress, [&](const Execution& execution) {
    ShotPageRequest request;
    request.shot = shot.request;
    request.pictures = pictures;
    request.cg = cg;
    request.match = match;
    request.bokeh = bokeh;
    std::vector<std::string> files;
    return shot_page(request, shot.loaded, files, execution).html;
  });
}

}  // namespace

void add_sheets(py::module_& module) {
  using namespace py::literals;
  module.def("plan", &plan_drawn, "shot"_a, py::kw_only(), "side"_a = false, "kind"_a = "png",
             "The set from above, or from the side: bytes of a PNG or SVG of 1280 x 800.");
  module.def("bokeh", &discs_drawn, "shot"_a, py::kw_only(), "at"_a = std::vector<std::string>{},
             "kind"_a = "png",
             "Discs over the frame, a row for each of `at` (subjects, distances): bytes of a PNG "
             "or SVG of 1280 x 800.");
  module.def("page", &page_written, "shot"_a, py::kw_only(),
             "pictures"_a = std::vector<std::string>{}, "cg"_a = "", "match"_a = false,
             "bokeh"_a = false, "threads"_a = 0, "progress"_a = py::none(),
             "The shot's page as HTML, complete in itself.");
}

}  // namespace jolly_iris::python
