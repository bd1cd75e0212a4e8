// Projects made up by chance, with names as nasty as can be: written, read and written again they are the same, nothing
// of them is lost, and nothing of them is a key that nobody reads.

#ifndef Q_MOC_RUN
#include "core/files/project/project_file.h"
#include "core/model/form/edit.h"
#include "core/model/mending/check.h"
#include "core/studies/light_study.h"
#include "core/studies/sun_hours.h"
#include <QTemporaryDir>
#include <QtTest>
#include <random>
#endif

using namespace noonward;

namespace {

/// Seeded; every choice a call.
class Chance {
public:
  explicit Chance(unsigned seed) : random_(seed) {}
  bool coin(double share = 0.5) { return random_() / 4294967296.0 < share; }
  int whole(int least, int most) { return least + int(random_() % unsigned(most - least + 1)); }
  double real(double least, double most) { return least + (most - least) * random_() / 4294967296.0; }
  /// A length as somebody types it: to the millimetre.
  double typed(double least, double most) { return std::round(real(least, most) * 1000) / 1000; }
  template <class T, std::size_t n> T of(const std::array<T, n>& list) {
    return list[std::size_t(whole(0, int(n) - 1))];
  }

  std::string name(const char* stem) {
    static const char* const nasty[] = {
        "plain",
        "with \"quotes\"",
        "back\\slash",
        "new\nline",
        "tab\there",
        "Tower [option two]",
        "{curly}",
        "// no comment",
        "/* nor this */",
        "ä ö ü ß Ø 日本語",
        "emoji 🏠",
        "  blanks  ",
        "null",
        "true",
        "12",
        "-0",
        "a,b;c",
        "%s %n",
        "'single'",
        "<b>bold</b>",
        "__proto__",
        "id",
        "..",
        "x/../y",
        "\x01\x02 control",
        "\xC2\xA0no-break",
        "very long very long very long very long very long very long very long very long very long very long"};
    constexpr int n = int(std::size(nasty));
    return fmt::format("{} {} {}", stem, nasty[whole(0, n - 1)], ++names_); // no two alike
  }

private:
  std::mt19937 random_;
  int names_ = 0;
};

Outline outlineBy(Chance& c) {
  const double x = c.typed(-300, 300), y = c.typed(-300, 300), w = c.typed(6, 40), d = c.typed(6, 40);
  Outline o = rectangle(x, y, x + w, y + d);
  if (c.coin(0.3)) o.outer.insert(o.outer.begin() + 2, Vec2{x + w + c.typed(1, 5), y + d / 2});
  if (c.coin(0.3)) o.holes.push_back({{x + 2, y + 2}, {x + 2, y + 4}, {x + 4, y + 4}, {x + 4, y + 2}});
  return o;
}

void studiesBy(Chance& c, Project& p) {
  for (const StudyKindFacts& facts : studyKinds) {
    const StudyKind kind = facts.kind;
    if (c.coin(0.3)) continue;
    Study s;
    s.id = StudyId::fresh();
    s.kind = kind;
    s.name = c.name("study");
    for (const SensorGroup& g : p.groups)
      if (c.coin()) s.groups.push_back(g.id);
    SunHoursSettings& h = s.sunHours;
    if (kind == StudyKind::SunHours) {
      if (c.coin())
        h.dates = {{2026, 3, 21}, {2026, 12, c.whole(1, 31)}};
      else {
        h.season.fromMonth = 11;
        h.season.fromDay = c.whole(1, 30);
        h.season.toMonth = 2;
        h.season.toDay = 10;
      }
      h.sunriseToSunset = c.coin();
      if (!h.sunriseToSunset) {
        h.season.beginMinute = 60 * c.whole(5, 10);
        h.season.endMinute = 60 * c.whole(12, 20) + 30;
      }
      h.counting = c.coin() ? Counting::Exact : Counting::Stepped;
      h.stepMinutes = c.of(std::array{1, 5, 10, 15, 30, 60});
      h.sample = c.coin() ? StepSample::Middle : StepSample::Ends;
      h.minAltitude = radians(c.whole(0, 20));
      h.altitudeKind = c.coin() ? AltitudeKind::True : AltitudeKind::Apparent;
    } else if (factsOf(kind).settings == SettingsOf::Year) {
      YearSettings& y = s.year;
      y.glareLimit = c.whole(20, 60) / 100.0;
      y.glareSource = c.whole(500, 5000);
      y.beginMinute = 60 * c.whole(5, 9);
      y.endMinute = 60 * c.whole(15, 20);
      y.weekdaysOnly = c.coin();
      y.clockChanges = c.coin();
      y.ownIlluminance = c.coin();
      y.metrics.threshold = c.whole(100, 900), y.metrics.autonomy = c.whole(10, 90) / 100.0,
      y.metrics.beam = c.whole(500, 2000), y.metrics.beamHours = c.whole(50, 500);
      y.blinds = BlindRule(c.whole(0, 5));
      if (y.blinds == BlindRule::Irradiance) y.closesAtIrradiance = c.whole(50, 500);
      if (y.blinds == BlindRule::Glare) y.closesAtGlare = c.whole(30, 50) / 100.0;
      if (y.blinds == BlindRule::Schedule) {
        y.shutFrom = 60 * c.whole(8, 11);
        y.shutTo = 60 * c.whole(12, 18);
      }
      y.closesAt = c.whole(500, 3000);
      y.closesAbove = c.whole(1, 20) / 100.0;
      y.fabricDirect = c.whole(0, 10) / 100.0;
      y.fabricDiffuse = c.whole(0, 20) / 100.0;
      if (c.coin()) y.fabricReflectance = c.whole(10, 80) / 100.0;
      if (c.coin()) y.groupBlinds = {{"r2, \"south\"", BlindRule::Never}};
      y.error = c.whole(1, 10) / 100.0;
      y.glassKept = c.whole(50, 100) / 100.0;
      y.confidence = c.whole(60, 99) / 100.0;
      y.stopFor = StopFor(c.whole(0, 2)),
      y.provisionReading = c.coin() ? ProvisionReading::SameHours : ProvisionReading::OwnHours;
      if (c.coin()) y.steps = {0.3, 0.5, noStep};
      y.seed = std::uint64_t(c.whole(1, 1000));
    } else {
      s.light.error = c.whole(1, 200) / 10.0 / 100; // as typed, in %
      s.light.seed = std::uint64_t(c.whole(1, 1000));
      s.light.maxSamples = std::size_t(c.whole(16, 1 << 20));
      if (kind == StudyKind::Illuminance) {
        s.light.sky =
            *skyFromKey(c.of(std::array<const char*, 5>{"cie-overcast", "uniform", "cie-7", "clear", "perez"}));
        if (c.coin()) s.light.sky.diffuse = c.whole(1000, 30000);
        if (c.coin()) s.light.sky.moment = CivilTime{{2026, c.whole(1, 12), c.whole(1, 28)}, 60.0 * c.whole(0, 1439)};
        if (s.light.sky.kind == SkyKind::Perez) {
          s.light.sky.directIrradiance = c.whole(0, 900);
          s.light.sky.diffuseIrradiance = c.whole(0, 400);
        }
      }
      if ((kind == StudyKind::SunlightYear || kind == StudyKind::SunlightWinter) && c.coin()) {
        s.light.sunshine.emplace();
        for (double& share : *s.light.sunshine) share = c.whole(1, 100) / 100.0;
      }
    }
    p.studies.push_back(std::move(s));
  }
}

Project projectBy(unsigned seed) {
  Chance c(seed);
  Project p;
  p.id = ProjectId::fresh();
  p.name = c.name("project");
  p.units.length = c.of(std::array{LengthUnit::Metre, LengthUnit::Millimetre, LengthUnit::Centimetre, LengthUnit::Foot,
                                   LengthUnit::Inch, LengthUnit::FeetInches});
  p.units.light = c.of(std::array{LightUnit::Lux, LightUnit::FootCandle});
  p.preparedBy = c.name("preparedBy");
  p.client = c.name("owner");
  p.site.name = c.name("site");
  p.site.place = {radians(c.typed(-66, 66)), radians(c.typed(-179, 179)), c.typed(0, 900)};
  p.site.zone = c.of(std::array<const char*, 4>{"Europe/Copenhagen", "UTC+05:30", "UTC", "America/New_York"});
  p.site.year = c.whole(1990, 2040);
  p.site.northAngle = radians(c.typed(-180, 180));
  p.site.groundLevel = c.typed(-5, 5);
  p.site.groundReflectance = c.whole(5, 60) / 100.0;
  if (c.coin()) p.site.origin = {c.typed(-1e6, 1e6), c.typed(-1e6, 1e6), 0};
  for (int k = c.whole(0, 6); k > 0; --k) {
    Element e;
    e.id = ElementId::fresh();
    e.name = c.name("element");
    e.layer = c.coin() ? c.name("layer") : "";
    e.role = c.of(allRoles);
    e.proposed = c.coin(0.3);
    e.counted = c.coin(0.8);
    e.hidden = c.coin(0.2);
    e.source = c.coin(0.3) ? c.name("file") : "";
    if (c.coin(0.3)) e.mends = {"mesh.flipped", "mesh.gaps"};
    if (c.coin(0.3)) e.group = c.name("court");
    if (c.coin(0.3))
      e.row = RowPlace{ElementId::fresh(), c.whole(0, 9), c.whole(1, 9), {c.typed(1, 30), 0}, {0, c.typed(1, 30)}};
    if (c.coin(0.6)) {
      e.shape = Mass{outlineBy(c), c.typed(-3, 10), c.typed(1, 60), c.whole(1, 20)};
    } else if (c.coin()) {
      const double z = c.typed(0, 9);
      e.shape = Plate{{{0, 0, z}, {c.typed(1, 9), 0, z}, {1, c.typed(2, 9), z}}};
    } else if (c.coin()) {
      Tree t;
      t.foot = {c.typed(-50, 50), c.typed(-50, 50), c.typed(-1, 5)};
      t.height = c.typed(6, 20);
      t.width = c.typed(2, 9);
      t.stem = c.typed(0, 4);
      t.crown = Crown(c.whole(0, 3));
      t.leaves = Tree::Leaves(c.whole(0, 2));
      t.inLeaf = c.whole(1, 99) / 100.0;
      t.bare = c.whole(1, 99) / 100.0;
      e.shape = t;
    } else {
      Mesh m = *extrude(rectangle(0, 0, c.typed(1, 9), c.typed(1, 9)), 0, c.typed(1, 9));
      const Digest content = digestOf(m);
      Imported i{std::make_shared<const Mesh>(std::move(m)),
                 content,
                 {c.typed(-50, 50), c.typed(-50, 50), 0},
                 radians(c.whole(-180, 180)),
                 1};
      e.shape = std::move(i);
    }
    p.elements.push_back(std::make_shared<const Element>(std::move(e)));
  }
  for (int k = c.whole(0, 4); k > 0; --k) {
    Room r;
    r.id = RoomId::fresh();
    r.name = c.name("room");
    r.use = c.coin() ? c.name("use") : "";
    r.outline = outlineBy(c);
    r.floor = c.typed(-3, 20);
    r.height = c.typed(2, 5);
    r.wall = c.typed(0.05, 0.6);
    r.counted = c.coin(0.8);
    if (!r.counted) r.reason = c.name("because");
    r.glare = c.coin(0.3) ? c.name("glare") : "";
    p.rooms.push_back(std::move(r));
    if (c.coin()) {
      Opening o;
      o.id = OpeningId::fresh();
      o.name = c.name("window");
      o.type = c.coin() ? c.name("type") : "";
      o.room = p.rooms.back().id;
      o.edge = c.whole(0, 3);
      o.along = c.typed(0.2, 1);
      o.sill = c.typed(0, 1.2);
      o.width = c.typed(0.5, 2);
      o.height = c.typed(0.5, 1.6);
      o.repeat = c.whole(1, 3);
      if (o.repeat > 1) o.gap = c.typed(0.2, 1);
      if (c.coin()) o.frame = c.whole(0, 90) / 100.0;
      if (c.coin()) o.paneAt = c.whole(0, 100) / 100.0;
      p.openings.push_back(std::move(o));
    }
  }
  for (int k = c.whole(0, 3); k > 0; --k)
    p.guides.push_back({{c.typed(-50, 50), c.typed(-50, 50)}, {c.typed(60, 90), c.typed(-50, 50)}});
  const auto raised = [&](Raised& r) {
    r.kind = Raised::Kind(c.whole(1, 2));
    r.rise = c.typed(0.5, 3);
    r.toward = c.of(allFacings);
  };
  if (!p.rooms.empty() && c.coin()) {
    Opening o;
    o.id = OpeningId::fresh();
    o.name = c.name("rooflight");
    o.room = p.rooms.front().id;
    o.along = c.typed(0, 3);
    o.sill = c.typed(0, 3);
    if (c.coin(0.7)) raised(o.raised);
    p.openings.push_back(std::move(o));
  }
  if (c.coin()) {
    WindowRule w;
    w.id = RuleId::fresh();
    w.ceiling = true;
    w.kind = WindowRule::Kind::Row;
    w.name = c.name("rooflights");
    if (c.coin(0.7)) raised(w.raised);
    p.windowRules.push_back(w);
  }
  if (c.coin()) {
    WindowRule w;
    w.id = RuleId::fresh();
    w.name = c.name("rule");
    w.kind = WindowRule::Kind(c.whole(0, 2));
    w.count = c.whole(1, 4);
    w.sill = c.typed(0, 1);
    w.head = c.typed(1.6, 3);
    if (w.kind == WindowRule::Kind::Ratio)
      w.ratio = c.whole(1, 90) / 100.0;
    else if (w.kind == WindowRule::Kind::Row)
      w.width = c.typed(0.5, 2);
    else
      w.mullion = c.typed(0, 0.2);
    if (c.coin()) w.module = c.typed(0.5, 4);
    if (c.coin()) w.ends = c.typed(0, 1);
    if (c.coin()) w.frame = c.whole(0, 90) / 100.0;
    if (c.coin()) w.paneAt = c.whole(0, 100) / 100.0;
    if (c.coin()) w.facings = {Facing::South, Facing::West};
    p.windowRules.push_back(w);
    ShadeRule s;
    s.id = RuleId::fresh();
    s.name = c.name("shade");
    s.kind = c.coin() ? ShadeRule::Kind::Overhang : ShadeRule::Kind::Fins;
    s.depth = c.typed(0.1, 2);
    s.offset = c.typed(0, 0.5);
    s.count = c.whole(2, 9);
    s.angle = c.whole(-45, 45) / (180 / pi); // as it is typed: by the last bit, not radians()
    if (s.kind == ShadeRule::Kind::Overhang) s.beyond = c.typed(0, 1);
    p.shadeRules.push_back(s);
  }
  for (int k = c.whole(0, 5); k > 0; --k) {
    SensorGroup g;
    g.id = GroupId::fresh();
    g.name = c.name("group");
    g.dwelling = c.coin(0.3) ? c.name("flat") : "";
    g.subject = Subject(c.whole(0, 2));
    const int kind = c.whole(0, 4);
    if (kind == 0) g.layout = GroundArea{outlineBy(c), c.typed(-1, 5), c.typed(0.5, 3)};
    if (kind == 1) {
      GroundAround a;
      if (!p.elements.empty()) a.elements = {p.elements.front()->id};
      a.margin = c.typed(1, 30);
      a.level = c.typed(-1, 3);
      a.spacing = c.typed(0.5, 3);
      g.layout = a;
    }
    if (kind == 2) {
      FaceGrid f;
      for (const ElementPtr& e : p.elements)
        if (c.coin())
          f.faces.push_back(
              {e->id, c.coin() ? std::optional<std::uint32_t>(std::uint32_t(c.whole(0, 5))) : std::nullopt});
      f.walls = c.coin();
      f.roofs = c.coin();
      f.spacing = c.typed(0.3, 3);
      g.layout = f;
    }
    if (kind == 3)
      g.layout = std::vector<PointSensor>{
          {{c.typed(-9, 9), c.typed(-9, 9), c.typed(0, 9)}, {0, -1, 0}, c.name("point")}, {{1, 2, 3}, {0, 0, 1}, ""}};
    if (kind == 4) {
      RoomGrid r;
      for (const Room& room : p.rooms)
        if (c.coin()) r.rooms.push_back(room.id);
      r.height = c.typed(0.1, 1.2);
      r.spacing = c.typed(0.2, 1);
      r.wallDistance = c.typed(0.1, 0.6);
      r.layout = c.coin() ? GridLayout::FromWalls : GridLayout::BandLeftOut;
      r.directions = c.whole(0, 8);
      if (r.directions > 0) r.firstDirection = radians(c.whole(0, 90));
      g.eyes = c.coin();
      g.layout = r;
    }
    p.groups.push_back(std::move(g));
  }
  studiesBy(c, p);
  if (c.coin())
    p.judgements.push_back(
        {JudgementId::fresh(), "amenity-ground", {}, {{"hours", "2.5"}, {"date-north", c.name("day")}}, ""});
  if (c.coin())
    p.views.push_back(
        {ViewId::fresh(), c.name("view"), "{\"kind\":\"solid\"}", "2026-06-21T14:00:00+02:00", c.name("o"), ""});
  if (c.coin()) p.accepted[c.name("finding")] = c.name("because");
  if (c.coin(0.4)) p.extra = "{\"kept\":{\"as\":[\"it\",\"is\"]},\"and this\":null}";
  return p;
}

} // namespace

