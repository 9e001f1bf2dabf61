// The page and the verbs answer alike about the same pictures: they share one result.
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "cli_support.hpp"

namespace jolly_iris {
namespace page_data_test {

using Json = nlohmann::json;
using testing::holds;
using testing::Ran;
using testing::run;
using testing::slurp;
using testing::TempFolder;

std::string demo(const std::string& file) { return std::string(JOLLY_IRIS_DEMO) + "/" + file; }

// What a page has for its own script.
Json data_of(const std::string& html) {
  const std::string head = "<script type=\"application/json\" id=\"data\">";
  const auto from = html.find(head) + head.size();
  return Json::parse(html.substr(from, html.find("</script>", from) - from));
}

std::string said(double v, const char* format) {
  char text[64];
  std::snprintf(text, sizeof text, format, v);
  return text;
}

TEST(PageData, SaysWhatMatchAndCompareSayDrawnBoxesIncluded) {
  const TempFolder folder;
  const std::string page = folder / "p.html";
  const std::string cg = demo("pinhole.exr");
  const Ran made = run({"page", demo("notes.shot.toml"), "--match", "--cg", cg, "-o", page});
  ASSERT_EQ(made.code, 0) << made.err;
  const Json data = data_of(slurp(page));

  const Ran matched = run({"match", demo("notes.shot.toml"), "--json"});
  ASSERT_EQ(matched.code, 0) << matched.err;
  const Json match = Json::parse(matched.out);
  ASSERT_EQ(data["match"]["found"].size(), match["match"]["unknowns"].size());
  for (std::size_t i = 0; i < match["match"]["unknowns"].size(); ++i) {
    const Json& found = match["match"]["unknowns"][i];
    const Json& row = data["match"]["found"][i];
    EXPECT_EQ(row[0], found["name"]);
    if (found["name"] == "stop") {
      EXPECT_TRUE(
          holds(row[1], said(found["value"], "%.3f") + " ± " + said(found["margin"], "%.3f")));
    }
    if (found["name"] == "focal length") {
      EXPECT_TRUE(holds(row[1], said(found["value"], "%.2f mm")));
    }
  }
  EXPECT_TRUE(holds(data["match"]["words"].dump(), match["explanations"][0]["mistakes"][0]));
}

TEST(PageData, ComparesInTheDrawnRegionsAsTheVerbDoes) {
  const TempFolder folder;
  const std::string page = folder / "p.html";
  const std::string shot = demo("dusk.shot.toml");  // regions are drawn in its plate
  const std::string cg = demo("pinhole.exr");
  ASSERT_EQ(run({"page", shot, "--cg", cg, "-o", page}).code, 0);
  const Json shown = data_of(slurp(page))["compare"];
  const Ran ran = run({"compare", shot, cg, "--json"});
  ASSERT_EQ(ran.code, 0) << ran.err;
  const Json compared = Json::parse(ran.out);
  EXPECT_TRUE(holds(shown["label"], said(compared["psnr_db"], "%.1f dB")));
  const Json& regions = compared["light"]["regions"];
  ASSERT_GT(regions.size(), 1U);
  EXPECT_TRUE(holds(shown["differs"][0][2], std::to_string(regions.size()) + " regions"));
  EXPECT_TRUE(holds(shown["differs"][0][1],
                    said(-compared["light"]["stops"].get<double>(), "%+.2f stops")));
  ASSERT_EQ(shown["moves"].size(), compared["moves"].size());
  for (std::size_t i = 0; i < shown["moves"].size(); ++i) {
    EXPECT_TRUE(holds(shown["moves"][i], compared["moves"][i]["said"]));
  }
}

}  // namespace page_data_test
}  // namespace jolly_iris
