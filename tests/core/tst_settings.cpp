// The description of the settings of studies: what follows from it for files, hashes, commands, sheets and docs, for
// every field of every kind alike.

#ifndef Q_MOC_RUN
#include "core/model/rooms/placing.h"
#include "core/model/settings/study_fields.h"
#include "core/runs/answer.h"
#include "tests/house.h"
#include <QFile>
#include <QtTest>
#endif

using namespace noonward;

namespace {

/// Another value for each field, as a file would have it; sound, and not the default.
const std::map<std::string, Json>& others() {
  static const std::map<std::string, Json> list{
      {"dates", Json::array({"2026-04-05", "2026-12-21"})},
      {"season", Json{{"name", "Spring"}, {"from", "1 Mar"}, {"to", "31 May"}, {"begin", "7:30"}, {"end", "16:00"}}},
      {"window", Json::array({"10:00", "14:30"})},
      {"counting", "steps"},
      {"step", 15},
      {"sample", "ends"},
      {"min-altitude", 12.5},
      {"altitude", "apparent"},
      {"amount", "daily-mean"},
      {"view-figure", "distance"},
      {"glare-limit", 0.35},
      {"glare-source", 1500},
      {"sky", Json{{"kind", "cie-7"}, {"moment", "2026-06-21T14:00:00"}}},
      {"error", 4.5},
      {"seed", 17},
      {"max-samples", 4096},
      {"sunshine", Json::array({10, 20, 30, 40, 50, 60, 61, 51, 41, 31, 21, 11})},
      {"threshold", 500},
      {"blinds", "irradiance"},
      {"schedule", Json::array({"7:00", "19:30"})},
      {"stop-when-certain", "provision"},
      {"provision-reading", "own-hours"},
      {"confidence", 95.5},
      {"weekdays", true},
      {"clock-changes", false},
      {"share-of-hours", 60.5},
      {"ase-threshold", 2000},
      {"ase-hours", 300},
      {"closes-at", 1500},
      {"closes-above", 5.25},
      {"closes-at-irradiance", 150},
      {"closes-at-glare", 0.45},
      {"shut", Json::array({"11:00", "15:00"})},
      {"blinds-of", Json{{"r1, south", "never"}}},
      {"fabric-direct", 1.5},
      {"fabric-diffuse", 8},
      {"fabric-reflectance", 45},
      {"useful", Json::array({150, 400, 2500})},
      {"glass-kept", 80},
      {"illuminance", "weather"},
      {"steps", Json::array({30, 50, 70})}};
  return list;
}

/// What no field of that key may be.
const std::map<std::string, std::vector<Json>>& faulty() {
  static const std::map<std::string, std::vector<Json>> list{
      {"dates", {Json::array({"someday"}), 12, Json::array({3})}},
      {"season", {Json{{"from", "March"}}, Json{{"begin", "noon"}}, 3}},
      {"window", {"noon", Json::array({"9:00"}), Json::array({"9:00", "late"}), 9}},
      {"counting", {"roughly", 1, true}},
      {"step", {0, 61, 7.5, "ten"}},
      {"sample", {"start", 0}},
      {"min-altitude", {-1, 90, "low"}},
      {"altitude", {"high"}},
      {"amount", {"mean", 2}},
      {"view-figure", {"far", 2}},
      {"glare-limit", {0.1, 2, "high"}},
      {"glare-source", {0, "bright"}},
      {"sky",
       {"blue", Json{{"kind", "cie-16"}}, Json{{"kind", "cie-1"}, {"moment", "noon"}},
        Json{{"kind", "uniform"}, {"diffuse", -1}}}},
      {"error", {0, 51, "small", Json::array({1})}},
      {"seed", {-1, 1.5, "x"}},
      {"max-samples", {1, "many"}},
      {"sunshine",
       {"often", Json::array({1, 2, 3}), Json::array({0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0}),
        Json::array({1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 101})}},
      {"threshold", {-5, 2e6, "300 lx"}},
      {"blinds", {"drawn", 1, true}},
      {"schedule", {Json::array({"18:00", "8:00"}), "8:00", Json::array({"8:00", "8:00"}), Json::array({8, 18})}},
      {"stop-when-certain", {"never", false}},
      {"provision-reading", {"both"}},
      {"confidence", {49, 100, "sure"}},
      {"weekdays", {"yes", 1}},
      {"clock-changes", {"no", 0}},
      {"share-of-hours", {-1, 101}},
      {"ase-threshold", {-1}},
      {"ase-hours", {-1, 8761}},
      {"closes-at", {-1}},
      {"closes-above", {-1, 101}},
      {"closes-at-irradiance", {-1, 2001}},
      {"closes-at-glare", {0.1, 1.2, "bright"}},
      {"shut", {Json::array({"15:00"}), "noon"}},
      {"blinds-of", {Json{{"r1", "sometimes"}}, Json::array(), "never"}},
      {"fabric-direct", {-1, 101}},
      {"fabric-diffuse", {-1, 101}},
      {"fabric-reflectance", {-1, 101, "white"}},
      {"useful", {Json::array({300, 100, 3000}), Json::array({100, 300}), 300, Json::array({-1, 300, 3000})}},
      {"glass-kept", {0, 101}},
      {"illuminance", {"file", true}},
      {"steps", {Json::array({75, 55, 40}), Json::array({1, 2, 3, 4}), 40}}};
  return list;
}

Study studyOf(StudyKind kind) {
  Study s;
  s.kind = kind;
  return s;
}
Study with(Study s, const Field<Study>& f, const Json& value) {
  const Outcome o = setField(f, s, value);
  if (!o) qFatal("%s: %s", f.key.c_str(), o.error().text().c_str());
  return s;
}
bool same(const Study& a, const Study& b) {
  return a.sunHours == b.sunHours && a.light == b.light && a.year == b.year;
}
Digest hashOf(const Study& s) {
  Hasher h;
  hashStudyFields(h, s);
  return h.digest();
}
/// A row for each field that a kind goes by.
void everyField(bool withRows = false) {
  QTest::addColumn<int>("kind");
  QTest::addColumn<QString>("key");
  for (const StudyKindFacts& k : studyKinds)
    for (const Field<Study>& f : studyFields(k.kind))
      if (usesField(k.kind, f.key) && !(withRows && f.rows.empty()))
        QTest::addRow("%s %s", k.key, f.key.c_str()) << int(k.kind) << QString(f.key.c_str());
}
const Field<Study>& fieldOf(StudyKind kind, const QString& key) {
  for (const Field<Study>& f : studyFields(kind))
    if (f.key == key.toStdString()) return f;
  qFatal("no field");
}

} // namespace

