// Shots: loaded, changed, saved by lines, answered.
#include "shot.hpp"

#include <fmt/format.h>

#include "convert.hpp"
#include "disk/disk.hpp"
#include "files/answer_json.hpp"
#include "jolly_iris/files/shot_edit.hpp"
#include "parts.hpp"

namespace jolly_iris::python {

namespace {

std::vector<Override> overrides_from(const py::dict& values) {
  std::vector<Override> out;
  for (const auto& [key, value] : values) {
    std::string text;
    if (py::isinstance<Length>(value)) {
      text = fmt::format("{} mm", value.cast<Length>().mm());
    } else {
      text = py::str(value).cast<std::string>();
    }
    out.push_back({key.cast<std::string>(), std::move(text), "set"});
  }
  return out;
}

PythonShot opened(ShotRequest request) {
  PythonShot shot;
  shot.request = std::move(request);
  shot.loaded = open_shot(shot.request, shot.files);
  return shot;
}

PythonShot load(const std::filesystem::path& file, const py::dict& set, const std::string& variant,
                std::optional<double> frame, bool as_noted) {
  ShotRequest request;
  request.file = file.string();
  if (!variant.empty()) request.overrides.push_back({"variant", variant, "variant"});
  for (Override& o : overrides_from(set)) request.overrides.push_back(std::move(o));
  request.frame = frame;
  request.as_noted = as_noted;
  const py::gil_scoped_release unlocked;
  return opened(std::move(request));
}

// The file with other values in their lines; comments and the rest stay.
void save(const PythonShot& shot, const py::dict& values, const py::object& to) {
  const std::string name = to.is_none() ? shot.request.file : py::str(to).cast<std::string>();
  const std::string text = read_whole_file(shot.request.file);
  std::vector<ShotEdit> edits;
  for (const auto& [key, value] : values) {
    ShotEdit edit{key.cast<std::string>(), {}};
    if (!value.is_none()) {
      const std::string typed = py::isinstance<Length>(value)
                                    ? fmt::format("{} mm", value.cast<Length>().mm())
                                    : py::str(value).cast<std::string>();
      edit.value = toml_spelling(typed, written_value(text, shot.request.file, edit.key));
    }
    edits.push_back(std::move(edit));
  }
  // What it would be is read before anything is written: a file with mistakes is never left.
  ShotRequest check = shot.request;
  for (const auto& o : overrides_from(values)) {
    if (o.text != "None") check.overrides.push_back(o);
  }
  (void)opened(check);
  write_whole_file(name, edited_shot(text, shot.request.file, edits));
}

}  // namespace

void add_shot(py::module_& module) {
  using namespace py::literals;
  py::class_<SubjectBlur>(module, "Subject", plain_type(),
                          "One that has a name and a place: how sharp it is.")
      .def_readonly("name", &SubjectBlur::name)
      .def_readonly("axial", &SubjectBlur::axial)
      .def_readonly("radial", &SubjectBlur::radial)
      .def_readonly("tape", &SubjectBlur::tape)
      .def_readonly("front", &SubjectBlur::front)
      .def_readonly("back", &SubjectBlur::back)
      .def_readonly("coc_px", &SubjectBlur::coc_px,
                    "of its middle: + behind the focus, - before it")
      .def_readonly("coc", &SubjectBlur::coc)
      .def_readonly("sharp", &SubjectBlur::sharp)
      .def_readonly("partly_sharp", &SubjectBlur::partly_sharp)
      .def_readonly("in_picture", &SubjectBlur::in_picture)
      .def("__repr__", [](const SubjectBlur& s) {
        return fmt::format("<Subject {}, {:.4g} m, {:+.1f} px>", s.name, s.axial.m(), s.coc_px);
      });
  py::class_<PythonShot>(module, "Shot", plain_type(),
                         "Body, lens, take, scene, plate and focus, answered.")
      .def_property_readonly("file", [](const PythonShot& s) { return s.request.file; })
      .def_property_readonly(
          "files", [](const PythonShot& s) { return s.files; }, "all files that were read for it")
      .def_property_readonly("camera", [](const PythonShot& s) { return s.loaded.answer.camera; })
      .def_property_readonly("body", [](const PythonShot& s) { return s.loaded.now.body; })
      .def_property_readonly("lens", [](const PythonShot& s) { return s.loaded.now.lens; })
      .def_property_readonly("take", [](const PythonShot& s) { return s.loaded.now.take; })
      .def_property_readonly(
          "subjects", [](const PythonShot& s) { return s.loaded.answer.subjects; },
          "who is sharp, the nearest first")
      .def(
          "to_dict", [](const PythonShot& s) { return to_python(to_json(s.loaded.answer)); },
          "What `jolly-iris report --json` says, number for number.")
      .def(
          "with_values",
          [](const PythonShot& s, const py::dict& set) {
            ShotRequest request = s.request;
            for (Override& o : overrides_from(set)) request.overrides.push_back(std::move(o));
            const py::gil_scoped_release unlocked;
            return opened(std::move(request));
          },
          "set"_a, "The same with values tried: {\"take.stop\": \"f/2.8\"}; no file is touched.")
      .def(
          "at_frame",
          [](const PythonShot& s, double frame) {
            ShotRequest request = s.request;
            request.frame = frame;
            const py::gil_scoped_release unlocked;
            return opened(std::move(request));
          },
          "frame"_a)
      .def("save", &save, "values"_a, "to"_a = py::none(),
           "Writes values into the lines of its file (or a copy); None takes a key out. Comments "
           "and "
           "order stay; a file with mistakes is never written.")
      .def("__repr__", [](const PythonShot& s) { return "<Shot " + s.request.file + ">"; });
  module.def("load_shot", &load, "file"_a, "set"_a = py::dict(), "variant"_a = "",
             "frame"_a = py::none(), "as_noted"_a = false,
             "Reads a shot file and answers it. set: values laid over it for now.");
}

}  // namespace jolly_iris::python
