// The page in a browser, used as a person uses it.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <set>

#include "browser.hpp"
#include "cli_support.hpp"
#include "jolly_iris/files/load.hpp"
#include "jolly_iris/optics/undistort.hpp"

namespace jolly_iris {
namespace page_test {

using testing::Browser;
using testing::demo;
using testing::holds;
using testing::Ran;
using testing::run;
using testing::slurp;
using testing::TempFolder;
using Json = nlohmann::json;

// The regatta's page. ctest makes it once for all of these tests, with the tool itself; where it is
// not there, it is made.
const std::string& hero_page() {
  static const std::string file = [] {
    const std::string name = JOLLY_IRIS_HERO_PAGE;
    if (std::filesystem::exists(name)) return name;
    const Ran r = run({"page", demo("hero.shot.toml"), "--sharp", demo("pinhole.exr"), "--steps",
                       "take.stop=f/1.8,f/2.2,f/5.6", "--with", demo("plate.jpg"), "--cg",
                       demo("pinhole.exr"), "--match", "--bokeh", "-o", name});
    EXPECT_EQ(r.code, 0) << r.err;
    return name;
  }();
  return file;
}

struct Screen {
  const char* name;
  int width;
  int height;
};
void PrintTo(const Screen& screen, std::ostream* out) { *out << screen.name; }

class PageOn : public ::testing::TestWithParam<Screen> {
 protected:
  TempFolder folder_;
  Browser browser_{GetParam().width, GetParam().height, GetParam().width < 500,
                   folder_ / "profile"};
};

TEST_P(PageOn, OpensFromDiskCompleteWithoutNetworkAndInOneFile) {
  EXPECT_LT(std::filesystem::file_size(hero_page()), 5U << 20U);
  browser_.log("performance");
  browser_.open("file://" + hero_page());
  std::set<std::string> asked;
  for (const Json& entry : browser_.log("performance")) {
    const Json message = Json::parse(entry["message"].get<std::string>())["message"];
    if (message["method"] != "Network.requestWillBeSent") continue;
    const Json& params = message["params"];
    // The browser's own first tab is not ours.
    if (params["documentURL"].get<std::string>().starts_with("chrome:")) continue;
    const std::string url = params["request"]["url"];
    asked.insert(url.substr(0, url.find(':')));
  }
  EXPECT_EQ(asked.count("file"), 1U);
  asked.erase("file");
  asked.erase("data");
  EXPECT_TRUE(asked.empty()) << "asked for " << *asked.begin();
  for (const Json& entry : browser_.log("browser")) ADD_FAILURE() << entry.dump();
  // Every picture is there, every part has its heading.
  EXPECT_EQ(browser_.script("return [...document.images].filter(i => i.loading !== 'lazy' && "
                            "!i.naturalWidth).map(i => i.id)"),
            Json::array());
  for (const char* part : {"plate", "steps", "camera", "sharp", "plan", "pictures", "notes"}) {
    const std::string selector = std::string("#") + part + "-part";
    EXPECT_GT(
        browser_.script("return document.querySelector(arguments[0]).offsetHeight", {selector}), 20)
        << part;
  }
}

TEST_P(PageOn, NothingSticksOutAndEverythingIsLargeEnoughToHit) {
  browser_.open("file://" + hero_page());
  EXPECT_LE(browser_.script("return document.documentElement.scrollWidth").get<int>(),
            GetParam().width);
  EXPECT_EQ(browser_.script(
                "return [...document.querySelectorAll('button, select, .button, .tools span, "
                "nav a')].filter(e => e.offsetParent && e.getBoundingClientRect().height < 20)"
                ".map(e => e.id || e.textContent)"),
            Json::array());
}

// Where the hero's plate shows things, as shares of it.
struct At {
  double x, y;
};
constexpr At second_boat{0.775, 0.785};
constexpr At boat{0.44, 0.87};

TEST_P(PageOn, PointingTellsWhatIsThereAndGivesTomlThatWorks) {
  browser_.open("file://" + hero_page());
  browser_.click(".tools label:nth-of-type(2)");  // focus
  browser_.click("#plate", second_boat.x, second_boat.y);
  const std::string message = browser_.text("#readout");
  EXPECT_TRUE(holds(message, "second boat")) << message;
  EXPECT_TRUE(holds(message, "behind the focus")) << message;
  EXPECT_TRUE(holds(message, "stops from mid-grey")) << message;
  EXPECT_TRUE(holds(browser_.text("#exposure"), "metered grey"));
  EXPECT_TRUE(holds(browser_.value("#toml"), "on = \"second boat\"")) << browser_.value("#toml");

  browser_.click(".tools label:nth-of-type(3)");  // edge
  browser_.script("const r = document.getElementById('runs'); r.value = 'vertical';");
  for (const double x : {0.10, 0.90}) {
    browser_.click("#plate", x, 0.05);
    browser_.click("#plate", x, 0.55);
    browser_.click("#end-edge");
  }
  browser_.click(".tools label:nth-of-type(7)");  // box
  browser_.click("#plate", 0.2, 0.2);
  browser_.click("#plate", 0.3, 0.4);

  // Pasted back: the focus takes the place of the old one, the marks go to the end.
  const std::string toml = browser_.value("#toml");
  const auto marks = toml.find("[[plate.");
  ASSERT_NE(marks, std::string::npos) << toml;
  std::string shot = slurp(demo("hero.shot.toml"));
  const auto old = shot.find("[focus]\non = \"boat\"");
  ASSERT_NE(old, std::string::npos);
  shot.replace(old, std::string("[focus]\non = \"boat\"").size(), toml.substr(0, marks));
  for (const auto& file : std::filesystem::directory_iterator(JOLLY_IRIS_DEMO)) {
    if (file.is_regular_file() && file.path().extension() != ".cpp") {
      std::filesystem::copy(file.path(), folder_.path() / file.path().filename());
    }
  }
  const std::string pasted = folder_.write("hero.shot.toml", shot + "\n" + toml.substr(marks));
  const Ran r = run({"report", pasted, "--only", "camera.focus_m"});
  EXPECT_EQ(r.code, 0) << r.err;
  EXPECT_NEAR(std::stod(r.out), 3.7, 1e-3);
  // The drawn edges stand upright, so the camera does not look up or down: what the scene says.
  const Ran m = run({"measure", pasted, "--only", "tilt_deg.value"});
  EXPECT_EQ(m.code, 0) << m.err;
  EXPECT_NEAR(std::stod(m.out), 0.0, 0.5);
}

TEST_P(PageOn, SplitsPlateAndCgWhereItIsDraggedOrSlid) {
  browser_.open("file://" + hero_page());
  const auto at = [&] {
    return browser_.script(
        "return [document.getElementById('split-at').value, "
        "getComputedStyle(document.getElementById('split-cg')).clipPath]");
  };
  EXPECT_EQ(at()[0], "50");
  browser_.click("#split", 0.25, 0.5);
  Json now = at();
  EXPECT_NEAR(std::stod(now[0].get<std::string>()), 25.0, 1.0);
  EXPECT_TRUE(holds(now[1].get<std::string>(), "inset(0px 0px 0px 2"));
  browser_.script(
      "const s = document.getElementById('split-at'); s.value = 80; "
      "s.dispatchEvent(new Event('input')); return 0");
  now = at();
  EXPECT_TRUE(holds(now[1].get<std::string>(), "inset(0px 0px 0px 80%"));
  // What a supervisor is sent it for: what differs, what to change, what the plate says.
  EXPECT_TRUE(holds(browser_.text("#differs"), "exposure"));
  EXPECT_FALSE(browser_.text("#moves").empty());
  EXPECT_TRUE(holds(browser_.text("#match-words"), "Notes and plate agree"));
  EXPECT_TRUE(holds(browser_.text("#found"), "focal length"));
  EXPECT_TRUE(holds(browser_.text("#bokeh-words"), "7 blades"));
}

INSTANTIATE_TEST_SUITE_P(Screens, PageOn,
                         ::testing::Values(Screen{"wide", 1280, 800}, Screen{"phone", 390, 844}),
                         [](const auto& each) { return std::string(each.param.name); });

class Page : public ::testing::Test {
 protected:
  TempFolder folder_;
  Browser browser_{1280, 800, false, folder_ / "profile"};

