// A look taken to other shots: the blur that comes out is the one that was asked for.
#include <gtest/gtest.h>

#include <chrono>
#include <cmath>
#include <fstream>
#include <nlohmann/json.hpp>

#include "cli_support.hpp"
#include "jolly_iris/jolly_iris.hpp"

namespace jolly_iris {
namespace carry_cli_test {

using testing::demo;
using testing::holds;
using testing::holds_all;
using testing::Ran;
using testing::run;
using testing::slurp;
using testing::TempFolder;
using Args = std::vector<std::string>;
using nlohmann::json;

std::string shot_of(const std::string& focal, const std::string& stop, const std::string& boat,
                    const std::string& width, const std::string& more = "") {
  return "[body]\ngate = \"24 x 13.5 mm\"\npixels = \"" + width + "\"\n[lens]\nfocal = \"" + focal +
         "\"\nwidest = \"f/1.4\"\n[lens.iris]\nblades = 7\n[take]\nstop = \"" + stop +
         "\"\niso = 800\nshutter = \"180 deg\"\nfps = 24\n[focus]\non = "
         "\"boat\"\n[[subject]]\nname = "
         "\"boat\"\nat = \"" +
         boat + "\"\nsize = \"30 cm\"\n[[subject]]\nname = \"bridge\"\nat = \"20 m\"\n" + more;
}

class Carry : public ::testing::Test {
 protected:
  json run_json(Args args, int code = 0) const {
    args.emplace_back("--json");
    const Ran r = run(args);
    EXPECT_EQ(r.code, code) << r.err;
    return json::parse(r.out);
  }
  double blur_px(const std::string& shot, const Args& more, const std::string& name) const {
    Args args{"report", shot, "--json"};
    args.insert(args.end(), more.begin(), more.end());
    const json j = json::parse(run(args).out);
    for (const json& s : j.at("subjects")) {
      if (s.at("name") == name) return s.at("coc_px");
    }
    return std::nan("");
  }

