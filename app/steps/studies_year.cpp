// The Studies sheet's part for the daylight year: what is asked, and the rooms' figures with the building's.

#include "app/steps/studies_sheet.h"
#include "app/theme/style.h"
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>

namespace noonward {

void StudiesSheet::editYear(const QString& name, const std::function<void(YearSettings&)>& change) {
  edit(name, [&](Study& s) { change(s.year); });
}

void StudiesSheet::buildYear() {
  yearRows_ = addGroup();
  QStringList metrics;
  for (YearMetric m : allYearMetrics) metrics << yearMetricName(m);
  metric_ = addChoice("Shown", metrics, [this](int i) { document_.look([&](Looking& l) { l.metric = allYearMetrics[std::size_t(i)]; }); }, "Another figure of the same year: nothing is computed again");
  metric_->setAccessibleName("Figure of the year");
  const auto clock = [this](const QString& label, bool begin) {
    auto slot = std::make_shared<QLineEdit*>(nullptr);
    *slot = addField(label, [this, begin, slot](const QString& t) {
      const auto m = minutesFromText(t.trimmed().toStdString());
      const Study* s = study();
      if (!m || !s || (begin ? *m >= s->year.endMinute : *m <= s->year.beginMinute)) return showFault(*slot, "A clock time is expected, the beginning before the end");
      editYear("Choose hours", [&](YearSettings& y) { (begin ? y.beginMinute : y.endMinute) = *m; });
    }, "By the site's clock, every day: 8:00 to 18:00 in the standard");
    return *slot;
  };
  yearFrom_ = clock("Hours from", true);
  yearTo_ = clock("Hours to", false);
  yearThreshold_ = addField("Enough light", [this](const QString& t) {
    const auto v = numberFromText(QString(t).remove("lx").trimmed().toStdString());
    if (!v || *v <= 0 || *v > 1e5) return showFault(yearThreshold_, "A number of lux is expected");
    editYear("Set threshold", [&](YearSettings& y) { y.metrics.threshold = *v; });
  }, "300 lx in the standard");
  blinds_ = addChoice("Blinds", {"close by the standard", "never close", "always closed"}, [this](int i) { editYear("Choose blinds", [&](YearSettings& y) { y.blinds = BlindRule(i); }); },
                      "Each group of windows closes when more than 2 % of its room gets 1000 lx of beam through it");
  blinds_->setAccessibleName("Rule of the blinds");
  yearError_ = addField("Error of the mean", [this](const QString& t) {
    const auto v = numberFromText(QString(t).remove("%").toStdString());
    if (!v || *v < 0.2 || *v > 50) return showFault(yearError_, "0.2 to 50 % are expected");
    editYear("Set error", [&](YearSettings& y) { y.error = *v / 100; });
  }, "Of a sensor's mean illuminance, about: 3 % is usual");
  endGroup();
}

void StudiesSheet::refreshYear(const Study* s) {
  const bool year = s && s->kind == StudyKind::Year;
  yearRows_->setVisible(year);
  live_->setVisible(!year); // it waits for Run
  building_->setVisible(year);
  if (!year) return;
  metric_->setCurrentIndex(int(std::find(allYearMetrics.begin(), allYearMetrics.end(), document_.looking().metric) - allYearMetrics.begin()));
  show(yearFrom_, QString::fromStdString(clockText(s->year.beginMinute)));
  show(yearTo_, QString::fromStdString(clockText(s->year.endMinute)));
  show(yearThreshold_, QString("%1 lx").arg(s->year.metrics.threshold, 0, 'g', 5));
  blinds_->setCurrentIndex(int(s->year.blinds));
  show(yearError_, QString("%1 %").arg(100 * s->year.error, 0, 'g', 3));
}

void StudiesSheet::showYear(const PaintedResult& painted) {
  const YearResult& r = *painted.year;
  const QFont small = textFont(11.5), figures = figureFont(11);
  rooms_->setHorizontalHeaderLabels({"Room", "sDA", "ASE", "mean lx"});
  rooms_->setRowCount(0);
  for (std::size_t k = 0; k < r.spaces.size(); ++k) {
    const SensorGridFacts& g = painted.sensors.groups[k];
    const bool known = g.count > 0 && !std::isnan(r.relativeError[g.first]);
    if (!roomFilter_->text().isEmpty() && !QString::fromStdString(g.name).contains(roomFilter_->text(), Qt::CaseInsensitive)) continue;
    const SpaceYear& s = r.spaces[k];
    const int row = rooms_->rowCount();
    rooms_->insertRow(row);
    const QStringList cells{QString::fromStdString(g.name), known ? QString("%1 %").arg(100 * s.sda, 0, 'f', 1) : "…", known ? QString("%1 %").arg(100 * s.ase, 0, 'f', 1) : "", known ? QString::number(s.meanLux, 'f', 0) : ""};
    for (int c = 0; c < 4; ++c) {
      auto* item = new QTableWidgetItem(cells[c]);
      item->setFont(c == 0 ? small : figures);
      item->setTextAlignment(c == 0 ? Qt::AlignLeft | Qt::AlignVCenter : Qt::AlignRight | Qt::AlignVCenter);
      if (known) item->setToolTip(QString("sDA ± %1 points, mean ± %2 lx; below 100 lx %3 % of the hours, 100 to 300 %4 %, to 3000 %5 %, above %6 %")
                                      .arg(100 * r.sdaError[k], 0, 'g', 2).arg(r.meanError[k], 0, 'g', 2).arg(100 * s.useful[0], 0, 'f', 0).arg(100 * s.useful[1], 0, 'f', 0).arg(100 * s.useful[2], 0, 'f', 0).arg(100 * s.useful[3], 0, 'f', 0));
      if (c == 2 && known && s.ase > 0.10) {
        item->setForeground(theme().short_);
        item->setText("▲ " + cells[c]);
      }
      rooms_->setItem(row, c, item);
    }
  }
  rooms_->setFixedHeight(28 + 24 * rooms_->rowCount());
  const int points = creditPoints(r.building.sda);
  constexpr double steps[] = {0.40, 0.55, 0.75};
  int bright = 0;
  for (std::size_t k = 0; k < r.spaces.size(); ++k) bright += k < painted.counted.size() && painted.counted[k] && r.spaces[k].ase > 0.10;
  QString text = r.end == RunEnd::Finished ? QString("Rooms that count: sDA %1 ± %2 %, ASE %3 %; %4 of 3 points by simulation").arg(100 * r.building.sda, 0, 'f', 1).arg(100 * r.buildingSdaError, 0, 'f', 1).arg(100 * r.building.ase, 0, 'f', 1).arg(points)
                                           : QString("Not every room is done: no figure for the building yet");
  if (r.end == RunEnd::Finished && points < 3) text += QString(", %1 points of sDA missing to the next").arg(100 * (steps[points] - r.building.sda), 0, 'f', 1);
  if (bright > 0) text += QString(". ▲ %1 room%2 above 10 % ASE: say how glare is dealt with").arg(bright).arg(bright == 1 ? "" : "s");
  building_->setText(text + ".");
  statistics_->setText("± is numerical only. Blinds: " + [&] {
    QStringList parts;
    const auto answer = studies_.current();
    for (std::size_t k = 1; answer && answer->yearInput && k < answer->yearInput->groups.size(); ++k)
      if (r.closedHours[k] > 0) parts << QString("%1 closed %2 h").arg(QString::fromStdString(answer->yearInput->groups[k].name)).arg(r.closedHours[k]);
    return parts.isEmpty() ? QString("never closed") : parts.join("; ");
  }() + ".");
  thresholdWords_->setText({});
}

} // namespace noonward
