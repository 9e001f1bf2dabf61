// The command line in-process; or that of another build, where JOLLY_IRIS_INSTEAD names its
// program: to see that a test fails with what was before.
#pragma once

#include <sys/wait.h>
#include <unistd.h>

#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <sstream>
#include <stdexcept>
#include <string>
#include <vector>

#include "cli/terminal/run.hpp"
#include "support.hpp"

namespace jolly_iris::testing {

struct Ran {
  int code = 0;
  std::string out{};
  std::string err{};
};

/// The other build's program, or `ours`.
inline std::string tool_or(const std::string& ours) {
  const char* instead = std::getenv("JOLLY_IRIS_INSTEAD");
  return instead != nullptr ? instead : ours;
}

inline Ran run_instead(const std::vector<std::string>& args) {
  const std::string said = (std::filesystem::temp_directory_path() /
                            ("jolly_iris_instead_" + std::to_string(::getpid())))
                               .string();
  std::string line = "timeout 60 " + tool_or("");
  for (const std::string& arg : args) {
    line += " '";
    for (const char c : arg) line += c == '\'' ? std::string("'\\''") : std::string(1, c);
    line += "'";
  }
  const int status = std::system((line + " > " + said + " 2> " + said + ".err").c_str());
  return {WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status), slurp(said),
          slurp(said + ".err")};
}

inline Ran run(const std::vector<std::string>& args) {
  if (!tool_or("").empty()) return run_instead(args);
  std::ostringstream out;
  std::ostringstream err;
  const int code = cli::run(args, out, err);
  return {code, out.str(), err.str()};
}

/// What a page has for its own script.
inline nlohmann::json data_of(const std::string& html) {
  const std::string head = "<script type=\"application/json\" id=\"data\">";
  const auto from = html.find(head) + head.size();
  return nlohmann::json::parse(html.substr(from, html.find("</script>", from) - from));
}

inline std::string said(double v, const char* format) {
  char text[64];
  std::snprintf(text, sizeof text, format, v);
  return text;
}

/// One of the parameters that a match found.
inline const nlohmann::json& parameter(const nlohmann::json& match, const std::string& name) {
  for (const nlohmann::json& u : match["unknowns"]) {
    if (u["name"] == name) return u;
  }
  throw std::runtime_error("there is no unknown " + name);
}

}  // namespace jolly_iris::testing