  std::string focused() {
    return browser_.script(
        "return document.activeElement.id || "
        "document.activeElement.value || ''");
  }
};

TEST_F(Page, IsUsableByKeyboardAlone) {
  browser_.open("file://" + hero_page());
  std::set<std::string> reached;
  for (int i = 0; i < 40; ++i) {
    browser_.keys({Browser::tab});
    reached.insert(focused());
  }
  for (const char* id : {"look", "plate", "zoom", "toml", "step"}) {
    EXPECT_EQ(reached.count(id), 1U) << id;
  }
  // From the top again: to the tools, over to the edge, on to the plate, two points, the end.
  browser_.script(
      "document.activeElement.blur(); window.scrollTo(0, 0);"
      "document.querySelector('.tools input').focus()");
  browser_.keys({Browser::right, Browser::right});
  EXPECT_EQ(focused(), "line");
  browser_.keys({Browser::tab});
  EXPECT_EQ(focused(), "plate");
  browser_.keys({Browser::enter});
  browser_.keys({Browser::down, Browser::down, Browser::right}, Browser::shift);
  browser_.keys({Browser::up});
  EXPECT_TRUE(holds(browser_.text("#readout"), "pixel 970, 559"));
  browser_.keys({Browser::enter, u'e'});
  EXPECT_TRUE(holds(browser_.value("#toml"), "points = [[960, 540], [970, 559]]"))
      << browser_.value("#toml");
  // A point taken back is no point.
  browser_.keys({Browser::enter, Browser::backspace, u'e'});
  EXPECT_EQ(browser_.script("return document.querySelectorAll('#mark-list li').length"), 1);
}

// Shaded as in the plan: a pattern for each side of the focus, paler where there is less blur.
TEST_F(Page, BlurIsShadedAndReadWithoutColour) {
  browser_.open("file://" + hero_page());
  const auto shade = [&](const std::string& row, const std::string& what) {
    return browser_.script("return getComputedStyle(document.querySelector('#sharp tr." + row +
                           " .blur'), '::before')." + what);
  };
  EXPECT_EQ(shade("sharp", "backgroundImage"), "none");
  EXPECT_EQ(shade("sharp", "backgroundColor"), "rgb(33, 38, 45)");
  EXPECT_TRUE(holds(shade("behind", "backgroundImage").get<std::string>(), "radial-gradient"));
  const auto strength = [&](const std::string& which) {
    return std::stod(browser_
                         .script("const rows = document.querySelectorAll('#sharp tr.behind .blur');"
                                 "return getComputedStyle(rows[" +
                                 which + "], '::before').opacity")
                         .get<std::string>());
  };
  EXPECT_LT(strength("0"), strength("rows.length - 1") - 0.05);
}

TEST_F(Page, StepsCanBeSlidThrough) {
  browser_.open("file://" + hero_page());
  EXPECT_EQ(browser_.text("#step-value"), "f/2.2") << "begins with what the shot has";
  const std::string before = browser_.script("return document.getElementById('step-picture').src");
  browser_.script("document.getElementById('step').focus()");
  browser_.keys({Browser::right});
  EXPECT_EQ(browser_.text("#step-value"), "f/5.6");
  EXPECT_NE(browser_.script("return document.getElementById('step-picture').src"), before);
  EXPECT_TRUE(holds(browser_.text("#step-words"), "Sharp from"));
}

TEST_F(Page, EveryKindOfMarkIsReadBack) {
  browser_.open("file://" + hero_page());
  const auto at = [&](double x, double y) { browser_.click("#plate", x, y); };
  browser_.click(".tools label:nth-of-type(4)");  // round thing
  at(0.3, 0.3);
  at(0.35, 0.25);
  EXPECT_TRUE(browser_.script("return document.getElementById('end-edge').disabled"))
      << "two points are no circle";
  at(0.4, 0.3);
  browser_.click("#end-edge");
  browser_.click(".tools label:nth-of-type(5)");  // lamp
  at(0.5, 0.3);
  at(0.52, 0.3);
  browser_.click(".tools label:nth-of-type(6)");  // grey card
  at(0.6, 0.6);
  at(0.7, 0.5);
  const std::string toml = browser_.value("#toml");
  const std::string shot = folder_.write("a.shot.toml", testing::plain_shot + toml);
  const Ran r = run({"report", shot});
  EXPECT_EQ(r.code, 0) << r.err << toml;
  for (const char* part :
       {"[[plate.circle]]", "[[plate.lamp]]\nat", "diameter", "[[plate.grey]]"}) {
    EXPECT_TRUE(holds(toml, part));
  }
  // It can be copied and downloaded as it stands there.
  browser_.click("#copy");
  EXPECT_EQ(browser_.script("return new Promise(done => setTimeout(() => "
                            "done(document.getElementById('copied').textContent), 300))"),
            "copied");
  EXPECT_EQ(browser_.script("return decodeURIComponent(document.getElementById('download').href"
                            ".split(',').slice(1).join(','))"),
            toml);
  // What was drawn can be taken out again.
  browser_.click("#mark-list button");
  EXPECT_FALSE(holds(browser_.value("#toml"), "circle"));
}

TEST_F(Page, WithoutASceneTheDepthPictureTells) {
  const std::string shot = folder_.write(
      "a.shot.toml", std::string(testing::plain_shot) + "[plate]\nfile = \"" + demo("plate.jpg") +
                         "\"\n[depth]\nfile = \"" + demo("pinhole.exr") + "\"\n");
  const Ran made = run({"page", shot, "-o", folder_ / "a.html"});
  ASSERT_EQ(made.code, 0) << made.err;
  browser_.open("file://" + (folder_ / "a.html"));
  browser_.click(".tools label:nth-of-type(2)");  // focus
  browser_.click("#plate", boat.x, boat.y);
  EXPECT_TRUE(holds(browser_.value("#toml"), "at = \"2.3")) << "it has no name, so its distance";
  browser_.script(
      "const f = document.getElementById('focus-by'); f.value = 'pixel';"
      "f.dispatchEvent(new Event('change'))");
  EXPECT_TRUE(holds(browser_.value("#toml"), "pixel = [84")) << browser_.value("#toml");
}

TEST_F(Page, LooksThroughTheLensIntoTheScene) {
  // In a bent plate the pointer lies elsewhere than CG shows: both ways must agree.
  const std::string page = folder_ / "quay.page.html";
  const Ran made = run({"page", demo("quay.shot.toml"), "--variant", "measured", "-o", page});
  ASSERT_EQ(made.code, 0) << made.err;
  browser_.open("file://" + page);
  const LoadedShot loaded = load_shot(demo("quay.shot.toml"), {{{"variant", "measured"}}, {}, {}});
  const DistortionMap map(loaded.answer.camera);
  int moved = 0;
  for (const std::array<double, 2>& fraction :
       {std::array{0.06, 0.9}, std::array{0.3, 0.6}, std::array{0.97, 0.87}}) {
    browser_.click("#plate", fraction[0], fraction[1]);
    const std::string message = browser_.text("#readout");
    // The quay's wall is a plane: its depth under the pointer follows from the direction.
    double x = 0.0;
    double y = 0.0;
    double z = 0.0;
    char name[64] = {};
    ASSERT_EQ(std::sscanf(message.c_str(), "pixel %lf, %lf · %lf m along the view axis · %63[^·]",
                          &x, &y, &z, name),
              4)
        << message;
    const std::string thing(name);
    const auto straight = map.undistorted({x, y});
    moved += std::hypot(straight[0] - x, straight[1] - y) > 20.0 ? 1 : 0;
    const auto d = direction_of_pixel(loaded.answer.camera, straight[0], straight[1]);
    const Vec3 ray = loaded.answer.place.linear * Vec3(d[0], d[1], d[2]);
    const double plane = thing.starts_with("quay wall") ? -46.0 : -47.2;
    const double expected = (plane - loaded.answer.place.translation.z) / ray.z;
    EXPECT_NEAR(z, expected, 0.01 * expected) << message;
  }
  EXPECT_GE(moved, 2);
}

}  // namespace page_test
}  // namespace jolly_iris
