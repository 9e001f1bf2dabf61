// Pictures in and out: defocus, finish, the reference tracer, files.
#include "convert.hpp"
#include "jolly_iris/picture/defocus.hpp"
#include "jolly_iris/picture/finish.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/displayed.hpp"
#include "jolly_iris/workflow/shot_glass.hpp"
#include "jolly_iris/workflow/trace_run.hpp"
#include "long_work.hpp"
#include "parts.hpp"
#include "shot.hpp"

namespace jolly_iris::python {

namespace {

FrameEdge edge_from(const std::string& name) {
  if (name == "repeat") return FrameEdge::repeat;
  if (name == "mirror") return FrameEdge::mirror;
  if (name == "black") return FrameEdge::black;
  throw py::value_error("edge is 'repeat', 'mirror' or 'black', not '" + name + "'");
}

// A shot, whose lens may be a glass, or a camera by itself.
std::pair<VirtualCamera, std::shared_ptr<const GlassCamera>> camera_from(const py::object& of) {
  if (py::isinstance<VirtualCamera>(of)) return {of.cast<VirtualCamera>(), nullptr};
  if (py::isinstance<PythonShot>(of)) {
    const auto& shot = of.cast<const PythonShot&>();
    return {shot.loaded.answer.camera, glass_for_discs(shot.loaded)};
  }
  throw py::type_error("a Shot or a VirtualCamera says which lens it is");
}

py::array defocused(const py::array& colour, const py::object& depth, const py::object& of,
                    const std::string& edge, const py::object& distance, bool vignetting,
                    int threads, const py::object& progress) {
  Frame frame;
  frame.colour = picture_from(colour);
  if (!depth.is_none()) frame.depth = depth_from(depth.cast<py::array>(), frame.colour.size());
  DefocusSettings settings;
  settings.edge = edge_from(edge);
  settings.vignetting = vignetting;
  if (!distance.is_none()) settings.distance = distance_from(distance, "distance");
  auto [camera, glass] = camera_from(of);
  settings.glass = glass;
  Picture out = run_long(threads, progress, [&, camera = camera](const Execution& execution) {
    settings.execution = execution;
    return defocus(frame, camera, settings);
  });
  return array_of(std::move(out), colour.shape(2));
}

py::array blurs(const py::array& colour, const py::array& depth, const py::object& of) {
  Frame frame;
  frame.colour = picture_from(colour);
  frame.depth = depth_from(depth, frame.colour.size());
  const auto [camera, glass] = camera_from(of);
  return array_of(blur_map(frame, camera), frame.colour.size());
}

py::array finished_picture(const py::array& colour, const PythonShot& shot, double frame,
                           int threads, const py::object& progress) {
  Picture picture = picture_from(colour);
  Picture out = run_long(threads, progress, [&](const Execution& execution) {
    FinishSettings settings;
    settings.frame = frame;
    settings.execution = execution;
    return finished(std::move(picture), shot.loaded.answer.camera, shot.loaded.now.finish, settings)
        .picture;
  });
  return array_of(std::move(out), colour.shape(2));
}

py::tuple traced(const PythonShot& shot, int samples, bool pinhole, bool half, std::uint32_t seed,
                 int threads, const py::object& progress) {
  Frame out = run_long(threads, progress, [&](const Execution& execution) {
    TraceRequest request;
    request.settings.samples = samples;
    request.settings.pinhole = pinhole;
    request.settings.seed = seed;
    request.half = half;
    return trace_frame(request, shot.loaded, execution).made.frame;
  });
  const PixelSize size = out.colour.size();
  const py::object depth =
      out.depth.empty() ? py::object(py::none()) : py::object(array_of(std::move(out.depth), size));
  return py::make_tuple(array_of(std::move(out.colour)), depth);
}

py::tuple read(const std::filesystem::path& file) {
  Frame frame;
  {
    const py::gil_scoped_release unlocked;
    frame = read_picture(file.string());
  }
  const PixelSize size = frame.colour.size();
  const py::object depth = frame.depth.empty() ? py::object(py::none())
                                               : py::object(array_of(std::move(frame.depth), size));
  return py::make_tuple(array_of(std::move(frame.colour)), depth);
}

py::array plate_of(const PythonShot& shot) {
  if (!shot.loaded.now.plate) {
    throw UsageError(shot.request.file + ": has no plate; give it one: [plate] file = \"FILE\"");
  }
  Frame frame;
  {
    const py::gil_scoped_release unlocked;
    frame = read_plate(*shot.loaded.now.plate);
  }
  return array_of(std::move(frame.colour));
}

py::array as_shown(const py::array& colour, const PythonShot& shot) {
  Picture picture = picture_from(colour);
  {
    const py::gil_scoped_release unlocked;
    picture = displayed(std::move(picture), shot.loaded);
  }
  return array_of(std::move(picture), colour.shape(2));
}

void write(const std::filesystem::path& file, const py::array& colour, const py::object& depth) {
  Frame frame;
  frame.colour = picture_from(colour);
  if (!depth.is_none()) frame.depth = depth_from(depth.cast<py::array>(), frame.colour.size());
  const py::gil_scoped_release unlocked;
  write_picture(file.string(), frame);
}

}  // namespace

void add_pictures(py::module_& module) {
  using namespace py::literals;
  module.def(
      "defocus", &defocused, "colour"_a, "depth"_a, "camera"_a, py::kw_only(), "edge"_a = "repeat",
      "distance"_a = py::none(), "vignetting"_a = true, "threads"_a = 0, "progress"_a = py::none(),
      "A sharp picture as the lens would have seen it.\n\ncolour: H x W x 3 or 4, float32, "
      "linear light; depth: H x W, float32, axial metres, or None with `distance`; camera: a "
      "Shot (a glass is traced) or a VirtualCamera. Returns as many channels as it got.");
  module.def("blur_map", &blurs, "colour"_a, "depth"_a, "camera"_a,
             "Signed diameter of each pixel's disc, px of the picture's height: H x W.");
  module.def("finish", &finished_picture, "colour"_a, "shot"_a, py::kw_only(), "frame"_a = 0.0,
             "threads"_a = 0, "progress"_a = py::none(),
             "What light does after the opening, as the shot's [finish] says.");
  module.def("trace", &traced, "shot"_a, py::kw_only(), "samples"_a = 64, "pinhole"_a = false,
             "half"_a = false, "seed"_a = 1, "threads"_a = 0, "progress"_a = py::none(),
             "The shot's scene through its lens, ray by ray: (colour, depth or None).");
  module.def("read_picture", &read, "file"_a, "(colour H x W x 4, depth H x W or None), linear.");
  module.def("read_plate", &plate_of, "shot"_a,
             "The shot's plate as linear light, H x W x 4, decoded as the shot says: by its "
             "transfer, or by its OpenColorIO config into the working space.");
  module.def("displayed", &as_shown, "colour"_a, "shot"_a,
             "Light as the display and view of the shot show it; the same where it names none. "
             "Write it as PNG, JPEG or TIFF: the file has the display's numbers.");
  module.def("write_picture", &write, "file"_a, "colour"_a, "depth"_a = py::none(),
             "Whole or not at all.");
}

}  // namespace jolly_iris::python
