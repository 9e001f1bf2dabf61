// What a plate tells: its discs, the camera that took it, how alike CG is.
#include "convert.hpp"
#include "jolly_iris/workflow/camera_match.hpp"
#include "jolly_iris/workflow/comparison.hpp"
#include "jolly_iris/workflow/disc_measurement.hpp"
#include "long_work.hpp"
#include "parts.hpp"
#include "report/comparison_report.hpp"
#include "report/discs_report.hpp"
#include "report/match_report.hpp"
#include "shot.hpp"

namespace jolly_iris::python {

namespace {

struct Found {
  DiscMeasurement discs{};
  Json json{};
};

Found measured(const PythonShot& shot, double least, int threads, const py::object& progress) {
  return run_long(threads, progress, [&](const Execution& execution) {
    std::vector<std::string> files;
    DiscSearch search;
    search.min_px = least;
    search.execution = execution;
    Found out;
    out.discs = measure_discs(shot.loaded, search, files);
    out.json = report::discs_json(out.discs, shot.loaded);
    return out;
  });
}

CameraMatch matched(const PythonShot& shot, double least, int threads, const py::object& progress) {
  return run_long(threads, progress, [&](const Execution& execution) {
    std::vector<std::string> files;
    CameraMatchRequest request;
    request.shots = {shot.request};
    request.discs.min_px = least;
    request.discs.execution = execution;
    request.execution = execution;
    return match_camera(request, files);
  });
}

PlateComparison compared(const PythonShot& shot, const std::vector<std::string>& pictures,
                         bool among_themselves, int threads, const py::object& progress) {
  return run_long(threads, progress, [&](const Execution& execution) {
    std::vector<std::string> files;
    ComparisonRequest request;
    request.pictures = pictures;
    request.among_themselves = among_themselves;
    request.execution = execution;
    return compare_pictures(shot.loaded, request, files);
  });
}

}  // namespace

void add_plates(py::module_& module) {
  using namespace py::literals;
  py::class_<PlateDisc>(module, "Disc", plain_type(),
                        "A light out of focus, px of the plate; margins are 95 %.")
      .def_readonly("name", &PlateDisc::name)
      .def_property_readonly("at", [](const PlateDisc& d) { return std::pair(d.at[0], d.at[1]); })
      .def_property_readonly("height_px", [](const PlateDisc& d) { return d.height_px.value; })
      .def_property_readonly("margin_px", [](const PlateDisc& d) { return d.height_px.margin; })
      .def_property_readonly("width_px", [](const PlateDisc& d) { return d.width_px.value; })
      .def_readonly("clipped", &PlateDisc::clipped)
      .def_readonly("outlier", &PlateDisc::outlier);
  py::class_<Found>(module, "FoundDiscs", plain_type(),
                    "The discs of a plate, and the iris that drew them.")
      .def_property_readonly("discs", [](const Found& f) { return f.discs.found.discs; })
      .def_property_readonly(
          "blades",
          [](const Found& f) -> std::optional<int> {
            const PlateIris& iris = f.discs.found.iris;
            return iris.sure() ? std::optional(iris.blades) : std::nullopt;
          },
          "None where the plate cannot tell; 0 is round")
      .def(
          "to_dict", [](const Found& f) { return to_python(f.json); },
          "What `jolly-iris measure --json` says of them.");
  py::class_<FittedParameter>(module, "Unknown", plain_type(),
                              "What a plate says of one number of the notes.")
      .def_property_readonly(
          "name", [](const FittedParameter& p) { return std::string(to_string(p.parameter)); })
      .def_readonly("noted", &FittedParameter::noted)
      .def_readonly("value", &FittedParameter::value)
      .def_readonly("margin", &FittedParameter::margin, "95 %")
      .def_readonly("determined", &FittedParameter::determined, "by the plate, not just the note")
      .def("__repr__", [](const FittedParameter& p) {
        return "<Unknown " + std::string(to_string(p.parameter)) + ": " +
               value_text(p.parameter, p.value) + " +- " + value_text(p.parameter, p.margin) + ">";
      });
  py::class_<CameraMatch>(module, "Match", plain_type(),
                          "Which camera took a plate, and what its notes have wrong.")
      .def_property_readonly("notes_agree",
                             [](const CameraMatch& m) { return m.ranking.notes_agree; })
      .def_property_readonly("unexplained", [](const CameraMatch& m) { return m.ranking.none; })
      .def_property_readonly("unknowns",
                             [](const CameraMatch& m) { return m.plates.front().best.parameters; })
      .def_property_readonly(
          "mistakes",
          [](const CameraMatch& m) {
            std::vector<std::vector<std::string>> out;
            for (const RankedHypothesis& h : m.ranking.ranked) {
              out.push_back(h.mistakes);
            }
            return out;
          },
          "the likeliest first; of each, all that look alike in this plate")
      .def_property_readonly(
          "notes",
          [](const CameraMatch& m) {
            std::vector<std::string> out;
            for (const MatchedPlate& p : m.plates) {
              out.insert(out.end(), p.seen.notes.begin(), p.seen.notes.end());
            }
            return out;
          },
          "what reading the plates decided or doubts")
      .def(
          "to_dict", [](const CameraMatch& m) { return to_python(report::match_json(m)); },
          "What `jolly-iris match --json` says.")
      .def("to_text", [](const CameraMatch& m) {
        return report::metadata_text(m) + report::match_text(m, {});
      });
  py::class_<PlateComparison>(module, "Comparison", plain_type(), "How alike a plate and CG are.")
      .def(
          "to_dict", [](const PlateComparison& c) { return to_python(report::comparison_json(c)); },
          "What `jolly-iris compare --json` says, but for the files that it writes.");
  module.def("measure", &measured, "shot"_a, py::kw_only(), "least"_a = 12.0, "threads"_a = 0,
             "progress"_a = py::none(), "The discs of the shot's plate.");
  module.def("match", &matched, "shot"_a, py::kw_only(), "least"_a = 12.0, "threads"_a = 0,
             "progress"_a = py::none(), "The shot's notes against its plate.");
  module.def("compare", &compared, "shot"_a, "pictures"_a, py::kw_only(),
             "among_themselves"_a = false, "threads"_a = 0, "progress"_a = py::none(),
             "The shot's plate against pictures, by their files.");
}

}  // namespace jolly_iris::python
