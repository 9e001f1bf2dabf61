// JSON read by nlohmann's parser, as events, so that no second tree of it stands in memory.
#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "disk/json.hpp"
#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

constexpr std::size_t deepest = 64;  // our own files have six levels

class Builder {
 public:
  using number_integer_t = std::int64_t;
  using number_unsigned_t = std::uint64_t;
  using number_float_t = double;
  using string_t = std::string;
  using binary_t = nlohmann::json::binary_t;

  bool null() { return put(Json()); }
  bool boolean(bool v) { return put(Json(v)); }
  bool number_integer(number_integer_t v) { return put(Json(v)); }
  bool number_unsigned(number_unsigned_t v) { return put(Json(v)); }
  bool number_float(number_float_t v, const string_t&) { return put(Json(v)); }
  bool string(string_t& v) { return put(Json(std::move(v))); }
  bool binary(binary_t&) { return false; }
  bool start_object(std::size_t) { return begin(Json::object()); }
  bool start_array(std::size_t) { return begin(Json::array()); }
  bool end_object() { return end(); }
  bool end_array() { return end(); }
  bool key(string_t& name) {
    open_.back().key = std::move(name);
    return true;
  }
  bool parse_error(std::size_t position, const std::string&, const nlohmann::json::exception&) {
    failed_at = position;
    return false;
  }

  Json root{};
  std::size_t failed_at = 0;
  bool too_deep = false;

 private:
  struct Open {
    Json value{};
    std::string key{};
  };

  bool put(Json value) {
    if (open_.empty()) {
      root = std::move(value);
    } else if (Open& in = open_.back(); in.value.is_array()) {
      in.value.push_back(std::move(value));
    } else {
      in.value[in.key] = std::move(value);  // of a name that stands twice, the last counts
    }
    return true;
  }

  bool begin(Json value) {
    too_deep = open_.size() >= deepest;
    if (too_deep) return false;
    open_.push_back({std::move(value), {}});
    return true;
  }

  bool end() {
    Json value = std::move(open_.back().value);
    open_.pop_back();
    return put(std::move(value));
  }

  std::vector<Open> open_{};
};

}  // namespace

Json json_from(const std::string& text, const std::string& name) {
  Builder builder;
  if (nlohmann::json::sax_parse(text, &builder)) return std::move(builder.root);
  if (builder.too_deep) {
    throw FileError(fmt::format("{}: has lists within lists over {} deep", name, deepest));
  }
  const auto at = static_cast<std::ptrdiff_t>(std::min(builder.failed_at, text.size()));
  const auto line = 1 + std::count(text.begin(), text.begin() + at, '\n');
  const std::size_t before = text.rfind('\n', at > 0 ? static_cast<std::size_t>(at - 1) : 0);
  const std::size_t column =
      static_cast<std::size_t>(at) - (before == std::string::npos ? 0 : before + 1);
  throw FileError(fmt::format("{}:{}:{}: is no JSON from here on", name, line, column));
}

}  // namespace jolly_iris
