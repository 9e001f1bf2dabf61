#include <fmt/format.h>
// After our own headers, since a system header that it brings in takes the name _res for itself.
#include "jolly_iris/live/live.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "live/desk.hpp"
#include "live/guard.hpp"
#include "live/page_files.hpp"

#include <httplib.h>

#include <atomic>
#include <chrono>
#include <mutex>
#include <string_view>
#include <thread>

namespace jolly_iris {

namespace {

constexpr std::size_t largest_question = 64 << 10U;
// A browser keeps six connections open; several of them shall not wait for each other.
constexpr std::size_t threads = 32;
constexpr double requests_a_second = 400.0;  // a dragged slider asks for some sixty

void say(httplib::Response& to, const live::Reply& reply) {
  to.status = reply.status;
  for (const auto& [name, value] : reply.headers) to.set_header(name, value);
  to.set_content(reply.body, reply.type);
}

live::Words words_of(const httplib::Request& request) {
  live::Words words;
  for (const auto& [name, value] : request.params) words.emplace(name, value);
  return words;
}

const char* type_of(std::string_view name) {
  if (name.ends_with(".js")) return "text/javascript; charset=utf-8";
  if (name.ends_with(".css")) return "text/css; charset=utf-8";
  return "text/html; charset=utf-8";
}

void secure(httplib::Response& to) {
  to.set_header("Content-Security-Policy",
                "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; "
                "connect-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'");
  to.set_header("X-Content-Type-Options", "nosniff");
  to.set_header("X-Frame-Options", "DENY");
  to.set_header("Referrer-Policy", "no-referrer");
  to.set_header("Cross-Origin-Resource-Policy", "same-origin");
  to.set_header("Cross-Origin-Opener-Policy", "same-origin");
  to.set_header("Cache-Control", "no-store");
}

}  // namespace

class LiveServer::Inside {
 public:
  explicit Inside(const LiveRequest& request)
      : token_(live::new_token()), rate_(requests_a_second), desk_(request) {
    server_.new_task_queue = [] { return new httplib::ThreadPool(threads); };
    server_.set_payload_max_length(largest_question);
    server_.set_keep_alive_max_count(100000);
    server_.set_read_timeout(10, 0);
    // Else a small answer waits some 40 ms for the one before it to be acknowledged (RFC 896).
    server_.set_tcp_nodelay(true);
    // Nobody else takes the port while we have it.
    server_.set_socket_options([](socket_t) {});
    const auto answer = [this](const httplib::Request& asked, httplib::Response& to) {
      this->answer(asked, to);
    };
    server_.Get("/.*", answer);
    server_.Post("/.*", answer);
    server_.set_exception_handler([](const httplib::Request&, httplib::Response& to,
                                     const std::exception_ptr&) { to.status = 500; });
    if (request.port == 0) {
      port_ = server_.bind_to_any_port("127.0.0.1");
    } else if (server_.bind_to_port("127.0.0.1", request.port)) {
      port_ = request.port;
    }
    if (port_ <= 0) {
      throw UsageError(
          request.port == 0
              ? std::string("no port of this machine is free")
              : fmt::format("port {} is taken, or may not be had; another one, or none for any "
                            "that is free",
                            request.port));
    }
  }

  std::string address() const { return fmt::format("http://127.0.0.1:{}/{}/", port_, token_); }
  std::vector<std::string> notes() const { return desk_.notes(); }
  void serve() {
    {
      const std::lock_guard lock(turn_);
      if (stopping_) return;
      serving_ = true;
    }
    server_.listen_after_bind();
    serving_ = false;
  }
  // Also before serve() has begun, or while it begins: the library's own stop would do nothing
  // then.
  void stop() {
    desk_.close();
    {
      const std::lock_guard lock(turn_);
      stopping_ = true;
    }
    while (serving_ && !server_.is_running()) {
      std::this_thread::sleep_for(std::chrono::milliseconds(1));
    }
    server_.stop();
  }

 private:
  void answer(const httplib::Request& asked, httplib::Response& to) {
    secure(to);
    const bool changes = asked.method == "POST";
    const live::Admitted admitted =
        live::admit({asked.path, asked.get_header_value("Host"), asked.get_header_value("Origin"),
                     changes, asked.get_header_value("X-Jolly-Iris")},
                    token_, port_);
    if (!admitted.in) {
      to.status = 403;
      to.set_content("no entrance\n", "text/plain");
      return;
    }
    if (!rate_.take()) {
      to.status = 429;
      return;
    }
    const std::string& path = admitted.path;
    if (changes) {
      if (path == "do/end") {
        say(to, {200, "application/json", "{}", {}});
        // Not from here: stopping waits for all answers, this one too.
        std::call_once(ended_, [this] { ender_ = std::jthread([this] { stop(); }); });
        return;
      }
      if (!path.starts_with("do/")) {
        to.status = 404;
        return;
      }
      const live::Words words = words_of(asked);
      const live::Reply done = desk_.act(path.substr(3), words);
      return say(to, words.contains("detail") ? with_picture(done, words) : done);
    }
    const auto& files = live::page_files();
    const auto file = files.find(path.empty() ? std::string_view("live.html") : path);
    if (file != files.end()) {
      return say(to, {200, type_of(file->first), std::string(file->second), {}});
    }
    say(to, desk_.look(path, words_of(asked)));
  }

  // The draft goes along with the state: asking for it would be a way more.
  live::Reply with_picture(const live::Reply& state, const live::Words& words) {
    live::Reply picture = desk_.look("picture", words);
    if (state.status != 200 || picture.status != 200) return state;
    picture.headers["X-State"] = fmt::format("{}", state.body.size());
    picture.body.insert(0, state.body);
    return picture;
  }

  std::string token_;
  int port_ = 0;
  live::Rate rate_;
  live::Desk desk_;
  httplib::Server server_;
  std::mutex turn_;
  bool stopping_ = false;
  std::atomic<bool> serving_{false};
  std::once_flag ended_;
  std::jthread ender_{};
};

LiveServer::LiveServer(const LiveRequest& request) : inside_(std::make_unique<Inside>(request)) {}
LiveServer::~LiveServer() = default;
std::string LiveServer::address() const { return inside_->address(); }
std::vector<std::string> LiveServer::notes() const { return inside_->notes(); }
void LiveServer::serve() { inside_->serve(); }
void LiveServer::stop() { inside_->stop(); }

}  // namespace jolly_iris
