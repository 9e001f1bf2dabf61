#include "jolly_iris/files/glass_file.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>

#include "disk/disk.hpp"
#include "jolly_iris/glass/paraxial.hpp"
#include "jolly_iris/optics/quantity.hpp"
#include "shot_sections.hpp"

namespace jolly_iris {

namespace {

// [iris] is read as a lens file's: its keys are "lens.iris…" there.
constexpr std::string_view iris_prefix = "iris.";
constexpr std::string_view lens_prefix = "lens.";

// Millimetres as a number, or a length with its unit.
std::optional<Length> length_of(ShotReader& in, const std::string& key, const std::string& wanted) {
  const auto found = in.tree().find(key);
  if (found == in.tree().end()) return std::nullopt;
  if (std::holds_alternative<double>(found->second.data)) {
    const auto mm = in.number(key, -std::numeric_limits<double>::max(),
                              std::numeric_limits<double>::max(), wanted);
    return mm ? std::optional(Length::from_mm(*mm)) : std::nullopt;
  }
  return in.quantity<Length>(key, parse_length);
}

class GlassReader {
 public:
  explicit GlassReader(ShotReader& in, const std::string& file) : in_(in), file_(file) {}

  Prescription run(bool& last_gap_open) {
    if (const auto v = in_.text("name")) out_.name = *v;
    if (const auto v = in_.choice<FocusBy>(
            "focus", {{"by axis", FocusBy::axis}, {"by light", FocusBy::light}})) {
      out_.focus_by = *v;
    }
    std::size_t count = 0;
    while (in_.has_section(fmt::format("surface[{}].", count))) ++count;
    for (std::size_t i = 0; i < count; ++i) read_surface(i, i + 1 == count, last_gap_open);
    for (std::size_t g = 0; in_.has_section(fmt::format("group[{}].", g)); ++g) read_group(g);
    in_.check_parameter();
    for (const GlassMistake& m : mistakes_in(out_)) tell(m);
    return std::move(out_);
  }

 private:
  void tell(const GlassMistake& m) {
    if (m.surface) {
      const std::string base = fmt::format("surface[{}]", *m.surface);
      const std::string key = base + "." + m.key;
      if (in_.has(key)) return in_.mistake(key, m.message);
      // Of a key that is not there: where its surface begins.
      const auto first = in_.tree().lower_bound(base + ".");
      return in_.mistake_at(first == in_.tree().end() ? file_ : first->second.place, key,
                            m.message);
    }
    if (m.group) return in_.mistake(fmt::format("group[{}].{}", *m.group, m.key), m.message);
    in_.mistake_at(file_, "surface", m.message);
  }

  void read_surface(std::size_t i, bool last, bool& last_gap_open) {
    const std::string base = fmt::format("surface[{}].", i);
    GlassSurface s;
    if (const auto v = in_.truth(base + "stop")) s.stop = *v;
    if (!s.stop) in_.require(base + "radius", "radius = 34.1, in mm, or \"flat\"");
    if (is_flat(base + "radius")) {
      (void)in_.text(base + "radius");
    } else if (const auto v =
                   length_of(in_, base + "radius", "a radius in mm; write e.g. 34.1 or \"flat\"")) {
      s.radius = *v;
    }
    if (!last) in_.require(base + "gap", "gap = 4.2, in mm along the axis to the next surface");
    if (const auto v = length_of(in_, base + "gap", "a gap in mm; write e.g. 4.2")) s.gap = *v;
    last_gap_open = last && !in_.has(base + "gap");
    if (!in_.has(base + "clear")) {
      in_.require(base + "clear", "clear = 26, the diameter in mm of what passes");
    } else if (const auto v = length_of(in_, base + "clear", "a diameter in mm; write e.g. 26")) {
      s.clear = *v;
    }
    read_medium(base, s);
    if (const auto v = in_.number(base + "conic", -1e4, 1e4,
                                  "a conic constant: 0 a sphere, -1 a paraboloid")) {
      s.conic = *v;
    }
    if (const auto v =
            in_.numbers(base + "terms", 1, 8,
                        "numbers that r^4, r^6, … are multiplied with, in mm; write e.g. "
                        "[1.2e-6, -3e-9]")) {
      s.terms = *v;
    }
    if (const auto v = in_.choice<Curved>(
            base + "curved",
            {{"round", Curved::round}, {"across", Curved::across}, {"up", Curved::up}})) {
      s.curved = *v;
    }
    if (const auto v = in_.number(base + "coat", 100.0, 2000.0,
                                  "the wavelength in nm of which the layer is a quarter; write "
                                  "e.g. 550")) {
      s.coat = Length::from_mm(*v * 1e-6);
    }
    if (const auto v = in_.number(base + "coat_index", 1.0, 3.0, "an index; write e.g. 1.38")) {
      s.coat_index = *v;
    }
    out_.surfaces.push_back(std::move(s));
  }

