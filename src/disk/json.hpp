// A tree of values that becomes JSON text: what every result is said as, built without the cost
// that a JSON library's templates put on each file that includes them.
#pragma once

#include <array>
#include <concepts>
#include <cstdint>
#include <initializer_list>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <variant>
#include <vector>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// One value: null, a truth, a number, a text, a list, or names with values in the order in which
/// they were added. Built with braces as JSON is: `Json{{"name", "boat"}, {"at", {2.0, 1.0}}}`. A
/// list in braces whose entries are all pairs with a text in front is an object, any other an
/// array; where that is not meant, Json::array says so.
class Json {
 public:
  using Array = std::vector<Json>;
  using Object = std::vector<std::pair<std::string, Json>>;

  Json() = default;
  Json(std::nullptr_t) {}  // NOLINT(google-explicit-constructor): values become JSON by themselves
  template <class T>
  requires std::same_as<T, bool> Json(T value) : value_(value) {}
  template <std::signed_integral T>
  Json(T value) : value_(static_cast<std::int64_t>(value)) {}
  template <std::unsigned_integral T>
  requires(!std::same_as<T, bool>) Json(T value) : value_(static_cast<std::uint64_t>(value)) {}
  template <std::floating_point T>
  Json(T value) : value_(static_cast<double>(value)) {}
  Json(const char* text) : value_(std::string(text)) {}
  Json(std::string_view text) : value_(std::string(text)) {}
  Json(std::string text) : value_(std::move(text)) {}
  template <class T>
  Json(const std::vector<T>& values) : value_(Array(values.begin(), values.end())) {}
  template <class T, std::size_t n>
  Json(const std::array<T, n>& values) : value_(Array(values.begin(), values.end())) {}
  template <class T>
  Json(const std::map<std::string, T>& values) : value_(Object(values.begin(), values.end())) {}
  Json(std::initializer_list<Json> values);

  static Json array(std::initializer_list<Json> values = {}) { return Json(Array(values)); }
  static Json object() { return Json(Object{}); }

  bool is_null() const { return std::holds_alternative<std::monostate>(value_); }
  bool is_array() const { return std::holds_alternative<Array>(value_); }
  bool is_object() const { return std::holds_alternative<Object>(value_); }
  const std::string* text() const { return std::get_if<std::string>(&value_); }
  /// A number as a double; none of anything else.
  std::optional<double> number() const;
  /// A number that was given as a whole one; none of anything else, and of those beyond 2^63 - 1.
  std::optional<std::int64_t> whole() const;
  /// A truth; none of anything else.
  std::optional<bool> truth() const;
  /// The entries of an array; none of anything else.
  const Array& entries() const;
  /// The names and values of an object; none of anything else.
  const Object& members() const;
  std::size_t size() const;
  bool empty() const { return size() == 0; }

  /// The value of a name, made if it is not there yet; null becomes an object.
  /// @pre null or an object
  Json& operator[](std::string_view name);
  Json& operator[](const char* name) { return (*this)[std::string_view(name)]; }
  /// Adds a name that is not there yet, without looking for it. @pre null or an object
  Json& add(std::string name, Json value);
  /// The value of a name, or nullptr.
  const Json* find(std::string_view name) const;

  /// Adds to the end; null becomes an array. @pre null or an array
  void push_back(Json value);
  /// @pre an array that is not empty
  Json& back();

  /// As text: over lines with so many blanks a level, or in one line for less than 0. Bytes that
  /// are no UTF-8 become U+FFFD; a number that is none becomes null.
  std::string dump(int indent = -1) const;

 private:
  explicit Json(Array values) : value_(std::move(values)) {}
  explicit Json(Object values) : value_(std::move(values)) {}

  std::variant<std::monostate, bool, std::int64_t, std::uint64_t, double, std::string, Array,
               Object>
      value_{};
};

/// JSON text as values, in the order in which it has them.
/// @param name of the file, for messages
/// @throws FileError for text that is no JSON, with line and column; for lists within lists over
///         sixty-four deep
Json json_from(const std::string& text, const std::string& name);

/// The value at a path of names and indices, "subjects.boat.coc_px" or "frames.1.focus_m", as one
/// line of text: a text bare, all else as JSON. An entry of an array is also found by its "name".
/// @throws UsageError for no such path, with what there is instead
std::string value_at(const Json& all, const std::string& path);

}  // namespace jolly_iris
