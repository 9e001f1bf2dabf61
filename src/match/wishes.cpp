#include "jolly_iris/match/wishes.hpp"

#include <ceres/ceres.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

constexpr double smallest_stop = 64.0;  // beyond, diffraction blurs more than any setting
constexpr double zoom_octaves = 2.0;    // of a lens without a zoom range: so far another may be
// How much a wish weighs against staying: so little that it decides between equals alone.
constexpr double stay = 1e-3;
// A picture's size is told apart by about so much.
constexpr double size_slack = 0.01;
// Met is what nobody sees missed.
constexpr double px_slack = 0.05;
constexpr double share_slack = 0.01;
constexpr double impossible = 1e3;  // a residual for what no lens can be

// Numbers that vary: stops as log2, focus in dioptres, focal length and distances as log.
struct Slot {
  enum class What { stop, focus, focal, camera, subject } what = What::stop;
  std::size_t subject = 0;
  double start = 0.0;
  double low = 0.0;
  double high = 0.0;
};

struct State {
  Stop stop{};
  Length focus{};
  Length focal{};
  Length back{};
  std::vector<Length> z{};
};

Length from_dioptres(double d) { return d <= 1e-12 ? Length::infinity() : Length::from_m(1.0 / d); }
double to_dioptres(Length l) { return l.is_infinite() ? 0.0 : 1.0 / l.m(); }

class Fit {
 public:
  explicit Fit(const WishProblem& problem) : p_(problem) {
    if (p_.wishes.empty()) throw UsageError("there is no wish");
    for (const Wish& w : p_.wishes) {
      if (w.subject >= p_.subjects.size()) throw UsageError("a wish is about no subject");
    }
    const VirtualCamera now = camera(home());
    v_ = now.focal;
    limit_px_ = coc_limit(p_.criterion, p_.body, now) / now.pixel_pitch();
    nearest_ = std::numeric_limits<double>::infinity();
    for (const WishSubject& s : p_.subjects) nearest_ = std::min(nearest_, s.axial.m());
    slots_ = slots();
    if (slots_.empty()) {
      throw UsageError(
          "nothing may change: free the stop, the focus, the focal length, the camera "
          "or a subject");
    }
  }

  WishAnswer best() {
    std::vector<double> found;
    double least = std::numeric_limits<double>::infinity();
    for (const std::vector<double>& start : starts()) {
      std::vector<double> x = start;
      const double cost = minimise(x);
      // Equal but for rounding: the first start is the present.
      if (cost < least * (1.0 - 1e-6) - 1e-12) {
        least = cost;
        found = x;
      }
    }
    if (found.empty() || least >= impossible) {
      throw OpticsError("no lens and focus within what may change can be computed");
    }
    return answer(found);
  }

 private:
  State home() const {
    State s{p_.take.stop, p_.focus, p_.lens.focal, {}, {}};
    for (const WishSubject& w : p_.subjects) s.z.push_back(w.axial);
    return s;
  }

  double widest() const {
    double n = p_.widest.value_or(0.5);
    if (p_.lens.widest) n = std::max(n, widest_as(p_.lens, p_.take.stop.kind).value);
    return n;
  }

  std::vector<Slot> slots() const {
    std::vector<Slot> out;
    if (p_.free.stop) {
      const double low = std::log2(widest());
      const double high = std::log2(std::max(p_.smallest.value_or(smallest_stop), widest()));
      out.push_back(
          {Slot::What::stop, 0, std::clamp(std::log2(p_.take.stop.value), low, high), low, high});
    }
    if (p_.free.focus) {
      const double closest =
          p_.lens.close_focus ? p_.lens.close_focus->m() : 5.0 * p_.lens.focal.m();
      const double high = std::max(1.0 / closest, to_dioptres(p_.focus));
      out.push_back({Slot::What::focus, 0, to_dioptres(p_.focus), 0.0, high});
    }
    if (p_.free.focal) {
      const double f = std::log2(p_.lens.focal.mm());
      const double low = p_.lens.zoom ? std::log2(p_.lens.zoom->shortest.mm()) : f - zoom_octaves;
      const double high = p_.lens.zoom ? std::log2(p_.lens.zoom->longest.mm()) : f + zoom_octaves;
      out.push_back({Slot::What::focal, 0, f, low, high});
    }
    if (p_.free.camera) {  // as log of the nearest subject's distance
      const double z = std::log2(std::isfinite(nearest_) ? nearest_ : 1.0);
      out.push_back({Slot::What::camera, 0, z, z - 4.0, z + 4.0});
    }
    for (const std::size_t i : p_.free.subjects) {
      if (i >= p_.subjects.size()) throw UsageError("what may move is no subject");
      if (p_.subjects[i].axial.is_infinite()) {
        throw UsageError(p_.subjects[i].name + " is infinitely far: it cannot be moved");
      }
      const double z = std::log2(p_.subjects[i].axial.m());
      out.push_back({Slot::What::subject, i, z, z - 6.0, z + 10.0});
    }
    return out;
  }

