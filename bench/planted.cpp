// Whether match names the mistake that was planted by editing a true shot file, and whether it
// leaves true files alone; plates by a renderer of their own (tests/plates).
//
//   planted [SEEDS A KIND] [FIRST SEED] [TRUE FILES] [FOLDER]
//
// A line for each that is not told, then a table by kind.
#include <fmt/format.h>
#include <unistd.h>

#include <cstdlib>
#include <iostream>

#include "../tests/plates/made_shot.hpp"
#include "jolly_iris/jolly_iris.hpp"

namespace {

using namespace jolly_iris;

CameraMatch matched(const std::string& file) {
  std::vector<std::string> files;
  CameraMatchRequest request;
  request.shots = {{.file = file}};
  return match_camera(request, files);
}

std::string first_of(const CameraMatch& m) {
  if (m.ranking.notes_agree) return "notes agree";
  if (m.ranking.ranked.empty()) return "nothing";
  std::string all;
  for (const std::string& s : m.ranking.ranked.front().mistakes) {
    all += (all.empty() ? "" : " | ") + s;
  }
  return all;
}

void put_exif(const plates::MadeShot& m, const std::string& folder) {
  if (!m.exif) return;
  plates::add_exif(folder + "/plate.jpg", m.focal_mm, m.stop);
}

}  // namespace

int main(int argc, char** argv) {
  const int seeds = argc > 1 ? std::atoi(argv[1]) : 4;
  const auto first = static_cast<std::uint32_t>(argc > 2 ? std::atoi(argv[2]) : 1);
  const int true_files = argc > 3 ? std::atoi(argv[3]) : 20;
  const std::string folder =
      argc > 4 ? argv[4] : fmt::format("/tmp/jolly_iris_planted_{}", ::getpid());
  int told = 0;
  int all = 0;
  std::string table;
  for (const plates::PlantedEdit& kind : plates::planted_edits()) {
    int right = 0;
    int of = 0;
    for (int i = 0; i < seeds; ++i) {
      const std::uint32_t seed = first + static_cast<std::uint32_t>(i);
      plates::MadeShot m = plates::made_shot(seed);
      std::mt19937 random(seed);
      kind.truth(m, random);
      plates::scatter_lamps(m, random, 16);
      if (m.lamps.size() < 8) continue;
      plates::ShotText text = plates::true_text(m);
      kind.edit(m, text);
      const std::string file = plates::write_shot(m, text, folder);
      put_exif(m, folder);
      ++of;
      std::string said;
      try {
        said = first_of(matched(file));
      } catch (const Error& e) {
        said = e.what();
      }
      const bool good = said.find(kind.said) != std::string::npos;
      right += good ? 1 : 0;
      if (!good) fmt::print("{} seed {} ({} lamps): {}\n", kind.name, seed, m.lamps.size(), said);
      std::fflush(stdout);
    }
    table += fmt::format("{:<34} {:>3} of {}\n", kind.name, right, of);
    told += right;
    all += of;
  }
  int alarms = 0;
  int trues = 0;
  int refused = 0;
  for (int i = 0; i < true_files; ++i) {
    const std::uint32_t seed = first + 100000U + static_cast<std::uint32_t>(i);
    plates::MadeShot m = plates::made_shot(seed);
    std::mt19937 random(seed);
    const unsigned what = random() % 4U;
    if (what == 1) m.adapter = plates::pick(random, {0.64, 0.71, 0.84, 1.4, 2.0});
    if (what == 2) {
      m.squeeze = plates::pick(random, {1.33, 1.5, 2.0});
      m.gate_w_mm /= 1.4;
      m.gate_h_mm = m.gate_w_mm * m.squeeze * 0.564;
    }
    if (what == 3) m.window = plates::pick(random, {0.8, 0.75, 0.6});
    plates::scatter_lamps(m, random, 16);
    if (m.lamps.size() < 8) continue;
    ++trues;
    const std::string file = plates::write_shot(m, plates::true_text(m), folder);
    put_exif(m, folder);
    CameraMatch match;
    try {
      match = matched(file);
    } catch (const OpticsError& e) {
      // It says that it cannot tell: no answer, and no alarm.
      --trues;
      ++refused;
      fmt::print("refused, seed {}: {}\n", seed, e.what());
      continue;
    }
    if (match.ranking.notes_agree) continue;
    ++alarms;
    fmt::print("false alarm, seed {}: {}\n", seed, first_of(match));
    std::fflush(stdout);
  }
  fmt::print("\n{}all {} of {}: {:.1f} %; false alarms {} of {}, {} refused\n", table, told, all,
             100.0 * told / std::max(1, all), alarms, trues, refused);
  return 0;
}
