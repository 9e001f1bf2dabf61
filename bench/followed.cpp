// Shots made up at random, with mistakes in their notes: every line of advice followed to its end
// through the command line, as somebody does who believes it. What the last comparison tells is
// then held against what is true.
//
//   followed [SHOTS] [FIRST SEED] [RAYS A PIXEL] [FOLDER]
//
// A line a shot; at the end how many are jointly within their margins (chi squared at 99 %).
#include <fmt/format.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cmath>
#include <cstdlib>
#include <fstream>
#include <iterator>
#include <map>
#include <nlohmann/json.hpp>
#include <set>
#include <sstream>

#include "../tests/plates/made_shot.hpp"

namespace {

using namespace jolly_iris;
using Json = nlohmann::json;

// The notes that a kind of mistake touches: of each there is one mistake in a shot.
std::set<std::string> touched_by(const std::string& kind) {
  const auto holds = [&](const char* word) { return kind.find(word) != std::string::npos; };
  if (holds("adapter")) return {"adapter", "focal", "stop"};
  if (holds("window")) return {"window"};
  if (holds("squeeze")) return {"squeeze", "gate"};
  if (holds("focal")) return {"focal"};
  if (holds("radius") || holds("stop")) return {"stop"};
  if (holds("scene")) return {"scene"};
  if (holds("stretch")) return {"squeeze"};
  if (holds("mark as distance")) return {"focus", "focal"};
  return {"focus"};
}

struct Noted {
  plates::MadeShot made{};
  std::string file{};
  std::string mistakes{};
};

Noted shot_with_mistakes(std::uint32_t seed, const std::string& folder) {
  Noted out;
  out.made = plates::made_shot(seed);
  std::mt19937 random(seed * 747796405U + 1U);
  std::vector<plates::PlantedEdit> kinds = plates::planted_edits();
  kinds.push_back({"blades turned", "", [](plates::MadeShot&, std::mt19937&) {},
                   [](const plates::MadeShot& m, plates::ShotText& t) {
                     if (m.opening.blades > 0) {
                       t.set("lens.iris", "rotation",
                             plates::quoted(fmt::format(
                                 "{:.4g} deg", m.opening.rotation_deg + 90.0 / m.opening.blades)));
                     }
                   }});
  const auto wanted = static_cast<unsigned>(1U + random() % 3U);
  std::set<std::string> touched;
  std::vector<plates::PlantedEdit> chosen;
  for (int tries = 0; tries < 100 && chosen.size() < wanted; ++tries) {
    const plates::PlantedEdit& kind = kinds[random() % kinds.size()];
    const std::set<std::string> notes =
        kind.name == "blades turned" ? std::set<std::string>{"blades"} : touched_by(kind.name);
    bool free = true;
    for (const std::string& n : notes) free = free && !touched.contains(n);
    if (!free) continue;
    touched.insert(notes.begin(), notes.end());
    chosen.push_back(kind);
  }
  for (const plates::PlantedEdit& kind : chosen) kind.truth(out.made, random);
  plates::scatter_lamps(out.made, random, 16);
  plates::ShotText text = plates::true_text(out.made);
  for (const plates::PlantedEdit& kind : chosen) {
    kind.edit(out.made, text);
    out.mistakes += (out.mistakes.empty() ? "" : " + ") + kind.name;
  }
  out.file = plates::write_shot(out.made, text, folder);
  if (out.made.exif) plates::add_exif(folder + "/plate.jpg", out.made.focal_mm, out.made.stop);
  return out;
}

class Tool {
 public:
  explicit Tool(std::string folder) : folder_(std::move(folder)) {}

  // @return what it printed, or nothing where it refused (its words are in `said`)
  std::string run(const std::vector<std::string>& args) {
    std::string line = JOLLY_IRIS_TOOL;
    for (const std::string& a : args) line += " '" + a + "'";
    line += " > '" + folder_ + "/out' 2> '" + folder_ + "/err'";
    const int status = std::system(line.c_str());
    said = slurp("err");
    return WIFEXITED(status) && WEXITSTATUS(status) == 0 ? slurp("out") : std::string();
  }
  Json json(std::vector<std::string> args) {
    args.emplace_back("--json");
    const std::string out = run(args);
    return out.empty() ? Json() : Json::parse(out);
  }

  std::string said{};

 private:
  std::string slurp(const char* name) const {
    std::ifstream in(folder_ + "/" + name);
    return {std::istreambuf_iterator<char>(in), {}};
  }
  std::string folder_;
};

struct Told {
  double chi2 = 0.0;
  int values = 0;
  std::string text{};

