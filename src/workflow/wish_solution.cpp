#include "jolly_iris/workflow/wish_solution.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>

#include "jolly_iris/optics/blur_size.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/quantity.hpp"
#include "optics/nearest.hpp"

namespace jolly_iris {

namespace {

// More contradict each other; and each is another start to search from.
constexpr std::size_t max_wishes = 32;

constexpr const char* forms =
    "write e.g. \"boat sharp\", \"boat and buoy sharp\", \"buoy 3 px\", \"bridge at least 20 px\", "
    "\"bridge at most 5 px\", \"boat as large as now\", \"no wider than f/1.4\", \"no smaller than "
    "f/11\" or \"ISO up to 1600\"";

std::string trimmed(const std::string& text) {
  const auto begin = text.find_first_not_of(' ');
  if (begin == std::string::npos) return {};
  return text.substr(begin, text.find_last_not_of(' ') + 1 - begin);
}

// What stands in front of an end, if the text ends so.
std::optional<std::string> before(const std::string& text, std::string_view end) {
  if (text.size() <= end.size() || !text.ends_with(end)) return std::nullopt;
  return trimmed(text.substr(0, text.size() - end.size()));
}

class Reader {
 public:
  Reader(const LoadedShot& loaded, WishSolution& out)
      : loaded_(loaded),
        out_(out),
        places_(subjects_of(loaded.now, loaded.scene ? &*loaded.scene : nullptr,
                            loaded.answer.place, loaded.answer.camera.focus)) {}

  void wish(const std::string& text) {
    const std::string said = trimmed(text);
    try {
      read(said);
    } catch (const QuantityError& e) {
      throw UsageError(fmt::format("the wish '{}': {}", said, e.what()));
    }
  }

  std::size_t subject(const std::string& name) {
    std::vector<WishSubject>& all = out_.problem.subjects;
    for (std::size_t i = 0; i < all.size(); ++i) {
      if (all[i].name == name) return i;
    }
    WishSubject s{name, distance_named(loaded_, name), {}};
    const VirtualCamera& c = loaded_.answer.camera;
    for (const SubjectPlace& p : places_) {
      if (p.name != name || !p.middle || !(p.middle->z < 0.0)) continue;
      const double k = c.focal.m() / -p.middle->z;
      s.at = {Length::from_m(k * p.middle->x), Length::from_m(k * p.middle->y)};
    }
    all.push_back(s);
    return all.size() - 1;
  }

  bool is_subject(const std::string& name) const {
    return std::any_of(loaded_.answer.subjects.begin(), loaded_.answer.subjects.end(),
                       [&](const SubjectBlur& s) { return s.name == name; });
  }

 private:
  void add(Wish::Kind kind, const std::string& name, double px, const std::string& said) {
    out_.problem.wishes.push_back({kind, subject(name), px});
    out_.said.push_back(said);
  }

  double px_of(const std::string& text) const {
    const VirtualCamera& c = loaded_.answer.camera;
    return on_gate(parse_blur_size(text), c) / c.pixel_pitch();
  }

  double stop_limit(const std::string& text) const {
    const Stop stop = parse_stop(text);
    const Lens& lens = loaded_.now.lens;
    return loaded_.now.take.stop.kind == Stop::Kind::t ? marked_t_number(lens, stop)
                                                       : marked_f_number(lens, stop);
  }

  bool read_limit(const std::string& said) {
    if (said.starts_with("no wider than ")) {
      out_.problem.widest =
          std::max(out_.problem.widest.value_or(0.0), stop_limit(said.substr(14)));
    } else if (said.starts_with("no smaller than ")) {
      limit_opening(stop_limit(said.substr(16)), false);
    } else if (said.starts_with("ISO up to ") || said.starts_with("iso up to ")) {
      const std::string number = trimmed(said.substr(10));
      double iso = 0.0;
      const auto [end, error] = std::from_chars(number.data(), number.data() + number.size(), iso);
      if (error != std::errc{} || end != number.data() + number.size() || !(iso > 0.0)) {
        throw UsageError(fmt::format("'{}': an ISO is a number, e.g. ISO up to 1600", said));
      }
      const Take& take = loaded_.now.take;
      if (!take.iso) {
        throw UsageError(
            fmt::format("'{}': the shot says no ISO to begin with; write take.iso", said));
      }
      limit_opening(take.stop.value * std::sqrt(iso / *take.iso), true);
    } else {
      return false;
    }
    out_.limits.push_back(said);
    return true;
  }

  void limit_opening(double smallest, bool by_iso) {
    auto& limit = out_.problem.smallest;
    if (limit && *limit <= smallest) return;
    limit = smallest;
    out_.limited_by_iso = by_iso;
  }

