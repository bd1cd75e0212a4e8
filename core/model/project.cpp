#include "core/model/project.h"
#include <algorithm>
#include <fmt/format.h>

namespace noonward {

const char* roleKey(Role role) {
  switch (role) {
  case Role::Building:
    return "building";
  case Role::Neighbour:
    return "neighbour";
  case Role::Ground:
    return "ground";
  case Role::Wall:
    return "wall";
  case Role::Roof:
    return "roof";
  case Role::Floor:
    return "floor";
  case Role::Ceiling:
    return "ceiling";
  case Role::Partition:
    return "partition";
  case Role::Glazing:
    return "glazing";
  case Role::Shading:
    return "shading";
  case Role::Planting:
    return "planting";
  case Role::Ignore:
    return "ignore";
  }
  return "";
}

const char* roleName(Role role) {
  switch (role) {
  case Role::Building:
    return "Building";
  case Role::Neighbour:
    return "Neighbour";
  case Role::Ground:
    return "Ground";
  case Role::Wall:
    return "Wall";
  case Role::Roof:
    return "Roof";
  case Role::Floor:
    return "Floor";
  case Role::Ceiling:
    return "Ceiling";
  case Role::Partition:
    return "Partition";
  case Role::Glazing:
    return "Glazing";
  case Role::Shading:
    return "Shading";
  case Role::Planting:
    return "Planting";
  case Role::Ignore:
    return "Ignore";
  }
  return "";
}

std::optional<Role> roleFromKey(std::string_view key) {
  for (Role r : allRoles)
    if (key == roleKey(r)) return r;
  return {};
}

bool holds(const Season& s, Date d) {
  const int day = d.month * 100 + d.day, from = s.fromMonth * 100 + s.fromDay, to = s.toMonth * 100 + s.toDay;
  return from <= to ? day >= from && day <= to : day >= from || day <= to;
}

std::vector<Date> datesOf(const Season& season, int year) {
  std::vector<Date> out;
  for (Date d{year, 1, 1}; d.year == year; d = plusDays(d, 1))
    if (holds(season, d)) out.push_back(d);
  return out;
}

std::string seasonText(const Season& s) {
  const std::string from = dayText({2025, s.fromMonth, s.fromDay}), to = dayText({2025, s.toMonth, s.toDay});
  std::string days = from == to ? from : from + "–" + to;
  if (from == "1 Jan" && to == "31 Dec") days = "all year";
  if (s.beginMinute <= 0 && s.endMinute >= 1440) return days + " · all day";
  return days + " · " + clockText(s.beginMinute) + "–" + clockText(s.endMinute);
}

ElementPtr Project::element(ElementId wanted) const {
  for (const ElementPtr& e : elements)
    if (e->id == wanted) return e;
  return nullptr;
}

const SensorGroup* Project::group(GroupId wanted) const {
  for (const SensorGroup& g : groups)
    if (g.id == wanted) return &g;
  return nullptr;
}

const Room* Project::room(RoomId wanted) const {
  for (const Room& r : rooms)
    if (r.id == wanted) return &r;
  return nullptr;
}

BlindRule YearSettings::blindsOf(std::string_view group) const {
  const auto own =
      std::find_if(groupBlinds.begin(), groupBlinds.end(), [&](const GroupBlinds& g) { return g.group == group; });
  return own == groupBlinds.end() ? blinds : own->rule;
}

bool YearSettings::anyBlinds(BlindRule rule) const {
  return blinds == rule ||
         std::any_of(groupBlinds.begin(), groupBlinds.end(), [&](const GroupBlinds& g) { return g.rule == rule; });
}

std::string blindsText(const YearSettings& s, BlindRule rule) {
  switch (rule) {
  case BlindRule::Standard:
    return "blinds by the standard";
  case BlindRule::Never:
    return "blinds never closed";
  case BlindRule::Always:
    return "blinds always closed";
  case BlindRule::Irradiance:
    return fmt::format("blinds closed from {:g} W/m² on the panes", s.closesAtIrradiance);
  case BlindRule::Schedule:
    return fmt::format("blinds closed {} to {}", clockText(s.shutFrom), clockText(s.shutTo));
  case BlindRule::Glare:
    return fmt::format("blinds closed where DGP at an eye is above {:g}", s.closesAtGlare);
  }
  return "";
}

std::string fabricText(const YearSettings& s) {
  return s.fabricReflectance
             ? fmt::format("closed shade fabric reflects {:g} % to the inside", 100 * *s.fabricReflectance)
             : "closed shade fabric reflects as the open panes do";
}

std::string blindsText(const YearSettings& s) {
  const std::size_t own = s.groupBlinds.size();
  return blindsText(s, s.blinds) +
         (own == 0 ? ""
                   : fmt::format(" ({} group{} of windows by {} of {} own)", own, own == 1 ? "" : "s",
                                 own == 1 ? "a rule" : "rules", own == 1 ? "its" : "their"));
}

const char* gridLayoutKey(GridLayout l) {
  return l == GridLayout::FromWalls ? "from-walls" : "band-left-out";
}
const char* gridLayoutText(GridLayout l) {
  return l == GridLayout::FromWalls ? "points begin at that distance from the walls"
                                    : "a band of that width along the walls left out";
}
std::optional<GridLayout> gridLayoutFromKey(std::string_view key) {
  for (const GridLayout l : {GridLayout::FromWalls, GridLayout::BandLeftOut})
    if (key == gridLayoutKey(l)) return l;
  return {};
}

std::optional<SkyChoice> skyFromKey(std::string_view key) {
  SkyChoice s;
  if (key == "usual") return s;
  if (key == "cie-overcast" || key == "overcast")
    s.kind = SkyKind::CieOvercast;
  else if (key == "uniform")
    s.kind = SkyKind::Uniform;
  else if (key == "perez")
    s.kind = SkyKind::Perez;
  else if (key == "weather")
    s.kind = SkyKind::Weather;
  else {
    s.kind = SkyKind::CieGeneral;
    if (key == "clear")
      s.type = 12;
    else if (key == "intermediate")
      s.type = 7;
    else {
      const auto n = key.starts_with("cie-") ? numberFromText(key.substr(4)) : std::nullopt;
      if (!n || *n < 1 || *n > 15 || *n != int(*n)) return {};
      s.type = int(*n);
    }
  }
  return s;
}

std::string skyKey(const SkyChoice& s) {
  switch (s.kind) {
  case SkyKind::Usual:
    return "usual";
  case SkyKind::CieOvercast:
    return "cie-overcast";
  case SkyKind::Uniform:
    return "uniform";
  case SkyKind::CieGeneral:
    return fmt::format("cie-{}", s.type);
  case SkyKind::Perez:
    return "perez";
  case SkyKind::Weather:
    return "weather";
  }
  return "";
}

std::string skyText(const SkyChoice& s) {
  std::string name;
  switch (s.kind) {
  case SkyKind::Usual:
  case SkyKind::CieOvercast:
    name = "CIE overcast sky";
    break;
  case SkyKind::Uniform:
    name = "uniform sky";
    break;
  case SkyKind::CieGeneral:
    name = fmt::format("CIE general sky {}", s.type);
    break;
  case SkyKind::Perez:
    name =
        fmt::format("all-weather sky of {:g} W/m² beam and {:g} W/m² diffuse", s.directIrradiance, s.diffuseIrradiance);
    break;
  case SkyKind::Weather:
    name = "sky of the weather file";
    break;
  }
  if (s.sunAltitude) return name + fmt::format(", sun altitude {:.1f}°", degrees(*s.sunAltitude));
  if (s.moment && s.kind != SkyKind::Usual && s.kind != SkyKind::CieOvercast && s.kind != SkyKind::Uniform)
    name += fmt::format(", {} {}", dayText(s.moment->date), clockText(s.moment->seconds / 60));
  return name;
}

Zone Project::zone() const {
  return Zone::named(site.zone).value_or(Zone());
}

Expected<MeshPtr> elementMesh(const Element& element) {
  auto mesh = std::visit([](const auto& s) { return meshOf(s); }, element.shape);
  if (!mesh) return fail(mesh.error().message, nameOf(element));
  return mesh;
}

std::string nameOf(const Element& e) {
  return e.name.empty() ? e.id.text() : e.name;
}

std::string northText(double northAngle) {
  const double a = degrees(wrapPi(northAngle));
  if (std::abs(a) < 0.05) return "Project north is true north";
  if (std::abs(std::abs(a) - 180) < 0.05) return "Project north is true south";
  return fmt::format("Project north lies {:.1f}° {} of true north", std::abs(a), a > 0 ? "east" : "west");
}

std::vector<Season> builtInSeasons(double latitude) {
  const bool north = latitude >= 0;
  const auto day = [](const char* name, int m, int d) {
    Season s;
    s.name = name;
    s.fromMonth = s.toMonth = m;
    s.fromDay = s.toDay = d;
    return s;
  };
  Season winter;
  winter.name = "winter half";
  winter.fromMonth = north ? 9 : 3;
  winter.fromDay = 21;
  winter.toMonth = north ? 3 : 9;
  winter.toDay = 21;
  Season work;
  work.name = "working hours";
  work.beginMinute = 8 * 60;
  work.endMinute = 18 * 60;
  return {day("longest day", north ? 6 : 12, 21), day("equinox", 3, 21), day("shortest day", north ? 12 : 6, 21),
          winter, work};
}

} // namespace noonward
