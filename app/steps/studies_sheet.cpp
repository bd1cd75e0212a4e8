#include "app/steps/studies_sheet.h"
#include "app/theme/style.h"
#include "core/base/units.h"
#include "core/base/words.h"
#include "core/model/form/edit.h"
#include "core/model/form/receivers.h"
#include "core/model/settings/study_fields.h"
#include "core/runs/runner.h"
#include "core/studies/cost.h"
#include <QComboBox>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QSlider>
#include <QTableWidget>
#include <algorithm>

namespace noonward {

void StudiesSheet::setRange(bool low, const QString& text) {
  const auto answer = studies_.current();
  if (!answer || !answer->painted) return;
  QLineEdit* field = low ? rangeLow_ : rangeHigh_;
  const FieldScale now = document_.looking().scale(*answer->painted);
  const DisplayUnits& units = document_.project().units;
  auto v = quantityFromText(text.toStdString(), studyUnit(answer->painted->kind()), units);
  if (v) *v *= now.perSi;
  if (!v || (low ? *v >= now.high : *v <= now.low) || *v < 0)
    return showFault(field, "A number is expected here, the upper end above the lower");
  document_.look([&](Looking& l) {
    l.ranges[answer->painted->kind()] =
        low ? std::pair{*v / now.perSi, now.high / now.perSi} : std::pair{now.low / now.perSi, *v / now.perSi};
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
  asking_ = false;
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

/// `bay`: m; 0: a grid.
void StudiesSheet::addFacadeGroup(double bay) {
  const auto& selected = document_.looking().selected;
  if (selected.empty()) {
    emit document_.notice("Select one or more masses first.", false);
    return;
  }
  Project p = document_.project();
  SensorGroup g;
  g.id = GroupId::fresh();
  const ElementPtr e = p.element(selected.front());
  g.name = bay > 0 ? (e ? e->name + ", bays" : "Bays") : (e ? e->name + ", walls" : "Walls");
  FaceGrid grid;
  grid.bay = bay;
  for (ElementId id : selected)
    grid.faces.push_back({id, selected.size() == 1 ? document_.looking().face : std::nullopt});
  g.layout = grid;
  const GroupId id = g.id;
  p.groups.push_back(std::move(g));
  lookAt(std::move(p), {id}, bay > 0 ? "Receivers by bay" : "Grid on walls");
}

void StudiesSheet::addDwellings() {
  const auto& selected = document_.looking().selected;
  if (selected.empty()) {
    emit document_.notice("Select one or more masses first.", false);
    return;
  }
  auto made = dwellingsFromFacades(document_.project(), selected);
  if (!made) return emit document_.notice(QString::fromStdString(made.error().text()), true);
  QString told = QString("Made %1, a window every 3 m and three of them each.")
                     .arg(QString::fromStdString(counted(made->groups.size(), "dwelling", "dwellings")));
  if (made->buried > 0)
    told += QString(" %1 on walls that others stand against left out.")
                .arg(QString::fromStdString(counted(made->buried, "window", "windows")));
  lookAt(std::move(made->project), made->groups, "Dwellings by storey");
  emit document_.notice(told, false);
}

/// The study in hand, or a new one, asks for these groups.
void StudiesSheet::lookAt(Project p, const std::vector<GroupId>& groups, const QString& name) {
  const Study* now = study();
  if (!now) {
    Study s;
    s.id = StudyId::fresh();
    s.sunHours.dates = {p.zone().clock(document_.looking().moment).date};
    s.sunHours.sunriseToSunset = true;
    s.groups = groups;
    p.studies.push_back(s);
  } else {
    for (Study& s : p.studies)
      if (s.id == now->id) s.groups = groups;
  }
  document_.change(std::move(p), name);
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
  which_->addItem("another question…");
  which_->setCurrentIndex(asking_ ? int(listed_.size()) : at);
  const bool asks = asking_ || !s;
  questionRows_->setVisible(asks);
  whole_->setVisible(!asks);
  back_->setVisible(s != nullptr);
  if (asks) return setTitle("Studies");
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
  const bool energy = kind == StudyKind::Irradiation;
  const bool ofHours = energy && s->light.sky.kind == SkyKind::Usual;
  periodRows_->setVisible(energy);
  skyRows_->setVisible(facts.settings == SettingsOf::Light && facts.inside && !ofHours);
  skyEnergyRows_->setVisible(energy && !ofHours && s->light.sky.kind != SkyKind::Weather);
  if (energy) {
    period_->setCurrentIndex(!ofHours ? 2 : s->light.season == Season{} ? 0 : 1);
    show(skyDiffuse_, QString("%1 W/m²").arg(s->light.sky.diffuseIrradiance, 0, 'g', 6));
    show(skyDirect_, QString("%1 W/m²").arg(s->light.sky.directIrradiance, 0, 'g', 6));
  }
  yardstickRows_->setVisible(facts.judged);
  offerRuleFor(facts.rulesOf);
  Study fresh;
  fresh.kind = kind;
  for (const auto& rows : settings_) rows->show(s ? *s : fresh, document_.project().units);
  refreshYear(s);
  const bool skyAsked = usesField(kind, "sky");
  sky_->setEnabled(skyAsked);
  skyMoment_->setEnabled(skyAsked);
  if (s) {
    const SkyChoice& k = s->light.sky;
    const auto& list = skiesOffered();
    const std::string key = !skyAsked || k.kind == SkyKind::Usual ? "cie-overcast" : skyKey(k);
    const auto found = std::find_if(list.begin(), list.end(), [&](const auto& sky) { return sky.first == key; });
    const int at = found == list.end() ? -1 : int(found - list.begin());
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
            if constexpr (requires { l.bay; })
              spacing = l.bay > 0 ? l.bay : l.spacing;
            else if constexpr (requires { l.spacing; })
              spacing = l.spacing;
          },
          g->layout);
  show(spacing_, spacing > 0 ? QString::fromStdString(lengthText(spacing, p.units.length)) : QString());
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
  foldAsked();
}

/// With an answer what was asked is one line; while somebody is at it, it stays open.
void StudiesSheet::foldAsked() {
  const Study* s = study();
  if (!s) return;
  if (askedOf_ != s->id) askedByHand_.reset();
  askedOf_ = s->id;
  const auto answer = studies_.current();
  const QWidget* focus = focusWidget();
  const bool there = answer && answer->painted;
  const bool open = askedByHand_.value_or(!there);
  const bool busyWithIt = asked_->isOpen() && focus && focus->hasFocus() && asked_->inside()->isAncestorOf(focus);
  if (open || !busyWithIt) asked_->setOpen(open);
  QStringList where;
  for (const SensorGroup& g : document_.project().groups)
    if (s->groups.empty() || std::find(s->groups.begin(), s->groups.end(), g.id) != s->groups.end())
      where << QString::fromStdString(g.name);
  if (where.size() > 2) where = {where[0], where[1], QString("%1 more").arg(where.size() - 2)};
  QStringList words{QString::fromStdString(askedText(*s))};
  if (!where.isEmpty()) words << "on " + where.join(", ");
  if (spacing_->isEnabled()) words << "grid " + spacing_->text();
  askedWords_->setText(words.join(" · "));
  askedWords_->setVisible(!asked_->isOpen());
}

} // namespace noonward
