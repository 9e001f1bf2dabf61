#include "jolly_iris/optics/dialect.hpp"

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include <cmath>

#include "jolly_iris/files/dialect_file.hpp"
#include "jolly_iris/files/shot_file.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace dialect_test {

using testing::holds;
using testing::message_of;
using testing::TempFolder;

const std::vector<std::string> shipped{"focal-and-gate", "view-and-radius", "fixed-gate", "shares"};

Dialect dialect(const std::string& name) {
  return read_dialect(JOLLY_IRIS_DIALECTS "/" + name + ".dialect.toml");
}

VirtualCamera camera() {
  const Body body{.gate = {24_mm, 16_mm}, .pixels = {2400, 1600}};
  const Lens lens{.focal = 50_mm,
                  .squeeze = 1.5,
                  .shift_right = 1_mm,
                  .shift_up = -2.0 * 1_mm,
                  .iris = {.blades = 7, .rotation = 20_deg}};
  return resolve(body, lens, {.stop = f_number(2)}, 2_m);
}

double value(const std::vector<DialectValue>& values, const std::string& label) {
  for (const DialectValue& v : values) {
    if (v.label == label) return v.value;
  }
  ADD_FAILURE() << "no field " << label;
  return 0.0;
}

TEST(Dialect, SaysTheSameCameraInEachWay) {
  const VirtualCamera c = camera();
  const DialectSetting setting{1_cm, c.pixels, 60_deg};
  const auto a = fields_in(dialect("focal-and-gate"), as_cg_camera(c), setting);
  EXPECT_DOUBLE_EQ(value(a, "Focal length"), c.focal.mm());
  EXPECT_DOUBLE_EQ(value(a, "Gate width"), 36.0);
  EXPECT_NEAR(value(a, "Focus distance"), 200.0, 1e-9);
  EXPECT_DOUBLE_EQ(value(a, "Opening, width / height"), 1.0 / 1.5);
  EXPECT_NEAR(value(a, "Moved right"), 1.0 / 36.0, 1e-12);
  const auto b = fields_in(dialect("view-and-radius"), as_cg_camera(c), setting);
  const double diagonal = std::hypot(36.0, 24.0);
  EXPECT_NEAR(std::tan(value(b, "Diagonal angle of view") / 360.0 * std::numbers::pi),
              diagonal / 2.0 / c.focal.mm(), 1e-12);
  EXPECT_NEAR(value(b, "Radius of the opening"), 12.5, 1e-12);
  EXPECT_NEAR(value(b, "Focus along the ray"), 400.0, 1e-9);  // 60° off the axis
  EXPECT_NEAR(value(b, "Opening, height / width"), 1.5, 1e-12);
  // A corner 20° counter-clockwise of the top is 110° from the right.
  EXPECT_NEAR(value(b, "Blades turned"), 110.0, 1e-12);
  EXPECT_NEAR(value(b, "Moved right"), 1.0, 1e-12);
  const auto f = fields_in(dialect("fixed-gate"), as_cg_camera(c), setting);
  EXPECT_NEAR(value(f, "Lens, for 20 mm of height"), c.focal.mm() * 20.0 / 24.0, 1e-9);
  EXPECT_NEAR(value(f, "Iris turned by"), -110.0, 1e-9);
  const auto s = fields_in(dialect("shares"), as_cg_camera(c), setting);
  EXPECT_NEAR(value(s, "Focal length / height"), c.focal.mm() / 24.0, 1e-9);
  EXPECT_NEAR(value(s, "Opening, radius / height"), 12.5 / 24.0, 1e-9);
  EXPECT_NEAR(value(s, "Blades turned"), -20.0 / 180.0 * std::numbers::pi, 1e-9);
  EXPECT_NEAR(value(s, "Moved up / height"), -2.0 / 24.0, 1e-9);
}

TEST(Dialect, AFixedGateKeepsViewAndOpening) {
  const Body body{.gate = {12_mm, 8_mm}, .pixels = {1200, 800}};
  const VirtualCamera c = resolve(body, {.focal = 50_mm}, {.stop = f_number(2)}, 2_m);
  const auto f = fields_in(dialect("fixed-gate"), as_cg_camera(c), {1_m, c.pixels, {}});
  const double focal = value(f, "Lens, for 20 mm of height");
  EXPECT_NEAR(2.0 * std::atan(10.0 / focal), c.vertical_picture_view().radians(), 1e-12);
  // Its program's opening is focal / (2 N): the true one, not that of a larger gate.
  EXPECT_NEAR(focal / (2.0 * value(f, "Stop")), c.aperture_radius.mm(), 1e-9);
}

TEST(Dialect, WrongNumbersAreRefused) {
  const VirtualCamera c = camera();
  const DialectSetting setting{1_cm, c.pixels, {}};
  const Dialect d = dialect("view-and-radius");
  const auto meant = [&](const std::map<std::string, double>& typed) {
    return meant_by(d, typed, setting, c.picture);
  };
  EXPECT_TRUE(holds(message_of<UsageError>([&] {
                      (void)meant({{"Radius of the openin", 1}});
                    }),
                    "Radius of the opening"));
  EXPECT_TRUE(holds(message_of<UsageError>([&] {
                      (void)meant({{"Radius of the opening", 1}});
                    }),
                    "nothing typed tells the framing"));
  EXPECT_THROW((void)meant({{"Diagonal angle of view", 190}}), OpticsError);
  EXPECT_THROW((void)meant({{"Diagonal angle of view", -5}}), OpticsError);
  EXPECT_THROW((void)meant({{"Diagonal angle of view", 20}, {"Blades", 3.5}}), OpticsError);
  EXPECT_THROW((void)meant({{"Diagonal angle of view", 20}, {"Radius of the opening", 0}}),
               OpticsError);
}

