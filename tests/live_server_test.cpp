// The live page's server: who is let in, what it answers, what happens when files change or break.
#include <arpa/inet.h>
#include <httplib.h>
#include <ifaddrs.h>
#include <netinet/in.h>

// A system header that the lines above bring in takes this name for itself, and Eigen uses it.
#undef _res

#include <gtest/gtest.h>

#include <fstream>
#include <regex>
#include <thread>

#include "cli_support.hpp"
#include "jolly_iris/jolly_iris.hpp"
#include "jolly_iris/live/live.hpp"

namespace jolly_iris {
namespace live_server_test {

using testing::demo;
using testing::holds;
using testing::Ran;
using testing::run;
using testing::slurp;
using testing::TempFolder;
using Json = nlohmann::json;

// A server in a thread, and a page that knows its address.
class Live {
 public:
  explicit Live(LiveRequest request) : server_(request), client_("127.0.0.1", port()) {
    client_.set_read_timeout(60, 0);
    thread_ = std::thread([this] { server_.serve(); });
  }
  ~Live() {
    server_.stop();
    thread_.join();
  }
  Live(const Live&) = delete;
  Live& operator=(const Live&) = delete;

  std::string address() const { return server_.address(); }
  int port() const {
    const std::string a = server_.address();
    const auto colon = a.rfind(':');
    return std::stoi(a.substr(colon + 1));
  }
  std::string host() const { return "127.0.0.1:" + std::to_string(port()); }
  std::string base() const {  // "/TOKEN/"
    const std::string a = server_.address();
    return a.substr(a.find('/', 8));
  }

  httplib::Result get(const std::string& what) { return client_.Get((base() + what).c_str()); }
  httplib::Result post_raw(const std::string& what, const httplib::Params& words,
                           const httplib::Headers& headers) {
    return client_.Post((base() + "do/" + what).c_str(), headers, words);
  }
  Json post(const std::string& what, const httplib::Params& words = {}) {
    const auto r = post_raw(what, words, {{"Origin", "http://" + host()}, {"X-Jolly-Iris", "1"}});
    EXPECT_TRUE(r);
    EXPECT_EQ(r->status, 200);
    return Json::parse(r->body);
  }
  Json state() { return Json::parse(get("state")->body); }
  // Until a page that waits for news would have it.
  template <class Done>
  Json wait(const Done& done) {
    for (int i = 0; i < 200; ++i) {
      const Json s = state();
      if (done(s)) return s;
      std::this_thread::sleep_for(std::chrono::milliseconds(50));
    }
    ADD_FAILURE() << "nothing came";
    return state();
  }
  httplib::Client& client() { return client_; }
  LiveServer& server() { return server_; }

