// The Studies sheet's part for the daylight year: what is asked, and the rooms' figures with the building's.

#include "app/charts/hours_chart.h"
#include "app/steps/studies_sheet.h"
#include "app/theme/style.h"
#include <QComboBox>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>

namespace noonward {

void StudiesSheet::editYear(const QString& name, const std::function<void(YearSettings&)>& change) {
  edit(name, [&](Study& s) { change(s.year); });
}

namespace {
QStringList blindNames() {
  return {"by the standard", "never close", "always closed", "by irradiance", "by the clock"};
}
constexpr auto asGlass = "as glass";
} // namespace

void StudiesSheet::buildYear() {
  yearRows_ = addGroup();
  QStringList metrics;
  for (YearMetric m : allYearMetrics) metrics << yearMetricName(m);
  metric_ = addChoice(
      "Shown", metrics,
      [this](int i) { document_.look([&](Looking& l) { l.metric = allYearMetrics[std::size_t(i)]; }); },
      "Another figure of the same year: nothing is computed again");
  metric_->setAccessibleName("Figure of the year");
  yearThreshold_ = addField(
      "Enough light",
      [this](const QString& t) {
        const auto v = numberFromText(QString(t).remove("lx").trimmed().toStdString());
        if (!v || *v <= 0 || *v > 1e5) return showFault(yearThreshold_, "A number of lux is expected");
        editYear("Set threshold", [&](YearSettings& y) { y.metrics.threshold = *v; });
      },
      "≥ 300 lx in the standard");
  blinds_ = addChoice(
      "Blinds", blindNames(),
      [this](int i) { editYear("Choose blinds", [&](YearSettings& y) { y.blinds = BlindRule(i); }); },
      "Each group of windows closes while > 2 % of its room gets ≥ 1000 lx of beam through it");
  blinds_->setAccessibleName("Rule of the blinds");
  yearFold_ = addFold("Hours, certainty, beam and cloth");
  const auto clock = [this](const QString& label, bool begin) {
    auto slot = std::make_shared<QLineEdit*>(nullptr);
    *slot = addField(
        label,
        [this, begin, slot](const QString& t) {
          const auto m = minutesFromText(t.trimmed().toStdString());
          const Study* s = study();
          if (!m || !s || (begin ? *m >= s->year.endMinute : *m <= s->year.beginMinute))
            return showFault(*slot, "A clock time is expected, the beginning before the end");
          editYear("Choose hours", [&](YearSettings& y) { (begin ? y.beginMinute : y.endMinute) = *m; });
        },
        "By the site's clock, every day: 8:00 to 18:00 in the standard");
    return *slot;
  };
  yearFrom_ = clock("Hours from", true);
  yearTo_ = clock("Hours to", false);
  stopFor_ = addChoice(
      "Stops", {"error reached", "credit certain", "provision certain"},
      [this](int i) { editYear("Choose when to stop", [&](YearSettings& y) { y.stopFor = StopFor(i); }); },
      "A quarter of the paths goes first through every room; if the verdict is certain by then, the run stops by "
      "itself");
  stopFor_->setAccessibleName("When the run stops");
  confidence_ = addField(
      "Certain means",
      [this](const QString& t) {
        const auto v = numberFromText(QString(t).remove("%").toStdString());
        if (!v || *v < 50 || *v > 99.9999) return showFault(confidence_, "50 to 99.9999 % are expected");
        editYear("Set confidence", [&](YearSettings& y) { y.confidence = *v / 100; });
      },
      "Probability that more paths leave the verdict where it is");
  yearError_ = addField(
      "Error of the mean",
      [this](const QString& t) {
        const auto v = numberFromText(QString(t).remove("%").toStdString());
        if (!v || *v < 0.2 || *v > 50) return showFault(yearError_, "0.2 to 50 % are expected");
        editYear("Set error", [&](YearSettings& y) { y.error = *v / 100; });
      },
      "Of a sensor's mean illuminance, about: 3 % is usual");
  days_ = addChoice("Days", {"every day", "Monday to Friday"},
                    [this](int i) { editYear("Choose days", [&](YearSettings& y) { y.weekdaysOnly = i == 1; }); });
  days_->setAccessibleName("Days of the year");
  const auto number = [this](const QString& label, const QString& unit, double factor, double least, double most,
                             const std::function<double&(YearSettings&)>& value, const QString& help) {
    auto slot = std::make_shared<QLineEdit*>(nullptr);
    *slot = addField(
        label,
        [this, slot, unit, factor, least, most, value](const QString& t) {
          const auto v = numberFromText(QString(t).remove(unit).trimmed().toStdString());
          if (!v || *v < least || *v > most)
            return showFault(*slot, QString("%1 to %2 %3 are expected").arg(least).arg(most).arg(unit));
          editYear("Change the year", [&](YearSettings& y) { value(y) = *v / factor; });
        },
        help);
    yearFields_.push_back({*slot, value, unit, factor});
  };
  number(
      "Share of hours", "%", 100, 0, 100, [](YearSettings& y) -> double& { return y.metrics.autonomy; },
      "Of sDA: ≥ 50 % in the standard");
  number(
      "Beam of ASE", "lx", 1, 0, 1e5, [](YearSettings& y) -> double& { return y.metrics.beam; },
      "≥ 1000 lx in the standard");
  number(
      "In more than", "h", 1, 0, 8760, [](YearSettings& y) -> double& { return y.metrics.beamHours; },
      "> 250 h in the standard");
  number(
      "Blinds close at", "lx", 1, 0, 1e5, [](YearSettings& y) -> double& { return y.closesAt; },
      "Of beam through one group of windows");
  number(
      "On more than", "%", 100, 0, 100, [](YearSettings& y) -> double& { return y.closesAbove; },
      "Of the room's sensors");
  number(
      "Closes from", "W/m²", 1, 0, 2000, [](YearSettings& y) -> double& { return y.closesAtIrradiance; },
      "By irradiance: beam and sky on the outside of a group's panes");
  number(
      "Shut from", "h", 1.0 / 60, 0, 24, [](YearSettings& y) -> double& { return y.shutFrom; },
      "By the clock: hour of the day, 12.5 is 12:30");
  number(
      "Shut to", "h", 1.0 / 60, 0, 24, [](YearSettings& y) -> double& { return y.shutTo; },
      "By the clock: hour of the day");
  number(
      "Cloth, straight", "%", 100, 0, 100, [](YearSettings& y) -> double& { return y.clothStraight; },
      "What closed cloth lets through straight");
  number(
      "Cloth, scattered", "%", 100, 0, 100, [](YearSettings& y) -> double& { return y.clothScattered; },
      "What closed cloth scatters to the inside");
  clothReflected_ = addField(
      "Cloth, reflected",
      [this](const QString& t) {
        const QString bare = QString(t).remove("%").trimmed();
        const auto v = numberFromText(bare.toStdString());
        const bool glass = bare.isEmpty() || bare == asGlass;
        if (!glass && (!v || *v < 0 || *v > 100))
          return showFault(clothReflected_, "0 to 100 % are expected, or nothing");
        editYear("Set cloth", [&](YearSettings& y) {
          y.clothReflected.reset();
          if (!glass) y.clothReflected = *v / 100;
        });
      },
      "Of the room's light, back into it; left empty, closed panes reflect as open ones do");
  number(
      "Useful from", "lx", 1, 0, 1e5, [](YearSettings& y) -> double& { return y.metrics.useful[1]; },
      "Below it light is supplementary");
  number(
      "Useful to", "lx", 1, 0, 1e6, [](YearSettings& y) -> double& { return y.metrics.useful[2]; },
      "Above it there is too much");
  number(
      "Frames and dirt keep", "%", 100, 1, 100, [](YearSettings& y) -> double& { return y.glassKept; },
      "Of the light, on top of each glazing's own");
  illuminance_ = addChoice(
      "Light from", {"irradiance × efficacy", "the file's illuminances"},
      [this](int i) { editYear("Choose where light comes from", [&](YearSettings& y) { y.ownIlluminance = i == 1; }); },
      "The weather file's columns of direct and diffuse illuminance are taken where they are plausible against the "
      "irradiance beside them");
  illuminance_->setAccessibleName("Light from");
  endFold();
  groupFold_ = addFold("Blinds by group of windows");
  groupBlinds_ = new QTableWidget(0, 2);
  groupBlinds_->setAccessibleName("Blinds by group of windows");
  groupBlinds_->setHorizontalHeaderLabels({"Windows", "Rule"});
  groupBlinds_->verticalHeader()->hide();
  groupBlinds_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  groupBlinds_->setSelectionMode(QAbstractItemView::NoSelection);
  groupBlinds_->setShowGrid(false);
  groupBlinds_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
  groupBlinds_->setColumnWidth(1, 118);
  groupBlinds_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  groupBlinds_->verticalHeader()->setDefaultSectionSize(38);
  addWidget(groupBlinds_);
  groupsWords_ = addNote();
  endFold();
  endGroup();
}

void StudiesSheet::refreshGroups(const YearSettings& now) {
  const auto answer = studies_.current();
  if (const Study* s = study(); s && groupsOf_ != s->id) groupsOf_ = s->id, groups_.clear();
  if (answer && answer->facts) groups_ = answer->facts->groups; // they stay while the study waits for its next run
  const bool known = groups_.size() > 1;
  groupBlinds_->setVisible(known);
  groupsWords_->setText(known ? "A group is the windows of one room, one side and one type."
                              : "The groups are listed when the year has run.");
  if (!known) return;
  const std::vector<WindowGroup>& groups = groups_;
  QString key;
  for (std::size_t k = 1; k < groups.size(); ++k)
    key += QString::fromStdString(groups[k].key + "|" + groups[k].name + "|") +
           QString::number(groups[k].area, 'f', 1) + ";";
  if (key != groupsKey_) {
    groupsKey_ = key;
    groupBlinds_->setRowCount(int(groups.size()) - 1);
    for (std::size_t k = 1; k < groups.size(); ++k) {
      const QString of = QString::fromStdString(groups[k].name);
      auto* name = new QTableWidgetItem(QString("%1\n%2 m²").arg(of).arg(groups[k].area, 0, 'f', 1));
      name->setFont(textFont(11));
      name->setToolTip(QString("%1: %2 m² of glass").arg(of).arg(groups[k].area, 0, 'f', 1));
      groupBlinds_->setItem(int(k) - 1, 0, name);
      auto* rule = new QComboBox;
      rule->addItems(QStringList{"as above"} + blindNames());
      rule->setAccessibleName("Blinds of " + of);
      connect(rule, &QComboBox::activated, this, [this, group = groups[k].key](int i) {
        editYear("Choose blinds of a group", [&](YearSettings& y) {
          std::erase_if(y.groupBlinds, [&](const GroupBlinds& g) { return g.group == group; });
          if (i > 0)
            y.groupBlinds.insert(std::find_if(y.groupBlinds.begin(), y.groupBlinds.end(),
                                              [&](const GroupBlinds& g) { return g.group > group; }),
                                 {group, BlindRule(i - 1)});
        });
      });
      groupBlinds_->setCellWidget(int(k) - 1, 1, rule);
    }
    groupBlinds_->setFixedHeight(30 + std::min(8, groupBlinds_->rowCount()) * groupBlinds_->rowHeight(0));
  }
  for (std::size_t k = 1; k < groups.size(); ++k) {
    const auto own = std::find_if(now.groupBlinds.begin(), now.groupBlinds.end(),
                                  [&](const GroupBlinds& g) { return g.group == groups[k].key; });
    qobject_cast<QComboBox*>(groupBlinds_->cellWidget(int(k) - 1, 1))
        ->setCurrentIndex(own == now.groupBlinds.end() ? 0 : 1 + int(own->rule));
  }
}

void StudiesSheet::refreshYear(const Study* s) {
  const bool year = s && s->kind == StudyKind::Year;
  yearRows_->setVisible(year);
  live_->setVisible(!year); // it waits for Run
  building_->setVisible(year);
  robust_->setVisible(year);
  for (QPushButton* b : areaButtons_) b->setVisible(!year);
  if (!year) {
    hours_->setVisible(false);
    hoursText_->setVisible(false);
    return;
  }
  stopFor_->setCurrentIndex(int(s->year.stopFor));
  show(confidence_, QString("%1 %").arg(100 * s->year.confidence, 0, 'g', 7));
  confidence_->setEnabled(s->year.stopFor != StopFor::Nothing);
  days_->setCurrentIndex(s->year.weekdaysOnly ? 1 : 0);
  illuminance_->setCurrentIndex(s->year.ownIlluminance ? 1 : 0);
  YearSettings now = s->year;
  for (const YearField& f : yearFields_)
    show(f.field, QString("%1 %2").arg(f.value(now) * f.factor, 0, 'g', 6).arg(f.unit));
  show(clothReflected_,
       now.clothReflected ? QString("%1 %").arg(100 * *now.clothReflected, 0, 'g', 4) : QString(asGlass));
  refreshGroups(now);
  metric_->setCurrentIndex(int(std::find(allYearMetrics.begin(), allYearMetrics.end(), document_.looking().metric) -
                               allYearMetrics.begin()));
  show(yearFrom_, QString::fromStdString(clockText(s->year.beginMinute)));
  show(yearTo_, QString::fromStdString(clockText(s->year.endMinute)));
  show(yearThreshold_, QString("%1 lx").arg(s->year.metrics.threshold, 0, 'g', 5));
  blinds_->setCurrentIndex(int(s->year.blinds));
  show(yearError_, QString("%1 %").arg(100 * s->year.error, 0, 'g', 3));
}

void StudiesSheet::showYear(const PaintedResult& painted) {
  const YearResult& r = *painted.year;
  const double limit = aseLimit(document_.project(), document_.shelf());
  const QFont small = textFont(11.5), figures = figureFont(11);
  rooms_->setHorizontalHeaderLabels({"Room", "sDA", "ASE", "mean lx"});
  const auto known = [&](std::size_t k) {
    return painted.sensors.groups[k].count > 0 && !std::isnan(r.relativeError[painted.sensors.groups[k].first]);
  };
  rowSpaces_.clear();
  for (std::size_t k = 0; k < r.spaces.size(); ++k)
    if (roomFilter_->text().isEmpty() ||
        QString::fromStdString(painted.sensors.groups[k].name).contains(roomFilter_->text(), Qt::CaseInsensitive))
      rowSpaces_.push_back(k);
  const auto value = [&](std::size_t k) {
    return sortColumn_ == 1 ? r.spaces[k].sda : sortColumn_ == 2 ? r.spaces[k].ase : r.spaces[k].meanLux;
  };
  if (sortColumn_ >= 0)
    std::stable_sort(rowSpaces_.begin(), rowSpaces_.end(), [&](std::size_t a, std::size_t b) {
      if (sortDown_) std::swap(a, b);
      return sortColumn_ == 0 ? painted.sensors.groups[a].name < painted.sensors.groups[b].name : value(a) < value(b);
    });
  rooms_->setRowCount(int(rowSpaces_.size()));
  const Looking& l = document_.looking();
  for (std::size_t row = 0; row < rowSpaces_.size(); ++row) {
    const std::size_t k = rowSpaces_[row];
    const SpaceYear& s = r.spaces[k];
    const bool there = known(k), chosen = l.space == k && !l.sensor;
    const QStringList cells{QString::fromStdString(painted.sensors.groups[k].name),
                            there ? QString("%1 %").arg(100 * s.sda, 0, 'f', 1) : "…",
                            there ? QString("%1 %").arg(100 * s.ase, 0, 'f', 1) : "",
                            there ? QString::number(s.meanLux, 'f', 0) : ""};
    for (int c = 0; c < 4; ++c) {
      auto* item = new QTableWidgetItem(cells[c]);
      QFont f = c == 0 ? small : figures;
      f.setBold(chosen);
      item->setFont(f);
      item->setTextAlignment(c == 0 ? Qt::AlignLeft | Qt::AlignVCenter : Qt::AlignRight | Qt::AlignVCenter);
      if (there)
        item->setToolTip(QString("sDA ± %1 points, mean ± %2 lx, median %7 lx; below 100 lx %3 % of the hours, 100 to "
                                 "300 %4 %, to 3000 %5 %, above %6 %. Click for its hours.")
                             .arg(100 * r.sdaError[k], 0, 'g', 2)
                             .arg(r.meanError[k], 0, 'g', 2)
                             .arg(100 * s.useful[0], 0, 'f', 0)
                             .arg(100 * s.useful[1], 0, 'f', 0)
                             .arg(100 * s.useful[2], 0, 'f', 0)
                             .arg(100 * s.useful[3], 0, 'f', 0)
                             .arg(s.medianLux, 0, 'f', 0));
      if (c == 2 && there && s.ase > limit + 1e-9) {
        item->setForeground(theme().short_);
        item->setText("▲ " + cells[c]);
      }
      if (!painted.counted.empty() && !painted.counted[k] && c == 0) item->setForeground(theme().muted);
      rooms_->setItem(int(row), c, item);
    }
  }
  rooms_->setFixedHeight(28 + 24 * rooms_->rowCount());
  const Study* study = this->study();
  const auto steps = study ? study->year.steps : YearSettings{}.steps;
  const int reached = stepsReached(r.building.sda, steps);
  int bright = 0;
  for (std::size_t k = 0; k < r.spaces.size(); ++k)
    bright += k < painted.counted.size() && painted.counted[k] && r.spaces[k].ase > limit + 1e-9;
  QString text = r.everySpace ? QString("Rooms that count: sDA %1 ± %2 %, ASE %3 %")
                                    .arg(100 * r.building.sda, 0, 'f', 1)
                                    .arg(100 * r.buildingSdaError, 0, 'f', 1)
                                    .arg(100 * r.building.ase, 0, 'f', 1)
                              : QString("Not every room is done: no figure for the building yet");
  if (r.everySpace && std::size_t(reached) < steps.size() && steps[std::size_t(reached)] < noStep)
    text += QString("; %1 points of sDA to the step of %2 %")
                .arg(100 * (steps[std::size_t(reached)] - r.building.sda), 0, 'f', 1)
                .arg(100 * steps[std::size_t(reached)], 0, 'g', 3);
  if (r.certain)
    text += QString(". Stopped by itself: the verdict is %1 % certain").arg(100 * r.certainty, 0, 'f', 2);
  else if (r.end == RunEnd::Enough && r.everySpace)
    text += ". Stopped early, with the uncertainty it had";
  if (bright > 0)
    text += QString(". ▲ %1 room%2 above %3 % ASE: say in Record how glare is dealt with")
                .arg(bright)
                .arg(bright == 1 ? "" : "s")
                .arg(100 * limit, 0, 'g', 3);
  building_->setText(text + ".");
  statistics_->setText("± is numerical only. Blinds: " + [&] {
    QStringList parts;
    const auto answer = studies_.current();
    for (std::size_t k = 1; answer && answer->facts && k < answer->facts->groups.size(); ++k)
      if (r.closedHours[k] > 0)
        parts << QString("%1 closed %2 h")
                     .arg(QString::fromStdString(answer->facts->groups[k].name))
                     .arg(r.closedHours[k]);
    return parts.isEmpty() ? QString("never closed") : parts.join("; ");
  }() + ".");
  thresholdWords_->setText({});
  showHours();
}

void StudiesSheet::showHours() {
  const auto answer = studies_.current();
  const Study* s = study();
  const bool year = s && s->kind == StudyKind::Year && answer && answer->year;
  const auto hours = year ? studies_.hours() : nullptr;
  const Looking& l = document_.looking();
  std::optional<std::size_t> sensor;
  if (hours && l.sensor) {
    const SensorGridFacts& g = answer->facts->sensors.groups[hours->series->space];
    if (*l.sensor >= g.first && *l.sensor < g.first + g.count) sensor = *l.sensor - g.first;
  }
  const Project& p = document_.project();
  const CivilTime now = p.zone().clock(l.moment);
  hours_->show(hours, sensor, s ? s->year : YearSettings{}, p,
               dayOfYear({2025, now.date.month, std::min(now.date.day, now.date.month == 2 ? 28 : 31)}) - 1);
  const bool waiting = year && (l.space || l.sensor) && !hours;
  hoursText_->setText(hours     ? hours_->text()
                      : waiting ? "The hours are being looked up…"
                      : year    ? "Click a room or a cell: when, and through which window?"
                                : "");
  hoursText_->setVisible(year);
}

} // namespace noonward