  State state(const double* x) const {
    State s = home();
    for (std::size_t i = 0; i < slots_.size(); ++i) {
      const Slot& slot = slots_[i];
      switch (slot.what) {
        case Slot::What::stop:
          s.stop.value = std::exp2(x[i]);
          break;
        case Slot::What::focus:
          s.focus = from_dioptres(x[i]);
          break;
        case Slot::What::focal:
          s.focal = Length::from_mm(std::exp2(x[i]));
          break;
        case Slot::What::camera:
          s.back = Length::from_m(std::exp2(x[i]) - std::exp2(slot.start));
          break;
        case Slot::What::subject:
          s.z[slot.subject] = Length::from_m(std::exp2(x[i]));
          break;
      }
    }
    for (Length& z : s.z) z = z + s.back;
    return s;
  }

  VirtualCamera camera(const State& s) const {
    Lens lens = p_.lens;
    lens.focal = s.focal;
    if (!opens_to(lens, s.stop)) lens.widest = s.stop;
    Take take = p_.take;
    take.stop = s.stop;
    return with_blur_override(resolve(p_.body, lens, take, s.focus), p_.blur_override);
  }

  // Signed, px of the picture's height.
  double blur_px(const VirtualCamera& c, const SeenBlur& seen, const State& s,
                 std::size_t subject) const {
    const WishSubject& w = p_.subjects[subject];
    const Length z = s.z[subject];
    // Beside the axis it moves with the framing.
    const double k =
        z.is_infinite() || w.axial.is_infinite() ? c.focal / v_ : (c.focal / v_) * (w.axial / z);
    return seen.of(z, {k * w.at.right, k * w.at.up}) / c.pixel_pitch();
  }

  double size_ratio(const VirtualCamera& c, const State& s, std::size_t subject) const {
    const Length z = p_.subjects[subject].axial;
    if (z.is_infinite()) return c.focal / v_;
    return (c.focal / v_) * (z / s.z[subject]);
  }

  // How far a wish is missed, against its size. @param side of the blur; 0: whichever it has
  double miss(const Wish& w, const VirtualCamera& c, const SeenBlur& seen, const State& s,
              double side) const {
    if (w.kind == Wish::Kind::same_size) {
      return std::log(size_ratio(c, s, w.subject)) / (10.0 * size_slack);
    }
    const double signed_px = blur_px(c, seen, s, w.subject);
    const double px = side == 0.0 ? std::abs(signed_px) : side * signed_px;
    const double wanted = w.kind == Wish::Kind::sharp ? limit_px_ : w.px;
    const double off = (px - wanted) / (wanted + 1.0);
    switch (w.kind) {
      case Wish::Kind::blur:
        return off;
      case Wish::Kind::blur_at_least:
        return std::min(0.0, off);
      default:  // a side of its own would pull a sharp thing through the focus
        return std::max(0.0, (std::abs(signed_px) - wanted) / (wanted + 1.0));
    }
  }

  // @param sides one a wish; null: whichever they have
  bool residuals(const double* x, const double* sides, double* r) const {
    const State s = state(x);
    std::size_t k = 0;
    try {
      for (const Length& z : s.z) {
        if (!(z.mm() > 0.0)) throw OpticsError("behind the camera");
      }
      const VirtualCamera c = camera(s);
      const SeenBlur seen(c);
      for (; k < p_.wishes.size(); ++k) {
        r[k] = miss(p_.wishes[k], c, seen, s, sides == nullptr ? 0.0 : sides[k]);
      }
    } catch (const OpticsError&) {
      return false;
    }
    for (std::size_t i = 0; i < slots_.size(); ++i) r[k + i] = stay * (x[i] - slots_[i].start);
    return true;
  }

  struct Residuals {
    const Fit* fit;
    const double* sides;
    bool operator()(const double* const* x, double* r) const {
      return fit->residuals(x[0], sides, r);
    }
  };

  std::size_t count() const { return p_.wishes.size() + slots_.size(); }

  double cost(const std::vector<double>& x) const {
    std::vector<double> r(count());
    if (!residuals(x.data(), nullptr, r.data())) return impossible;
    double sum = 0.0;
    for (const double v : r) sum += v * v;
    return sum;
  }

