// The settings of studies described: what of it is no plain number or choice, and the one place where the descriptions
// are made.

#include "core/base/units.h"
#include "core/model/settings/fields.h"
#include "core/model/settings/light_settings.h"
#include "core/model/settings/sun_hours_settings.h"
#include "core/model/settings/year_settings.h"
#include <algorithm>
#include <fmt/format.h>

namespace noonward {

Season seasonFromJson(JsonObject& o) {
  Season s;
  s.name = o.text("name");
  const auto day = [&](const char* key, int& month, int& d) {
    const std::string text = o.text(key);
    if (text.empty()) return;
    const auto date = dateFromText(text + " 2024");
    if (!date) return o.fault(key, "A day such as \"21 Mar\" is expected here.");
    month = date->month;
    d = date->day;
  };
  day("from", s.fromMonth, s.fromDay);
  day("to", s.toMonth, s.toDay);
  const auto clock = [&](const char* key, double& minute) {
    const std::string text = o.text(key);
    if (text.empty()) return;
    const auto m = minutesFromText(text);
    if (!m) return o.fault(key, "A clock time such as \"9:00\" is expected here.");
    minute = *m;
  };
  clock("begin", s.beginMinute);
  clock("end", s.endMinute);
  return s;
}

Json seasonJson(const Season& s) {
  Json j;
  if (!s.name.empty()) j["name"] = s.name;
  j["from"] = dayText({2024, s.fromMonth, s.fromDay});
  j["to"] = dayText({2024, s.toMonth, s.toDay});
  j["begin"] = clockText(s.beginMinute);
  j["end"] = clockText(s.endMinute);
  return j;
}

// Found by the descriptions through the type of the builder.

// ---- sun hours ------------------------------------------------------------------------------------------------------

template <class S, class M> void describeDates(FieldsOf<S>& d, const char* key, M member, const char* help) {
  Field<S>& f = d.own(
      key, "a list of days", help,
      [member, k = std::string(key)](JsonObject& o, S& s) {
        std::vector<Date> list;
        const auto take = [&](const Json& v, const std::string& path) {
          const std::string text = v.is_string() ? v.get<std::string>() : std::string();
          if (const auto day = dateFromText(text)) return list.push_back(*day);
          if (auto any = dateFromText(text + " 2024")) return any->year = 0, list.push_back(*any); // settled later
          if (!o.faults().error)
            o.faults().error = Error{"A date such as \"2026-03-21\" or \"21 Mar\" is expected here.", path};
        };
        const Json& v = o.raw(k.c_str());
        if (v.is_null()) return;
        if (v.is_string())
          take(v, o.pathOf(k.c_str()));
        else
          o.array(k.c_str(), take);
        std::invoke(member, s) = std::move(list);
      },
      [member, k = std::string(key)](Json& j, const S& s) {
        for (const Date& day : std::invoke(member, s)) j[k].push_back(isoText(day));
      });
  f.asked = false;
}

template <class S, class M> void describeSeason(FieldsOf<S>& d, const char* key, M member) {
  constexpr bool dated = requires(S s) {
    s.dates;
  };
  Field<S>& f = d.own(
      key, "an object with from, to, begin and end",
      dated ? "Days and clock window, where no dates are given"
            : "Days and clock window whose hours count; an hour of the weather lies where its middle does",
      [member, k = std::string(key)](JsonObject& o, S& s) {
        if (o.raw(k.c_str()).is_null()) return;
        JsonObject season = o.object(k.c_str());
        std::invoke(member, s) = seasonFromJson(season);
      },
      [member, k = std::string(key)](Json& j, const S& s) { j[k] = seasonJson(std::invoke(member, s)); });
  f.kept = [member](const S& s) {
    const Season& season = std::invoke(member, s);
    if constexpr (requires { s.dates; })
      return s.dates.empty() || season.fromMonth != 1 || season.toMonth != 12;
    else
      return !(season == Season{});
  };
  f.asked = false;
}

template <class S, class M, class N> void describeWindow(FieldsOf<S>& d, const char* key, M wholeDay, N member) {
  Field<S>& f = d.own(
      key, "sunrise-sunset, or two clock times", "The part of each day that counts",
      [=, k = std::string(key)](JsonObject& o, S& s) {
        const Json& v = o.raw(k.c_str());
        if (v.is_null()) return;
        std::invoke(wholeDay, s) = v == "sunrise-sunset";
        if (std::invoke(wholeDay, s)) return;
        std::optional<double> begin, end;
        if (v.is_array() && v.size() == 2 && v[0].is_string() && v[1].is_string()) {
          begin = minutesFromText(v[0].get<std::string>());
          end = minutesFromText(v[1].get<std::string>());
        }
        if (!begin || !end) return o.fault(k.c_str(), "\"sunrise-sunset\" or [\"9:00\", \"15:00\"] is expected here.");
        std::invoke(member, s).beginMinute = *begin;
        std::invoke(member, s).endMinute = *end;
      },
      [=, k = std::string(key)](Json& j, const S& s) {
        const Season& season = std::invoke(member, s);
        j[k] = std::invoke(wholeDay, s) ? Json("sunrise-sunset")
                                        : Json::array({clockText(season.beginMinute), clockText(season.endMinute)});
      });
  f.asked = false;
}

// ---- light ----------------------------------------------------------------------------------------------------------

static constexpr const char* skies =
    "usual, cie-overcast, uniform, cie-1 … cie-15, clear, intermediate, perez or weather";

template <class S, class M> void describeSky(FieldsOf<S>& d, const char* key, M member) {
  Field<S>& f = d.own(
      key, skies,
      "The sky of the moment: a name, or an object with `kind`, `moment` by the site's clock (else the moment looked "
      "at) or `sun-altitude` and `sun-azimuth`, `diffuse` and `direct` in lx, and of `perez` `direct-irradiance`, "
      "`diffuse-irradiance`, `dew-point`. `usual` is the CIE overcast sky; for irradiation it is every hour of the "
      "season, and any other sky needs its irradiances",
      [member, k = std::string(key)](JsonObject& parent, S& s) {
        SkyChoice& sky = std::invoke(member, s);
        const auto named = [&](const std::string& word, const std::string& at) {
          if (const auto known = skyFromKey(word))
            sky = *known;
          else if (!parent.faults().error)
            parent.faults().error = Error{fmt::format("\"{}\" is no sky: {}.", word, skies), at};
        };
        const Json& v = parent.raw(k.c_str());
        if (v.is_null()) return;
        if (v.is_string()) {
          const auto moment = sky.moment;
          named(v.get<std::string>(), parent.pathOf(k.c_str()));
          sky.moment = moment;
          return;
        }
        JsonObject o = parent.object(k.c_str());
        named(o.text("kind", "usual"), o.pathOf("kind"));
        if (o.has("type")) sky.type = o.integer("type", 12, 1, 15);
        if (o.has("diffuse")) sky.diffuse = o.number("diffuse", 0, 0, 1e6);
        if (o.has("direct")) sky.direct = o.number("direct", 0, 0, 1e6);
        sky.directIrradiance = o.number("direct-irradiance", 0, 0, 2000);
        sky.diffuseIrradiance = o.number("diffuse-irradiance", 0, 0, 2000);
        sky.dewPoint = o.number("dew-point", 10, -90, 70);
        if (o.has("moment")) {
          const auto t = stampFromText(o.text("moment"));
          if (!t)
            return o.fault("moment", "A moment such as \"2026-06-21T14:00\" is expected here, by the site's clock.");
          sky.moment = t->time;
        }
        if (o.has("sun-altitude")) sky.sunAltitude = radians(o.number("sun-altitude", 0, -90, 90));
        if (o.has("sun-azimuth")) sky.sunAzimuth = radians(o.number("sun-azimuth", 0, -360, 360));
      },
      [member, k = std::string(key)](Json& j, const S& s) {
        const SkyChoice& sky = std::invoke(member, s);
        Json& o = j[k];
        o["kind"] = skyKey(sky);
        if (sky.diffuse) o["diffuse"] = *sky.diffuse;
        if (sky.direct) o["direct"] = *sky.direct;
        if (sky.kind == SkyKind::Perez || sky.directIrradiance != 0 || sky.diffuseIrradiance != 0) {
          o["direct-irradiance"] = sky.directIrradiance;
          o["diffuse-irradiance"] = sky.diffuseIrradiance;
          o["dew-point"] = sky.dewPoint;
        }
        if (sky.moment) {
          const int t = int(std::lround(sky.moment->seconds));
          o["moment"] =
              fmt::format("{}T{:02d}:{:02d}:{:02d}", isoText(sky.moment->date), t / 3600, t / 60 % 60, t % 60);
        }
        if (sky.sunAltitude) o["sun-altitude"] = tidyNumber(degrees(*sky.sunAltitude));
        if (sky.sunAzimuth) o["sun-azimuth"] = tidyNumber(degrees(*sky.sunAzimuth));
      });
  f.asked = false; // the sky enters a question as it comes out
  f.kept = [member](const S& s) { return !(std::invoke(member, s) == SkyChoice{}); };
}

/// Why twelve shares of sunshine can't be used; nothing where they can.
static std::string monthsFault(const std::vector<double>& percents) {
  if (percents.size() != 12) return "\"weather\" or twelve shares in %, January first, are expected here.";
  for (std::size_t m = 0; m < 12; ++m)
    if (!(percents[m] >= 0 && percents[m] <= 100)) return fmt::format("0 to 100 % are expected for month {}.", m + 1);
  if (std::all_of(percents.begin(), percents.end(), [](double x) { return x == 0; }))
    return "A month with sunshine is needed.";
  return {};
}

template <class S, class M>
void describeMonths(FieldsOf<S>& d, const char* key, const char* name, M member, const char* absent, const char* help) {
  const auto put = [member](S& s, const std::vector<double>& percents) {
    std::array<double, 12> months{};
    for (std::size_t m = 0; m < 12; ++m) months[m] = percents[m] / 100;
    std::invoke(member, s) = months;
  };
  Field<S>& f = d.own(
      key, "weather, or twelve shares from 0 to 100 %, January first", help,
      [=, k = std::string(key)](JsonObject& o, S& s) {
        const Json& v = o.raw(k.c_str());
        if (v.is_null()) return;
        if (v == "weather") return std::invoke(member, s).reset();
        std::vector<double> percents;
        if (v.is_array())
          for (const Json& x : v) percents.push_back(x.is_number() ? x.get<double>() : -1);
        const std::string fault = monthsFault(percents);
        if (fault.empty())
          put(s, percents);
        else
          o.fault(k.c_str(), fault);
      },
      [member, k = std::string(key)](Json& j, const S& s) {
        if (const auto& months = std::invoke(member, s))
          for (double share : *months) j[k].push_back(tidyNumber(share * 100));
      });
  f.rows.push_back({name,
                    "%",
                    help,
                    {},
                    {},
                    [=](const S& s) {
                      const auto& months = std::invoke(member, s);
                      if (!months) return std::string(absent);
                      std::string out;
                      for (double share : *months) out += fmt::format("{}{:.4g}", out.empty() ? "" : " ", 100 * share);
                      return out;
                    },
                    [=](S& s, std::string_view text) -> std::string {
                      if (text == absent || text.find_first_not_of(" %") == text.npos)
                        return std::invoke(member, s).reset(), "";
                      std::vector<double> percents;
                      for (std::size_t at = 0; (at = text.find_first_not_of(" ;%\t", at)) != text.npos;) {
                        const std::size_t stop = std::min(text.find_first_of(" ;%\t", at), text.size());
                        percents.push_back(numberFromText(text.substr(at, stop - at)).value_or(-1));
                        at = stop;
                      }
                      if (!monthsFault(percents).empty())
                        return "twelve shares from 0 to 100 %, January first, with blanks between them; or nothing";
                      put(s, percents);
                      return "";
                    }});
}

// ---- the year -------------------------------------------------------------------------------------------------------

static const std::vector<std::pair<BlindRule, FieldChoice>>& allBlinds() {
  static const std::vector<std::pair<BlindRule, FieldChoice>> described{
      {BlindRule::Standard, {"standard", "by the standard"}}, {BlindRule::Never, {"never", "never close"}},
      {BlindRule::Always, {"always", "always closed"}},       {BlindRule::Irradiance, {"irradiance", "by irradiance"}},
      {BlindRule::Schedule, {"schedule", "by the clock"}},    {BlindRule::Glare, {"glare", "by glare at the eyes"}}};
  return described;
}
template <class S> std::vector<std::pair<BlindRule, FieldChoice>> blindWays(FieldsOf<S>&) {
  return allBlinds();
}

template <class S, class M> void describeGroupBlinds(FieldsOf<S>& d, const char* key, M member) {
  Field<S>& f = d.own(
      key, "rules by group of windows",
      "Groups of windows with a rule of their own, `{\"r2, south\": \"never\"}`: id of the room, side or `above`, and "
      "the type where there is one; a drawn glazing goes by its id",
      [member, k = std::string(key)](JsonObject& o, S& s) {
        const Json& v = o.raw(k.c_str());
        if (v.is_null()) return;
        if (!v.is_object())
          return o.fault(k.c_str(),
                         "Rules by group of windows, such as {\"r2, south\": \"never\"}, are expected here.");
        auto& list = std::invoke(member, s);
        list.clear();
        for (const auto& [group, rule] : v.items()) {
          const auto r = rule.is_string() ? blindFromKey(rule.template get<std::string>()) : std::nullopt;
          if (!r) {
            std::vector<std::string> keys;
            for (const auto& [value, way] : allBlinds()) keys.push_back(way.key);
            return o.fault(k.c_str(), listedWithOr(quoted(keys)) + " is expected for \"" + group + "\".");
          }
          list.push_back({group, *r});
        }
        std::sort(list.begin(), list.end(), [](const auto& a, const auto& b) { return a.group < b.group; });
      },
      [member, k = std::string(key)](Json& j, const S& s) {
        for (const GroupBlinds& g : std::invoke(member, s)) j[k][g.group] = blindKey(g.rule);
      });
  f.folded = true;
}

template <class S, class M> void describeUseful(FieldsOf<S>& d, const char* key, M member) {
  Field<S>& f = d.own(
      key, "three illuminances in lx, rising",
      "UDI, useful daylight illuminance: below the first nothing, from the second on sufficient, above the third too "
      "much",
      [member, k = std::string(key)](JsonObject& o, S& s) {
        const Json& v = o.raw(k.c_str());
        if (v.is_null()) return;
        bool sound = v.is_array() && v.size() == 3;
        for (std::size_t i = 0; sound && i < 3; ++i)
          sound = v[i].is_number() && v[i].template get<double>() >= 0 &&
                  (i == 0 || v[i - 1].template get<double>() <= v[i].template get<double>());
        if (!sound)
          return o.fault(k.c_str(), "Three illuminances that rise, such as [100, 300, 3000], are expected here.");
        for (std::size_t i = 0; i < 3; ++i) std::invoke(member, s)[i] = v[i].template get<double>();
      },
      [member, k = std::string(key)](Json& j, const S& s) {
        j[k] = Json::array();
        for (double lux : std::invoke(member, s)) j[k].push_back(tidyNumber(lux));
      });
  f.folded = true;
  f.kept = [member](const S& s) {
    const S fresh;
    return std::invoke(member, s) != std::invoke(member, fresh);
  };
  const auto row = [&](const char* name, std::size_t at, const char* help) {
    f.rows.push_back({name,
                      "lx",
                      help,
                      {},
                      {},
                      [=](const S& s) { return textWithUnit(std::invoke(member, s)[at], "lx"); },
                      [=](S& s, std::string_view text) -> std::string {
                        const auto v = numberWithUnit(text, "lx");
                        auto next = std::invoke(member, s);
                        if (v) next[at] = *v;
                        if (!v || *v < 0 || !std::is_sorted(next.begin(), next.end()))
                          return "illuminances that rise, in lx";
                        std::invoke(member, s) = next;
                        return "";
                      }});
  };
  row("UDI from", 1, "Below it light is supplementary");
  row("UDI to", 2, "Above it there is too much");
}

template <class S, class M> void describeSteps(FieldsOf<S>& d, const char* key, M member) {
  Field<S>& f = d.own(
      key, "one to three shares in %, rising", "Of sDA, at which the credit changes",
      [member, k = std::string(key)](JsonObject& o, S& s) {
        const Json& v = o.raw(k.c_str());
        if (v.is_null()) return;
        if (!v.is_array() || v.size() > 3 ||
            !std::all_of(v.begin(), v.end(), [](const Json& x) { return x.is_number(); }))
          return o.fault(k.c_str(), "One to three shares in %, such as [40, 55, 75], are expected here.");
        auto& steps = std::invoke(member, s);
        steps.fill(noStep);
        for (std::size_t i = 0; i < v.size(); ++i) steps[i] = v[i].template get<double>() / 100;
        if (!std::is_sorted(steps.begin(), steps.end())) o.fault(k.c_str(), "The steps of sDA must rise.");
      },
      [member, k = std::string(key)](Json& j, const S& s) {
        j[k] = Json::array();
        for (double step : std::invoke(member, s))
          if (step < noStep) j[k].push_back(tidyNumber(step * 100));
      });
  f.kept = [member](const S& s) {
    const S fresh;
    return std::invoke(member, s) != std::invoke(member, fresh);
  };
}

template <class D> void YearSettings::describe(D& d) {
  using S = YearSettings;
  const auto standard = [](const S& s) { return s.anyBlinds(BlindRule::Standard); };
  const auto byIrradiance = [](const S& s) { return s.anyBlinds(BlindRule::Irradiance); };
  const auto byClock = [](const S& s) { return s.anyBlinds(BlindRule::Schedule); };
  const auto byGlare = [](const S& s) { return s.anyBlinds(BlindRule::Glare); };
  d.number("glare-limit", "DGP above", "", 0.2, 1, &S::glareLimit,
           "0.35 perceptible, 0.40 disturbing, 0.45 intolerable: the share of the hours above it is told")
      .unlessDefault();
  d.number(
      "threshold", "Target illuminance", "lx", 0, 1e6, [](auto& s) -> auto& { return s.metrics.threshold; },
      "≥ 300 lx in the standard");
  d.choice("blinds", "Blinds", blindWays(d), &S::blinds,
           "Each group of windows closes while > 2 % of its room gets ≥ 1000 lx of beam through it")
      .spoken("Rule of the blinds");
  d.clocks("schedule", "Hours from", "Hours to", &S::beginMinute, &S::endMinute,
           "By the site's clock, every day: 8:00 to 18:00 in the standard")
      .folded();
  d.choice("stop-when-certain", "Stops",
           {{StopFor::Nothing, {"nothing", "error reached"}},
            {StopFor::Credit, {"credit", "credit certain"}},
            {StopFor::Provision, {"provision", "provision certain"}}},
           &S::stopFor,
           "A quarter of the paths goes first through every room; if the verdict is certain by then, the run stops "
           "by itself")
      .spoken("When the run stops")
      .folded();
  d.choice("provision-reading", "Provision by",
           {{ProvisionReading::SameHours, {"same-hours", "the same hours"}},
            {ProvisionReading::OwnHours, {"own-hours", "each point's own hours"}}},
           &S::provisionReading, "Which reading a run that stops for provision looks at")
      .folded()
      .matters([](const S& s) { return s.stopFor == StopFor::Provision; })
      .unlessDefault();
  d.share("confidence", "Confidence", 50, 99.9999, &S::confidence,
          "Probability that more paths leave the verdict where it is")
      .folded()
      .matters([](const S& s) { return s.stopFor != StopFor::Nothing; });
  d.share("error", "Error of the mean", 0.2, 50, &S::error, "Of a sensor's mean illuminance, about: 3 % is usual")
      .folded();
  d.flag("weekdays", "Days", "every day", "Monday to Friday", &S::weekdaysOnly, "Days that count")
      .spoken("Days of the year")
      .folded()
      .unlessDefault();
  d.flag("clock-changes", "Summer time", "standard time all year", "as the site's clock", &S::clockChanges,
         "The schedule follows the clock, or keeps standard time")
      .folded()
      .unlessDefault();
  d.share(
       "share-of-hours", "Share of hours", 0, 100, [](auto& s) -> auto& { return s.metrics.autonomy; },
       "Of sDA: ≥ 50 % in the standard")
      .folded();
  d.number(
       "ase-threshold", "ASE threshold (direct)", "lx", 0, 1e6, [](auto& s) -> auto& { return s.metrics.beam; },
       "≥ 1000 lx in the standard")
      .formerly("beam")
      .folded();
  d.number(
       "ase-hours", "ASE hours", "h", 0, 8760, [](auto& s) -> auto& { return s.metrics.beamHours; },
       "More than 250 h in the standard")
      .formerly("beam-hours")
      .folded();
  d.number("closes-at", "Blinds close at", "lx", 0, 1e6, &S::closesAt, "Of beam through one group of windows")
      .folded()
      .matters(standard);
  d.share("closes-above", "Share of sensors", 0, 100, &S::closesAbove,
          "Of the room's sensors in beam, above which blinds close")
      .folded()
      .matters(standard);
  d.number("closes-at-irradiance", "Closes from", "W/m²", 0, 2000, &S::closesAtIrradiance,
           "By irradiance: beam and sky on the outside of a group's panes")
      .folded()
      .matters(byIrradiance)
      .keptWhen(byIrradiance);
  d.number("closes-at-glare", "Closes above DGP", "", 0.2, 1, &S::closesAtGlare,
           "By glare at the eyes: the group of windows that glares most closes first")
      .folded()
      .matters(byGlare)
      .keptWhen(byGlare);
  d.clocks("shut", "Shut from", "Shut to", &S::shutFrom, &S::shutTo, "By the clock: closed every day in these hours",
           false)
      .folded()
      .matters(byClock)
      .keptWhen(byClock);
  describeGroupBlinds(d, "blinds-of", &S::groupBlinds);
  d.share("fabric-direct", "Fabric: openness", 0, 100, &S::fabricDirect,
          "Direct transmittance of closed shade fabric: what it lets through straight")
      .formerly("cloth-straight")
      .folded();
  d.share("fabric-diffuse", "Fabric: diffuse", 0, 100, &S::fabricDiffuse,
          "Diffuse transmittance of closed shade fabric: what it scatters to the inside")
      .formerly("cloth-scattered")
      .folded();
  d.optionalShare("fabric-reflectance", "Fabric: reflectance", 0, 100, &S::fabricReflectance, "as glass",
                  "Of the room's light, back into it; left empty, closed panes reflect as open ones do")
      .formerly("cloth-reflected")
      .folded();
  describeUseful(
      d, "useful", [](auto& s) -> auto& { return s.metrics.useful; });
  d.share("glass-kept", "Frames and dirt keep", 1, 100, &S::glassKept, "Of the light, on top of each glazing's own")
      .folded()
      .unlessDefault();
  d.choice("illuminance", "Light from",
           {{false, {"irradiance", "irradiance × efficacy"}}, {true, {"weather", "the file's illuminances"}}},
           &S::ownIlluminance,
           "The weather file's columns of direct and diffuse illuminance are taken where they are plausible against "
           "the irradiance beside them")
      .folded()
      .unlessDefault();
  d.number("glare-source", "Sources from", "cd/m²", 50, 1e6, &S::glareSource,
           "Luminance from which a spot counts as a glare source: 2000 cd/m² is usual")
      .folded()
      .unlessDefault();
  describeSteps(d, "steps", &S::steps);
  d.count("seed", "Seed", "", 0, 1 << 30, &S::seed, "Another seed gives independent noise").quiet();
}

template <class S> static Fields<S> made() {
  FieldsOf<S> d;
  S::describe(d);
  return std::move(d.list);
}

const char* viewFigureUnit(ViewFigure figure) {
  switch (figure) {
  case ViewFigure::Level:
    return "";
  case ViewFigure::Angle:
    return "°";
  case ViewFigure::Distance:
    return "m";
  case ViewFigure::Share:
    return "%";
  }
  return "";
}

const char* blindKey(BlindRule rule) {
  for (const auto& [value, way] : allBlinds())
    if (value == rule) return way.key.c_str();
  return "";
}

std::optional<BlindRule> blindFromKey(std::string_view key) {
  for (const auto& [value, way] : allBlinds())
    if (way.key == key) return value;
  return {};
}

template <> const Fields<SunHoursSettings>& fieldsOf<SunHoursSettings>() {
  static const auto described = made<SunHoursSettings>();
  return described;
}
template <> const Fields<LightSettings>& fieldsOf<LightSettings>() {
  static const auto described = made<LightSettings>();
  return described;
}
template <> const Fields<YearSettings>& fieldsOf<YearSettings>() {
  static const auto described = made<YearSettings>();
  return described;
}

} // namespace noonward
