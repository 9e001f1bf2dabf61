#include "jolly_iris/load.hpp"

#include "jolly_iris/gltf.hpp"

namespace jolly_iris {

LoadedShot load_shot(const std::filesystem::path& path, const std::vector<Tried>& tried,
                     std::vector<std::string>* files) {
  std::vector<std::string> unwanted;
  std::vector<std::string>& read = files == nullptr ? unwanted : *files;
  read.push_back(path.string());
  LoadedShot loaded;
  loaded.shot = read_shot(path, tried);
  // The first of these is the shot file itself, which is there already.
  read.insert(read.end(), loaded.shot.files.begin() + 1, loaded.shot.files.end());
  if (loaded.shot.scene) {
    read.push_back(loaded.shot.scene->file);
    try {
      loaded.scene = read_gltf(loaded.shot.scene->file);
    } catch (const FileError& e) {
      throw FileError(loaded.shot.where("scene.file") + e.what());
    }
    // Likewise the scene's own file; behind it come its buffers.
    read.insert(read.end(), loaded.scene->files.begin() + 1, loaded.scene->files.end());
  }
  loaded.answer = answer(loaded.shot, loaded.scene ? &*loaded.scene : nullptr);
  return loaded;
}

}  // namespace jolly_iris