 private:
  LiveServer server_;
  httplib::Client client_;
  std::thread thread_;
};

// The hero's shot and a small picture of it, in a folder that may be written into.
struct Set {
  TempFolder folder{};
  std::string shot;
  std::string picture = folder / "small.exr";
  Set() {
    for (const char* file : {"hero.shot.toml", "tansy.body.toml", "linden-53.lens.toml",
                             "regatta.gltf", "regatta.bin", "plate.jpg"}) {
      std::filesystem::copy_file(demo(file), folder / file);
    }
    shot = folder / "hero.shot.toml";
    write_picture(picture, reduced(read_picture(demo("pinhole.exr")), {240, 135}));
  }
  LiveRequest request() const {
    return {.shot = {.file = shot}, .sources = {.pictures = {picture}}};
  }
};

void touch(const std::string& file, const std::string& text) {
  const auto before = std::filesystem::last_write_time(file);
  std::ofstream(file, std::ios::binary) << text;
  if (std::filesystem::last_write_time(file) <= before) {
    std::filesystem::last_write_time(file, before + std::chrono::milliseconds(10));
  }
}

TEST(LiveDoor, OnlyWhoKnowsTheAddressIsLetIn) {
  const Set set;
  Live live(set.request());
  EXPECT_TRUE(
      std::regex_match(live.address(), std::regex("http://127\\.0\\.0\\.1:[0-9]+/[0-9a-f]{32}/")));
  EXPECT_EQ(live.get("")->status, 200);
  for (const std::string path :
       {"/", "/state", "/0123456789abcdef0123456789abcdef/state", "//state", "/../state"}) {
    EXPECT_EQ(live.client().Get(path.c_str())->status, 403) << path;
  }
  std::string wrong = live.base();
  wrong[5] = wrong[5] == 'a' ? 'b' : 'a';
  EXPECT_EQ(live.client().Get((wrong + "state").c_str())->status, 403);
  EXPECT_EQ(live.client().Get(live.base().substr(0, 33).c_str())->status, 403);
  // Another one each time.
  Live other(set.request());
  EXPECT_NE(live.base(), other.base());
}

TEST(LiveDoor, AnotherSitesPageIsNotLetInEvenWithTheToken) {
  const Set set;
  Live live(set.request());
  const std::string state = live.base() + "state";
  // A name that was made to mean this machine (DNS rebinding).
  for (const char* host : {"evil.example", "evil.example:80", "127.0.0.1", "127.0.0.1:1", ""}) {
    EXPECT_EQ(live.client().Get(state.c_str(), {{"Host", host}})->status, 403) << host;
  }
  EXPECT_EQ(live.client()
                .Get(state.c_str(), {{"Host", "localhost:" + std::to_string(live.port())}})
                ->status,
            200);
  for (const char* origin : {"http://evil.example", "null", "https://127.0.0.1"}) {
    EXPECT_EQ(live.client().Get(state.c_str(), {{"Origin", origin}})->status, 403) << origin;
  }
  // A form of another site can post, but not with our mark, nor with our origin.
  const httplib::Params words{{"set", "take.stop=f/8"}};
  const std::string own = "http://" + live.host();
  EXPECT_EQ(live.post_raw("change", words, {})->status, 403);
  EXPECT_EQ(live.post_raw("change", words, {{"Origin", own}})->status, 403);
  EXPECT_EQ(live.post_raw("change", words, {{"X-Jolly-Iris", "1"}})->status, 403);
  EXPECT_EQ(
      live.post_raw("change", words, {{"Origin", "http://evil.example"}, {"X-Jolly-Iris", "1"}})
          ->status,
      403);
  EXPECT_TRUE(live.state()["values"].empty());
}

TEST(LiveDoor, IsBoundToTheLoopbackAlone) {
  const Set set;
  Live live(set.request());
  ifaddrs* all = nullptr;
  ASSERT_EQ(getifaddrs(&all), 0);
  int tried = 0;
  for (const ifaddrs* i = all; i != nullptr; i = i->ifa_next) {
    if (i->ifa_addr == nullptr || i->ifa_addr->sa_family != AF_INET) continue;
    char text[INET_ADDRSTRLEN];
    const auto* at = reinterpret_cast<const sockaddr_in*>(i->ifa_addr);
    inet_ntop(AF_INET, &at->sin_addr, text, sizeof text);
    const std::string address = text;
    if (address == "127.0.0.1") continue;
    ++tried;
    httplib::Client outside(address, live.port());
    outside.set_connection_timeout(2, 0);
    EXPECT_FALSE(outside.Get(live.base().c_str())) << address;
  }
  freeifaddrs(all);
  // Another address of the loopback is there on every machine.
  httplib::Client other("127.0.0.2", live.port());
  other.set_connection_timeout(2, 0);
  EXPECT_FALSE(other.Get(live.base().c_str())) << tried;
}

TEST(LiveDoor, ThePageLoadsNothingFromOutside) {
  const Set set;
  Live live(set.request());
  for (const char* what : {"", "live.js", "picture.js", "live.css", "state"}) {
    const auto r = live.get(what);
    EXPECT_EQ(r->status, 200) << what;
    const std::string policy = r->get_header_value("Content-Security-Policy");
    EXPECT_TRUE(holds(policy, "default-src 'none'"));
    EXPECT_TRUE(holds(policy, "connect-src 'self'"));
    EXPECT_EQ(policy.find("unsafe"), std::string::npos);
    EXPECT_EQ(r->get_header_value("Referrer-Policy"), "no-referrer");
    EXPECT_EQ(r->get_header_value("X-Content-Type-Options"), "nosniff");
    EXPECT_EQ(r->get_header_value("Access-Control-Allow-Origin"), "");
    const std::regex address("https?://(?!127\\.0\\.0\\.1|www\\.w3\\.org)");
    EXPECT_FALSE(std::regex_search(r->body, address)) << what;
  }
}

TEST(LiveDoor, NoFileIsNamedFromThePage) {
  const Set set;
  Live live(set.request());
  for (const char* what :
       {"lens=/etc/passwd", "lens.file=/etc/passwd", "body=/etc/passwd", "scene.file=/etc/passwd",
        "plate.file=/etc/passwd", "scene.track=/etc/passwd", "scene.points=/etc/passwd",
        "lens.iris.picture=/etc/passwd", "lens.iris.outline=/etc/passwd", "depth.file=/etc/passwd",
        "lens.look=/etc/passwd", "body.transfer=/etc/passwd", "plate.transfer=x.csv"}) {
    const Json s = live.post("change", {{"set", what}});
    EXPECT_TRUE(holds(s["error"].get<std::string>(), "names a file")) << what;
    EXPECT_TRUE(s["values"].empty());
  }
  EXPECT_EQ(live.get("../hero.shot.toml")->status, 404);
  EXPECT_EQ(live.get("%2e%2e/%2e%2e/etc/passwd")->status, 404);
  EXPECT_EQ(live.get("picture?detail=/etc/passwd")->status, 422);
}

TEST(LiveDoor, SizesAndRatesAreBounded) {
  const Set set;
  Live live(set.request());
  for (const char* what :
       {"picture?detail=draft&w=1e9&h=1e9", "picture?detail=draft&w=-3&h=9",
        "picture?detail=draft&w=nan&h=nan",
        "picture?detail=whole&box_x=0&box_y=0&box_w=99999&box_h=9",
        "picture?detail=whole&box_x=230&box_y=0&box_w=100&box_h=9", "plate?w=0&h=0",
        "truth?w=100000&h=100&samples=1", "truth?w=64&h=64&samples=100000", "place?x=inf&y=0",
        "thumb?try=-1", "thumb?try=5", "thumb?try=999999999999999999999", "place"}) {
    EXPECT_EQ(live.get(what)->status, 422) << what;
  }
  EXPECT_EQ(live.get("nothing")->status, 404);
  const std::string long_text(10000, 'x');
  EXPECT_EQ(live.post_raw("change", {{"set", "take.stop=" + long_text}},
                          {{"Origin", "http://" + live.host()}, {"X-Jolly-Iris", "1"}})
                ->status,
            413);
  const std::string huge(1 << 20, 'x');
  const auto r = live.client().Post((live.base() + "do/change").c_str(),
                                    {{"Origin", "http://" + live.host()}, {"X-Jolly-Iris", "1"}},
                                    huge, "application/x-www-form-urlencoded");
  EXPECT_TRUE(!r || r->status == 413);
  int refused = 0;
  for (int i = 0; i < 3000 && refused == 0; ++i) {
    refused += live.get("live.css")->status == 429 ? 1 : 0;
  }
  if (!testing::sanitized) {
    EXPECT_GT(refused, 0);
  }
  std::this_thread::sleep_for(std::chrono::milliseconds(300));
  EXPECT_EQ(live.get("live.css")->status, 200);
}

TEST(LiveDoor, SaysSoWhereThePortIsTaken) {
  const Set set;
  Live live(set.request());
  LiveRequest second = set.request();
  second.port = live.port();
  EXPECT_TRUE(holds(testing::message_of<UsageError>([&] { const LiveServer s(second); }),
                    "port " + std::to_string(live.port()) + " is taken"));
  const Ran r = run({"live", set.shot, set.picture, "--port", std::to_string(live.port())});
  EXPECT_EQ(r.code, 2);
  EXPECT_TRUE(holds(r.err, "is taken"));
  EXPECT_EQ(run({"live", set.shot, "--watch"}).code, 2);
}

TEST(LiveServer, TurnsValuesAndShowsThem) {
  const Set set;
  Live live(set.request());
  const auto before = live.get("picture?detail=whole")->body;
  ASSERT_EQ(before.size(), 240U * 135U * 4U);
  const Json s = live.post("change", {{"set", "take.stop=f/8"}});
  EXPECT_EQ(s["error"], "");
  EXPECT_EQ(s["values"][0]["key"], "take.stop");
  const auto after = live.get("picture?detail=whole");
  EXPECT_NE(after->body, before);
  EXPECT_EQ(after->get_header_value("X-Version"), std::to_string(s["version"].get<int>()));
  EXPECT_EQ(after->get_header_value("X-Draft"), "0");
  const auto draft = live.get("picture?detail=draft&w=120&h=90");
  EXPECT_EQ(draft->get_header_value("X-Width"), "120");
  EXPECT_EQ(draft->get_header_value("X-Draft"), "1");
  (void)live.post("undo");
  EXPECT_EQ(live.get("picture?detail=whole")->body, before);
}

TEST(LiveServer, ThePictureWhenStillIsWhatDefocusMakesOfTheWrittenFile) {
  const Set set;
  Live live(set.request());
  (void)live.post(
      "change",
      {{"set", "take.stop=f/1.9"}, {"set", "focus.at=3.1 m"}, {"set", "lens.iris.blades=5"}});
  const std::string shown = live.get("picture?detail=whole")->body;
  const Json s = live.post("write", {{"variant", "played"}});
  EXPECT_EQ(s["error"], "");
  EXPECT_TRUE(holds(s["told"].get<std::string>(), "--variant played"));
  const std::string out = set.folder / "out.exr";
  ASSERT_EQ(run({"defocus", set.shot, "--variant", "played", set.picture, "-o", out}).code, 0);
  const Picture made = read_picture(out).colour;
  for (std::size_t i = 0; i < made.pixels().size(); ++i) {
    for (std::size_t c = 0; c < 3; ++c) {
      const int byte = static_cast<unsigned char>(shown[4 * i + c]);
      const float wanted =
          255.0F * std::clamp(encode(made.pixels()[i][c], Transfer::srgb), 0.0F, 1.0F);
      ASSERT_NEAR(byte, wanted, 1.1) << i;  // half floats, and a byte's own rounding
    }
  }
}

TEST(LiveServer, ClickFocusesByNameByDistanceAndOnTheSky) {
  const Set set;
  Live live(set.request());
  // Where the hero's picture shows the second boat.
  EXPECT_TRUE(holds(live.get("place?x=0.775&y=0.785")->body, "second boat: 3.6"));
  Json s = live.post("focus", {{"x", "0.775"}, {"y", "0.785"}});
  EXPECT_EQ(s["values"][0]["key"], "focus.on");
  EXPECT_EQ(s["values"][0]["text"], "second boat");
  s = live.post("focus", {{"x", "0.775"}, {"y", "0.785"}, {"by", "distance"}});
  EXPECT_EQ(s["values"][0]["key"], "focus.at");
  EXPECT_NEAR(s["focus_m"], 3.7, 0.1);
  const Frame frame = read_picture(set.picture);
  const auto sky = static_cast<double>(
      std::find_if(frame.depth.begin(), frame.depth.end(), [](float z) { return std::isinf(z); }) -
      frame.depth.begin());
  s = live.post("focus", {{"x", std::to_string((std::fmod(sky, 240.0) + 0.5) / 240.0)},
                          {"y", std::to_string((std::floor(sky / 240.0) + 0.5) / 135.0)},
                          {"by", "distance"}});
  EXPECT_EQ(s["error"], "");
  EXPECT_EQ(s["values"][0]["text"], "infinity");
  EXPECT_EQ(s["focus_m"], nullptr);
  EXPECT_NE(live.post("focus", {{"x", "7"}, {"y", "0"}})["error"], "");
}

TEST(LiveServer, HoldsBothAndBlursByAWish) {
  const Set set;
  Live live(set.request());
  Json s = live.post("hold", {{"a", "boat"}, {"b", "second boat"}});
  EXPECT_EQ(s["error"], "");
  for (const Json& one : s["subjects"]) {
    if (one["name"] == "boat" || one["name"] == "second boat") {
      EXPECT_TRUE(one["sharp"]) << one;
    }
  }
  (void)live.post("reset");
  s = live.post("blur", {{"at", "footbridge"}, {"px", "20"}});
  EXPECT_EQ(s["error"], "");
  for (const Json& one : s["subjects"]) {
    if (one["name"] == "footbridge") {
      EXPECT_NEAR(one["px"], 20.0, 0.05);
    }
  }
  EXPECT_NE(live.post("hold", {{"a", "boat"}, {"b", "swan"}})["error"], "");
  EXPECT_NE(live.post("blur", {{"at", "footbridge"}, {"px", "-1"}})["error"], "");
  EXPECT_EQ(live.post("undo")["can_undo"], true);
}

TEST(LiveServer, KeepsTriesWithTheirPictures) {
  const Set set;
  Live live(set.request());
  (void)live.post("change", {{"set", "take.stop=f/1.8"}});
  Json s = live.post("keep", {{"name", "wide"}});
  EXPECT_EQ(s["tries"][0]["name"], "wide");
  EXPECT_EQ(s["tries"][0]["now"], true);
  const auto thumb = live.get("thumb?try=0");
  EXPECT_EQ(thumb->body.size(), 160U * 90U * 4U);
  (void)live.post("change", {{"set", "take.stop=f/4"}});
  s = live.post("keep");
  EXPECT_EQ(s["tries"][1]["name"], "try 2");
  s = live.post("take", {{"try", "0"}});
  EXPECT_EQ(s["values"][0]["text"], "f/1.8");
  s = live.post("drop", {{"try", "1"}});
  EXPECT_EQ(s["tries"].size(), 1U);
  EXPECT_NE(live.post("take", {{"try", "1"}})["error"], "");
}

TEST(LiveServer, MarksWhatIsBlurredAndExposes) {
  const Set set;
  Live live(set.request());
  const std::string plain = live.get("picture?detail=whole")->body;
  EXPECT_NE(live.get("picture?detail=whole&shade=1")->body, plain);
  EXPECT_EQ(live.get("picture?detail=whole&exposed=1")->body, plain);  // as the file has it
  (void)live.post("change", {{"set", "take.iso=400"}});
  const std::string darker = live.get("picture?detail=whole&exposed=1")->body;
  EXPECT_EQ(live.get("picture?detail=whole")->body, plain);
  double sum = 0.0;
  for (std::size_t i = 0; i < plain.size(); i += 4) {
    sum += static_cast<unsigned char>(plain[i]) - static_cast<unsigned char>(darker[i]);
  }
  EXPECT_GT(sum / (240.0 * 135.0), 5.0);
}

TEST(LiveServer, TwoPagesSeeEachOthersTurns) {
  const Set set;
  Live live(set.request());
  httplib::Client other("127.0.0.1", live.port());
  other.set_read_timeout(30, 0);
  const int serial = live.state()["serial"];
  std::string told;
  std::thread waits([&] {
    told = other.Get((live.base() + "state?since=" + std::to_string(serial)).c_str())->body;
  });
  std::this_thread::sleep_for(std::chrono::milliseconds(100));
  (void)live.post("change", {{"set", "take.stop=f/4"}});
  waits.join();
  EXPECT_EQ(Json::parse(told)["values"][0]["text"], "f/4");
}

TEST(LiveServer, ASavedShotIsTakenInAndAHalfSavedOneTold) {
  const Set set;
  Live live(set.request());
  const std::string text = slurp(set.shot);
  touch(set.shot, std::regex_replace(text, std::regex("iso     = 800"), "iso     = 1600"));
  Json s = live.wait([](const Json& j) { return j["told"] != ""; });
  EXPECT_TRUE(holds(s["told"].get<std::string>(), "taken in"));
  touch(set.shot, text.substr(0, 60));
  s = live.wait([](const Json& j) { return j["trouble"] != ""; });
  EXPECT_EQ(live.get("picture?detail=draft")->status, 200);  // as it was
  touch(set.shot, text);
  s = live.wait([](const Json& j) { return j["trouble"] == ""; });
}

TEST(LiveServer, AConflictIsAskedAbout) {
  const Set set;
  Live live(set.request());
  (void)live.post("change", {{"set", "take.iso=400"}});
  touch(set.shot,
        std::regex_replace(slurp(set.shot), std::regex("iso     = 800"), "iso     = 1600"));
  Json s = live.wait([](const Json& j) { return !j["conflicts"].empty(); });
  EXPECT_EQ(s["conflicts"][0]["key"], "take.iso");
  s = live.post("settle", {{"key", "take.iso"}, {"keep", "1"}});
  EXPECT_TRUE(s["conflicts"].empty());
  EXPECT_EQ(s["values"][0]["text"], "400");
  EXPECT_EQ(live.post("write")["error"], "");
  EXPECT_TRUE(holds(slurp(set.shot), "iso     = 400"));
}

TEST(LiveServer, APictureThatGoesOrBreaksIsTold) {
  const Set set;
  Live live(set.request());
  const std::string bytes = slurp(set.picture);
  std::filesystem::remove(set.picture);
  Json s = live.wait([](const Json& j) { return j["trouble"] != ""; });
  EXPECT_TRUE(holds(s["trouble"].get<std::string>(), "small.exr"));
  EXPECT_EQ(live.get("picture?detail=whole")->status, 200);
  std::ofstream(set.picture, std::ios::binary) << bytes.substr(0, bytes.size() / 2);
  std::this_thread::sleep_for(std::chrono::milliseconds(500));
  EXPECT_NE(live.state()["trouble"], "");
  std::ofstream(set.picture, std::ios::binary) << bytes;
  s = live.wait([](const Json& j) { return j["trouble"] == ""; });
  EXPECT_EQ(live.get("picture?detail=whole")->status, 200);
}

TEST(LiveServer, DepthThatIsNoNumberIsToldWithItsPixel) {
  const Set set;
  Frame frame = read_picture(set.picture);
  frame.depth[240 * 7 + 11] = -1.0F;
  write_picture(set.picture, frame);
  Live live(set.request());
  const auto r = live.get("picture?detail=whole");
  EXPECT_EQ(r->status, 422);
  EXPECT_TRUE(holds(r->body, "at pixel 11, 7"));
}

TEST(LiveServer, ASceneAloneIsTraced) {
  const Set set;
  Live live({.shot = {.file = set.shot, .overrides = {{"body.pixels", "192 x 108"}}}});
  EXPECT_TRUE(holds(live.state()["source"].get<std::string>(), "traced"));
  const auto whole = live.get("picture?detail=whole");
  EXPECT_EQ(whole->body.size(), 192U * 108U * 4U);
  const auto truth = live.get("truth?w=192&h=108&samples=8");
  EXPECT_EQ(truth->body.size(), 192U * 108U * 4U);
  // Two ways of seeing the same: alike on the whole.
  double apart = 0.0;
  for (std::size_t i = 0; i < truth->body.size(); ++i) {
    apart += std::abs(static_cast<unsigned char>(truth->body[i]) -
                      static_cast<unsigned char>(whole->body[i]));
  }
  EXPECT_LT(apart / static_cast<double>(truth->body.size()), 6.0);
  // A part of it is that part.
  const auto part = live.get("truth?box_x=64&box_y=32&box_w=48&box_h=40&samples=8");
  ASSERT_EQ(part->body.size(), 48U * 40U * 4U);
  EXPECT_EQ(part->get_header_value("X-Width"), "48");
  std::string cut;
  for (std::size_t y = 32; y < 72; ++y) cut += truth->body.substr(4 * (y * 192 + 64), 4 * 48UL);
  EXPECT_EQ(part->body, cut);
}

TEST(LiveServer, APlateAloneIsFlat) {
  const Set set;
  const std::string shot = set.folder.write("flat.shot.toml", R"([body]
gate = "25.9 x 14.6 mm"
pixels = "960 x 540"
[lens]
focal = "53 mm"
[take]
stop = "f/2.2"
[focus]
at = "2.35 m"
[plate]
file = "plate.jpg"
)");
  Live live({.shot = {.file = shot}});
  const std::string sharp = live.get("picture?detail=draft")->body;
  const Json s = live.post("change", {{"set", "focus.at=1 m"}});
  EXPECT_EQ(s["error"], "");
  const std::string soft = live.get("picture?detail=draft")->body;
  const auto steps = [](const std::string& bytes) {
    double sum = 0.0;
    for (std::size_t i = 4; i < bytes.size(); i += 4) {
      sum +=
          std::abs(static_cast<unsigned char>(bytes[i]) - static_cast<unsigned char>(bytes[i - 4]));
    }
    return sum;
  };
  EXPECT_LT(steps(soft), 0.7 * steps(sharp));  // the plate has grain, and little that is sharp
  EXPECT_TRUE(holds(live.get("place?x=0.5&y=0.5")->body, "2.35 m"));
  // A picture without depth, and nothing that says how far it is.
  EXPECT_THROW(
      LiveServer({.shot = {.file = set.shot}, .sources = {.pictures = {demo("plate.jpg")}}}),
      UsageError);
}

TEST(LiveServer, AMovingShotHasFrames) {
  Live live(
      {.shot = {.file = demo("drift.shot.toml"), .overrides = {{"body.pixels", "160 x 90"}}}});
  Json s = live.state();
  EXPECT_EQ(s["frames"]["first"], 1001.0);
  EXPECT_EQ(s["frames"]["last"], 1097.0);
  const std::string first = live.get("picture?detail=draft")->body;
  s = live.post("frame", {{"frame", "1060"}});
  EXPECT_EQ(s["frames"]["now"], 1060.0);
  EXPECT_NE(live.get("picture?detail=draft")->body, first);
  EXPECT_FALSE(s["can_undo"]);
}

TEST(LiveServer, EndsWhenItIsTold) {
  const Set set;
  LiveServer server(set.request());
  std::thread serves([&] { server.serve(); });
  const std::string a = server.address();
  const int port = std::stoi(a.substr(a.rfind(':') + 1));
  httplib::Client client("127.0.0.1", port);
  const std::string base = a.substr(a.find('/', 8));
  (void)client.Post((base + "do/end").c_str(),
                    {{"Origin", "http://127.0.0.1:" + std::to_string(port)}, {"X-Jolly-Iris", "1"}},
                    httplib::Params{});
  serves.join();
}

TEST(LiveServer, EndsAlsoBeforeItHasBegun) {
  const Set set;
  for (int i = 0; i < 20; ++i) {
    LiveServer server({.shot = {.file = set.shot, .overrides = {{"body.pixels", "64 x 36"}}}});
    if (i % 2 == 0) server.stop();
    std::thread serves([&] { server.serve(); });
    server.stop();
    serves.join();
  }
}

// A page that is left open for a day.
TEST(LiveServer, TenThousandRequestsLeaveNothingBehind) {
  const Set set;
  Live live(set.request());
  const auto resident_mb = [] {
    std::ifstream status("/proc/self/status");
    for (std::string line; std::getline(status, line);) {
      if (line.starts_with("VmRSS:")) return std::stod(line.substr(6)) / 1024.0;
    }
    return 0.0;
  };
  const auto ask = [&](int times) {
    for (int i = 0; i < times; ++i) {
      switch (i % 5) {
        case 0:
          (void)live.get("state");
          break;
        case 1:
          (void)live.get("place?x=0.5&y=0.9");
          break;
        case 2:
          (void)live.get("picture?detail=draft&w=64&h=64");
          break;
        case 3:
          (void)live.post_raw(
              "change",
              {{"set", i % 2 == 0 ? "take.stop=f/2" : "take.stop=f/4"}, {"touch", "drag"}},
              {{"Origin", "http://" + live.host()}, {"X-Jolly-Iris", "1"}});
          break;
        default:
          (void)live.get("live.js");
      }
    }
  };
  ask(testing::cases(1000, 100));
  const double before = resident_mb();
  ask(testing::cases(10000, 200));
  if (!testing::sanitized) {
    EXPECT_LT(resident_mb() - before, 12.0);
  }
}

}  // namespace live_server_test
}  // namespace jolly_iris
