#include "cli/commands.h"
#include "cli/demo_heavy.h"
#include "cli/demo_pictures.h"
#include "cli/demo_quarter.h"
#include "cli/demo_weather.h"
#include "core/files/epw.h"
#include "core/files/project/design_json.h"
#include "core/files/project/project_file.h"
#include "core/model/form/edit.h"
#include <fmt/format.h>
#include <memory>

namespace noonward::cli {

namespace {

struct Block {
  const char* name;
  Outline outline;
  double height;
  int storeys;
  Role role = Role::Neighbour;
  bool proposed = false;
};

void build(Project& p, const Block& b) {
  Element e;
  e.id = {derivedId("demo/" + std::string(b.name))};
  e.name = b.name;
  e.layer = b.proposed ? "proposal" : b.role == Role::Neighbour ? "neighbours" : "quay";
  e.role = b.role;
  e.proposed = b.proposed;
  e.shape = Mass{tidied(b.outline), 0, b.height, b.storeys};
  p = withElement(std::move(p), std::move(e));
}

SensorGroup group(const std::string& name, SensorLayout layout, std::string dwelling = {},
                  Subject subject = Subject::None) {
  SensorGroup g;
  g.id = {derivedId("demo/group/" + name)};
  g.name = name;
  g.layout = std::move(layout);
  g.dwelling = std::move(dwelling);
  g.subject = subject;
  return g;
}

void libraryRooms(Project& p);

} // namespace

Project ropewalkQuay() {
  Project p;
  p.id = {derivedId("demo/ropewalk-quay")};
  p.name = "Ropewalk Quay";
  p.client = "Brevholm Harbour Co-op (invented)";
  p.site.name = "Brevholm";
  p.site.place = {radians(55.6), radians(12.5), 4};
  p.site.zone = "Europe/Copenhagen";
  p.site.year = 2026;
  p.site.northAngle = radians(12);

  build(p, {"Proposed block",
            {{{-34, -44}, {47, -44}, {47, 10}, {34, 10}, {34, -27}, {-34, -27}}, {}},
            27,
            8,
            Role::Building,
            true});
  build(p, {"Branch library",
            {{{-34, 27}, {-4, 27}, {-4, 45}, {-22, 45}, {-22, 39}, {-34, 39}}, {}},
            7.5,
            2,
            Role::Building});
  build(p, {"Ropewalk flats", rectangle(-54, -24, -40, 22), 16, 5, Role::Building});
  build(p,
        {"Customs row", {{{4, 30}, {52, 30}, {52, 62}, {4, 62}}, {{{16, 40}, {40, 40}, {40, 52}, {16, 52}}}}, 14, 4});
  build(p, {"Weighhouse", rectangle(58, 2, 74, 18), 12, 3});
  build(p, {"Tar house", rectangle(-56, -50, -42, -34), 14, 4});
  build(p, {"Hemp store", rectangle(-70, -76, -40, -58), 12, 3});
  build(p, {"Chandlery", rectangle(-92, -18, -72, 8), 10, 3});
  build(p, {"Net loft", rectangle(-92, 16, -70, 34), 13, 4});
  build(p, {"Cooper's yard", {{{-92, 42}, {-56, 42}, {-56, 72}, {-72, 72}, {-72, 58}, {-92, 58}}, {}}, 9, 3});
  build(p, {"Sailmakers", rectangle(-46, 58, -14, 78), 12, 4});
  build(p, {"Pilot house", rectangle(64, 28, 78, 46), 18, 5});
  build(p, {"Harbour hall", rectangle(66, -30, 100, -2), 12, 2});
  build(p, {"Bakehouse", rectangle(24, -66, 48, -46), 10, 3});
  build(p, {"Salt store", rectangle(-24, -84, 10, -64), 11, 3});

  GroundArea square;
  square.outline = rectangle(-30, -22, 30, 22);
  square.spacing = 1.5;
  p.groups.push_back(group("Market square", square));
  FaceGrid facade;
  facade.faces = {{ElementId{derivedId("demo/Ropewalk flats")}, 3}};
  facade.spacing = 1;
  p.groups.push_back(group("Flats, east front", facade));
  Study s;
  s.id = {derivedId("demo/study/square")};
  s.name = "Square in spring";
  s.groups = {p.groups[0].id};
  s.sunHours.dates = {{2026, 3, 21}};
  s.sunHours.sunriseToSunset = true;
  p.studies.push_back(s);
  s.id = {derivedId("demo/study/front")};
  s.name = "Flats in midwinter";
  s.groups = {p.groups[1].id};
  s.sunHours.dates = {{2026, 12, 21}};
  s.sunHours.sunriseToSunset = false;
  s.sunHours.season.beginMinute = 9 * 60;
  s.sunHours.season.endMinute = 15 * 60;
  p.studies.push_back(s);
  Judgement j;
  j.id = {derivedId("demo/judgement/square")};
  j.yardstick = "amenity-ground";
  j.groups = {p.groups[0].id};
  p.judgements.push_back(j);
  libraryRooms(p);
  // What the library's architect tries against glare in the rooms to the south.
  p = withNewOption(std::move(p), "Deep fins");
  p.options[0].id = {derivedId("demo/option/as-drawn")};
  p.options[1].id = {derivedId("demo/option/deep-fins")};
  for (ShadeRule& r : p.shadeRules) r.depth = 0.9;
  ShadeRule fins;
  fins.id = {derivedId("demo/shade/fins")};
  fins.name = "Fins";
  fins.kind = ShadeRule::Kind::Fins;
  fins.type = "W1";
  fins.depth = 0.3;
  fins.count = 4;
  p.shadeRules.push_back(fins);
  return withOption(std::move(p), 0);
}

namespace {

/// The ground floor of the branch library: its rooms, windows and the studies of their light.
void libraryRooms(Project& p) {
  const auto room = [&](const char* name, const char* use, double x0, double y0, double x1, double y1,
                        const char* reason = "") {
    Room r;
    r.id = {derivedId(std::string("demo/room/") + name)};
    r.name = name;
    r.use = use;
    r.outline = rectangle(x0, y0, x1, y1);
    r.height = 3.3;
    r.wall = 0.4;
    r.counted = !*reason;
    r.reason = reason;
    p.rooms.push_back(r);
    return r.id;
  };
  const RoomId reading = room("Reading room", "reading room", -33.6, 27.4, -15, 33.4),
               children = room("Children", "library", -14.85, 27.4, -4.4, 33.4);
  room("Corridor", "corridor", -33.6, 33.55, -4.4, 34.9, "circulation");
  std::vector<RoomId> studies;
  const double ends[] = {-33.6, -29.7, -25.7, -21.75};
  for (int k = 0; k < 3; ++k)
    studies.push_back(room(fmt::format("Study {}", k + 1).c_str(), "study room", ends[k], 35.05,
                           ends[k + 1] - (k < 2 ? 0.15 : 0), 38.6));
  const RoomId work = room("Work room", "office", -21.6, 35.05, -13, 44.6),
               office = room("Office", "office", -12.85, 35.05, -4.4, 44.6);
  Glazing glass;
  glass.name = "Library double";
  glass.transmittance = 0.76;
  glass.solarFactor = 0.6;
  glass.uValue = 1.1;
  glass.source = "made up for the demo";
  p.glazings.push_back(glass);
  const auto rule = [&](const char* name, const char* type, std::vector<RoomId> rooms, std::vector<Facing> facings,
                        double ratio, int count, double sill, double head) {
    WindowRule w;
    w.id = {derivedId(std::string("demo/rule/") + name)};
    w.name = name;
    w.type = type;
    w.rooms = std::move(rooms);
    w.facings = std::move(facings);
    w.ratio = ratio;
    w.count = count;
    w.sill = sill;
    w.head = head;
    w.glazing = "Library double";
    p.windowRules.push_back(std::move(w));
  };
  rule("Tall window", "W1", {reading, children}, {Facing::South}, 0.42, 4, 0.6, 3.0);
  rule("Study window", "W2", studies, {Facing::North}, 0.35, 1, 0.9, 2.5);
  rule("Work window", "W2", {work, office}, {Facing::North, Facing::East}, 0.3, 3, 0.9, 2.5);
  ShadeRule brim;
  brim.id = {derivedId("demo/shade/brim")};
  brim.name = "Overhang";
  brim.type = "W1";
  brim.depth = 0.6;
  brim.offset = 0.1;
  brim.beyond = 0.2;
  p.shadeRules.push_back(brim);
  RoomGrid plane;
  plane.spacing = 0.75;
  p.groups.push_back(group("Library, working plane", plane));
  Study s;
  s.id = {derivedId("demo/study/library")};
  s.kind = StudyKind::DaylightFactor;
  s.name = "Library daylight";
  s.groups = {p.groups.back().id};
  s.light.error = 0.03;
  p.studies.push_back(s);
  s.id = {derivedId("demo/study/library-year")};
  s.kind = StudyKind::Year;
  s.name = "Library year";
  plane = {{}, 0.76, 0.6, 0.3}; // as the credit asks
  p.groups.push_back(group("Library, credit", plane));
  s.groups = {p.groups.back().id};
  p.studies.push_back(s);
  Judgement credit;
  credit.id = {derivedId("demo/judgement/credit")};
  credit.yardstick = "daylight-credit";
  credit.groups = s.groups;
  p.judgements.push_back(credit);
  s.id = {derivedId("demo/study/front-vsc")};
  s.kind = StudyKind::Vsc;
  s.name = "Sky on the flats";
  s.groups = {p.groups[1].id};
  p.studies.push_back(s);
}

/// The same place before the library is there: for the model that its architect sends (demo_heavy.h).
Project librarySite(Project p) {
  p.id = {derivedId("demo/library-site")};
  p.name = "Ropewalk Quay, before the library";
  p = withoutElements(std::move(p), {ElementId{derivedId("demo/Branch library")}});
  p.options.clear();
  p.option = 0;
  p.rooms.clear();
  p.windowRules.clear();
  p.shadeRules.clear();
  std::erase_if(p.groups, [](const SensorGroup& g) { return g.name != "Library, working plane"; });
  std::erase_if(p.studies, [](const Study& s) { return s.kind != StudyKind::DaylightFactor; });
  p.judgements.clear();
  return p;
}

Project tarrowGreen() {
  Project p;
  p.id = {derivedId("demo/tarrow-green")};
  p.name = "Tarrow Green";
  p.site.name = "Tarrow Bay";
  p.site.place = {radians(-36.9), radians(174.6), 30};
  p.site.zone = "Pacific/Auckland";
  p.site.year = 2026;
  build(p, {"Proposed terrace", rectangle(-18, 10, 18, 22), 16, 5, Role::Building, true});
  build(p, {"Lower row", rectangle(-20, -22, 20, -12), 6.5, 2, Role::Building});
  build(p, {"School", {{{30, -20}, {60, -20}, {60, 20}, {48, 20}, {48, -6}, {30, -6}}, {}}, 8, 2});
  build(p, {"Signal house", rectangle(-50, 0, -36, 14), 9, 3});
  GroundArea green;
  green.outline = rectangle(-20, -6, 20, 9);
  p.groups.push_back(group("Village green", green));
  for (int i = 0; i < 4; ++i) {
    const double x = -15 + 10 * i;
    const std::string home = fmt::format("Home {}", i + 1);
    p.groups.push_back(group(home + " living room",
                             std::vector<PointSensor>{{{x, -11.9, 1.5}, {0, 1, 0}, home + " window"}}, home,
                             Subject::LivingRoom));
    GroundArea yard;
    yard.outline = rectangle(x - 4, -11, x + 4, -6);
    yard.spacing = 0.5;
    p.groups.push_back(group(home + " yard", yard, home, Subject::OpenSpace));
  }
  Study s;
  s.id = {derivedId("demo/study/green")};
  s.name = "Green in midwinter";
  s.groups = {p.groups[0].id};
  s.sunHours.dates = {{2026, 6, 21}};
  s.sunHours.season.beginMinute = 9 * 60;
  s.sunHours.season.endMinute = 15 * 60;
  p.studies.push_back(s);
  Judgement j;
  j.id = {derivedId("demo/judgement/homes")};
  j.yardstick = "midwinter";
  for (const SensorGroup& g : p.groups)
    if (g.subject != Subject::None) j.groups.push_back(g.id);
  p.judgements.push_back(j);
  return p;
}

int write(const std::filesystem::path& folder) {
  std::error_code error;
  std::filesystem::create_directories(folder, error);
  const auto one = [&](Project p, const char* file, const char* weatherFile, const ClimateWish& wish) -> Outcome {
    auto w = std::make_shared<const Weather>(syntheticWeather(wish));
    if (Outcome o = saveFile(folder / weatherFile, epwText(*w)); !o) return o;
    p.site.weather = w;
    p.site.weatherFile = weatherFile;
    return writeProject(p, folder / file);
  };
  ClimateWish north{"Brevholm", "synthetic", {radians(55.6), radians(12.5), 4}, 3600, 0.22, 0.52, 8.6, 8.2, 20260321};
  ClimateWish south{"Tarrow Bay", "synthetic", {radians(-36.9), radians(174.6), 30}, 12 * 3600, 0.45, 0.62, 15.5,
                    4.5,          20260621};
  const auto heavy = heavyLibrary(ropewalkQuay(), "library-as-received.mtl");
  if (!heavy) return complain(heavy.error().text(), 1);
  const std::string city = quarterCityJson(ropewalkQuay());
  const auto quarter = quarterProject(ropewalkQuay(), city, "brevholm.city.json");
  if (!quarter) return complain(quarter.error().text(), 1);
  for (const Outcome& o :
       {saveFile(folder / "brevholm.city.json", city),
        one(*quarter, "brevholm-quarter.noonward", "brevholm.epw", north),
        one(ropewalkQuay(), "ropewalk-quay.noonward", "brevholm.epw", north),
        one(librarySite(ropewalkQuay()), "library-site.noonward", "brevholm.epw", north),
        one(tarrowGreen(), "tarrow-green.noonward", "tarrow-bay.epw", south),
        saveFile(folder / "library-as-received.obj", heavy->obj),
        saveFile(folder / "library-as-received.mtl", heavy->mtl), writeDemoPictures(ropewalkQuay(), *quarter, folder)})
    if (!o) return complain(o.error().text(), 1);
  for (const char* file : {"ropewalk-quay.noonward", "library-site.noonward", "library-as-received.obj",
                           "ropewalk-flats.jpg", "library-plan.png", "tarrow-green.noonward", "brevholm.city.json",
                           "brevholm-quarter.noonward", "brevholm-aerial.jpg"})
    fmt::print("{}\n", (folder / file).string());
  return 0;
}

} // namespace

void addDemo(CLI::App& app, Session& session) {
  auto* c = app.add_subcommand("demo", "Write the demo projects and their synthetic weather");
  auto folder = std::make_shared<std::string>("demo");
  c->add_option("--out", *folder, "folder (demo)");
  c->callback([folder, &session] { session.exit = write(*folder); });
}

} // namespace noonward::cli
