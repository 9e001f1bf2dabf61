// The command line of any arguments, a line each: exit codes are those that are documented, and
// what is said has no number that is none. Verbs that compute pictures for long are left out.
#include <algorithm>
#include <array>
#include <cstdlib>
#include <filesystem>
#include <sstream>
#include <vector>

#include "cli/terminal/run.hpp"
#include "fuzz_file.hpp"

namespace {

// Thousands of frames are honest work, only longer than a run here may take.
bool asks_for_many_frames(const std::vector<std::string>& args) {
  const auto asked = std::find(args.begin(), args.end(), "--frames");
  if (asked == args.end() || asked + 1 == args.end()) return false;
  const auto step = std::find(args.begin(), args.end(), "--step");
  if (step != args.end() && step + 1 != args.end() && std::atof((step + 1)->c_str()) < 1.0) {
    return true;
  }
  double first = 0.0;
  double last = 0.0;
  std::istringstream range(*(asked + 1));
  if (!(range >> first >> last)) return false;  // "1001-1100" reads as 1001 and -1100
  return -last - first > 500.0;
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  static const std::string demo = [] {
    const auto to = fuzz::folder() / "demo";
    std::filesystem::remove_all(to);
    std::filesystem::create_directories(to);
    for (const auto& entry : std::filesystem::directory_iterator(JOLLY_IRIS_DEMO)) {
      if (entry.path().extension() == ".toml" || entry.path().extension() == ".csv" ||
          entry.path().extension() == ".svg") {
        std::filesystem::copy_file(entry.path(), to / entry.path().filename());
      }
    }
    std::filesystem::current_path(to);
    return to.string();
  }();
  constexpr std::array verbs{"report", "solve",   "handoff", "plan",
                             "start",  "squeeze", "measure", "expose"};
  std::vector<std::string> args;
  std::istringstream in(std::string(reinterpret_cast<const char*>(data), size));
  for (std::string line; std::getline(in, line);) {
    if (line == "--watch" || line.starts_with("--wat")) return 0;  // never ends
    args.push_back(line);
  }
  if (args.empty() || std::find(verbs.begin(), verbs.end(), args[0]) == verbs.end()) return 0;
  if (asks_for_many_frames(args)) return 0;
  // Outside of its own folder nothing is written.
  for (std::string& a : args) {
    if (a.find('/') != std::string::npos && !a.starts_with("take.") &&
        a.find('=') == std::string::npos)
      return 0;
  }
  std::ostringstream out;
  std::ostringstream err;
  const int code = jolly_iris::cli::run(args, out, err);
  if (code < 0 || code > 3) fuzz::fail("exit code " + std::to_string(code));
  if (code != 0 && err.str().empty()) fuzz::fail("refused without a word");
  if (code == 0) fuzz::require_numbers(out.str());
  return 0;
}