class TestSettings : public QObject {
  Q_OBJECT
private slots:
  void everyKindHasItsRow() {
    std::set<std::string> keys, names;
    for (const StudyKindFacts& k : studyKinds) {
      QVERIFY(&factsOf(k.kind) == &k);
      QVERIFY(studyFromKey(k.key) == k.kind);
      QVERIFY2(keys.insert(k.key).second && names.insert(k.name).second, k.key);
      QVERIFY2(k.threshold > 0 && k.step > 0, k.key);
      QVERIFY2(factsOf(k.rulesOf).judged == k.judged, k.key);
      std::istringstream uses(k.uses); // no misspelt key
      for (std::string word; uses >> word;)
        QVERIFY2(word == "*" || std::any_of(studyFields(k.kind).begin(), studyFields(k.kind).end(),
                                            [&](const Field<Study>& f) { return f.key == word; }),
                 word.c_str());
    }
    QVERIFY(!studyFromKey("sun"));
  }

  void noMemberIsForgotten() {
    // Whoever adds a member describes it, and then puts the new size here. YearSettings::keepSeries is none of the
    // question.
    static_assert(sizeof(SunHoursSettings) == 128 && sizeof(LightSettings) == 336 && sizeof(YearSettings) == 296,
                  "a member of a settings struct has no description");
    for (const StudyKindFacts& k : studyKinds)
      for (const Field<Study>& f : studyFields(k.kind)) {
        QVERIFY2(others().contains(f.key), f.key.c_str());
        QVERIFY2(faulty().contains(f.key), f.key.c_str());
        QVERIFY2(!f.expected.empty(), f.key.c_str());
      }
  }

  void aValueSurvivesTheFile_data() { everyField(); }
  void aValueSurvivesTheFile() {
    QFETCH(int, kind);
    QFETCH(QString, key);
    const Field<Study>& f = fieldOf(StudyKind(kind), key);
    Study s = studyOf(StudyKind(kind));
    if (key == "closes-at-irradiance") s.year.blinds = BlindRule::Irradiance; // kept only where they matter
    if (key == "closes-at-glare") s.year.blinds = BlindRule::Glare;
    if (key == "shut") s.year.blinds = BlindRule::Schedule;
    const Study before = s;
    s = with(std::move(s), f, others().at(f.key));
    QVERIFY(!same(s, before)); // and so every comparison sees it
    Json j = Json::object();
    writeStudyFields(j, s);
    Study read = studyOf(s.kind);
    JsonFault fault;
    {
      JsonObject o(j, "", fault);
      readStudyFields(o, read);
      QVERIFY2(o.extra().empty(), o.extra().c_str());
    }
    QVERIFY2(!fault.error, fault.error ? fault.error->text().c_str() : "");
    QVERIFY(fault.unknown.empty());
    Json again = Json::object();
    writeStudyFields(again, read);
    QCOMPARE(again.dump(), j.dump());
    QVERIFY(same(read, s));
  }

