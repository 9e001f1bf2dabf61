#include "drawing/page_parts.hpp"

#include "drawing/page_files.hpp"

namespace jolly_iris::drawing {

namespace {

std::string escaped(const std::string& text) {
  std::string out;
  for (const char c : text) {
    if (c == '&')
      out += "&amp;";
    else if (c == '<')
      out += "&lt;";
    else
      out += c;
  }
  return out;
}

void put(std::string& text, const std::string& where, std::string_view what) {
  const auto at = text.find(where);
  text.replace(at, where.size(), what);
}

}  // namespace

std::string assembled(const std::string& name, const std::string& title, const Json& data) {
  const std::string dumped = data.dump(-1);
  // Within a script element, "</" would end it, and "<!--" begins what hides its end.
  std::string safe;
  safe.reserve(dumped.size());
  for (const char c : dumped) {
    if (c == '<') {
      safe += "\\u003c";
    } else {
      safe += c;
    }
  }
  const PageFiles& files = page_files();
  std::string html(files.at(name + ".html"));
  put(html, "@SCRIPT@", files.at(name + ".js"));
  put(html, "@DATA@", safe);
  put(html, "@STYLE@", files.at(name + ".css"));
  put(html, "@TITLE@", escaped(title));
  return html;
}

}  // namespace jolly_iris::drawing
