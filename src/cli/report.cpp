#include <filesystem>
#include <ostream>

#include "jolly_iris/gltf.hpp"
#include "jolly_iris/handoff.hpp"
#include "output.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

Loaded load(const ShotOptions& options, std::vector<std::string>& files) {
  Loaded loaded;
  files.push_back(options.shot);
  loaded.shot = read_shot(options.shot, options.tried);
  files = loaded.shot.files;
  if (loaded.shot.scene) {
    try {
      loaded.scene = read_gltf(loaded.shot.scene->file);
    } catch (const FileError& e) {
      throw FileError(loaded.shot.where("scene.file") + e.what());
    }
    files.insert(files.end(), loaded.scene->files.begin(), loaded.scene->files.end());
  }
  loaded.answer = answer(loaded.shot, loaded.scene ? &*loaded.scene : nullptr);
  return loaded;
}

void report(const ReportOptions& options, const Streams& io, std::vector<std::string>& files) {
  const Loaded loaded = load(options.shot, files);
  const std::optional<PlateEntry>& plate = loaded.shot.plate;
  if (plate && !std::filesystem::exists(plate->file)) {
    io.err << "warning: " << loaded.shot.where("plate.file") << plate->file << " is not there\n";
  }
  say(options.shot.form, io, answer_json(loaded.answer), report_text(loaded));
}

}  // namespace jolly_iris::cli