  void aFaultIsToldWithItsKeyAndNothingChanges_data() { everyField(); }
  void aFaultIsToldWithItsKeyAndNothingChanges() {
    QFETCH(int, kind);
    QFETCH(QString, key);
    const Field<Study>& f = fieldOf(StudyKind(kind), key);
    for (const Json& bad : faulty().at(f.key)) {
      Study s = studyOf(StudyKind(kind));
      const Outcome o = setField(f, s, bad);
      QVERIFY2(!o, bad.dump().c_str());
      QVERIFY2(o.error().place.starts_with(f.key), o.error().text().c_str());
      QVERIFY2(o.error().message.size() > 12, o.error().message.c_str());
      // By command line: the same, and the study stays as it was.
      Study told = studyOf(StudyKind(kind));
      const Study before = told;
      const std::string text = f.key + "=" + (bad.is_string() ? bad.get<std::string>() : bad.dump());
      QVERIFY2(!setStudyField(told, text, 2026), text.c_str());
      QVERIFY(same(told, before));
    }
  }

  void theHashChangesExactlyWithWhatIsAsked_data() { everyField(); }
  void theHashChangesExactlyWithWhatIsAsked() {
    QFETCH(int, kind);
    QFETCH(QString, key);
    const Field<Study>& f = fieldOf(StudyKind(kind), key);
    Study s = studyOf(StudyKind(kind));
    for (const bool matters : {false, true}) {
      if (matters) { // others so that it does
        if (key == "step" || key == "sample") s.sunHours.counting = Counting::Stepped;
        if (key == "altitude") s.sunHours.minAltitude = 0.1;
        if (key == "closes-at-irradiance") s.year.blinds = BlindRule::Irradiance;
        if (key == "closes-at-glare") s.year.blinds = BlindRule::Glare;
        if (key == "shut") s.year.blinds = BlindRule::Schedule;
        if (key == "provision-reading") s.year.stopFor = StopFor::Provision;
        QVERIFY(f.isIn(s));
      }
      const Study changed = with(s, f, others().at(f.key));
      const bool differs = hashOf(changed) != hashOf(s);
      QCOMPARE(differs, f.asked && f.isIn(s));
    }
  }

  void equalQuestionsHaveEqualKeysWhateverDoesNotMatter() {
    Project p = test::houseOfTheYear(1.5);
    Study s = studyOf(StudyKind::Vsc);
    const Digest key = studyDigest(p, s);
    s.light.error = 0.5; // sky exposure is always wanted to 0.05 points
    s.year.blinds = BlindRule::Never;
    QVERIFY(studyDigest(p, s) == key);
    s.light.seed = 2;
    QVERIFY(studyDigest(p, s) != key);
    Study year = studyOf(StudyKind::Year);
    const Digest asked = studyDigest(p, year);
    year.year.closesAtIrradiance = 1; // nobody closes by it
    year.year.keepSeries = true;
    QVERIFY(studyDigest(p, year) == asked);
    year.year.metrics.useful[2] = 2000;
    QVERIFY(studyDigest(p, year) != asked);
  }

  void rowsOfASheetTakeWhatTheyShow_data() { everyField(true); }
  void rowsOfASheetTakeWhatTheyShow() {
    QFETCH(int, kind);
    QFETCH(QString, key);
    const Field<Study>& f = fieldOf(StudyKind(kind), key);
    const Study s = with(studyOf(StudyKind(kind)), f, others().at(f.key));
    for (const FieldRow<Study>& row : f.rows) {
      const std::string shown = row.text(s);
      QVERIFY2(!shown.empty(), row.name.c_str());
      Study typed = s;
      QCOMPARE(row.take(typed, shown), std::string());
      QVERIFY2(same(typed, s), shown.c_str()); // what is shown and typed again changes nothing
      Study kept = s;
      for (const char* bad : {"not a value", "-99999999", "1e999"}) {
        const std::string expected = row.take(kept, bad);
        QVERIFY2(!expected.empty(), (row.name + " took " + bad).c_str());
        QVERIFY(same(kept, s));
      }
      for (const FieldChoice& c : row.choices) {
        Study chosen = s;
        QCOMPARE(row.take(chosen, c.words), std::string());
        QCOMPARE(row.text(chosen), c.words);
      }
    }
  }