  TempFolder folder_{};
  std::string master_ =
      folder_.write("master.shot.toml", shot_of("50 mm", "f/2", "2 m", "1920 x 1080"));
};

// c = D v (1/s - 1/z), D = f/N, v = f s/(s - f): worked out here by hand.
double coc_mm(double f, double n, double s, double z) {
  return f / n * (f * s / (s - f)) * (1.0 / s - 1.0 / z);
}

TEST_F(Carry, KeepsTheBlurOfASubjectByTheStop) {
  const std::string other =
      folder_.write("other.shot.toml", shot_of("85 mm", "f/4", "4 m", "3840 x 2160"));
  const double master = coc_mm(50.0, 2.0, 2000.0, 20000.0);
  struct Case {
    const char* in;
    double wanted_mm;  // on the other's gate
  };
  const double px_master = master / 24.0 * 1920.0;
  const double size = (85.0 * 4000.0 / 3915.0 / 4000.0) / (50.0 * 2000.0 / 1950.0 / 2000.0);
  for (const Case& c : {Case{"picture", master}, Case{"px", px_master / 3840.0 * 24.0},
                        Case{"subject", master * size}}) {
    const json j = run_json({"carry", master_, "--to", other, "--of", "bridge", "--in", c.in});
    const json& f = j.at("shots")[0].at("frames")[0];
    const double n = 85.0 * (85.0 * 4000.0 / 3915.0) * (1.0 / 4000.0 - 1.0 / 20000.0) / c.wanted_mm;
    EXPECT_NEAR(f.at("wanted_px"), c.wanted_mm / 24.0 * 3840.0, 1e-3) << c.in;
    EXPECT_NEAR(std::stod(f.at("stop").get<std::string>().substr(2)), n, 1e-3 * n) << c.in;
    EXPECT_NEAR(f.at("gets_px"), f.at("wanted_px"), 1e-3) << c.in;
  }
}

TEST_F(Carry, WritesAVariantThatTheReportAgreesWith) {
  const std::string other =
      folder_.write("other.shot.toml", shot_of("85 mm", "f/4", "4 m", "3840 x 2160"));
  const std::string before = slurp(other);
  const Args args{"carry",   master_,  "--to",   other,
                  "--of",    "bridge", "--keep", "blur,exposure,disc",
                  "--write", "carried"};
  Args dry = args;
  dry.emplace_back("--dry");
  EXPECT_EQ(run(dry).code, 0);
  EXPECT_EQ(slurp(other), before);
  const json j = run_json(args);
  EXPECT_TRUE(slurp(other).starts_with(before)) << slurp(other);
  EXPECT_NEAR(blur_px(other, {"--variant", "carried"}, "bridge"),
              j.at("shots")[0].at("frames")[0].at("wanted_px"), 0.01);
  const auto ev = [](const std::string& shot, const Args& more) {
    Args args_of{"report", shot, "--only", "exposure.ev100"};
    args_of.insert(args_of.end(), more.begin(), more.end());
    return std::stod(run(args_of).out);
  };
  EXPECT_NEAR(ev(other, {"--variant", "carried"}), ev(master_, {}), 0.01);
  // The same again has nothing to change.
  EXPECT_TRUE(holds(run(args).out, "0 files written"));
}

TEST_F(Carry, GoesOverFramesAsKeys) {
  const std::string other = folder_.write(
      "pulled.shot.toml",
      shot_of("85 mm", "f/4", "4 m", "1920 x 1080",
              "[frames]\nfirst = 1\nlast = 5\n[over.subject.boat.at]\n1 = \"4 m\"\n5 = \"6 m\"\n"));
  const json j = run_json({"carry", master_, "--to", other, "--frames", "1-5x2", "--of", "bridge",
                           "--write", "carried"});
  const json& frames = j.at("shots")[0].at("frames");
  ASSERT_EQ(frames.size(), 3U);
  for (const json& f : frames) {
    const std::string at = std::to_string(f.at("frame").get<int>());
    EXPECT_NEAR(blur_px(other, {"--variant", "carried", "--frame", at}, "bridge"),
                f.at("wanted_px"), 0.02);
  }
  const Ran csv = run({"carry", master_, "--to", other, "--frames", "1-5", "--csv"});
  EXPECT_EQ(std::count(csv.out.begin(), csv.out.end(), '\n'), 6);
}

TEST_F(Carry, TellsWhatARealLensCannot) {
  const std::string wide =
      folder_.write("wide.shot.toml", shot_of("18 mm", "f/4", "4 m", "1920 x 1080"));
  const json f = run_json({"carry", master_, "--to", wide}).at("shots")[0].at("frames")[0];
  EXPECT_EQ(f.at("stop"), "f/1.4");
  EXPECT_LT(f.at("gets_px"), f.at("wanted_px"));
  EXPECT_TRUE(holds(f.at("note"), "opens to f/1.4"));
  const std::string on_it =
      folder_.write("onit.shot.toml", shot_of("50 mm", "f/2", "20 m", "1920 x 1080"));
  const json same = run_json({"carry", master_, "--to", on_it, "--of", "bridge"});
  EXPECT_TRUE(holds(same.at("shots")[0].at("frames")[0].at("note"), "in focus"));
  const std::string none = folder_.write("none.shot.toml", "[take]\nstop = \"f/2\"\n");
  const Ran r = run({"carry", master_, "--to", folder_.path().string(), "--json"});
  EXPECT_EQ(r.code, 1);
  EXPECT_TRUE(holds(r.err, "1 of 3 shots"));
}

TEST_F(Carry, FinishGoesWithThePicture) {
  const std::string finished =
      folder_.write("fin.shot.toml", shot_of("50 mm", "f/2", "2 m", "1920 x 1080",
                                             "[finish.halo]\nshare = \"4 %\"\nreach = \"6 px\"\n"));
  const std::string other =
      folder_.write("other.shot.toml", shot_of("85 mm", "f/4", "4 m", "3840 x 2160"));
  const json keys =
      run_json({"carry", finished, "--to", other, "--keep", "finish"}).at("shots")[0].at("keys");
  EXPECT_EQ(keys.at("finish.halo.reach"), "12 px");
  EXPECT_EQ(keys.at("finish.halo.share"), "4 %");
}

TEST_F(Carry, ANumberSetByFeelGoesAsBlurGoes) {
  const json j = run_json({"carry", master_, "--felt", "9 at 20 m, 14 at 12 m", "--at",
                           "7m,30m,60m", "--of", "bridge"});
  // The bridge is 18 m behind the boat.
  const auto blur = [](double s) { return coc_mm(50.0, 2.0, s, s + 18000.0); };
  const double k = (9.0 * blur(20000) + 14.0 * blur(12000)) /
                   (std::pow(blur(20000), 2) + std::pow(blur(12000), 2));
  EXPECT_NEAR(j.at("carried")[0].at("blur").at("value"), k * blur(7000), 1e-6 * k * blur(7000));
  // The line: 14 - (s - 12) 5/8.
  EXPECT_NEAR(j.at("carried")[0].at("line").at("value"), 17.125, 1e-9);
  EXPECT_NEAR(j.at("carried")[2].at("line").at("value"), -16.0, 1e-9);
  EXPECT_TRUE(holds(j.at("carried")[2].at("line").at("breaks"), "negative"));
  EXPECT_NEAR(j.at("line_ends_m"), 34.4, 1e-9);
  EXPECT_GT(j.at("carried")[2].at("blur").at("value"), 0.0);
  // What lies in front of the boat is in front of the focus at any distance, or behind the camera.
  const json front =
      run_json({"carry", master_, "--felt", "3 at 4 m", "--at", "1m,10m", "--of", "1 m"});
  EXPECT_EQ(front.at("carried")[1].at("blur").at("breaks"), "in front of the focus");
}

struct Wrong {
  const char* label;
  Args args;
  const char* said;
};
class WrongCarry : public ::testing::TestWithParam<Wrong> {};
TEST_P(WrongCarry, IsRefusedWithWhatWouldBeRight) {
  Args args{"carry", demo("hero.shot.toml")};
  args.insert(args.end(), GetParam().args.begin(), GetParam().args.end());
  const Ran r = run(args);
  EXPECT_NE(r.code, 0);
  EXPECT_TRUE(holds(r.err, GetParam().said)) << r.err;
}
INSTANTIATE_TEST_SUITE_P(
    All, WrongCarry,
    ::testing::Values(
        Wrong{"nowhere", {}, "name other shots"},
        Wrong{"itself", {"--to", demo("hero.shot.toml")}, "master alone"},
        Wrong{"part", {"--to", demo("quay.shot.toml"), "--keep", "blurr"}, "blur"},
        Wrong{"of", {"--to", demo("quay.shot.toml"), "--of", "baot"}, "Did you mean 'boat'"},
        Wrong{"focused", {"--to", demo("quay.shot.toml"), "--of", "boat"}, "in focus"},
        Wrong{"felt", {"--felt", "9 20"}, "needs --at"},
        Wrong{"felt_text", {"--felt", "9 by 20", "--at", "7m"}, "9 at 20 m"},
        Wrong{"name", {"--to", demo("quay.shot.toml"), "--write", "a b", "--dry"}, "cannot name"},
        Wrong{"dry", {"--to", demo("quay.shot.toml"), "--dry"}, "--write"}),
    [](const auto& which) { return std::string(which.param.label); });

}  // namespace carry_cli_test
}  // namespace jolly_iris
