// Every row of the Studies sheet that follows from the description of a setting: typed it is in the project, undone it
// is not, faulty it is marked and changes nothing; rows come and go with the kind of study.

#ifndef Q_MOC_RUN
#include "core/files/project/project_file.h"
#include "core/model/settings/study_fields.h"
#include "tests/app/driver.h"
#endif

using namespace noonward;
using namespace noonward::test;

namespace {

constexpr auto hut =
    R"({"format":"noonward-project","version":1,"name":"Hut","site":{"latitude":55.6,"longitude":12.5,"zone":"UTC+01:00"},
"elements":[{"name":"Hut","mass":{"outline":[[0,0],[6,0],[6,5],[0,5]],"height":3.4}}],
"rooms":[{"id":"0000000000000001","name":"Room","outline":[[0.3,0.3],[5.7,0.3],[5.7,4.7],[0.3,4.7]],"height":2.8}],
"window-rules":[{"name":"Window","facing":"south","ratio":0.3}],
"groups":[{"id":"0000000000000002","name":"Plane","rooms":{"spacing":2}}],
"studies":[{"id":"0000000000000003","name":"Asked","kind":"sun-hours","groups":["Plane"],"dates":["21 Mar"]}]})";

/// What is typed into each row, and what its file then says.
struct Typed {
  const char* row;  ///< accessible name
  const char* text; ///< typed, or chosen
  const char* key;
  const char* json;
  const char* faulty; ///< typed; none for choices
};
constexpr Typed sunRows[] = {{"Counted", "by steps", "counting", "\"steps\"", nullptr},
                             {"Step", "15 min", "step", "15", "90"},
                             {"Sampled", "both ends", "sample", "\"ends\"", nullptr},
                             {"Lowest sun", "7.5°", "min-altitude", "7.5", "95"},
                             {"Altitude", "apparent, with refraction", "altitude", "\"apparent\"", nullptr}};
constexpr Typed glareRows[] = {{"DGP above", "0.35", "glare-limit", "0.35", "2"},
                               {"Rule of the blinds", "by irradiance", "blinds", "\"irradiance\"", nullptr},
                               {"Hours from", "7:30", "schedule", "[\"7:30\",\"18:00\"]", "20:00"},
                               {"Sources from", "1500 cd/m²", "glare-source", "1500.0", "10"}};
constexpr Typed yearRows[] = {
    {"Target illuminance", "500", "threshold", "500.0", "none"},
    {"Rule of the blinds", "by irradiance", "blinds", "\"irradiance\"", nullptr},
    {"Hours from", "7:30", "schedule", "[\"7:30\",\"18:00\"]", "20:00"},
    {"Hours to", "19:00", "schedule", "[\"7:30\",\"19:00\"]", "6:00"},
    {"When the run stops", "provision certain", "stop-when-certain", "\"provision\"", nullptr},
    {"Provision by", "each point's own hours", "provision-reading", "\"own-hours\"", nullptr},
    {"Confidence", "97.5 %", "confidence", "97.5", "40"},
    {"Error of the mean", "6", "error", "6.0", "0"},
    {"Days of the year", "Monday to Friday", "weekdays", "true", nullptr},
    {"Summer time", "standard time all year", "clock-changes", "false", nullptr},
    {"Share of hours", "60 %", "share-of-hours", "60.0", "160"},
    {"ASE threshold (direct)", "900 lx", "ase-threshold", "900.0", "-1"},
    {"ASE hours", "300 h", "ase-hours", "300.0", "9000"},
    {"Closes from", "150 W/m²", "closes-at-irradiance", "150.0", "3000"},
    {"Fabric: openness", "2", "fabric-direct", "2.0", "101"},
    {"Fabric: diffuse", "12,5 %", "fabric-diffuse", "12.5", "x"},
    {"Fabric: reflectance", "40 %", "fabric-reflectance", "40.0", "140"},
    {"UDI from", "200 lx", "useful", "[100.0,200.0,3000.0]", "5000"},
    {"UDI to", "2500", "useful", "[100.0,200.0,2500.0]", "150"},
    {"Frames and dirt keep", "80", "glass-kept", "80.0", "0"},
    {"Light from", "the file's illuminances", "illuminance", "\"weather\"", nullptr}};