  // From one start, on the sides of the focus on which the subjects are there.
  double minimise(std::vector<double>& x) const {
    std::vector<double> sides(p_.wishes.size(), 1.0);
    try {
      const State s = state(x.data());
      const VirtualCamera c = camera(s);
      const SeenBlur seen(c);
      for (std::size_t k = 0; k < sides.size(); ++k) {
        sides[k] = blur_px(c, seen, s, p_.wishes[k].subject) < 0.0 ? -1.0 : 1.0;
      }
    } catch (const OpticsError&) {
      return impossible;
    }
    auto* function =
        new ceres::DynamicNumericDiffCostFunction<Residuals>(new Residuals{this, sides.data()});
    function->AddParameterBlock(static_cast<int>(x.size()));
    function->SetNumResiduals(static_cast<int>(count()));
    ceres::Problem problem;
    problem.AddResidualBlock(function, nullptr, x.data());
    for (std::size_t i = 0; i < slots_.size(); ++i) {
      problem.SetParameterLowerBound(x.data(), static_cast<int>(i), slots_[i].low);
      problem.SetParameterUpperBound(x.data(), static_cast<int>(i), slots_[i].high);
    }
    ceres::Solver::Options options;
    options.linear_solver_type = ceres::DENSE_QR;
    options.logging_type = ceres::SILENT;
    options.max_num_iterations = 200;
    options.function_tolerance = 1e-14;
    options.parameter_tolerance = 1e-12;
    options.gradient_tolerance = 1e-14;
    ceres::Solver::Summary summary;
    ceres::Solve(options, &problem, &summary);
    return cost(x);
  }

  // The present, and other sides of the subjects with other openings: a wish's blur has a kink
  // where its subject is in focus, which no descent crosses.
  std::vector<std::vector<double>> starts() const {
    std::vector<double> present;
    for (const Slot& s : slots_) present.push_back(s.start);
    std::vector<std::vector<double>> out{present};
    std::vector<double> focuses;
    for (std::size_t i = 0; i < slots_.size(); ++i) {
      if (slots_[i].what != Slot::What::focus) continue;
      std::vector<double> at;
      for (const WishSubject& s : p_.subjects) at.push_back(to_dioptres(s.axial));
      std::sort(at.begin(), at.end());
      focuses = at;
      for (std::size_t k = 0; k + 1 < at.size(); ++k) focuses.push_back(0.5 * (at[k] + at[k + 1]));
      focuses.push_back(0.5 * at.front());
      focuses.push_back(1.5 * at.back());
      for (const double d : focuses) {
        std::vector<double> x = present;
        x[i] = std::clamp(d, slots_[i].low, slots_[i].high);
        out.push_back(x);
      }
    }
    const std::size_t plain = out.size();
    for (std::size_t i = 0; i < slots_.size(); ++i) {
      if (slots_[i].what != Slot::What::stop) continue;
      for (const double stops : {-1.0, 2.0}) {
        for (std::size_t k = 0; k < plain; ++k) {
          std::vector<double> x = out[k];
          x[i] = std::clamp(x[i] + stops, slots_[i].low, slots_[i].high);
          out.push_back(x);
        }
      }
    }
    return out;
  }

  WishReached reached(const Wish& w, const VirtualCamera& c, const SeenBlur& seen,
                      const State& s) const {
    WishReached out;
    if (w.kind == Wish::Kind::same_size) {
      out.px = size_ratio(c, s, w.subject);
      out.missed = out.px - 1.0;
      out.met = std::abs(out.missed) <= size_slack;
      return out;
    }
    out.px = std::abs(blur_px(c, seen, s, w.subject));
    const double wanted = w.kind == Wish::Kind::sharp ? limit_px_ : w.px;
    out.missed = out.px - wanted;
    if (w.kind == Wish::Kind::blur_at_least) out.missed = std::min(0.0, out.missed);
    if (w.kind == Wish::Kind::sharp || w.kind == Wish::Kind::blur_at_most) {
      out.missed = std::max(0.0, out.missed);
    }
    out.met = std::abs(out.missed) <= std::max(px_slack, share_slack * wanted);
    return out;
  }

  WishAnswer answer(const std::vector<double>& x) const {
    const State s = state(x.data());
    WishAnswer out{s.stop, s.focus, s.focal, s.back, s.z, {}, camera(s), false, false};
    const SeenBlur seen(out.camera);
    for (const Wish& w : p_.wishes) out.wishes.push_back(reached(w, out.camera, seen, s));
    for (std::size_t i = 0; i < slots_.size(); ++i) {
      if (slots_[i].what != Slot::What::stop) continue;
      out.at_widest = x[i] <= slots_[i].low + 1e-6;
      out.at_smallest = x[i] >= slots_[i].high - 1e-6;
    }
    return out;
  }

  const WishProblem& p_;
  Length v_{};
  double limit_px_ = 0.0;
  double nearest_ = 0.0;
  std::vector<Slot> slots_{};
};

}  // namespace

bool WishAnswer::all_met() const {
  return std::all_of(wishes.begin(), wishes.end(), [](const WishReached& w) { return w.met; });
}

WishAnswer fulfil(const WishProblem& problem) { return Fit(problem).best(); }

}  // namespace jolly_iris
