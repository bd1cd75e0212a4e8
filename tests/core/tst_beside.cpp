// Designs beside each other: which are meant, their figures against those of single runs, what moved, files, and the
// chapters of a record that tell of them and of sweeps.

#ifndef Q_MOC_RUN
#include "core/files/library.h"
#include "core/files/project/project_file.h"
#include "core/files/save_file.h"
#include "core/files/zip_file.h"
#include "core/model/options.h"
#include "core/runs/beside.h"
#include "core/runs/record/record.h"
#include "core/runs/sweep/sweep_words.h"
#include "picture/beside_picture.h"
#include "picture/picture_export.h"
#include "picture/record_pages.h"
#include "tests/house.h"
#include <QImage>
#include <QTemporaryDir>
#endif
#include <QTest>
#include <cmath>

using namespace noonward;
using namespace noonward::test;

namespace {
YardstickShelf rules() {
  return readYardsticks({SOURCE_TREE "/resources/yardsticks"});
}
/// A house of one hall, the same with a larger window and a brim, and a sweep of the window's share and the brim.
Project twoHouses() {
  Project p = houseOfTheYear(1.2);
  Study year;
  year.id = {60};
  year.kind = StudyKind::Year;
  year.name = "Year";
  year.year.error = 0.3;
  p.studies.push_back(year);
  Study sun;
  sun.id = {61};
  sun.kind = StudyKind::SunHours;
  sun.name = "Sun in March";
  sun.sunHours.dates = {{2026, 3, 21}};
  p.studies.push_back(sun);
  p = withNewOption(std::move(p), "Large window");
  p.id = ProjectId::fresh();
  p.windowRules[0].ratio = 0.6;
  ShadeRule brim;
  brim.id = {77};
  brim.name = "Overhang";
  p.shadeRules.push_back(brim);
  Sweep s;
  s.id = {70};
  s.name = "Windows";
  Variable ratio;
  ratio.name = "ratio";
  ratio.at = {"window-rules/Window/ratio"};
  ratio.range = VaryRange{0.2, 0.6, 0.2};
  Variable lux;
  lux.name = "lux";
  lux.at = {"studies/Year/threshold"};
  lux.values = {300.0, 500.0};
  s.variables = {ratio, lux};
  s.outcomes = {{"sDA", SweepOutcome::Of::Study, "Year", "sda", ""},
                {"glass", SweepOutcome::Of::Model, "", "glass-area", ""}};
  s.goals = {{"glass", SweepGoal::Kind::Least, 0}, {"sDA", SweepGoal::Kind::AtLeast, 5}};
  p.sweeps.push_back(std::move(s));
  return withOption(std::move(p), 0);
}
std::vector<DesignRef> refs(const Project& p, std::initializer_list<std::string> texts) {
  std::vector<DesignRef> out;
  for (const std::string& t : texts) {
    auto ref = designRefFromText(p, t);
    if (!ref) qFatal("%s", ref.error().text().c_str());
    out.push_back(std::move(*ref));
  }
  return out;
}
DesignRef of(const Project& p, double ratio, double lux) {
  return refOfRun(p.sweeps[0], {ratio, lux});
}
Expected<Beside> laid(const Project& p, const std::vector<DesignRef>& of, const std::string& study = {},
                      ResultStore* store = nullptr) {
  ResultStore memory{std::filesystem::path()};
  StudyRunner runner(store ? store : &memory);
  RunControl control;
  return laidBeside(p, of, study, rules(), runner, control);
}
const BesideFigure* figure(const Beside& b, const std::string& study, const std::string& name,
                           const std::string& space = {}) {
  for (const BesideFigure& f : b.figures)
    if (f.study == study && f.figure == name && f.space == space) return &f;
  return nullptr;
}
bool says(const Error& e, const char* text) {
  return QString::fromStdString(e.text()).contains(text);
}
} // namespace

class TestBeside : public QObject {
  Q_OBJECT
private slots:
  void initTestCase() { loadFonts(SOURCE_TREE "/resources"); }