constexpr Typed energyRows[] = {{"Rule of the blinds", "by irradiance", "blinds", "\"irradiance\"", nullptr},
                                {"Error of the mean", "6", "error", "6.0", "0"},
                                {"Closes from", "150 W/m²", "closes-at-irradiance", "150.0", "3000"},
                                {"Fabric: openness", "2", "fabric-direct", "2.0", "101"},
                                {"Frames and dirt keep", "80", "glass-kept", "80.0", "0"}};
constexpr Typed lightRows[] = {{"Error at sensors", "4 %", "error", "4.0", "0"}};
constexpr Typed sunshineRows[] = {{"Sunshine by month", "10 20 30 40 50 60 61 51 41 31 21 11", "sunshine",
                                   "[10.0,20.0,30.0,40.0,50.0,60.0,61.0,51.0,41.0,31.0,21.0,11.0]", "10 20 30"}};

std::span<const Typed> rowsOf(StudyKind kind) {
  switch (factsOf(kind).settings) {
  case SettingsOf::SunHours:
    return sunRows;
  case SettingsOf::Year:
    if (usesField(kind, "glare-limit")) return glareRows;
    if (!usesField(kind, "schedule")) return energyRows;
    return yearRows;
  case SettingsOf::Light:
    if (usesField(kind, "sunshine")) return sunshineRows;
    if (usesField(kind, "error")) return lightRows;
  }
  return {};
}

} // namespace

class TestSettingsWindow : public QObject {
  Q_OBJECT
  QTemporaryDir dir_;
  int n_ = 0;
  std::unique_ptr<MainWindow> open(StudyKind kind) {
    const QString path = dir_.filePath(QString("hut-%1.noonward").arg(++n_));
    QFile f(path);
    if (!f.open(QIODevice::WriteOnly)) qFatal("no file");
    f.write(QByteArray(hut).replace("sun-hours", studyKey(kind)));
    f.close();
    auto w = openWindow();
    if (!w->openProject(path.toStdString())) qFatal("the project does not open");
    QTest::keyClick(w.get(), Qt::Key_5, Qt::AltModifier);
    for (const char* fold : {"How it is counted", "Hours, confidence, ASE and shade fabric"})
      if (auto* b = named<QPushButton>(*w, fold); b->isVisible()) click(b);
    return w;
  }
  static std::string fieldNow(MainWindow& w, const char* key) {
    const Study& s = w.document().project().studies.front();
    Json j = Json::object();
    for (const Field<Study>& f : studyFields(s.kind))
      if (f.key == key) f.write(j, s);
    return j.contains(key) ? j[key].dump() : "";
  }

private slots:
  void rowsTypedAreInTheProjectAndUndone_data() {
    QTest::addColumn<int>("kind");
    for (const StudyKindFacts& k : studyKinds)
      if (!rowsOf(k.kind).empty()) QTest::newRow(k.key) << int(k.kind);
  }
  void rowsTypedAreInTheProjectAndUndone() {
    QFETCH(int, kind);
    auto w = open(StudyKind(kind));
    w->studies().setLive(false);
    for (const Typed& t : rowsOf(StudyKind(kind))) {
      const std::string before = fieldNow(*w, t.key);
      const auto type = [&](const char* text) {
        auto* widget = named<QWidget>(*w, t.row);
        QVERIFY2(widget->isVisible(), t.row);
        QVERIFY2(widget->isEnabled(), t.row);
        qobject_cast<QComboBox*>(widget) ? choose(*w, t.row, text) : fill(*w, t.row, text);
      };
      if (t.faulty) {
        type(t.faulty);
        QVERIFY2(fieldNow(*w, t.key) == before, t.row);
        auto* line = named<QLineEdit>(*w, t.row);
        QVERIFY2(line->styleSheet().contains("border"), t.row); // marked
        QVERIFY2(line->toolTip().startsWith("Expected here: "), qPrintable(line->toolTip()));
      }
      type(t.text);
      QVERIFY2(fieldNow(*w, t.key) == t.json, (std::string(t.row) + ": " + fieldNow(*w, t.key)).c_str());
      if (t.faulty) QVERIFY2(named<QLineEdit>(*w, t.row)->styleSheet().isEmpty(), t.row); // and no longer
      QVERIFY2(w->document().canUndo(), t.row);
      while (fieldNow(*w, t.key) != before) { // choosing by keys may take several steps
        QVERIFY2(w->document().canUndo(), t.row);
        w->document().undo();
      }
      while (fieldNow(*w, t.key) != t.json) {
        QVERIFY2(w->document().canRedo(), t.row);
        w->document().redo();
      }
    }
    // All of it survives the file.
    const auto file = dir_.filePath(QString("saved-%1.noonward").arg(n_)).toStdString();
    QVERIFY(w->document().save(file));
    const auto read = readProject(file);
    QVERIFY(read.has_value());
    const Study &is = w->document().project().studies.front(), &was = read->project.studies.front();
    QVERIFY(is.sunHours == was.sunHours);
    QVERIFY(is.light == was.light);
    QVERIFY(is.year == was.year);
  }

