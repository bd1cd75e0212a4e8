// What walls, roofs and floors lose: constructions and thermal mass, for a year of energy.

#include "app/steps/finishes_sheet.h"
#include "core/model/heat_library.h"
#include <QLabel>
#include <fmt/format.h>

namespace noonward {

namespace {
struct HeatPlace {
  const char *label, *help;
  HeatFlow flow;
  std::string HeatDesign::*name;
};
constexpr std::array<HeatPlace, heatFlows> heatPlaces{
    {{"Outer walls", "Of all rooms, where they border on the outdoors", HeatFlow::Wall, &HeatDesign::wall},
     {"Roofs", "Of ceilings under the sky", HeatFlow::Roof, &HeatDesign::roof},
     {"Ground floors", "Of floors on the ground, which lose half as much", HeatFlow::Ground, &HeatDesign::ground},
     {"Floors in air", "Of floors with outdoor air below", HeatFlow::ExposedFloor, &HeatDesign::exposedFloor},
     {"Partitions", "Of walls, ceilings and floors between rooms", HeatFlow::Inside, &HeatDesign::partition}}};

std::vector<Construction> allConstructions(const HeatDesign& d) {
  std::vector<Construction> out = d.constructions;
  for (Construction& c : libraryConstructions()) out.push_back(std::move(c));
  return out;
}
} // namespace

void FinishesSheet::editHeat(const QString& name, const std::function<void(HeatDesign&)>& change) {
  Project p = document_.project();
  change(p.heat);
  document_.change(std::move(p), name);
}

void FinishesSheet::buildHeat() {
  addHeading("Heat");
  addNote("What walls, roofs and floors lose, for a year of energy. Light needs none of it.");
  for (const HeatPlace& place : heatPlaces) {
    auto* c = addNames(
        place.label,
        [this, &place](int i) {
          const auto list = allConstructions(document_.project().heat);
          if (i < 0 || i >= int(list.size())) return;
          const std::string name = list[std::size_t(i)].name;
          editHeat("Choose a construction", [&](HeatDesign& d) {
            d.*place.name = name == usualConstruction(place.flow) ? std::string() : name;
          });
        },
        place.help);
    c->setAccessibleName(QString("Construction of %1").arg(QString(place.label).toLower()));
    constructionOf_[std::size_t(place.flow)] = c;
  }
  const auto edit = [this](const QString& name, const std::function<void(HeatDesign&)>& change) {
    editHeat(name, change);
  };
  heatFields_ = std::make_unique<FieldRows<HeatDesign>>(*this, fieldsOf<HeatDesign>(), false, edit);
  addFold("Constructions");
  construction_ = addNames(
      "Construction",
      [this](int) {
        lookedConstruction_ = construction_->currentText().toStdString();
        refresh();
      },
      "The construction that the fields below tell of");
  construction_->setAccessibleName("Construction looked at");
  constructionFacts_ = addNote();
  constructionFacts_->setAccessibleName("What the construction is");
  addButton("Make my own construction", [this] {
    const auto from = findConstruction(document_.project().heat, lookedConstruction_);
    if (!from) return;
    Construction copy = *from;
    for (int n = 1; findConstruction(document_.project().heat, copy.name); ++n)
      copy.name = from->name + ", own" + (n > 1 ? " " + std::to_string(n) : "");
    copy.locked = false;
    copy.source = "copied from " + from->name;
    lookedConstruction_ = copy.name;
    editHeat("Copy a construction", [&](HeatDesign& d) { d.constructions.push_back(std::move(copy)); });
  });
  constructionName_ = addName(
      "Name",
      [this](const QString& t) {
        const std::string fresh = t.trimmed().toStdString();
        if (fresh == lookedConstruction_) return;
        if (fresh.empty() || findConstruction(document_.project().heat, fresh))
          return showFault(constructionName_, "A name that is not taken is expected here");
        const std::string old = std::exchange(lookedConstruction_, fresh);
        editHeat("Rename a construction", [&](HeatDesign& d) {
          for (Construction& c : d.constructions)
            if (c.name == old) c.name = fresh;
          for (const HeatPlace& place : heatPlaces)
            if (d.*place.name == old) d.*place.name = fresh;
          for (HeatSurface& s : d.surfaces)
            if (s.construction == old) s.construction = fresh;
        });
      },
      "What it is called in tables and in the record");
  constructionName_->setAccessibleName("Construction name");
  uValue_ = addField(
      "U-value",
      [this](const QString& t) {
        const auto v = numberWithUnit(t.toStdString(), "W/m²K");
        if (!v || *v < 0.01 || *v > 20) return showFault(uValue_, "0.01 to 20 W/m²K are expected here");
        editHeat("Set a U-value", [&](HeatDesign& d) {
          for (Construction& c : d.constructions)
            if (c.name == lookedConstruction_) {
              c.uValue = *v;
              c.layers.clear(); // it is what was typed now
            }
        });
      },
      "Heat lost for each degree, W/(m²K), the surfaces' resistances included");
  uValue_->setAccessibleName("U-value of the construction");
  endFold();
}

void FinishesSheet::refreshHeat() {
  const HeatDesign& d = document_.project().heat;
  const std::vector<Construction> list = allConstructions(d);
  for (const HeatPlace& place : heatPlaces) {
    QComboBox* c = constructionOf_[std::size_t(place.flow)];
    const std::string now = (d.*place.name).empty() ? usualConstruction(place.flow) : d.*place.name;
    c->clear();
    for (const Construction& one : list)
      c->addItem(QString::fromStdString(fmt::format("{}  ·  U {:.2g}", one.name, uValueOf(one, place.flow))));
    const auto at = std::find_if(list.begin(), list.end(), [&](const Construction& one) { return one.name == now; });
    if (at == list.end()) c->addItem(QString::fromStdString(now + " (not known)"));
    c->setCurrentIndex(int(at - list.begin()));
  }
  heatFields_->show(d, document_.project().units, {}, FieldRows<HeatDesign>::Idle::Grey);
  if (!findConstruction(d, lookedConstruction_)) lookedConstruction_ = list.front().name;
  construction_->clear();
  for (const Construction& one : list) construction_->addItem(QString::fromStdString(one.name));
  construction_->setCurrentIndex(construction_->findText(QString::fromStdString(lookedConstruction_)));
  const Construction now = *findConstruction(d, lookedConstruction_);
  QString facts =
      QString::fromStdString((now.locked ? "Ships with the program, read-only: " : "Your own. ") + now.source);
  for (const ConstructionLayer& l : now.layers)
    facts += QString("\n%1 mm %2, %3 W/mK")
                 .arg(l.thickness * 1000, 0, 'g', 4)
                 .arg(QString::fromStdString(l.name))
                 .arg(l.conductivity, 0, 'g', 3);
  if (const auto held = heldHeat(now))
    facts +=
        QString("\nLayers from outdoors to indoors; they hold %1 kJ/m²K near the room.").arg(*held / 1000, 0, 'f', 0);
  constructionFacts_->setText(facts);
  for (QLineEdit* field : {uValue_, constructionName_}) field->setEnabled(!now.locked);
  show(constructionName_, QString::fromStdString(now.name));
  show(uValue_, QString("%1 W/m²K").arg(uValueOf(now, HeatFlow::Wall), 0, 'g', 3));
}

} // namespace noonward
