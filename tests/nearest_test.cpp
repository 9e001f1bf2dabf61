#include "optics/nearest.hpp"

#include <gtest/gtest.h>

namespace jolly_iris {
namespace nearest_test {

TEST(Nearest, CountsEdits) {
  EXPECT_EQ(edit_distance("boat", "boat"), 0);
  EXPECT_EQ(edit_distance("boat", "BOAT"), 0);
  EXPECT_EQ(edit_distance("boat", "baot"), 1);  // swapped neighbours
  EXPECT_EQ(edit_distance("boat", "boats"), 1);
  EXPECT_EQ(edit_distance("", "boat"), 4);
  EXPECT_EQ(edit_distance("kitten", "sitting"), 3);  // the textbook pair
}

TEST(Nearest, FindsWhatWasMeantAndNothingFarFetched) {
  EXPECT_EQ(nearest_name("baot", {"reeds", "boat", "second boat"}), "boat");
  EXPECT_EQ(nearest_name("xyz", {"reeds", "boat"}), std::nullopt);
  EXPECT_EQ(did_you_mean("baot", {"boat"}), " Did you mean 'boat'?");
  EXPECT_EQ(did_you_mean("xyz", {"boat", "reeds"}), " Known: 'boat', 'reeds'.");
  EXPECT_EQ(did_you_mean("xyz", {}), "");
}

}  // namespace nearest_test
}  // namespace jolly_iris
