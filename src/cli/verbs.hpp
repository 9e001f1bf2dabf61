// The verbs. Each reads, computes and prints; what it read is told for --watch.
#pragma once

#include <iosfwd>
#include <string>
#include <vector>

#include "jolly_iris/load.hpp"
#include "options.hpp"

namespace jolly_iris::cli {

struct Streams {
  std::ostream& out;
  std::ostream& err;
};

/// The shot that was asked for, with --set, --variant and --frame applied. `files` gains what was
/// read.
LoadedShot load(const ShotOptions& options, std::vector<std::string>& files);

/// How far away a subject is, or what a distance says; `option` is for the message.
/// @throws UsageError for neither
Length distance_named(const LoadedShot& loaded, const std::string& text, const char* option);

/// A picture, decoded as was asked. `files` gains the table's file where there is one.
Frame read_coded(const std::string& file, const Coding& coding, std::vector<std::string>& files);

void start(const StartOptions& options, const Streams& io);
void report(const ReportOptions& options, const Streams& io, std::vector<std::string>& files);
void solve(const SolveOptions& options, const Streams& io, std::vector<std::string>& files);
void trace(const TraceOptions& options, const Streams& io, std::vector<std::string>& files);
void defocus(const DefocusOptions& options, const Streams& io, std::vector<std::string>& files);
void bokeh(const BokehOptions& options, const Streams& io, std::vector<std::string>& files);
void measure(const MeasureOptions& options, const Streams& io, std::vector<std::string>& files);
void match(const MatchOptions& options, const Streams& io, std::vector<std::string>& files);
void compare(const CompareOptions& options, const Streams& io, std::vector<std::string>& files);
/// measure --discs.
void measure_discs(const MeasureOptions& options, const LoadedShot& loaded, const Streams& io,
                   std::vector<std::string>& files);
void bend(const BendOptions& options, const Streams& io, std::vector<std::string>& files);
void squeeze(const SqueezeOptions& options, const Streams& io, std::vector<std::string>& files);
void expose(const ExposeOptions& options, const Streams& io, std::vector<std::string>& files);
void plan(const PlanOptions& options, const Streams& io, std::vector<std::string>& files);
void page(const PageOptions& options, const Streams& io, std::vector<std::string>& files);
void handoff(const HandoffOptions& options, const Streams& io, std::vector<std::string>& files);

/// The frames that were asked for: a range, else the shot's own, else where its keys begin and end.
/// @throws UsageError where nothing says which frames there are
std::vector<double> chosen_frames(const FrameOptions& options, const LoadedShot& loaded);

/// report --frames.
void report_frames(const ReportOptions& options, LoadedShot& loaded, const Streams& io);

/// The report as people read it.
std::string report_text(const LoadedShot& loaded);

}  // namespace jolly_iris::cli
