#include "drawing/shots_page.hpp"

#include <fmt/format.h>

#include "disk/base64.hpp"
#include "drawing/page_parts.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "report/shots_report.hpp"

namespace jolly_iris {

std::string shots_page(const ShotList& list, const std::vector<SheetCell>& pictures) {
  Json columns = Json::array();
  for (const ShotColumn& c : list.columns) {
    columns.push_back({{"key", c.key}, {"head", c.head}, {"written", c.written}});
  }
  Json data = report::shots_json(list);
  data["columns"] = std::move(columns);
  data["title"] = fmt::format("{} shots", list.rows.size());
  Json views = Json::array();
  for (const SheetCell& cell : pictures) {
    const bool none = cell.picture.pixels().empty();
    views.push_back(none ? Json()
                         : Json("data:image/jpeg;base64," +
                                base64(picture_bytes(".jpg", {cell.picture, {}}, 82))));
  }
  data["pictures"] = std::move(views);
  return drawing::assembled("shots", *data.find("title")->text(), data);
}

}  // namespace jolly_iris
