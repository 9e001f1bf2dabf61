#include "cli/terminal/say.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <ostream>

#include "disk/disk.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/write_picture.hpp"
#include "report/measured.hpp"

namespace jolly_iris::cli {

namespace {

// Whether the list of that name has the sentence already.
bool has(const Json& json, const char* key, const std::string& sentence) {
  const Json* list = json.find(key);
  if (list == nullptr) return false;
  return std::any_of(list->entries().begin(), list->entries().end(), [&](const Json& entry) {
    return entry.text() != nullptr && *entry.text() == sentence;
  });
}

// What was noted while this was found belongs to it; what it says itself is not said twice.
Json with_notes(const Json& json, const Terminal& io) {
  if (!json.is_object()) return json;
  Json all = json;
  Json& notes = all["notes"];
  if (notes.is_null()) notes = Json::array();
  for (const std::string& sentence : io.notes.told()) {
    if (!has(all, "notes", sentence) && !has(all, "warnings", sentence)) notes.push_back(sentence);
  }
  return all;
}

}  // namespace

void say(const Form& form, const Terminal& io, const Json& json, const std::string& text,
         int indent) {
  if (form.for_people()) {
    io.out << text;
  } else if (form.only.empty()) {
    io.out << with_notes(json, io).dump(indent) << '\n';
  } else {
    try {
      io.out << value_at(with_notes(json, io), form.only) << '\n';
    } catch (const UsageError& e) {
      throw UsageError(std::string("--only ") + e.what());
    }
  }
}

void claim_picture(const std::string& name) {
  if (name.empty()) return;
  check_picture_name(name);
  claim_output(name);
}

void claim_drawing(const std::string& name) {
  if (name.empty()) return;
  if (!is_svg(name) && std::filesystem::path(name).extension() != ".png") {
    throw UsageError(name + ": a drawing's name ends in .png or .svg; this one does not");
  }
  claim_output(name);
}

void claim_file(const std::string& name, const std::string& what, const std::string& ending) {
  if (name.empty()) return;
  if (!ending.empty() && std::filesystem::path(name).extension() != ending) {
    throw UsageError(
        fmt::format("{}: {}'s name ends in {}; this one does not", name, what, ending));
  }
  claim_output(name);
}

std::vector<std::string> picture_names(const std::vector<std::string>& given,
                                       const std::string& usual) {
  std::vector<std::string> names = given.empty() ? std::vector{usual} : given;
  for (const std::string& name : names) claim_picture(name);
  return names;
}

bool is_svg(const std::string& name) { return std::filesystem::path(name).extension() == ".svg"; }

void tell_notes(const std::vector<std::string>& notes, const Terminal& io) {
  for (const std::string& note : notes) io.notes.note(note);
}

void write_and_say(const MadePicture& what, const Frame& frame, const LoadedShot& loaded,
                   const Form& form, const Terminal& io) {
  const PixelSize size = frame.colour.size();
  std::string text = report::tried_line(loaded.shot);
  for (const std::string& name : what.names) {
    write_for_shot(name, frame, loaded, what.pixel_aspect, what.header, what.layers);
    text += fmt::format("{:<28} {} x {}, {}, {:.1f} s\n", name, size.width, size.height, what.words,
                        what.seconds);
  }
  say(form, io,
      report::written_json(
          what.names, {{"seconds", what.seconds}, {"width", size.width}, {"height", size.height}},
          &loaded.shot),
      text);
}

}  // namespace jolly_iris::cli