class TestRoundtrip : public QObject {
  Q_OBJECT
private slots:
  void everyProjectComesBackAsItWas_data() {
    QTest::addColumn<unsigned>("seed");
    for (unsigned seed = 1; seed <= 120; ++seed) QTest::addRow("seed %u", seed) << seed;
  }
  void everyProjectComesBackAsItWas() {
    QFETCH(unsigned, seed);
    QTemporaryDir dir;
    const std::filesystem::path path = dir.filePath("a.noonward").toStdString(),
                                again = dir.filePath("b.noonward").toStdString();
    Project p = projectBy(seed);
    const Outcome written = writeProject(p, path);
    QVERIFY2(written.has_value(), written ? "" : written.error().text().c_str());
    const auto back = readProject(path);
    QVERIFY2(back.has_value(), back ? "" : back.error().text().c_str());
    const Project& q = back->project;

    // Nothing of ours is a key that nobody reads; what was foreign is still there.
    const std::size_t foreign = p.extra.empty() ? 0 : 2;
    std::string unknown;
    for (const UnknownKey& k : q.unknownKeys) unknown += k.path + "; ";
    QVERIFY2(q.unknownKeys.size() == foreign, unknown.c_str());

    // The same text, and the same values behind it.
    QCOMPARE(QString::fromStdString(projectText(q, "x")), QString::fromStdString(projectText(p, "x")));
    QCOMPARE(q.name, p.name);
    QCOMPARE(q.elements.size(), p.elements.size());
    for (std::size_t i = 0; i < p.elements.size(); ++i)
      QVERIFY2(*q.elements[i] == *p.elements[i], p.elements[i]->name.c_str());
    QVERIFY(q.rooms == p.rooms);
    QVERIFY(q.openings == p.openings);
    QVERIFY(q.windowRules == p.windowRules);
    QCOMPARE(q.groups.size(), p.groups.size());
    for (std::size_t i = 0; i < p.groups.size(); ++i) {
      QVERIFY2(q.groups[i].layout == p.groups[i].layout, p.groups[i].name.c_str());
      QVERIFY(q.groups[i].name == p.groups[i].name && q.groups[i].dwelling == p.groups[i].dwelling &&
              q.groups[i].subject == p.groups[i].subject);
    }
    QCOMPARE(q.studies.size(), p.studies.size());
    for (std::size_t i = 0; i < p.studies.size(); ++i) {
      const Study &a = p.studies[i], &b = q.studies[i];
      QVERIFY2(a.kind == b.kind && a.name == b.name && a.groups == b.groups, a.name.c_str());
      if (a.kind == StudyKind::Year) QVERIFY2(a.year == b.year, a.name.c_str());
      if (a.kind != StudyKind::Year && a.kind != StudyKind::SunHours) QVERIFY2(a.light == b.light, a.name.c_str());
    }
    QVERIFY(q.accepted == p.accepted && q.extra.size() == p.extra.size());

    // A third time: nothing drifts.
    Project r = q;
    QVERIFY(writeProject(r, again).has_value());
    const auto twice = readProject(again);
    QVERIFY(twice.has_value());
    QCOMPARE(QString::fromStdString(projectText(twice->project, "x")), QString::fromStdString(projectText(p, "x")));
  }

