// The Studies sheet's part for a year of energy: the rooms' figures, gains and losses by month, and why they are so.

#include "app/charts/energy_bars.h"
#include "app/steps/studies_sheet.h"
#include "app/theme/style.h"
#include "app/theme/table_fill.h"
#include "core/files/project/heat_json.h"
#include "core/studies/energy/energy_reading.h"
#include "core/studies/irradiation.h"
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>

namespace noonward {

void StudiesSheet::buildEnergyYear() {
  energyRows_ = addGroup();
  energyBars_ = new EnergyBars;
  addWidget(energyBars_);
  connect(energyBars_, &EnergyBars::monthChosen, this, [this](int month) {
    energyMonth_ = energyMonth_ == std::size_t(month) ? std::nullopt : std::optional(std::size_t(month));
    showAnswer();
  });
  energyWhy_ = addNote();
  energyWhy_->setAccessibleName("Why heating or cooling is so high");
  wholeYear_ = addButton("The whole year", [this] {
    energyMonth_.reset();
    showAnswer();
  });
  wholeYear_->setToolTip("Causes of the year instead of those of one month");
  energySeason_ = addNote();
  energySeason_->setAccessibleName("Energy in the season");
  energyWeighed_ = addNote();
  energyWeighed_->setAccessibleName("Energy by weights");
  addButton("Price or carbon by a file…", [this] { emit weightsWanted(); })
      ->setToolTip(
          "What a kWh of heating, cooling and lighting costs or emits, from a file; one ships in resources/energy");
  auto* aid =
      addNote("A design aid by the simple hourly method of ISO 13790, no certificate. What heat depends on stands "
              "in Finishes and Rooms.");
  aid->setAccessibleName("What these figures are");
  endGroup();
  energyRows_->hide();
}

void StudiesSheet::showEnergyYear(const SensorField& painted) {
  const EnergyYear& year = *painted.light->energy;
  const Project& p = document_.project();
  const ShownUnit unit = shownUnit("kWh/m²", p.units);
  rooms_->setHorizontalHeaderLabels({"Room", "heat", "cool", "light"});
  rooms_->horizontalHeaderItem(0)->setToolTip(
      QString("%1 of the room's floor, a year").arg(QString::fromStdString(unit.symbol)));
  struct Row {
    std::size_t group;
    const EnergyRoom* room;
    std::array<double, 3> figures;
  };
  std::vector<Row> rows;
  std::vector<const EnergyRoom*> met;
  for (std::size_t g = 0; g < painted.sensors.groups.size(); ++g) {
    const EnergyRoom* room = year.room(g);
    const QString name = QString::fromStdString(painted.sensors.groups[g].name);
    if (!room || std::find(met.begin(), met.end(), room) != met.end() ||
        (!roomFilter_->text().isEmpty() && !name.contains(roomFilter_->text(), Qt::CaseInsensitive)))
      continue;
    met.push_back(room);
    const EnergyParts y = room->year();
    const double area = std::max(1e-9, room->floorArea);
    rows.push_back({g, room, {y.heating / area, -y.cooling / area, y.lighting / area}});
  }
  if (sortColumn_ >= 0)
    std::stable_sort(rows.begin(), rows.end(), [&](const Row& a, const Row& b) {
      const Row &x = sortDown_ ? b : a, &y = sortDown_ ? a : b;
      return sortColumn_ == 0 ? x.room->name < y.room->name
                              : x.figures[std::size_t(sortColumn_ - 1)] < y.figures[std::size_t(sortColumn_ - 1)];
    });
  const Looking& l = document_.looking();
  std::optional<std::size_t> chosen = l.space;
  if (l.sensor && *l.sensor < painted.sensors.sensors.size()) chosen = painted.sensors.sensors[*l.sensor].group;
  const EnergyRoom* room = chosen ? year.room(*chosen) : nullptr;
  const TableFill fill(rooms_);
  rooms_->setRowCount(int(rows.size()));
  rowSpaces_.clear();
  for (std::size_t k = 0; k < rows.size(); ++k) {
    rowSpaces_.push_back(rows[k].group);
    for (int c = 0; c < 4; ++c) {
      auto* item =
          new QTableWidgetItem(c == 0 ? QString::fromStdString(rows[k].room->name)
                                      : QString::number(unit.shown(rows[k].figures[std::size_t(c - 1)]), 'f', 1));
      QFont f = c == 0 ? textFont(11.5) : figureFont(11);
      f.setBold(rows[k].room == room);
      item->setFont(f);
      item->setTextAlignment(c == 0 ? Qt::AlignLeft | Qt::AlignVCenter : Qt::AlignRight | Qt::AlignVCenter);
      item->setToolTip(QString("%1, used as “%2”: %3. Peaks: heating %4 kW, cooling %5 kW; warmer than %7 °C in %6 h "
                               "of use.")
                           .arg(QString::fromStdString(rows[k].room->name), QString::fromStdString(rows[k].room->use),
                                QString::fromStdString(demandText(*rows[k].room, std::nullopt, p.units)))
                           .arg(rows[k].room->peakHeating / 1000, 0, 'f', 1)
                           .arg(rows[k].room->peakCooling / 1000, 0, 'f', 1)
                           .arg(rows[k].room->hoursAbove, 0, 'f', 0)
                           .arg(rows[k].room->warmAbove));
      rooms_->setItem(int(k), c, item);
    }
  }
  rooms_->setFixedHeight(28 + 24 * rooms_->rowCount());
  const auto all = allRooms(year);
  building_->setVisible(all.has_value());
  energyRows_->setVisible(all.has_value());
  if (!all) return;
  building_->setText(QString("All rooms, %1: %2.")
                         .arg(shownQuantity(all->floorArea, 0, "m²", p.units),
                              QString::fromStdString(demandText(*all, std::nullopt, p.units))));
  const EnergyRoom& told = room ? *room : *all;
  energyBars_->show(told, energyMonth_, p.units);
  energyWhy_->setText(QString::fromStdString(told.name + ". " + whyText(p, told, energyMonth_) + " " + freeText(told)));
  const Season& season = l.season;
  const bool whole = datesOf(season, 2025).size() >= 365 && std::abs(season.endMinute - season.beginMinute) >= 1440;
  energySeason_->setVisible(!whole);
  if (!whole)
    energySeason_->setText(QString::fromStdString(
        stretchText(told, hoursOfSeason(p, season), "In the season, " + seasonText(season), p.units)));
  energyWeighed_->setText(QString::fromStdString(weighedText(told, p.heat.weights, p.units)));
  energyWeighed_->setVisible(!p.heat.weights.empty());
  wholeYear_->setVisible(energyMonth_.has_value());
}

void StudiesSheet::takeWeights(const QString& file) {
  auto weights = readWeights(file.toStdString());
  if (!weights) return emit document_.notice(QString::fromStdString(weights.error().text()), true);
  Project p = document_.project();
  p.heat.weights = std::move(*weights);
  document_.change(std::move(p), "Weigh energy");
}

} // namespace noonward
