#include "shot_reader.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <tuple>
#include "optics/nearest.hpp"

namespace jolly_iris {

namespace {

// More than a person reads of one file, or mends at once.
constexpr std::size_t most_said = 30;

std::string join(const std::vector<FileMistake>& mistakes) {
  std::string all;
  for (const FileMistake& m : mistakes) {
    if (!all.empty()) all += '\n';
    if (&m - mistakes.data() == most_said) {
      return all + fmt::format("… and {} more", mistakes.size() - most_said);
    }
    if (!m.place.empty()) all += m.place + ": ";
    if (!m.key.empty()) all += m.key + ": ";
    all += m.message;
  }
  return all;
}

// "subject[3].name" → "subject.name": how a key is known, wherever it stands.
std::string without_index(const std::string& key) {
  const auto open = key.find('[');
  if (open == std::string::npos) return key;
  return key.substr(0, open) + key.substr(key.find(']') + 1);
}

// By file, then from top to bottom, as a person goes through them.
bool in_reading_order(const FileMistake& a, const FileMistake& b) {
  const auto split = [](const std::string& place) {
    int line = 0;
    int column = 0;
    const auto second = place.rfind(':');
    const auto first =
        second == std::string::npos || second == 0 ? second : place.rfind(':', second - 1);
    if (first == std::string::npos || first == second) return std::tuple(place, line, column);
    std::from_chars(place.data() + first + 1, place.data() + second, line);
    std::from_chars(place.data() + second + 1, place.data() + place.size(), column);
    return std::tuple(place.substr(0, first), line, column);
  };
  return split(a.place) < split(b.place);
}

}  // namespace

ShotFileError::ShotFileError(std::vector<FileMistake> mistakes)
    : UsageError(join(mistakes)), mistakes_(std::move(mistakes)) {}

const TomlValue* ShotReader::find(const std::string& key) {
  known_.insert(key);
  const auto found = tree_.find(key);
  return found == tree_.end() ? nullptr : &found->second;
}

std::string ShotReader::fmt_value(const std::string& key) const {
  return fmt::format("'{}' ", tree_.at(key).text);
}

std::optional<std::string> ShotReader::text(const std::string& key) {
  const TomlValue* value = find(key);
  if (value == nullptr) return std::nullopt;
  const bool typed = value->source == Origin::Source::tried && !value->odd;
  const auto* written = std::get_if<std::string>(&value->data);
  if (value->odd || (written == nullptr && !typed)) {
    const bool number = std::holds_alternative<double>(value->data);
    mistake(key, fmt::format("{} is {}; write text in quotes{}", value->text,
                             number ? "a bare number" : "not text",
                             number ? ", with its unit where it has one" : ""));
    return std::nullopt;
  }
  const std::string& result = written != nullptr && !typed ? *written : value->text;
  const bool blank = result.find_first_not_of(" \t?_") == std::string::npos;
  if (blank) {
    mistake(key, "is still blank; fill it in, or take the line out");
    return std::nullopt;
  }
  return result;
}

std::optional<double> ShotReader::number(const std::string& key, double min, double max,
                                         const std::string& wanted) {
  const TomlValue* value = find(key);
  if (value == nullptr) return std::nullopt;
  const auto* number = std::get_if<double>(&value->data);
  if (number == nullptr || !(*number >= min && *number <= max)) {
    mistake(key, fmt::format("'{}' is not {}", value->text, wanted));
    return std::nullopt;
  }
  return *number;
}

std::optional<double> ShotReader::number(const std::string& key, const Range& range,
                                         const std::string& what, const std::string& hint) {
  return number(key, range.min, range.max,
                what + " " + words_of(range) + (hint.empty() ? "" : "; " + hint));
}

std::optional<std::string> ShotReader::written(const std::string& key) {
  const TomlValue* value = find(key);
  if (value != nullptr && std::holds_alternative<double>(value->data)) return value->text;
  return text(key);
}

bool ShotReader::has_section(const std::string& prefix) const {
  const auto first = tree_.lower_bound(prefix);
  return first != tree_.end() && first->first.starts_with(prefix);
}

std::optional<bool> ShotReader::truth(const std::string& key) {
  const TomlValue* value = find(key);
  if (value == nullptr) return std::nullopt;
  if (const auto* yes = std::get_if<bool>(&value->data)) return *yes;
  mistake(key, fmt::format("'{}' is neither true nor false", value->text));
  return std::nullopt;
}

std::optional<std::vector<double>> ShotReader::numbers(const std::string& key, std::size_t min,
                                                       std::size_t max, const std::string& wanted) {
  const TomlValue* value = find(key);
  if (value == nullptr) return std::nullopt;
  const auto* list = std::get_if<std::vector<double>>(&value->data);
  const bool good =
      list != nullptr && !value->odd && value->rows == 0 && list->size() >= min &&
      list->size() <= max &&
      std::all_of(list->begin(), list->end(), [](double v) { return range::entry.holds(v); });
  if (!good) {
    mistake(key, fmt::format("{} is not {}", value->text, wanted));
    return std::nullopt;
  }
  return *list;
}

std::optional<std::array<double, 2>> ShotReader::pixel(const std::string& key) {
  const auto two = numbers(key, 2, 2,
                           "a place in the picture; write [x, y] in pixels from its top left "
                           "corner, e.g. [960, 540]");
  if (!two) return std::nullopt;
  return std::array<double, 2>{(*two)[0], (*two)[1]};
}

std::optional<std::array<double, 3>> ShotReader::place(const std::string& key) {
  const auto three = numbers(key, 3, 3,
                             "a place; write three numbers in your scene's units, e.g. [0.4, 0.1, "
                             "-2.35]");
  if (!three) return std::nullopt;
  return std::array<double, 3>{(*three)[0], (*three)[1], (*three)[2]};
}

std::optional<std::vector<std::array<double, 2>>> ShotReader::pixels(const std::string& key,
                                                                     std::size_t min) {
  const TomlValue* value = find(key);
  if (value == nullptr) return std::nullopt;
  const auto* list = std::get_if<std::vector<double>>(&value->data);
  const bool good =
      list != nullptr && !value->odd && value->rows >= min && list->size() == 2 * value->rows &&
      std::all_of(list->begin(), list->end(), [](double v) { return range::entry.holds(v); });
  if (!good) {
    mistake(key, fmt::format("{} is not a list of {} or more places in the picture; write [[x, y], "
                             "[x, y]{}] in pixels from its top left corner",
                             value->text, min, min > 2 ? ", …" : ""));
    return std::nullopt;
  }
  std::vector<std::array<double, 2>> places;
  for (std::size_t i = 0; i < value->rows; ++i) {
    places.push_back({(*list)[2 * i], (*list)[2 * i + 1]});
  }
  return places;
}

void ShotReader::refuse_choice(const std::string& key, const std::vector<std::string>& names) {
  std::string list;
  for (const std::string& n : names) list += (list.empty() ? "" : ", ") + n;
  mistake(key, fmt_value(key) + "is not one of: " + list);
}

void ShotReader::require(const std::string& key, const std::string& example) {
  if (tree_.contains(key)) return;
  std::string place;
  for (const auto& [other, value] : tree_) {
    if (value.source == Origin::Source::tried) continue;
    place = value.place.substr(0, value.place.find(':'));
    break;
  }
  mistakes_.push_back({place, key, "is missing; write e.g. " + example});
}

void ShotReader::mistake(const std::string& key, const std::string& message) {
  const auto found = tree_.find(key);
  mistakes_.push_back({found == tree_.end() ? "" : found->second.place, key, message});
}

void ShotReader::mistake_at(const std::string& place, const std::string& key,
                            const std::string& message) {
  mistakes_.push_back({place, key, message});
}

void ShotReader::throw_mistakes(const std::string& file) const {
  if (good()) return;
  auto all = mistakes();
  for (FileMistake& m : all) {
    if (m.place.empty()) m.place = file;
  }
  std::stable_sort(all.begin(), all.end(), in_reading_order);
  throw ShotFileError(std::move(all));
}

std::set<std::string> ShotReader::known_plain() const {
  std::set<std::string> known;
  for (const std::string& key : known_) known.insert(without_index(key));
  return known;
}

std::string ShotReader::hint_for(const std::string& key, const std::set<std::string>& known) const {
  if (mistakes_.size() >= most_said) return "";  // nobody reads it
  const std::string plain = without_index(key);
  // A misspelt last part is likelier than a wrong section, so look there first.
  const std::string section = plain.substr(0, plain.rfind('.') + 1);
  std::vector<std::string> beside;
  for (const std::string& k : known) {
    if (k.starts_with(section) && k.find('.', section.size()) == std::string::npos) {
      beside.push_back(k);
    }
  }
  const auto in_section = section.empty() ? std::nullopt : nearest_name(plain, beside);
  const std::string last = plain.substr(section.size());
  std::vector<std::string> same_last;
  for (const std::string& k : known) {
    if (k.substr(k.rfind('.') + 1) == last) same_last.push_back(k);
  }
  if (in_section && !section.empty() &&
      2 * edit_distance(last, in_section->substr(section.size())) <=
          static_cast<int>(last.size())) {
    return " Did you mean '" + *in_section + "'?";
  }
  if (same_last.size() == 1) return " Did you mean '" + same_last[0] + "'?";
  return did_you_mean(plain, beside.empty() ? std::vector(known.begin(), known.end()) : beside);
}

void ShotReader::check_parameter(const TomlTree& others) {
  const std::set<std::string> known = known_plain();
  for (const auto& [key, value] : tree_) {
    if (!known_.contains(key)) {
      mistake(key, fmt::format("is not a key of {}.{}", kind_, hint_for(key, known)));
    }
  }
  // Variants that were not chosen are not read; but their keys can be misspelt as well.
  for (const auto& [key, value] : others) {
    const std::size_t name = key.find('.');
    const std::string rest = key.substr(key.find('.', name + 1) + 1);
    const bool named = rest.starts_with("subject.") || rest.starts_with("over.");
    // Lists are only known as far as this file has rows of them.
    const bool list = rest.find('[') != std::string::npos;
    const std::string plain = without_index(rest);
    if (named || list || known.contains(plain)) continue;
    mistakes_.push_back(
        {value.place, key, fmt::format("is not a key of a shot file.{}", hint_for(rest, known))});
  }
}

std::map<std::string, Origin> ShotReader::origins() const {
  std::map<std::string, Origin> all;
  for (const auto& [key, value] : tree_) all[key] = {value.source, value.place, value.text};
  return all;
}

}  // namespace jolly_iris
