#include "core/yardsticks/yardstick.h"
#include "core/base/json.h"
#include <algorithm>
#include <fmt/format.h>
#include <sstream>

namespace noonward {

namespace {
const Parameter* find(const Yardstick& y, std::string_view key) {
  for (const Parameter& p : y.parameters)
    if (p.key == key) return &p;
  return nullptr;
}
/// One row a measure: what it is judged by and beside, and what its file has to have.
struct MeasureFacts {
  Measure measure;
  const char* key; ///< in rule files
  JudgedBy by;
  StudyKind study;     ///< beside which its verdict stands
  bool rooms;          ///< of rooms, without sensors or by grids in them; else of groups that are chosen
  bool grids;          ///< of grids in rooms, which it proposes
  bool besideYear;     ///< told with a daylight year and in its record
  const char* numbers; ///< parameters that are numbers, with blanks between
  const char* words;   ///< parameters that are words
};
constexpr std::array<MeasureFacts, 13> measures{{
    {Measure::SunHoursArea, "sun-hours-area", JudgedBy::SunHours, StudyKind::SunHours, false, false, false,
     "hours share kept-share min-altitude", "date-north date-south window-from window-to"},
    {Measure::SunHoursDwellings, "sun-hours-dwellings", JudgedBy::SunHours, StudyKind::SunHours, false, false, false,
     "hours share none-share min-area min-interval min-altitude",
     "date-north date-south window-from window-to counted subject"},
    {Measure::SdaCredit, "sda-credit", JudgedBy::Year, StudyKind::Year, true, true, true,
     "first-step first-points second-step second-points third-step third-points ase-limit threshold share-of-hours "
     "ase-threshold ase-hours closes-at closes-above fabric-direct fabric-diffuse grid-height grid-spacing "
     "wall-distance",
     "above-limit window-from window-to blinds"},
    {Measure::ProvisionHours, "provision-hours", JudgedBy::Year, StudyKind::Year, true, true, true,
     "hours grid-height grid-spacing wall-distance", "level blinds"},
    {Measure::ProvisionFactor, "provision-factor", JudgedBy::Light, StudyKind::DaylightFactor, true, true, true,
     "grid-height grid-spacing wall-distance", "level"},
    {Measure::OpeningSun, "opening-sun", JudgedBy::OpeningSun, StudyKind::Year, true, false, true,
     "min-altitude height above-sill", "level date-north date-south judged"},
    {Measure::WindowSky, "window-sky", JudgedBy::Light, StudyKind::Vsc, false, false, false, "min kept-share share",
     ""},
    {Measure::WindowSun, "window-sun", JudgedBy::Light, StudyKind::SunlightYear, false, false, false,
     "annual winter kept-share max-loss facing share", ""},
    {Measure::NoSkyLine, "no-sky-line", JudgedBy::Light, StudyKind::NoSkyLine, true, true, false,
     "share kept-share grid-height grid-spacing wall-distance", ""},
    {Measure::Irradiation, "irradiation", JudgedBy::Light, StudyKind::Irradiation, false, false, false,
     "min share kept-share", ""},
    {Measure::NewShadow, "new-shadow", JudgedBy::SunHours, StudyKind::SunHours, false, false, false,
     "max-area-hours max-share moment-step", "date-north date-south window-from window-to"},
    {Measure::EyesGlare, "eyes-glare", JudgedBy::Light, StudyKind::Glare, false, false, false, "share", "level"},
    {Measure::ViewOut, "view-out", JudgedBy::Light, StudyKind::ViewOut, false, false, false, "share", "level"},
}};
const MeasureFacts& factsOf(Measure m) {
  for (const MeasureFacts& f : measures)
    if (f.measure == m) return f;
  return measures.front();
}
/// Each of the words, with whether it is the key of a word.
std::vector<std::pair<std::string, bool>> neededBy(Measure m) {
  std::vector<std::pair<std::string, bool>> out;
  for (const bool word : {true, false}) {
    std::istringstream list(word ? factsOf(m).words : factsOf(m).numbers);
    for (std::string key; list >> key;) out.emplace_back(key, word);
  }
  return out;
}
} // namespace

JudgedBy judgedBy(Measure m) {
  return factsOf(m).by;
}
bool ofRooms(Measure m) {
  return factsOf(m).rooms;
}
bool ofRoomGrids(Measure m) {
  return factsOf(m).grids;
}
bool besideYear(Measure m) {
  return factsOf(m).besideYear;
}
StudyKind studyKindOf(Measure m) {
  return factsOf(m).study;
}

double Yardstick::number(std::string_view k) const {
  const Parameter* p = find(*this, k);
  return p && std::holds_alternative<double>(p->value) ? std::get<double>(p->value) : 0;
}
std::string Yardstick::word(std::string_view k) const {
  const Parameter* p = find(*this, k);
  return p && std::holds_alternative<std::string>(p->value) ? std::get<std::string>(p->value) : std::string();
}
bool Yardstick::has(std::string_view k) const {
  return find(*this, k) != nullptr;
}

Expected<Yardstick> readYardstick(std::string_view text, const std::string& file) {
  auto json = parseJson(text, file);
  if (!json) return tl::unexpected(json.error());
  JsonFault fault;
  JsonObject o(*json, "", fault);
  Yardstick y;
  y.file = file;
  if (o.text("format") != "noonward-yardstick") o.fault("format", "\"noonward-yardstick\" is expected here.");
  o.integer("version", 1, 1, 1);
  y.key = o.requiredText("key");
  y.title = o.requiredText("title");
  y.edition = o.text("edition");
  y.source = o.text("source");
  const std::string measure = o.requiredText("measure");
  const auto known = std::find_if(measures.begin(), measures.end(), [&](const auto& m) { return measure == m.key; });
  if (known != measures.end()) {
    y.measure = known->measure;
  } else {
    std::string all;
    for (const auto& m : measures) all += (all.empty() ? "" : ", ") + std::string(m.key);
    o.fault("measure", fmt::format("\"{}\" is no measure known here ({}).", measure, all));
  }
  const Json& list = o.raw("parameters");
  if (!list.is_object()) o.fault("parameters", "An object { … } is expected here.");
  if (list.is_object())
    for (const auto& [key, value] : list.items()) {
      JsonObject q(value, "parameters." + key, fault);
      Parameter p;
      p.key = parameterKey(key);
      p.label = q.text("label", key);
      p.unit = q.text("unit");
      p.help = q.text("help");
      q.array("choices", [&](const Json& c, const std::string& path) {
        if (c.is_string())
          p.choices.push_back(c.get<std::string>());
        else if (!fault.error)
          fault.error = Error{"Text in quotes is expected here.", path};
      });
      const Json& table = q.raw("table");
      if (table.is_object()) {
        for (const auto& [name, number] : table.items())
          if (number.is_number())
            p.table.emplace_back(name, number.get<double>());
          else
            q.fault("table", fmt::format("A number is expected for \"{}\".", name));
      } else if (!table.is_null()) {
        q.fault("table", "Named numbers such as {\"Denmark\": 12} are expected here.");
      }
      const Json& v = q.raw("value");
      if (v.is_number())
        p.value = v.get<double>();
      else if (v.is_string())
        p.value = v.get<std::string>();
      else
        q.fault("value", "A number or a word is expected here.");
      if (v.is_string() && !p.choices.empty() &&
          std::find(p.choices.begin(), p.choices.end(), v.get<std::string>()) == p.choices.end())
        q.fault("value", fmt::format("\"{}\" is none of the choices.", v.get<std::string>()));
      y.parameters.push_back(std::move(p));
    }
  for (const auto& [key, word] : neededBy(y.measure)) {
    const Parameter* p = find(y, key);
    const std::string path = "parameters." + key;
    if (!p)
      o.fault(path.c_str(), "This parameter is missing.");
    else if (!(key == "min-altitude" && y.measure == Measure::OpeningSun) &&
             std::holds_alternative<std::string>(p->value) != word)
      o.fault(path.c_str(), word ? "A word in quotes is expected here." : "A number is expected here.");
  }
  if (fault.error) return fail(fault.error->message, file + ": " + fault.error->place);
  return y;
}

std::string parameterKey(const std::string& key) {
  struct Renamed {
    std::string_view was, is;
  };
  constexpr Renamed renamed[] = {{"beam", "ase-threshold"},
                                 {"beam-hours", "ase-hours"},
                                 {"cloth-straight", "fabric-direct"},
                                 {"cloth-scattered", "fabric-diffuse"},
                                 {"cloth-reflected", "fabric-reflectance"},
                                 {"least", "min"},
                                 {"least-altitude", "min-altitude"},
                                 {"least-interval", "min-interval"},
                                 {"least-area", "min-area"},
                                 {"most-loss", "max-loss"}};
  for (const Renamed& r : renamed)
    if (key == r.was) return std::string(r.is);
  return key;
}

Expected<Yardstick> withChanges(Yardstick y, const std::map<std::string, std::string>& changed) {
  for (const auto& [written, text] : changed) {
    const std::string key = parameterKey(written);
    auto p = std::find_if(y.parameters.begin(), y.parameters.end(), [&](const Parameter& q) { return q.key == key; });
    if (p == y.parameters.end()) return fail(fmt::format("\"{}\" has no parameter \"{}\".", y.title, key));
    if (std::holds_alternative<double>(p->value)) {
      const auto v = numberFromText(text);
      if (!v) return fail(fmt::format("\"{}\" is no number for \"{}\".", text, p->label));
      p->value = *v;
    } else {
      if (!p->choices.empty() && std::find(p->choices.begin(), p->choices.end(), text) == p->choices.end())
        return fail(fmt::format("\"{}\" is none of the choices of \"{}\".", text, p->label));
      if (!p->table.empty() && !numberFromText(text) &&
          std::none_of(p->table.begin(), p->table.end(), [&](const auto& t) { return t.first == text; }))
        return fail(fmt::format("\"{}\" is neither in the table of \"{}\" nor a number.", text, p->label));
      p->value = text;
    }
  }
  return y;
}

const char* outcomeText(Outcome3 o) {
  switch (o) {
  case Outcome3::Meets:
    return "meets";
  case Outcome3::FallsShort:
    return "falls short";
  case Outcome3::NotJudged:
    return "not judged";
  }
  return "";
}

Expected<SunHoursSettings> settingsOf(const Yardstick& y, const Site& site) {
  SunHoursSettings s;
  const std::string day = y.word(site.place.latitude >= 0 ? "date-north" : "date-south");
  const auto date = dateFromText(fmt::format("{} {}", day, site.year));
  if (!date) return fail(fmt::format("\"{}\" is no day such as \"21 Mar\".", day), y.file);
  s.dates = {*date};
  const std::string from = y.word("window-from"), to = y.word("window-to");
  if (from == "sunrise" && to == "sunset") {
    s.sunriseToSunset = true;
  } else {
    const auto a = from == "sunrise" ? 0.0 : minutesFromText(from), b = to == "sunset" ? 1440.0 : minutesFromText(to);
    if (!a || !b || *b <= *a) return fail(fmt::format("\"{}–{}\" is no clock window.", from, to), y.file);
    s.season.beginMinute = *a;
    s.season.endMinute = *b;
  }
  s.minAltitude = radians(y.number("min-altitude"));
  if (y.word("altitude") == "apparent") s.altitudeKind = AltitudeKind::Apparent;
  if (y.has("step")) {
    const double step = y.number("step");
    if (step > 0) {
      s.counting = Counting::Stepped;
      s.stepMinutes = int(step);
      if (y.word("sample") == "ends") s.sample = StepSample::Ends;
    }
  }
  return s;
}

const Yardstick* YardstickShelf::find(std::string_view key) const {
  for (const Yardstick& y : yardsticks)
    if (y.key == key) return &y;
  return nullptr;
}

double aseLimit(const Project& p, const YardstickShelf& shelf) {
  for (const Judgement& j : p.judgements)
    if (const Yardstick* y = shelf.find(j.yardstick); y && y->measure == Measure::SdaCredit)
      if (const auto changed = withChanges(*y, j.changed)) return changed->number("ase-limit") / 100;
  return 0.10;
}

} // namespace noonward
