#include "usda_text.hpp"

#include <fmt/format.h>

#include <charconv>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/range.hpp"

namespace jolly_iris::usda {

namespace {

constexpr int deepest = 200;  // of prims and lists within each other

class Parser {
 public:
  Parser(const std::string& text, const std::string& file) : text_(text), file_(file) {}

  Stage stage() {
    if (!text_.starts_with("#usda 1.0")) {
      refuse(
          "is not USD text: it does not begin with '#usda 1.0'. Crates (.usd, .usdc) are "
          "binary; save as .usda");
    }
    Stage stage;
    skip();
    if (peek() == '(') metadata(stage.metadata);
    while (skip(), at_ < text_.size()) {
      if (is_specifier(word_ahead())) {
        stage.prims.push_back(prim(0));
      } else {
        refuse(fmt::format("'{}' stands where a prim (def …) was expected", word_ahead()));
      }
    }
    return stage;
  }

 private:
  [[noreturn]] void refuse(const std::string& why) const {
    throw FileError(fmt::format("{}:{}: {}", file_, line_, why));
  }

  char peek() const { return at_ < text_.size() ? text_[at_] : '\0'; }

  char next() {
    const char c = peek();
    if (c == '\0') refuse("ends in the middle of something");
    if (c == '\n') ++line_;
    ++at_;
    return c;
  }

  // Over blanks, line ends, comments and the separators that may stand between statements.
  void skip() {
    for (;;) {
      const char c = peek();
      if (c == '#') {
        while (at_ < text_.size() && peek() != '\n') ++at_;
      } else if (c == ' ' || c == '\t' || c == '\r' || c == '\n' || c == ';') {
        next();
      } else {
        return;
      }
    }
  }

  void expect(char wanted) {
    skip();
    if (peek() != wanted) {
      refuse(fmt::format("'{}' stands where '{}' was expected", word_ahead(), wanted));
    }
    next();
  }

  static bool in_word(char c) {
    return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '_' ||
           c == ':' || c == '.' || c == '-' || c == '+' || c == '!' || c == '[' || c == ']';
  }

  std::string word_ahead() const {
    std::size_t end = at_;
    while (end < text_.size() && in_word(text_[end])) ++end;
    return end > at_ ? text_.substr(at_, end - at_) : std::string(1, peek());
  }

  std::string word() {
    skip();
    std::string w = word_ahead();
    if (w.empty() || !in_word(w[0])) {
      refuse(fmt::format("'{}' stands where a word was expected", w));
    }
    at_ += w.size();
    return w;
  }

  static bool is_specifier(const std::string& w) {
    return w == "def" || w == "over" || w == "class";
  }

  std::string quoted() {
    const char quote = next();
    const bool triple = text_.compare(at_, 2, std::string(2, quote)) == 0;
    if (triple) at_ += 2;
    std::string out;
    for (;;) {
      const char c = next();
      if (c == '\\') {
        out += next();
      } else if (c == quote && (!triple || text_.compare(at_, 2, std::string(2, quote)) == 0)) {
        if (triple) at_ += 2;
        return out;
      } else {
        out += c;
      }
    }
  }

  Value value(int depth) {
    skip();
    if (depth > deepest) refuse("has lists too deep within each other");
    Value v;
    v.line = line_;
    const char c = peek();
    if (c == '"' || c == '\'') {
      v.data = quoted();
    } else if (c == '@') {
      next();
      std::string path;
      while (peek() != '@') path += next();
      next();
      v.data = path;
    } else if (c == '<') {
      std::string path;
      while (peek() != '>') path += next();
      next();
      v.data = path;
    } else if (c == '(' || c == '[') {
      v.data = list(c == '(' ? ')' : ']', depth);
    } else if (c == '{') {
      braces();
    } else {
      v.data = bare();
    }
    return v;
  }

