#include "app/steps/studies_sheet.h"
#include "app/theme/style.h"
#include "core/base/units.h"
#include "core/model/form/edit.h"
#include "core/model/settings/study_fields.h"
#include "core/studies/cost.h"
#include <QComboBox>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QSlider>
#include <QTableWidget>

namespace noonward {

StudiesSheet::StudiesSheet(Document& document, Studies& studies, Stage& stage, QWidget* parent)
    : Sheet("Studies", document, parent), studies_(studies), stage_(stage) {
  which_ = addChoice("Study", {}, [this](int i) {
    if (i >= 0 && i < int(listed_.size()))
      document_.look([&](Looking& l) {
        l.study = listed_[std::size_t(i)];
        l.sensor.reset();
      });
    else
      addStudy();
  });
  which_->setAccessibleName("Study");
  QStringList kinds;
  for (const StudyKindFacts& k : studyKinds) kinds << k.name;
  kind_ = addChoice("Kind", kinds, [this](int i) {
    if (!study()) addStudy();
    edit("Choose kind of study", [&](Study& s) {
      const std::string old = studyName(s.kind);
      s.kind = studyKinds[std::size_t(i)].kind;
      if (s.name == old) s.name = studyName(s.kind);
    });
    document_.look([](Looking& l) { l.sensor.reset(); });
  });
  kind_->setAccessibleName("Kind of study");
  state_ = addNote();
  state_->setAccessibleName("State of the study");
  on_ = addChoice(
      "On", {}, [this](int i) { chooseGroup(i); }, "The area, facade or points that are judged");
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
  small("Walls of selected", "A grid on the walls of the selected masses", [this] { addFacadeGroup(); });
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
  skyRows_ = addGroup();
  QStringList skies{"CIE overcast", "uniform", "clear (CIE 12)", "intermediate (CIE 7)", "of the weather file"};
  for (int t = 1; t <= 15; ++t) skies << QString("CIE general %1").arg(t);
  sky_ = addChoice("Sky", skies, [this](int i) {
    static const char* const keys[] = {"cie-overcast", "uniform", "clear", "intermediate", "weather"};
    const auto chosen = skyFromKey(i < 5 ? std::string(keys[i]) : "cie-" + std::to_string(i - 4));
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
  endGroup();
  lightRows_ = addGroup();
  addSettings(SettingsOf::Light, false);
  endGroup();
  buildYear();
  run_ = new QPushButton("Run");
  run_->setProperty("main", true);
  run_->setAccessibleName("Run study");
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
  for (QPushButton* b : {run_, enough_, drop_, live_}) row->addWidget(b);
  cost_ = addNote();
  cost_->setAccessibleName("Cost of the study");
  cost_->setToolTip("Rough, from measurements on two cores: within a factor of two or three");
  connect(&document_, &Document::findingsChanged, this, &StudiesSheet::showCost); // the grids are known then
  connect(run_, &QPushButton::clicked, this, [this] { studies_.run(); });
  connect(live_, &QPushButton::toggled, this, [this](bool on) { studies_.setLive(on); });
  connect(enough_, &QPushButton::clicked, &studies_, &Studies::enough);
  connect(drop_, &QPushButton::clicked, &studies_, &Studies::drop);

  sunFold_ = addGroup();
  addFold("How it is counted");
  addSettings(SettingsOf::SunHours, true);
  endFold();
  endGroup();
  spacing_ = addField(
      "Grid",
      [this](const QString& t) {
        const auto v = lengthFromText(t.toStdString(), document_.project().units);
        if (!v || *v < 0.05 || *v > 100) return showFault(spacing_, "A spacing of 0.05 to 100 m is expected");
        Project p = document_.project();
        for (SensorGroup& g : p.groups)
          if (const Study* s = study(); s && !s->groups.empty() && g.id == s->groups.front()) {
            if (auto* a = std::get_if<GroundArea>(&g.layout)) a->spacing = *v;
            if (auto* a = std::get_if<GroundAround>(&g.layout)) a->spacing = *v;
            if (auto* a = std::get_if<FaceGrid>(&g.layout)) a->spacing = *v;
            if (auto* a = std::get_if<RoomGrid>(&g.layout)) a->spacing = *v;
          }
        document_.change(std::move(p), "Set spacing");
      },
      "Distance between sensors");
  spacing_->setAccessibleName("Grid spacing");

  verdictRows_ = addGroup();
  addHeading("Verdict");
  auto* verdictBox = new QWidget;
  verdicts_ = new QVBoxLayout(verdictBox);
  verdicts_->setContentsMargins(0, 0, 0, 0);
  addWidget(verdictBox);
  addFold("Yardsticks");
  QStringList rules;
  for (const Yardstick& y : document_.shelf().yardsticks) rules << QString::fromStdString(y.title);
  yardstick_ = addChoice("Rule", rules, [this](int) { showParameters(); });
  lay_ = addButton("Lay against this area", [this] { addYardstick(); });
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

  roomRows_ = addGroup();
  addHeading("Rooms");
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
  robust_ = addButton("How robust is it?", [this] {
    if (const auto answer = studies_.current(); answer && answer->year && !studies_.readingsOf(answer->year->key))
      studies_.askReadings();
    emit robustnessWanted();
  });
  robust_->setToolTip("The same verdict under the readings a reviewer may contest: blinds, summer time, frames and "
                      "dirt; from the same rays");
  endGroup();
  whatCounts_->setFont(textFont(11.5));
  whatCounts_->setWordWrap(true);
  whatCounts_->setProperty("quiet", true);
  whatCounts_->setAccessibleName("What is counted");
  addWidget(whatCounts_);
  addHeading("Spread");
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
  rangeLow_ = addField(
      "Strip from", [this](const QString& t) { setRange(true, t); }, "What lies outside the strip's range is hatched");
  rangeHigh_ = addField("Strip to", [this](const QString& t) { setRange(false, t); });
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
  connect(threshold_, &QSlider::valueChanged, this, [this](int v) {
    if (const Study* s = study())
      document_.look([&](Looking& l) { l.thresholds[s->kind] = v * factsOf(s->kind).step; });
  });
  connect(spread_, &SpreadChart::thresholdDragged, this, [this](double h) {
    if (const Study* s = study()) document_.look([&](Looking& l) { l.thresholds[s->kind] = h; });
  });
  addButton("All runs…", [this] { emit runsWanted(); });
  addFold("Runs");
  runs_ = new QListWidget;
  runs_->setAccessibleName("Runs");
  runs_->setMinimumHeight(120);
  runs_->setWordWrap(true);
  addWidget(runs_);
  endFold();
  body()->addStretch();
  connect(&studies_, &Studies::answerChanged, this, &StudiesSheet::refresh);
  connect(&studies_, &Studies::progressChanged, this, &StudiesSheet::showAnswer);
  connect(&studies_, &Studies::hoursChanged, this, &StudiesSheet::showHours);
  connect(&document_, &Document::lookingChanged, this, &StudiesSheet::showHours);
  connect(&studies_, &Studies::historyChanged, this, &StudiesSheet::showRuns);
  refresh();
  showParameters();
}

void StudiesSheet::setRange(bool low, const QString& text) {
  const auto answer = studies_.current();
  if (!answer || !answer->painted) return;
  QLineEdit* field = low ? rangeLow_ : rangeHigh_;
  QString clean = text;
  const auto v = numberFromText(clean.remove(studyUnit(answer->painted->kind())).trimmed().toStdString());
  const FieldScale now = document_.looking().scale(*answer->painted);
  if (!v || (low ? *v >= now.high : *v <= now.low) || *v < 0)
    return showFault(field, "A number is expected here, the upper end above the lower");
  document_.look([&](Looking& l) {
    l.ranges[answer->painted->kind()] = low ? std::pair{*v, now.high} : std::pair{now.low, *v};
  });
}

const Study* StudiesSheet::study() const {
  const Project& p = document_.project();
  for (const Study& s : p.studies)
    if (s.id == document_.looking().study) return &s;
  return p.studies.empty() ? nullptr : &p.studies.front();
}

void StudiesSheet::edit(const QString& name, const std::function<void(Study&)>& change) {
  const Study* now = study();
  if (!now) return;
  Project p = document_.project();
  for (Study& s : p.studies)
    if (s.id == now->id) change(s);
  document_.change(std::move(p), name);
}

void StudiesSheet::editSettings(const QString& name, const std::function<void(SunHoursSettings&)>& change) {
  if (!study()) addStudy();
  edit(name, [&](Study& s) { change(s.sunHours); });
}

void StudiesSheet::editLight(const QString& name, const std::function<void(LightSettings&)>& change) {
  if (!study()) addStudy();
  edit(name, [&](Study& s) { change(s.light); });
}

void StudiesSheet::addSettings(SettingsOf whose, bool folded) {
  settings_.push_back(std::make_unique<SettingRows>(
      *this, whose, folded, [this](const QString& name, const std::function<void(Study&)>& change) {
        if (!study()) addStudy();
        edit(name, change);
      }));
}

void StudiesSheet::addStudy() {
  Project p = document_.project();
  Study s;
  s.id = StudyId::fresh();
  s.name = p.studies.empty() ? "Sun hours" : "Sun hours " + std::to_string(p.studies.size() + 1);
  if (const Study* now = study()) {
    s.groups = now->groups;
    s.sunHours = now->sunHours;
  } else {
    s.sunHours.dates = {p.zone().clock(document_.looking().moment).date};
    s.sunHours.sunriseToSunset = true;
    if (!p.groups.empty()) s.groups = {p.groups.front().id};
  }
  const StudyId id = s.id;
  p.studies.push_back(std::move(s));
  document_.change(std::move(p), "Add study");
  document_.look([&](Looking& l) { l.study = id; });
}

void StudiesSheet::chooseGroup(int i) {
  const Project& p = document_.project();
  if (!study()) addStudy();
  edit("Choose area", [&](Study& s) {
    if (i == 0)
      s.groups.clear();
    else if (i - 1 < int(p.groups.size()))
      s.groups = {p.groups[std::size_t(i - 1)].id};
  });
}

void StudiesSheet::addFacadeGroup() {
  const auto& selected = document_.looking().selected;
  if (selected.empty()) {
    emit document_.notice("Select one or more masses first.", false);
    return;
  }
  Project p = document_.project();
  SensorGroup g;
  g.id = GroupId::fresh();
  const ElementPtr e = p.element(selected.front());
  g.name = e ? e->name + ", walls" : "Walls";
  FaceGrid grid;
  for (ElementId id : selected)
    grid.faces.push_back({id, selected.size() == 1 ? document_.looking().face : std::nullopt});
  g.layout = grid;
  const GroupId id = g.id;
  p.groups.push_back(std::move(g));
  const Study* now = study();
  if (!now) {
    Study s;
    s.id = StudyId::fresh();
    s.sunHours.dates = {p.zone().clock(document_.looking().moment).date};
    s.sunHours.sunriseToSunset = true;
    s.groups = {id};
    p.studies.push_back(s);
  } else {
    for (Study& s : p.studies)
      if (s.id == now->id) s.groups = {id};
  }
  document_.change(std::move(p), "Grid on walls");
}

void StudiesSheet::showCost() {
  const Study* s = study();
  std::size_t sensors = 0, inRooms = 0;
  for (const SensorGridFacts& g : document_.grids()) {
    if (s && !s->groups.empty() && std::find(s->groups.begin(), s->groups.end(), g.id) == s->groups.end()) continue;
    sensors += g.count;
    inRooms += g.room >= 0 ? g.count : 0;
  }
  const Cost c = s ? costOf(document_.project(), *s, sensors, inRooms) : Cost{};
  const QString text = QString::fromStdString("A run takes " + costText(c) + ".");
  run_->setToolTip(s && sensors > 0 ? text : QString());
  cost_->setText(text);
  cost_->setVisible(s && sensors > 0 && (c.seconds > 10 || c.megabytes > 500)); // else it is soon there
}

void StudiesSheet::refresh() {
  showCost();
  const Project& p = document_.project();
  const Study* s = study();
  which_->clear();
  listed_.clear();
  int at = 0;
  for (const Study& x : p.studies) {
    if (s && x.id == s->id) at = int(listed_.size());
    listed_.push_back(x.id);
    which_->addItem(QString::fromStdString(x.name));
  }
  which_->addItem("a new study");
  which_->setCurrentIndex(s ? at : int(listed_.size()));
  on_->clear();
  on_->addItem(p.groups.empty() ? "nothing yet" : "everything");
  int group = 0;
  for (const SensorGroup& g : p.groups) {
    on_->addItem(QString::fromStdString(g.name));
    if (s && !s->groups.empty() && s->groups.front() == g.id) group = on_->count() - 1;
  }
  on_->setCurrentIndex(group);
  const StudyKind kind = s ? s->kind : StudyKind::SunHours;
  const StudyKindFacts& facts = factsOf(kind);
  setTitle(facts.name);
  kind_->setCurrentIndex(int(&facts - studyKinds.data()));
  for (QWidget* w : {sunRows_, sunFold_}) w->setVisible(facts.settings == SettingsOf::SunHours);
  lightRows_->setVisible(facts.settings == SettingsOf::Light);
  skyRows_->setVisible(facts.settings == SettingsOf::Light && facts.inside);
  verdictRows_->setVisible(facts.judged);
  offerRuleFor(facts.rulesOf);
  Study fresh;
  fresh.kind = kind;
  for (const auto& rows : settings_) rows->show(s ? *s : fresh);
  refreshYear(s);
  const bool skyAsked = usesField(kind, "sky");
  sky_->setEnabled(skyAsked);
  skyMoment_->setEnabled(skyAsked);
  if (s) {
    const SkyChoice& k = s->light.sky;
    const int at = !skyAsked || k.kind == SkyKind::CieOvercast ? 0
                   : k.kind == SkyKind::Uniform                ? 1
                   : k.kind == SkyKind::Weather                ? 4
                   : k.kind == SkyKind::CieGeneral             ? k.type + 4
                                                               : -1;
    sky_->setCurrentIndex(at);
    skyMoment_->setCurrentIndex(k.moment ? 1 : 0);
  }
  const SunHoursSettings h = s ? s->sunHours : SunHoursSettings{};
  const Date today = p.zone().clock(document_.looking().moment).date;
  when_->setCurrentIndex(h.dates.empty() ? 2 : h.dates.size() == 1 && h.dates.front() == today && !datesOfOwn_ ? 0 : 1);
  QStringList dates;
  for (const Date& d : h.dates)
    dates << QString::fromStdString(dayText(d)) + (d.year != p.site.year ? QString(" %1").arg(d.year) : QString());
  show(dates_, h.dates.empty() ? QString::fromStdString(seasonText(h.season)).section(" · ", 0, 0) : dates.join(", "));
  dates_->setEnabled(!h.dates.empty());
  clock_->setCurrentIndex(h.sunriseToSunset ? 0 : 1);
  show(from_, QString::fromStdString(clockText(h.season.beginMinute)));
  show(to_, QString::fromStdString(clockText(h.season.endMinute)));
  from_->setEnabled(!h.sunriseToSunset);
  to_->setEnabled(!h.sunriseToSunset);
  double spacing = 0;
  if (s && !s->groups.empty())
    if (const SensorGroup* g = p.group(s->groups.front()))
      std::visit(
          [&](const auto& l) {
            if constexpr (requires { l.spacing; }) spacing = l.spacing;
          },
          g->layout);
  show(spacing_, spacing > 0 ? QString::fromStdString(lengthText(spacing, p.units)) : QString());
  spacing_->setEnabled(spacing > 0);
  QString key;
  for (const Judgement& j : p.judgements) {
    key += QString::fromStdString(j.id.text());
    for (const auto& [k, v] : j.changed) key += QString::fromStdString(k + v);
  }
  if (key != parametersKey_) {
    parametersKey_ = key;
    showParameters();
  }
  showAnswer();
}

} // namespace noonward