  void designsAreToldByNameLetterAndRun() {
    const Project p = twoHouses();
    QCOMPARE(designName(p, refs(p, {"A"})[0]), p.options[0].name);
    QCOMPARE(designName(p, refs(p, {"Large window"})[0]), std::string("Large window"));
    // Runs by their numbers: each combination once, told by its values.
    std::set<std::string> names;
    for (int k = 1; k <= 6; ++k) {
      const DesignRef ref = refs(p, {QString("Windows:%1").arg(k).toStdString()})[0];
      const auto design = designOf(p, ref);
      QVERIFY(design);
      names.insert(designName(p, ref));
      QCOMPARE(QString::fromStdString(designName(p, ref)), QString("Windows: ratio %1, lux %2")
                                                               .arg(design->windowRules[0].ratio)
                                                               .arg(design->studies[0].year.metrics.threshold));
    }
    QCOMPARE(names.size(), std::size_t(6));
    const DesignRef run = of(p, 0.4, 300);
    QCOMPARE(designName(p, run), std::string("Windows: ratio 0.4, lux 300"));
    QCOMPARE(designsBeside(p).size(), std::size_t(2)); // where none is kept: the options
    Project one = p;
    one.options.clear();
    QCOMPARE(designsBeside(one).size(), std::size_t(1));
    for (const auto& [text, told] : {std::pair{"Windows:7", "no run 7; there are 6"},
                                     {"Nowhere:1", "no sweep \"Nowhere\""},
                                     {"Third", "no option \"Third\""},
                                     {"Windows:", "no option"},
                                     {"Windows:0", "no run 0"},
                                     {"Windows:99999999999", "no option"}})
      QVERIFY2(says(designRefFromText(p, text).error(), told), text);
    // A run of a sweep that has changed since.
    Project changed = p;
    changed.sweeps[0].variables.pop_back();
    QVERIFY(says(designOf(changed, run).error(), "does not vary lux"));
    changed = p;
    changed.sweeps[0].variables[1].name = "target";
    QVERIFY(says(designOf(changed, run).error(), "says no value of target"));
    changed.sweeps.clear();
    QVERIFY(says(designOf(changed, run).error(), "no sweep"));
  }

  void figuresAreThoseOfSingleRuns() {
    const Project p = twoHouses();
    std::vector<DesignRef> three = refs(p, {"A", "Large window"});
    three.push_back(of(p, 0.2, 300));
    const auto b = laid(p, three);
    QVERIFY2(b, b ? "" : b.error().text().c_str());
    QCOMPARE(b->designs.size(), std::size_t(3));
    QCOMPARE(b->mapped->name, std::string("Year"));
    std::set<int> rounds;
    for (std::size_t k = 0; k < 3; ++k) {
      QVERIFY(b->designs[k].fault.empty() && b->designs[k].year);
      rounds.insert(b->designs[k].year->result->rounds);
      const Study* year = nullptr;
      for (const Study& s : b->designs[k].project.studies)
        if (s.name == "Year") year = &s;
      const auto in = yearInput(b->designs[k].project, year->groups, year->year);
      QVERIFY(in);
      RunControl control;
      const YearResult alone = runYear(*in, control);
      QCOMPARE(figure(*b, "Year", "sDA")->of[k].value, 100 * alone.building.sda);
      QCOMPARE(figure(*b, "Year", "sDA")->of[k].error, 100 * alone.buildingSdaError);
      QCOMPARE(figure(*b, "Year", "mean")->of[k].value, alone.building.meanLux);
      QCOMPARE(figure(*b, "Year", "ASE")->of[k].value, 100 * alone.building.ase);
    }
    QCOMPARE(rounds.size(), std::size_t(1)); // as many rays each
    const BesideFigure& mean = *figure(*b, "Year", "mean");
    QVERIFY(mean.moved(1) > 0 && mean.sure(1) && mean.moved(2) < 0);
    QCOMPARE(mean.error(1), std::hypot(mean.of[0].error, mean.of[1].error));
    QCOMPARE(mean.moved(1), mean.of[1].value - mean.of[0].value);
    // The model's own figures: the wall's share that is glass.
    const BesideFigure& glass = *figure(*b, "Model", "glass area");
    QVERIFY(std::abs(glass.of[1].value / glass.of[2].value - 3) < 1e-9); // 0.6 of 0.2
    // Inputs: of the option a window and a brim, of the run a window.
    const auto told = [&](std::size_t k, const char* text) {
      return std::any_of(b->designs[k].inputs.begin(), b->designs[k].inputs.end(),
                         [&](const std::string& t) { return t.find(text) != std::string::npos; });
    };
    QVERIFY(b->designs[0].inputs.empty());
    QVERIFY(told(1, "ratio: 0.3 → 0.6") || told(1, "→ 0.6"));
    QVERIFY2(told(1, "shading"), b->designs[1].inputs.back().c_str());
    QVERIFY(told(2, "→ 0.2") && !told(2, "shading"));
  }