  void questionsKeepTheirKeys() { // what was computed before saving is found again after reading
    int asked = 0;
    for (unsigned seed = 200; seed < 230; ++seed) {
      QTemporaryDir dir;
      const std::filesystem::path path = dir.filePath("a.noonward").toStdString();
      Project p = projectBy(seed);
      QVERIFY(writeProject(p, path).has_value());
      const auto back = readProject(path);
      QVERIFY(back.has_value());
      for (std::size_t i = 0; i < p.studies.size(); ++i) {
        const Study& s = p.studies[i];
        if (s.kind == StudyKind::Year) continue;
        ++asked;
        if (s.kind == StudyKind::SunHours)
          QVERIFY(hashSunHours(p, s.groups, s.sunHours) ==
                  hashSunHours(back->project, s.groups, back->project.studies[i].sunHours));
        else
          QVERIFY(hashLight(p, s) == hashLight(back->project, back->project.studies[i]));
      }
    }
    QVERIFY(asked > 50);
  }

  void findingsAreTheSameAfterReading() {
    for (unsigned seed = 300; seed < 330; ++seed) {
      QTemporaryDir dir;
      const std::filesystem::path path = dir.filePath("a.noonward").toStdString();
      Project p = projectBy(seed);
      p.extra.clear();
      QVERIFY(writeProject(p, path).has_value());
      const auto back = readProject(path);
      QVERIFY(back.has_value());
      const Findings a = checkProject(p), b = checkProject(back->project);
      QCOMPARE(a.size(), b.size());
      for (std::size_t i = 0; i < a.size(); ++i) QVERIFY2(a[i] == b[i], a[i].text.c_str());
    }
  }
};

QTEST_GUILESS_MAIN(TestRoundtrip)
#include "tst_roundtrip.moc"
