#include "cli/terminal/run.hpp"

#include <algorithm>
#include <exception>
#include <functional>
#include <ostream>
#include <system_error>

#include "cli/parse/parse.hpp"
#include "cli/terminal/error_kind.hpp"
#include "cli/terminal/notes.hpp"
#include "cli/terminal/plain_text.hpp"
#include "cli/terminal/watch.hpp"
#include "disk/disk.hpp"
#include "disk/json.hpp"
#include "jolly_iris/files/shot_file.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/memory.hpp"

namespace jolly_iris::cli {

namespace {

Json json_of(const std::exception& e, const std::vector<std::string>& notes) {
  const ErrorKind kind = kind_of(e);
  Json error{{"kind", kind.name}, {"said", sentence_of(e)}, {"exit_code", kind.code}};
  if (const auto* optics = dynamic_cast<const OpticsError*>(&e);
      optics != nullptr && !optics->key().empty()) {
    error["key"] = optics->key();
  }
  if (const auto* shot = dynamic_cast<const ShotFileError*>(&e); shot != nullptr) {
    error["mistakes"] = Json::array();
    for (const FileMistake& m : shot->mistakes()) {
      error["mistakes"].push_back({{"place", m.place}, {"key", m.key}, {"said", m.message}});
    }
  }
  Json all = Json::object();
  all["error"] = std::move(error);
  all["notes"] = notes;
  return all;
}

// What is said where.
struct Said {
  PlainStream& out;
  PlainStream& err;
  const Notes& notes;
  bool json = false;
};

int guarded(const Said& said, const std::function<void()>& work) {
  try {
    work();
    return 0;
  } catch (const std::exception& e) {
    const auto* shot = dynamic_cast<const ShotFileError*>(&e);
    const std::size_t n = shot != nullptr ? shot->mistakes().size() : 1;
    said.err << "jolly-iris: ";
    if (n != 1) said.err << n << " mistakes:\n";
    said.err << sentence_of(e) << '\n';
    if (said.json && !said.out.any()) said.out << json_of(e, said.notes.told()).dump(2) << '\n';
    return kind_of(e).code;
  }
}

// What could not be said is no success: a full disk, a stream that was closed.
int ended(const Said& said, int code) {
  said.out.flush();
  if (said.out.error() == 0) return code;
  said.err << "jolly-iris: what it says could not be written: "
           << std::generic_category().message(said.out.error()) << '\n';
  if (code != 0) return code;
  return may_pass(said.out.error()) ? 75 : 3;
}

}  // namespace

int run(const std::vector<std::string>& args, std::ostream& out, std::ostream& err) {
  PlainStream plain_out(out);
  PlainStream plain_err(err);
  Notes notes(plain_err);
  const Said said{plain_out, plain_err, notes,
                  std::find(args.begin(), args.end(), "--json") != args.end()};
  Parsed parsed;
  if (const int code = guarded(said, [&] { parsed = parse(args); }); code != 0) {
    return ended(said, code);
  }
  if (!parsed.verb) {
    (parsed.code == 0 ? plain_out : plain_err) << parsed.text;
    return ended(said, parsed.code);
  }
  std::vector<std::string> files;
  const Terminal io{plain_out, plain_err, err, files, notes};
  const MemoryTold told([&](const std::string& sentence) { notes.note(sentence); });
  const auto once = [&] {
    const InputsKept inputs;
    parsed.verb->run(io);
  };
  while (parsed.verb->watches() && plain_out.error() == 0) {
    watch([&] {
      files.clear();
      notes.clear();
      guarded(said, once);
      plain_out << "-- watching " << files.size() << " files; Ctrl-C ends\n" << std::flush;
      return files;
    });
  }
  return ended(said, guarded(said, once));
}

}  // namespace jolly_iris::cli
