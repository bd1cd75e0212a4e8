// What eyes see on the command line, as scripts count on it: keys, columns, exit codes; and that an hour of the table
// is the hour that `fisheye` shows.

#ifndef Q_MOC_RUN
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>
#include <cmath>
#endif

namespace {

struct Ran {
  int code = -1;
  QString out, err;
  QJsonObject json() const { return QJsonDocument::fromJson(out.toUtf8()).object(); }
};

constexpr const char* hut = R"({"format":"noonward-project","version":1,"name":"Hut",
"site":{"name":"Brevholm","latitude":55.6,"longitude":12.5,"zone":"Europe/Copenhagen","year":2026,"weather":"brevholm.epw"},
"elements":[{"name":"Hut","mass":{"outline":[[0,0],[6,0],[6,5],[0,5]],"height":3.4}}],
"rooms":[{"id":"0000000000000001","name":"Room","outline":[[0.3,0.3],[5.7,0.3],[5.7,4.7],[0.3,4.7]],"height":2.8}],
"window-rules":[{"name":"Window","facing":"south","ratio":0.35}],
"groups":[{"id":"0000000000000002","name":"Desk","eyes":true,"points":[{"at":[3,2,1.2],"normal":[0,-1,0],"name":"Desk 1"},{"at":[3,2,1.2],"normal":[0,1,0],"name":"Desk 1"}]}],
"studies":[{"id":"0000000000000003","name":"Glare","kind":"glare","groups":["Desk"],"error":10,"blinds":"never"}]})";

class TestCliEyes : public QObject {
  Q_OBJECT
  QTemporaryDir dir_;
  Ran cli(const QStringList& args) {
    QProcess p;
    p.setWorkingDirectory(dir_.path());
    p.start(NOONWARD_CLI, args);
    if (!p.waitForFinished(300000)) qFatal("the command hangs");
    return {p.exitStatus() == QProcess::NormalExit ? p.exitCode() : -1, QString::fromUtf8(p.readAllStandardOutput()),
            QString::fromUtf8(p.readAllStandardError())};
  }
  void put(const char* name, const QByteArray& text) {
    QFile f(dir_.filePath(name));
    if (!f.open(QIODevice::WriteOnly)) qFatal("no file");
    f.write(text);
  }
  QStringList lines(const char* name) {
    QFile f(dir_.filePath(name));
    return f.open(QIODevice::ReadOnly) ? QString::fromUtf8(f.readAll()).trimmed().split('\n') : QStringList{};
  }

private slots:
  void initTestCase() {
    put("hut.noonward", hut);
    QVERIFY(QFile::copy(SOURCE_TREE "/demo/brevholm.epw", dir_.filePath("brevholm.epw")));
  }

  void glareOfGivenSources() {
    put("sources.csv", "luminance_cd_m2,solid_angle_sr,azimuth_deg,altitude_deg\n20000,0.05,0,30\n");
    const Ran r = cli({"glare", "--sources", "sources.csv", "--ev", "3000", "--json"});
    QCOMPARE(r.code, 0);
    const double index = std::exp(33.98e-3 * 30 + 21e-5 * 900);
    const double byHand =
        5.87e-5 * 3000 + 9.18e-2 * std::log10(1 + 4e8 * 0.05 / (std::pow(3000, 1.87) * index * index)) + 0.16;
    QVERIFY(std::abs(r.json()["dgp"].toDouble() - byHand) < 1e-9);
    QVERIFY(std::abs(r.json()["sources"].toArray()[0].toObject()["position_index"].toDouble() - index) < 1e-9);
    put("bad.csv", "luminance_cd_m2,solid_angle_sr,azimuth_deg,altitude_deg\n20000,0.05,0\n");
    const Ran bad = cli({"glare", "--sources", "bad.csv", "--ev", "3000"});
    QVERIFY(bad.code == 1 && bad.err.contains("bad.csv:2"));
    QCOMPARE(cli({"glare", "--sources", "sources.csv", "--ev", "-1"}).code, 2);
    QCOMPARE(cli({"glare", "--sources", "none.csv", "--ev", "10"}).code, 1);
  }

