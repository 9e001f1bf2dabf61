#include "jolly_iris/glass/prescription.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "optics/enum_name.hpp"

namespace jolly_iris {

namespace {

constexpr std::size_t most_terms = 8;
// Nobody grinds what is smaller or larger, mm.
constexpr double least_radius = 0.05;
constexpr double largest_length = 1e5;

// Half the height that a conic of this curvature reaches at the most.
double largest_height(const GlassSurface& s) {
  const double c = 1.0 / s.radius.mm();
  const double bend = (1.0 + s.conic) * c * c;
  return bend > 0.0 ? 1.0 / std::sqrt(bend) : std::numeric_limits<double>::infinity();
}

class Checker {
 public:
  explicit Checker(const Prescription& p) : p_(p) {}

  std::vector<GlassMistake> run() {
    if (p_.surfaces.empty()) say("has no surface; write [[surface]] from the front to the film");
    if (p_.surfaces.size() > most_surfaces) {
      say(fmt::format("has {} surfaces; a prescription has {} at the most", p_.surfaces.size(),
                      most_surfaces));
      return std::move(out_);
    }
    for (std::size_t i = 0; i < p_.surfaces.size(); ++i) check_surface(i);
    const auto stops = std::count_if(p_.surfaces.begin(), p_.surfaces.end(),
                                     [](const GlassSurface& s) { return s.stop; });
    if (stops == 0 && !p_.surfaces.empty()) {
      say("has no stop; one [[surface]] has stop = true and a clear diameter");
    }
    if (stops > 1) say(fmt::format("has {} stops; a lens has one opening", stops));
    if (!p_.surfaces.empty() && !p_.surfaces.back().medium.is_air()) {
      add(p_.surfaces.size() - 1, "glass",
          "is the last, and behind it is air: leave its glass out");
    }
    check_groups();
    return std::move(out_);
  }

 private:
  void say(std::string message) { out_.push_back({{}, {}, "", std::move(message)}); }
  void add(std::size_t surface, const char* key, std::string message) {
    out_.push_back({surface, {}, key, std::move(message)});
  }

  void check_surface(std::size_t i) {
    const GlassSurface& s = p_.surfaces[i];
    const double radius = std::abs(s.radius.mm());
    if (!(radius >= least_radius) || (std::isfinite(radius) && radius > largest_length)) {
      add(i, "radius",
          fmt::format("{:g} mm is no radius from {:g} mm to {:g} m, either sign; write "
                      "\"flat\" for none",
                      s.radius.mm(), least_radius, largest_length / 1000.0));
      return;
    }
    if (!(s.gap.mm() >= 0.0) || !(s.gap.mm() <= largest_length)) {
      add(i, "gap",
          fmt::format("{:g} mm is no gap from 0 to {:g} m", s.gap.mm(), largest_length / 1000.0));
    }
    if (!(s.clear.mm() > 0.0)) {
      add(i, "clear", fmt::format("{:g} mm is no diameter above zero", s.clear.mm()));
    }
    if (s.stop && (std::isfinite(radius) || !s.medium.is_air() || s.conic != 0.0 ||
                   !s.terms.empty() || s.curved != Curved::round)) {
      add(i, "stop", "is a plane in air: leave radius, glass, conic, terms and curved out");
    }
    if (s.stop && i > 0 && !p_.surfaces[i - 1].medium.is_air()) {
      add(i, "stop", "lies within a glass; the opening is in air");
    }
    if (s.stop && !s.clear.is_finite()) {
      add(i, "clear", "is missing: how wide the iris opens, as a diameter");
    }
    if (const std::string wrong = wrong_with(s.medium); !wrong.empty()) add(i, "glass", wrong);
    if (!std::isfinite(s.conic) || std::abs(s.conic) > 1e4) {
      add(i, "conic", fmt::format("{:g} is no conic constant from -10000 to 10000", s.conic));
      return;
    }
    if (s.terms.size() > most_terms) {
      add(i, "terms",
          fmt::format("has {} numbers; there are {} at the most, from r^4 to r^18", s.terms.size(),
                      most_terms));
    }
    for (const double t : s.terms) {
      if (!std::isfinite(t)) add(i, "terms", "has a number that is none");
    }
    if (!s.terms.empty() && s.curved != Curved::round) {
      add(i, "terms", "belong to round surfaces; a cylinder has a conic alone");
    }
    if (!(s.coat_index >= 1.0) || !(s.coat_index <= 3.0)) {
      add(i, "coat_index", fmt::format("{:g} is no index from 1 to 3", s.coat_index));
    }
    if (s.coat && !(s.coat->mm() >= 1e-4 && s.coat->mm() <= 2e-3)) {
      add(i, "coat",
          fmt::format("{:g} nm is no wavelength from 100 to 2000 nm", s.coat->mm() * 1e6));
    }
    if (s.clear.is_finite() && std::isfinite(radius) &&
        0.5 * s.clear.mm() > largest_height(s) * (1.0 + 1e-9)) {
      add(i, "clear",
          fmt::format("{:g} mm is wider than a surface of this radius can be: {:.4g} mm",
                      s.clear.mm(), 2.0 * largest_height(s)));
    }
  }

