#include "workflow/shot_values.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <string_view>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

// Ways to say a focus that exclude each other: a new one takes the place of all.
constexpr std::array<std::string_view, 11> focus_ways{
    "on", "part", "at", "radial", "tape", "mark", "floor", "area", "pixel", "off_axis", "height"};

// All keys of the focus that a file has, by their frames: "pull.1024.on".
std::vector<ShotEdit> written_pulls(const std::string& text, const std::string& file) {
  std::vector<ShotEdit> out;
  for (const std::string& key : written_keys(text, file, "pull[")) {
    const auto close = key.find("].");
    const auto frame = written_value(text, file, key.substr(0, close + 2) + "frame");
    if (!frame || key.ends_with("].frame")) continue;
    out.push_back({"pull." + *frame + key.substr(close + 1), written_value(text, file, key)});
  }
  return out;
}

}  // namespace

std::string focus_section(const std::string& key) {
  const auto dot = key.rfind('.');
  if (dot == std::string::npos) return {};
  const std::string section = key.substr(0, dot + 1);
  const bool way =
      std::find(focus_ways.begin(), focus_ways.end(), key.substr(dot + 1)) != focus_ways.end();
  return way && (section == "focus." || section.starts_with("pull.")) ? section : std::string();
}

bool is_pull(const std::string& key) { return key.starts_with("pull."); }

void require_variant_name(const std::string& name) {
  constexpr std::string_view letters =
      "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789_-";
  const bool good =
      !name.empty() && name.size() <= 64 && name.find_first_not_of(letters) == std::string::npos;
  if (good) return;
  throw UsageError(
      fmt::format("'{}' cannot name a variant: write letters, figures, - and _, at most 64", name));
}

std::vector<ShotEdit> edits_for(const std::string& text, const std::string& file,
                                const std::string& variant, const std::vector<ShotValue>& values) {
  const std::string prefix = variant.empty() ? "" : "variant." + variant + ".";
  std::vector<ShotEdit> edits;
  const auto take_out = [&](const std::string& below) {
    for (const std::string& key : written_keys(text, file, below)) {
      edits.push_back({key, std::nullopt});
    }
  };
  const auto in_hand = [&](const std::string& key) {
    return std::any_of(values.begin(), values.end(),
                       [&](const ShotValue& v) { return v.key == key; });
  };
  const auto step_back = [&](const std::string& section) {
    for (const std::string_view rival : focus_ways) {
      const std::string key = section + std::string(rival);
      if (!in_hand(key) && written_value(text, file, prefix + key)) {
        edits.push_back({prefix + key, std::nullopt});
      }
    }
  };
  if (std::any_of(values.begin(), values.end(), [](const auto& v) { return is_pull(v.key); })) {
    step_back("focus.");
    take_out(prefix + "over.focus.");
    // A variant's list takes the place of the whole list, so it begins with all of that.
    if (!prefix.empty() && written_keys(text, file, prefix + "pull[").empty()) {
      for (const ShotEdit& c : written_pulls(text, file)) {
        edits.push_back({prefix + c.key, c.value});
      }
    }
  }
  for (const ShotValue& v : values) {
    const std::string section = focus_section(v.key);
    if (section == "focus." && !written_keys(text, file, prefix + "pull[").empty()) {
      throw UsageError(
          "the file pulls the focus over frames, and one focus for all of them would take its "
          "place; set it as a key of a frame, or write it as a variant");
    }
    if (!section.empty()) step_back(section);
    if (is_pull(v.key)) {
      const bool out_of_it = v.key.ends_with(".frame") && v.text == "none";
      const auto before = out_of_it ? std::nullopt : written_value(text, file, prefix + v.key);
      edits.push_back({prefix + v.key,
                       out_of_it ? std::nullopt : std::optional(toml_spelling(v.text, before))});
      if (prefix.empty()) take_out("guessed.focus.");
      continue;
    }
    take_out(prefix + "over." + v.key + ".");
    const auto before = written_value(text, file, prefix + v.key);
    const auto beside = before ? before : written_value(text, file, v.key);
    edits.push_back({prefix + v.key, toml_spelling(v.text, beside)});
    if (prefix.empty()) {
      edits.push_back({"guessed." + v.key, std::nullopt});
      if (!section.empty()) take_out("guessed.focus.");
    }
  }
  return edits;
}

}  // namespace jolly_iris
