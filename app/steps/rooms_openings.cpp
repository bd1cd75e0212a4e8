// The part of the Rooms sheet for windows drawn one by one, each of which may stand in a row.

#include "app/steps/looked_at.h"
#include "app/steps/rooms_sheet.h"
#include "app/theme/style.h"
#include "core/model/rooms/opening_edit.h"
#include "core/model/rooms/room_form.h"
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

namespace noonward {

void RoomsSheet::addSmall(QBoxLayout* row, const QString& text, const QString& tip, const std::function<void()>& done) {
  auto* b = new QPushButton(text);
  b->setAccessibleName(text);
  b->setToolTip(tip);
  connect(b, &QPushButton::clicked, this, [done] { done(); });
  row->addWidget(b);
}

void RoomsSheet::fillGlazings(QComboBox* choice, const std::string& now) {
  choice->clear();
  choice->addItem("by finish");
  const Project& p = document_.project();
  for (const Glazing& g : p.glazings) choice->addItem(QString::fromStdString(g.name));
  for (const Glazing& g : libraryGlazings())
    if (!findGlazing(p.glazings, g.name)) choice->addItem(QString::fromStdString(g.name));
  choice->setCurrentIndex(std::max(0, choice->findText(QString::fromStdString(now))));
}

void RoomsSheet::editOpening(const QString& name, const std::function<void(Opening&)>& change) {
  Project p = document_.project();
  const Opening* now = lookedAt(p.openings, document_.looking().opening);
  if (!now) return;
  const OpeningId id = now->id;
  change(p.openings[std::size_t(now - p.openings.data())]);
  if (openFollow_->currentIndex() == 1) p = withTypeAsOne(std::move(p), id);
  document_.change(std::move(p), name);
}

void RoomsSheet::addDoor() {
  OpeningId made;
  auto with = withDoor(document_.project(), room() ? room()->id : RoomId{}, &made);
  if (!with) return emit document_.notice(QString::fromStdString(with.error().text()), true);
  document_.change(std::move(*with), "Add door");
  document_.look([&](Looking& l) { l.opening = made; });
}

void RoomsSheet::copyWall() {
  const int how = openCopy_->currentIndex();
  const Project& p = document_.project();
  const Opening* o = lookedAt(p.openings, document_.looking().opening);
  if (!o) return;
  const WallRef from{o->room, o->edge};
  std::vector<WallRef> to;
  if (how <= 1) {
    if (const auto beside = wallBeside(p, from, how == 0)) to = {*beside};
  } else {
    to = wallsInLine(p, from, how == 2);
  }
  if (to.empty())
    return emit document_.notice(how <= 1 ? "This room has no other outer wall."
                                          : "No room of another storey has a "
                                            "wall in line with this one.",
                                 true);
  Project next = p;
  int missed = 0;
  for (const WallRef& w : to) next = withWindowsOfWall(next, from, w, &missed);
  document_.change(std::move(next), "Copy windows");
  if (missed > 0)
    emit document_.notice(QString("%1 found no place on the other wall and %2 left out.")
                              .arg(countText(std::size_t(missed), "window"), missed == 1 ? "is" : "are"),
                          false);
}

void RoomsSheet::windowsForAMass() {
  Project p = document_.project();
  const std::size_t before = p.rooms.size();
  for (ElementId id : document_.looking().selected) {
    auto with = withRoomsForWindows(p, id);
    if (!with) return emit document_.notice(QString::fromStdString(with.error().text()), true);
    p = std::move(*with);
  }
  if (p.rooms.size() == before) return emit document_.notice("Select a drawn mass for its windows first.", true);
  WindowRule w;
  w.id = rule_ = RuleId::fresh();
  w.name = "Window " + std::to_string(p.windowRules.size() + 1);
  w.count = 4;
  for (std::size_t k = before; k < p.rooms.size(); ++k) w.rooms.push_back(p.rooms[k].id);
  room_ = p.rooms.back().id;
  // Sides that a rule for every room has given windows already get no second ones.
  std::array<bool, 4> given{};
  for (const PlacedOpening& o : placedOpenings(p).openings)
    if (o.room >= before && o.facing) given[std::size_t(*o.facing)] = true;
  for (Facing f : allFacings)
    if (!given[std::size_t(f)]) w.facings.push_back(f);
  if (w.facings.size() == allFacings.size()) w.facings.clear();
  if (std::find(given.begin(), given.end(), false) != given.end()) p.windowRules.push_back(std::move(w));
  document_.change(std::move(p), "Windows of a mass");
}

void RoomsSheet::buildSides() {
  sidesFold_ = addFold("Glazed share of the four sides");
  connect(sidesFold_, &Fold::clicked, this, [this] { refreshSides(); });
  sidesNote_ = addNote();
  sidesNote_->setAccessibleName("Glass of the four sides");
  for (Facing f : allFacings) {
    QString name = facingKey(f);
    name[0] = name[0].toUpper();
    sides_[std::size_t(f)] = numberField(
        name, "%", 0, 95, [this, f](double v) { setSide(f, v / 100); }, "Of the inner walls that look there; 0: none");
    sides_[std::size_t(f)]->setAccessibleName("Glazed share " + QString(facingKey(f)));
  }
  endFold();
}

/// The rule that gives one side its share: of every room, or of those of the room looked at alone.
const WindowRule* RoomsSheet::sideRule(Facing f) const {
  for (const WindowRule& w : document_.project().windowRules)
    if (!w.ceiling && w.kind == WindowRule::Kind::Ratio && w.facings == std::vector{f} && w.rooms.empty()) return &w;
  return nullptr;
}

void RoomsSheet::setSide(Facing f, double share) {
  Project p = document_.project();
  if (const WindowRule* now = sideRule(f)) {
    const RuleId id = now->id;
    if (share <= 0)
      std::erase_if(p.windowRules, [id](const WindowRule& w) { return w.id == id; });
    else
      for (WindowRule& w : p.windowRules)
        if (w.id == id) w.ratio = share;
  } else if (share > 0) {
    WindowRule w;
    w.id = RuleId::fresh();
    w.name = std::string(facingKey(f)) + " windows";
    w.name[0] = char(std::toupper(w.name[0]));
    w.facings = {f};
    w.ratio = share;
    rule_ = w.id;
    p.windowRules.push_back(std::move(w));
  }
  document_.change(std::move(p), "Set glazed share");
}

void RoomsSheet::refreshSides() {
  if (!sidesFold_->isOpen()) return; // every wall of every room is looked at
  const Project& p = document_.project();
  std::array<double, 4> wall{}, glass{};
  for (std::size_t r = 0; r < p.rooms.size(); ++r) {
    const Ring& ring = p.rooms[r].outline.outer;
    if (checkOutline(p.rooms[r].outline).fault != OutlineFault::None) continue;
    const std::vector<bool> outer = outerEdges(p, r);
    const RoomForm form = roomForm(p, p.rooms[r]);
    for (std::size_t i = 0; i < ring.size(); ++i) {
      const Vec2 d = ring[(i + 1) % ring.size()] - ring[i];
      if (const auto f = facingOf({d.y, -d.x, 0}, p.site.northAngle); f && outer[i])
        wall[std::size_t(*f)] += form.wallArea(ring[i], ring[(i + 1) % ring.size()]);
    }
  }
  for (const PlacedOpening& o : placedOpenings(p).openings)
    if (o.facing && !o.raised) glass[std::size_t(*o.facing)] += o.area();
  QStringList all;
  for (Facing f : allFacings) {
    const auto k = std::size_t(f);
    const WindowRule* w = sideRule(f);
    show(sides_[k], w ? QString("%1 %").arg(100 * w->ratio, 0, 'g', 3) : QString("0 %"));
    if (wall[k] > 0) all << QString("%1 %2 %").arg(facingKey(f)).arg(100 * glass[k] / wall[k], 0, 'f', 0);
  }
  sidesNote_->setText(all.isEmpty() ? QString("No wall looks outdoors.")
                                    : "Glass there is, by all windows: " + all.join(", ") + " of the walls.");
}

void RoomsSheet::buildOpenings() {
  addHeading("Windows one by one");
  auto* tools = addButtons();
  addSmall(tools, "Draw windows", "Click two corners on a facade; W", [this] {
    stage_.setTool(Tool::Window);
    stage_.setFocus();
  });
  addSmall(tools, "Add a door", "In the first outer wall of the room looked at that has a place for it",
           [this] { addDoor(); });
  openRows_ = addGroup();
  whichOpening_ = addNames("Window", [this](int i) {
    const auto& list = document_.project().openings;
    if (i >= 0 && i < int(list.size())) document_.look([&](Looking& l) { l.opening = list[std::size_t(i)].id; });
  });
  whichOpening_->setAccessibleName("Drawn window");
  openFacts_ = addNote();
  openAlong_ = lengthField(
      "From the corner", -1e5, [this](double v) { editOpening("Move window", [&](Opening& o) { o.along = v; }); },
      "From the wall's first corner, seen from outside its left; in a ceiling x");
  openSill_ = lengthField(
      "Its sill", -1e5, [this](double v) { editOpening("Set sill", [&](Opening& o) { o.sill = v; }); },
      "Above the floor; in a ceiling y");
  openWidth_ =
      lengthField("Its width", 0.05, [this](double v) { editOpening("Set width", [&](Opening& o) { o.width = v; }); });
  openHeight_ = lengthField("Its height", 0.05,
                            [this](double v) { editOpening("Set height", [&](Opening& o) { o.height = v; }); });
  openRepeat_ = numberField(
      "Row of", "", 1, 200, [this](double v) { editOpening("Set count", [&](Opening& o) { o.repeat = int(v); }); },
      "So many alike beside each other");
  openGap_ = lengthField(
      "Gap", 0, [this](double v) { editOpening("Set gap", [&](Opening& o) { o.gap = v; }); },
      "Between the windows of the row");
  openType_ = addField(
      "Its type",
      [this](const QString& t) { editOpening("Set type", [&](Opening& o) { o.type = t.trimmed().toStdString(); }); },
      "A name of your own: finishes and shading can go by it");
  openFrame_ = numberField(
      "Its frame share", "%", 0, 95,
      [this](double v) { editOpening("Set frame share", [&](Opening& o) { o.frame = v / 100; }); },
      "Taken by frames, mullions and panels beside what its glazing states");
  openPane_ = numberField(
      "Its pane at", "%", 0, 100,
      [this](double v) { editOpening("Set pane", [&](Opening& o) { o.paneAt = v / 100; }); },
      "Of the wall's depth, in from its outer face");
  openGlazing_ = addNames("Its glazing", [this](int i) {
    const std::string name = i <= 0 ? std::string() : openGlazing_->currentText().toStdString();
    editOpening("Choose glazing", [&](Opening& o) { o.glazing = name; });
  });
  openFollow_ = addChoice(
      "Changes go to", {"this window", "all of its type"}, [](int) {},
      "All drawn windows of the same type get its size, sill and glass");
  openCopy_ = addChoice(
      "Copy its wall", {"round the corner, right", "round the corner, left", "to the storey above", "to every storey"},
      [](int) {}, "Where all drawn windows of the wall that it is in go too");
  addButton("Copy the wall's windows", [this] { copyWall(); });
  auto* corners = addButtons();
  for (const bool right : {false, true})
    addSmall(corners, right ? "Corner at its right" : "Corner at its left",
             "Takes it to the end of its wall and round the corner, without a pillar", [this, right] {
               const Opening* o = lookedAt(document_.project().openings, document_.looking().opening);
               if (!o) return;
               auto with = withCornerWindow(document_.project(), o->id, right);
               if (!with) return emit document_.notice(QString::fromStdString(with.error().text()), true);
               document_.change(std::move(*with), "Corner window");
             });
  addButton("Delete window", [this] {
    Project p = document_.project();
    if (const Opening* now = lookedAt(p.openings, document_.looking().opening))
      std::erase_if(p.openings, [id = now->id](const Opening& o) { return o.id == id; });
    document_.change(std::move(p), "Delete window");
  });
  endGroup();
}

void RoomsSheet::refreshOpening() {
  const Project& p = document_.project();
  const Opening* o = lookedAt(p.openings, document_.looking().opening);
  openRows_->setVisible(o != nullptr);
  whichOpening_->clear();
  for (const Opening& x : p.openings) {
    const Room* r = p.room(x.room);
    whichOpening_->addItem(QString::fromStdString((r ? r->name + ": " : std::string()) + x.name));
    if (o && x.id == o->id) whichOpening_->setCurrentIndex(whichOpening_->count() - 1);
  }
  if (!o) return;
  const auto text = [&](double v) { return QString::fromStdString(lengthText(v, p.units.length)); };
  QString facts = o->edge < 0 ? QString("In the ceiling") : QString();
  if (const Room* r = p.room(o->room); r && o->edge >= 0 && o->edge < int(r->outline.outer.size())) {
    const Ring& ring = r->outline.outer;
    const Vec2 d = ring[(std::size_t(o->edge) + 1) % ring.size()] - ring[std::size_t(o->edge)];
    const auto facing = facingOf({d.y, -d.x, 0}, p.site.northAngle);
    facts = QString("In the %1 wall, %2 long").arg(facing ? facingKey(*facing) : "sloping", text(length(d)));
  }
  openFacts_->setText(
      facts +
      QString(", %1 in all").arg(shownQuantity(o->width * o->height * std::max(1, o->repeat), 1, "m²", p.units)));
  show(openAlong_, text(o->along));
  show(openSill_, text(o->sill));
  show(openWidth_, text(o->width));
  show(openHeight_, text(o->height));
  show(openRepeat_, QString::number(o->repeat));
  show(openGap_, text(o->gap));
  openGap_->setEnabled(o->repeat > 1);
  show(openFrame_, QString("%1 %").arg(100 * o->frame, 0, 'g', 3));
  show(openPane_, QString("%1 %").arg(100 * o->paneAt, 0, 'g', 3));
  openFollow_->setEnabled(!o->type.empty());
  openCopy_->setEnabled(o->edge >= 0);
  show(openType_, QString::fromStdString(o->type));
  fillGlazings(openGlazing_, o->glazing);
}

} // namespace noonward
