// The Studies sheet's part for the daylight year: what is asked, and the rooms' figures with the building's.

#include "app/charts/hours_chart.h"
#include "app/steps/studies_sheet.h"
#include "app/theme/style.h"
#include "app/theme/table_fill.h"
#include "core/model/settings/fields.h"
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
/// Words of the rules for blinds, in the order of the description.
QStringList blindNames() {
  QStringList out;
  for (const Field<YearSettings>& f : fieldsOf<YearSettings>())
    if (f.key == "blinds")
      for (const FieldChoice& way : f.rows.front().choices) out << QString::fromStdString(way.words);
  return out;
}
} // namespace

void StudiesSheet::buildYear() {
  yearRows_ = addGroup();
  addSettings(SettingsOf::Year, false);
  addFold("Hours, confidence, ASE and shade fabric");
  addSettings(SettingsOf::Year, true);
  endFold();
  addFold("Blinds by group of windows");
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
  if (const Study* s = study(); s && groupsOf_ != s->id) {
    groupsOf_ = s->id;
    groups_.clear();
  }
  if (answer && answer->facts) groups_ = answer->facts->groups; // they stay while the study waits for its next run
  const bool known = groups_.size() > 1;
  groupBlinds_->setVisible(known);
  groupsWords_->setText(known ? "A group is the windows of one room, one side and one type."
                              : "The groups are listed when the year has run.");
  if (!known) return;
  const std::vector<WindowGroup>& groups = groups_;
  const DisplayUnits& units = document_.project().units;
  QString key = QString::fromStdString(shownUnit("m²", units).symbol) + ";";
  for (std::size_t k = 1; k < groups.size(); ++k)
    key += QString::fromStdString(groups[k].key + "|" + groups[k].name + "|") +
           QString::number(groups[k].area, 'f', 1) + ";";
  if (key != groupsKey_) {
    groupsKey_ = key;
    groupBlinds_->setRowCount(int(groups.size()) - 1);
    for (std::size_t k = 1; k < groups.size(); ++k) {
      const QString of = QString::fromStdString(groups[k].name), area = shownQuantity(groups[k].area, 1, "m²", units);
      auto* name = new QTableWidgetItem(of + "\n" + area);
      name->setFont(textFont(11));
      name->setToolTip(QString("%1: %2 of glass").arg(of, area));
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
  const bool year = s && s->kind == StudyKind::Year, asked = s && runsWhenAsked(s->kind);
  yearRows_->setVisible(asked);
  yearShown_->setVisible(year);
  live_->setVisible(!asked); // it waits for Run
  building_->setVisible(year);
  robust_->setVisible(year);
  for (QPushButton* b : areaButtons_) b->setVisible(!asked); // a year is asked in rooms
  if (asked && !year) refreshGroups(s->year);
  if (!year) {
    hours_->setVisible(false);
    hoursText_->setVisible(false);
    return;
  }
  refreshGroups(s->year);
  metric_->setCurrentIndex(int(std::find(allYearMetrics.begin(), allYearMetrics.end(), document_.looking().metric) -
                               allYearMetrics.begin()));
}

void StudiesSheet::showYear(const SensorField& painted) {
  const YearResult& r = *painted.year;
  const double limit = aseLimit(document_.project(), document_.shelf());
  const QFont small = textFont(11.5), figures = figureFont(11);
  const DisplayUnits& units = document_.project().units;
  const ShownUnit light = shownUnit("lx", units);
  const auto lux = [&](double v) { return QString::number(light.shown(v), 'f', light.factor < 1 ? 1 : 0); };
  const auto quantity = [&](double v) { return shownQuantity(v, 0, "lx", units); };
  rooms_->setHorizontalHeaderLabels({"Room", "sDA", "ASE", "mean " + QString::fromStdString(light.symbol)});
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
  const TableFill fill(rooms_);
  rooms_->setRowCount(int(rowSpaces_.size()));
  const Looking& l = document_.looking();
  const Study* asked = this->study();
  const auto useful = (asked ? asked->year : YearSettings()).metrics.useful;
  for (std::size_t row = 0; row < rowSpaces_.size(); ++row) {
    const std::size_t k = rowSpaces_[row];
    const SpaceYear& s = r.spaces[k];
    const bool there = known(k), chosen = l.space == k && !l.sensor;
    const QStringList cells{QString::fromStdString(painted.sensors.groups[k].name),
                            there ? QString("%1 %").arg(100 * s.sda, 0, 'f', 1) : "…",
                            there ? QString("%1 %").arg(100 * s.ase, 0, 'f', 1) : "", there ? lux(s.meanLux) : ""};
    for (int c = 0; c < 4; ++c) {
      auto* item = new QTableWidgetItem(cells[c]);
      QFont f = c == 0 ? small : figures;
      f.setBold(chosen);
      item->setFont(f);
      item->setTextAlignment(c == 0 ? Qt::AlignLeft | Qt::AlignVCenter : Qt::AlignRight | Qt::AlignVCenter);
      if (there)
        item->setToolTip(
            QString("sDA ± %1 points, mean ± %2, median %7; below %8 %3 % of the hours, to %9 %4 %, to %10 %5 %, "
                    "above %6 %. Click for its hours.")
                .arg(100 * r.sdaError[k], 0, 'g', 2)
                .arg(QString("%1 %2")
                         .arg(light.shown(r.meanError[k]), 0, 'g', 2)
                         .arg(QString::fromStdString(light.symbol)))
                .arg(100 * s.useful[0], 0, 'f', 0)
                .arg(100 * s.useful[1], 0, 'f', 0)
                .arg(100 * s.useful[2], 0, 'f', 0)
                .arg(100 * s.useful[3], 0, 'f', 0)
                .arg(quantity(s.medianLux), quantity(useful[0]), quantity(useful[1]), quantity(useful[2])));
      if (c == 2 && there && s.ase > limit + 1e-9) {
        item->setForeground(theme().short_);
        item->setText(cells[c] + " !"); // above the limit, by more than colour
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
  QString text = r.everySpace ? QString("Regularly occupied rooms: sDA %1 ± %2 %, ASE %3 %")
                                    .arg(100 * r.building.sda, 0, 'f', 1)
                                    .arg(100 * r.buildingSdaError, 0, 'f', 1)
                                    .arg(100 * r.building.ase, 0, 'f', 1)
                              : QString("Not every room is done: no figure for the building yet");
  if (r.everySpace && std::size_t(reached) < steps.size() && steps[std::size_t(reached)] < noStep)
    text += QString("; %1 points of sDA to the step of %2 %")
                .arg(100 * (steps[std::size_t(reached)] - r.building.sda), 0, 'f', 1)
                .arg(100 * steps[std::size_t(reached)], 0, 'g', 3);
  if (r.certain)
    text += QString(". Stopped by itself: the verdict stands with %1 % confidence").arg(100 * r.certainty, 0, 'f', 2);
  else if (r.end == RunEnd::Enough && r.everySpace)
    text += ". Stopped early, with the uncertainty it had";
  if (bright > 0)
    text += QString(". %1 room%2 above %3 % ASE: say in Record how glare is dealt with")
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
