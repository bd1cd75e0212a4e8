// Eyes in rooms: set by hand one by one or in rows, or laid out as a grid.

#include "app/steps/looked_at.h"
#include "app/steps/rooms_sheet.h"
#include "app/theme/style.h"
#include "core/model/form/edit.h"
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <fmt/format.h>

namespace noonward {

void RoomsSheet::buildEyes() {
  addHeading("Eyes");
  eyesFacts_ = addNote();
  eyesFacts_->setAccessibleName("Eyes that are set");
  auto* tools = addButtons();
  addSmall(tools, "Set eyes", "Press where an eye is on the stage, and drag where it looks", [this] {
    stage_.setTool(Tool::Eye);
    stage_.setFocus();
  });
  addSmall(tools, "Grid of eyes", "Evenly in the occupied rooms, looking eight ways from each place",
           [this] { addEyeGrid(); });
  eyeRows_ = addGroup();
  whichEyes_ = addNames(
      "Group of eyes",
      [this](int i) {
        for (const SensorGroup& g : document_.project().groups)
          if (g.eyes && i-- == 0) eyes_ = g.id;
        document_.look([](Looking& l) { l.eye.reset(); });
        refresh();
      },
      "The group that the fields below tell of");
  eyesName_ = addName(
      "Name of the group",
      [this](const QString& t) {
        Project p = document_.project();
        for (SensorGroup& g : p.groups)
          if (eyeGroup() && g.id == eyeGroup()->id) g.name = t.toStdString();
        document_.change(std::move(p), "Rename eyes");
      },
      "What they are called in studies, rules and tables");
  eyesName_->setAccessibleName("Name of the group of eyes");

  eyeOne_ = addGroup();
  whichEye_ = addNames(
      "Eye",
      [this](int i) {
        if (const SensorGroup* g = eyeGroup(); g && i >= 0)
          document_.look([&](Looking& l) { l.eye = EyeRef{g->id, std::size_t(i)}; });
      },
      "The eye that the fields below tell of; a click on the stage chooses it too");
  eyeName_ = addName(
      "Name of the eye",
      [this](const QString& t) { editEye("Rename an eye", [&](PointSensor& e) { e.name = t.toStdString(); }); },
      "Such as the seat it belongs to");
  eyeLevel_ = lengthField(
      "Height", -1000, [this](double v) { editEye("Raise an eye", [&](PointSensor& e) { e.position.z = v; }); },
      "Above the zero of the model; 1.2 m above a floor is a seated eye, 1.7 m a standing one");
  eyeLevel_->setAccessibleName("Height of the eye");
  const auto turned = [this](auto change) {
    const auto ref = eyeNow();
    const PointSensor* eye = ref ? eyeAt(document_.project(), *ref) : nullptr;
    if (!eye) return;
    LineOfSight sight = lineOfSight(document_.project(), *eye);
    change(sight);
    document_.change(withEyeTurned(document_.project(), *ref, sight), "Turn an eye");
  };
  eyeAzimuth_ = numberField(
      "Looks", "°", -360, 360, [turned](double v) { turned([&](LineOfSight& s) { s.azimuth = radians(v); }); },
      "True azimuth of the line of sight: 90 is east, 180 south");
  eyeAzimuth_->setAccessibleName("Azimuth of the eye");
  eyeAltitude_ = numberField(
      "Upward", "°", -90, 90, [turned](double v) { turned([&](LineOfSight& s) { s.altitude = radians(v); }); },
      "Altitude of the line of sight: 0 is level, −30 looks down on a desk");
  eyeAltitude_->setAccessibleName("Altitude of the eye");
  rowCount_ = addField(
      "Row of", [](const QString&) {}, "How many eyes the row has, this one among them");
  rowCount_->setAccessibleName("Eyes in the row");
  rowCount_->setText("4");
  rowDistance_ = addField(
      "Apart", [](const QString&) {}, "From seat to seat, to the right; below 0 to the left");
  rowDistance_->setAccessibleName("Distance between seats");
  rowDistance_->setText("1.2 m");
  auto* row = addButtons();
  addSmall(row, "Lay the row", "Copies of this eye beside it, looking as it does", [this] {
    const auto ref = eyeNow();
    const auto n = numberFromText(rowCount_->text().toStdString());
    const auto apart = lengthFromText(rowDistance_->text().toStdString(), document_.project().units.length);
    if (!n) return showFault(rowCount_, "A number of eyes is expected, such as 4");
    if (!apart) return showFault(rowDistance_, "A length is expected here, such as 1.2 m");
    if (!ref) return;
    auto made = withRowOfEyes(document_.project(), *ref, int(*n), *apart);
    if (!made) {
      return showFault(made.error().place == "count" ? rowCount_ : rowDistance_,
                       QString::fromStdString(made.error().message));
    }
    document_.change(std::move(*made), "Row of eyes");
  });
  row = addButtons();
  addSmall(row, "Look through", "The fisheye of this eye at the moment of the Almanac", [this] {
    if (const auto ref = eyeNow()) document_.look([&](Looking& l) { l.eye = ref; });
    emit eyeWanted();
  });
  addSmall(row, "Take out", "This eye; Backspace on the stage does it too", [this] {
    if (const auto ref = eyeNow()) document_.change(withoutEye(document_.project(), *ref), "Take out an eye");
  });
  endGroup();

  eyeGridRows_ = addGroup();
  eyesIn_ = addChoice(
      "In", {"occupied rooms", "the selected room", "several rooms"},
      [this](int i) {
        const Room* r = room();
        if (i == 2 || (i == 1 && !r)) return refresh();
        editEyeGrid([&](RoomGrid& g) { g.rooms = i == 0 ? std::vector<RoomId>{} : std::vector<RoomId>{r->id}; });
      },
      "The rooms that get eyes");
  eyesIn_->setAccessibleName("Rooms of the eyes");
  eyeSpacing_ = lengthField(
      "Spacing", 0.3, [this](double v) { editEyeGrid([&](RoomGrid& g) { g.spacing = v; }); },
      "Between places; 0.3 m or more");
  eyeSpacing_->setAccessibleName("Spacing of the eyes");
  eyeHeight_ = lengthField(
      "Above the floor", 0, [this](double v) { editEyeGrid([&](RoomGrid& g) { g.height = v; }); },
      "1.2 m is a seated eye, 1.7 m a standing one");
  eyeHeight_->setAccessibleName("Eyes above the floor");
  eyeDistance_ = lengthField(
      "From walls", 0, [this](double v) { editEyeGrid([&](RoomGrid& g) { g.wallDistance = v; }); },
      "A strip along the walls where nobody sits");
  eyeDistance_->setAccessibleName("Eyes from walls");
  eyeWays_ = numberField(
      "Lines of sight", "", 1, 36,
      [this](double v) { editEyeGrid([&](RoomGrid& g) { g.directions = int(std::lround(v)); }); },
      "From each place, evenly round from the first");
  eyeWays_->setAccessibleName("Lines of sight");
  eyeFirst_ = numberField(
      "First looks", "°", -360, 360,
      [this](double v) { editEyeGrid([&](RoomGrid& g) { g.firstDirection = wrapTwoPi(radians(v)); }); },
      "True azimuth of the first line of sight");
  eyeFirst_->setAccessibleName("First line of sight");
  endGroup();
  addButton("Delete the group", [this] {
    if (!eyeGroup()) return;
    const Project& p = document_.project();
    Project next = withoutGroup(p, eyeGroup()->id);
    if (const std::size_t gone = p.studies.size() - next.studies.size())
      emit document_.notice(countText(gone, "study", "studies") + " from these eyes alone went with them.", false);
    document_.change(std::move(next), "Delete eyes");
  })->setAccessibleName("Delete the group of eyes");
  endGroup();
}

const SensorGroup* RoomsSheet::eyeGroup() const {
  const Project& p = document_.project();
  const GroupId wanted = document_.looking().eye ? document_.looking().eye->group : eyes_;
  const SensorGroup* first = nullptr;
  for (const SensorGroup& g : p.groups) {
    if (!g.eyes) continue;
    if (g.id == wanted) return &g;
    if (!first) first = &g;
  }
  return first;
}

/// The one looked at, or the first of the group.
std::optional<EyeRef> RoomsSheet::eyeNow() const {
  const SensorGroup* g = eyeGroup();
  const auto* points = g ? std::get_if<std::vector<PointSensor>>(&g->layout) : nullptr;
  if (!points || points->empty()) return {};
  const auto& looked = document_.looking().eye;
  return looked && looked->group == g->id && looked->index < points->size() ? *looked : EyeRef{g->id, 0};
}

void RoomsSheet::editEye(const QString& name, const std::function<void(PointSensor&)>& change) {
  if (const auto ref = eyeNow()) document_.change(withEyeChanged(document_.project(), *ref, change), name);
}

void RoomsSheet::editEyeGrid(const std::function<void(RoomGrid&)>& change) {
  const SensorGroup* now = eyeGroup();
  if (!now) return;
  Project p = document_.project();
  for (SensorGroup& g : p.groups)
    if (auto* grid = std::get_if<RoomGrid>(&g.layout); grid && g.id == now->id) change(*grid);
  document_.change(std::move(p), "Change the grid of eyes");
}

void RoomsSheet::addEyeGrid() {
  Project p = document_.project();
  SensorGroup g;
  g.id = eyes_ = GroupId::fresh();
  g.name = "Eyes in rooms";
  g.eyes = true;
  RoomGrid grid;
  grid.height = seatedEye;
  grid.spacing = 1.5;
  grid.directions = 8;
  g.layout = grid;
  p.groups.push_back(std::move(g));
  document_.look([](Looking& l) { l.eye.reset(); });
  document_.change(std::move(p), "Grid of eyes");
}

void RoomsSheet::refreshEyes() {
  const Project& p = document_.project();
  std::size_t groups = 0, lines = 0;
  whichEyes_->clear();
  const SensorGroup* now = eyeGroup();
  for (const SensorGroup& g : p.groups) {
    if (!g.eyes) continue;
    ++groups;
    whichEyes_->addItem(QString::fromStdString(g.name));
    if (now && now->id == g.id) whichEyes_->setCurrentIndex(whichEyes_->count() - 1);
    if (const auto set = layOutSensors(p, {g.id}, 20000)) lines += set->sensors.size();
  }
  eyesFacts_->setText(groups == 0 ? QString("None yet. Set them at the seats for a year of glare or a view, one by one "
                                            "or as a grid.")
                                  : countText(lines, "line") + " of sight in " + countText(groups, "group") + ".");
  eyeRows_->setVisible(now);
  if (!now) return;
  show(eyesName_, QString::fromStdString(now->name));
  const auto text = [&](double v) { return QString::fromStdString(lengthText(v, p.units.length)); };
  const auto angle = [](double v) { return QString("%1°").arg(std::round(degrees(v) * 10) / 10); };
  const auto* grid = std::get_if<RoomGrid>(&now->layout);
  const auto ref = eyeNow();
  eyeOne_->setVisible(ref.has_value());
  eyeGridRows_->setVisible(grid);
  if (ref) {
    const auto& points = std::get<std::vector<PointSensor>>(now->layout);
    whichEye_->clear();
    for (const PointSensor& e : points) whichEye_->addItem(QString::fromStdString(e.name));
    whichEye_->setCurrentIndex(int(ref->index));
    const PointSensor& eye = points[ref->index];
    const LineOfSight sight = lineOfSight(p, eye);
    show(eyeName_, QString::fromStdString(eye.name));
    show(eyeLevel_, text(eye.position.z));
    show(eyeAzimuth_, angle(sight.azimuth));
    show(eyeAltitude_, angle(sight.altitude));
  }
  if (grid) {
    const Room* r = room();
    eyesIn_->setCurrentIndex(grid->rooms.empty() ? 0 : r && grid->rooms == std::vector{r->id} ? 1 : 2);
    show(eyeSpacing_, text(grid->spacing));
    show(eyeHeight_, text(grid->height));
    show(eyeDistance_, text(grid->wallDistance));
    show(eyeWays_, QString::number(grid->directions));
    show(eyeFirst_, angle(grid->firstDirection));
  }
}

} // namespace noonward
