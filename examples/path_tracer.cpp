// A small path tracer that looks through a Jolly Iris lens: what a renderer has to do, and no more.
//
//   jolly-iris bokeh SHOT --table lens.json      (or: jolly-iris glass LENS --fit lens.json)
//   path_tracer lens.json SPHERES GATE_MM WIDTH HEIGHT RAYS BOUNCES OUT.pfm
//
// GATE_MM is the gate's width as `jolly-iris report` tells it (desqueezed). SPHERES is a text file,
// one a line: the centre x y z and the radius in metres before the camera (x right, y up, it looks
// along -z), what it reflects r g b, and what light it sends out r g b. The picture is a Portable
// FloatMap, linear light.
//
// C++14 with its standard library alone; no exceptions, no types at run time.
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <fstream>
#include <map>
#include <sstream>
#include <string>

#include "jolly_iris/glass/glass_sampler.hpp"
#include "jolly_iris/optics/lens_sampler.hpp"

namespace {

using jolly_iris::GlassSampler;
using jolly_iris::LensSampler;
using Vec = std::array<double, 3>;

Vec operator+(const Vec& a, const Vec& b) { return {a[0] + b[0], a[1] + b[1], a[2] + b[2]}; }
Vec operator-(const Vec& a, const Vec& b) { return {a[0] - b[0], a[1] - b[1], a[2] - b[2]}; }
Vec operator*(double k, const Vec& a) { return {k * a[0], k * a[1], k * a[2]}; }
Vec times(const Vec& a, const Vec& b) { return {a[0] * b[0], a[1] * b[1], a[2] * b[2]}; }
double dot(const Vec& a, const Vec& b) { return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]; }
Vec unit(const Vec& a) { return 1.0 / std::sqrt(dot(a, a)) * a; }
Vec cross(const Vec& a, const Vec& b) {
  return {a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]};
}

// ---- the lens, out of its table
// ------------------------------------------------------------------

// As much JSON as the tables are written in.
struct Json {
  double number = 0.0;  // true is 1
  std::string text{};
  std::vector<Json> items{};
  std::map<std::string, Json> members{};

  const Json& of(const char* name) const {
    static const Json none{};
    const auto found = members.find(name);
    return found == members.end() ? none : found->second;
  }
  double num(const char* name) const { return of(name).number; }
  template <class T>
  std::vector<T> list(const char* name) const {
    std::vector<T> out;
    for (const Json& i : of(name).items) out.push_back(static_cast<T>(i.number));
    return out;
  }
  Vec three(const char* name) const {
    const std::vector<double> v = list<double>(name);
    return v.size() == 3 ? Vec{v[0], v[1], v[2]} : Vec{};
  }
};

Json read(const char*& p) {
  const auto skip = [&p] {
    while (*p != '\0' && std::string(" \n\r\t,:").find(*p) != std::string::npos) ++p;
  };
  Json out;
  skip();
  if (*p == '{' || *p == '[') {
    const char end = *p++ == '{' ? '}' : ']';
    for (skip(); *p != end && *p != '\0'; skip()) {
      if (end == ']') {
        out.items.push_back(read(p));
      } else {
        const std::string name = read(p).text;
        out.members[name] = read(p);
      }
    }
    if (*p != '\0') ++p;
  } else if (*p == '"') {
    while (*++p != '"' && *p != '\0') out.text += *p;
    if (*p != '\0') ++p;
  } else if (*p >= 'a' && *p <= 'z') {
    out.number = *p == 't' ? 1.0 : 0.0;
    while (*p >= 'a' && *p <= 'z') ++p;
  } else {
    char* end = nullptr;
    out.number = std::strtod(p, &end);
    p = end == p && *p != '\0' ? p + 1 : end;
  }
  return out;
}