  std::variant<std::monostate, double, std::string, std::vector<Value>> bare() {
    std::size_t end = at_;
    while (end < text_.size() && in_word(text_[end]) && text_[end] != '[' && text_[end] != ']' &&
           text_[end] != ':') {
      ++end;
    }
    const std::string w = text_.substr(at_, end - at_);
    if (w.empty()) refuse(fmt::format("'{}' stands where a value was expected", word_ahead()));
    at_ = end;
    double number = 0.0;
    const char* first = w.data() + (w[0] == '+' ? 1 : 0);
    const auto [stop, error] = std::from_chars(first, w.data() + w.size(), number);
    if (error == std::errc{} && stop == w.data() + w.size()) {
      if (!range::entry.holds(number)) {
        refuse(fmt::format("'{}' is not a number {}", w, words_of(range::entry)));
      }
      return number;
    }
    if (w == "None") return std::monostate{};
    return w;
  }

  std::vector<Value> list(char end, int depth) {
    std::vector<Value> items;
    next();
    for (;;) {
      skip();
      if (peek() == end) {
        next();
        return items;
      }
      items.push_back(value(depth + 1));
      skip();
      if (peek() == ',') next();
    }
  }

  // Over a { … } of no interest: a dictionary, a variant set.
  void braces() {
    int depth = 0;
    do {
      skip();
      if (peek() == '"' || peek() == '\'') {
        quoted();
        continue;
      }
      const char c = next();
      depth += c == '{' ? 1 : c == '}' ? -1 : 0;
    } while (depth > 0);
  }

  // ( key = value … ): of the stage, of a prim or of an attribute.
  void metadata(std::map<std::string, Value>& into) {
    expect('(');
    for (;;) {
      skip();
      if (peek() == ')') {
        next();
        return;
      }
      if (peek() == '"' || peek() == '\'') {
        quoted();  // a comment that is kept
        continue;
      }
      std::string key = word();
      skip();
      if (peek() != '=') key = word();  // "prepend references = …", "dictionary customData = …"
      expect('=');
      into[key] = value(0);
    }
  }

  Prim prim(int depth) {
    if (depth > deepest) refuse("has prims too deep within each other");
    Prim p;
    skip();
    p.line = line_;
    word();  // def, over, class
    skip();
    if (peek() != '"') p.type = word();
    skip();
    if (peek() != '"') refuse("a prim has no name in quotes");
    p.name = quoted();
    skip();
    std::map<std::string, Value> unused;
    if (peek() == '(') metadata(unused);
    expect('{');
    for (;;) {
      skip();
      if (peek() == '}') {
        next();
        return p;
      }
      statement(p, depth);
    }
  }

  void statement(Prim& p, int depth) {
    const std::string first = word_ahead();
    if (is_specifier(first)) {
      p.children.push_back(prim(depth + 1));
      return;
    }
    if (first == "variantSet") {
      word();
      skip();
      quoted();
      expect('=');
      skip();
      braces();
      return;
    }
    // [custom] [uniform] type name [= value] [(metadata)], or the same with .timeSamples
    std::string name = word();
    std::string before;
    while (skip(), in_word(peek())) {
      before = name;
      name = word();
    }
    if (before.empty()) refuse(fmt::format("'{}' is no attribute: its type is missing", name));
    std::string base = name;
    std::string part;
    if (const auto dot = name.find('.'); dot != std::string::npos) {
      base = name.substr(0, dot);
      part = name.substr(dot + 1);
    }
    Attribute& attribute = p.attributes[base];
    attribute.line = line_;
    if (peek() == '=') {
      next();
      skip();
      if (part == "timeSamples")
        samples(attribute);
      else if (part.empty())
        attribute.value = value(0);
      else
        (void)value(0);  // a connection
    }
    skip();
    std::map<std::string, Value> unused;
    if (peek() == '(') metadata(unused);
  }

  void samples(Attribute& attribute) {
    expect('{');
    for (;;) {
      skip();
      if (peek() == '}') {
        next();
        return;
      }
      const Value time = value(0);
      const auto* code = std::get_if<double>(&time.data);
      if (code == nullptr) refuse("a time sample has no time code");
      expect(':');
      attribute.samples[*code] = value(0);
      skip();
      if (peek() == ',') next();
    }
  }

  const std::string& text_;
  const std::string& file_;
  std::size_t at_ = 0;
  int line_ = 1;
};

}  // namespace

Stage parse(const std::string& text, const std::string& file) { return Parser(text, file).stage(); }

}  // namespace jolly_iris::usda
