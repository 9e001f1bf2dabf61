#include "live/guard.hpp"

#include <fmt/format.h>
#include <sys/random.h>

#include <algorithm>
#include <array>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris::live {

namespace {

// As long for a token that is nearly right as for one that is not at all.
bool same_secret(const std::string& a, const std::string& b) {
  if (a.size() != b.size()) return false;
  unsigned int differs = 0;
  for (std::size_t i = 0; i < a.size(); ++i) {
    differs |= static_cast<unsigned int>(static_cast<unsigned char>(a[i]) ^
                                         static_cast<unsigned char>(b[i]));
  }
  return differs == 0;
}

}  // namespace

std::string new_token() {
  std::array<unsigned char, 16> bytes{};
  if (::getrandom(bytes.data(), bytes.size(), 0) != static_cast<ssize_t>(bytes.size())) {
    throw Error("the system gives no random bytes for the page's address");
  }
  std::string token;
  for (const unsigned char b : bytes) token += fmt::format("{:02x}", b);
  return token;
}

Admitted admit(const Knock& knock, const std::string& token, int port) {
  // A page of another site reaches us under its own name where that name was made to mean this
  // machine: the Host it asks for tells.
  const std::string by_number = fmt::format("127.0.0.1:{}", port);
  const std::string by_name = fmt::format("localhost:{}", port);
  if (knock.host != by_number && knock.host != by_name) return {};
  const bool own_origin =
      knock.origin == "http://" + by_number || knock.origin == "http://" + by_name;
  if (!knock.origin.empty() && !own_origin) return {};
  if (knock.changes && (knock.origin.empty() || knock.mark.empty())) return {};
  if (knock.path.size() < token.size() + 2 || knock.path[0] != '/') return {};
  if (!same_secret(knock.path.substr(1, token.size()), token)) return {};
  if (knock.path[token.size() + 1] != '/') return {};
  return {true, knock.path.substr(token.size() + 2)};
}

bool Rate::take() {
  const std::lock_guard lock(lock_);
  const auto now = Clock::now();
  left_ =
      std::min(a_second_, left_ + a_second_ * std::chrono::duration<double>(now - last_).count());
  last_ = now;
  if (left_ < 1.0) return false;
  left_ -= 1.0;
  return true;
}

}  // namespace jolly_iris::live
