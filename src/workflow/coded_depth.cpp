#include "workflow/coded_depth.hpp"

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture/depth_map.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/picture_origin.hpp"

namespace jolly_iris {

void decode_depth(Frame& frame, const std::string& picture, const std::string& depth_file,
                  const LoadedShot& loaded, std::vector<std::string>& notes,
                  std::vector<std::string>& files) {
  const bool apart = !depth_file.empty();
  if (!apart && !(frame.has_depth() && loaded.now.depth)) return;
  const std::string& file = apart ? depth_file : picture;
  DepthCode code = loaded.now.depth ? loaded.now.depth->code : DepthCode{};
  if (loaded.now.depth && read_origin(file).axial_depth) code = {};
  const PixelSize size = frame.colour.size();
  Frame own;
  if (apart) {
    files.push_back(file);
    own = read_values(file);
    notes.insert(notes.end(), own.notes.begin(), own.notes.end());
  }
  try {
    frame.depth = axial_depth(apart ? own : frame, code, loaded.answer.camera, size);
  } catch (const PictureError& e) {
    throw PictureError(file + ": " + e.what());
  }
}

}  // namespace jolly_iris