  void check_groups() {
    for (std::size_t g = 0; g < p_.groups.size(); ++g) {
      const GlassGroup& one = p_.groups[g];
      const auto wrong = [&](const char* key, std::string message) {
        out_.push_back({{}, g, key, std::move(message)});
      };
      if (one.first > one.last || one.last >= p_.surfaces.size()) {
        wrong("surfaces", fmt::format("[{}, {}] is no first and last of {} surfaces", one.first + 1,
                                      one.last + 1, p_.surfaces.size()));
        continue;
      }
      if (!std::isfinite(one.moves) || std::abs(one.moves) > 100.0) {
        wrong("moves", fmt::format("{:g} is no number from -100 to 100", one.moves));
      }
      for (std::size_t other = 0; other < g; ++other) {
        const GlassGroup& o = p_.groups[other];
        if (one.first > o.last || o.first > one.last) continue;
        wrong("surfaces", fmt::format("[{}, {}] overlap group {}, [{}, {}]", one.first + 1,
                                      one.last + 1, other + 1, o.first + 1, o.last + 1));
      }
      // A group that ends within a glass would tear it.
      if (one.first > 0 && !p_.surfaces[one.first - 1].medium.is_air()) {
        wrong("surfaces", fmt::format("begins within a glass: surface {} has the glass before it",
                                      one.first + 1));
      }
      if (!p_.surfaces[one.last].medium.is_air()) {
        wrong("surfaces", fmt::format("ends within a glass: behind surface {} is the same glass",
                                      one.last + 1));
      }
    }
    const bool moves =
        p_.groups.empty() || std::any_of(p_.groups.begin(), p_.groups.end(),
                                         [](const GlassGroup& g) { return g.moves != 0.0; });
    if (!moves) say("has groups, but none of them moves: it cannot focus");
  }

  const Prescription& p_;
  std::vector<GlassMistake> out_{};
};

}  // namespace

std::string_view to_string(Curved curved) {
  return name_of<Curved::up>(curved, {"round", "across", "up"});
}

std::size_t Prescription::stop() const {
  const auto found =
      std::find_if(surfaces.begin(), surfaces.end(), [](const GlassSurface& s) { return s.stop; });
  return static_cast<std::size_t>(found - surfaces.begin());
}

double Prescription::moves(std::size_t surface) const {
  if (groups.empty()) return 1.0;
  for (const GlassGroup& g : groups) {
    if (surface >= g.first && surface <= g.last) return g.moves;
  }
  return 0.0;
}

bool Prescription::is_round() const {
  return std::all_of(surfaces.begin(), surfaces.end(),
                     [](const GlassSurface& s) { return s.curved == Curved::round; });
}

std::vector<GlassMistake> mistakes_in(const Prescription& prescription) {
  return Checker(prescription).run();
}

void require_sound(const Prescription& prescription) {
  std::string all;
  for (const GlassMistake& m : mistakes_in(prescription)) {
    const std::string where = m.surface ? fmt::format("surface {}: {} ", *m.surface + 1, m.key)
                              : m.group ? fmt::format("group {}: {} ", *m.group + 1, m.key)
                                        : std::string();
    all += fmt::format("{}{}{}", all.empty() ? "" : "; ", where, m.message);
  }
  if (!all.empty()) throw OpticsError(fmt::format("the glass {}: {}", prescription.name, all));
}

Prescription scaled(const Prescription& prescription, double factor) {
  if (!(factor > 0.0) || !std::isfinite(factor)) {
    throw UsageError(fmt::format("{:g} is no factor above zero", factor));
  }
  Prescription out = prescription;
  for (GlassSurface& s : out.surfaces) {
    s.radius = s.radius * factor;
    s.gap = s.gap * factor;
    s.clear = s.clear * factor;
    // A term of r^p has the unit mm^(1 − p).
    double unit = std::pow(factor, -3.0);
    for (double& t : s.terms) {
      t *= unit;
      unit /= factor * factor;
    }
  }
  return out;
}

}  // namespace jolly_iris
