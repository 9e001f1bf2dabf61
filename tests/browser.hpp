// A browser without a window, driven over the W3C WebDriver protocol.
#pragma once

#include <httplib.h>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

// A system header that the line above brings in takes this name for itself, and Eigen uses it.
#undef _res

#include <array>
#include <cstdlib>
#include <nlohmann/json.hpp>
#include <stdexcept>
#include <string>

namespace jolly_iris::testing {

class Browser {
 public:
  using Json = nlohmann::json;

  /// @param profile an empty folder of its own
  Browser(int width, int height, bool touch, const std::string& profile) {
    start_driver();
    Json options{{"args",
                  {"--headless=new", "--no-sandbox", "--disable-gpu", "--disable-dev-shm-usage",
                   "--hide-scrollbars", "--user-data-dir=" + profile,
                   "--window-size=" + std::to_string(width) + "," + std::to_string(height)}}};
    // A window has a least width; a phone's screen is emulated.
    options["mobileEmulation"] = {
        {"deviceMetrics",
         {{"width", width}, {"height", height}, {"pixelRatio", 1.0}, {"touch", touch}}}};
    const Json asked{{"capabilities",
                      {{"alwaysMatch",
                        {{"browserName", "chrome"},
                         {"goog:chromeOptions", options},
                         {"goog:loggingPrefs", {{"performance", "ALL"}, {"browser", "ALL"}}}}}}}};
    session_ = "/session/" + post("/session", asked)["sessionId"].get<std::string>();
  }
  ~Browser() {
    if (!session_.empty()) client_->Delete(session_);
    if (driver_ > 0) {
      ::kill(driver_, SIGTERM);
      ::waitpid(driver_, nullptr, 0);
    }
  }
  Browser(const Browser&) = delete;
  Browser& operator=(const Browser&) = delete;

  void open(const std::string& url) { post(session_ + "/url", {{"url", url}}); }

  /// What a script returns.
  Json script(const std::string& text, const Json& arguments = Json::array()) {
    return post(session_ + "/execute/sync", {{"script", text}, {"args", arguments}});
  }
  std::string text(const std::string& selector) {
    return script("return document.querySelector(arguments[0]).textContent", {selector});
  }
  std::string value(const std::string& selector) {
    return script("return document.querySelector(arguments[0]).value", {selector});
  }

  /// A press of the mouse (or a finger) in the middle of an element, or at a share of it.
  void click(const std::string& selector, double x = 0.5, double y = 0.5) {
    const Json at = script(
        "const e = document.querySelector(arguments[0]); e.scrollIntoView({block: 'nearest'});"
        "const b = e.getBoundingClientRect();"
        "return [b.left + arguments[1] * b.width, b.top + arguments[2] * b.height]",
        {selector, x, y});
    const Json move{
        {"type", "pointerMove"}, {"duration", 0}, {"x", at[0].get<int>()}, {"y", at[1].get<int>()}};
    post(session_ + "/actions", {{"actions",
                                  {{{"type", "pointer"},
                                    {"id", "mouse"},
                                    {"parameters", {{"pointerType", "mouse"}}},
                                    {"actions",
                                     {move,
                                      {{"type", "pointerDown"}, {"button", 0}},
                                      {{"type", "pointerUp"}, {"button", 0}}}}}}}});
  }

  /// Pressed at one place of an element, moved in steps, let go at another.
  void drag(const std::string& selector, std::array<double, 2> from, std::array<double, 2> to,
            int steps = 6) {
    const Json box = script(
        "const e = document.querySelector(arguments[0]); e.scrollIntoView({block: 'nearest'});"
        "const b = e.getBoundingClientRect(); return [b.left, b.top, b.width, b.height]",
        {selector});
    const auto at = [&](double t) {
      const double x = from[0] + t * (to[0] - from[0]);
      const double y = from[1] + t * (to[1] - from[1]);
      return Json{{"type", "pointerMove"},
                  {"duration", 30},
                  {"x", static_cast<int>(box[0].get<double>() + x * box[2].get<double>())},
                  {"y", static_cast<int>(box[1].get<double>() + y * box[3].get<double>())}};
    };
    Json list = Json::array({at(0.0), {{"type", "pointerDown"}, {"button", 0}}});
    for (int i = 1; i <= steps; ++i) list.push_back(at(static_cast<double>(i) / steps));
    list.push_back({{"type", "pointerUp"}, {"button", 0}});
    post(session_ + "/actions", {{"actions",
                                  {{{"type", "pointer"},
                                    {"id", "mouse"},
                                    {"parameters", {{"pointerType", "mouse"}}},
                                    {"actions", list}}}}});
  }

