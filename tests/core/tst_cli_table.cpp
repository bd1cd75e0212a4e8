// The command line as a table: what it is called with, how it ends (0 done, 1 findings that stop, 2 wrong call), what
// it says, and that JSON is JSON wherever it is promised.

#ifndef Q_MOC_RUN
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>
#endif

namespace {

struct Ran {
  int code = -1;
  QString out, err;
};
Ran cli(const QString& folder, const QStringList& args) {
  QProcess p;
  p.setWorkingDirectory(folder);
  p.start(NOONWARD_CLI, args);
  if (!p.waitForFinished(600000)) qFatal("the command hangs");
  return {p.exitStatus() == QProcess::NormalExit ? p.exitCode() : -1, QString::fromUtf8(p.readAllStandardOutput()),
          QString::fromUtf8(p.readAllStandardError())};
}

/// A yard with a wall: a sun study, light on points, a rule; small enough to answer at once.
constexpr const char* yard = R"({
  "format": "noonward-project", "version": 1, "name": "Yard",
  "site": {"latitude": 52.5, "longitude": 13.4, "zone": "Europe/Berlin", "year": 2026},
  "elements": [{"id": "wall", "name": "Wall", "mass": {"outline": [[-20,-6],[20,-6],[20,-5],[-20,-5]], "height": 4}, "proposed": true}],
  "groups": [{"id": "yard", "name": "Yard", "ground": {"outline": [[-4,-4],[4,-4],[4,4],[-4,4]], "level": 0, "spacing": 2}}],
  "studies": [
    {"name": "Spring", "kind": "sun-hours", "groups": ["Yard"], "dates": ["21 Mar"], "window": "sunrise-sunset"},
    {"name": "Sky", "kind": "sky-view", "groups": ["Yard"], "max-samples": 1024},
    {"name": "Noon", "kind": "illuminance", "groups": ["Yard"], "sky": "cie-overcast", "error": 10, "max-samples": 1024}],
  "judgements": [{"yardstick": "amenity-ground", "groups": ["Yard"]}]
})";

} // namespace

class TestCliTable : public QObject {
  Q_OBJECT
  QTemporaryDir folder_;
  void write(const char* name, const QByteArray& text) {
    QFile f(folder_.filePath(name));
    QVERIFY(f.open(QIODevice::WriteOnly));
    f.write(text);
  }
private slots:
  void init() {
    write("yard.noonward", yard);
    write("broken.noonward", QByteArray(yard).left(300));
    write("else.json", "{\"format\": \"something\"}");
    write("cube.obj", "v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nf 1 2 3 4\n");
    write("empty.obj", "");
    write("lux.csv", "hour,desk\n1,100\n2,400\n");
    write("bad.csv", "hour,desk\n1,dark\n");
  }

