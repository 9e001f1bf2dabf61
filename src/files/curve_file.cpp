#include "jolly_iris/files/curve_file.hpp"

#include <fmt/format.h>

#include "csv_table.hpp"
#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

Curve read_curve(const std::filesystem::path& path) {
  Curve curve{path.string(), {}};
  read_csv(
      curve.file,
      [](const CsvTable& table, int line) {
        table.require_known({"number", "light"}, "a transfer curve", line);
        if (table.columns.size() != 2) {
          table.refuse(line, "a transfer curve needs the columns number and light");
        }
      },
      [&](const CsvTable& table, const std::vector<std::string>& cells, int line) {
        curve.rows.push_back(
            {table.number(cells, "number", line), table.number(cells, "light", line)});
        if (curve.rows.size() < 2) return;
        const auto& before = curve.rows[curve.rows.size() - 2];
        const auto& now = curve.rows.back();
        if (now[0] > before[0] && now[1] > before[1]) return;
        table.refuse(line, fmt::format("{:g}, {:g} does not rise over {:g}, {:g}: each row has a "
                                       "higher number and more light than the one before",
                                       now[0], now[1], before[0], before[1]));
      });
  if (curve.rows.size() < 2) {
    throw FileError(curve.file + ": has fewer than two rows, which make no curve");
  }
  return curve;
}

}  // namespace jolly_iris