  void read(const std::string& said) {
    if (read_limit(said)) return;
    if (const auto names = before(said, " sharp")) {
      for (const std::string& name : several(*names))
        add(Wish::Kind::sharp, name, 0.0, name + " sharp");
      return;
    }
    if (const auto name = before(said, " as large as now")) {
      return add(Wish::Kind::same_size, *name, 0.0, said);
    }
    for (const auto& [words, kind] :
         {std::pair{" at least ", Wish::Kind::blur_at_least},
          std::pair{" at most ", Wish::Kind::blur_at_most}, std::pair{" by ", Wish::Kind::blur}}) {
      const auto at = said.rfind(words);
      if (at == std::string::npos) continue;
      const std::string size = said.substr(at + std::string_view(words).size());
      return add(kind, trimmed(said.substr(0, at)), px_of(size), said);
    }
    // "buoy 3 12 px": what follows the last blank but one.
    for (auto at = said.rfind(' '); at != std::string::npos && at > 0;
         at = said.rfind(' ', at - 1)) {
      double px = 0.0;
      try {
        px = px_of(said.substr(at + 1));
      } catch (const QuantityError&) {
        continue;
      }
      return add(Wish::Kind::blur, trimmed(said.substr(0, at)), px, said);
    }
    throw UsageError(fmt::format("the wish '{}' is not understood; {}", said, forms));
  }

  // "boat and buoy", where no subject is called so as a whole.
  std::vector<std::string> several(const std::string& names) const {
    if (is_subject(names)) return {names};
    std::vector<std::string> out;
    for (std::size_t begin = 0; begin <= names.size();) {
      const std::size_t end = std::min(names.find(" and ", begin), names.size());
      out.push_back(trimmed(names.substr(begin, end - begin)));
      begin = end + 5;
    }
    return out;
  }

  const LoadedShot& loaded_;
  WishSolution& out_;
  std::vector<SubjectPlace> places_{};
};

void read_freedom(const std::string& free, const LoadedShot& loaded, Reader& reader,
                  WishProblem& problem) {
  for (std::size_t begin = 0; begin <= free.size();) {
    const std::size_t end = std::min(free.find(',', begin), free.size());
    const std::string word = trimmed(free.substr(begin, end - begin));
    begin = end + 1;
    if (word == "stop") {
      problem.free.stop = true;
    } else if (word == "focus") {
      problem.free.focus = true;
    } else if (word == "focal") {
      problem.free.focal = true;
    } else if (word == "camera") {
      if (!loaded.now.scene || loaded.now.scene->file.empty()) {
        throw UsageError("the camera may only move in a shot with a scene, whose camera it is");
      }
      problem.free.camera = true;
    } else if (reader.is_subject(word)) {
      problem.free.subjects.push_back(reader.subject(word));
    } else {
      std::vector<std::string> names{"stop", "focus", "focal", "camera"};
      for (const SubjectBlur& s : loaded.answer.subjects) names.push_back(s.name);
      throw UsageError(fmt::format(
          "'{}' is nothing that may change: write stop, focus, focal, camera or a subject.{}", word,
          did_you_mean(word, names)));
    }
  }
}

std::string length_text(Length l, int figures) {
  return l.is_infinite() ? "infinity" : fmt::format("{:.{}g} m", l.m(), figures);
}

}  // namespace

WishSolution solve_wishes(const LoadedShot& loaded, const std::vector<std::string>& wishes,
                          const std::string& free) {
  if (wishes.size() > max_wishes) {
    throw UsageError(fmt::format("{} wishes: at most {} at once", wishes.size(), max_wishes));
  }
  WishSolution out;
  const Shot& shot = loaded.now;
  WishProblem& p = out.problem;
  p.body = shot.body;
  p.lens = shot.lens;
  p.take = shot.take;
  p.blur_override = shot.blur_override;
  p.criterion = shot.criterion;
  p.focus = loaded.answer.camera.focus;
  out.frame = loaded.answer.frame;
  Reader reader(loaded, out);
  for (const std::string& text : wishes) reader.wish(text);
  if (p.wishes.empty()) {
    throw UsageError(fmt::format("limits alone are no wish; {}", forms));
  }
  read_freedom(free, loaded, reader, p);
  if (p.widest && p.smallest && *p.widest > *p.smallest) {
    throw UsageError(
        fmt::format("no stop is both no wider than f/{:.3g} and no smaller than f/{:.3g}",
                    *p.widest, *p.smallest));
  }
  out.found = fulfil(p);
  if (shot.take.iso && p.free.stop) {
    out.iso = *shot.take.iso * std::pow(out.found.stop.value / shot.take.stop.value, 2.0);
  }
  return out;
}

std::vector<Override> overrides_for(const WishSolution& s, const LoadedShot& loaded) {
  std::vector<Override> out;
  const WishFreedom& free = s.problem.free;
  if (free.stop) {
    out.push_back(
        {"take.stop", fmt::format("{}{:.6g}", s.found.stop.kind == Stop::Kind::t ? "T" : "f/",
                                  s.found.stop.value)});
  }
  if (free.focal) out.push_back({"lens.focal", fmt::format("{:.6g} mm", s.found.focal.mm())});
  // A camera that moves, or a focus on a subject that moves, still focuses where it did.
  if (free.focus || free.camera || !free.subjects.empty()) {
    out.push_back({"focus.at", length_text(s.found.focus, 8)});
  }
  if (free.camera) {
    out.push_back({"scene.back", length_text(loaded.now.scene->back + s.found.back, 8)});
  }
  for (const std::size_t i : free.subjects) {
    const std::string& name = s.problem.subjects[i].name;
    const bool entered =
        std::any_of(loaded.now.subjects.begin(), loaded.now.subjects.end(),
                    [&](const SubjectEntry& e) { return e.name == name && e.distance; });
    if (entered) out.push_back({"subject." + name + ".at", length_text(s.found.subjects[i], 8)});
  }
  return out;
}

}  // namespace jolly_iris
