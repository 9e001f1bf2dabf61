#include "cli/terminal/run.hpp"

#include <exception>
#include <functional>
#include <new>
#include <ostream>

#include "cli/parse/parse.hpp"
#include "cli/terminal/watch.hpp"
#include "jolly_iris/files/shot_file.hpp"
#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris::cli {

namespace {

int code_of(const std::exception& e) {
  if (dynamic_cast<const OpticsError*>(&e) != nullptr) return 1;
  if (dynamic_cast<const UsageError*>(&e) != nullptr) return 2;
  return 3;  // files, pictures, and what the system refused
}

int guarded(std::ostream& err, const std::function<void()>& work) {
  try {
    work();
    return 0;
  } catch (const ShotFileError& e) {
    const std::size_t n = e.mistakes().size();
    if (n == 1)
      err << "jolly-iris: " << e.what() << '\n';
    else
      err << "jolly-iris: " << n << " mistakes:\n" << e.what() << '\n';
    return code_of(e);
  } catch (const NoShotError& e) {
    err << "jolly-iris: " << e.what() << ". To begin one from a plate: jolly-iris start PLATE\n";
    return code_of(e);
  } catch (const std::bad_alloc&) {
    err << "jolly-iris: there is not enough memory for that\n";
    return 3;
  } catch (const std::exception& e) {
    err << "jolly-iris: " << e.what() << '\n';
    return code_of(e);
  }
}

}  // namespace

int run(const std::vector<std::string>& args, std::ostream& out, std::ostream& err) {
  Parsed parsed;
  if (const int code = guarded(err, [&] { parsed = parse(args); }); code != 0) return code;
  if (!parsed.verb) {
    (parsed.code == 0 ? out : err) << parsed.text;
    return parsed.code;
  }
  std::vector<std::string> files;
  const Terminal io{out, err, files};
  while (parsed.verb->watches()) {
    watch([&] {
      files.clear();
      guarded(err, [&] { parsed.verb->run(io); });
      out << "-- watching " << files.size() << " files; Ctrl-C ends\n" << std::flush;
      return files;
    });
  }
  return guarded(err, [&] { parsed.verb->run(io); });
}

}  // namespace jolly_iris::cli