  void settingsOfStudiesAreInputsToo() {
    const Project p = twoHouses();
    const auto b = laid(p, {of(p, 0.4, 300), of(p, 0.4, 500)});
    QVERIFY2(b, b ? "" : b.error().text().c_str());
    QCOMPARE(b->designs[1].inputs.size(), std::size_t(1));
    QVERIFY2(b->designs[1].inputs[0].find("studies · Year · threshold: 300 → 500") != std::string::npos,
             b->designs[1].inputs[0].c_str());
    // The same rays: no mean moves, and what moves does so by the threshold alone.
    QCOMPARE(figure(*b, "Year", "mean")->moved(1), 0.0);
    QVERIFY(!figure(*b, "Year", "mean")->sure(1));
    QVERIFY(figure(*b, "Year", "sDA")->moved(1) <= 0);
  }

  void theSameDesignTwiceMovesNothing() {
    const Project p = twoHouses();
    const auto b = laid(p, refs(p, {"B", "B"}));
    QVERIFY(b);
    for (const BesideFigure& f : b->figures) {
      QCOMPARE(f.moved(1), 0.0);
      QVERIFY(!f.sure(1));
    }
    QVERIFY(b->designs[1].inputs.empty());
  }

  void oneStudyOrAllOfThem() {
    const Project p = twoHouses();
    const auto sun = laid(p, refs(p, {"A", "B"}), "Sun in March");
    QVERIFY2(sun, sun ? "" : sun.error().text().c_str());
    QVERIFY(!figure(*sun, "Year", "sDA"));
    QVERIFY(sun->designs[0].field && !sun->designs[0].year);
    const BesideFigure* mean = nullptr;
    for (const BesideFigure& f : sun->figures)
      if (f.study == "Sun in March" && f.figure == "mean") mean = &f;
    QVERIFY(mean && mean->unit == "h" && std::isfinite(mean->of[1].value));
    const auto all = laid(p, refs(p, {"A", "B"}), "*");
    QVERIFY(all && figure(*all, "Year", "sDA"));
    QVERIFY(std::any_of(all->figures.begin(), all->figures.end(),
                        [](const BesideFigure& f) { return f.study == "Sun in March"; }));
    QVERIFY(says(laid(p, refs(p, {"A"}), "Nothing").error(), "no study \"Nothing\""));
    Project none = p;
    none.studies.clear();
    QVERIFY(says(laid(none, refs(p, {"A"})).error(), "no study"));
    QVERIFY(!laid(p, {}));
  }

  void aRuleLaidIsAFigure() {
    Project p = twoHouses();
    Judgement j;
    j.id = {80};
    j.yardstick = "daylight-credit";
    p.judgements.push_back(j);
    const auto b = laid(p, refs(p, {"A", "B"}));
    QVERIFY(b);
    const Yardstick* y = rules().find("daylight-credit");
    QVERIFY(y);
    const BesideFigure* points = figure(*b, rules().find("daylight-credit")->title, "points");
    QVERIFY(points);
    for (std::size_t k = 0; k < 2; ++k) {
      const double sda = figure(*b, "Year", "sDA")->of[k].value;
      QCOMPARE(points->of[k].value, double(sda >= 75 ? 3 : sda >= 55 ? 2 : sda >= 40 ? 1 : 0));
    }
  }

