#include "cli/terminal/plain_text.hpp"

#include <fmt/format.h>

#include <cerrno>
#include <cstdint>

namespace jolly_iris::cli {

namespace {

unsigned byte_of(char c) { return static_cast<unsigned char>(c); }

// Bytes of the sign that begins so; 0: none does.
std::size_t length_of(unsigned first) {
  if (first >= 0xc2 && first <= 0xdf) return 2;
  if (first >= 0xe0 && first <= 0xef) return 3;
  if (first >= 0xf0 && first <= 0xf4) return 4;
  return 0;
}

std::uint32_t code_of_sign(const std::string& bytes) {
  std::uint32_t code = byte_of(bytes[0]) & (0xffU >> (bytes.size() + 1));
  for (std::size_t i = 1; i < bytes.size(); ++i) code = code << 6 | (byte_of(bytes[i]) & 0x3fU);
  return code;
}

// Longer than need be, half of a pair, or beyond Unicode: RFC 3629.
bool well_formed(std::uint32_t code, std::size_t bytes) {
  constexpr std::uint32_t least[] = {0, 0, 0x80, 0x800, 0x10000};
  return code >= least[bytes] && code <= 0x10ffff && !(code >= 0xd800 && code <= 0xdfff);
}

// C1 controls, and the marks and overrides of Unicode's bidirectional algorithm.
bool steers(std::uint32_t code) {
  return code < 0xa0 || code == 0x61c || code == 0x200e || code == 0x200f ||
         (code >= 0x202a && code <= 0x202e) || (code >= 0x2066 && code <= 0x2069);
}

}  // namespace

void PlainText::escape_bytes() {
  for (const char c : waiting_) out_ += fmt::format("\\x{:02x}", byte_of(c));
  waiting_.clear();
}

void PlainText::add(char c) {
  const unsigned b = byte_of(c);
  if (!waiting_.empty()) {
    if ((b & 0xc0U) == 0x80U) {
      waiting_ += c;
      if (waiting_.size() < expected_) return;
      const std::uint32_t code = code_of_sign(waiting_);
      if (!well_formed(code, expected_)) {
        escape_bytes();
      } else if (steers(code)) {
        out_ += code < 0x100 ? fmt::format("\\x{:02x}", code) : fmt::format("\\u{:04x}", code);
        waiting_.clear();
      } else {
        out_ += waiting_;
        waiting_.clear();
      }
      return;
    }
    escape_bytes();
  }
  if (b >= 0x80) {
    waiting_ = c;
    expected_ = length_of(b);
    if (expected_ == 0) escape_bytes();
  } else if (b == '\n' || b == '\t' || (b >= 0x20 && b != 0x7f)) {
    out_ += c;
  } else {
    out_ += fmt::format("\\x{:02x}", b);
  }
}

template <class Work>
void PlainText::watched(const Work& work) {
  errno = 0;
  const bool before = to_.good();
  work();
  if (before && !to_.good()) error_ = errno != 0 ? errno : EIO;
}

void PlainText::end() {
  any_ = any_ || !out_.empty();
  watched([&] { to_ << out_; });
  out_.clear();
}

PlainText::int_type PlainText::overflow(int_type c) {
  if (traits_type::eq_int_type(c, traits_type::eof())) return traits_type::not_eof(c);
  add(traits_type::to_char_type(c));
  end();
  return to_.good() ? c : traits_type::eof();
}

std::streamsize PlainText::xsputn(const char* text, std::streamsize size) {
  for (std::streamsize i = 0; i < size; ++i) add(text[i]);
  end();
  return to_.good() ? size : 0;
}

int PlainText::sync() {
  escape_bytes();
  end();
  watched([&] { to_.flush(); });
  return to_.good() ? 0 : -1;
}

}  // namespace jolly_iris::cli
