// Text on its way to a terminal or a file, whoever wrote it: names of files and nodes, what a
// header says. What would steer a terminal is shown instead of done.
#pragma once

#include <ostream>
#include <streambuf>
#include <string>

namespace jolly_iris::cli {

/// Passes on UTF-8 text. Control characters other than line breaks and tabs, bytes that are no
/// UTF-8, and signs that turn the direction of writing become \x1b or \u202e.
class PlainText : public std::streambuf {
 public:
  explicit PlainText(std::ostream& to) : to_(to) {}
  ~PlainText() override { end(); }
  /// Whether anything was said.
  bool any() const { return any_; }
  /// The system's number of what first kept it from being said; 0: nothing.
  int error() const { return error_; }

 protected:
  int_type overflow(int_type c) override;
  std::streamsize xsputn(const char* text, std::streamsize size) override;
  int sync() override;

 private:
  void add(char c);
  void escape_bytes();
  void end();
  template <class Work>
  void watched(const Work& work);

  std::ostream& to_;
  bool any_ = false;
  int error_ = 0;
  std::string out_{};
  std::string waiting_{};     // the beginning of a sign of several bytes
  std::size_t expected_ = 0;  // bytes of it
};

/// A stream through PlainText.
class PlainStream : public std::ostream {
 public:
  explicit PlainStream(std::ostream& to) : std::ostream(nullptr), plain_(to) { rdbuf(&plain_); }
  bool any() const { return plain_.any(); }
  int error() const { return plain_.error(); }

 private:
  PlainText plain_;
};

}  // namespace jolly_iris::cli
