#include "core/files/epw.h"
#include "core/base/units.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

std::vector<std::string_view> split(std::string_view line, char at) {
  std::vector<std::string_view> out;
  while (true) {
    const auto p = line.find(at);
    out.push_back(line.substr(0, p));
    if (p == std::string_view::npos) return out;
    line.remove_prefix(p + 1);
  }
}

/// By the mark, but not within quotes, which fall away.
std::vector<std::string> fields(std::string_view line, char mark) {
  std::vector<std::string> out(1);
  bool quoted = false;
  for (char c : line) {
    if (c == '"')
      quoted = !quoted;
    else if (c == mark && !quoted)
      out.emplace_back();
    else
      out.back() += c;
  }
  return out;
}

constexpr std::size_t columns = 35;
/// More fields than a row has, other than empty ones at its end.
bool tooMany(const std::vector<std::string>& f) {
  return std::any_of(f.begin() + std::ptrdiff_t(std::min(columns, f.size())), f.end(),
                     [](const std::string& s) { return s.find_first_not_of(" \t") != std::string::npos; });
}

std::string fieldText(double v) {
  if (v == std::floor(v) && std::abs(v) < 1e15) return fmt::format("{:.0f}", v);
  return fmt::format("{}", v);
}

} // namespace

Expected<Weather> parseEpw(std::string_view bytes, const std::string& file) {
  Weather w;
  const std::string text = asUtf8(bytes, &w.notes);
  std::vector<std::string_view> lines = split(text, '\n');
  while (!lines.empty() && lines.back().empty()) lines.pop_back();
  if (lines.empty() || !lines[0].starts_with("LOCATION"))
    return fail("This is not a weather file: its first line does not begin with LOCATION.", file + ":1");
  if (lines.size() < 9)
    return fail("The weather file ends within its header.", fmt::format("{}:{}", file, lines.size()));
  const auto counted = [](std::string_view s, char c) { return std::count(s.begin(), s.end(), c); };
  const bool semicolons = counted(lines[0], ';') >= 8;
  const char mark = semicolons ? ';' : ',';
  if (semicolons) w.notes.push_back("Columns were separated by semicolons, with decimal commas.");

  const std::vector<std::string> location = fields(lines[0], mark);
  if (location.size() < 10) return fail("The LOCATION line has fewer than 10 fields.", file + ":1");
  constexpr const char* unclear =
      "It has {} fields where {} are expected: with commas between columns and decimal commas in them it can't be told "
      "which is which. Save it with semicolons between columns, or with decimal points.";
  if (location.size() > 10 && std::any_of(location.begin() + 10, location.end(), [](const std::string& s) {
        return s.find_first_not_of(" \t") != std::string::npos;
      }))
    return fail(fmt::format(fmt::runtime(unclear), location.size(), 10), file + ":1");
  w.city = location[1];
  w.region = location[2];
  w.country = location[3];
  w.source = location[4];
  w.station = location[5];
  const auto lat = numberFromText(location[6]), lon = numberFromText(location[7]), zone = numberFromText(location[8]),
             up = numberFromText(location[9]);
  if (!lat || !lon || std::abs(*lat) > 90 || std::abs(*lon) > 180)
    return fail("Latitude or longitude of the LOCATION line is no place on Earth.", file + ":1");
  if (!zone || std::abs(*zone) > 15)
    return fail("The time zone of the LOCATION line is no number of hours.", file + ":1");
  w.place = {radians(*lat), radians(*lon), up.value_or(0)};
  w.utcOffset = *zone * 3600;
  for (std::size_t i = 0; i < 7; ++i) {
    w.headers[i] = std::string(lines[i + 1]);
    if (semicolons) std::replace(w.headers[i].begin(), w.headers[i].end(), ';', ',');
  }

  std::size_t shortRows = 0, firstShort = 0, badFields = 0, firstBad = 0, longRows = 0, firstLong = 0, longFields = 0,
              yearless = 0;
  w.hours.reserve(8784);
  for (std::size_t i = 8; i < lines.size(); ++i) {
    if (lines[i].find_first_not_of(" \t,;") == std::string_view::npos) continue;
    const std::vector<std::string> f = fields(lines[i], mark);
    if (tooMany(f)) {
      if (longRows++ == 0) {
        firstLong = i + 1;
        longFields = f.size();
      }
      continue; // which of its fields is which can't be told: the hour stays a gap
    }
    const auto whole = [&](std::size_t k) {
      const auto v = k < f.size() ? numberFromText(f[k]) : std::nullopt;
      return v ? int(std::lround(*v)) : -1;
    };
    WeatherHour h;
    h.year = whole(0);
    h.month = whole(1);
    h.day = whole(2);
    h.hour = whole(3);
    h.minute = whole(4);
    if (h.month < 1 || h.month > 12 || h.day < 1 || h.day > 31 || h.hour < 0 || h.hour > 24) {
      if (w.hours.size() < 24)
        return fail("This row does not begin with year, month, day and hour.", fmt::format("{}:{}", file, i + 1));
      if (shortRows++ == 0) firstShort = i + 1;
      continue; // the hour stays a gap, and is found as one
    }
    if (h.year < 1) h.year = 0, ++yearless; // the project's year takes its place
    h.row = i + 1;
    h.values.fill(std::nan(""));
    if (f.size() > 5) h.flags = std::string(f[5]);
    if (f.size() < 35 && shortRows++ == 0) firstShort = i + 1;
    for (std::size_t k = 0; k < weatherFieldCount && k + 6 < f.size(); ++k) {
      const auto v = numberFromText(f[k + 6]);
      if (!v) {
        if (f[k + 6].find_first_not_of(" \t") != std::string_view::npos && badFields++ == 0) firstBad = i + 1;
        continue;
      }
      if (*v < facts(WeatherField(k)).missingFrom) h.values[k] = *v;
    }
    w.hours.push_back(std::move(h));
  }
  if (longRows > std::max<std::size_t>(24, w.hours.size() / 50))
    return fail(fmt::format(fmt::runtime(unclear), longFields, columns), fmt::format("{}:{}", file, firstLong));
  if (w.hours.size() < 24)
    return fail(fmt::format("The weather file holds {} hours; 8760 make a year.", w.hours.size()), file);
  // Some files count hours 0…23: record h is then the hour that begins at h.
  const bool fromZero = std::any_of(w.hours.begin(), w.hours.end(), [](const auto& h) { return h.hour == 0; });
  if (fromZero) {
    for (WeatherHour& h : w.hours) h.hour = std::min(24, h.hour + 1);
    w.notes.push_back("Hours were counted 0 to 23 and taken as 1 to 24.");
  }
  if (longRows > 0)
    w.notes.push_back(fmt::format(
        "{} row{} ha{} more than {} fields, first row {}: left out, since it can't be told which field is which.",
        longRows, longRows == 1 ? "" : "s", longRows == 1 ? "s" : "ve", columns, firstLong));
  if (yearless > 0)
    w.notes.push_back(fmt::format("{} row{} name{} no year: the project's is taken.", yearless,
                                  yearless == 1 ? "" : "s", yearless == 1 ? "s" : ""));
  if (sortHours(w)) w.notes.push_back("Rows did not stand in the order of the year; they were sorted.");
  if (shortRows > 0)
    w.notes.push_back(
        fmt::format("{} row{} have fewer than 35 fields or no date, first row {}; what is absent is taken as missing.",
                    shortRows, shortRows == 1 ? "" : "s", firstShort));
  if (badFields > 0)
    w.notes.push_back(fmt::format("{} field{} are no numbers, first in row {}; taken as missing.", badFields,
                                  badFields == 1 ? "" : "s", firstBad));
  finishWeather(w);
  return w;
}

