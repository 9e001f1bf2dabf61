#include <filesystem>
#include <ostream>

#include "jolly_iris/handoff.hpp"
#include "output.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

void report(const ReportOptions& options, const Streams& io, std::vector<std::string>& files) {
  const LoadedShot loaded = load(options.shot, files);
  const std::optional<PlateEntry>& plate = loaded.shot.plate;
  if (plate && !std::filesystem::exists(plate->file)) {
    io.err << "warning: " << loaded.shot.where("plate.file") << plate->file << " is not there\n";
  }
  say(options.shot.form, io, answer_json(loaded.answer), report_text(loaded));
}

}  // namespace jolly_iris::cli
