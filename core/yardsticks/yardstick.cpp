#include "core/yardsticks/yardstick.h"
#include "core/base/json.h"
#include <algorithm>
#include <fmt/format.h>

namespace noonward {

namespace {
const Parameter* find(const Yardstick& y, std::string_view key) {
  for (const Parameter& p : y.parameters)
    if (p.key == key) return &p;
  return nullptr;
}
struct Needed {
  const char* key;
  bool word;
};
/// What each measure reads; a file without one of these is faulty.
std::vector<Needed> neededBy(Measure m) {
  switch (m) {
  case Measure::SunHoursArea:
    return {{"date-north", true}, {"date-south", true}, {"window-from", true}, {"window-to", true},
            {"hours", false},     {"share", false},     {"kept-share", false}, {"least-altitude", false}};
  case Measure::SunHoursDwellings:
    return {{"date-north", true}, {"date-south", true},  {"window-from", true},     {"window-to", true},
            {"hours", false},     {"share", false},      {"none-share", false},     {"counted", true},
            {"subject", true},    {"least-area", false}, {"least-interval", false}, {"least-altitude", false}};
  case Measure::SdaCredit:
    return {{"first-step", false},   {"first-points", false},   {"second-step", false},     {"second-points", false},
            {"third-step", false},   {"third-points", false},   {"ase-limit", false},       {"above-limit", true},
            {"threshold", false},    {"share-of-hours", false}, {"window-from", true},      {"window-to", true},
            {"beam", false},         {"beam-hours", false},     {"blinds", true},           {"closes-at", false},
            {"closes-above", false}, {"cloth-straight", false}, {"cloth-scattered", false}, {"grid-height", false},
            {"grid-spacing", false}, {"wall-distance", false}};
  case Measure::ProvisionHours:
    return {{"level", true},        {"hours", false},        {"blinds", true},
            {"grid-height", false}, {"grid-spacing", false}, {"wall-distance", false}};
  case Measure::ProvisionFactor:
    return {{"level", true}, {"grid-height", false}, {"grid-spacing", false}, {"wall-distance", false}};
  case Measure::OpeningSun:
    return {{"level", true},   {"date-north", true},  {"date-south", true}, {"least-altitude", false},
            {"height", false}, {"above-sill", false}, {"judged", true}};
  case Measure::WindowSky:
    return {{"least", false}, {"kept-share", false}, {"share", false}};
  case Measure::WindowSun:
    return {{"annual", false},    {"winter", false}, {"kept-share", false},
            {"most-loss", false}, {"facing", false}, {"share", false}};
  case Measure::NoSkyLine:
    return {{"share", false},
            {"kept-share", false},
            {"grid-height", false},
            {"grid-spacing", false},
            {"wall-distance", false}};
  }
  return {};
}
constexpr std::array<std::pair<const char*, Measure>, 9> measures{{{"sun-hours-area", Measure::SunHoursArea},
                                                                   {"sun-hours-dwellings", Measure::SunHoursDwellings},
                                                                   {"sda-credit", Measure::SdaCredit},
                                                                   {"provision-hours", Measure::ProvisionHours},
                                                                   {"provision-factor", Measure::ProvisionFactor},
                                                                   {"opening-sun", Measure::OpeningSun},
                                                                   {"window-sky", Measure::WindowSky},
                                                                   {"window-sun", Measure::WindowSun},
                                                                   {"no-sky-line", Measure::NoSkyLine}}};
} // namespace

JudgedBy judgedBy(Measure m) {
  switch (m) {
  case Measure::SunHoursArea:
  case Measure::SunHoursDwellings:
    return JudgedBy::SunHours;
  case Measure::SdaCredit:
  case Measure::ProvisionHours:
    return JudgedBy::Year;
  case Measure::OpeningSun:
    return JudgedBy::OpeningSun;
  case Measure::ProvisionFactor:
  case Measure::WindowSky:
  case Measure::WindowSun:
  case Measure::NoSkyLine:
    return JudgedBy::Light;
  }
  return JudgedBy::SunHours;
}
bool ofRooms(Measure m) {
  return !ofSunHours(m) && m != Measure::WindowSky && m != Measure::WindowSun;
}
bool ofRoomGrids(Measure m) {
  return ofRooms(m) && m != Measure::OpeningSun;
}
bool besideYear(Measure m) {
  return ofRooms(m) && m != Measure::NoSkyLine;
}
StudyKind studyKindOf(Measure m) {
  switch (judgedBy(m)) {
  case JudgedBy::SunHours:
    return StudyKind::SunHours;
  case JudgedBy::Year:
  case JudgedBy::OpeningSun:
    return StudyKind::Year;
  case JudgedBy::Light:
    break;
  }
  return m == Measure::WindowSky   ? StudyKind::Vsc
         : m == Measure::WindowSun ? StudyKind::SunlightYear
         : m == Measure::NoSkyLine ? StudyKind::NoSkyLine
                                   : StudyKind::DaylightFactor;
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
  const auto known = std::find_if(measures.begin(), measures.end(), [&](const auto& m) { return measure == m.first; });
  if (known != measures.end()) {
    y.measure = known->second;
  } else {
    std::string all;
    for (const auto& m : measures) all += (all.empty() ? "" : ", ") + std::string(m.first);
    o.fault("measure", fmt::format("\"{}\" is no measure known here ({}).", measure, all));
  }
  const Json& list = o.raw("parameters");
  if (!list.is_object()) o.fault("parameters", "An object { … } is expected here.");
  if (list.is_object())
    for (const auto& [key, value] : list.items()) {
      JsonObject q(value, "parameters." + key, fault);
      Parameter p;
      p.key = key;
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
  for (const Needed& n : neededBy(y.measure)) {
    const Parameter* p = find(y, n.key);
    const std::string path = std::string("parameters.") + n.key;
    if (!p)
      o.fault(path.c_str(), "This parameter is missing.");
    else if (!(n.key == std::string_view("least-altitude") && y.measure == Measure::OpeningSun) &&
             std::holds_alternative<std::string>(p->value) != n.word)
      o.fault(path.c_str(), n.word ? "A word in quotes is expected here." : "A number is expected here.");
  }
  if (fault.error) return fail(fault.error->message, file + ": " + fault.error->place);
  return y;
}

Expected<Yardstick> withChanges(Yardstick y, const std::map<std::string, std::string>& changed) {
  for (const auto& [key, text] : changed) {
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
  s.leastAltitude = radians(y.number("least-altitude"));
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