  void unitsMayBeTypedOrLeftOut() {
    Study s = studyOf(StudyKind::Year);
    const auto row = [&](const char* key) { return fieldOf(StudyKind::Year, key).rows.front(); };
    for (const char* text : {"45", "45 %", "45%", " 45 % ", "45,0"}) {
      QCOMPARE(row("share-of-hours").take(s, text), std::string());
      QCOMPARE(s.year.metrics.autonomy, 0.45);
    }
    QCOMPARE(row("closes-at-irradiance").take(s, "180 W/m²"), std::string());
    QCOMPARE(s.year.closesAtIrradiance, 180.0);
    QCOMPARE(row("share-of-hours").take(s, "145"), std::string("0 to 100 %"));
    QCOMPARE(row("schedule").take(s, "20:00"), std::string("a clock time, the beginning before the end"));
    QCOMPARE(row("fabric-reflectance").take(s, ""), std::string());
    QVERIFY(!s.year.fabricReflectance);
  }

  void commandsNameTheKeyThatWasMeant_data() {
    QTest::addColumn<QString>("kind");
    QTest::addColumn<QString>("text");
    QTest::addColumn<QString>("told"); ///< empty: taken
    QTest::newRow("number") << "year"
                            << "threshold=500"
                            << "";
    QTest::newRow("list by commas") << "year"
                                    << "schedule=9:00,17:00"
                                    << "";
    QTest::newRow("list as JSON") << "year"
                                  << "steps=[30, 60]"
                                  << "";
    QTest::newRow("object as JSON") << "year"
                                    << "blinds-of={\"r1, south\": \"never\"}"
                                    << "";
    QTest::newRow("word") << "illuminance"
                          << "sky=cie-7"
                          << "";
    QTest::newRow("months") << "sunlight-year"
                            << "sunshine=10,20,30,40,50,60,60,50,40,30,20,10"
                            << "";
    QTest::newRow("day without a year") << "sun-hours"
                                        << "dates=21 Mar,21 Jun"
                                        << "";
    QTest::newRow("misspelt") << "year"
                              << "treshold=500"
                              << "\"threshold\" is meant?";
    QTest::newRow("of another kind") << "vsc"
                                     << "sky=uniform"
                                     << "no such setting";
    QTest::newRow("no value") << "year"
                              << "threshold"
                              << "KEY=VALUE is expected";
    QTest::newRow("out of range") << "daylight-factor"
                                  << "error=80"
                                  << "0.05 to 50 %";
    QTest::newRow("no such day") << "sun-hours"
                                 << "dates=29 Feb"
                                 << "no 29 Feb in 2026";
    QTest::newRow("nested misspelt") << "illuminance"
                                     << "sky={\"kind\":\"uniform\",\"difuse\":1}"
                                     << "is no key here";
  }
  void commandsNameTheKeyThatWasMeant() {
    QFETCH(QString, kind);
    QFETCH(QString, text);
    QFETCH(QString, told);
    Study s = studyOf(*studyFromKey(kind.toStdString()));
    const Study before = s;
    const Outcome o = setStudyField(s, text.toStdString(), 2026);
    if (told.isEmpty()) {
      QVERIFY2(bool(o), o ? "" : o.error().text().c_str());
      QVERIFY(!same(s, before));
      for (const Date& d : s.sunHours.dates) QCOMPARE(d.year, 2026);
    } else {
      QVERIFY(!o);
      QVERIFY2(QString::fromStdString(o.error().text()).contains(told), o.error().text().c_str());
      QVERIFY(same(s, before));
    }
  }

