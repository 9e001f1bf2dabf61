// Who is let in.
#pragma once

#include <chrono>
#include <mutex>
#include <string>

namespace jolly_iris::live {

/// 128 bits that nobody guesses, as hexadecimal figures.
std::string new_token();

/// What is asked of a request before anything of it is done.
struct Knock {
  std::string path{};    ///< "/TOKEN/state"
  std::string host{};    ///< its Host header
  std::string origin{};  ///< its Origin header; empty: none
  bool changes = false;  ///< it is a POST
  std::string mark{};    ///< its X-Jolly-Iris header: no other site can send one unasked
};

/// The rest of the path behind the token, "state"; nothing for whoever is not let in.
struct Admitted {
  bool in = false;
  std::string path{};
};
Admitted admit(const Knock& knock, const std::string& token, int port);

/// So many requests a second, in bursts of at most that many.
class Rate {
 public:
  explicit Rate(double a_second) : a_second_(a_second), left_(a_second) {}
  /// Whether one more may come now.
  bool take();

 private:
  using Clock = std::chrono::steady_clock;
  double a_second_;
  double left_;
  Clock::time_point last_ = Clock::now();
  std::mutex lock_;
};

}  // namespace jolly_iris::live