Expected<Weather> readEpw(const std::filesystem::path& path) {
  auto bytes = loadFile(path, 256u << 20);
  if (!bytes) return tl::unexpected(bytes.error());
  return parseEpw(*bytes, path.filename().string());
}

std::string epwText(const Weather& w) {
  std::string out;
  const auto clean = [](std::string s) {
    for (char& c : s)
      if (c == ',' || c == '\n' || c == '\r') c = ' ';
    return s;
  };
  const auto degree = [](double v) { return fieldText(std::round(degrees(v) * 1e7) / 1e7); };
  out += fmt::format("LOCATION,{},{},{},{},{},{},{},{},{}\r\n", clean(w.city), clean(w.region), clean(w.country),
                     clean(w.source), clean(w.station), degree(w.place.latitude), degree(w.place.longitude),
                     fieldText(w.utcOffset / 3600), fieldText(w.place.elevation));
  for (const std::string& h : w.headers) out += h + "\r\n";
  for (const WeatherHour& h : w.hours) {
    out += fmt::format("{},{},{},{},{},{}", h.year, h.month, h.day, h.hour, h.minute, h.flags);
    for (std::size_t k = 0; k < weatherFieldCount; ++k) {
      out += ',';
      out += std::isnan(h.values[k]) ? facts(WeatherField(k)).missing : fieldText(h.values[k]);
    }
    out += "\r\n";
  }
  return out;
}

} // namespace noonward
