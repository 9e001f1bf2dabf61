#include <fmt/format.h>

#include <algorithm>
#include <locale>
#include <map>
#include <ostream>
#include <sstream>

#include "cli/parse/values.hpp"
#include "cli/terminal/progress.hpp"
#include "cli/verbs/list.hpp"
#include "cli/verbs/match_frames.hpp"
#include "cli/verbs/shot_verb.hpp"
#include "jolly_iris/workflow/camera_match.hpp"
#include "optics/nearest.hpp"
#include "report/match_report.hpp"
#include "report/measured.hpp"

namespace jolly_iris::cli {

namespace {

const std::map<std::string, Parameter>& parameter_keys() {
  static const std::map<std::string, Parameter> keys{
      {"lens.focal", Parameter::focal},     {"body.gate", Parameter::gate},
      {"take.stop", Parameter::stop},       {"focus", Parameter::focus},
      {"lens.squeeze", Parameter::squeeze}, {"scene.scale", Parameter::scale},
      {"scene.back", Parameter::distance},  {"take.ev", Parameter::exposure},
      {"take.white", Parameter::white}};
  return keys;
}

// "take.stop", or "take.stop=2 %": how far it is believed; of take.ev in stops.
PriorOverride prior_override_of(const std::string& text) {
  const auto equals = text.find('=');
  const std::string key = text.substr(0, equals);
  const auto found = parameter_keys().find(key);
  if (found == parameter_keys().end()) {
    std::vector<std::string> names;
    for (const auto& [name, u] : parameter_keys()) names.push_back(name);
    throw UsageError(fmt::format("--doubt {}: no such note is matched; there are {}.{}", key,
                                 fmt::join(names, ", "), did_you_mean(key, names)));
  }
  if (equals == std::string::npos) return {found->second, std::nullopt};
  std::string unit;
  double value = 0.0;
  std::istringstream in(text.substr(equals + 1));
  in.imbue(std::locale::classic());
  in >> value >> unit;
  const bool stops = found->second == Parameter::exposure;
  const bool right = stops ? unit == "stops" || unit == "stop" : unit == "%";
  if (in.fail() || !right || !(value > 0.0)) {
    throw UsageError(fmt::format("--doubt {}: '{}' is no deviation; write {}", key,
                                 text.substr(equals + 1),
                                 stops ? "e.g. --doubt \"take.ev=0.5 stops\""
                                       : fmt::format("e.g. --doubt \"{}=0.5 %\"", key)));
  }
  return {found->second, stops ? value : 0.01 * value};
}

class MatchVerb : public ShotVerb {
 public:
  void add_options(OptionSet& options) override {
    add_shot(options, "match.unknowns.2.value");
    add_disc_search(options, wanted_.discs.min_px, boxes_);
    options.flag("--accept", accept_,
                 "write SHOT's name .solved.toml beside it: it leads over the\nnotes from then on");
    options.repeatable("--doubt", doubts_,
                       "a note that is not believed at all, or by so much (repeatable):\n"
                       "lens.focal, body.gate, take.stop, focus, lens.squeeze,\nscene.scale, "
                       "scene.back, take.ev, take.white",
                       "KEY[=%]");
    options.repeatable("--with", together_,
                       "another shot of the same body and lens: matched together,\none tells what "
                       "the other cannot (repeatable)",
                       "SHOT");
    frames_.add(options);
    options.example("match demo/regatta/notes.shot.toml");
  }

  void check() override {
    ShotVerb::check();
    wanted_.discs.boxes = boxes_of(boxes_);
    for (const std::string& text : doubts_) wanted_.doubts.push_back(prior_override_of(text));
    if (accept_ && !request_.overrides.empty()) {
      throw UsageError(
          "--accept is for the notes as they stand in the file; --set and --variant try others. "
          "Write what was tried into the file first");
    }
    frames_.check(form_);
    if (frames_.asked() && !together_.empty()) {
      throw UsageError("--frames matches the frames of one shot; leave out --with");
    }
    wanted_.shots.push_back(request_);
    for (const std::string& name : together_) {
      if (name == file()) {
        throw UsageError(
            fmt::format("--with {}: that is the shot itself; name another one that the "
                        "same camera took",
                        name));
      }
      wanted_.shots.push_back(request_);
      wanted_.shots.back().file = name;
    }
  }

  void run(const Terminal& io) override {
    if (frames_.asked()) {
      return frames_.run(request_, wanted_.discs, wanted_.doubts, accept_, form_, io);
    }
    CameraMatch match = open_match(wanted_, io.files);
    std::string text = report::tried_line(match.plates.front().loaded.shot);
    text += report::metadata_text(match);
    if (accept_) {
      for (const MatchedPlate& plate : match.plates) {
        claim_file(solved_file_of(plate.shot_file).string(), "a solved file", ".toml");
      }
    }
    {
      Progress progress(io.bar, "matching");
      CameraMatchRequest wanted = wanted_;
      wanted.execution = progress.execution();
      try {
        for_boxes(wanted.discs.boxes, [&] { solve_match(match, wanted, io.files); });
      } catch (const OpticsError&) {
        tell_plates(match, io);
        if (form_.for_people()) io.out << text;
        throw;
      }
    }
    tell_plates(match, io);
    text += report::match_text(match, wanted_.doubts);
    Json json = report::match_json(match);
    if (accept_) accept(match, text, json);
    say(form_, io, json, text);
  }

 private:
  static void tell_plates(const CameraMatch& match, const Terminal& io) {
    for (const MatchedPlate& plate : match.plates) tell_notes(plate.seen.notes, io);
  }

  static void accept(const CameraMatch& match, std::string& text, Json& json) {
    std::vector<std::string> written;
    try {
      written = write_solved(match);
    } catch (const OpticsError& e) {
      throw OpticsError(std::string("--accept: ") + e.what() + "; see what match says without it");
    }
    text += '\n';
    for (std::size_t i = 0; i < written.size(); ++i) {
      text += fmt::format(
          "{:<28} {} values that lead over the notes from now on (--as-noted leaves them out)\n",
          written[i], solved_values(match.plates[i]).size());
    }
    json["written"] = written;
  }

  CameraMatchRequest wanted_{};
  std::vector<std::string> boxes_{};
  std::vector<std::string> doubts_{};
  std::vector<std::string> together_{};
  bool accept_ = false;
  MatchFrames frames_{};
};

}  // namespace

const VerbEntry verbs::match{
    "match",
    "plate + notes -> the camera that took it, with margins; the likeliest mistake in the notes",
    make_verb<MatchVerb>};

}  // namespace jolly_iris::cli
