// How the Studies sheet is laid out, from top to bottom: questions where nothing is asked yet; the study and its run;
// what came out; what was asked, folded under one line once there is an answer; rules; earlier runs.

#include "app/steps/studies_sheet.h"
#include "app/theme/style.h"
#include "core/base/units.h"
#include "core/model/settings/fields.h"
#include "core/yardsticks/questions.h"
#include <QComboBox>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QSlider>
#include <QTableWidget>

namespace noonward {

const std::vector<std::pair<std::string, QString>>& skiesOffered() {
  static const auto list = [] {
    std::vector<std::pair<std::string, QString>> out{{"cie-overcast", "CIE overcast"},
                                                     {"uniform", "uniform"},
                                                     {"cie-12", "clear (CIE 12)"},
                                                     {"cie-7", "intermediate (CIE 7)"},
                                                     {"weather", "of the weather file"}};
    for (int t = 1; t <= 15; ++t) // each once, or the arrow keys could not pass
      if (t != 7 && t != 12) out.emplace_back("cie-" + std::to_string(t), QString("CIE general %1").arg(t));
    return out;
  }();
  return list;
}

StudiesSheet::StudiesSheet(Document& document, Studies& studies, Stage& stage, QWidget* parent)
    : Sheet("Studies", document, parent), studies_(studies), stage_(stage) {
  buildQuestions();
  whole_ = addGroup();
  buildRun();
  buildAnswer();
  buildAsked();
  buildYardsticks();
  buildRuns();
  endGroup();
  body()->addStretch();
  connect(&studies_, &Studies::answerChanged, this, &StudiesSheet::refresh);
  connect(&studies_, &Studies::progressChanged, this, &StudiesSheet::showAnswer);
  connect(&studies_, &Studies::hoursChanged, this, &StudiesSheet::showHours);
  connect(&document_, &Document::lookingChanged, this, &StudiesSheet::showHours);
  connect(&studies_, &Studies::historyChanged, this, &StudiesSheet::showRuns);
  showParameters();
  showRuns();
  explain({{ruleToMeet_, "Lays grid, study and rule as the rule proposes them"},
           {which_, "The study whose answer is shown; the last entry asks another question"},
           {threshold_, "What is looked for: cells below it are dotted, and the share above is told"},
           {rangeHigh_, "What lies outside the range is hatched"},
           {kind_, "What is computed at the sensors"},
           {when_, "The days counted: one, several, or every day of the season"},
           {clock_, "All the time the sun is up, or the hours between"},
           {from_, "The beginning of the hours counted, by the clock"},
           {to_, "The end of the hours counted, by the clock"},
           {sky_, "How bright each part of the sky is"},
           {skyMoment_, "When the sun of a clear sky stands there: 21 Jun 12:00; empty follows the Almanac"},
           {period_, "The hours whose energy is added up, or the sky of one moment"},
           {skyDiffuse_, "Of the sky alone, on the unobstructed horizontal"},
           {skyDirect_, "Of the sun, on a plane that faces it"},
           {yardstick_, "The rule that this study is judged by"}});
  refresh();
}

void StudiesSheet::buildQuestions() {
  questionRows_ = addGroup();
  auto* words = addHeading("What do you want to know?");
  words->setWordWrap(true);
  for (const Question& q : questions) {
    QPushButton* b = addButton(q.words, [this, key = std::string(q.key)] {
      take(ask(document_.project(), key, document_.looking().selected, document_.shelf()));
    });
    b->setToolTip(q.help);
    addNote(q.help);
  }
  QStringList rules;
  for (const Yardstick& y : document_.shelf().yardsticks) rules << QString::fromStdString(y.title);
  ruleToMeet_ = addNames("A rule to meet", [](int) {});
  ruleToMeet_->setAccessibleName("Rule to meet");
  ruleToMeet_->addItems(rules);
  addButton("Judge by this rule", [this] {
    const auto& all = document_.shelf().yardsticks;
    if (const int i = ruleToMeet_->currentIndex(); i >= 0 && i < int(all.size()))
      take(askRule(document_.project(), all[std::size_t(i)], document_.looking().selected, document_.shelf()));
  })->setToolTip("Lays the sensors and the study that the rule asks for, and judges them");
  auto* others = addButtons();
  const auto small = [&](const QString& text, const QString& tip, auto done) {
    auto* b = new QPushButton(text);
    b->setAccessibleName(text);
    b->setToolTip(tip);
    b->setProperty("plain", true);
    connect(b, &QPushButton::clicked, this, done);
    others->addWidget(b);
    return b;
  };
  small("Set up by hand", "A study of any kind, field by field", [this] { addStudy(); });
  back_ = small("Back", "To the study that was looked at", [this] {
    asking_ = false;
    refresh();
  });
  others->addStretch();
  endGroup();
}

/// What a question laid becomes one step of the history; what it misses is said.
void StudiesSheet::take(Expected<Asked> asked) {
  if (!asked) return emit document_.notice(QString::fromStdString(asked.error().message), false);
  asking_ = false;
  document_.change(std::move(asked->project), "Ask a question");
  document_.look([&](Looking& l) {
    l.study = asked->study;
    l.sensor.reset();
  });
  const Study* s = study();
  if (s && (!studies_.live() || runsWhenAsked(s->kind) || studies_.tooLargeForLive()))
    studies_.run(); // it was asked for just now
  emit document_.notice(QString::fromStdString(asked->told), false);
}

void StudiesSheet::buildRun() {
  which_ = addNames("", [this](int i) {
    asking_ = i >= int(listed_.size());
    if (!asking_)
      document_.look([&](Looking& l) {
        l.study = listed_[std::size_t(i)];
        l.sensor.reset();
      });
    refresh();
  });
  which_->setAccessibleName("Study");
  state_ = addNote();
  state_->setAccessibleName("State of the study");
  run_ = new QPushButton("Run");
  run_->setProperty("main", true);
  run_->setAccessibleName("Run study");
  trial_ = new QPushButton("Trial");
  trial_->setAccessibleName("Trial");
  trial_->setToolTip("A part of the work, in seconds: every eighth day of a season, light with four times the error. "
                     "Marked as a trial, never judged, never kept");
  connect(trial_, &QPushButton::clicked, this, [this] { studies_.runTrial(); });
  live_ = new QPushButton("live");
  live_->setCheckable(true);
  live_->setChecked(true);
  live_->setProperty("plain", true);
  live_->setAccessibleName("Live");
  live_->setToolTip("The numbers follow every change");
  enough_ = new QPushButton("Enough");
  enough_->setAccessibleName("Enough");
  enough_->setToolTip("Stop and keep what is done");
  drop_ = new QPushButton("Drop");
  drop_->setAccessibleName("Drop");
  auto* row = addButtons();
  for (QPushButton* b : {run_, trial_, enough_, drop_, live_}) row->addWidget(b);
  cost_ = addNote();
  cost_->setAccessibleName("Cost of the study");
  cost_->setToolTip("Rough, from measurements on two cores: within a factor of two or three");
  connect(&document_, &Document::findingsChanged, this, &StudiesSheet::showCost); // the grids are known then
  connect(run_, &QPushButton::clicked, this, [this] { studies_.run(); });
  connect(live_, &QPushButton::toggled, this, [this](bool on) { studies_.setLive(on); });
  connect(enough_, &QPushButton::clicked, &studies_, &Studies::enough);
  connect(drop_, &QPushButton::clicked, &studies_, &Studies::drop);
}

void StudiesSheet::buildAnswer() {
  verdictRows_ = addGroup();
  auto* verdictBox = new QWidget;
  verdicts_ = new QVBoxLayout(verdictBox);
  verdicts_->setContentsMargins(0, 0, 0, 0);
  addWidget(verdictBox);
  endGroup();
  roomRows_ = addGroup();
  addHeading("Rooms");
  yearShown_ = addGroup();
  QStringList metrics;
  for (YearMetric m : allYearMetrics) metrics << yearMetricName(m);
  metric_ = addChoice(
      "Shown", metrics,
      [this](int i) { document_.look([&](Looking& l) { l.metric = allYearMetrics[std::size_t(i)]; }); },
      "Another figure of the same year: nothing is computed again");
  metric_->setAccessibleName("Figure of the year");
  endGroup();
  building_ = addNote();
  building_->setAccessibleName("The building's year");
  roomFilter_ = new QLineEdit;
  roomFilter_->setPlaceholderText("filter by name");
  roomFilter_->setAccessibleName("Filter light in rooms");
  connect(roomFilter_, &QLineEdit::textChanged, this, [this] { showAnswer(); });
  addWidget(roomFilter_);
  rooms_ = new QTableWidget(0, 4);
  rooms_->setAccessibleName("Light in rooms");
  rooms_->verticalHeader()->hide();
  rooms_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  rooms_->setSelectionMode(QAbstractItemView::NoSelection);
  rooms_->setShowGrid(false);
  rooms_->setFocusPolicy(Qt::NoFocus);
  rooms_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  rooms_->verticalHeader()->setDefaultSectionSize(24);
  whatCounts_ = new QLabel;
  rooms_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
  for (int c = 1; c < 4; ++c) rooms_->horizontalHeader()->setSectionResizeMode(c, QHeaderView::ResizeToContents);
  addWidget(rooms_);
  rooms_->horizontalHeader()->setSectionsClickable(true);
  rooms_->horizontalHeader()->setSortIndicatorShown(false);
  connect(rooms_->horizontalHeader(), &QHeaderView::sectionClicked, this, [this](int column) {
    sortDown_ = sortColumn_ == column ? !sortDown_ : column > 0;
    sortColumn_ = column;
    showAnswer();
  });
  connect(rooms_, &QTableWidget::cellClicked, this, [this](int row, int) {
    if (std::size_t(row) < rowSpaces_.size())
      document_.look([&](Looking& l) {
        l.space = l.space == rowSpaces_[std::size_t(row)] && !l.sensor ? std::nullopt
                                                                       : std::optional(rowSpaces_[std::size_t(row)]);
        l.sensor.reset();
      });
  });
  hoursText_ = addNote();
  hoursText_->setAccessibleName("When and through which window");
  hours_ = new HoursChart;
  addWidget(hours_);
  buildEnergyYear();
  robust_ = addButton("How robust is it?", [this] {
    if (const auto answer = studies_.current();
        answer && answer->year && !answer->trial && !studies_.readingsOf(answer->year->key))
      studies_.askReadings();
    emit robustnessWanted();
  });
  robust_->setToolTip("The same verdict under the readings a reviewer may contest: blinds, summer time, frames and "
                      "dirt; from the same rays");
  endGroup();
  spreadRows_ = addGroup();
  addHeading("Spread");
  stateRows_ = addGroup();
  QStringList states;
  for (const DesignState s : allDesignStates) states << designStateName(s);
  designState_ = addChoice(
      "Shown", states,
      [this](int i) { document_.look([&](Looking& l) { l.state = allDesignStates[std::size_t(i)]; }); },
      "The values with what is proposed, without it, or what it changes: less is red, more is green");
  designState_->setAccessibleName("State shown");
  endGroup();
  spread_ = new SpreadChart;
  addWidget(spread_);
  threshold_ = new QSlider(Qt::Horizontal);
  threshold_->setAccessibleName("Threshold");
  threshold_->setRange(0, 160);
  addWidget(threshold_);
  thresholdWords_ = addNote();
  thresholdWords_->setAccessibleName("Share above threshold");
  statistics_ = addNote();
  statistics_->setAccessibleName("Statistics");
  energy_ = addNote();
  energy_->setAccessibleName("Energy together");
  rangeLow_ = addField(
      "Scale from", [this](const QString& t) { setRange(true, t); }, "What lies outside the strip's range is hatched");
  rangeHigh_ = addField("Scale to", [this](const QString& t) { setRange(false, t); });
  auto* look = addButtons();
  wholeRange_ = new QPushButton("Range of the result");
  wholeRange_->setAccessibleName("Range of the result");
  connect(wholeRange_, &QPushButton::clicked, this, [this] {
    if (const Study* s = study()) document_.look([&](Looking& l) { l.ranges.erase(s->kind); });
  });
  figures_ = new QPushButton("Figures");
  figures_->setCheckable(true);
  figures_->setAccessibleName("Figures at the sensors");
  figures_->setToolTip("The value at every sensor that has room for it; V");
  connect(figures_, &QPushButton::clicked, this,
          [this](bool on) { document_.look([&](Looking& l) { l.values = on; }); });
  look->addWidget(wholeRange_);
  look->addWidget(figures_);
  behind_ = addNote("Click a cell for the hours behind it.");
  behind_->setAccessibleName("Hours behind the sensor");
  months_ = new MonthBars;
  months_->hide();
  addWidget(months_);
  connect(threshold_, &QSlider::valueChanged, this, [this](int v) {
    if (const Study* s = study())
      document_.look([&](Looking& l) { l.thresholds[s->kind] = v * factsOf(s->kind).step; }); // SI
  });
  connect(spread_, &SpreadChart::thresholdDragged, this, [this](double h) {
    const auto answer = studies_.current();
    if (const Study* s = study(); s && answer && answer->painted)
      document_.look([&](Looking& l) { l.thresholds[s->kind] = h / answer->painted->scale.perSi; });
  });
  whatCounts_->setFont(textFont(11.5));
  whatCounts_->setWordWrap(true);
  whatCounts_->setProperty("quiet", true);
  whatCounts_->setAccessibleName("What is counted");
  addWidget(whatCounts_);
  endGroup();
}

void StudiesSheet::buildAsked() {
  asked_ = addFold("What is asked");
  QStringList kinds;
  for (const StudyKindFacts& k : studyKinds) kinds << k.name;
  kind_ = addChoice("Kind", kinds, [this](int i) {
    if (!study()) addStudy();
    edit("Choose kind of study", [&](Study& s) {
      const std::string old = studyName(s.kind);
      s.kind = studyKinds[std::size_t(i)].kind;
      if (s.kind == StudyKind::Irradiation) s.light.sky = SkyChoice{};
      if (s.name == old) s.name = studyName(s.kind);
    });
    document_.look([](Looking& l) { l.sensor.reset(); });
  });
  kind_->setAccessibleName("Kind of study");
  on_ = addNames(
      "On", [this](int i) { chooseGroup(i); }, "The area, facade or points that are judged");
  on_->setAccessibleName("Judged area");
  auto* areas = addButtons();
  const auto small = [&](const QString& text, const QString& tip, auto done) {
    auto* b = new QPushButton(text);
    b->setAccessibleName(text);
    b->setToolTip(tip);
    connect(b, &QPushButton::clicked, this, done);
    areas->addWidget(b);
    areaButtons_.push_back(b);
  };
  small("Draw an area", "Click the corners of a ground area", [this] {
    stage_.setTool(Tool::Area);
    stage_.setFocus();
  });
  small("Walls of selected", "A grid on the walls of the selected masses", [this] { addFacadeGroup(0); });
  const auto outdoors = [this](const QString& text, const QString& tip, const std::function<void()>& done) {
    areaButtons_.push_back(addButton(text, done));
    areaButtons_.back()->setToolTip(tip);
  };
  outdoors("Receivers by bay and storey",
           "A point every 3 m of the selected masses' walls, 1.6 m above each floor: windows where none are drawn",
           [this] { addFacadeGroup(3); });
  outdoors("Dwellings by storey",
           "Three windows of a storey and side of the selected masses are one dwelling's living room",
           [this] { addDwellings(); });
  outdoors("Receivers as a table…",
           "Filter, sort, group into dwellings and buildings, bring from a table; Ctrl+Shift+R",
           [this] { emit receiversWanted(); });
  sunRows_ = addGroup();
  when_ = addChoice("Dates", {"the Almanac's day", "dates below", "the Almanac's season"}, [this](int i) {
    datesOfOwn_ =
        i == 1; // stays chosen even where the one date is the Almanac's, or the arrow keys could never pass it
    editSettings("Choose dates", [&](SunHoursSettings& s) {
      const Zone zone = document_.project().zone();
      if (i == 0) s.dates = {zone.clock(document_.looking().moment).date};
      if (i == 1 && s.dates.empty()) s.dates = {zone.clock(document_.looking().moment).date};
      if (i == 2) {
        s.dates.clear();
        const double b = s.season.beginMinute, e = s.season.endMinute;
        s.season = document_.looking().season;
        if (s.season.beginMinute <= 0 && s.season.endMinute >= 1440) {
          s.season.beginMinute = b;
          s.season.endMinute = e;
        }
      }
    });
  });
  dates_ = addField(
      "",
      [this](const QString& t) {
        std::vector<Date> dates;
        for (const QString& part : t.split(',', Qt::SkipEmptyParts)) {
          auto d = dateFromText(part.trimmed().toStdString());
          if (!d) d = dateFromText(part.trimmed().toStdString() + " " + std::to_string(document_.project().site.year));
          if (!d) return showFault(dates_, "Dates such as 21 Mar, 21 Dec are expected");
          dates.push_back(*d);
        }
        if (!dates.empty()) editSettings("Choose dates", [&](SunHoursSettings& s) { s.dates = dates; });
      },
      "21 Mar, or several: 21 Mar, 21 Jun");
  dates_->setAccessibleName("Dates of the study");
  clock_ = addChoice("Clock", {"sunrise to sunset", "between hours"}, [this](int i) {
    editSettings("Choose hours", [&](SunHoursSettings& s) {
      s.sunriseToSunset = i == 0;
      if (i == 1 && s.season.beginMinute <= 0 && s.season.endMinute >= 1440) {
        s.season.beginMinute = 9 * 60;
        s.season.endMinute = 15 * 60;
      }
    });
  });
  clock_->setAccessibleName("Clock window");
  const auto clockField = [&](const QString& label, bool begin) {
    return addField(label, [this, begin](const QString& t) {
      const auto m = minutesFromText(t.trimmed().toStdString());
      QLineEdit* f = begin ? from_ : to_;
      if (!m) return showFault(f, "A clock time such as 9:00 is expected");
      editSettings("Choose hours",
                   [&](SunHoursSettings& s) { (begin ? s.season.beginMinute : s.season.endMinute) = *m; });
    });
  };
  from_ = clockField("From", true);
  to_ = clockField("To", false);
  endGroup();
  periodRows_ = addGroup();
  period_ = addChoice("Period", {"the whole year", "the Almanac's season", "the sky of a moment"}, [this](int i) {
    editLight("Choose period", [&](LightSettings& s) {
      if (i == 2) {
        if (s.sky.kind == SkyKind::Usual) s.sky.kind = SkyKind::Weather;
        return;
      }
      s.sky = SkyChoice{};
      s.season = i == 1 ? document_.looking().season : Season{};
    });
  });
  period_->setAccessibleName("Period of irradiation");
  endGroup();
  skyRows_ = addGroup();
  QStringList skies;
  for (const auto& [key, name] : skiesOffered()) skies << name;
  sky_ = addChoice("Sky", skies, [this](int i) {
    const auto chosen = skyFromKey(skiesOffered()[std::size_t(i)].first);
    editLight("Choose sky", [&](LightSettings& s) {
      const auto moment = s.sky.moment;
      s.sky = *chosen;
      s.sky.moment = moment;
    });
  });
  skyMoment_ = addChoice("Moment", {"follows the Almanac", "kept as it is now"}, [this](int i) {
    editLight("Choose moment", [&](LightSettings& s) {
      s.sky.moment.reset();
      if (i == 1) s.sky.moment = document_.project().zone().clock(document_.looking().moment);
    });
  });
  skyMoment_->setAccessibleName("Moment of the sky");
  skyEnergyRows_ = addGroup();
  const auto irradiance = [this](const char* label, double SkyChoice::*member) {
    QLineEdit** field = member == &SkyChoice::diffuseIrradiance ? &skyDiffuse_ : &skyDirect_;
    *field = addField(label, [this, field, member](const QString& t) {
      const auto v = numberWithUnit(t.toStdString(), "W/m²");
      if (!v || *v < 0 || *v > 2000) return showFault(*field, "0 to 2000 W/m² is expected");
      editLight("Set irradiance", [&](LightSettings& s) { s.sky.*member = *v; });
    });
  };
  irradiance("Diffuse", &SkyChoice::diffuseIrradiance);
  skyDiffuse_->setAccessibleName("Diffuse irradiance");
  irradiance("Beam", &SkyChoice::directIrradiance);
  skyDirect_->setAccessibleName("Beam irradiance");
  endGroup();
  endGroup();
  lightRows_ = addGroup();
  addSettings(SettingsOf::Light, false);
  endGroup();
  buildYear();
  sunFold_ = addGroup();
  addFold("How it is counted");
  addSettings(SettingsOf::SunHours, true);
  endFold();
  endGroup();
  spacing_ = addField(
      "Grid",
      [this](const QString& t) {
        const auto v = lengthFromText(t.toStdString(), document_.project().units.length);
        if (!v || *v < 0.05 || *v > 100) return showFault(spacing_, "A spacing of 0.05 to 100 m is expected");
        Project p = document_.project();
        for (SensorGroup& g : p.groups)
          if (const Study* s = study(); s && !s->groups.empty() && g.id == s->groups.front()) {
            if (auto* a = std::get_if<GroundArea>(&g.layout)) a->spacing = *v;
            if (auto* a = std::get_if<GroundAround>(&g.layout)) a->spacing = *v;
            if (auto* a = std::get_if<FaceGrid>(&g.layout)) (a->bay > 0 ? a->bay : a->spacing) = *v;
            if (auto* a = std::get_if<RoomGrid>(&g.layout)) a->spacing = *v;
          }
        document_.change(std::move(p), "Set spacing");
      },
      "Distance between sensors");
  spacing_->setAccessibleName("Grid spacing");

  endFold();
  askedWords_ = addNote();
  askedWords_->setAccessibleName("What is asked, in words");
  connect(asked_, &Fold::clicked, this, [this](bool open) {
    askedByHand_ = open;
    askedWords_->setVisible(!open);
  });
}

void StudiesSheet::buildYardsticks() {
  yardstickRows_ = addGroup();
  addFold("Yardsticks");
  QStringList rules;
  for (const Yardstick& y : document_.shelf().yardsticks) rules << QString::fromStdString(y.title);
  yardstick_ = addChoice("Rule", rules, [this](int) { showParameters(); });
  lay_ = addButton("Judge this area", [this] { addYardstick(); });
  setUp_ = addButton("Set up grid and study by it", [this] { setUpByYardstick(); });
  setUp_->setToolTip(
      "Sensor grid, hours, blinds and thresholds as the yardstick proposes them; one step, undone as one");
  auto* parameterBox = new QWidget;
  parameters_ = new QVBoxLayout(parameterBox);
  parameters_->setContentsMargins(0, 0, 0, 0);
  parameters_->setSpacing(4);
  addWidget(parameterBox);
  endFold();
  endGroup();
}

void StudiesSheet::buildRuns() {
  addButton("Measuring desk…", [this] {
    emit deskWanted();
  })->setToolTip("A logger's file beside the computed light: how far they agree, and what parts them; Ctrl+Shift+M");
  runRows_ = addGroup();
  addButton("All runs…", [this] { emit runsWanted(); });
  addButton("What this eye sees…", [this] { emit fisheyeWanted(); })
      ->setToolTip("The hemisphere before the line of sight or probe that is looked at, as luminances, with its "
                   "glare sources and the sun's tracks");
  addButton("Shadow plan…", [this] {
    emit shadowsWanted();
  })->setToolTip("Outlines of shadow from above, at hours of a day, and what the proposal adds; Ctrl+Shift+H");
  addFold("Runs");
  runs_ = new QListWidget;
  runs_->setAccessibleName("Runs");
  runs_->setMinimumHeight(120);
  runs_->setWordWrap(true);
  addWidget(runs_);
  endFold();
  endGroup();
}

} // namespace noonward