  void aDesignThatIsGoneStandsThereWithItsReason() {
    const Project p = twoHouses();
    DesignRef gone;
    gone.option = "Tower";
    std::vector<DesignRef> list = refs(p, {"A", "B"});
    list.insert(list.begin() + 1, gone);
    const auto b = laid(p, list);
    QVERIFY2(b, b ? "" : b.error().text().c_str());
    QCOMPARE(b->designs.size(), std::size_t(3));
    QVERIFY(b->designs[1].fault.find("no option \"Tower\"") != std::string::npos);
    const BesideFigure& mean = *figure(*b, "Year", "mean");
    QVERIFY(std::isnan(mean.of[1].value) && std::isfinite(mean.of[2].value) && mean.sure(2));
    // Alone it is an error.
    QVERIFY(says(laid(p, {gone}).error(), "no option \"Tower\""));
    // Without weather the years say so; the model's figures stand.
    Project dry = p;
    dry.site.weather = nullptr;
    const auto d = laid(dry, refs(p, {"A", "B"}));
    QVERIFY(d);
    QVERIFY(figure(*d, "Year", "sDA")->of[0].fault.find("weather") != std::string::npos);
    QVERIFY(figure(*d, "Model", "glass area")->sure(1));
  }

  void droppedItIsNothing() {
    const Project p = twoHouses();
    ResultStore memory{std::filesystem::path()};
    StudyRunner runner(&memory);
    RunControl control;
    control.wish = Wish::Drop;
    QVERIFY(!laidBeside(p, refs(p, {"A", "B"}), "", rules(), runner, control));
  }

  void whatIsStoppedHasNoFiguresInsteadOfWrongOnes() {
    const Project p = twoHouses();
    const std::vector<DesignRef> list = refs(p, {"A", "B"});
    // From the start, and at several places on the way: a design has what a whole run gives, or nothing.
    const auto whole = laid(p, list);
    QVERIFY(whole);
    for (const double at : {-1.0, 0.05, 0.3, 0.6, 0.9}) {
      ResultStore memory{std::filesystem::path()};
      StudyRunner runner(&memory);
      RunControl control;
      if (at < 0) control.wish = Wish::Enough;
      control.progress = [&](double share) {
        if (share >= at) control.wish = Wish::Enough;
      };
      const auto b = laidBeside(p, list, "", rules(), runner, control);
      QVERIFY2(b, b ? "" : b.error().text().c_str());
      QCOMPARE(b->end, RunEnd::Enough);
      bool stopped = false;
      for (const BesideFigure& f : b->figures)
        for (std::size_t k = 0; k < f.of.size(); ++k) {
          const BesideFigure* is = figure(*whole, f.study, f.figure, f.space);
          QVERIFY2(std::isnan(f.of[k].value) ? f.of[k].fault.find("stopped") != std::string::npos
                                             : is && is->of[k].value == f.of[k].value,
                   (f.study + " " + f.figure).c_str());
          stopped |= std::isnan(f.of[k].value);
        }
      QVERIFY(stopped || at > 0.8);
    }
  }

  void theOrderIsKeptInTheProject() {
    Project p = twoHouses();
    p.beside = refs(p, {"B", "Windows:2", "A"});
    p.beside[1].name = "Small";
    const auto read = parseProject(projectText(p, "files"), "p.noonward", {});
    QVERIFY2(read, read ? "" : read.error().text().c_str());
    QVERIFY(read->project.beside == p.beside);
    QCOMPARE(designName(read->project, read->project.beside[1]), std::string("Small"));
    QVERIFY(read->project.unknownKeys.empty());
    // By hand: names and plain values; a value that is none is refused with its place.
    Json j = *parseJson(projectText(p, "files"), "p");
    j["beside"] =
        Json::parse(R"([{"option": "Large window"}, {"sweep": "Windows", "values": {"ratio": 0.4, "lux": 300}}])");
    const auto hand = parseProject(j.dump(), "p.noonward", {});
    QVERIFY(hand);
    const auto b = laid(hand->project, designsBeside(hand->project), "Sun in March");
    QVERIFY2(b && b->designs[1].fault.empty(), b ? b->designs[1].fault.c_str() : b.error().text().c_str());
    j["beside"][1]["values"]["ratio"] = Json::array({1, 2});
    const auto wrong = parseProject(j.dump(), "p.noonward", {});
    QVERIFY(!wrong && says(wrong.error(), "beside[1].values"));
    j["beside"][1]["values"] = 3;
    QVERIFY(!parseProject(j.dump(), "p.noonward", {}));
  }

