// What the documentation shows is what the tool says: every command in these pages is
// run, and every line shown below it comes back in that order.
#include <gtest/gtest.h>

#include <filesystem>
#include <fstream>
#include <ostream>
#include <sstream>

#include "cli_support.hpp"

namespace jolly_iris {
namespace docs_test {

using testing::Ran;
using testing::run;

// A line as a shell would take it apart: blanks, and double quotes around what has some.
std::vector<std::string> words_of(const std::string& line) {
  std::vector<std::string> words;
  std::string word;
  bool quoted = false;
  bool any = false;
  for (const char c : line) {
    if (c == '"') {
      quoted = !quoted;
      any = true;
    } else if (c == ' ' && !quoted) {
      if (any) words.push_back(word);
      word.clear();
      any = false;
    } else {
      word += c;
      any = true;
    }
  }
  if (any) words.push_back(word);
  return words;
}

struct Shown {
  std::string command;
  std::vector<std::string> lines;
};

std::vector<Shown> shown_in(const std::string& file) {
  std::ifstream in(file);
  std::vector<Shown> all;
  bool inside = false;
  for (std::string line; std::getline(in, line);) {
    if (line.starts_with("```")) {
      inside = false;
    } else if (line.starts_with("$ jolly-iris ")) {
      all.push_back({line.substr(13), {}});
      inside = true;
    } else if (inside) {
      all.back().lines.push_back(line);
    }
  }
  return all;
}

struct Told {
  const char* name;
  const char* file;
  std::size_t commands;
};
void PrintTo(const Told& page, std::ostream* out) { *out << page.name; }

class Docs : public ::testing::TestWithParam<Told> {};

TEST_P(Docs, ShowWhatTheToolSays) {
  const auto home = std::filesystem::current_path();
  // On a copy: what is accepted is written beside its shot.
  const std::filesystem::path project = std::filesystem::canonical(JOLLY_IRIS_DEMO "/../..");
  const auto copy = std::filesystem::path(::testing::TempDir()) /
                    (std::string("jolly_iris_docs_") + GetParam().name);
  std::filesystem::remove_all(copy);
  std::filesystem::create_directories(copy / "out");
  std::filesystem::copy(project / "demo", copy / "demo", std::filesystem::copy_options::recursive);
  for (const char* folder : {"docs", "dialects"}) {
    std::filesystem::create_directory_symlink(project / folder, copy / folder);
  }
  std::filesystem::current_path(copy);
  const auto all = shown_in(GetParam().file);
  EXPECT_GE(all.size(), GetParam().commands);
  for (const Shown& shown : all) {
    const Ran ran = run(words_of(shown.command));
    EXPECT_EQ(ran.code, 0) << shown.command << '\n' << ran.err;
    std::istringstream out(ran.out);
    std::string line;
    bool skip = false;
    for (const std::string& wanted : shown.lines) {
      if (wanted == "…") {
        skip = true;
        continue;
      }
      bool found = false;
      while (std::getline(out, line)) {
        found = line == wanted;
        if (found || !skip) break;
      }
      EXPECT_TRUE(found) << "$ jolly-iris " << shown.command << "\nshown: " << wanted
                         << "\nsaid:  " << line;
      if (!found) break;
      skip = false;
    }
  }
  std::filesystem::current_path(home);
}

INSTANTIATE_TEST_SUITE_P(Pages, Docs,
                         ::testing::Values(Told{"camera_and_focus", "docs/camera-and-focus.md", 15},
                                           Told{"seeing_the_set", "docs/seeing-the-set.md", 9},
                                           Told{"exposure", "docs/exposure.md", 14},
                                           Told{"bokeh", "docs/bokeh.md", 15},
                                           Told{"finishing", "docs/finishing.md", 6},
                                           Told{"glass", "docs/glass.md", 5},
                                           Told{"matching", "docs/matching.md", 10},
                                           Told{"many_shots", "docs/many-shots.md", 5},
                                           Told{"pipeline", "docs/pipeline.md", 3}),
                         [](const auto& each) { return std::string(each.param.name); });

}  // namespace docs_test
}  // namespace jolly_iris
