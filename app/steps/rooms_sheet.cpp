#include "app/steps/rooms_sheet.h"
#include "app/steps/field_rows.h"
#include "app/steps/looked_at.h"
#include "app/theme/style.h"
#include "app/theme/table_fill.h"
#include "core/model/form/edit.h"
#include "core/model/rooms/placing.h"
#include "core/model/settings/fields.h"
#include <QComboBox>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>

namespace noonward {

namespace {
QString facingText(const std::vector<Facing>& list) {
  if (list.empty()) return "every side";
  QStringList out;
  for (Facing f : list) out << facingKey(f);
  return out.join(", ");
}
/// 0 every side, 1…4 one side, 5 several as they are.
int facingIndex(const std::vector<Facing>& list) {
  return list.empty() ? 0 : list.size() == 1 ? 1 + int(list.front()) : 5;
}
} // namespace

RoomsSheet::RoomsSheet(Document& document, Stage& stage, QWidget* parent)
    : Sheet("Rooms", document, parent), stage_(stage) {
  summary_ = addNote();
  auto* tools = addButtons();
  const auto small = [this](QBoxLayout* row, const QString& text, const QString& tip,
                            const std::function<void()>& done) { addSmall(row, text, tip, done); };
  small(tools, "Rooms of selected", "One room a storey in the selected mass, pulled in by the wall",
        [this] { roomsFromSelected(); });
  small(tools, "Draw a room", "Click the corners of its inner walls on the ground", [this] {
    stage_.setTool(Tool::Room);
    stage_.setFocus();
  });
  massTools_ = addGroup();
  tools = addButtons();
  small(tools, "Windows of selected", "Of a mass that has no rooms yet: laid out and judged before there is a plan",
        [this] { windowsForAMass(); });
  endGroup();
  withRooms_ = addGroup();
  filter_ = new QLineEdit;
  filter_->setPlaceholderText("filter by name or use");
  filter_->setAccessibleName("Filter rooms");
  connect(filter_, &QLineEdit::textChanged, this, [this] { refresh(); });
  addWidget(filter_);
  QStringList figures;
  for (RoomFigure f : allRoomFigures) figures << roomFigureName(f);
  colourBy_ = addChoice(
      "Colour by", figures,
      [this](int i) { document_.look([&](Looking& l) { l.rooms = allRoomFigures[std::size_t(i)]; }); },
      "A figure of the rooms in place of a result, on the stage, in this step");
  colourBy_->setAccessibleName("Rooms coloured by");
  table_ = new QTableWidget(0, 4);
  table_->setAccessibleName("Rooms table");
  table_->verticalHeader()->hide();
  table_->verticalHeader()->setDefaultSectionSize(24);
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  table_->setSelectionMode(QAbstractItemView::SingleSelection);
  table_->setShowGrid(false);
  table_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
  for (int c = 1; c < 4; ++c) table_->horizontalHeader()->setSectionResizeMode(c, QHeaderView::ResizeToContents);
  addWidget(table_);
  connect(table_, &QTableWidget::itemSelectionChanged, this, [this] {
    const int row = table_->currentRow();
    if (filling_ || row < 0 || row >= int(listed_.size())) return;
    room_ = listed_[std::size_t(row)];
    if (const Room* r = room())
      document_.look([&](Looking& l) {
        l.storey = r->floor; // its storey is looked into
        if (l.heatSurface && l.heatSurface->first != r->id.value) l.heatSurface.reset();
      });
    refresh();
  });
  name_ = addName("Name",
                  [this](const QString& t) { editRoom("Rename room", [&](Room& r) { r.name = t.toStdString(); }); });
  name_->setAccessibleName("Room name");
  use_ = addName("Use", [this](const QString& t) { editRoom("Set use", [&](Room& r) { r.use = t.toStdString(); }); });
  height_ = lengthField(
      "Clear height", 0.5, [this](double v) { editRoom("Set height", [&](Room& r) { r.height = v; }); },
      "Floor to ceiling");
  floor_ = lengthField("Floor at", -1000, [this](double v) { editRoom("Set floor", [&](Room& r) { r.floor = v; }); });
  counted_ = addChoice(
      "Regularly occupied", {"yes", "no"},
      [this](int i) { editRoom("Set occupation", [&](Room& r) { r.counted = i == 0; }); },
      "A rule judges regularly occupied rooms only");
  reason_ = addName(
      "Reason", [this](const QString& t) { editRoom("Set reason", [&](Room& r) { r.reason = t.toStdString(); }); },
      "Why it is not: circulation, dark by intent");
  addButton("Delete room", [this] {
    Project p = document_.project();
    std::erase_if(p.rooms, [&](const Room& r) { return r.id == room_; });
    std::erase_if(p.openings, [&](const Opening& o) { return o.room == room_; });
    document_.change(std::move(p), "Delete room");
  });

  buildOpenings();
  addHeading("Windows by rule");
  auto* add = addButtons();
  small(add, "By glazed share", "A share of the wall, on every outer wall", [this] {
    WindowRule w;
    w.name = "Window";
    addRule(w);
  });
  small(add, "In rows", "So many equal windows in each outer wall", [this] {
    WindowRule w;
    w.kind = WindowRule::Kind::Row;
    w.name = "Window row";
    w.count = 3;
    addRule(w);
  });
  add = addButtons();
  small(add, "Curtain wall", "Glass from post to post, in bays of one width", [this] {
    WindowRule w;
    w.kind = WindowRule::Kind::Curtain;
    w.name = "Curtain wall";
    w.module = 1.35;
    w.sill = 0.1;
    w.head = 2.6;
    addRule(w);
  });
  small(add, "Rooflights", "A share of the ceiling, evenly spread", [this] {
    WindowRule w;
    w.name = "Rooflight";
    w.ceiling = true;
    w.ratio = 0.08;
    w.count = 2;
    addRule(w);
  });
  buildSides();
  ruleRows_ = addGroup();
  whichRule_ = addNames("Rule", [this](int i) {
    if (i >= 0 && i < int(document_.project().windowRules.size()))
      rule_ = document_.project().windowRules[std::size_t(i)].id;
    refresh();
  });
  whichRule_->setAccessibleName("Window rule");
  ruleFacts_ = addNote();
  ruleRooms_ = addChoice("In", {"every room", "the selected room", "several rooms"}, [this](int i) {
    if (i < 2)
      editRule("Choose rooms",
               [&](WindowRule& w) { w.rooms = i == 0 || !room_ ? std::vector<RoomId>{} : std::vector<RoomId>{room_}; });
    else
      refresh(); // "several" only tells what the file says; it can't be chosen
  });
  ruleFacing_ = addChoice("Facing", {"every side", "north", "east", "south", "west", "several sides"}, [this](int i) {
    if (i < 5)
      editRule("Choose side", [&](WindowRule& w) {
        w.facings = i == 0 ? std::vector<Facing>{} : std::vector<Facing>{allFacings[std::size_t(i - 1)]};
      });
    else
      refresh(); // "several" only tells what the file says; it can't be chosen
  });
  ruleFields_ = std::make_unique<FieldRows<WindowRule>>(
      *this, fieldsOf<WindowRule>(), false,
      [this](const QString& name, const std::function<void(WindowRule&)>& change) { editRule(name, change); });
  ruleGlazing_ = addNames("Glazing", [this](int) {
    const std::string name =
        ruleGlazing_->currentIndex() <= 0 ? std::string() : ruleGlazing_->currentText().toStdString();
    editRule("Choose glazing", [&](WindowRule& w) { w.glazing = name; });
  });
  ruleGlazing_->setAccessibleName("Glazing of the windows");
  ruleType_ = addField(
      "Type",
      [this](const QString& t) { editRule("Set type", [&](WindowRule& w) { w.type = t.trimmed().toStdString(); }); },
      "A name of your own: finishes and shading can go by it");
  ruleType_->setAccessibleName("Type of the windows");
  addButton("Vary these windows …", [this] {
    if (rule()) emit varyWanted(rule()->id);
  });
  addButton("Delete windows", [this] {
    Project p = document_.project();
    if (const WindowRule* now = rule())
      std::erase_if(p.windowRules, [id = now->id](const WindowRule& w) { return w.id == id; });
    document_.change(std::move(p), "Delete windows");
  });
  endGroup();

  buildShading();

  addHeading("Sensor grid");
  gridFacts_ = addNote();
  addButton("Lay a grid in occupied rooms", [this] { layGrid(); });
  gridRows_ = addGroup();
  gridIn_ = addChoice("In", {"occupied rooms", "the selected room", "its storey", "several rooms"}, [this](int i) {
    const Room* r = room();
    if (i == 3 || (i > 0 && !r)) return refresh();
    std::vector<RoomId> rooms;
    if (i == 1) rooms = {r->id};
    if (i == 2)
      for (const Room& o : document_.project().rooms)
        if (std::abs(o.floor - r->floor) < 0.5) rooms.push_back(o.id);
    editGrid([&](RoomGrid& g) { g.rooms = rooms; });
  });
  gridIn_->setAccessibleName("Rooms of the grid");
  spacing_ = lengthField("Spacing", 0.05, [this](double v) { editGrid([&](RoomGrid& g) { g.spacing = v; }); });
  plane_ = lengthField("Above the floor", 0, [this](double v) { editGrid([&](RoomGrid& g) { g.height = v; }); });
  distance_ = lengthField("From walls", 0, [this](double v) { editGrid([&](RoomGrid& g) { g.wallDistance = v; }); });
  layout_ = addChoice(
      "Points", {"begin at that distance", "leave that band out"},
      [this](int i) {
        editGrid([&](RoomGrid& g) { g.layout = i == 0 ? GridLayout::FromWalls : GridLayout::BandLeftOut; });
      },
      "Begin there: spread evenly, cells fill the floor. Leave it out: a band of that width belongs to no cell, the "
      "rest is divided evenly");
  laid_ = addNote();
  laid_->setAccessibleName("Grid as laid");
  endGroup();
  buildEyes();
  buildUses();
  buildEnvelope();
  endGroup();
  body()->addStretch();
  explain({{name_, "What the room is called in tables, on plans and in the record"},
           {use_, "Such as reading room: finds rooms in lists and reads in tables"},
           {floor_, "Height of its floor in the model"},
           {whichOpening_, "The window drawn by hand that the fields below tell of"},
           {openWidth_, "Clear width in the wall"},
           {openHeight_, "Clear height in the wall"},
           {openGlazing_, "The glass it has; as the others, where nothing is chosen"},
           {whichRule_, "The rule of windows that the fields below tell of"},
           {ruleRooms_, "The rooms whose outer walls get these windows"},
           {ruleFacing_, "The sides of the compass whose outer walls get them"},
           {ruleGlazing_, "The glass of these windows"},
           {whichShade_, "The shading that the fields below tell of"},
           {shadeFacing_, "The sides of the compass whose windows get them"},
           {gridIn_, "The rooms that get sensors"},
           {spacing_, "Between sensors; a credit asks for 0.6 m or less"},
           {plane_, "Height of the sensors: 0.75 or 0.85 m is a desk"},
           {distance_, "A strip along the walls that is left out"}});
  refresh();
}

QLineEdit* RoomsSheet::lengthField(const QString& label, double least, const std::function<void(double)>& done,
                                   const QString& help) {
  auto slot = std::make_shared<QLineEdit*>(nullptr);
  *slot = addField(
      label,
      [this, least, done, slot](const QString& t) {
        const auto v = lengthFromText(t.toStdString(), document_.project().units.length);
        if (!v || *v < least || *v > 1e5) return showFault(*slot, "A length is expected here, such as 0.85 or 3 ft");
        done(*v);
      },
      help);
  return *slot;
}

QLineEdit* RoomsSheet::numberField(const QString& label, const QString& unit, double least, double most,
                                   const std::function<void(double)>& done, const QString& help) {
  auto slot = std::make_shared<QLineEdit*>(nullptr);
  *slot = addField(
      label,
      [least, most, unit, done, slot](const QString& t) {
        QString clean = t;
        if (!unit.isEmpty()) clean.remove(unit);
        const auto v = numberFromText(clean.toStdString());
        if (!v || *v < least || *v > most)
          return showFault(*slot, QString("%1 to %2 is expected here").arg(least).arg(most));
        if (const std::string back = unit == "%" ? shareAskedBack(t.toStdString()) : ""; !back.empty())
          return showFault(*slot, "Is it " + QString::fromStdString(back) + "?");
        done(*v);
      },
      help);
  return *slot;
}

const Room* RoomsSheet::room() const {
  return lookedAt(document_.project().rooms, room_);
}
const WindowRule* RoomsSheet::rule() const {
  return lookedAt(document_.project().windowRules, rule_);
}
void RoomsSheet::editRoom(const QString& name, const std::function<void(Room&)>& change) {
  editLookedAt(document_, &Project::rooms, room_, name, change);
}
void RoomsSheet::editRule(const QString& name, const std::function<void(WindowRule&)>& change) {
  editLookedAt(document_, &Project::windowRules, rule_, name, change);
}
void RoomsSheet::editGrid(const std::function<void(RoomGrid&)>& change) {
  Project p = document_.project();
  for (SensorGroup& g : p.groups)
    if (auto* grid = std::get_if<RoomGrid>(&g.layout); grid && !g.eyes) {
      change(*grid);
      break;
    }
  document_.change(std::move(p), "Change grid");
}

void RoomsSheet::roomsFromSelected() {
  Project p = document_.project();
  std::size_t made = 0;
  for (ElementId id : document_.looking().selected)
    for (Room& r : roomsOfMass(p, id.value, 0.35, 0.4)) {
      p.rooms.push_back(std::move(r));
      ++made;
    }
  if (made == 0) {
    emit document_.notice("Select a drawn mass first; rooms of an imported model are drawn by hand.", false);
    return;
  }
  room_ = p.rooms.back().id;
  document_.change(std::move(p), "Rooms of a mass");
}

void RoomsSheet::addRule(WindowRule w) {
  Project p = document_.project();
  w.id = RuleId::fresh();
  w.name += " " + std::to_string(p.windowRules.size() + 1);
  if (room_ && document_.project().room(room_)) w.rooms = {room_};
  rule_ = w.id;
  p.windowRules.push_back(std::move(w));
  document_.change(std::move(p), "Add windows");
}

void RoomsSheet::layGrid() {
  Project p = document_.project();
  if (p.rooms.empty()) {
    emit document_.notice("There are no rooms yet.", false);
    return;
  }
  GroupId id;
  for (const SensorGroup& g : p.groups)
    if (std::holds_alternative<RoomGrid>(g.layout) && !g.eyes) id = g.id;
  if (!id) {
    SensorGroup g;
    g.id = id = GroupId::fresh();
    g.name = "Working plane";
    g.layout = RoomGrid{};
    p.groups.push_back(std::move(g));
  }
  const bool known = std::any_of(p.studies.begin(), p.studies.end(), [&](const Study& s) {
    return s.kind == StudyKind::DaylightFactor && s.groups == std::vector{id};
  });
  StudyId study;
  if (!known) {
    Study s;
    s.id = study = StudyId::fresh();
    s.kind = StudyKind::DaylightFactor;
    s.name = "Daylight in rooms";
    s.groups = {id};
    p.studies.push_back(std::move(s));
  }
  document_.change(std::move(p), "Lay grid");
  if (study) document_.look([&](Looking& l) { l.study = study; });
}

void RoomsSheet::refreshTable() {
  const Project& p = document_.project();
  const std::vector<RoomFacts> facts = roomFacts(p);
  filling_ = true;
  const TableFill fill(table_);
  table_->setRowCount(int(facts.size()));
  const Room* now = room();
  listed_.clear();
  table_->clearSelection();
  const auto square = [&](double v) { return shownQuantity(v, 1, "m²", p.units); };
  const ShownUnit unit = shownUnit("m²", p.units);
  const auto bare = [&](double v) { return QString::number(unit.shown(v), 'f', unit.factor > 1 ? 0 : 1); };
  const QString symbol = QString::fromStdString(unit.symbol);
  table_->setHorizontalHeaderLabels({"Room", symbol, "glass " + symbol, "occupied"});
  for (const RoomFacts& f : facts) {
    if (!filter_->text().isEmpty() &&
        !QString::fromStdString(f.name + " " + f.use).contains(filter_->text(), Qt::CaseInsensitive))
      continue;
    const int i = int(listed_.size());
    listed_.push_back(f.id);
    const QString all =
        QString("%1%2: %3, %4, exposed wall %5; glass north %6, east %7, south %8, west %9, above %10%11")
            .arg(QString::fromStdString(f.name), f.use.empty() ? QString() : ", " + QString::fromStdString(f.use))
            .arg(square(f.area))
            .arg(shownQuantity(f.volume, 0, "m³", p.units))
            .arg(square(f.exposedArea))
            .arg(square(f.windowArea[0]))
            .arg(square(f.windowArea[1]))
            .arg(square(f.windowArea[2]))
            .arg(square(f.windowArea[3]))
            .arg(square(f.rooflightArea))
            .arg(f.reason.empty() ? QString() : "; not regularly occupied: " + QString::fromStdString(f.reason));
    const QStringList cells{QString::fromStdString(f.name), bare(f.area), bare(f.allWindows()),
                            f.counted ? "yes" : "no"};
    for (int c = 0; c < 4; ++c) {
      auto* item = new QTableWidgetItem(cells[c]);
      item->setFont(c == 1 || c == 2 ? figureFont(11) : textFont(11.5));
      item->setTextAlignment((c == 1 || c == 2 ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter);
      item->setToolTip(all);
      table_->setItem(i, c, item);
    }
    if (now && f.id == now->id) table_->selectRow(i);
  }
  table_->setRowCount(int(listed_.size()));
  table_->setFixedHeight(28 + 24 * std::clamp(int(listed_.size()), 1, 9));
  filling_ = false;
}

void RoomsSheet::refreshRule() {
  const Project& p = document_.project();
  refreshSides();
  const WindowRule* w = rule();
  ruleRows_->setVisible(w != nullptr);
  whichRule_->clear();
  for (const WindowRule& x : p.windowRules) {
    whichRule_->addItem(QString::fromStdString(x.name));
    if (w && x.id == w->id) whichRule_->setCurrentIndex(whichRule_->count() - 1);
  }
  if (w) {
    double glass = 0;
    int openings = 0;
    for (const PlacedOpening& o : placedOpenings(p).openings)
      if (o.rule == w->id) {
        glass += o.area();
        ++openings;
      }
    ruleFacts_->setText(QString("%1 opening%2, %3, %4")
                            .arg(openings)
                            .arg(openings == 1 ? "" : "s")
                            .arg(shownQuantity(glass, 1, "m²", p.units))
                            .arg(w->ceiling ? QString("in ceilings") : facingText(w->facings)));
    ruleRooms_->setCurrentIndex(w->rooms.empty()                                                   ? 0
                                : w->rooms.size() == 1 && room() && w->rooms.front() == room()->id ? 1
                                                                                                   : 2);
    ruleFacing_->setCurrentIndex(facingIndex(w->facings));
    ruleFacing_->setEnabled(!w->ceiling);
    ruleFields_->show(*w, p.units, {}, FieldRows<WindowRule>::Idle::Gone);
    show(ruleType_, QString::fromStdString(w->type));
    fillGlazings(ruleGlazing_, w->glazing);
  }
}

void RoomsSheet::refresh() {
  const Project& p = document_.project();
  if (const auto at = document_.looking().heatSurface; at && p.room(RoomId{at->first})) room_ = {at->first};
  const auto text = [&](double v) { return QString::fromStdString(lengthText(v, p.units.length)); };
  double counted = 0;
  std::size_t n = 0;
  for (const Room& r : p.rooms)
    if (r.counted) {
      counted += area(r.outline);
      ++n;
    }
  summary_->setText(
      p.rooms.empty() ? QString("No rooms yet. Make them from a selected mass, or draw them on the ground; windows of "
                                "buildings without rooms are marked on their facades (W).")
                      : QString("%1, %2 regularly occupied with %3.")
                            .arg(countText(p.rooms.size(), "room"))
                            .arg(n)
                            .arg(shownQuantity(counted, 0, "m²", p.units)));
  massTools_->setVisible(
      std::any_of(p.elements.begin(), p.elements.end(), [](const ElementPtr& e) { return e->mass(); }));
  withRooms_->setVisible(!p.rooms.empty());
  colourBy_->setCurrentIndex(int(document_.looking().rooms));
  if (p.rooms.empty()) return;
  refreshTable();
  const Room* r = room();
  const QList<QWidget*> fields{name_, use_, height_, floor_, counted_, reason_};
  for (QWidget* w : fields) w->setEnabled(r);
  if (r) {
    room_ = r->id;
    show(name_, QString::fromStdString(r->name));
    show(use_, QString::fromStdString(r->use));
    show(height_, text(r->height));
    show(floor_, text(r->floor));
    counted_->setCurrentIndex(r->counted ? 0 : 1);
    show(reason_, QString::fromStdString(r->reason));
    reason_->setEnabled(!r->counted);
  }
  refreshOpening();
  refreshRule();
  refreshShading();
  refreshEyes();
  refreshUses();
  refreshEnvelope();
  const RoomGrid* grid = nullptr;
  for (const SensorGroup& g : p.groups)
    if (const auto* x = std::get_if<RoomGrid>(&g.layout); x && !grid && !g.eyes) grid = x;
  gridRows_->setVisible(grid);
  std::size_t without = 0;
  for (const Room& x : p.rooms) without += x.counted && !hasGrid(p, x);
  gridFacts_->setText(!grid     ? QString("No grid lies in the rooms yet.")
                      : without ? QString("%1 regularly occupied room%2 without a grid.")
                                      .arg(without)
                                      .arg(without == 1 ? "" : "s", without == 1 ? "s is" : " are")
                                : QString("Every regularly occupied room has its grid."));
  if (grid) gridIn_->setCurrentIndex(grid->rooms.empty() ? 0 : r && grid->rooms == std::vector{r->id} ? 1 : 3);
  if (grid) {
    show(spacing_, text(grid->spacing));
    show(plane_, text(grid->height));
    show(distance_, text(grid->wallDistance));
    layout_->setCurrentIndex(grid->layout == GridLayout::FromWalls ? 0 : 1);
    double widest = 0, nearest = 1e300;
    std::size_t sensors = 0;
    for (const SensorGridFacts& g : document_.grids())
      if (g.room >= 0 && g.count > 0) {
        widest = std::max(widest, g.spacing);
        nearest = std::min(nearest, g.distance);
        sensors += g.count;
      }
    laid_->setText(sensors == 0 ? QString()
                                : QString("As laid: %1, at most %2 apart, the nearest %3 from a wall.")
                                      .arg(countText(sensors, "sensor"))
                                      .arg(text(widest), text(nearest)));
  }
}

} // namespace noonward