  void anHourOfTheTableIsThatOfThePicture() {
    const Ran run = cli({"run", "hut.noonward", "--study", "glare", "--out", ".", "--series", "--no-store"});
    QVERIFY2(run.code == 0, qPrintable(run.err));
    const QStringList table = lines("glare.csv");
    QCOMPARE(table.size(), 3);
    QVERIFY(table[0].startsWith("eye,x,y,z,azimuth_deg,hours,share_above_035,share_above_040,share_above_045,dgp_95,"
                                "worst_hour,"));
    const QStringList south = table[1].split(',');
    QCOMPARE(south[0], "Desk 1");
    QCOMPARE(south[4].toDouble(), 180.0);
    QCOMPARE(south[5], "3650");
    QVERIFY(south[6].toDouble() >= south[7].toDouble() && south[7].toDouble() > table[2].split(',')[7].toDouble());
    QString dgp; // an hour at noon in spring
    for (const QString& line : lines("glare-series.csv"))
      if (line.startsWith("Desk 1,180.000,2026-03-21T12:30,")) dgp = line.section(',', 3);
    QVERIFY(!dgp.isEmpty());
    const Ran eye = cli({"fisheye", "hut.noonward", "--at", "3,2,1.2", "--direction", "180,0", "--moment",
                         "2026-03-21T12:30", "--pixels", "128", "--out", "eye.exr", "--json"});
    QVERIFY2(eye.code == 0, qPrintable(eye.err));
    const QJsonObject j = eye.json();
    for (const char* key : {"ev_lux", "dgp", "dgp_standard_error", "mean_cd_m2", "sources"})
      QVERIFY2(j.contains(key), key);
    for (const char* key : {"luminance_cd_m2", "solid_angle_sr", "position_index", "azimuth_deg", "altitude_deg"})
      QVERIFY2(j["sources"].toArray()[0].toObject().contains(key), key);
    QVERIFY2(std::abs(j["dgp"].toDouble() - dgp.toDouble()) < 0.012, qPrintable(dgp + " " + eye.out.left(200)));
    QVERIFY(QFile::exists(dir_.filePath("eye.exr")));
  }

  void theViewHasItsColumns() {
    const Ran run = cli({"run", "hut.noonward", "--study", "view", "--out", ".", "--no-store"});
    QVERIFY2(run.code == 0, qPrintable(run.err));
    const QStringList table = lines("view.csv");
    QVERIFY(table[0].endsWith("value,standard_error,level,sight_angle_deg,distance_m,sky,landscape,ground,view_share,"
                              "green_share,ground_share"));
    QCOMPARE(table[1].split(',')[9], "3"); // free land before the window
  }

  void wrongCallsAreSaid_data() {
    QTest::addColumn<QStringList>("args");
    QTest::addColumn<int>("code");
    QTest::addColumn<QString>("says");
    const QStringList at{"fisheye", "hut.noonward", "--at"};
    QTest::newRow("no place") << (at + QStringList{"3,2"}) << 2 << "--at x,y,z";
    QTest::newRow("no direction") << (at + QStringList{"3,2,1.2", "--direction", "south"}) << 2 << "--direction";
    QTest::newRow("a projection unheard of")
        << (at + QStringList{"3,2,1.2", "--projection", "square"}) << 2 << "equidistant";
    QTest::newRow("a falling range") << (at + QStringList{"3,2,1.2", "--range", "9,3"}) << 2 << "--range";
    QTest::newRow("in the ground") << (at + QStringList{"9,2,-1", "--sky", "cie-overcast"}) << 1 << "under the ground";
    QTest::newRow("no such sky") << (at + QStringList{"3,2,1.2", "--sky", "blue"}) << 2 << "--sky";
    QTest::newRow("another ending") << (at + QStringList{"3,2,1.2", "--sky", "cie-overcast", "--pixels", "32",
                                                         "--error", "30", "--out", "eye.bmp"})
                                    << 1 << ".png or .exr";
  }
  void wrongCallsAreSaid() {
    QFETCH(QStringList, args);
    QFETCH(int, code);
    QFETCH(QString, says);
    const Ran r = cli(args);
    QCOMPARE(r.code, code);
    QVERIFY2(r.err.contains(says), qPrintable(r.err));
  }
};

} // namespace

QTEST_GUILESS_MAIN(TestCliEyes)
#include "tst_cli_eyes.moc"
