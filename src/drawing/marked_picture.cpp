#include "jolly_iris/marked_picture.hpp"

#include "cairo_module.hpp"
#include "jolly_iris/errors.hpp"

namespace jolly_iris {

namespace {
void check(const MarkedPicture& marked) {
  if (marked.picture.empty()) throw UsageError("there is no picture to mark");
}
}  // namespace

std::string marked_png(const MarkedPicture& marked) {
  check(marked);
  return drawing::cairo_module().marked_png(marked);
}

std::string marked_svg(const MarkedPicture& marked) {
  check(marked);
  return drawing::cairo_module().marked_svg(marked);
}

}  // namespace jolly_iris
