#include "disk/json.hpp"

#include <algorithm>
#include <nlohmann/json.hpp>
#include <utility>

#include "jolly_iris/optics/errors.hpp"
#include "optics/nearest.hpp"

namespace jolly_iris {

namespace {

// Texts and numbers as the library writes them: escapes, and the shortest figures that read back.
template <class T>
std::string leaf(const T& value) {
  return nlohmann::json(value).dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
}

class Writer {
 public:
  explicit Writer(int indent) : indent_(indent) {}

  void write(const Json& value, int level) {
    if (value.is_object()) {
      list(value.members(), level, '{', '}', [&](const auto& member) {
        out_ += leaf(member.first) + (indent_ < 0 ? ":" : ": ");
        write(member.second, level + 1);
      });
    } else if (value.is_array()) {
      list(value.entries(), level, '[', ']', [&](const Json& entry) { write(entry, level + 1); });
    } else {
      out_ += value.dump();
    }
  }
  std::string text() && { return std::move(out_); }

 private:
  template <class List, class Each>
  void list(const List& values, int level, char opens, char closes, const Each& each) {
    out_ += opens;
    bool first = true;
    for (const auto& value : values) {
      if (!first) out_ += ',';
      first = false;
      new_line(level + 1);
      each(value);
    }
    if (!values.empty()) new_line(level);
    out_ += closes;
  }
  void new_line(int level) {
    if (indent_ < 0) return;
    out_ += '\n';
    out_.append(static_cast<std::size_t>(indent_) * static_cast<std::size_t>(level), ' ');
  }

  int indent_;
  std::string out_{};
};

bool is_named(const Json& value) {
  const Json* name = value.find("name");
  return name != nullptr && name->text() != nullptr;
}

// What is one step below a value: an object's key, or a list's number or name.
const Json* child(const Json& at, const std::string& part) {
  if (at.is_object()) return at.find(part);
  for (const Json& entry : at.entries()) {
    if (is_named(entry) && *entry.find("name")->text() == part) return &entry;
  }
  const bool digits =
      !part.empty() && part.size() < 6 && part.find_first_not_of("0123456789") == std::string::npos;
  if (!digits || std::stoul(part) >= at.entries().size()) return nullptr;
  return &at.entries()[std::stoul(part)];
}

std::vector<std::string> children(const Json& at, const std::string& prefix) {
  std::vector<std::string> names;
  for (const auto& [key, value] : at.members()) {
    names.push_back(prefix + (is_named(value) ? *value.find("name")->text() : key));
  }
  for (std::size_t i = 0; i < at.entries().size(); ++i) {
    const Json& value = at.entries()[i];
    names.push_back(prefix + (is_named(value) ? *value.find("name")->text() : std::to_string(i)));
  }
  return names;
}

}  // namespace

Json::Json(std::initializer_list<Json> values) {
  const bool named = std::all_of(values.begin(), values.end(), [](const Json& v) {
    return v.is_array() && v.size() == 2 && v.entries()[0].text() != nullptr;
  });
  if (!named) {
    value_ = Array(values);
    return;
  }
  Object object;
  for (const Json& v : values) object.emplace_back(*v.entries()[0].text(), v.entries()[1]);
  value_ = std::move(object);
}

std::optional<bool> Json::truth() const {
  const bool* held = std::get_if<bool>(&value_);
  return held == nullptr ? std::nullopt : std::optional<bool>(*held);
}

std::optional<double> Json::number() const {
  if (const auto* v = std::get_if<std::int64_t>(&value_)) return static_cast<double>(*v);
  if (const auto* v = std::get_if<std::uint64_t>(&value_)) return static_cast<double>(*v);
  if (const auto* v = std::get_if<double>(&value_)) return *v;
  return std::nullopt;
}

std::optional<std::int64_t> Json::whole() const {
  if (const auto* v = std::get_if<std::int64_t>(&value_)) return *v;
  if (const auto* v = std::get_if<std::uint64_t>(&value_);
      v != nullptr && std::in_range<std::int64_t>(*v)) {
    return static_cast<std::int64_t>(*v);
  }
  return std::nullopt;
}

const Json::Array& Json::entries() const {
  static const Array none;
  const auto* array = std::get_if<Array>(&value_);
  return array == nullptr ? none : *array;
}

const Json::Object& Json::members() const {
  static const Object none;
  const auto* object = std::get_if<Object>(&value_);
  return object == nullptr ? none : *object;
}

std::size_t Json::size() const { return entries().size() + members().size(); }

Json& Json::operator[](std::string_view name) {
  if (is_null()) value_ = Object{};
  auto& object = std::get<Object>(value_);
  const auto found = std::find_if(object.begin(), object.end(),
                                  [&](const auto& member) { return member.first == name; });
  if (found != object.end()) return found->second;
  return object.emplace_back(std::string(name), Json()).second;
}

Json& Json::add(std::string name, Json value) {
  if (is_null()) value_ = Object{};
  return std::get<Object>(value_).emplace_back(std::move(name), std::move(value)).second;
}

const Json* Json::find(std::string_view name) const {
  for (const auto& [key, value] : members()) {
    if (key == name) return &value;
  }
  return nullptr;
}

void Json::push_back(Json value) {
  if (is_null()) value_ = Array{};
  std::get<Array>(value_).push_back(std::move(value));
}

Json& Json::back() { return std::get<Array>(value_).back(); }

std::string Json::dump(int indent) const {
  if (is_array() || is_object()) {
    Writer writer(indent);
    writer.write(*this, 0);
    return std::move(writer).text();
  }
  return std::visit(
      [](const auto& value) -> std::string {
        using T = std::decay_t<decltype(value)>;
        if constexpr (std::is_same_v<T, std::monostate>) {
          return "null";
        } else if constexpr (std::is_same_v<T, Array> || std::is_same_v<T, Object>) {
          return {};  // written above
        } else {
          return leaf(value);
        }
      },
      value_);
}

std::string value_at(const Json& all, const std::string& path) {
  const Json* at = &all;
  std::string walked;
  std::size_t from = 0;
  while (from <= path.size()) {
    // A subject's name may hold dots itself, so the longest part that fits is taken.
    const Json* next = nullptr;
    std::size_t end = path.size();
    for (;; end = path.rfind('.', end - 1)) {
      if (end == std::string::npos || end <= from) break;
      next = child(*at, path.substr(from, end - from));
      if (next != nullptr || end == 0) break;
    }
    if (next == nullptr) {
      throw UsageError(path + ": there is no such value." +
                       did_you_mean(path, children(*at, walked)));
    }
    walked = path.substr(0, end) + ".";
    at = next;
    from = end + 1;
  }
  if (at->is_object()) {
    throw UsageError(path + ": that is a group; add one of its keys." +
                     did_you_mean(walked, children(*at, walked)));
  }
  if (at->is_null()) return "infinity";
  return at->text() != nullptr ? *at->text() : at->dump();
}

}  // namespace jolly_iris