  void theDocumentationSaysWhatTheDescriptionSays_data() {
    QTest::addColumn<QString>("block");
    QTest::addColumn<QString>("described");
    QTest::newRow("settings") << "settings" << QString::fromStdString(fieldsAsMarkdown());
    QTest::newRow("windows") << "windows" << QString::fromStdString(windowFieldsAsMarkdown());
    QTest::newRow("tree") << "tree" << QString::fromStdString(treeFieldsAsMarkdown());
    QTest::newRow("shading") << "shading" << QString::fromStdString(shadeFieldsAsMarkdown());
  }
  void theDocumentationSaysWhatTheDescriptionSays() {
    QFETCH(QString, block);
    QFETCH(QString, described);
    QFile file(SOURCE_TREE "/docs/project-format.md");
    QVERIFY(file.open(QIODevice::ReadOnly));
    const QString text = QString::fromUtf8(file.readAll());
    const QString begin = "<!-- " + block + ": written by the program, see tests/core/tst_settings.cpp -->\n",
                  end = "<!-- end of " + block + " -->";
    const auto from = text.indexOf(begin), to = text.indexOf(end);
    QVERIFY(from >= 0 && to > from);
    const QString stated = text.mid(from + begin.size(), to - from - begin.size());
    if (stated != described && qEnvironmentVariableIsSet("NOONWARD_WRITE_DOCS")) {
      QFile out(file.fileName());
      QVERIFY(out.open(QIODevice::WriteOnly));
      out.write((text.left(from + begin.size()) + described + text.mid(to)).toUtf8());
      QFAIL("the documentation was written anew: look at it");
    }
    QVERIFY2(stated == described, "docs/project-format.md: run tst_settings with NOONWARD_WRITE_DOCS=1");
  }

  void settingsAreListedAsASheetShowsThem() {
    Study s = studyOf(StudyKind::Year);
    s.year.metrics.threshold = 500;
    const auto list = settingTexts(s);
    const auto of = [&](const std::string& key) {
      return *std::find_if(list.begin(), list.end(), [&](const SettingText& t) { return t.key == key; });
    };
    QCOMPARE(of("threshold").value, std::string("500 lx"));
    QVERIFY(!of("threshold").isDefault);
    QCOMPARE(of("schedule").value, std::string("8:00"));
    QVERIFY(of("schedule").isDefault);
    QVERIFY(
        std::none_of(list.begin(), list.end(), [](const SettingText& t) { return t.key == "shut"; })); // matters not
    QVERIFY(settingTexts(studyOf(StudyKind::Vsc)).empty());
  }

  void valuesOfCommandsAreJsonListsOrText() {
    QCOMPARE(valueFromText("12.5").dump(), std::string("12.5"));
    QCOMPARE(valueFromText("true").dump(), std::string("true"));
    QCOMPARE(valueFromText("8:00").dump(), std::string("\"8:00\""));
    QCOMPARE(valueFromText("8:00, 18:00").dump(), std::string("[\"8:00\",\"18:00\"]"));
    QCOMPARE(valueFromText("1,2,x").dump(), std::string("[1,2,\"x\"]"));
    QCOMPARE(valueFromText("{\"a\":1}").dump(), std::string("{\"a\":1}"));
    QCOMPARE(valueFromText("").dump(), std::string("\"\""));
  }

  void aShareIsAskedBackWhereItIsUnclear() {
    QCOMPARE(shareAskedBack("0.4"), std::string("40 % or 0.4 %: write the sign with it"));
    QCOMPARE(shareAskedBack("0,05"), std::string("5 % or 0.05 %: write the sign with it"));
    for (const char* clear : {"0.4 %", "40", "0", "1", "none", ""}) QVERIFY2(shareAskedBack(clear).empty(), clear);
  }

  void keysOfEarlierFilesAreRead() {
    Study s;
    s.kind = StudyKind::Year;
    QVERIFY(setStudyField(s, "cloth-scattered=7", 2026).has_value());
    QCOMPARE(s.year.fabricDiffuse, 0.07);
    QVERIFY(setStudyField(s, "beam-hours=200", 2026).has_value());
    QCOMPARE(s.year.metrics.beamHours, 200.0);
    Json j;
    writeStudyFields(j, s);
    QVERIFY(j.contains("fabric-diffuse") && !j.contains("cloth-scattered"));
    // Both in a file: the new one counts, and the old is a key nobody reads.
    JsonFault fault;
    const Json both{{"beam", 900}, {"ase-threshold", 1100}};
    {
      JsonObject o(both, "", fault);
      Study t;
      t.kind = StudyKind::Year;
      readStudyFields(o, t);
      QCOMPARE(t.year.metrics.beam, 1100.0);
    }
    QCOMPARE(fault.unknown.size(), std::size_t(1));
    QCOMPARE(fault.unknown[0].first, std::string("beam"));
    // A fault is told by the key that is written there.
    JsonFault low;
    const Json wrong{{"cloth-scattered", -1}};
    {
      JsonObject o(wrong, "", low);
      Study t;
      t.kind = StudyKind::Year;
      readStudyFields(o, t);
    }
    QVERIFY(low.error && low.error->place.find("cloth-scattered") != std::string::npos);
  }
};

QTEST_GUILESS_MAIN(TestSettings)
#include "tst_settings.moc"