LensSampler thin_lens(const Json& j) {
  LensSampler lens;
  const Json& o = j.of("opening");
  using Kind = jolly_iris::OpeningTable::Kind;
  const std::string& kind = o.of("kind").text;
  lens.opening.kind = kind == "sectors" ? Kind::sectors
                      : kind == "round" ? Kind::round
                                        : Kind::triangles;
  lens.opening.hole = o.num("hole");
  for (const Json& n : o.of("nodes").items) {
    if (n.items.size() != 4) continue;
    lens.opening.nodes.push_back(
        {n.items[0].number, n.items[1].number, n.items[2].number, n.items[3].number});
  }
  lens.opening.start = o.list<double>("start");
  lens.opening.guide = o.list<int>("guide");
  lens.opening.equal = o.num("equal") != 0.0;
  const Json& l = j.of("light");
  lens.light.side = static_cast<int>(l.num("side"));
  lens.light.reach = l.num("reach");
  for (const Json& c : l.of("light").items) {
    if (c.items.size() != 3) continue;
    lens.light.light.push_back({static_cast<float>(c.items[0].number),
                                static_cast<float>(c.items[1].number),
                                static_cast<float>(c.items[2].number)});
  }
  for (const Json& r : j.of("rims").items) lens.rims.push_back({r.num("radius"), r.num("ahead")});
  lens.radius = j.num("radius");
  lens.aspect = j.num("aspect");
  lens.focal = j.num("focal");
  lens.inverse_focus = j.num("inverse_focus");
  lens.gain = j.num("gain");
  lens.spherical = j.num("spherical");
  lens.coma = j.num("coma");
  lens.curvature = j.num("curvature");
  lens.focus_shift = j.three("focus_shift");
  lens.magnification = j.three("magnification");
  return lens;
}

GlassSampler glass_lens(const Json& j) {
  GlassSampler g;
  g.order = static_cast<int>(j.num("order"));
  g.reach = j.num("reach");
  g.pupil = j.num("pupil");
  g.plane = j.num("plane");
  g.middle_light = j.num("middle_light");
  for (const Json& b : j.of("bounds").items) {
    if (b.items.size() != 3) continue;
    g.bounds.push_back({b.items[0].number, b.items[1].number, b.items[2].number});
  }
  for (const Json& p : j.of("outline").items) {
    if (p.items.size() == 2) g.outline.push_back({{p.items[0].number, p.items[1].number}});
  }
  g.inside_sq = j.num("inside_sq");
  g.outside_sq = j.num("outside_sq");
  const std::vector<Json>& ways = j.of("ways").items;
  for (std::size_t i = 0; i < 3 && i < ways.size(); ++i) {
    g.ways[i].outputs = static_cast<std::size_t>(ways[i].num("outputs"));
    g.ways[i].weights = ways[i].list<double>("weights");
  }
  return g;
}

// Either of the two: a place on the gate and two random numbers to a ray of one colour.
struct Lens {
  bool glass = false;
  bool coloured = false;  // each colour takes its own way
  LensSampler thin{};
  GlassSampler traced{};

  struct Ray {
    Vec origin, direction, weight;
  };
  Ray ray(double right, double up, double u, double v, std::size_t colour) const {
    if (glass) {
      const GlassSampler::Ray r = traced.ray(right, up, u, v, colour);
      return {r.origin, r.direction, {r.weight, r.weight, r.weight}};
    }
    const jolly_iris::LensRay r = thin.ray(right, up, u, v, colour);
    return {r.origin, r.direction, {r.weight[0], r.weight[1], r.weight[2]}};
  }
};

// ---- the scene
// -----------------------------------------------------------------------------------

struct Sphere {
  Vec centre;
  double radius;
  Vec reflects, sends;
};

struct Hit {
  const Sphere* sphere = nullptr;
  double along = 1e30;
};