  void add(const char* name, const Json& measured, double truth) {
    const double margin = measured["margin"].get<double>();
    if (!(margin > 0.0)) return;
    const double off = measured["value"].get<double>() - truth;
    chi2 += std::pow(1.96 * off / margin, 2);
    ++values;
    text += fmt::format("{} {:+.4f} (true {:+.4f}) ± {:.4f}; ", name,
                        measured["value"].get<double>(), truth, margin);
  }
  // The 99 % points of chi squared (NIST/SEMATECH e-Handbook, 1.3.6.7.4).
  bool within() const {
    constexpr std::array points{0.0, 6.635, 9.210, 11.345};
    return values > 0 && chi2 <= points.at(static_cast<std::size_t>(values));
  }
};

// What a comparison tells of the camera, against what is true: CG's discs by the thin lens that the
// report tells, the plate's by the formulas of the made shot.
Told held_against_truth(const plates::MadeShot& m, const Json& like, const Json& report) {
  std::map<std::string, double> cg_px;
  for (const Json& s : report["subjects"]) {
    if (s.contains("coc_px") && s["coc_px"].is_number()) {
      cg_px[s["name"]] = std::abs(s["coc_px"].get<double>());
    }
  }
  const int left = (static_cast<int>(std::lround(m.pixels.width * m.stretch)) - m.pixels.width) / 2;
  double weights = 0.0;
  double larger = 0.0;
  for (const Json& p : like["discs"]["pairs"]) {
    for (std::size_t i = 0; i < m.lamps.size(); ++i) {
      const double x = m.lamps[i].x * m.stretch - left;
      if (std::hypot(p["at_px"][0].get<double>() - x, p["at_px"][1].get<double>() - m.lamps[i].y) >
          4.0) {
        continue;
      }
      const auto cg = cg_px.find(fmt::format("lamp {}", static_cast<char>('a' + i % 26)));
      if (cg == cg_px.end()) continue;
      // What differs from pair to pair (CG's focus is not quite the plate's) counts alike.
      weights += 1.0;
      larger += std::log(cg->second / std::abs(m.disc_px(m.lamps[i].z_m)));
    }
  }
  Told out;
  if (weights == 0.0) return out;
  out.add("larger", like["discs"]["larger"], std::expm1(larger / weights));
  const Json& camera = report["camera"];
  const double oval = camera["squeeze"].get<double>() * camera["pixel_aspect"].get<double>() /
                      (m.squeeze / m.stretch);
  out.add("higher", like["discs"]["higher"], std::log(oval));
  if (like["discs"].contains("turned_deg") && m.opening.blades > 0) {
    const double step = 360.0 / m.opening.blades;
    const double turned = camera["iris"]["rotation_deg"].get<double>() - m.opening.rotation_deg;
    out.add("turned", like["discs"]["turned_deg"], turned - step * std::round(turned / step));
  }
  return out;
}

}  // namespace

int main(int argc, char** argv) {
  const int shots = argc > 1 ? std::atoi(argv[1]) : 20;
  const auto first = static_cast<std::uint32_t>(argc > 2 ? std::atoi(argv[2]) : 1);
  const std::string rays = argc > 3 ? argv[3] : "128";
  const std::string base =
      argc > 4 ? argv[4] : fmt::format("/tmp/jolly_iris_followed_{}", ::getpid());
  int good = 0;
  int settled = 0;
  int made = 0;
  for (std::uint32_t seed = first; made < shots; ++seed) {
    const std::string folder = fmt::format("{}/{}", base, seed);
    std::filesystem::create_directories(folder);
    const Noted shot = shot_with_mistakes(seed, folder);
    if (shot.made.lamps.size() < 8) continue;
    ++made;
    Tool tool(folder);
    fmt::print("seed {}: {}\n", seed, shot.mistakes);
    const Json match = tool.json({"match", shot.file, "--accept"});
    if (match.is_null()) {
      fmt::print("  match --accept: {}", tool.said);
    } else {
      fmt::print("  match: {}\n", match["notes_agree"].get<bool>() ? "notes agree"
                                  : match["explanations"].empty()
                                      ? "nothing"
                                      : match["explanations"][0]["mistakes"].dump());
    }
    std::map<std::string, std::string> moved;
    Json like;
    std::vector<std::string> sets;
    bool still = true;
    for (int round = 0; round < 4 && still; ++round) {
      sets.clear();
      for (const auto& [key, value] : moved) {
        sets.insert(sets.end(), {"--set", key + "=" + value});
      }
      std::vector<std::string> trace{"trace", shot.file, "--samples",
                                     rays,    "-o",      folder + "/cg.exr"};
      trace.insert(trace.end(), sets.begin(), sets.end());
      (void)tool.run(trace);
      std::vector<std::string> compare{"compare", shot.file, folder + "/cg.exr"};
      compare.insert(compare.end(), sets.begin(), sets.end());
      like = tool.json(compare);
      if (like.is_null()) break;
      still = false;
      for (const Json& m : like["moves"]) {
        const std::string key = m["key"];
        if (key.empty() || m["to"].get<std::string>().empty()) continue;
        fmt::print("  compare: {} = {} (now {})\n", key, m["to"].get<std::string>(),
                   m["now"].get<std::string>());
        moved[key] = m["to"];
        still = true;
      }
    }
    if (like.is_null()) {
      fmt::print("  {}", tool.said);
      continue;
    }
    std::vector<std::string> report{"report", shot.file};
    report.insert(report.end(), sets.begin(), sets.end());
    const Told told = held_against_truth(shot.made, like, tool.json(report));
    good += told.within() ? 1 : 0;
    settled += still ? 0 : 1;
    fmt::print("  {}: chi squared {:.2f} of {}; {}{}{}\n", told.within() ? "within" : "OUTSIDE",
               told.chi2, told.values, told.text, still ? "still moving" : "settled",
               like["same_view"].get<bool>() ? "" : "; not the same view");
    std::fflush(stdout);
  }
  fmt::print("\n{} of {} jointly within their margins at 99 %, {} settled\n", good, made, settled);
  return 0;
}
