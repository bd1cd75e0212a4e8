#include "core/files/station/station_reader.h"
#include "core/base/utf8.h"
#include "core/base/words.h"
#include <algorithm>
#include <cmath>

namespace noonward {

namespace {
/// Faults of one sort: how many rows, and where the first stands.
struct Sort {
  std::size_t count = 0;
  std::string first;
};

class Reading {
public:
  Reading(StationRead& out, const StationClock& clock, RunControl& control)
      : out_(out), clock_(clock), control_(control) {
    values_.resize(out.columns.size());
  }

  Outcome file(const std::filesystem::path& path, const StationGuess& guess, double from, double to) {
    auto opened = TableStream::open(path, guess.map.table);
    if (!opened) return tl::unexpected(opened.error());
    TableStream& table = **opened;
    name_ = path.filename().string();
    guess_ = &guess;
    decimalComma_ = table.facts().decimalComma;
    // Where each of the joined columns stands in this file.
    at_.assign(out_.columns.size(), std::string::npos);
    units_.assign(out_.columns.size(), nullptr);
    std::size_t needed = std::max(guess.time, guess.date.value_or(0)) + 1;
    for (std::size_t c = 0; c < out_.columns.size(); ++c)
      for (std::size_t k = 0; k < guess.map.columns.size(); ++k)
        if (guess.map.columns[k].column == out_.columns[c].column) {
          at_[c] = guess.at[k];
          units_[c] = unitNamed(out_.columns[c].is, guess.map.columns[k].unit);
        }
    last_ = {};
    TableStream::Row row;
    std::string joined;
    for (std::size_t n = 0; table.next(row); ++n) {
      if (n % 4096 == 0) {
        if (!control_.goesOn()) {
          out_.end = control_.end(false);
          return {};
        }
        if (control_.progress) control_.progress(from + (to - from) * table.share());
      }
      ++out_.rows;
      if (row.cells.size() < needed) {
        put(short_, row.line, "", fmt::format("{} cells", row.cells.size()));
        continue;
      }
      std::string_view stamp = row.cells[guess.time];
      if (guess.date) {
        joined.assign(row.cells[*guess.date]);
        joined += ' ';
        joined += stamp;
        stamp = joined;
      }
      const auto begin = beginOf(stamp, row.line);
      if (!begin) continue;
      if (const Outcome o = take(*begin, row); !o) return o;
    }
    return {};
  }

  void tell() {
    const auto say = [&](const Sort& s, Rank rank, const char* code, const char* one, const char* more,
                         const char* then) {
      if (s.count == 0) return;
      Finding f;
      f.rank = rank;
      f.code = code;
      f.count = int(std::min<std::size_t>(s.count, 1000000000));
      f.text = fmt::format("{} {}: first {}.", counted(s.count, one, more), then, s.first);
      out_.findings.push_back(std::move(f));
    };
    say(noTime_, Rank::BendsResult, "station.time", "row", "rows", "without a time that can be read, left out");
    say(short_, Rank::BendsResult, "station.short", "row", "rows", "too short to hold its time, left out");
    say(text_, Rank::BendsResult, "station.text", "cell", "cells",
        "with something that is no number, taken as missing");
    say(range_, Rank::BendsResult, "station.range", "cell", "cells",
        "beyond what such an instrument can show, taken as missing");
    say(twice_, Rank::BendsResult, "station.twice", "row", "rows", "with the time of the row before, left out");
    say(back_, Rank::BendsResult, "station.back", "row", "rows",
        "with a time before that of the row before: a clock was set back, or rows are not in order");
    say(skipped_, Rank::WorthKnowing, "station.skipped", "row", "rows", "with a time that the local clock skips");
    say(gap_, Rank::WorthKnowing, "station.gaps", "gap", "gaps", "between rows");
  }

private:
  std::string place(std::size_t line) const { return fmt::format("{}, row {}", name_, line); }
  void put(Sort& sort, std::size_t line, const std::string& column, std::string text) {
    if (sort.count++ == 0)
      sort.first = fmt::format("{}{}{}", place(line), column.empty() ? "" : ", column " + column,
                               text.empty() ? "" : " (" + text + ")");
    if (out_.faults.size() < 200) out_.faults.push_back({name_, line, column, std::move(text)});
  }