Hit nearest(const std::vector<Sphere>& scene, const Vec& from, const Vec& direction) {
  Hit hit;
  const double a = dot(direction, direction);
  for (const Sphere& s : scene) {
    const Vec to = s.centre - from;
    const double b = dot(to, direction);
    const Vec beside = to - (b / a) * direction;  // of a small sphere far away, too
    const double d = a * (s.radius * s.radius - dot(beside, beside));
    if (d <= 0.0) continue;
    const double root = std::sqrt(d);
    const double near = (b - root) / a;
    const double along = near > 1e-6 ? near : (b + root) / a;
    if (along > 1e-6 && along < hit.along) hit = {&s, along};
  }
  return hit;
}

// SplitMix64 (Steele, Lea, Flood 2014).
struct Dice {
  std::uint64_t state;
  double next() {
    std::uint64_t z = (state += 0x9e3779b97f4a7c15ULL);
    z = (z ^ (z >> 30)) * 0xbf58476d1ce4e5b9ULL;
    z = (z ^ (z >> 27)) * 0x94d049bb133111ebULL;
    return static_cast<double>((z ^ (z >> 31)) >> 11) * (1.0 / 9007199254740992.0);
  }
};

// The axes across a direction.
void across(const Vec& n, Vec& s, Vec& t) {
  s = unit(cross(std::abs(n[0]) > 0.7 ? Vec{0, 1, 0} : Vec{1, 0, 0}, n));
  t = cross(n, s);
}

// Light from one of the lamps at a point: towards a place of the cone that it fills.
Vec from_lamps(const std::vector<Sphere>& scene, const Sphere& self, const Vec& at,
               const Vec& normal, Dice& dice) {
  Vec light{};
  for (const Sphere& lamp : scene) {
    if (dot(lamp.sends, lamp.sends) == 0.0 || &lamp == &self) continue;
    const Vec to = lamp.centre - at;
    const double square = dot(to, to);
    const double sine_sq = lamp.radius * lamp.radius / square;
    if (sine_sq >= 1.0) continue;
    const double edge = sine_sq / (1.0 + std::sqrt(1.0 - sine_sq));  // 1 - its cosine
    Vec s, t;
    const Vec axis = unit(to);
    across(axis, s, t);
    const double below = dice.next() * edge;
    const double sine = std::sqrt(below * (2.0 - below));
    const double turn = 2.0 * 3.141592653589793 * dice.next();
    const Vec d = (1.0 - below) * axis + sine * std::cos(turn) * s + sine * std::sin(turn) * t;
    const double cosine = dot(d, normal);
    if (cosine <= 0.0 || nearest(scene, at, d).sphere != &lamp) continue;
    light = light + (2.0 * edge * cosine) * lamp.sends;  // the cone's 2 pi edge, over pi
  }
  return light;
}

// What a ray brings back: diffuse spheres, lit by lamps and by each other.
Vec seen(const std::vector<Sphere>& scene, Vec from, Vec direction, int bounces, Dice& dice) {
  Vec light{};
  Vec passes{1, 1, 1};
  for (int bounce = 0;; ++bounce) {
    const Hit hit = nearest(scene, from, direction);
    if (hit.sphere == nullptr) return light;
    if (bounce == 0) light = light + hit.sphere->sends;  // later ones: from_lamps has them
    if (bounce == bounces) return light;
    from = from + hit.along * direction;
    Vec normal = unit(from - hit.sphere->centre);
    if (dot(normal, direction) > 0.0) normal = -1.0 * normal;
    from = from + 1e-6 * normal;
    passes = times(passes, hit.sphere->reflects);
    light = light + times(passes, from_lamps(scene, *hit.sphere, from, normal, dice));
    Vec s, t;
    across(normal, s, t);
    const double r = std::sqrt(dice.next());
    const double turn = 2.0 * 3.141592653589793 * dice.next();
    direction = r * std::cos(turn) * s + r * std::sin(turn) * t + std::sqrt(1.0 - r * r) * normal;
  }
}