  /// Keys as they are typed; W3C's codes for the others, below. `held` stays down meanwhile.
  void keys(const std::u16string& typed, char16_t held = 0) {
    Json list = Json::array();
    const auto key = [&](const char* type, char16_t k) {
      list.push_back({{"type", type}, {"value", utf8(k)}});
    };
    if (held != 0) key("keyDown", held);
    for (const char16_t k : typed) {
      key("keyDown", k);
      key("keyUp", k);
    }
    if (held != 0) key("keyUp", held);
    post(session_ + "/actions",
         {{"actions", {{{"type", "key"}, {"id", "keyboard"}, {"actions", list}}}}});
  }

  /// Entries of a log since it was last asked for: "performance" or "browser".
  Json log(const std::string& kind) { return post(session_ + "/se/log", {{"type", kind}}); }

  static constexpr char16_t tab = u'\uE004';
  static constexpr char16_t enter = u'\uE007';
  static constexpr char16_t shift = u'\uE008';
  static constexpr char16_t backspace = u'\uE003';
  static constexpr char16_t left = u'\uE012';
  static constexpr char16_t up = u'\uE013';
  static constexpr char16_t right = u'\uE014';
  static constexpr char16_t down = u'\uE015';

 private:
  static std::string utf8(char16_t c) {
    const auto u = static_cast<unsigned int>(c);
    if (u < 0x80U) return std::string(1, static_cast<char>(u));
    std::string out;
    out += static_cast<char>(0xE0U | (u >> 12U));
    out += static_cast<char>(0x80U | ((u >> 6U) & 0x3FU));
    out += static_cast<char>(0x80U | (u & 0x3FU));
    return out;
  }

  // It chooses its own port and says which.
  void start_driver() {
    std::array<int, 2> pipe{};
    if (::pipe(pipe.data()) != 0) throw std::runtime_error("no pipe");
    driver_ = ::fork();
    if (driver_ == 0) {
      ::dup2(pipe[1], STDOUT_FILENO);
      ::close(pipe[0]);
      ::close(pipe[1]);
      ::execlp("chromedriver", "chromedriver", "--port=0", nullptr);
      ::_exit(127);
    }
    ::close(pipe[1]);
    std::string message;
    std::array<char, 256> buffer{};
    const std::string before = "successfully on port ";
    for (;;) {
      const auto at = message.find(before);
      const auto end = at == std::string::npos ? at : message.find('.', at);
      if (end != std::string::npos) {
        const int port = std::stoi(message.substr(at + before.size()));
        client_ = std::make_unique<httplib::Client>("127.0.0.1", port);
        client_->set_read_timeout(120, 0);
        break;
      }
      const ssize_t n = ::read(pipe[0], buffer.data(), buffer.size());
      if (n <= 0) throw std::runtime_error("chromedriver does not start: " + message);
      message.append(buffer.data(), static_cast<std::size_t>(n));
    }
    ::close(pipe[0]);
  }

  Json post(const std::string& path, const Json& body) {
    const auto answer = client_->Post(path.c_str(), body.dump(), "application/json");
    if (!answer) throw std::runtime_error("the browser does not answer " + path);
    const Json json = Json::parse(answer->body);
    if (answer->status != 200) throw std::runtime_error(path + ": " + json["value"].dump());
    return json["value"];
  }

  pid_t driver_ = -1;
  std::unique_ptr<httplib::Client> client_;
  std::string session_;
};

}  // namespace jolly_iris::testing
