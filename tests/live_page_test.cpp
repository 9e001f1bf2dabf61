// The page to play with, in a browser, used as a person uses it.
#include <gtest/gtest.h>

#include <chrono>
#include <filesystem>
#include <thread>

#include "browser.hpp"
#include "cli_support.hpp"
#include "jolly_iris/jolly_iris.hpp"

namespace jolly_iris {
namespace live_page_test {

using testing::Browser;
using testing::demo;
using testing::holds;
using testing::Ran;
using testing::run;
using testing::slurp;
using testing::TempFolder;
using Json = nlohmann::json;

struct Screen {
  const char* name;
  int width;
  int height;
};
void PrintTo(const Screen& screen, std::ostream* out) { *out << screen.name; }

// Where the hero's picture shows things, as shares of it.
constexpr std::array<double, 2> second_boat{0.775, 0.785};
constexpr std::array<double, 2> second_boat_drifting{0.76, 0.77};  // at drift's first frame

// A shot's files in a folder of their own, its server, and a page of it.
class Page {
 public:
  Page(const Screen& screen, LiveRequest request, const std::string& profile)
      : server_(request), browser_(screen.width, screen.height, screen.width < 500, profile) {
    thread_ = std::thread([this] { server_.serve(); });
    browser_.open(server_.address());
    still();
  }
  ~Page() {
    server_.stop();
    thread_.join();
  }
  Page(const Page&) = delete;
  Page& operator=(const Page&) = delete;

  Browser& browser() { return browser_; }
  std::string address() const { return server_.address(); }
  Json state() { return browser_.script("return fetch('state').then(r => r.json())"); }
  std::string alert() { return browser_.text("#alert"); }

  template <class Done>
  bool wait(const Done& done) {
    // What hangs has to fail; what takes its time on a busy machine has not.
    const auto end = std::chrono::steady_clock::now() + std::chrono::minutes(2);
    while (!done()) {
      if (std::chrono::steady_clock::now() > end) return false;
      std::this_thread::sleep_for(std::chrono::milliseconds(50));
    }
    return true;
  }
  // Until the whole picture of the newest state is shown.
  void still() {
    EXPECT_TRUE(wait([&] {
      return browser_.script(
          "const s = document.getElementById('stage').dataset;"
          "return fetch('state').then(r => r.json()).then(j => s.whole === '1' && "
          "+s.version === j.version)");
    })) << alert();
  }
  // Until the newest state's plan is shown.
  void plan() {
    EXPECT_TRUE(wait([&] {
      return browser_.script(
          "return fetch('state').then(r => r.json()).then(j => "
          "+document.getElementById('plan-frame').dataset.version === j.version)");
    })) << alert();
  }
  // Until the state says so.
  template <class Says>
  Json until(const Says& says) {
    Json s;
    EXPECT_TRUE(wait([&] {
      s = state();
      return says(s);
    })) << s.dump();
    return s;
  }
  std::string held(const std::string& key) {
    const Json now = state();
    for (const Json& v : now["values"]) {
      if (v["key"] == key) return v["text"];
    }
    return {};
  }
  // Types into a field as a person does: everything chosen, typed over, Enter.
  void type(const std::string& selector, const std::u16string& text) {
    browser_.script(
        "const e = document.querySelector(arguments[0]);"
        "e.scrollIntoView({block: 'center'}); e.focus(); e.select()",
        {selector});
    browser_.keys(text);
    browser_.keys({Browser::enter});
    browser_.script("document.activeElement.blur()");
  }
  // The picture as a number that changes with any of its pixels.
  double sum(const std::string& canvas = "cg") {
    return browser_.script(
        "const c = document.getElementById(arguments[0]);"
        "const d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data;"
        "let s = 0; for (let i = 0; i < d.length; i += 1) s += d[i] * ((i % 251) + 1); return s",
        {canvas});
  }