TEST(DialectFile, TellsAllItsMistakes) {
  const TempFolder folder;
  const auto path = folder.write("d.dialect.toml", R"(name = "odd"
fixed_gate = "0 mm"
[[field]]
label = "F"
is = "focal lenght"
[[field]]
label = "Gate"
is = "gate"
unit = "deg"
[[field]]
label = "Gate"
is = "f-number"
along = "width"
unit = "mm"
zero = "right"
colour = "red"
[[field]]
label = "W"
is = "focal length"
along = "height"
)");
  const auto message = message_of<ShotFileError>([&] { (void)read_dialect(path); });
  for (const char* part :
       {"fixed_gate", "'focal lenght' is not one of", "does not fit a gate", "label of two fields",
        "a f-number has no side", "a focal length has no side", "a f-number has no unit",
        "belongs to is = \"blade rotation\"", "is not a key of a dialect"}) {
    EXPECT_TRUE(holds(message, part));
  }
}

TEST(DialectFile, TypedNumbersNameTheirDialect) {
  const TempFolder folder;
  const std::string head = "dialect = \"" JOLLY_IRIS_DIALECTS "/shares.dialect.toml\"\n";
  const TypedCamera typed =
      read_typed(folder.write("a.typed.toml", head + "[typed]\n\"Focal length / height\" = 2.8\n"
                                                     "\"Sharp at\" = \"infinity\"\n"));
  EXPECT_EQ(typed.dialect.name, "shares");
  EXPECT_TRUE(std::isinf(typed.values.at("Sharp at")));
  EXPECT_THROW((void)read_typed(folder.write("b.typed.toml", head)), ShotFileError);
  EXPECT_THROW((void)read_typed(folder.write("c.typed.toml", head + "[typed]\na = true\n")),
               ShotFileError);
  EXPECT_THROW((void)read_typed(folder / "none.toml"), FileError);
}

TEST(DialectFile, ShippedOnesAreFoundByName) {
  for (const std::string& name : shipped) {
    EXPECT_FALSE(dialect(name).says.empty());
    EXPECT_NO_THROW((void)find_dialect(name, JOLLY_IRIS_DIALECTS));
  }
  const auto message =
      message_of<FileError>([] { (void)find_dialect("nothing", JOLLY_IRIS_DIALECTS); });
  EXPECT_TRUE(holds(message, "fixed-gate, focal-and-gate, shares, view-and-radius"));
}

RC_GTEST_PROP(DialectProperty, EveryDialectGoesThereAndBack, ()) {
  const Body body{.gate = {Length::from_mm(0.1 * *rc::gen::inRange(50, 600)),
                           Length::from_mm(0.1 * *rc::gen::inRange(50, 600))},
                  .pixels = {*rc::gen::inRange(200, 8000), *rc::gen::inRange(200, 8000)}};
  const Lens lens{.focal = Length::from_mm(*rc::gen::inRange(8, 300)),
                  .squeeze = 0.01 * *rc::gen::inRange(100, 250),
                  .shift_right = Length::from_mm(0.1 * *rc::gen::inRange(-50, 50)),
                  .shift_up = Length::from_mm(0.1 * *rc::gen::inRange(-50, 50)),
                  .iris = {.blades = *rc::gen::inRange(3, 20),
                           .rotation = Angle::from_degrees(*rc::gen::inRange(-180, 180))}};
  const VirtualCamera c = resolve(body, lens, {.stop = f_number(0.1 * *rc::gen::inRange(8, 220))},
                                  Length::from_mm(*rc::gen::inRange(1000, 100000)));
  const DialectSetting setting{Length::from_mm(*rc::gen::element(1.0, 10.0, 0.353, 1000.0)),
                               c.pixels, Angle::from_degrees(*rc::gen::inRange(0, 60))};
  for (const std::string& name : shipped) {
    const Dialect d = dialect(name);
    std::map<std::string, double> typed;
    for (const DialectValue& v : fields_in(d, as_cg_camera(c), setting)) typed[v.label] = v.value;
    const CgCamera back = meant_by(d, typed, setting, c.picture);
    const auto near = [](double a, double b) {
      return std::abs(a - b) <= 1e-9 * (1 + std::abs(b));
    };
    RC_ASSERT(near(back.picture.width / back.focal, c.picture.width / c.focal));
    RC_ASSERT(near(back.aperture_radius->mm(), c.aperture_radius.mm()));
    RC_ASSERT(near(back.focus->mm(), c.focus.mm()));
    RC_ASSERT(near(*back.width_to_height, c.pupil_aspect()));
    RC_ASSERT(*back.blades == c.iris.blades);
    RC_ASSERT(near(back.rotation->degrees(), c.iris.rotation.degrees()));
    RC_ASSERT(near(back.shift_right->mm(), c.shift_right.mm()));
    RC_ASSERT(near(back.shift_up->mm(), c.shift_up.mm()));
    // The real lens it amounts to is the one it was made from.
    const RealLens real = real_lens_of(back, c, lens, c.focus);
    RC_ASSERT(near(real.focal.mm(), lens.focal.mm()));
  }
}

}  // namespace dialect_test
}  // namespace jolly_iris