  void tablesHoldEveryFigure() {
    const Project p = twoHouses();
    const auto b = laid(p, refs(p, {"A", "B", "Windows:1"}));
    QVERIFY(b);
    const QStringList lines = QString::fromStdString(besideCsv(*b)).trimmed().split('\n');
    QCOMPARE(std::size_t(lines.size()), b->figures.size() + 1);
    const QStringList head = lines[0].split(',');
    QCOMPARE(head.mid(0, 5),
             (QStringList{"study", "space", "figure", "unit", QString::fromStdString(p.options[0].name)}));
    for (qsizetype k = 1; k < lines.size(); ++k) {
      const BesideFigure& f = b->figures[std::size_t(k - 1)];
      if (f.study != "Year") continue;
      const QStringList cells = lines[k].split(',');
      QVERIFY(std::abs(cells[4].toDouble() - f.of[0].value) <= 1e-5 * std::abs(f.of[0].value));
      QVERIFY(std::abs(cells[8].toDouble() - f.moved(1)) <= 1e-5 * std::abs(f.moved(1)) + 1e-12);
    }
    QTemporaryDir dir;
    const std::filesystem::path file = dir.filePath("b.xlsx").toStdString();
    QVERIFY(besideWorkbook(*b, file).has_value());
    const auto bytes = loadFile(file);
    QVERIFY(bytes && bytes->starts_with("PK"));
    QVERIFY(!besideWorkbook(*b, dir.filePath("no/such/b.xlsx").toStdString()).has_value());
  }

  void plansStandAtOneScaleAndBarsTellTheirFigures() {
    const Project p = twoHouses();
    auto b = laid(p, refs(p, {"A", "B"}));
    QVERIFY(b);
    BesideView view;
    const auto maps = besideMaps(*b, view);
    QVERIFY(maps[0] && maps[1]);
    QImage image(900, 600, QImage::Format_RGB32);
    image.fill(Qt::white);
    QPainter painter(&image);
    paintBesidePlans(painter, QRectF(0, 0, 900, 600), *b, view, BesidePlans::Both, paperTheme());
    painter.end();
    // The same room lies at the same place of both plans, and its sensors are coloured there.
    const double w = (900 - 14) / 2.0;
    int same = 0, painted = 0;
    for (int y = 30; y < 240; y += 4)
      for (int x = 4; x < int(w) - 4; x += 4) {
        const bool one = image.pixelColor(x, y).saturation() > 40,
                   other = image.pixelColor(x + int(w + 14), y).saturation() > 40;
        painted += one;
        same += one && other;
      }
    QVERIFY2(painted > 100 && same > painted * 9 / 10, qPrintable(QString("%1 of %2").arg(same).arg(painted)));
    // Texts: signed, ≈ within the error, nothing where there is none.
    BesideFigure f{
        "Year", "", "mean", "lx", {{200, 4, ""}, {260, 5, ""}, {205, 4, ""}, {NAN, 0, "none"}, {200, 0, ""}}};
    QCOMPARE(besideFigureText(f, 0, view), QString("200"));
    QCOMPARE(besideMovedText(f, 1, view), QString("+60"));
    QCOMPARE(besideMovedText(f, 2, view), QString("≈"));
    QCOMPARE(besideMovedText(f, 3, view), QString());
    QCOMPARE(besideFigureText(f, 3, view), QString());
    f.of[1].value = 150;
    QCOMPARE(besideMovedText(f, 1, view), QString("−50"));
    BesideView fc;
    fc.units.light = LightUnit::FootCandle;
    QCOMPARE(besideFigureText(f, 0, fc), QString::number(200 / 10.7639, 'f', 1));
    QVERIFY(paintBesideBars(nullptr, QRectF(0, 0, 900, 0), *b, view, paperTheme()) > 100);
    QTemporaryDir dir;
    for (const char* ending : {"png", "svg", "pdf"}) {
      const std::filesystem::path file = dir.filePath(QString("b.") + ending).toStdString();
      QVERIFY(saveBesidePage(*b, view, file).has_value());
      QVERIFY(std::filesystem::file_size(file) > 3000);
    }
  }