std::string contents(const char* name) {
  std::ifstream file(name);
  std::ostringstream text;
  text << file.rdbuf();
  return text.str();
}

std::vector<Sphere> spheres(const char* name) {
  std::vector<Sphere> out;
  std::istringstream file(contents(name));
  std::string line;
  while (std::getline(file, line)) {
    std::istringstream in(line);
    Sphere s{};
    in >> s.centre[0] >> s.centre[1] >> s.centre[2] >> s.radius >> s.reflects[0] >> s.reflects[1] >>
        s.reflects[2] >> s.sends[0] >> s.sends[1] >> s.sends[2];
    if (in) out.push_back(s);
  }
  return out;
}

}  // namespace

int main(int argc, char** argv) {
  if (argc != 9) {
    std::fprintf(
        stderr, "usage: path_tracer LENS.json SPHERES GATE_MM WIDTH HEIGHT RAYS BOUNCES OUT.pfm\n");
    return 2;
  }
  const std::string text = contents(argv[1]);
  const char* at = text.c_str();
  const Json table = read(at);
  Lens lens;
  lens.glass = !table.of("ways").items.empty();
  if (!lens.glass && table.num("focal") <= 0.0) {
    std::fprintf(stderr, "%s: is no lens's table\n", argv[1]);
    return 1;
  }
  if (lens.glass) lens.traced = glass_lens(table);
  if (!lens.glass) lens.thin = thin_lens(table);
  lens.coloured = lens.glass || lens.thin.coloured();
  const std::vector<Sphere> scene = spheres(argv[2]);
  const double gate = 1e-3 * std::atof(argv[3]);
  const int width = std::atoi(argv[4]);
  const int height = std::atoi(argv[5]);
  const int rays = std::atoi(argv[6]);
  const int bounces = std::atoi(argv[7]);
  if (scene.empty() || !(gate > 0.0) || width < 1 || height < 1 || rays < 1 || bounces < 0) {
    std::fprintf(stderr, "there are no spheres, or a number is not above zero\n");
    return 1;
  }
  std::vector<float> picture(3 * static_cast<std::size_t>(width) *
                             static_cast<std::size_t>(height));
  const double pitch = gate / width;
  for (int y = 0; y < height; ++y) {
    for (int x = 0; x < width; ++x) {
      Dice dice{static_cast<std::uint64_t>(y) * 1000003u + static_cast<std::uint64_t>(x)};
      Vec sum{};
      for (int i = 0; i < rays; ++i) {
        const double right = (x + dice.next() - 0.5 * width) * pitch;
        const double up = (0.5 * height - y - dice.next()) * pitch;
        const double u = (i + dice.next()) / rays;  // stratified one way
        const double v = dice.next();
        for (std::size_t c = 0; c < (lens.coloured ? 3u : 1u); ++c) {
          const Lens::Ray ray = lens.ray(right, up, u, v, lens.coloured ? c : 1u);
          if (ray.weight[0] + ray.weight[1] + ray.weight[2] == 0.0) continue;
          const Vec light =
              times(ray.weight, seen(scene, ray.origin, ray.direction, bounces, dice));
          for (std::size_t k = 0; k < 3; ++k) {
            if (!lens.coloured || k == c) sum[k] += light[k];
          }
        }
      }
      // A Portable FloatMap begins at the bottom.
      const std::size_t pixel =
          static_cast<std::size_t>(height - 1 - y) * static_cast<std::size_t>(width) +
          static_cast<std::size_t>(x);
      for (std::size_t k = 0; k < 3; ++k)
        picture[3 * pixel + k] = static_cast<float>(sum[k] / rays);
    }
  }
  std::ofstream out(argv[8], std::ios::binary);
  out << "PF\n" << width << ' ' << height << "\n-1.0\n";
  out.write(reinterpret_cast<const char*>(picture.data()),
            static_cast<std::streamsize>(picture.size() * sizeof(float)));
  return out ? 0 : 1;
}
