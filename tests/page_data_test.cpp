// The page and the verbs answer alike about the same pictures: they share one result.
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "cli_support.hpp"
#include "small_dusk.hpp"

namespace jolly_iris {
namespace page_data_test {

using Json = nlohmann::json;
using testing::data_of;
using testing::holds;
using testing::Ran;
using testing::run;
using testing::said;
using testing::slurp;
using testing::TempFolder;

TEST(PageData, ComparesInTheDrawnRegionsAsTheVerbDoes) {
  const TempFolder folder;
  const std::string page = folder / "p.html";
  const auto [shot, cg] = testing::small_dusk(folder);  // regions are drawn in its plate
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
