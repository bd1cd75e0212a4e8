// What happens in rooms: people, equipment, lighting, set-points and hours, for a year of energy. Bundles by use ship;
// a copy is the project's own and tells what was changed of it.

#include "app/steps/field_rows.h"
#include "app/steps/rooms_sheet.h"
#include "core/model/heat_library.h"
#include <QLabel>
#include <QPushButton>

namespace noonward {

namespace {
std::vector<RoomUse> allUses(const HeatDesign& d) {
  std::vector<RoomUse> out = d.uses;
  for (RoomUse& u : libraryUses())
    if (std::none_of(d.uses.begin(), d.uses.end(), [&](const RoomUse& own) { return own.name == u.name; }))
      out.push_back(std::move(u));
  return out;
}
void fillUses(QComboBox* box, const std::vector<RoomUse>& list, const std::string& now) {
  box->clear();
  for (const RoomUse& u : list) box->addItem(QString::fromStdString(u.name));
  box->setCurrentIndex(box->findText(QString::fromStdString(now)));
}
} // namespace

void RoomsSheet::buildUses() {
  addHeading("Use");
  addNote("People, equipment, lamps, set-points and hours, for a year of energy. Light needs none of it.");
  useOfRoom_ = addNames(
      "This room is used as",
      [this](int i) {
        const auto list = allUses(document_.project().heat);
        if (i >= 0 && i < int(list.size())) editRoom("Set use", [&](Room& r) { r.use = list[std::size_t(i)].name; });
      },
      "The room chosen in the table above");
  useOfRoom_->setAccessibleName("Use of the room");
  useOfOthers_ = addNames(
      "Rooms of no known use, as",
      [this](int i) {
        const auto list = allUses(document_.project().heat);
        if (i < 0 || i >= int(list.size())) return;
        Project p = document_.project();
        p.heat.use = list[std::size_t(i)].name;
        document_.change(std::move(p), "Set the usual use");
      },
      "What rooms are taken as whose own use is not one of these");
  useOfOthers_->setAccessibleName("Use of all other rooms");
  addFold("Uses");
  whichUse_ = addNames(
      "Use",
      [this](int) {
        lookedUse_ = whichUse_->currentText().toStdString();
        refresh();
      },
      "The use that the fields below tell of");
  whichUse_->setAccessibleName("Use looked at");
  useFacts_ = addNote();
  useFacts_->setAccessibleName("What the use is");
  addButton("Make my own use", [this] {
    const auto from = findUse(document_.project().heat, lookedUse_);
    if (!from) return;
    RoomUse copy = *from;
    for (int n = 1; findUse(document_.project().heat, copy.name); ++n)
      copy.name = from->name + ", own" + (n > 1 ? " " + std::to_string(n) : "");
    copy.copyOf = from->locked ? from->name : from->copyOf;
    copy.source = "copied from " + from->name;
    copy.locked = false;
    lookedUse_ = copy.name;
    Project p = document_.project();
    p.heat.uses.push_back(std::move(copy));
    document_.change(std::move(p), "Copy a use");
  });
  useOwn_ = addGroup();
  useName_ = addName(
      "Name",
      [this](const QString& t) {
        const std::string fresh = t.trimmed().toStdString();
        if (fresh == lookedUse_) return;
        if (fresh.empty() || findUse(document_.project().heat, fresh))
          return showFault(useName_, "A name that is not taken is expected here");
        Project p = document_.project();
        for (RoomUse& u : p.heat.uses)
          if (u.name == lookedUse_) u.name = fresh;
        for (Room& r : p.rooms)
          if (r.use == lookedUse_) r.use = fresh;
        if (p.heat.use == lookedUse_) p.heat.use = fresh;
        lookedUse_ = fresh;
        document_.change(std::move(p), "Rename a use");
      },
      "Rooms of this use follow");
  useName_->setAccessibleName("Name of the use");
  useFields_ = std::make_unique<FieldRows<RoomUse>>(
      *this, fieldsOf<RoomUse>(), false,
      [this](const QString& name, const std::function<void(RoomUse&)>& change) { editUse(name, change); });
  endGroup();
  endFold();
}

void RoomsSheet::editUse(const QString& name, const std::function<void(RoomUse&)>& change) {
  Project p = document_.project();
  for (RoomUse& u : p.heat.uses) {
    if (u.name != lookedUse_) continue;
    change(u);
    if (const std::string fault = faultOf(u); !fault.empty()) {
      refresh(); // what was typed goes
      emit document_.notice(QString::fromStdString(fault), true);
      return;
    }
  }
  document_.change(std::move(p), name);
}

void RoomsSheet::refreshUses() {
  const Project& p = document_.project();
  const std::vector<RoomUse> list = allUses(p.heat);
  const Room* r = room();
  const UseOfRoom now = useOfRoom(p.heat, r ? r->use : std::string());
  fillUses(useOfRoom_, list, now.own ? now.use.name : std::string());
  useOfRoom_->setEnabled(r);
  if (r && !now.own) useOfRoom_->setPlaceholderText(QString("as others: %1").arg(QString::fromStdString(now.use.name)));
  fillUses(useOfOthers_, list, useOfRoom(p.heat, "").use.name);
  if (!findUse(p.heat, lookedUse_)) lookedUse_ = now.use.name;
  const RoomUse looked = *findUse(p.heat, lookedUse_);
  lookedUse_ = looked.name;
  fillUses(whichUse_, list, looked.name);
  QString facts = looked.locked
                      ? "Ships with the program, read-only: " + QString::fromStdString(looked.source)
                      : QString("Your own%1")
                            .arg(looked.copyOf.empty() ? QString() : ", from " + QString::fromStdString(looked.copyOf));
  if (!looked.locked && !looked.copyOf.empty()) {
    const std::string changed = changedText(looked);
    facts += changed.empty() ? QString(": nothing changed") : ". Changed: " + QString::fromStdString(changed);
  }
  useFacts_->setText(facts + ".");
  useOwn_->setEnabled(!looked.locked);
  show(useName_, QString::fromStdString(looked.name));
  useFields_->show(looked, p.units, {}, FieldRows<RoomUse>::Idle::Grey);
}

} // namespace noonward
