// Takes values out of a TomlTree one key at a time, remembering every mistake and every origin.
#pragma once

#include <array>
#include <functional>
#include <limits>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "jolly_iris/files/shot_file.hpp"
#include "jolly_iris/optics/range.hpp"
#include "toml_tree.hpp"

namespace jolly_iris {

/// The least of numbers that are above zero.
inline constexpr double smallest_above_zero = std::numeric_limits<double>::min();

/// What is wrong with a length that is to be above zero; nothing if it is. For
/// ShotReader::quantity.
inline std::string above_zero(const Length& l) {
  return l.mm() > 0.0 ? "" : "is not above zero; a length here is greater than zero";
}

class ShotReader {
 public:
  /// @param kind what is read, for messages: "a shot file"
  explicit ShotReader(TomlTree tree, std::string kind = "a shot file")
      : tree_(std::move(tree)), kind_(std::move(kind)) {}

  bool has(const std::string& key) const { return tree_.contains(key); }
  const TomlTree& tree() const { return tree_; }

  /// Text; none (and a mistake) for another kind or a blank.
  std::optional<std::string> text(const std::string& key);
  /// Text or a bare number, as it was written; none (and a mistake) for another kind or a blank.
  std::optional<std::string> written(const std::string& key);
  /// Two numbers: a place in a picture, px from its top left corner.
  std::optional<std::array<double, 2>> pixel(const std::string& key);
  /// A plain number within [least, most]; `wanted` says what would be right.
  std::optional<double> number(const std::string& key, double min, double max,
                               const std::string& wanted);
  /// The same, with what is in range said: "not a frame rate from 0.1 to 10; write e.g. 24".
  std::optional<double> number(const std::string& key, const Range& range, const std::string& what,
                               const std::string& hint = "");
  /// True or false.
  std::optional<bool> truth(const std::string& key);
  /// From `least` to `most` numbers, all finite; `wanted` says what would be right.
  std::optional<std::vector<double>> numbers(const std::string& key, std::size_t min,
                                             std::size_t max, const std::string& wanted);
  /// A list of places in a picture, at least so many: [[x, y], [x, y]].
  std::optional<std::vector<std::array<double, 2>>> pixels(const std::string& key, std::size_t min);
  /// Three numbers.
  std::optional<std::array<double, 3>> place(const std::string& key);
  /// A quantity: text handed to one of the readers of quantity.hpp, then to `check`, which returns
  /// what would be right, or nothing if all is well.
  template <class T>
  std::optional<T> quantity(const std::string& key, T (*parse)(std::string_view),
                            const std::function<std::string(const T&)>& check = {}) {
    const auto written = text(key);
    if (!written) return std::nullopt;
    try {
      const T value = parse(*written);
      const std::string wrong = check ? check(value) : std::string{};
      if (wrong.empty()) return value;
      mistake(key, fmt_value(key) + wrong);
    } catch (const QuantityError& e) {
      mistake(key, e.what());
    }
    return std::nullopt;
  }
  /// One of a few words.
  template <class T>
  std::optional<T> choice(const std::string& key,
                          const std::vector<std::pair<std::string, T>>& choices) {
    const auto written = text(key);
    if (!written) return std::nullopt;
    std::vector<std::string> names;
    for (const auto& [name, value] : choices) {
      if (name == *written) return value;
      names.push_back(name);
    }
    refuse_choice(key, names);
    return std::nullopt;
  }

  void require(const std::string& key, const std::string& example);
  void mistake(const std::string& key, const std::string& message);
  /// Of what stands in no tree any more.
  void mistake_at(const std::string& place, const std::string& key, const std::string& message);
  /// Whether any key begins with this.
  bool has_section(const std::string& prefix) const;
  /// Marks a key as one that was asked for, without reading it.
  void know(const std::string& key) { known_.insert(key); }
  /// Every key that nobody asked for is a mistake, with the nearest known key.
  /// @param others keys of variants that were not chosen: "variant.night.take.stop"
  void check_parameter(const TomlTree& others = {});
  bool good() const { return mistakes_.empty(); }
  std::vector<FileMistake> mistakes() const { return mistakes_; }
  /// @param file where mistakes are that have no place of their own
  /// @throws ShotFileError with all mistakes as a person goes through them, if there are any
  void throw_mistakes(const std::string& file) const;
  std::map<std::string, Origin> origins() const;

 private:
  const TomlValue* find(const std::string& key);
  std::set<std::string> known_plain() const;
  std::string hint_for(const std::string& key, const std::set<std::string>& known) const;
  std::string fmt_value(const std::string& key) const;
  void refuse_choice(const std::string& key, const std::vector<std::string>& names);

  TomlTree tree_;
  std::string kind_;
  std::set<std::string> known_;
  std::vector<FileMistake> mistakes_;
};

}  // namespace jolly_iris