  void rowsShowWhatAKindGoesBy() {
    auto w = open(StudyKind::SunHours);
    w->studies().setLive(false);
    for (const StudyKindFacts& k : studyKinds) {
      choose(*w, "Kind of study", k.name);
      QVERIFY(w->document().project().studies.front().kind == k.kind);
      for (const StudyKindFacts& other : studyKinds)
        for (const Field<Study>& f : studyFields(other.kind))
          for (const FieldRow<Study>& row : f.rows) {
            if (f.folded) continue; // hidden with its fold
            const bool wanted = other.settings == k.settings && usesField(k.kind, f.key);
            const QString name = QString::fromStdString(row.spoken.empty() ? row.name : row.spoken);
            auto* input = named<QWidget>(*w, name);
            if (wanted) QVERIFY2(input->isVisible(), qPrintable(name + " in " + k.name));
            if (other.settings != k.settings && input->isVisible()) QFAIL(qPrintable(name + " in " + k.name));
          }
    }
  }

  void rowsThatDoNotMatterCannotBeChanged() {
    auto w = open(StudyKind::Year);
    const auto enabled = [&](const char* row) { return named<QWidget>(*w, row)->isEnabled(); };
    QVERIFY(enabled("Blinds close at"));
    QVERIFY(!enabled("Closes from") && !enabled("Shut from") && !enabled("Provision by"));
    choose(*w, "Rule of the blinds", "by the clock");
    QVERIFY(!enabled("Blinds close at") && !enabled("Closes from") && enabled("Shut from"));
    choose(*w, "When the run stops", "error reached");
    QVERIFY(!enabled("Confidence"));
    fill(*w, "Shut from", "11:15");
    QCOMPARE(w->document().project().studies.front().year.shutFrom, 675.0);
  }

  void aChangeOfKindKeepsWhatWasAskedOfTheOther() {
    auto w = open(StudyKind::Year);
    fill(*w, "Target illuminance", "750");
    choose(*w, "Kind of study", "Daylight factor");
    fill(*w, "Error at sensors", "7");
    choose(*w, "Kind of study", "Daylight year");
    QCOMPARE(named<QLineEdit>(*w, "Target illuminance")->text(), QString("750 lx"));
    choose(*w, "Kind of study", "Daylight factor");
    QCOMPARE(named<QLineEdit>(*w, "Error at sensors")->text(), QString("7 %"));
  }
};

QTEST_MAIN(TestSettingsWindow)
#include "tst_settings_window.moc"