  bool is_flat(const std::string& key) const {
    const auto found = in_.tree().find(key);
    if (found == in_.tree().end()) return false;
    const auto* text = std::get_if<std::string>(&found->second.data);
    return text != nullptr && *text == "flat";
  }

  void read_medium(const std::string& base, GlassSurface& s) {
    const std::string wanted =
        "[n_d, V_d] of a glass, or its six dispersion numbers B1, B2, B3, C1, C2, C3; write e.g. "
        "[1.5168, 64.17]";
    if (const auto v = in_.numbers(base + "glass", 2, 6, wanted)) {
      if (v->size() == 2) {
        s.medium = {.n_d = (*v)[0], .v_d = (*v)[1], .partial = {}, .six = {}};
      } else if (v->size() == 6) {
        std::array<double, 6> six{};
        std::copy(v->begin(), v->end(), six.begin());
        s.medium = medium_of(six);
      } else {
        in_.mistake(base + "glass", fmt::format("has {} numbers, not {}", v->size(), wanted));
      }
    }
    if (const auto v = in_.number(base + "partial", 0.3, 0.9,
                                  "a partial dispersion P_gF; write e.g. 0.5349")) {
      s.medium.partial = *v;
      if (s.medium.is_air() || s.medium.six) {
        in_.mistake(base + "partial", "belongs to a glass that is given as [n_d, V_d]");
      }
    }
  }

  void read_group(std::size_t g) {
    const std::string base = fmt::format("group[{}].", g);
    GlassGroup one;
    in_.require(base + "surfaces", "surfaces = [1, 6], its first and its last");
    if (const auto v = in_.numbers(base + "surfaces", 2, 2,
                                   "the first and the last surface; write e.g. [1, 6]")) {
      const auto whole = [](double x) { return x == std::floor(x) && x >= 1.0 && x <= 1e6; };
      if (whole((*v)[0]) && whole((*v)[1])) {
        one.first = static_cast<std::size_t>((*v)[0]) - 1;
        one.last = static_cast<std::size_t>((*v)[1]) - 1;
      } else {
        in_.mistake(base + "surfaces", "counts surfaces from 1; write e.g. [1, 6]");
      }
    }
    if (const auto v = in_.number(base + "moves", -100.0, 100.0,
                                  "how far it moves against the others; write e.g. 1.0")) {
      one.moves = *v;
    }
    out_.groups.push_back(one);
  }

