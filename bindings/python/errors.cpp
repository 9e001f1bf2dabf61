// Exceptions: the library's tree, under what Python programs catch anyway.
#include "jolly_iris/optics/errors.hpp"

#include "jolly_iris/files/shot_file.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "parts.hpp"

namespace jolly_iris::python {

namespace py = pybind11;

namespace {

// Made once with the module, and alive as long as Python is.
struct ErrorTypes {
  py::object optics;
  py::object usage;
  py::object shot_file;
  py::object picture;
  py::object memory;
  py::object file;
  py::object transient;
  py::object other;
};
ErrorTypes* types = nullptr;

void raise(const py::object& type, const std::exception& error, const std::string& key,
           const std::string& place) {
  py::object raised = type(error.what());
  raised.attr("key") = key;
  raised.attr("place") = place;
  PyErr_SetObject(type.ptr(), raised.ptr());
}

void translate(std::exception_ptr error) {
  if (!error) return;
  try {
    std::rethrow_exception(error);
  } catch (const ShotFileError& e) {
    const bool any = !e.mistakes().empty();
    raise(types->shot_file, e, any ? e.mistakes().front().key : "",
          any ? e.mistakes().front().place : "");
  } catch (const OpticsError& e) {
    raise(types->optics, e, e.key(), "");
  } catch (const UsageError& e) {
    raise(types->usage, e, "", "");
  } catch (const PictureError& e) {
    raise(types->picture, e, "", "");
  } catch (const MemoryError& e) {
    raise(types->memory, e, "", "");
  } catch (const TransientError& e) {
    raise(types->transient, e, "", "");
  } catch (const FileError& e) {
    raise(types->file, e, "", "");
  } catch (const Cancelled&) {
    // Only Ctrl-C stops work here.
    PyErr_SetNone(PyExc_KeyboardInterrupt);
  } catch (const Error& e) {
    raise(types->other, e, "", "");
  }
}

}  // namespace

void add_errors(py::module_& module) {
  const py::module_ builtins = py::module_::import("builtins");
  const auto made = [&](const char* name, const py::tuple& bases, const char* doc) {
    py::dict space;
    space["__doc__"] = doc;
    space["__module__"] = "jolly_iris";
    space["key"] = "";
    space["place"] = "";
    py::object type = builtins.attr("type")(name, bases, space);
    module.attr(name) = type;
    return type;
  };
  const py::object value = builtins.attr("ValueError");
  const py::object os = builtins.attr("OSError");
  const py::object base =
      made("Error", py::make_tuple(builtins.attr("Exception")),
           "Anything Jolly Iris refuses to do; catch this to catch all of it.\n\n"
           "key: the shot file's key at fault, where one can be named, else \"\"\n"
           "place: file, line and column, where there is one, else \"\"");
  types = new ErrorTypes;  // NOLINT(cppcoreguidelines-owning-memory): Python may end after us
  types->other = base;
  types->optics = made("OpticsError", py::make_tuple(base, value), "No camera has these values.");
  types->usage = made("UsageError", py::make_tuple(base, value),
                      "What was asked for makes no sense: an unknown key, a missing unit.");
  types->shot_file = made("ShotFileError", py::make_tuple(types->usage),
                          "What a shot file has wrong, a line a mistake.");
  types->picture =
      made("PictureError", py::make_tuple(base, value), "A picture's contents cannot be used.");
  types->memory = made("WorkTooLargeError", py::make_tuple(base, builtins.attr("MemoryError")),
                       "Work that would take more memory than it may.");
  types->file = made("FileError", py::make_tuple(base, os),
                     "A file is missing, cut off, of the wrong kind, or cannot be written.");
  types->transient = made("TransientError", py::make_tuple(types->file),
                          "The same call may work later: a full disk, a stale handle.");
  py::register_exception_translator(&translate);
}

}  // namespace jolly_iris::python
