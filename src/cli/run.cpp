#include "run.hpp"

#include <exception>
#include <functional>
#include <new>
#include <ostream>
#include <variant>

#include "jolly_iris/errors.hpp"
#include "verbs.hpp"
#include "watch.hpp"

namespace jolly_iris::cli {

namespace {

int code_of(const std::exception& e) {
  if (dynamic_cast<const OpticsError*>(&e) != nullptr) return 1;
  if (dynamic_cast<const UsageError*>(&e) != nullptr) return 2;
  return 3;  // files, pictures, and what the system refused
}

int guarded(const Streams& io, const std::function<void()>& work) {
  try {
    work();
    return 0;
  } catch (const ShotFileError& e) {
    const std::size_t n = e.mistakes().size();
    if (n == 1)
      io.err << "jolly-iris: " << e.what() << '\n';
    else
      io.err << "jolly-iris: " << n << " mistakes:\n" << e.what() << '\n';
    return code_of(e);
  } catch (const std::bad_alloc&) {
    io.err << "jolly-iris: there is not enough memory for that\n";
    return 3;
  } catch (const std::exception& e) {
    io.err << "jolly-iris: " << e.what() << '\n';
    return code_of(e);
  }
}

bool watched(const Verb& verb) {
  return std::visit(
      [](const auto& o) {
        if constexpr (requires { o.shot.watch; })
          return o.shot.watch;
        else
          return false;
      },
      verb);
}

void perform(const Verb& verb, const Streams& io, std::vector<std::string>& files) {
  struct Visitor {
    const Streams& io;
    std::vector<std::string>& files;
    void operator()(const StartOptions& o) const { start(o, io); }
    void operator()(const ReportOptions& o) const { report(o, io, files); }
    void operator()(const SolveOptions& o) const { solve(o, io, files); }
    void operator()(const TraceOptions& o) const { trace(o, io, files); }
    void operator()(const DefocusOptions& o) const { defocus(o, io, files); }
    void operator()(const BokehOptions& o) const { bokeh(o, io, files); }
    void operator()(const HandoffOptions& o) const { handoff(o, io, files); }
    void operator()(const MeasureOptions& o) const { measure(o, io, files); }
    void operator()(const MatchOptions& o) const { match(o, io, files); }
    void operator()(const CompareOptions& o) const { compare(o, io, files); }
    void operator()(const BendOptions& o) const { bend(o, io, files); }
    void operator()(const SqueezeOptions& o) const { squeeze(o, io, files); }
    void operator()(const ExposeOptions& o) const { expose(o, io, files); }
    void operator()(const PlanOptions& o) const { plan(o, io, files); }
    void operator()(const PageOptions& o) const { page(o, io, files); }
  };
  std::visit(Visitor{io, files}, verb);
}

}  // namespace

int run(const std::vector<std::string>& args, std::ostream& out, std::ostream& err) {
  const Streams io{out, err};
  Parsed parsed;
  if (const int code = guarded(io, [&] { parsed = parse(args); }); code != 0) return code;
  if (!parsed.verb) {
    (parsed.code == 0 ? out : err) << parsed.text;
    return parsed.code;
  }
  if (watched(*parsed.verb)) {
    watch([&] {
      std::vector<std::string> files;
      guarded(io, [&] { perform(*parsed.verb, io, files); });
      out << "-- watching " << files.size() << " files; Ctrl-C ends\n" << std::flush;
      return files;
    });
  }
  std::vector<std::string> files;
  return guarded(io, [&] { perform(*parsed.verb, io, files); });
}

}  // namespace jolly_iris::cli