  ShotReader& in_;
  const std::string& file_;
  Prescription out_{};
};

std::string number_text(double v) { return fmt::format("{:.9g}", v); }

}  // namespace

Prescription parse_glass(const std::string& text, const std::string& name) {
  TomlTree tree;
  TomlTree iris;
  for (auto& [key, value] : parse_toml(text, name)) {
    if (key.starts_with(iris_prefix)) {
      iris[std::string(lens_prefix) + key] = value;
    } else {
      tree[key] = value;
    }
  }
  ShotReader in(std::move(tree), "a glass file");
  bool last_gap_open = false;
  Prescription out = GlassReader(in, name).run(last_gap_open);
  ShotReader in_iris(std::move(iris), "a glass file");
  Lens lens;
  read_opening(in_iris, name, lens);
  in_iris.check_parameter();
  out.iris = lens.iris;
  for (const FileMistake& m : in_iris.mistakes()) {
    in.mistake_at(m.place, m.key.substr(lens_prefix.size()), m.message);
  }
  in.throw_mistakes(name);
  if (out.name.empty()) out.name = std::filesystem::path(name).filename().string();
  ParaxialFacts facts;
  try {
    facts = paraxial_facts(TracedGlass(out));
  } catch (const OpticsError& e) {
    throw OpticsError(fmt::format("{}: {}", name, e.what()));
  }
  if (last_gap_open) {
    if (!(facts.back_focus.mm() > 0.0)) {
      throw OpticsError(fmt::format(
          "{}: infinity does not meet behind the last surface ({:.4g} mm from it), so the film "
          "cannot be put there; give the last surface its gap, or mend the surfaces",
          name, facts.back_focus.mm()));
    }
    out.surfaces.back().gap = facts.back_focus;
  }
  return out;
}

Prescription read_glass(const std::filesystem::path& path) {
  return parse_glass(read_whole_file(path), path.string());
}

std::string glass_text(const Prescription& p) {
  std::string out = fmt::format("name = \"{}\"\n", p.name);
  if (p.focus_by == FocusBy::light) out += "focus = \"by light\"\n";
  out += "\n# Millimetres, from the front to the film.\n";
  for (const GlassSurface& s : p.surfaces) {
    std::vector<std::string> keys;
    if (s.stop) {
      keys.emplace_back("stop = true");
    } else {
      keys.push_back(fmt::format("radius = {}",
                                 s.radius.is_finite() ? number_text(s.radius.mm()) : "\"flat\""));
    }
    keys.push_back(fmt::format("gap = {}", number_text(s.gap.mm())));
    if (s.medium.six) {
      std::vector<std::string> six;
      for (const double v : *s.medium.six) six.push_back(number_text(v));
      keys.push_back(fmt::format("glass = [{}]", fmt::join(six, ", ")));
    } else if (!s.medium.is_air()) {
      keys.push_back(
          fmt::format("glass = [{}, {}]", number_text(s.medium.n_d), number_text(s.medium.v_d)));
      if (s.medium.partial)
        keys.push_back(fmt::format("partial = {}", number_text(*s.medium.partial)));
    }
    keys.push_back(fmt::format("clear = {}", number_text(s.clear.mm())));
    if (s.conic != 0.0) keys.push_back(fmt::format("conic = {}", number_text(s.conic)));
    if (!s.terms.empty()) {
      std::vector<std::string> terms;
      for (const double v : s.terms) terms.push_back(number_text(v));
      keys.push_back(fmt::format("terms = [{}]", fmt::join(terms, ", ")));
    }
    if (s.curved != Curved::round)
      keys.push_back(fmt::format("curved = \"{}\"", to_string(s.curved)));
    if (s.coat) keys.push_back(fmt::format("coat = {}", number_text(s.coat->mm() * 1e6)));
    if (s.coat_index != 1.38)
      keys.push_back(fmt::format("coat_index = {}", number_text(s.coat_index)));
    out += fmt::format("[[surface]]\n{}\n", fmt::join(keys, "\n"));
  }
  for (const GlassGroup& g : p.groups) {
    out += fmt::format("\n[[group]]\nsurfaces = [{}, {}]\nmoves = {}\n", g.first + 1, g.last + 1,
                       number_text(g.moves));
  }
  if (p.iris.blades > 0) {
    out += fmt::format("\n[iris]\nblades = {}\n", p.iris.blades);
    if (p.iris.rotation.radians() != 0.0) {
      out += fmt::format("rotation = \"{} deg\"\n", number_text(p.iris.rotation.degrees()));
    }
    if (p.iris.blade_radius.kind == BladeRadius::Kind::multiple) {
      out += fmt::format("blade_radius = \"{} x\"\n", number_text(p.iris.blade_radius.times));
    }
  }
  return out;
}

}  // namespace jolly_iris
