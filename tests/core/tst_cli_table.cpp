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

/// One room with a window to the south under a brim.
constexpr const char* hut = R"({
  "format": "noonward-project", "version": 1, "name": "Hut",
  "site": {"latitude": 52.5, "longitude": 13.4, "zone": "Europe/Berlin", "year": 2026},
  "elements": [{"id": "hut", "name": "Hut", "mass": {"outline": [[0,0],[6,0],[6,5],[0,5]], "height": 3.2}, "proposed": true}],
  "rooms": [{"id": "r", "name": "Room", "outline": [[0.3,0.3],[5.7,0.3],[5.7,4.7],[0.3,4.7]], "height": 2.8}],
  "openings": [{"id": "w", "name": "Window", "room": "r", "edge": 0, "along": 1, "sill": 0.9, "width": 2, "height": 1.5}],
  "shading": [{"id": "b", "name": "Brim", "kind": "overhang", "facing": "south", "depth": 0.2, "beyond": 0.5}]
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
    write("hut.noonward", hut);
    write("broken.noonward", QByteArray(yard).left(300));
    write("else.json", "{\"format\": \"something\"}");
    write("cube.obj", "v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nf 1 2 3 4\n");
    write("empty.obj", "");
    write("lux.csv", "hour,desk\n1,100\n2,400\n");
    write("bad.csv", "hour,desk\n1,dark\n");
    write("measured.csv", "hour,desk\n1,200\n2,300\n");
    write("short.csv", "hour,desk\n1,200\n");
    write("other.csv", "hour,sill\n1,200\n2,300\n");
    QVERIFY(QFile::exists(folder_.filePath("year.epw")) ||
            QFile::copy(SOURCE_TREE "/demo/brevholm.epw", folder_.filePath("year.epw")));
    QVERIFY(QFile::exists(folder_.filePath("bay.epw")) ||
            QFile::copy(SOURCE_TREE "/demo/tarrow-bay.epw", folder_.filePath("bay.epw")));
    write("two.noonward",
          QByteArray(yard).replace("\"judgements\"", R"("options": [{"name": "As is"}, {"name": "Twin"}],
  "judgements")"));
    write("sweep.json",
          R"({"name": "Wall", "vary": [{"name": "h", "at": "elements/Wall/mass/height", "from": 2, "to": 6, "step": 1}],
      "outcomes": [{"name": "sun", "study": "Spring", "figure": "mean"}, {"name": "volume", "model": "mass-volume"}],
      "goals": [{"outcome": "sun", "at-least": 7}, {"outcome": "volume", "most": true}]})");
    write("step.json",
          R"({"name": "Wall", "vary": [{"name": "h", "at": "elements/Wall/mass/height", "from": 2, "to": 6, "step": 0}],
      "outcomes": [{"name": "volume", "model": "mass-volume"}]})");
    write("gaol.json", R"({"name": "Wall", "vary": [{"name": "h", "at": "elements/Wall/mass/height", "values": [2]}],
      "outcomes": [{"name": "volume", "model": "mass-volume"}], "gaols": []})");
    write("shift.json", "{\"format\": \"noonward-weather-shift\", \"warmer\": 2}");
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
    row("run yard.noonward --study irradiation", 1, "a weather year");
    row("run yard.noonward --study irradiation --settings", 0, "daily-mean");
    row("run yard.noonward --study irradiation --sky uniform", 1, "needs its irradiances");
    row("run yard.noonward --study irradiation --set amount=weekly", 2, "daily-mean");
    row("run yard.noonward --before --difference", 2, "not both");
    row("run yard.noonward --study vsc --difference", 0, "16 sensors");
    row("receivers yard.noonward --csv", 0, "Yard 16,Yard,,,");
    row("receivers yard.noonward --group Garden", 2, "no group is called \"Garden\"");
    // shadows
    row("shadows yard.noonward", 2, "give --at");
    row("shadows yard.noonward --at noon", 2, "is no moment");
    row("shadows yard.noonward --at 2026-03-21T12:00", 0, "m² of it net new; Yard: ");
    row("shadows yard.noonward --at 2026-03-21T03:00", 0, "too low to cast");
    row("shadows yard.noonward --date 21Mar", 2, "--date is written");
    row("shadows yard.noonward --date 2026-03-21 --from 15:00 --to 9:00", 2, "in order");
    row("shadows yard.noonward --at 2026-03-21T12:00 --area Garden", 2, "no group is called");
    row("shadows yard.noonward --at 2026-03-21T12:00 --out plan.txt", 2, ".geojson");
    row("shadows broken.noonward --at 2026-03-21T12:00", 1, "");
    row("picture yard.noonward --out x.png --state later", 2, "before, difference or ratio");
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
    // shaping
    row("shape", 2, "");
    row("shape cut hut.noonward hut --line 3 -1 3 9 --out cut.noonward", 0, "Hut 1");
    row("shape cut hut.noonward hut --line 30 0 30 9 --out no.noonward", 1, "meets no mass");
    row("shape cut hut.noonward hut --line 3 4 --out no.noonward", 2, "--line");
    row("shape cut-at hut.noonward hut --level 1.6 --out low.noonward", 0, "in Hut");
    row("shape join hut.noonward hut", 2, "elements");
    row("shape set-back hut.noonward hut --storey 1 --by 9 --out no.noonward", 1, "nothing of");
    row("shape set-back hut.noonward barn --out no.noonward", 2, "no element called \"barn\"");
    row("shape mirror hut.noonward hut --line 8 0 8 1 --copies --out two.noonward", 0, "Hut copy 1");
    row("shape row hut.noonward hut --right 3 --step-right 9 0 --out row.noonward", 0, "Hut copy 2");
    row("shape row hut.noonward hut --right 3 --out no.noonward", 1, "same place");
    row("shape align hut.noonward hut hut --to nowhere --out no.noonward", 2, "middle-x");
    row("shape group hut.noonward hut --name Yard --out group.noonward", 0, "in Yard");
    row("shape cut missing.noonward hut --line 3 -1 3 9", 1, "missing.noonward");
    row("probe yard.noonward --point 0,0,0.1", 0, "h of sun");
    row("probe yard.noonward --point 0,0", 2, "x,y,z");
    row("probe yard.noonward --point 0,0,0.1 --normal 0,0,0", 2, "x,y,z");
    row("why yard.noonward --study sun-hours --sensor x", 2, "--study");
    row("why yard.noonward --study sky-view --sensor nobody", 2, "no sensor called");
    row("rooms yard.noonward", 0, "room");
    row("options yard.noonward", 0, "");
    row("compare yard.noonward A B", 2, "");
    row("runs yard.noonward", 0, "");
    row("record yard.noonward --out r", 0, "record in r, claims ");
    row("record yard.noonward --out r --study Nobody", 2, "no study \"Nobody\"");
    row("record yard.noonward --out r --since nowhere", 1, "");
    row("record yard.noonward --out r --page a7", 2, "--page");
    row("record-changes nowhere r", 1, "");
    row("receivers yard.noonward --from nowhere.csv", 1, "");
    row("receivers yard.noonward --dwellings Nobody", 2, "no mass is called \"Nobody\"");
    row("receivers yard.noonward --bay 3", 2, "--dwellings");
    row("receivers yard.noonward --from t.csv --group Yard", 2, "excludes");
    row("receivers yard.noonward --dwellings Old --option B", 2, "excludes");
    row("judge yard.noonward --robust --json", 0, "By steps");
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
    // shading
    row("shade", 2, "subcommand");
    row("shade report hut.noonward", 0, "Room: Window");
    row("shade report hut.noonward --csv shade.csv", 0, "all to the south");
    row("shade report hut.noonward --shares day.csv --every 10", 0, "");
    row("shade report hut.noonward --keep-out 1Jun-31Aug", 2, "is no season");
    row("shade report hut.noonward --keep-out-from 24", 2, "weather");
    row("shade report hut.noonward --points 0", 2, "--points");
    row("shade report yard.noonward", 1, "no window");
    row("shade size hut.noonward --rule Brim --goal 60 --look", 0, "keeps out 60");
    row("shade size hut.noonward --rule Brim --goal 99.9 --most 0.3", 1, "out of reach");
    row("shade size hut.noonward --rule Brim --goal 200", 2, "--goal");
    row("shade size hut.noonward --rule Shutter", 2, "there is \"Brim\"");
    row("shade size hut.noonward --rule Brim --what spacing", 1, "no spacing");
    row("shade size yard.noonward --rule Brim", 2, "no shading");
    row("shade size hut.noonward --rule Brim --window Door", 2, "no window is called");
    row("shade dial hut.noonward --window none --out dial.png", 2, "there is \"Room: Window\"");
    row("shade dial hut.noonward --window w --projection mercator --out dial.png", 2, "--projection");
    // sheets and films
    row("sheet hut.noonward", 2, "--out");
    row("sheet hut.noonward --out s.bmp", 2, ".pdf");
    row("sheet hut.noonward --out s.png --side south --hours 12 --date 2026-06-21 --pixels 0.5", 0,
        "South side, 21 Jun: 12:00");
    row("sheet hut.noonward --out s.pdf --side up", 2, "--side");
    row("sheet hut.noonward --out s.pdf --hours noon", 2, "is no hour");
    row("sheet hut.noonward --out s.pdf --date 31Feb", 2, "is no day");
    row("sheet hut.noonward --out s.pdf --of Shed", 2, "nothing is called");
    row("sheet hut.noonward --out s.pdf --beside B", 2, "no option");
    row("film hut.noonward --out f --step 240 --size 200x150", 0, "5 frames");
    row("film hut.noonward --out f.avi --step 240", 1, ".webm");
    row("film hut.noonward --out f --from 9:00 --to 8:00", 1, "a frame at least");
    row("film hut.noonward --out f --along A,B", 1, "no saved view");
    row("film hut.noonward --out f --size big", 2, "--size");
    row("film hut.noonward --out f --date someday", 2, "--date");
    // tables, skies, weather
    row("metrics lux.csv --all-hours", 0, "desk");
    row("metrics lux.csv", 1, "8760");
    row("metrics bad.csv --all-hours", 1, "no number");
    row("metrics none.csv", 1, "none.csv");
    row("metrics lux.csv --against measured.csv", 0, "n 2, left out 0");
    row("metrics lux.csv --against short.csv", 1, "2 rows");
    row("metrics lux.csv --against other.csv", 1, "no sensor");
    row("metrics lux.csv --against none.csv", 1, "none.csv");
    row("sky --sky cie-12", 1, "moment");
    row("sky --sky mauve", 2, "is no sky");
    row("sky --sky uniform --direction 45", 2, "--direction");
    row("weather none.epw", 2, "subcommand");
    row("weather check none.epw", 1, "none.epw");
    row("weather split none.epw", 1, "none.epw");
    row("weather split none.epw --model best", 2, "--model");
    row("weather shift none.epw --by shift.json --out warm.epw", 1, "none.epw");
    row("weather shift none.epw --by shift.json", 2, "--out");
    row("weather split year.epw --model erbs --out split.epw", 0, "Erbs");
    row("weather shift year.epw --by shift.json --out warm.epw", 0, "");
    row("weather show year.epw --against bay.epw", 0, "+6.9");
    row("weather show year.epw --against bay.epw --json", 0, "more");
    row("weather show year.epw --column albedo", 0, "0.2");
    row("weather show year.epw --column albedo --json", 0, "by_hour");
    row("weather show year.epw --column colour", 2, "There is no column");
    row("weather mix year.epw --with year.epw --months 6 8 --out mixed.epw", 0, "");
    row("weather mix year.epw --with bay.epw --months 6 8 --out mixed.epw", 1, "km apart");
    row("weather mix year.epw --with year.epw --months 0 8 --out mixed.epw", 2, "--months");
    row("weather move year.epw --hours 1 --out late.epw", 0, "");
    row("weather move none.epw --hours 1 --out late.epw", 1, "none.epw");
    row("weather make none.csv --out made.epw", 2, "none.csv");
    row("weather fetch none.epw", 1, "none.epw");
    row("measured none.noonward none.csv", 2, "none.csv");
    row("stand-in logger none.noonward --out log.csv", 1, "none.noonward");
    row("stand-in weather --folder nowhere", 1, "No weather years");
    row("measured yard.noonward", 2, "--kept");
    row("measured yard.noonward --kept Roof", 2, "keeps no series");
    row("sweep yard.noonward", 2, "The project has no sweep");
    row("sweep yard.noonward --name Walls", 2, "The project has no sweep");
    row("sweep yard.noonward --file none.json", 2, "none.json");
    row("sweep yard.noonward --file else.json", 2, "name");
    row("sweep yard.noonward --file step.json", 2, "a step above 0");
    row("sweep yard.noonward --file gaol.json", 2, "\"goals\" is");
    row("sweep yard.noonward --file sweep.json --cost", 0, "5 runs of 5 combinations");
    row("sweep yard.noonward --file sweep.json", 0, "Most volume with run");
    row("sweep yard.noonward --file sweep.json --part 3/2", 2, "--part");
    row("sweep yard.noonward --file sweep.json --part 1/2 --out half", 0, "3 of 5 runs");
    row("merge half", 1, "2 of 5 runs are in no part");
    row("merge .", 1, "holds no part");
    row("merge none.json", 1, "none.json");
    row("sweep yard.noonward --file sweep.json --take 9", 2, "there are 5");
    row("sweep yard.noonward --file sweep.json --take 2 --as Low", 0, "");
    row("compare two.noonward A B --study Spring --csv beside.csv --xlsx beside.xlsx --picture beside.svg", 0,
        "Spring");
    row("compare two.noonward A B --study Summer", 1, "no study \"Summer\"");
    row("compare two.noonward A Low:3", 2, "no sweep \"Low\"");
    row("compare two.noonward A", 2, "two designs or more");
    row("compare two.noonward A B --study Spring --csv no/such/beside.csv", 1, "beside.csv");
    row("sweep yard.noonward --file sweep.json --xlsx wall.xlsx --picture wall.pdf", 0, "Most volume");
    row("sweep yard.noonward --file sweep.json --picture wall.bmp", 1, "");
    row("merge half --xlsx half.xlsx", 1, "2 of 5 runs are in no part");
    row("least-change yard.noonward --file sweep.json", 0, "No single step back passes");
    row("least-change yard.noonward --file step.json", 2, "a step above 0");
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
    row("sweep yard.noonward --file sweep.json --json", "sweep rows all key outcomes best");
    row("least-change yard.noonward --file sweep.json --json", "text found nearest single edge tried coarse full");
    row("judge yard.noonward --json", "yardstick title outcome text figure needed unit before rows notes");
    row("probe yard.noonward --point 0,0,0.1 --json", "sun_hours_of_year year skyline step_seconds");
    row("rooms yard.noonward --json", "");
    row("sun --latitude 52 --longitude 13 --zone UTC --at 2026-06-21T12:00:00 --json", "");
    row("sky --sky uniform --json", "sky zenith_cd_m2 horizontal_diffuse_lx vertical_diffuse_lx");
    row("metrics lux.csv --all-hours --json", "hours threshold_lux space sensors");
    row("metrics lux.csv --against measured.csv --json", "n mbe nmbe rmse cv_rmse r2 slope left_out sensors");
    row("finishes", "finishes glazings");
    row("shade report hut.noonward --json", "hours windows sides");
    row("shade size hut.noonward --rule Brim --goal 50 --look --json", "reached value_m windows tried before after");
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

  void aSweepThatIsKilledGoesOnWhereItWas() {
    write("long.noonward", QByteArray(yard).replace("\"Yard\",\n", "\"Long\",\n"));
    write(
        "long.json",
        R"({"name": "Wall", "vary": [{"name": "h", "at": "elements/Wall/mass/height", "from": 2, "to": 40, "step": 0.1}],
      "outcomes": [{"name": "lux", "study": "Noon", "figure": "mean"}, {"name": "sun", "study": "Spring", "figure": "mean"}]})");
    const QStringList call{"sweep", "long.noonward", "--file", "long.json", "--out"};
    QProcess p;
    p.setWorkingDirectory(folder_.path());
    p.start(NOONWARD_CLI, call + QStringList{"killed"});
    const QString table = folder_.filePath("killed/table.json");
    for (int k = 0; k < 3000 && !QFile::exists(table) && p.state() != QProcess::NotRunning; ++k) p.waitForFinished(20);
    p.kill();
    QVERIFY(p.waitForFinished(20000));
    // What it kept on the way is whole, whenever it was killed.
    const auto read = [&](const QString& name) {
      QFile f(folder_.filePath(name));
      return f.open(QIODevice::ReadOnly) ? f.readAll() : QByteArray();
    };
    if (QFile::exists(table)) {
      const QJsonObject some = QJsonDocument::fromJson(read("killed/table.json")).object();
      QVERIFY(some["rows"].toArray().size() > 0);
    }
    // It goes on from the store to what a run that nobody killed gives.
    const Ran again = cli(folder_.path(), call + QStringList{"killed"});
    QVERIFY2(again.code == 0, qPrintable(again.err));
    const Ran whole = cli(folder_.path(), call + QStringList{"whole", "--no-store"});
    QVERIFY2(whole.code == 0, qPrintable(whole.err));
    QVERIFY(read("whole/table.json").size() > 1000);
    QCOMPARE(read("killed/table.json"), read("whole/table.json"));
  }

  void whatTheProposalTakesStandsBesideTheValues() {
    const Ran ran = cli(folder_.path(), {"run", "yard.noonward", "--difference", "--no-store", "--out", "t"});
    QVERIFY2(ran.code == 0, qPrintable(ran.err));
    QFile f(folder_.filePath("t/sun-hours.csv"));
    QVERIFY(f.open(QIODevice::ReadOnly));
    const QStringList rows = QString::fromUtf8(f.readAll()).split('\n', Qt::SkipEmptyParts);
    QCOMPARE(rows[0], QString("sensor,x,y,z,nx,ny,nz,hours,longest_hours,first,last,before,difference"));
    double lost = 0;
    for (int k = 1; k < rows.size(); ++k) {
      const QStringList c = rows[k].split(',');
      QCOMPARE(c.size(), 13);
      QVERIFY(std::abs(c[11].toDouble() + c[12].toDouble() - c[7].toDouble()) < 1e-4);
      lost -= c[12].toDouble();
    }
    QVERIFY2(lost > 5, qPrintable(QString::number(lost))); // the wall is proposed
  }

  void shadowsLeaveAsFiles() {
    for (const char* file : {"s.geojson", "s.dxf", "s.csv", "s.svg", "s.pdf"}) {
      const Ran ran = cli(folder_.path(), {"shadows", "yard.noonward", "--date", "2026-03-21", "--step", "120",
                                           "--roofs", "--out", file, "--json"});
      QVERIFY2(ran.code == 0, qPrintable(ran.err));
      QVERIFY(QFile(folder_.filePath(file)).size() > 200);
      const QJsonObject all = QJsonDocument::fromJson(ran.out.toUtf8()).object();
      QCOMPARE(all["moments"].toArray().size(), 3);
      QVERIFY(all["net_new_m2_h"].toDouble() > 0);
      double sum = 0;
      for (const auto& m : all["moments"].toArray()) sum += 2 * m.toObject()["net_new_m2"].toDouble();
      QVERIFY(std::abs(sum - all["net_new_m2_h"].toDouble()) < 1e-6 * sum);
    }
    QFile f(folder_.filePath("s.geojson"));
    QVERIFY(f.open(QIODevice::ReadOnly));
    QVERIFY(QJsonDocument::fromJson(f.readAll()).object()["features"].toArray().size() >= 6);
  }

  void aSizedShadeIsKept() {
    // Sized by the command, read again: the report says what was asked for, and a centimetre less does not do.
    QCOMPARE(cli(folder_.path(), {"shade", "size", "hut.noonward", "--rule", "Brim", "--goal", "60"}).code, 0);
    const auto kept = [&] {
      const Ran r = cli(folder_.path(), {"shade", "report", "hut.noonward", "--json"});
      return QJsonDocument::fromJson(r.out.toUtf8())
          .object()["windows"]
          .toArray()[0]
          .toObject()["unwanted"]
          .toObject()["taken_by_shading_percent"]
          .toDouble();
    };
    QVERIFY2(kept() >= 60 - 1e-9 && kept() < 60.3, qPrintable(QString::number(kept())));
    // A whole day of the year for each window, and the hours asked for in the call itself.
    QCOMPARE(cli(folder_.path(), {"shade", "report", "hut.noonward", "--shares", "day.csv", "--date", "21 Mar"}).code,
             0);
    QFile csv(folder_.filePath("day.csv"));
    QVERIFY(csv.open(QIODevice::ReadOnly));
    const QList<QByteArray> lines = csv.readAll().trimmed().split('\n');
    QCOMPARE(lines.size(), 2);
    QCOMPARE(lines[0].split(',').size(), 5 + 289);
    QCOMPARE(lines[1].split(',').size(), 5 + 289);
    const Ran winter =
        cli(folder_.path(), {"shade", "report", "hut.noonward", "--keep-out", "1 Dec - 31 Jan, 9:00 - 12:00"});
    QVERIFY2(winter.out.contains("1 Dec–31 Jan"), qPrintable(winter.out.left(200)));
    const Ran bmp =
        cli(folder_.path(), {"shade", "dial", "hut.noonward", "--window", "Room: Window", "--out", "d.bmp"});
    QVERIFY2(bmp.code == 1 && bmp.err.contains(".svg"), qPrintable(bmp.err));
    for (const char* file : {"dial.png", "dial.svg", "dial.pdf"}) {
      const Ran r = cli(folder_.path(), {"shade", "dial", "hut.noonward", "--window", "Room: Window", "--out", file});
      QVERIFY2(r.code == 0, qPrintable(r.err));
      QVERIFY(QFileInfo(folder_.filePath(file)).size() > 8000);
    }
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
