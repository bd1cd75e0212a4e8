// Project files as they were written in November 2026, kept as they are: they open for ever, with every value where it
// was, and nothing of them is lost or unknown.

#ifndef Q_MOC_RUN
#include "core/files/project/project_file.h"
#include "core/files/save_file.h"
#include "core/model/options.h"
#include "core/model/settings/study_fields.h"
#include <QTemporaryDir>
#include <QtTest>
#endif

using namespace noonward;

namespace {
/// A kept file beside the weather and models that it names.
Expected<LoadedProject> kept(const QTemporaryDir& folder, const char* name) {
  const QString to = folder.filePath(name);
  QFile::copy(QString(TEST_DATA "/projects/") + name, to);
  for (const char* f :
       {"brevholm.epw", "library-as-received.obj", "library-as-received.mtl", "library-plan.png", "ropewalk-flats.jpg"})
    QFile::copy(QString(SOURCE_TREE "/demo/") + f, folder.filePath(f));
  return readProject(to.toStdString());
}
const Study& named(const Project& p, const char* name) {
  for (const Study& s : p.studies)
    if (s.name == name) return s;
  qFatal("no study %s", name);
}
} // namespace

class TestOldProjects : public QObject {
  Q_OBJECT
private slots:
  void allOpenWithoutAWord_data() {
    QTest::addColumn<QByteArray>("file");
    for (const QString& f : QDir(TEST_DATA "/projects").entryList({"*.noonward"}))
      QTest::newRow(qPrintable(f)) << f.toUtf8();
  }
  void allOpenWithoutAWord() {
    QFETCH(QByteArray, file);
    QTemporaryDir folder;
    const auto loaded = kept(folder, file.constData());
    QVERIFY2(loaded.has_value(), loaded ? "" : loaded.error().text().c_str());
    for (const UnknownKey& k : loaded->project.unknownKeys) QFAIL(k.path.c_str());
    // Written and read again it is the same text, and the second writing changes nothing more.
    Project p = loaded->project;
    const auto again = folder.filePath("again.noonward").toStdString();
    QVERIFY(writeProject(p, again));
    auto second = readProject(again);
    QVERIFY(second.has_value());
    QCOMPARE(projectText(second->project, "again.files"), projectText(p, "again.files"));
    QCOMPARE(second->project.studies.size(), p.studies.size());
    for (std::size_t i = 0; i < p.studies.size(); ++i) {
      QVERIFY(second->project.studies[i].sunHours == p.studies[i].sunHours);
      QVERIFY(second->project.studies[i].light == p.studies[i].light);
      QVERIFY(second->project.studies[i].year == p.studies[i].year);
    }
  }

  void everySettingIsWhereItWas() {
    QTemporaryDir folder;
    const auto loaded = kept(folder, "all-settings-2026-11.noonward");
    QVERIFY2(loaded.has_value(), loaded ? "" : loaded.error().text().c_str());
    const Project& p = loaded->project;
    QCOMPARE(p.site.year, 2025);
    QCOMPARE(degrees(p.site.northAngle), -8.5);
    QCOMPARE(p.site.groundLevel, -0.25);
    QCOMPARE(p.site.groundReflectance, 0.35);
    QVERIFY(p.units.length == LengthUnit::Foot);
    QVERIFY(!p.rooms[0].counted);
    QCOMPARE(p.rooms[0].reason, std::string("a corridor"));
    const auto& grid = std::get<RoomGrid>(p.groups[0].layout);
    QCOMPARE(grid.height, 0.7);
    QVERIFY(grid.layout == GridLayout::BandLeftOut);

    const SunHoursSettings& h = named(p, "Steps").sunHours;
    QVERIFY(h.dates.empty());
    QCOMPARE(h.season.name, std::string("Winter"));
    QCOMPARE(h.season.fromMonth * 100 + h.season.fromDay, 1101);
    QCOMPARE(h.season.toMonth * 100 + h.season.toDay, 210);
    QCOMPARE(h.season.beginMinute, 570.0);
    QCOMPARE(h.season.endMinute, 915.0);
    QVERIFY(!h.sunriseToSunset);
    QVERIFY(h.counting == Counting::Stepped && h.sample == StepSample::Ends);
    QCOMPARE(h.stepMinutes, 5);
    QCOMPARE(degrees(h.minAltitude), 6.5);
    QVERIFY(h.altitudeKind == AltitudeKind::Apparent);

    const LightSettings& l = named(p, "Clear noon").light;
    QVERIFY(l.sky.kind == SkyKind::Perez);
    QCOMPARE(l.sky.directIrradiance, 700.0);
    QCOMPARE(l.sky.diffuseIrradiance, 120.0);
    QCOMPARE(l.sky.dewPoint, 12.5);
    QVERIFY(l.sky.moment && l.sky.moment->date == (Date{2025, 12, 21}));
    QCOMPARE(l.sky.moment->seconds, 45000.0);
    QCOMPARE(l.error, 0.015);
    QCOMPARE(l.seed, std::uint64_t(9));
    QCOMPARE(l.maxSamples, std::size_t(65536));
    const auto& months = named(p, "Sun of a table").light.sunshine;
    QVERIFY(months.has_value());
    QCOMPARE((*months)[0], 0.61);
    QCOMPARE((*months)[11], 0.59);

    const YearSettings& y = named(p, "Long days").year;
    QCOMPARE(y.beginMinute, 450.0);
    QCOMPARE(y.endMinute, 1140.0);
    QVERIFY(y.weekdaysOnly && !y.clockChanges && y.ownIlluminance);
    QCOMPARE(y.metrics.threshold, 500.0);
    QCOMPARE(y.metrics.autonomy, 0.6);
    QCOMPARE(y.metrics.beam, 1200.0);
    QCOMPARE(y.metrics.beamHours, 200.0);
    QVERIFY(y.blinds == BlindRule::Irradiance);
    QVERIFY(y.blindsOf("r1, south") == BlindRule::Never);
    QVERIFY(y.blindsOf("r1, west") == BlindRule::Schedule);
    QVERIFY(y.blindsOf("r2, west") == BlindRule::Irradiance);
    QCOMPARE(y.closesAt, 900.0);
    QCOMPARE(y.closesAbove, 0.03);
    QCOMPARE(y.closesAtIrradiance, 180.0);
    QCOMPARE(y.shutFrom, 780.0);
    QCOMPARE(y.shutTo, 990.0);
    QCOMPARE(y.fabricDirect, 0.01);
    QCOMPARE(y.fabricDiffuse, 0.075);
    QVERIFY(y.fabricReflectance && std::abs(*y.fabricReflectance - 0.55) < 1e-12);
    QCOMPARE(y.error, 0.04);
    QCOMPARE(y.glassKept, 0.85);
    QVERIFY(y.stopFor == StopFor::Provision && y.provisionReading == ProvisionReading::OwnHours);
    QCOMPARE(y.confidence, 0.975);
    QCOMPARE(y.steps[0], 0.45);
    QCOMPARE(y.steps[1], 0.65);
    QCOMPARE(y.steps[2], noStep);
    QCOMPARE(y.seed, std::uint64_t(3));
    QCOMPARE(p.judgements[0].changed.at("threshold"), std::string("250"));
  }

