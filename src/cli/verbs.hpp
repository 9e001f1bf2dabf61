// The verbs. Each reads, computes and prints; what it read is told for --watch.
#pragma once

#include <iosfwd>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/answer.hpp"
#include "options.hpp"

namespace jolly_iris::cli {

struct Streams {
  std::ostream& out;
  std::ostream& err;
};

/// A shot with its scene and its answer.
struct Loaded {
  Shot shot{};
  std::optional<Scene> scene{};
  Answer answer{};
};

/// Reads a shot and its scene. `files` gains what was read, also when it throws half-way.
Loaded load(const ShotOptions& options, std::vector<std::string>& files);

void start(const StartOptions& options, const Streams& io);
void report(const ReportOptions& options, const Streams& io, std::vector<std::string>& files);
void trace(const TraceOptions& options, const Streams& io, std::vector<std::string>& files);
void defocus(const DefocusOptions& options, const Streams& io, std::vector<std::string>& files);
void handoff(const HandoffOptions& options, const Streams& io, std::vector<std::string>& files);

/// The report as people read it.
std::string report_text(const Loaded& loaded);

}  // namespace jolly_iris::cli