  void whatIsSelectedOffersWhatCanBeVaried() {
    Project p = withOption(twoHouses(), 1);
    const auto words = [&](const std::vector<ElementId>& selected, OpeningId opening = {}) {
      QStringList out;
      for (const VariableOffer& o : variableOffersOf(p, selected, opening)) out << QString::fromStdString(o.words);
      return out;
    };
    const QStringList house = words({ElementId{10}});
    QVERIFY2(house.contains("Window: share of glass") && house.contains("Overhang: depth") &&
                 house.contains("Hall: height"),
             qPrintable(house.join("; ")));
    QVERIFY(!house.contains("The proposal: bearing")); // nothing of it is proposed
    QVERIFY(words({}).isEmpty());
    QVERIFY(words({ElementId{9999}}).isEmpty());
    Opening drawn;
    drawn.id = {90};
    drawn.name = "Drawn";
    drawn.room = p.rooms[0].id;
    drawn.edge = 0;
    p.openings.push_back(drawn);
    const QStringList window = words({}, drawn.id);
    QVERIFY2(window.contains("Drawn: width") && window.contains("Overhang: depth") &&
                 !window.contains("Window: share of glass"),
             qPrintable(window.join("; ")));
  }

  // ---- in the record

  void aRecordTellsOfSweepsAndDesignsAndIsChecked() {
    Project p = twoHouses();
    p.beside = refs(p, {"A", "B"});
    RecordPart sweep, beside;
    sweep.kind = RecordPartKind::Sweep;
    sweep.of = SweepId{70}.text();
    beside.kind = RecordPartKind::Beside;
    p.record.parts = {sweep, beside};
    // The plan is kept in the file.
    const auto read = parseProject(projectText(p, "files"), "p.noonward", {});
    QVERIFY(read && read->project.record == p.record);
    ResultStore memory{std::filesystem::path()};
    StudyRunner runner(&memory);
    RunControl control;
    const auto facts = gatherRecord(p, rules(), runner, control);
    QVERIFY2(facts, facts ? "" : facts.error().text().c_str());
    QCOMPARE(facts->sweeps.size(), std::size_t(1));
    QVERIFY(facts->beside && facts->beside->found);
    QCOMPARE(facts->sweeps[0].table->rows.size(), std::size_t(6));
    QTemporaryDir dir;
    const std::filesystem::path folder = dir.filePath("r.record").toStdString();
    const Outcome made = makeRecordFolder(*facts, folder, control);
    QVERIFY2(made, made ? "" : made.error().text().c_str());
    for (const char* file : {"sweep-windows.csv", "sweep-windows.json", "beside.csv", "record.xlsx", "record.pdf"})
      QVERIFY2(std::filesystem::exists(folder / file), file);
    const auto holds = verifyRecord(folder, control);
    QVERIFY2(holds, holds ? "" : holds.error().text().c_str());
    for (const VerifyLine& l : holds->lines)
      QVERIFY2(l.holds, (l.what + ": " + l.claimed + " against " + l.found).c_str());
    QVERIFY(std::any_of(holds->lines.begin(), holds->lines.end(),
                        [](const VerifyLine& l) { return l.what == "Windows, best run"; }));
    // Another claim, sealed anew: seen by computing alone.
    const auto text = loadFile(folder / "record.json");
    const auto sealed = [&](const std::function<void(Json&)>& lie) {
      Json j = *parseJson(*text, "record.json");
      lie(j["claims"]);
      j["fingerprint"] = digestOf(j["claims"].dump() + j["files"].dump()).hex();
      if (!saveFile(folder / "record.json", j.dump())) qFatal("not saved");
      const auto report = verifyRecord(folder, control);
      return report && !report->holds();
    };
    QVERIFY(sealed([](Json& c) { c["sweeps"][0]["rows"][0]["figures"][0][0] = 99.0; }));
    QVERIFY(sealed([](Json& c) { c["sweeps"][0]["best"][0]["run"] = 6; }));
    QVERIFY(sealed([](Json& c) { c["sweeps"][0]["rows"][1]["values"]["ratio"] = "wide"; }));
    QVERIFY(sealed([](Json& c) { c["sweeps"] = Json::array(); }));
    QVERIFY(sealed([](Json& c) { c["beside"]["figures"][0]["of"][1][0] = 1e6; }));
    QVERIFY(sealed([](Json& c) { c["beside"]["figures"].erase(0); }));
    QVERIFY(sealed([](Json& c) { c.erase("beside"); }));
    QVERIFY(!sealed([](Json&) {}));
  }

