#include "jolly_iris/files/shot_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cstdint>
#include <filesystem>
#include <map>

#include "disk/disk.hpp"
#include "jolly_iris/files/solved_file.hpp"
#include "jolly_iris/optics/quantity.hpp"
#include "named_rows.hpp"
#include "optics/nearest.hpp"
#include "shot_reader.hpp"
#include "shot_sections.hpp"
#include "toml_tree.hpp"

namespace jolly_iris {

namespace {

// ---- from files to one tree ---------------------------------------------------------------------

bool has_list(const TomlTree& tree, const std::string& name) {
  const auto first = tree.lower_bound(name + "[");
  return first != tree.end() && first->first.starts_with(name + "[");
}

void erase_under(TomlTree& tree, const std::string& prefix) {
  std::erase_if(tree, [&](const auto& entry) { return entry.first.starts_with(prefix); });
}

// An outline takes the place of blades: a file below does not bring back the other kind.
bool other_opening(const TomlTree& own, const std::string& key) {
  if (key == "lens.iris.outline") {
    return own.contains("lens.iris.blades") || own.contains("lens.iris.blade_radius");
  }
  return (key == "lens.iris.blades" || key == "lens.iris.blade_radius") &&
         own.contains("lens.iris.outline");
}

// "soft.look.toml + fringed.look.toml": all of them, from the last one, which leads.
std::vector<std::string> from_the_last(const std::string& names) {
  constexpr std::string_view between = " + ";
  std::vector<std::string> out;
  for (std::size_t end = names.size();;) {
    const auto at = end == 0 ? std::string::npos : names.rfind(between, end - 1);
    const std::size_t begin = at == std::string::npos ? 0 : at + between.size();
    if (begin <= end) out.push_back(names.substr(begin, end - begin));
    if (at == std::string::npos) return out;
    end = at;
  }
}

// Puts the keys of the file that `key` names below the section's own keys. Several looks
// may be named.
void merge_file(const std::string& key, const std::string& section, const std::string& shot_file,
                TomlTree& tree, std::vector<std::string>& files) {
  const auto named = tree.find(key);
  if (named == tree.end()) return;
  const auto* names = std::get_if<std::string>(&named->second.data);
  if (names == nullptr || named->second.odd || names->empty()) return;  // told when it is read
  const std::string place = named->second.place;
  const bool several = key == "lens.look";
  for (const std::string& name : several ? from_the_last(*names) : std::vector{*names}) {
    const std::string path = beside(shot_file, name);
    std::string text;
    try {
      text = read_whole_file(path);
    } catch (const FileError& e) {
      throw FileError(fmt::format("{}: {}: {}", place, key, e.what()));
    }
    files.push_back(path);
    const TomlTree own = tree;
    for (auto& [k, value] : parse_toml(text, path)) {
      // What a lens or a look does to light behind the opening is no part of the lens's own table.
      const bool of_shot = section == "lens" && k.starts_with("finish.");
      const std::string full = of_shot ? k : fmt::format("{}.{}", section, k);
      // A list is taken from one file as a whole: rows of two would make a third one.
      const auto list = full.find('[');
      const bool rival = list != std::string::npos && has_list(own, full.substr(0, list));
      if (!rival && !other_opening(own, full)) tree.try_emplace(full, value);
    }
  }
}

// A look leads over the lens's own file, and what stands in the shot over both.
void merge_parts(const std::string& shot_file, TomlTree& tree, std::vector<std::string>& files) {
  merge_file("lens.look", "lens", shot_file, tree, files);
  for (const std::string section : {"body", "lens"}) {
    const bool short_form = tree.contains(section);
    merge_file(short_form ? section : section + ".file", section, shot_file, tree, files);
  }
}

// "subject.boat.at" → "subject[0].at", whichever number the boat has; other keys stay.
std::string numbered_subject(const TomlTree& tree, const std::string& key) {
  const auto row = named_row(key);
  if (!row || row->is_pull()) return key;
  if (const auto i = number_of(tree, *row)) return row->row(*i) + "." + row->last;
  throw UsageError(fmt::format("{}: the shot file has no subject '{}'.{}", key, row->name,
                               did_you_mean(row->name, names_of_rows(tree, *row))));
}

// What leads over a newly given focus steps back: the ways to say one exclude each other.
void make_room(const std::string& key, TomlTree& tree) {
  if (key == "lens" || key == "body") {  // another one as a whole: nothing of the old one stays
    erase_under(tree, key + ".");
    erase_under(tree, "over." + key + ".");
    return;
  }
  const auto row = named_row(key);
  const bool pulled = key.starts_with("pull[") || (row && row->list == "pull");
  const auto step_back = [&](const std::string& prefix) {
    std::erase_if(tree, [&](const auto& entry) {
      return entry.first.starts_with(prefix) && is_focus_way(entry.first.substr(prefix.size()));
    });
  };
  if (pulled) {
    step_back("focus.");
    erase_under(tree, "over.focus.");
    if (row && is_focus_way(row->last) && row->last != "part") {
      if (const auto i = number_of(tree, *row)) step_back(row->row(*i) + ".");
    }
    return;
  }
  if (!key.starts_with("focus.")) return;
  if (key == "focus.offset" || key == "focus.part") return;
  step_back("focus.");
  erase_under(tree, "pull[");
  erase_under(tree, "over.focus.");
}

void apply_tried(const std::vector<Override>& tried, TomlTree& tree) {
  for (const Override& t : tried) make_room(t.key, tree);
  for (const Override& t : tried) {
    if (const auto row = named_row(t.key); row && row->list == "pull") {
      put_pull(tree, *row, tried_value(t.text, t.place));
      continue;
    }
    const std::string key = numbered_subject(tree, t.key);
    // A tried value holds at all frames.
    erase_under(tree, "over." + t.key + ".");
    tree.insert_or_assign(key, tried_value(t.text, t.place));
  }
}

// What the notes of a camera say, as one number: whoever solved them asks whether they are still
// the same. (FNV-1a, 64 bits.)
std::string mark_of(TomlTree tree, const std::string& shot_file) {
  std::vector<std::string> files;
  merge_parts(shot_file, tree, files);
  std::uint64_t hash = 0xcbf29ce484222325ULL;
  const auto add = [&](const std::string& text) {
    for (const char c : text + '\n') {
      hash = (hash ^ static_cast<unsigned char>(c)) * 0x100000001b3ULL;
    }
  };
  for (const auto& [key, value] : tree) {
    for (const std::string_view part : {"unit", "body.", "lens.", "take.", "focus.", "scene.",
                                        "subject[", "over.", "pull[", "variant."}) {
      if (!key.starts_with(part)) continue;
      add(key);
      add(value.text);
    }
  }
  return fmt::format("{:016x}", hash);
}

constexpr const char* mark_key = "solved_from";

void lay_solved_over(TomlTree& tree, Shot& shot) {
  const std::string file = solved_file_of(shot.file).string();
  if (!std::filesystem::exists(file)) return;
  shot.files.push_back(file);
  TomlTree solved = parse_toml(read_own_file(file), file);
  const auto mark = solved.find(mark_key);
  if (mark == solved.end() || mark->second.text != mark_of(tree, shot.file)) {
    shot.solved_left = fmt::format(
        "{} is left out: the notes are not those it was solved from; match the plate and accept "
        "what it says to solve these",
        std::filesystem::path(file).filename().string());
    return;
  }
  solved.erase(mark);
  for (const auto& [key, value] : solved) make_room(key, tree);
  for (auto& [key, value] : solved) {
    erase_under(tree, "over." + key + ".");
    value.source = Origin::Source::solved;
    tree.insert_or_assign(key, value);
  }
  shot.solved = file;
}

// "variant.night.take.stop" → "night" and "take.stop".
struct VariantKey {
  std::string name;
  std::string rest;
};
std::optional<VariantKey> variant_key(const std::string& key) {
  constexpr std::string_view prefix = "variant.";
  if (!key.starts_with(prefix)) return std::nullopt;
  const std::size_t dot = key.find('.', prefix.size());
  if (dot == std::string::npos) return std::nullopt;
  return VariantKey{key.substr(prefix.size(), dot - prefix.size()), key.substr(dot + 1)};
}

// "night,wide" or "night + wide": the names of variants, in the order in which they are laid over.
std::vector<std::string> stacked_names(const std::string& text) {
  std::vector<std::string> out;
  for (std::size_t from = 0; from <= text.size();) {
    const std::size_t to = std::min(text.find_first_of(",+", from), text.size());
    const auto first = text.find_first_not_of(' ', from);
    const auto last = text.find_last_not_of(' ', to == 0 ? 0 : to - 1);
    out.push_back(first >= to ? "" : text.substr(first, last - first + 1));
    from = to + 1;
  }
  return out;
}

void lay_variant_over(const TomlTree& chosen, TomlTree& tree) {
  for (const auto& [key, value] : chosen) {
    make_room(key, tree);
    if (const auto list = key.find('['); list != std::string::npos) {
      erase_under(tree, key.substr(0, list) + "[");
    }
    erase_under(tree, "over." + key + ".");
  }
  for (const auto& [key, value] : chosen) {
    tree.insert_or_assign(numbered_subject(tree, key), value);
  }
}

// Lays the chosen variants over the rest, the last one leading, and takes all variants out of the
// tree. Returns the keys that the others have, with their places, to check that they exist.
TomlTree apply_variants(const std::vector<Override>& tried, TomlTree& tree) {
  std::string wanted;
  std::string place;
  for (const Override& t : tried) {
    if (t.key == "variant") {
      wanted = t.text;
      place = t.place;
    }
  }
  // Written as a plain key it can be no table, so there is nothing that it could name.
  if (const auto noted = tree.find("variant"); noted != tree.end()) {
    wanted = noted->second.text;
    place = noted->second.place + ":";
  }
  const std::vector<std::string> stack =
      wanted.empty() ? std::vector<std::string>{} : stacked_names(wanted);
  std::map<std::string, TomlTree> chosen;
  TomlTree others;
  std::vector<std::string> names;
  for (const auto& [key, value] : tree) {
    const auto variant = variant_key(key);
    if (!variant) continue;
    names.push_back(variant->name);
    if (std::find(stack.begin(), stack.end(), variant->name) != stack.end()) {
      chosen[variant->name][variant->rest] = value;
    } else {
      others[key] = value;
    }
  }
  for (const std::string& name : stack) {
    if (chosen.contains(name)) continue;
    throw UsageError(fmt::format("{} {}: the shot file has no such variant.{}", place, name,
                                 names.empty() ? " It has none at all: write [variant.night.take] "
                                                 "and what is different there."
                                               : did_you_mean(name, names)));
  }
  erase_under(tree, "variant.");
  for (const std::string& name : stack) lay_variant_over(chosen.at(name), tree);
  return others;
}

// [guessed] has the keys of values that nobody said, each with the reason for it.
struct NotedGuess {
  std::string key;
  TomlValue why;
  std::string of;  // the place of the value that was guessed; another one is no guess
};

std::vector<NotedGuess> take_guesses(TomlTree& tree) {
  constexpr std::string_view prefix = "guessed.";
  std::vector<NotedGuess> guesses;
  for (const auto& [full, why] : tree) {
    if (!full.starts_with(prefix)) continue;
    const std::string key = full.substr(prefix.size());
    std::string plain = key;
    try {
      plain = numbered_subject(tree, key);
    } catch (const UsageError& e) {
      throw ShotFileError({{why.place, full, e.what()}});
    }
    const auto value = tree.find(plain);
    guesses.push_back({plain, why, value == tree.end() ? "" : value->second.place});
  }
  erase_under(tree, std::string(prefix));
  return guesses;
}

void mark_guesses(const std::vector<NotedGuess>& guesses, ShotReader& in,
                  std::map<std::string, Origin>& origins) {
  for (const NotedGuess& g : guesses) {
    const auto* why = std::get_if<std::string>(&g.why.data);
    const std::string full = "guessed." + g.key;
    if (why == nullptr || why->empty()) {
      in.mistake_at(g.why.place, full, "says why, as text in quotes");
    } else if (g.of.empty()) {
      in.mistake_at(g.why.place, full,
                    "names no value of this file; write the value, or take this line out");
    } else if (const auto value = origins.find(g.key);
               value != origins.end() && value->second.place == g.of) {
      value->second.source = Origin::Source::guessed;
      value->second.why = *why;
    }
  }
}

// What is only given over frames stands, at its first frame, also where a plain value is needed.
void lay_keyed_below(TomlTree& tree) {
  std::map<std::string, std::pair<int, TomlValue>> firsts;
  for (const auto& [full, value] : tree) {
    constexpr std::string_view prefix = "over.";
    const std::size_t dot = full.rfind('.');
    if (!full.starts_with(prefix) || dot <= prefix.size()) continue;
    int frame = 0;
    const char* end = full.data() + full.size();
    if (std::from_chars(full.data() + dot + 1, end, frame).ptr != end) continue;
    const std::string key = full.substr(prefix.size(), dot - prefix.size());
    const auto [at, fresh] = firsts.try_emplace(key, frame, value);
    if (!fresh && frame < at->second.first) at->second = {frame, value};
  }
  for (const auto& [key, first] : firsts) {
    std::string plain = key;
    try {
      plain = numbered_subject(tree, key);
    } catch (const UsageError& e) {
      throw ShotFileError({{first.second.place, "over." + key, e.what()}});
    }
    tree.try_emplace(plain, first.second);
  }
}

}  // namespace

Body read_body_file(const std::filesystem::path& path) {
  const std::string file = path.string();
  TomlTree tree;
  for (auto& [key, value] : parse_toml(read_whole_file(path), file)) tree["body." + key] = value;
  ShotReader in(std::move(tree), "a body file");
  Body body;
  read_body(in, body);
  in.check_parameter();
  in.throw_mistakes(file);
  return body;
}

std::filesystem::path solved_file_of(const std::filesystem::path& shot_file) {
  std::string name = shot_file.filename().string();
  for (const std::string_view ending : {".shot.toml", ".toml"}) {
    if (!name.ends_with(ending)) continue;
    name.resize(name.size() - ending.size());
    break;
  }
  return shot_file.parent_path() / (name + ".solved.toml");
}

std::string solved_text(const std::filesystem::path& shot_file, const std::string& why,
                        const std::vector<SolvedValue>& values) {
  const std::string file = shot_file.string();
  const std::string mark = mark_of(parse_toml(read_whole_file(shot_file), file), file);
  std::string text = fmt::format(
      "# What the plate says of {}, which stays as it was noted.\n# {}\n# It leads over the notes "
      "as "
      "long as they are those it was solved from. Delete it to go back.\n{} = \"{}\"\n\n",
      shot_file.filename().string(), why, mark_key, mark);
  std::size_t width = 0;
  for (const SolvedValue& v : values) width = std::max(width, v.key.size() + v.value.size());
  for (const SolvedValue& v : values) {
    text += fmt::format(
        "{} = {}{}\n", v.key, v.value,
        v.message.empty()
            ? ""
            : std::string(width - v.key.size() - v.value.size(), ' ') + "   # " + v.message);
  }
  return text;
}

Shot read_shot(const std::filesystem::path& path, const std::vector<Override>& tried,
               Solved solved) {
  Shot shot;
  shot.file = path.string();
  shot.files.push_back(shot.file);
  const std::string text = read_whole_file(path);
  if (text.find('\0') != std::string::npos) {
    throw NoShotError(shot.file + ": is not text, so it is no shot file");
  }
  TomlTree tree = parse_toml(text, shot.file);
  const std::vector<NotedGuess> guesses = take_guesses(tree);
  if (solved == Solved::laid_over) lay_solved_over(tree, shot);
  const TomlTree other_variants = apply_variants(tried, tree);
  apply_tried(tried, tree);  // before merging, so that another body or lens file can be tried too
  merge_parts(shot.file, tree, shot.files);
  lay_keyed_below(tree);
  ShotReader in(std::move(tree));
  read_sections(in, shot.file, shot);
  read_moves(in, shot);
  in.check_parameter(other_variants);
  shot.origins = in.origins();
  mark_guesses(guesses, in, shot.origins);
  in.throw_mistakes(shot.file);
  return shot;
}

}  // namespace jolly_iris