  void callsEndAsTheyShould_data() {
    QTest::addColumn<QString>("call");
    QTest::addColumn<int>("code");
    QTest::addColumn<QString>("says"); ///< on either stream
    const auto row = [](const char* call, int code, const char* says) {
      QTest::newRow(call) << QString(call) << code << QString(says);
    };
    // the program itself
    row("--version", 0, "0.");
    row("--help", 0, "Usage");
    row("", 2, "");
    row("dance", 2, "");
    row("run", 2, "project is required");
    row("run yard.noonward --frobnicate", 2, "--frobnicate");
    row("run --help", 0, "--set");
    // sun
    row("sun --latitude 52 --longitude 13 --at 2026-06-21T12:00:00", 2, "--zone");
    row("sun --latitude 52 --longitude 13 --zone UTC --at 2026-06-21T12:00:00", 0, "altitude");
    row("sun --latitude 95 --longitude 13 --at 2026-06-21T12:00:00", 2, "latitude");
    row("sun --latitude 52 --longitude 13 --at yesterday", 2, "");
    // run
    row("run yard.noonward", 0, "Spring: 16 sensors");
    row("run yard.noonward --study sky-view", 0, "Sky: 16 sensors");
    row("run yard.noonward --study illuminance --set error=20", 0, "Noon: 16 sensors");
    row("run yard.noonward --study illuminance --set eror=20", 2, "\"error\" is meant?");
    row("run yard.noonward --study illuminance --set error=2000", 2, "0.05 to 50 %");
    row("run yard.noonward --study sky-view --set sky=uniform", 2, "no such setting");
    row("run yard.noonward --set step", 2, "KEY=VALUE");
    row("run yard.noonward --set counting=steps --set step=10", 0, "by steps of 10 min");
    row("run yard.noonward --set dates=21Jun", 2, "A date such as");
    row("run yard.noonward --set dates=2026-06-21", 0, "21 Jun");
    row("run yard.noonward --study year --settings", 0, "share-of-hours");
    row("run yard.noonward --study vsc --settings", 0, "max-samples");
    row("run yard.noonward --study moonlight", 2, "no-sky-line");
    row("run yard.noonward --name Autumn", 2, "no study \"Autumn\"");
    row("run yard.noonward --study sky-view --name Autumn", 2, "no sky-view study \"Autumn\"");
    row("run yard.noonward --study year", 1, "weather");
    row("run yard.noonward --study sunlight-year", 1, "weather year");
    row("run yard.noonward --study sunlight-year --sunshine 20,30,40,50,60,60,60,50,40,30,20,20", 0,
        "sunshine by a table");
    row("run yard.noonward --study sunlight-year --sunshine 20,30", 2, "twelve shares");
    row("run yard.noonward --study illuminance --sky cie-16", 2, "is no sky");
    row("run yard.noonward --study illuminance --sky clear", 1, "moment");
    row("run yard.noonward --study illuminance --sky clear --at 2026-06-21T12:00:00 --error 20", 0, "Noon");
    row("run yard.noonward --study illuminance --at noon", 2, "--at");
    row("run yard.noonward --estimate", 0, "Spring: ");
    row("run broken.noonward", 1, "broken.noonward");
    row("run else.json", 1, "no Noonward project");
    row("run missing.noonward", 1, "missing.noonward");
    row("run yard.noonward --option B", 1, "option");
    // others that read a project
    row("check yard.noonward", 0, "");
    row("check broken.noonward", 1, "broken.noonward:5:12");
    row("judge yard.noonward", 0, "");
    row("judge yard.noonward --yardstick no-such", 2, "no yardstick \"no-such\"");
    row("probe yard.noonward --point 0,0,0.1", 0, "h of sun");
    row("probe yard.noonward --point 0,0", 2, "x,y,z");
    row("probe yard.noonward --point 0,0,0.1 --normal 0,0,0", 2, "x,y,z");
    row("why yard.noonward --study sun-hours --sensor x", 2, "--study");
    row("why yard.noonward --study sky-view --sensor nobody", 2, "no sensor called");
    row("rooms yard.noonward", 0, "room");
    row("options yard.noonward", 0, "");
    row("compare yard.noonward A B", 2, "");
    row("runs yard.noonward", 0, "");
    row("record yard.noonward --out r", 2, "no daylight year");
    row("verify nowhere", 1, "");
    row("picture yard.noonward --out p.png --size huge", 2, "--size");
    row("picture yard.noonward --out p.png --view inside-out", 2, "--view");
    row("picture yard.noonward --out p.png --range 5,1", 2, "--range");
    row("picture yard.noonward --out p.bmp", 1, "");
    row("picture yard.noonward --out p.png --study Autumn", 1, "no study \"Autumn\"");
    row("set-up yard.noonward --yardstick no-such", 2, "no-such");
    // models
    row("import cube.obj", 0, "cube.obj");
    row("import empty.obj", 1, "empty.obj");
    row("import nothing.obj", 1, "nothing.obj");
    row("import yard.noonward", 1, "");
    row("export yard.noonward --out m.xyz", 2, "--out must end in");
    row("trace yard.noonward", 1, "");
    // tables, skies, weather
    row("metrics lux.csv --all-hours", 0, "desk");
    row("metrics lux.csv", 1, "8760");
    row("metrics bad.csv --all-hours", 1, "no number");
    row("metrics none.csv", 1, "none.csv");
    row("sky --sky cie-12", 1, "moment");
    row("sky --sky mauve", 2, "is no sky");
    row("sky --sky uniform --direction 45", 2, "--direction");
    row("weather none.epw", 2, "subcommand");
    row("weather check none.epw", 1, "none.epw");
    row("bench no-such", 2, "no measurement");
  }
  void callsEndAsTheyShould() {
    QFETCH(QString, call);
    QFETCH(int, code);
    QFETCH(QString, says);
    const Ran r = cli(folder_.path(), call.split(' ', Qt::SkipEmptyParts));
    const QString all = r.out + r.err;
    QVERIFY2(r.code == code, qPrintable(QString("ended with %1: %2").arg(r.code).arg(all.left(400))));
    QVERIFY2(all.contains(says), qPrintable(all.left(600)));
    if (code != 0) QVERIFY2(r.err.trimmed().size() > 8 || r.out.size() > 8, "it says nothing");
    QVERIFY2(!all.contains("terminate called") && !all.contains("exception"), qPrintable(all.left(300)));
  }