 private:
  LiveServer server_;
  std::thread thread_;
  Browser browser_;
};

// Nothing went wrong that nobody saw.
void expect_no_errors(Browser& browser) {
  const Json log = browser.log("browser");
  for (const Json& entry : log) {
    if (entry["level"] == "SEVERE") {
      ADD_FAILURE() << entry.dump();
    }
  }
}

class LivePageOn : public ::testing::TestWithParam<Screen> {
 protected:
  LivePageOn() {
    for (const char* file : {"hero.shot.toml", "tansy.body.toml", "linden-53.lens.toml",
                             "regatta.gltf", "regatta.bin", "plate.jpg"}) {
      std::filesystem::copy_file(demo(file), folder_ / file);
    }
  }
  LiveRequest hero() const {
    return {.shot = {.file = folder_ / "hero.shot.toml"},
            .sources = {.pictures = {demo("pinhole.exr")}}};
  }
  TempFolder folder_{};
  TempFolder profile_{"_profile"};
};

// What docs/first-hour.md does: something is clicked sharp, the lens opened, its blades made six,
// that kept; closed and kept; flipped between; the first written as a variant.
void play_the_first_hour(Page& page, std::array<double, 2> place, const std::string& told,
                         const std::u16string& open = u"f/1.4") {
  Browser& b = page.browser();
  const std::size_t before = page.state()["values"].size();
  b.click("#cg", place[0], place[1]);
  (void)page.until([&](const Json& s) { return s["told"] == told; });
  page.type("#c-take-stop-text", open);
  page.type("#c-lens-iris-blades-text", u"6");
  (void)page.until([&](const Json& s) { return s["values"].size() == before + 3; });
  const std::string opened = page.held("take.stop");
  EXPECT_TRUE(page.wait([&] { return b.value("#c-lens-iris-blades") == "6"; }));  // its slider
  b.click("#keep");
  (void)page.until([](const Json& s) { return s["tries"].size() == 1; });
  page.type("#c-take-stop-text", u"f/4");
  EXPECT_TRUE(page.wait([&] { return page.held("take.stop") == "f/4"; }));
  b.click("#keep");
  (void)page.until([](const Json& s) { return s["tries"].size() == 2; });
  page.still();
  const double closed = page.sum();
  b.click("#flip");
  (void)page.until([](const Json& s) { return s["tries"][0]["now"] == true; });
  EXPECT_EQ(page.held("take.stop"), opened);
  page.still();
  EXPECT_NE(page.sum(), closed);
  page.type("#variant", u"dreamy");
  b.click("#write-variant");
  EXPECT_TRUE(
      page.wait([&] { return b.text("#told").find("--variant dreamy") != std::string::npos; }));
  expect_no_errors(b);
}

// From a scene alone.
TEST_P(LivePageOn, TheFirstHour) {
  const std::string shot = folder_ / "first.shot.toml";
  const Ran started =
      run({"start", folder_ / "regatta.gltf", "--camera", "taking camera", "-o", shot});
  ASSERT_EQ(started.code, 0) << started.err;
  EXPECT_TRUE(holds(started.out, "jolly-iris live "));
  Page page(GetParam(), {.shot = {.file = shot}}, profile_.path().string());
  play_the_first_hour(page, second_boat, "Focus on second boat.");
  const Ran report = run({"report", shot, "--variant", "dreamy"});
  EXPECT_EQ(report.code, 0) << report.err;
  EXPECT_TRUE(holds(report.out, "f/1.4 · focus on second boat"));
  EXPECT_TRUE(holds(report.out, "6 blades"));
}

// The same from a plate alone, which is flat.
TEST_P(LivePageOn, TheFirstHourOfAPlate) {
  const std::string shot = folder_ / "plate.shot.toml";
  const Ran started = run({"start", folder_ / "plate.jpg", "-o", shot});
  ASSERT_EQ(started.code, 0) << started.err;
  Page page(GetParam(), {.shot = {.file = shot}}, profile_.path().string());
  page.type("#c-focus-at-text", u"5 m");  // else all of it is sharp, however far it is open
  (void)page.until([](const Json& s) { return s["values"].size() == 1; });
  page.browser().click("#reset");
  (void)page.until([](const Json& s) { return s["values"].empty(); });
  const double guessed = page.state()["focus_m"];
  page.browser().click("#cg", 0.5, 0.5);
  (void)page.until([](const Json& s) { return s["values"].size() == 1; });
  EXPECT_NEAR(page.state()["focus_m"], guessed, 1e-4 * guessed);  // it is as far everywhere
  page.type("#c-focus-at-text", u"1 m");
  EXPECT_TRUE(page.wait([&] { return page.held("focus.at") == "1 m"; }));
  page.type("#c-take-stop-text", u"f/1.4");
  page.type("#c-lens-iris-blades-text", u"6");
  (void)page.until([](const Json& s) { return s["values"].size() == 3; });
  page.browser().click("#keep");
  (void)page.until([](const Json& s) { return s["tries"].size() == 1; });
  page.still();
  const double open = page.sum();
  page.type("#c-take-stop-text", u"f/4");
  EXPECT_TRUE(page.wait([&] { return page.held("take.stop") == "f/4"; }));
  page.browser().click("#keep");
  (void)page.until([](const Json& s) { return s["tries"].size() == 2; });
  page.still();
  EXPECT_NE(page.sum(), open);
  page.browser().click("#flip");
  (void)page.until([](const Json& s) { return s["tries"][0]["now"] == true; });
  page.type("#variant", u"near");
  page.browser().click("#write-variant");
  EXPECT_TRUE(page.wait(
      [&] { return page.browser().text("#told").find("--variant near") != std::string::npos; }));
  const Ran report = run({"report", shot, "--variant", "near"});
  EXPECT_EQ(report.code, 0) << report.err;
  EXPECT_TRUE(holds(report.out, "f/1.4"));
  EXPECT_TRUE(holds(report.out, "6 blades"));
  EXPECT_TRUE(holds(report.out, "focus at 1 m"));
  expect_no_errors(page.browser());
}

// A whole picture that arrives just after a change, before the page looked at the clock, is too old
// and is not the end: the new one is asked for.
TEST_P(LivePageOn, AWholePictureThatComesTooLateIsAskedForAgain) {
  Page page(GetParam(), hero(), profile_.path().string());
  Browser& b = page.browser();
  b.script(
      "window.setInterval = () => 0;"  // the clock is never looked at
      "const ask = window.fetch; window.under_way = 0;"
      "window.fetch = async (path, ...rest) => {"
      "  const answer = await ask(path, ...rest);"
      "  if (String(path).includes('detail=whole')) {"
      "    window.under_way += 1; await new Promise(r => setTimeout(r, 1500)); }"
      "  return answer; };");
  page.type("#c-take-stop-text", u"f/2");
  EXPECT_TRUE(page.wait([&] { return b.script("return window.under_way") == 1; }));
  page.type("#c-take-stop-text", u"f/4");
  page.still();
  EXPECT_EQ(page.held("take.stop"), "f/4");
}

// And of a shot that moves: the click is a key of the frame.
TEST_P(LivePageOn, TheFirstHourOfAMovingShot) {
  for (const char* file : {"drift.shot.toml", "drift.gltf", "drift.bin"}) {
    std::filesystem::copy_file(demo(file), folder_ / file);
  }
  const std::string shot = folder_ / "drift.shot.toml";
  const std::string before = slurp(shot);
  Page page(GetParam(), {.shot = {.file = shot}}, profile_.path().string());
  play_the_first_hour(page, second_boat_drifting, "Focus on second boat.", u"f/1.8");
  EXPECT_TRUE(slurp(shot).starts_with(before));
  for (const auto& [frame, on] : {std::pair{"1001", "second boat"}, {"1094", "footbridge"}}) {
    const Ran report = run({"report", shot, "--variant", "dreamy", "--frame", frame});
    EXPECT_EQ(report.code, 0) << report.err;
    EXPECT_TRUE(holds(report.out, "f/1.8"));
    EXPECT_TRUE(holds(report.out, on));
    EXPECT_TRUE(holds(report.out, "6 blades"));
  }
}

TEST_P(LivePageOn, NothingSticksOutAndEverythingHasANameAndRoom) {
  Page page(GetParam(), hero(), profile_.path().string());
  Browser& b = page.browser();
  EXPECT_LE(b.script("return document.documentElement.scrollWidth").get<int>(), GetParam().width);
  EXPECT_EQ(b.script("return [...document.querySelectorAll('button, select, input[type=text], "
                     "input[type=number], fieldset span, .check, .bar > label')].filter(e => "
                     "e.offsetParent && e.getBoundingClientRect().height < 24)"
                     ".map(e => e.id || e.textContent)"),
            Json::array());
  // Whatever can be turned says what it is to who cannot see it.
  EXPECT_EQ(
      b.script("return [...document.querySelectorAll('button, select, input, canvas, img')]"
               ".filter(e => e.offsetParent && !e.closest('[aria-hidden]') && !(e.ariaLabel || "
               "e.getAttribute('aria-label') || e.alt || (e.labels && e.labels.length) || "
               "e.textContent.trim())).map(e => e.outerHTML.slice(0, 80))"),
      Json::array());
  // Focus can be seen on all of it.
  EXPECT_EQ(b.script("const bad = []; for (const e of document.querySelectorAll('button, input, "
                     "select, canvas[tabindex]')) { if (!e.offsetParent || e.disabled || "
                     "getComputedStyle(e).visibility === 'hidden') continue; "
                     "e.focus({focusVisible: true}); const s = getComputedStyle(e); const t = "
                     "e.nextElementSibling && getComputedStyle(e.nextElementSibling); if "
                     "(s.outlineStyle === 'none' && !(t && t.outlineStyle !== 'none')) "
                     "bad.push(e.id); } return bad"),
            Json::array());
}

TEST_P(LivePageOn, EachWayOfLookingShowsSomethingElse) {
  Page page(GetParam(), hero(), profile_.path().string());
  Browser& b = page.browser();
  const auto shown = [&](const std::string& id) {
    return b
        .script(
            "const e = document.getElementById(arguments[0]);"
            "return e.offsetParent !== null && getComputedStyle(e).display !== 'none'",
            {id})
        .get<bool>();
  };
  EXPECT_FALSE(shown("plate"));
  const auto choose = [&](const std::string& mode) {
    b.script("document.querySelector(`input[value=${arguments[0]}]`).click()", {mode});
  };
  choose("beside");
  EXPECT_TRUE(shown("plate"));
  EXPECT_TRUE(
      page.wait([&] { return b.script("return document.getElementById('plate').width") != 300; }));
  EXPECT_LT(
      b.script("return document.getElementById('cg').getBoundingClientRect().width").get<double>(),
      0.6 * b.script("return document.getElementById('stage').clientWidth").get<double>());
  choose("line");
  EXPECT_TRUE(shown("divider"));
  const double before = b.script("return +document.getElementById('part').value");
  b.drag("#divider", {0.5, 0.5}, {6.0, 0.5});
  EXPECT_GT(b.script("return +document.getElementById('part').value").get<double>(), before + 1.0);
  choose("difference");
  EXPECT_TRUE(shown("difference"));
  EXPECT_NE(page.sum("difference"), page.sum("cg"));
  choose("blink");
  const auto lid = [&] {
    return b.script("return document.getElementById('stage').dataset.lid || ''").get<std::string>();
  };
  const std::string first = lid();
  EXPECT_TRUE(page.wait([&] { return lid() != first; }));
  choose("cg");
  EXPECT_FALSE(shown("plate"));

  const double plain = page.sum();
  b.click("#shade");
  page.still();
  EXPECT_NE(page.sum(), plain);
  b.click("#shade");
  page.still();
  EXPECT_EQ(page.sum(), plain);
  // At 4:1 the part is smaller than the stage, and moves with a drag.
  b.script("document.querySelector('input[value=\"4\"]').click()");
  EXPECT_TRUE(page.wait(
      [&] { return b.script("return document.getElementById('cg').width < 400").get<bool>(); }));
  const double here = page.sum();
  b.drag("#cg", {0.5, 0.5}, {0.8, 0.7});
  EXPECT_TRUE(page.wait([&] { return page.sum() != here; }));
  EXPECT_TRUE(page.state()["values"].empty());  // a drag is no click
}

TEST_P(LivePageOn, EachKindOfTouch) {
  Page page(GetParam(), hero(), profile_.path().string());
  Browser& b = page.browser();
  const double plain = page.sum();
  // A slider, by its thumb: one step to take back, however far it went.
  b.drag("#c-take-stop", {0.26, 0.5}, {0.9, 0.5}, 12);
  (void)page.until([](const Json& s) { return s["values"].size() == 1; });
  page.still();
  EXPECT_GT(std::stod(page.held("take.stop").substr(2)), 8.0);
  EXPECT_NE(page.sum(), plain);
  b.click("#undo");
  (void)page.until([](const Json& s) { return s["values"].empty(); });
  page.still();
  EXPECT_EQ(page.sum(), plain);
  b.click("#redo");
  (void)page.until([](const Json& s) { return s["values"].size() == 1; });
  b.click("#reset");
  (void)page.until([](const Json& s) { return s["values"].empty(); });
  // The wheel over a value, once the page shows what it is now.
  EXPECT_TRUE(page.wait([&] { return b.value("#c-take-stop-text") == "f/2.2"; }));
  b.script(
      "document.getElementById('c-take-stop').dispatchEvent(new WheelEvent('wheel', "
      "{deltaY: -100, bubbles: true, cancelable: true}))");
  (void)page.until([](const Json& s) { return s["values"].size() == 1; });
  EXPECT_EQ(page.held("take.stop"), "f/2.5");
  // What was turned is marked, and goes back by itself.
  EXPECT_EQ(b.script("return document.getElementById('c-take-stop').parentElement.className"),
            "row changed");
  b.script("document.querySelector('#c-take-stop').parentElement.querySelector('button').click()");
  (void)page.until([](const Json& s) { return s["values"].empty(); });
  // The focus plane in the plan.
  b.script("document.getElementById('plan-frame').scrollIntoView({block: 'center'})");
  page.plan();
  const Json panels = b.script("return fetch('plan?panels=1').then(r => r.json())")["panels"];
  const Json& panel = panels.back();  // around the focus
  const auto across = [&](double metres) {
    return (panel["x"].get<double>() +
            (metres - panel["ahead_m"].get<double>()) * panel["px_per_m"].get<double>()) /
           1280.0;
  };
  const double low = (panel["y"].get<double>() + 0.9 * panel["height"].get<double>()) / 800.0;
  Json s = page.state();
  b.drag("#plan-frame", {across(s["focus_m"]), low}, {across(3.0), low});
  s = page.until(
      [](const Json& j) { return j["values"].size() == 1 && j["focus_m"].get<double>() > 2.8; });
  EXPECT_EQ(s["values"][0]["key"], "focus.at");
  b.click("#reset");
  s = page.until([](const Json& j) { return j["values"].empty(); });
  page.plan();
  if (GetParam().width > 500) {  // on a phone, a limit is two px beside the focus
    // A limit of what is sharp: focus and stop go with it, the other limit stays.
    b.drag("#plan-frame", {across(s["far_m"]), low}, {across(3.2), low});
    s = page.until([](const Json& j) {
      return j["values"].size() == 2 && std::abs(j["far_m"].get<double>() - 3.2) < 0.03;
    });
    EXPECT_NEAR(s["near_m"], 2.209, 0.02);
    b.click("#reset");
    (void)page.until([](const Json& j) { return j["values"].empty(); });
  }
  // Wishes.
  b.click("#hold");
  (void)page.until(
      [](const Json& j) { return j["told"].get<std::string>().starts_with("Just sharp from"); });
  b.click("#blur");
  (void)page.until(
      [](const Json& j) { return holds(j["told"].get<std::string>(), "is blurred by 20 px"); });
  // What cannot be is said, and nothing changes.
  page.type("#c-take-stop-text", u"f/0.1");
  EXPECT_TRUE(page.wait([&] { return page.alert().find("stop") != std::string::npos; }));
  expect_no_errors(b);
}

TEST_P(LivePageOn, EverythingByKeyboard) {
  Page page(GetParam(), hero(), profile_.path().string());
  Browser& b = page.browser();
  // Tab goes to the picture; arrows move the cross, Enter focuses there.
  b.script("document.body.focus()");
  const auto focused = [&] {
    return b.script("return document.activeElement.id").get<std::string>();
  };
  for (int i = 0; i < 60 && focused() != "cg"; ++i) b.keys({Browser::tab});
  ASSERT_EQ(focused(), "cg");
  for (int i = 0; i < 6; ++i) b.keys({Browser::right}, Browser::shift);
  for (int i = 0; i < 5; ++i) b.keys({Browser::down}, Browser::shift);
  for (int i = 0; i < 3; ++i) b.keys({Browser::down});
  EXPECT_TRUE(page.wait([&] { return b.text("#readout").find(" m") != std::string::npos; }));
  b.keys({Browser::enter});
  (void)page.until([](const Json& s) { return s["values"].size() == 1; });
  // On to the stop's slider, and two thirds smaller.
  for (int i = 0; i < 80 && focused() != "c-take-stop"; ++i) b.keys({Browser::tab});
  ASSERT_EQ(focused(), "c-take-stop");
  b.keys({Browser::right, Browser::right});
  EXPECT_TRUE(page.wait([&] { return page.held("take.stop") == "f/2.8"; }));
  // Kept, under a name.
  b.script("document.getElementById('keep-name').focus()");
  b.keys(u"by hand");
  b.keys({Browser::tab});
  EXPECT_EQ(focused(), "keep");
  b.keys({Browser::enter});
  const Json s = page.until([](const Json& j) { return j["tries"].size() == 1; });
  EXPECT_EQ(s["tries"][0]["name"], "by hand");
}

TEST_P(LivePageOn, NoFrameIsShownOutOfOrder) {
  Page page(GetParam(), hero(), profile_.path().string());
  Browser& b = page.browser();
  b.script(
      "window.seen = []; new MutationObserver(() => window.seen.push("
      "+document.getElementById('stage').dataset.version)).observe("
      "document.getElementById('stage'), {attributes: true, attributeFilter: "
      "['data-version']})");
  b.drag("#c-take-stop", {0.1, 0.5}, {0.9, 0.5}, 40);
  b.drag("#c-focus-at", {0.05, 0.5}, {0.6, 0.5}, 40);
  page.still();
  const Json seen = b.script("return window.seen");
  EXPECT_GT(seen.size(), 5U);
  for (std::size_t i = 1; i < seen.size(); ++i) EXPECT_GE(seen[i], seen[i - 1]);
}

TEST_P(LivePageOn, TwoPagesOfOneShotGoTogether) {
  Page page(GetParam(), hero(), profile_.path().string());
  const TempFolder other("_other");
  Browser second(1280, 800, false, other.path().string());
  second.open(page.address());
  EXPECT_TRUE(page.wait([&] { return second.text("#title") == "hero.shot.toml"; }));
  page.type("#c-take-stop-text", u"f/8");
  EXPECT_TRUE(page.wait([&] { return second.value("#c-take-stop-text") == "f/8"; }));
  second.click("#undo");
  EXPECT_TRUE(page.wait([&] { return page.browser().value("#c-take-stop-text") == "f/2.2"; }));
}

TEST_P(LivePageOn, APlateWithoutASceneIsFlat) {
  const std::string shot = folder_.write("flat.shot.toml", R"([body]
gate = "25.9 x 14.6 mm"
pixels = "960 x 540"
[lens]
focal = "53 mm"
[take]
stop = "f/2.2"
[depth]
distance = "12 m"
[focus]
at = "12 m"
[plate]
file = "plate.jpg"
)");
  Page page(GetParam(), {.shot = {.file = shot}}, profile_.path().string());
  const double sharp = page.sum();
  page.type("#c-focus-at-text", u"2 m");
  (void)page.until([](const Json& s) { return s["values"].size() == 1; });
  page.still();
  EXPECT_NE(page.sum(), sharp);
  page.browser().click("#cg", 0.5, 0.5);
  (void)page.until([](const Json& s) { return s["focus_m"] == 12.0; });
  page.browser().click("#write");
  (void)page.until([](const Json& s) {
    return s["told"].get<std::string>().starts_with("Nothing") ||
           holds(s["told"].get<std::string>(), "Written");
  });
}

TEST_P(LivePageOn, AMovingShotPlays) {
  Page page(
      GetParam(),
      {.shot = {.file = demo("drift.shot.toml"), .overrides = {{"body.pixels", "320 x 180"}}}},
      profile_.path().string());
  Browser& b = page.browser();
  EXPECT_EQ(b.script("return document.getElementById('frames').hidden"), false);
  const double first = page.sum();
  b.script(
      "const f = document.getElementById('frame'); f.value = 1070; f.dispatchEvent(new "
      "Event('input'))");
  const Json s = page.until([](const Json& j) { return j["frames"]["now"] == 1070.0; });
  EXPECT_GT(s["focus_m"].get<double>(), 3.0);
  page.still();
  EXPECT_NE(page.sum(), first);
  b.click("#play");
  (void)page.until([](const Json& j) { return j["frames"]["now"].get<double>() > 1073.0; });
  b.click("#play");
  EXPECT_EQ(b.text("#play"), "Play");
  EXPECT_FALSE(page.state()["can_undo"].get<bool>() && page.state()["values"].size() > 1);
}

TEST_P(LivePageOn, TheFocusOverFramesIsACurveToDragIn) {
  for (const char* file : {"drift.shot.toml", "drift.gltf", "drift.bin"}) {
    std::filesystem::copy_file(demo(file), folder_ / file);
  }
  Page page(
      GetParam(),
      {.shot = {.file = folder_ / "drift.shot.toml", .overrides = {{"body.pixels", "320 x 180"}}}},
      profile_.path().string());
  Browser& b = page.browser();
  const auto keys = [&] {
    return b.script(
        "return [...document.querySelectorAll('#curve .key')].map(k => +k.dataset.frame)");
  };
  EXPECT_TRUE(page.wait([&] { return keys() == Json{1001, 1030, 1050, 1070, 1094}; }));
  // A click in the picture sets a key at the frame that is shown.
  b.script(
      "const f = document.getElementById('frame'); f.value = 1010; f.dispatchEvent(new "
      "Event('input'))");
  (void)page.until([](const Json& j) { return j["frames"]["now"] == 1010.0; });
  page.still();
  EXPECT_TRUE(b.script("return document.getElementById('focus-key').checked").get<bool>());
  b.click("#cg", 0.5, 0.05);  // the sky, or a house
  Json s = page.until([](const Json& j) { return j["values"].size() == 2; });
  EXPECT_TRUE(s["values"][1]["key"].get<std::string>().starts_with("pull.1010."));
  EXPECT_TRUE(page.wait([&] { return keys().size() == 6; }));
  b.click("#undo");
  EXPECT_TRUE(page.wait([&] { return keys().size() == 5; }));
  // A key is dragged: along goes to another frame, up and down to another distance.
  const auto place = [&](int frame) {
    const Json at = b.script(
        "const c = document.querySelector(`#curve [data-frame='${arguments[0]}'] circle`)"
        ".getBoundingClientRect(), s = document.getElementById('curve').getBoundingClientRect();"
        "return [(c.x + c.width / 2 - s.x) / s.width, (c.y + c.height / 2 - s.y) / s.height]",
        {frame});
    return std::array<double, 2>{at[0], at[1]};
  };
  std::array<double, 2> from = place(1050);
  b.drag("#curve", from, {from[0] - 0.05, from[1]});
  EXPECT_TRUE(page.wait([&] {
    const Json now = keys();
    return now.size() == 5 && now[2].get<int>() > 1040 && now[2].get<int>() < 1050;
  })) << keys();
  s = page.state();
  const auto held_of = [&](const std::string& end) {
    const Json now = page.state();
    for (const Json& v : now["values"]) {
      if (v["key"].get<std::string>().ends_with(end)) return v["text"].get<std::string>();
    }
    return std::string();
  };
  EXPECT_EQ(held_of(".on"), "second boat");
  from = place(1070);
  b.drag("#curve", from, {from[0], from[1] + 0.3});
  EXPECT_TRUE(page.wait([&] { return held_of("pull.1070.at").ends_with(" m"); }));
  // By keyboard: a key is a slider of frames, Delete takes it out.
  b.script("document.querySelector('#curve [data-frame=\"1030\"]').focus()");
  b.keys({Browser::right, Browser::right});
  EXPECT_TRUE(page.wait([&] { return keys()[1] == 1032; })) << keys();
  EXPECT_EQ(b.script("return document.activeElement.dataset.frame"), "1032");
  b.keys({u'\uE017'});  // Delete
  EXPECT_TRUE(page.wait([&] { return keys().size() == 4; }));
  // Written, the report says the same.
  b.click("#write");
  EXPECT_TRUE(page.wait([&] { return b.text("#told").starts_with("Written into"); }));
  EXPECT_EQ(run({"report", folder_ / "drift.shot.toml", "--frame", "1020"}).code, 0);
  EXPECT_TRUE(page.alert().empty()) << page.alert();
  expect_no_errors(b);
}

TEST_P(LivePageOn, LooksAreLaidOverEachOther) {
  std::filesystem::copy(std::filesystem::path(demo("")).parent_path().parent_path() / "looks",
                        folder_ / "looks");
  Page page(GetParam(), hero(), profile_.path().string());
  Browser& b = page.browser();
  const double plain = page.sum();
  const auto tick = [&](const std::string& look) {
    b.click("#looks input[value*='/" + look + ".look']");
  };
  tick("six-sided");
  (void)page.until([](const Json& j) { return j["look"] == "looks/six-sided.look.toml"; });
  tick("fringed");
  const Json s = page.until([](const Json& j) {
    return j["look"] == "looks/six-sided.look.toml + looks/fringed.look.toml";
  });
  page.still();
  EXPECT_NE(page.sum(), plain);
  EXPECT_TRUE(page.wait(
      [&] { return b.text("#looks input[value*='/fringed.look'] + span") == "fringed 2"; }));
  for (const Json& c : s["controls"]) {
    if (c["key"] == "lens.iris.blades") {
      EXPECT_EQ(c["value"], 6);
    }
  }
  tick("six-sided");
  (void)page.until([](const Json& j) { return j["look"] == "looks/fringed.look.toml"; });
  tick("fringed");
  (void)page.until([](const Json& j) { return j["values"].empty(); });
  expect_no_errors(b);
}

INSTANTIATE_TEST_SUITE_P(Screens, LivePageOn,
                         ::testing::Values(Screen{"Desk", 1280, 800}, Screen{"Phone", 390, 844}),
                         [](const auto& on) { return std::string(on.param.name); });

}  // namespace live_page_test
}  // namespace jolly_iris
