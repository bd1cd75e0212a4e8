// The part of the Rooms sheet for shading as parts with parameters.

#include "app/steps/field_rows.h"
#include "app/steps/looked_at.h"
#include "app/steps/rooms_sheet.h"
#include "app/theme/style.h"
#include "core/model/rooms/placing.h"
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

namespace noonward {

namespace {
enum On { EverySide, North, East, South, West, Rooflights, SeveralSides };
enum At { EveryWindow, OfTheRoom, OfItsStorey, SeveralRooms, SomeWindows };

On sideOf(const ShadeRule& s) {
  if (s.rooflights) return Rooflights;
  return s.facings.empty() ? EverySide : s.facings.size() == 1 ? On(1 + int(s.facings[0])) : SeveralSides;
}
std::vector<RoomId> ofStorey(const Project& p, const Room& room) {
  std::vector<RoomId> out;
  for (const Room& r : p.rooms)
    if (std::abs(r.floor - room.floor) < 0.5) out.push_back(r.id);
  return out;
}
} // namespace

RoomsSheet::~RoomsSheet() = default;

const ShadeRule* RoomsSheet::shade() const {
  return lookedAt(document_.project().shadeRules, shade_);
}

void RoomsSheet::editShade(const QString& name, const std::function<void(ShadeRule&)>& change) {
  editLookedAt(document_, &Project::shadeRules, shade_, name, change);
}

void RoomsSheet::addShade(ShadeRule::Kind kind) {
  Project p = document_.project();
  ShadeRule s;
  s.kind = kind;
  if (kind == ShadeRule::Kind::Louvres) {
    s.depth = 0.15;
    s.spacing = 0.2;
  }
  s.id = RuleId::fresh();
  std::string name = shadeKindName(kind);
  name[0] = char(std::toupper(name[0]));
  s.name = name + " " + std::to_string(p.shadeRules.size() + 1);
  s.facings = {p.site.place.latitude >= 0 ? Facing::South : Facing::North};
  shade_ = s.id;
  p.shadeRules.push_back(std::move(s));
  document_.change(std::move(p), "Add shade");
}

void RoomsSheet::buildShading() {
  addHeading("Shading");
  auto* shades = addButtons();
  addSmall(shades, "Overhang", "Above every window of a side", [this] { addShade(ShadeRule::Kind::Overhang); });
  addSmall(shades, "Fins", "Upright, beside and between", [this] { addShade(ShadeRule::Kind::Fins); });
  addSmall(shades, "Louvres", "Blades before the glass; the kind can be changed below",
           [this] { addShade(ShadeRule::Kind::Louvres); });
  shadeRows_ = addGroup();
  whichShade_ = addNames("Shading", [this](int i) {
    if (i >= 0 && i < int(document_.project().shadeRules.size()))
      shade_ = document_.project().shadeRules[std::size_t(i)].id;
    refresh();
  });
  shadeName_ = addName(
      "Name",
      [this](const QString& t) {
        if (const QString name = t.trimmed(); !name.isEmpty())
          editShade("Rename shade", [&](ShadeRule& s) { s.name = name.toStdString(); });
        else
          refresh();
      },
      "As results, tables and the record call it");
  shadeName_->setAccessibleName("Name of the shade");
  shadeFacing_ =
      addChoice("On", {"every side", "north", "east", "south", "west", "rooflights", "several sides"}, [this](int i) {
        if (i == SeveralSides) return refresh(); // it tells what the file says; it can't be chosen
        editShade("Choose side", [&](ShadeRule& s) {
          s.rooflights = i == Rooflights;
          s.facings.clear();
          if (i >= North && i <= West) s.facings = {allFacings[std::size_t(i - 1)]};
        });
      });
  shadeFacing_->setAccessibleName("Side of the shade");
  shadeAt_ = addChoice(
      "At", {"every window", "windows of the room", "of its storey", "several rooms", "some windows alone"},
      [this](int i) {
        const Room* r = room();
        if (i >= SeveralRooms || (i != EveryWindow && !r)) return refresh();
        const std::vector<RoomId> rooms = i == EveryWindow ? std::vector<RoomId>{}
                                          : i == OfTheRoom ? std::vector<RoomId>{r->id}
                                                           : ofStorey(document_.project(), *r);
        editShade("Choose windows", [&](ShadeRule& s) {
          s.windows.clear();
          s.rooms = rooms;
        });
      },
      "The room is the one looked at in the table above");
  shadeAt_->setAccessibleName("Windows of the shade");
  shadeType_ = addField(
      "Window type",
      [this](const QString& t) {
        editShade("Set window type", [&](ShadeRule& s) { s.type = t.trimmed().toStdString(); });
      },
      "Only at windows of this type; empty: at all");
  shadeType_->setAccessibleName("Window type of the shade");
  shadeFields_ = std::make_unique<FieldRows<ShadeRule>>(
      *this, fieldsOf<ShadeRule>(), false,
      [this](const QString& name, const std::function<void(ShadeRule&)>& change) { editShade(name, change); });
  shadeFacts_ = addNote();
  shadeFacts_->setAccessibleName("Facts of the shade");
  addButton("Size it against the sun …", [this] {
    if (const ShadeRule* s = shade()) emit designWanted(s->id);
  });
  addButton("Vary this shading …", [this] {
    if (shade()) emit varyWanted(shade()->id);
  });
  addButton("Delete shading", [this] {
    Project p = document_.project();
    if (const ShadeRule* now = shade())
      std::erase_if(p.shadeRules, [id = now->id](const ShadeRule& s) { return s.id == id; });
    document_.change(std::move(p), "Delete shade");
  });
  endGroup();
}

void RoomsSheet::refreshShading() {
  const Project& p = document_.project();
  const ShadeRule* s = shade();
  shadeRows_->setVisible(s != nullptr);
  whichShade_->clear();
  for (const ShadeRule& x : p.shadeRules) {
    whichShade_->addItem(QString::fromStdString(x.name));
    if (s && x.id == s->id) whichShade_->setCurrentIndex(whichShade_->count() - 1);
  }
  if (!s) return;
  show(shadeName_, QString::fromStdString(s->name));
  shadeFacing_->setCurrentIndex(sideOf(*s));
  const Room* r = room();
  shadeAt_->setCurrentIndex(!s->windows.empty()                   ? SomeWindows
                            : s->rooms.empty()                    ? EveryWindow
                            : r && s->rooms == std::vector{r->id} ? OfTheRoom
                            : r && s->rooms == ofStorey(p, *r)    ? OfItsStorey
                                                                  : SeveralRooms);
  show(shadeType_, QString::fromStdString(s->type));
  shadeFields_->show(*s, p.units, {}, FieldRows<ShadeRule>::Idle::Gone);
  double glass = 0;
  std::size_t windows = 0;
  CutOff cut;
  for (const PlacedOpening& o : placedOpenings(p).openings) {
    const Room& of = p.rooms[o.room];
    if (!standsAt(*s, o, of.id)) continue;
    if (windows++ == 0) cut = cutOffOf(*s, frameOf(o, of));
    glass += o.area();
  }
  QString facts = windows == 0 ? QString("It stands at no window.")
                               : QString("At %1, %2 of glass.")
                                     .arg(countText(windows, s->rooflights ? "rooflight" : "window"),
                                          shownQuantity(glass, 1, "m²", p.units));
  const auto angle = [](double v) { return QString("%1°").arg(degrees(v), 0, 'f', 1); };
  if (cut.profile)
    facts += QString(" All in shade from a shadow angle of %1 up%2.")
                 .arg(angle(*cut.profile), cut.profileEnds ? " to " + angle(*cut.profileEnds) : QString());
  if (cut.left || cut.right)
    facts += QString(" All in shade with the sun%1%2%3.")
                 .arg(cut.left ? " " + angle(*cut.left) + " to the left" : QString(),
                      cut.left && cut.right ? QString(" or") : QString(),
                      cut.right ? " " + angle(*cut.right) + " to the right" : QString());
  shadeFacts_->setText(facts);
}

} // namespace noonward