  void whatAFileLeavesOutIsAsItWas() {
    QTemporaryDir folder;
    const auto loaded = kept(folder, "quay-2026-11.noonward");
    QVERIFY2(loaded.has_value(), loaded ? "" : loaded.error().text().c_str());
    const Project& p = loaded->project;
    QCOMPARE(p.options.size(), std::size_t(2));
    QCOMPARE(p.studies.size(), std::size_t(5));
    QVERIFY(named(p, "Square in spring").sunHours.sunriseToSunset);
    QVERIFY(named(p, "Library year").year == YearSettings{});
    QCOMPARE(named(p, "Library daylight").light.error, 0.03);
    QVERIFY(p.site.weather && p.site.weather->whole());
    QVERIFY(withOption(p, 1).shadeRules.size() != p.shadeRules.size() ||
            withOption(p, 1).windowRules != p.windowRules || withOption(p, 1).shadeRules != p.shadeRules);
  }

  void optionsOfEarlierFilesFindTheirPlaces() {
    QTemporaryDir d;
    const std::filesystem::path file = d.filePath("p.noonward").toStdString();
    QVERIFY(saveFile(file, R"({"format": "noonward-project", "version": 1, "name": "p",
      "site": {"latitude": 55, "longitude": 12, "zone": "UTC"},
      "rooms": [{"id": "0000000000000001", "name": "Hall", "outline": [[0,0],[6,0],[6,5],[0,5]], "counted": false},
                {"id": "0000000000000002", "name": "Loft", "outline": [[9,0],[12,0],[12,5],[9,5]]}],
      "shades": [{"id": "0000000000000003", "kind": "overhang", "depth": 0.6}],
      "options": [{"id": "0000000000000004", "name": "A"},
                  {"id": "0000000000000005", "name": "B", "changes": [
                    {"at": ["rooms", "0000000000000001", "counted"], "from": false, "to": null},
                    {"at": ["rooms", "0000000000000002", "counted"], "from": null, "to": false},
                    {"at": ["shades", "0000000000000003", "depth"], "from": 0.6, "to": 1.1}]}]})"));
    const auto opened = readProject(file);
    QVERIFY2(opened.has_value(), opened ? "" : opened.error().text().c_str());
    const Project& p = opened->project;
    QVERIFY(!p.rooms[0].counted && p.rooms[1].counted);
    QCOMPARE(p.shadeRules[0].depth, 0.6);
    const Design& b = designOf(p, 1);
    QVERIFY(b.rooms[0].counted && !b.rooms[1].counted);
    QCOMPARE(b.shadeRules[0].depth, 1.1);
    QVERIFY(p.options[1].orphans.empty());
    QVERIFY(p.unknownKeys.empty());
  }
};

QTEST_GUILESS_MAIN(TestOldProjects)
#include "tst_old_projects.moc"
