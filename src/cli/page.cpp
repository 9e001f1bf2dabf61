#include "verbs.hpp"
namespace jolly_iris::cli {
void page(const PageOptions&, const Streams&, std::vector<std::string>&) {}
}
