// What a person asked for, as plain values. options.cpp is the only file that knows how it was
// typed.
#pragma once

#include <optional>
#include <string>
#include <variant>
#include <vector>

#include "jolly_iris/picture.hpp"
#include "jolly_iris/shot_file.hpp"
#include "jolly_iris/units.hpp"

namespace jolly_iris::cli {

/// In which form a verb says what it found or wrote: text for people, JSON, or one value of it.
struct Form {
  bool json = false;
  std::string only{};
};

/// What every verb that reads a shot takes.
struct ShotOptions {
  std::string shot{};
  std::vector<Tried> tried{};
  std::optional<double> frame{};
  Form form{};
  bool watch = false;
};

struct StartOptions {
  std::string plate{};
  std::string out{};
  bool replace = false;
  Form form{};
};

struct ReportOptions {
  ShotOptions shot{};
};

struct TraceOptions {
  ShotOptions shot{};
  std::vector<std::string> out{};
  int samples = 64;
  int seed = 1;
  bool pinhole = false;
  bool half = false;
  std::optional<Box> box{};
  int threads = 0;
};

struct DefocusOptions {
  ShotOptions shot{};
  std::string picture{};
  std::vector<std::string> out{};
  std::optional<Length> distance{};
  std::optional<Transfer> transfer{};
  int threads = 0;
};

struct HandoffOptions {
  ShotOptions shot{};
  std::string folder{"."};
};

using Verb =
    std::variant<StartOptions, ReportOptions, TraceOptions, DefocusOptions, HandoffOptions>;

/// What was typed, or the text to print and the code to end with (help, version, a mistake).
struct Parsed {
  std::optional<Verb> verb{};
  std::string text{};
  int code = 0;
};

Parsed parse(const std::vector<std::string>& args);

}  // namespace jolly_iris::cli
