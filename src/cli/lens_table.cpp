#include "lens_table.hpp"

#include <nlohmann/json.hpp>

namespace jolly_iris::cli {

std::string lens_table(const LensSampler& lens) {
  using Json = nlohmann::ordered_json;
  const OpeningTable& o = lens.opening;
  Json nodes = Json::array();
  for (const OpeningTable::Node& n : o.nodes) nodes.push_back({n.x, n.y, n.dx, n.dy});
  Json light = Json::array();
  for (const auto& l : lens.light.light) light.push_back({l[0], l[1], l[2]});
  Json rims = Json::array();
  for (const LensSampler::Rim& r : lens.rims) {
    rims.push_back({{"radius", r.radius}, {"ahead", r.ahead}});
  }
  const char* kind = o.kind == OpeningTable::Kind::round     ? "round"
                     : o.kind == OpeningTable::Kind::sectors ? "sectors"
                                                             : "triangles";
  const Json j{
      {"opening",
       {{"kind", kind},
        {"hole", o.hole},
        {"nodes", nodes},
        {"start", o.start},
        {"guide", o.guide},
        {"equal", o.equal}}},
      {"light", {{"side", lens.light.side}, {"reach", lens.light.reach}, {"light", light}}},
      {"radius", lens.radius},
      {"aspect", lens.aspect},
      {"focal", lens.focal},
      {"inverse_focus", lens.inverse_focus},
      {"rims", rims},
      {"gain", lens.gain},
      {"spherical", lens.spherical},
      {"coma", lens.coma},
      {"curvature", lens.curvature},
      {"focus_shift", lens.focus_shift},
      {"magnification", lens.magnification}};
  return j.dump() + "\n";
}

}  // namespace jolly_iris::cli