  void jsonIsJson_data() {
    QTest::addColumn<QString>("call");
    QTest::addColumn<QStringList>("keys"); ///< of the object, or of the first in a list
    const auto row = [](const char* call, const char* keys) {
      QTest::newRow(call) << QString(call) << QString(keys).split(' ');
    };
    row("run yard.noonward --json", "study asked fingerprint key sensors triangles seconds groups csv");
    row("run yard.noonward --study sky-view --json", "study kind sky unit fingerprint key sensors groups");
    row("run yard.noonward --estimate --study sky-view --json", "study kind sensors seconds megabytes");
    row("check yard.noonward --json", "");
    row("judge yard.noonward --json", "yardstick title outcome text figure needed unit before rows notes");
    row("probe yard.noonward --point 0,0,0.1 --json", "sun_hours_of_year year skyline step_seconds");
    row("rooms yard.noonward --json", "");
    row("sun --latitude 52 --longitude 13 --zone UTC --at 2026-06-21T12:00:00 --json", "");
    row("sky --sky uniform --json", "sky zenith_cd_m2 horizontal_diffuse_lx vertical_diffuse_lx");
    row("metrics lux.csv --all-hours --json", "hours threshold_lux space sensors");
    row("finishes", "finishes glazings");
  }
  void jsonIsJson() {
    QFETCH(QString, call);
    QFETCH(QStringList, keys);
    const Ran r = cli(folder_.path(), call.split(' ', Qt::SkipEmptyParts));
    QVERIFY2(r.code == 0, qPrintable(r.err));
    QJsonParseError error;
    const QJsonDocument d = QJsonDocument::fromJson(r.out.toUtf8(), &error);
    QVERIFY2(error.error == QJsonParseError::NoError, qPrintable(error.errorString() + r.out.left(200)));
    const QJsonObject o = d.isArray() ? d.array().at(0).toObject() : d.object();
    for (const QString& k : keys)
      if (!k.isEmpty()) QVERIFY2(o.contains(k), qPrintable(k + " in " + r.out.left(300)));
  }

  void settingsOfACallAreThoseOfTheProject() {
    // What --set says is what the same words in the file say: equal questions, equal keys.
    const auto keyOf = [&](const QString& call) {
      const Ran r = cli(folder_.path(), call.split(' '));
      return QJsonDocument::fromJson(r.out.toUtf8()).object()["key"].toString();
    };
    const QString set =
        keyOf("run yard.noonward --json --no-store --set counting=steps --set step=15 --set sample=ends");
    write("stepped.noonward",
          QByteArray(yard).replace(
              "\"window\": \"sunrise-sunset\"",
              "\"window\": \"sunrise-sunset\", \"counting\": \"steps\", \"step\": 15, \"sample\": \"ends\""));
    const QString written = keyOf("run stepped.noonward --json --no-store");
    QVERIFY(set.size() == 32);
    QCOMPARE(set, written);
    QVERIFY(keyOf("run yard.noonward --json --no-store") != set);
    QCOMPARE(keyOf("run yard.noonward --json --no-store --study illuminance --error 20"),
             keyOf("run yard.noonward --json --no-store --study illuminance --set error=20"));
  }

  void theSameQuestionIsAnsweredOnce() {
    const Ran first = cli(folder_.path(), {"run", "yard.noonward", "--study", "sky-view", "--json"}),
              second = cli(folder_.path(), {"run", "yard.noonward", "--study", "sky-view", "--json"});
    const auto of = [](const Ran& r, const char* key) {
      return QJsonDocument::fromJson(r.out.toUtf8()).object().value(QString(key));
    };
    QVERIFY(of(first, "key") == of(second, "key"));
    QVERIFY(of(first, "seconds") == of(second, "seconds")); // of the run that was kept
    QVERIFY(of(first, "groups") == of(second, "groups"));
    const Ran runs = cli(folder_.path(), {"runs", "yard.noonward"});
    QCOMPARE(runs.code, 0);
    QVERIFY(runs.out.contains("Sky"));
  }
};

QTEST_GUILESS_MAIN(TestCliTable)
#include "tst_cli_table.moc"