  /// When the row's interval begins, UTC.
  std::optional<Instant> beginOf(std::string_view text, std::size_t line) {
    const auto stamp = stampOf(text, guess_->form);
    if (!stamp) {
      put(noTime_, line, "", "\"" + nameAsUtf8(std::string(text.substr(0, 40))) + "\"");
      return {};
    }
    const StationMap& map = guess_->map;
    Instant t{};
    if (stamp->utcOffset) {
      t = utc(stamp->time) + -*stamp->utcOffset;
    } else if (map.clock == "utc") {
      t = utc(stamp->time);
    } else if (map.clock == "local") {
      t = clock_.zone.instant(stamp->time);
      // A reading that occurs twice is the later one where the rows have come past the first.
      if (lastStamp_ && t < *lastStamp_ && clock_.zone.clock(t + 3600).seconds == stamp->time.seconds &&
          clock_.zone.clock(t + 3600).date == stamp->time.date)
        t = t + 3600;
      if (clock_.zone.clock(t).seconds != stamp->time.seconds) put(skipped_, line, "", std::string(text.substr(0, 40)));
      lastStamp_ = t;
    } else {
      t = utc(stamp->time) + -fixedOffset();
    }
    t = t + 60 * map.slip;
    const double length = guess_->step;
    return map.stamps == StampAt::End ? t + -length : map.stamps == StampAt::Middle ? t + -length / 2 : t;
  }
  double fixedOffset() const {
    if (guess_->map.clock == "standard") return clock_.standardOffset;
    return stampFromText("2025-01-01T00:00" + guess_->map.clock)->utcOffset.value_or(0);
  }

  Outcome take(Instant begin, const TableStream::Row& row) {
    const double step = guess_->step;
    if (last_) {
      const double ahead = begin - *last_;
      if (std::abs(ahead) < 1e-6) {
        put(twice_, row.line, "", "");
        return {};
      }
      if (ahead < 0) put(back_, row.line, "", isoText(begin, clock_.standardOffset));
      if (ahead > 1.5 * step && gap_.count++ == 0)
        gap_.first = fmt::format("{} before {}", counted(std::size_t(std::lround(ahead / step)) - 1, "step", "steps"),
                                 place(row.line));
    }
    last_ = begin;
    bool any = false;
    for (std::size_t c = 0; c < values_.size(); ++c) {
      values_[c] = std::nan("");
      if (at_[c] == std::string::npos || at_[c] >= row.cells.size() || units_[c] == nullptr) continue;
      const std::string_view cell = row.cells[at_[c]];
      const auto v = cellNumber(cell, decimalComma_);
      if (!v) {
        put(text_, row.line, out_.columns[c].column, "\"" + nameAsUtf8(std::string(cell.substr(0, 40))) + "\"");
        continue;
      }
      if (!std::isfinite(*v)) continue;
      const MeasuredUnit& unit = *units_[c];
      const double value = *v * (unit.sum ? unit.factor / step : unit.factor) + unit.offset;
      const MeasuredFacts& known = facts(out_.columns[c].is);
      if (value < known.low || value > known.high) {
        put(range_, row.line, out_.columns[c].column, fmt::format("{} {}", cell, unit.name));
        continue;
      }
      values_[c] = value;
      any = true;
    }
    if (!any) return {};
    if (!out_.means.add(begin, step, values_))
      return fail(fmt::format("Its time, {}, lies more than {} days from that of other rows: a date is wrong.",
                              isoText(begin, clock_.standardOffset), HourMeans::mostDays),
                  place(row.line));
    if (out_.used++ == 0 || begin < out_.first) out_.first = begin;
    out_.last = std::max(out_.last, begin + step);
    return {};
  }

