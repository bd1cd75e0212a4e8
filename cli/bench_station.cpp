// A logger's ten million rows: read, shared among hours, made a year.

#include "cli/bench.h"
#include "core/files/save_file.h"
#include "core/files/station/station_weather.h"
#include <fstream>
#include <unistd.h>

namespace noonward::cli {

std::vector<Measured> stationSpeed() {
  const std::filesystem::path file =
      std::filesystem::temp_directory_path() / ("noonward-bench-" + std::to_string(getpid()) + ".csv");
  constexpr int rows = 10000000;
  {
    std::ofstream out(file, std::ios::binary);
    out << "Time,Global [W/m²],Temp [°C]\n";
    std::string some;
    for (int k = 0; k < rows; ++k) { // every three seconds, from the first of January on
      const Date d = plusDays({2025, 1, 1}, k / 28800);
      const int s = k % 28800 * 3;
      some += fmt::format("{}-{:02d}-{:02d} {:02d}:{:02d}:{:02d},{}.5,{}.2\n", d.year, d.month, d.day, s / 3600,
                          s / 60 % 60, s % 60, s > 25000 && s < 60000 ? k % 700 : 0, k % 25);
      if (some.size() > (1u << 20) || k + 1 == rows) {
        out << some;
        some.clear();
      }
    }
    if (!out) {
      std::filesystem::remove(file);
      return {};
    }
  }
  std::vector<Measured> out;
  StationMap map;
  map.place = Place{radians(55.6), radians(12.5), 5};
  RunControl control;
  std::size_t used = 0;
  resetMemoryPeak();
  const double before = memoryPeakMb();
  const double took = seconds([&] {
    if (const auto made = stationWeather({file}, map, nullptr, control)) used = made->read.used;
  });
  out.push_back({"station-rows", double(used) / 1e6, "million rows read", 10, true});
  out.push_back({"station-made", took, "s, ten million rows to a year", 30, false});
  out.push_back({"station-memory", memoryPeakMb() - before, "MB beside what there was", 500, false});
  std::filesystem::remove(file);
  return out;
}

} // namespace noonward::cli