  void whatCanNotBeRunStandsInTheRecordWithTheReason() {
    Project p = twoHouses();
    p.sweeps[0].variables[0].at = {"window-rules/Gone/ratio"};
    RecordPart sweep, words;
    sweep.kind = RecordPartKind::Sweep;
    sweep.of = SweepId{70}.text();
    p.record.parts = {sweep};
    ResultStore memory{std::filesystem::path()};
    StudyRunner runner(&memory);
    RunControl control;
    const auto facts = gatherRecord(p, rules(), runner, control);
    QVERIFY(facts && !facts->sweeps[0].table);
    QVERIFY(facts->sweeps[0].fault.find("window-rules/Gone/ratio") != std::string::npos);
    QTemporaryDir dir;
    QVERIFY(makeRecordFolder(*facts, dir.filePath("r.record").toStdString(), control).has_value());
    const auto holds = verifyRecord(dir.filePath("r.record").toStdString(), control);
    QVERIFY(holds && holds->holds());
  }

  void rowsToBeCheckedAreTheBestAndSomeBetween() {
    SweepTable t;
    t.sweep.outcomes = {{"x", SweepOutcome::Of::Model, "", "height", ""}};
    t.sweep.goals = {{"x", SweepGoal::Kind::Most, 0}};
    t.outcomeUnits = {"m"};
    for (std::size_t k = 0; k < 100; ++k) {
      SweepRow r;
      r.number = k;
      r.figures = {{k == 37 ? 1000.0 : double(k), 0, ""}};
      t.rows.push_back(r);
    }
    const auto rows = checkedRows(t);
    QVERIFY(rows.size() <= 12 && rows.size() >= 11);
    QVERIFY(std::is_sorted(rows.begin(), rows.end()));
    for (const std::size_t k : {std::size_t(0), std::size_t(37), std::size_t(99)})
      QVERIFY(std::find(rows.begin(), rows.end(), k) != rows.end());
    t.rows.resize(1);
    QCOMPARE(checkedRows(t), std::vector<std::size_t>{0});
    t.rows.clear();
    QVERIFY(checkedRows(t).empty());
  }

  void theWorkbookOfASweepHasThreeSheets() {
    const Project p = twoHouses();
    ResultStore memory{std::filesystem::path()};
    StudyRunner runner(&memory);
    RunControl control;
    const auto t = runSweep(p, p.sweeps[0], rules(), runner, control);
    QVERIFY(t);
    const auto sheets = sweepSheets(*t);
    QCOMPARE(sheets.size(), std::size_t(3));
    QCOMPARE(sheets[0].rows.size(), std::size_t(6));
    QCOMPARE(sheets[0].head.size(), sheets[0].rows[0].size());
    QCOMPARE(std::get<double>(sheets[0].rows[5][1]), std::get<double>(t->rows[5].values[0]));
    QCOMPARE(std::get<double>(sheets[0].rows[5][3]), t->rows[5].figures[0].value);
    QCOMPARE(sheets[1].rows.size(), std::size_t(10)); // two figures × (three and two values)
    QVERIFY(!sheets[2].rows.empty());
    QTemporaryDir dir;
    for (const char* ending : {"csv", "json", "xlsx"})
      QVERIFY(saveSweepTable(*t, dir.filePath(QString("t.") + ending).toStdString()).has_value());
    QVERIFY(says(saveSweepTable(*t, dir.filePath("t.ods").toStdString()).error(), ".xlsx"));
    QVERIFY(!saveSweepTable(*t, dir.filePath("no/t.csv").toStdString()).has_value());
  }
};

QTEST_MAIN(TestBeside)
#include "tst_beside.moc"