  StationRead& out_;
  const StationClock& clock_;
  RunControl& control_;
  const StationGuess* guess_ = nullptr;
  std::string name_;
  bool decimalComma_ = false;
  std::vector<std::size_t> at_;
  std::vector<const MeasuredUnit*> units_;
  std::vector<double> values_;
  std::optional<Instant> last_, lastStamp_;
  Sort noTime_, short_, text_, range_, twice_, back_, skipped_, gap_;
};
} // namespace

Expected<StationClock> stationClock(const StationMap& map, const Zone* project, int year) {
  StationClock out;
  if (!map.zone.empty()) {
    auto zone = Zone::named(map.zone);
    if (!zone) return tl::unexpected(zone.error());
    out.zone = std::move(*zone);
  } else if (project != nullptr) {
    out.zone = *project;
  } else if (map.clock == "local") {
    return fail("The stamps keep the local clock: name its zone in the map (\"zone\": \"Europe/Copenhagen\").", "zone");
  } else if (map.clock != "standard" && map.clock != "utc") {
    out.zone = Zone::fixed(stampFromText("2025-01-01T00:00" + map.clock)->utcOffset.value_or(0));
  } else {
    out.zone = Zone::fixed(map.place ? 3600 * std::round(degrees(map.place->longitude) / 15) : 0);
  }
  out.standardOffset = out.zone.standardOffset(year > 0 ? year : 2025);
  return out;
}

std::string clockWords(const StationMap& m) {
  const std::string clock = m.clock == "standard" ? "standard time"
                            : m.clock == "local"  ? "the local clock with its summer time"
                            : m.clock == "utc"    ? "UTC"
                                                  : "UTC" + m.clock;
  return fmt::format("Stamps are {}; {} of {:g} s{}", clock,
                     m.stamps == StampAt::Begin    ? "begin"
                     : m.stamps == StampAt::Middle ? "middle"
                                                   : "end",
                     m.step, m.slip != 0 ? fmt::format("; moved by {:+g} min", m.slip) : "");
}

Expected<StationRead> readStations(const std::vector<std::filesystem::path>& files, const StationMap& map,
                                   const Zone* zone, RunControl& control, int bin) {
  if (files.empty()) return fail("No file was given.");
  StationRead out;
  std::vector<StationGuess> guesses;
  for (const std::filesystem::path& path : files) {
    // A map's columns may stand in some of the files alone.
    StationMap own = map;
    if (files.size() > 1 && !map.columns.empty()) {
      const auto there = guessStation(path, [&] {
        StationMap m = map;
        m.columns.clear();
        return m;
      }());
      if (!there) return tl::unexpected(there.error());
      std::erase_if(own.columns, [&](const StationColumn& c) {
        return std::find(there->table.names.begin(), there->table.names.end(), c.column) == there->table.names.end();
      });
      if (own.columns.empty()) return fail("It has none of the columns of the map.", path.filename().string());
    }
    auto guess = guessStation(path, own);
    if (!guess) return tl::unexpected(guess.error());
    out.notes.push_back(fmt::format("{}: {}; {}; a row every {:g} s", path.filename().string(), guess->table.text(),
                                    guess->form.text(), guess->step));
    for (const StationColumn& c : guess->map.columns)
      if (std::none_of(out.columns.begin(), out.columns.end(),
                       [&](const StationColumn& o) { return o.column == c.column; }))
        out.columns.push_back(c);
    if (guess->form.ambiguous)
      out.findings.push_back({Rank::BendsResult,
                              "station.order",
                              fmt::format("{}: day and month could change places, and nothing in the first rows tells: "
                                          "{} was taken. Say it in the map (\"dates\": \"dmy\" or \"mdy\").",
                                          path.filename().string(), dateOrderText(guess->form.order)),
                              1,
                              {},
                              "",
                              ""});
    if (guess->form.otherOrder > 0)
      out.findings.push_back(
          {Rank::BendsResult,
           "station.mixed-order",
           fmt::format("{}: {} of its first rows fit only the other order of day and month; {} was "
                       "taken, and they are left out.",
                       path.filename().string(), guess->form.otherOrder, dateOrderText(guess->form.order)),
           int(guess->form.otherOrder),
           {},
           "",
           ""});
    guesses.push_back(std::move(*guess));
  }
  if (out.columns.empty())
    return fail("No column was recognised as something measured: name them in the map (\"columns\").",
                files.front().filename().string());
  out.map = guesses.front().map;
  out.map.columns = out.columns;
  out.step = guesses.front().step;
  const auto clock = stationClock(map, zone, map.year);
  if (!clock) return tl::unexpected(clock.error());
  std::vector<bool> directions;
  for (const StationColumn& c : out.columns) {
    out.kinds.push_back(c.is);
    directions.push_back(c.is == Measured::WindDirection);
  }
  out.means = HourMeans(out.columns.size(), clock->standardOffset, directions, bin);
  out.first = {1e18};
  out.last = {-1e18};
  Reading reading(out, *clock, control);
  for (std::size_t k = 0; k < files.size() && out.end == RunEnd::Finished; ++k)
    if (const Outcome o =
            reading.file(files[k], guesses[k], double(k) / double(files.size()), double(k + 1) / double(files.size()));
        !o)
      return tl::unexpected(o.error());
  if (control.progress) control.progress(1);
  reading.tell();
  if (out.used == 0 && out.end == RunEnd::Finished)
    return fail(
        fmt::format("None of {} has both a time and a value that can be read.", counted(out.rows, "row", "rows")),
        files.front().filename().string());
  return out;
}

} // namespace noonward
