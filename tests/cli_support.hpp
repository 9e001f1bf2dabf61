// The command line in-process.
#pragma once

#include <cstdio>
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

inline Ran run(const std::vector<std::string>& args) {
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
