// Tools that take the corners of an outline: blocks, areas, rooms, plates, sections, cuts; and trees.

#include "app/stage/stage.h"
#include "app/stage/tools/tools.h"
#include "app/theme/style.h"
#include "core/model/form/arrange.h"
#include "core/model/form/edit.h"
#include "core/model/form/shaping.h"
#include <QGuiApplication>
#include <QMouseEvent>
#include <QPainter>

namespace noonward {

Snap OutlineTool::snapped(QPointF at) const {
  const auto g = onLevel(at, 0);
  return g ? snapPoint(project(), draft_, xy(*g), 9 * metresPerPixel()) : Snap{};
}

void OutlineTool::clickAt(const QMouseEvent& e) {
  corner(e.position());
}

void OutlineTool::corner(QPointF at) {
  const Snap s = snapped(at);
  if (s.kind == SnapKind::Start) return close();
  Vec2 p = s.at;
  if (const auto length = typedLength(); length && !draft_.empty()) p = atLength(draft_, p, *length);
  forgetTyped();
  if (draft_.empty() || length(draft_.back() - p) > 1e-3) draft_.push_back(p);
  if (!full()) update();
}

void OutlineTool::close() {
  if (const OutlineCheck c = checkOutline({draft_, {}}); c.fault != OutlineFault::None)
    return say(QString("This outline %1. Backspace takes the last corner away.").arg(faultText(c.fault)));
  forgetTyped();
  finish(tidied({draft_, {}}));
}

bool OutlineTool::doubleClick(QPointF) {
  if (draft_.size() <= 2) return false;
  close();
  return true;
}

void OutlineTool::enter() {
  if (!typed().isEmpty() && !draft_.empty()) return corner(pointer());
  if (draft_.size() > 2) close();
}

void OutlineTool::back() {
  if (!draft_.empty()) draft_.pop_back();
}

QPointF OutlineTool::px(Vec2 v, double z) const {
  return pixelOf({v.x, v.y, z}).value_or(QPointF());
}

void OutlineTool::paintMeasured(QPainter& p, Vec2 a, Vec2 b) const {
  p.setPen(theme().ink);
  p.drawText((px(a) + px(b)) / 2 + QPointF(6, -6),
             QString::fromStdString(lengthText(length(b - a), project().units.length)));
}

void OutlineTool::paint(QPainter& p) {
  const Theme& t = theme();
  p.setFont(figureFont(10.5));
  p.setBrush(Qt::NoBrush);
  for (std::size_t i = 0; i + 1 < draft_.size(); ++i) {
    p.setPen(QPen(t.noon, 1.6));
    p.drawLine(px(draft_[i]), px(draft_[i + 1]));
    paintMeasured(p, draft_[i], draft_[i + 1]);
  }
  if (!inside()) return;
  const Snap s = snapped(pointer());
  Vec2 next = s.at;
  if (const auto length = typedLength(); length && !draft_.empty()) next = atLength(draft_, next, *length);
  if (!draft_.empty()) {
    p.setPen(QPen(t.noon, 1.2, Qt::DashLine));
    p.drawLine(px(draft_.back()), px(next));
    paintMeasured(p, draft_.back(), next);
  }
  p.setPen(QPen(t.noon, 1.6));
  p.setBrush(t.paper);
  p.drawEllipse(px(next), 4, 4);
  if (const char* word = snapText(s.kind); *word) {
    p.setFont(textFont(11));
    p.setPen(t.muted);
    p.drawText(px(next) + QPointF(10, 16), word);
  }
}

// ---- a block ------------------------------------------------------------------------------------------------------

QString DrawTool::hint() const {
  return "Click the corners; type a length and Enter for an exact edge; click the first corner or Enter to close";
}

void DrawTool::finish(Outline outline) {
  // Drawn inside the only selected mass: a hole (courtyard) of it.
  const auto& selected = document().looking().selected;
  if (selected.size() == 1)
    if (const ElementPtr e = project().element(selected.front()); e && e->mass()) {
      Outline o = e->mass()->outline;
      o.holes.push_back(draft());
      if (checkOutline(o).fault == OutlineFault::None) {
        document().change(
            withEdited(project(), selected, [&](Element& x) { std::get<Mass>(x.shape).outline = tidied(o); }),
            "Cut courtyard");
        return choose(Tool::Select);
      }
    }
  raising_ = true;
  outline_ = std::move(outline);
  say("Pull up with the pointer and click, or type the height and Enter");
  update();
}

bool DrawTool::press(const QMouseEvent&) {
  if (!raising_) return false;
  raise();
  return true;
}

bool DrawTool::hover(QPointF at) {
  if (!raising_) return false;
  // Height by the pointer's way above the outline's middle.
  const Vec2 m = centroid(outline_);
  const Camera::Ray r = ray(at);
  const Vec3 w = Vec3{m.x, m.y, 0} - r.origin;
  const double b = r.direction.z, den = 1 - b * b;
  if (den > 1e-4 && typed().isEmpty())
    height_ = std::max(0.5, std::round((b * dot(r.direction, w) - w.z) / den * 2) / 2);
  return true;
}

void DrawTool::typedOn() {
  if (const auto h = typedLength(); raising_ && h && *h > 0.01) height_ = *h;
}

void DrawTool::enter() {
  raising_ ? raise() : OutlineTool::enter();
}

void DrawTool::back() {
  if (!raising_) OutlineTool::back();
}

void DrawTool::cancel() {
  raising_ = false;
  OutlineTool::cancel();
}

void DrawTool::raise() {
  Element e;
  e.id = ElementId::fresh();
  e.name = freshName(project(), "Mass");
  e.role = Role::Building;
  e.proposed = true;
  if (const auto length = typedLength()) height_ = *length;
  e.shape = Mass{outline_, 0, height_, std::max(1, int(std::lround(height_ / 3.2)))};
  const ElementId id = e.id;
  document().change(withElement(project(), std::move(e)), "Draw mass");
  choose(Tool::Select);
  document().look([&](Looking& l) { l.selected = {id}; });
}

void DrawTool::paint(QPainter& p) {
  if (!raising_) return OutlineTool::paint(p);
  const Theme& t = theme();
  p.setFont(figureFont(10.5));
  p.setPen(QPen(t.noon, 1.6));
  p.setBrush(Qt::NoBrush);
  QPolygonF foot, top;
  for (Vec2 v : draft()) {
    foot << px(v);
    top << px(v, height_);
  }
  p.drawPolygon(foot);
  QColor fill = t.noon;
  fill.setAlpha(40);
  p.setBrush(fill);
  p.drawPolygon(top);
  for (int i = 0; i < foot.size(); ++i) p.drawLine(foot[i], top[i]);
  p.setPen(t.ink);
  p.drawText(top.boundingRect().center() + QPointF(0, -8),
             QString::fromStdString(lengthText(height_, project().units.length)));
}

// ---- what else an outline becomes -----------------------------------------------------------------------------------

QString AreaTool::hint() const {
  return "Click the corners of the area to be judged; click the first corner or Enter to close";
}

void AreaTool::finish(Outline outline) {
  SensorGroup g;
  g.id = GroupId::fresh();
  g.name = freshName(project(), "Area");
  Box3 b;
  for (Vec2 p : outline.outer) b.add({p.x, p.y, 0});
  GroundArea area;
  area.outline = std::move(outline);
  area.spacing = std::max(0.5, std::round(std::sqrt(b.size().x * b.size().y / 1500) * 2) / 2);
  g.layout = area;
  document().change(withGroup(project(), g), "Draw area");
  Document& d = document();
  choose(Tool::Select); // ends this tool
  if (d.project().studies.empty()) emit d.notice("An area is drawn. Studies asks what you want to know of it.", false);
}

QString RoomTool::hint() const {
  return "Click the corners of the room's inner walls; type a length and Enter for an exact edge; click the first "
         "corner or Enter to close";
}

void RoomTool::finish(Outline outline) {
  Room r;
  r.id = RoomId::fresh();
  Project p = project();
  r.name = "Room " + std::to_string(p.rooms.size() + 1);
  r.outline = std::move(outline);
  p.rooms.push_back(std::move(r));
  document().change(std::move(p), "Draw room");
  choose(Tool::Select);
}

QString PlateTool::hint() const {
  return "Click the corners of the shading plane; its height and tilt are set in the Model sheet; click the first "
         "corner or Enter to close";
}

void PlateTool::finish(Outline outline) {
  Element e;
  e.id = ElementId::fresh();
  e.name = freshName(project(), "Shade");
  e.role = Role::Shading;
  e.proposed = true;
  Plate plate;
  for (Vec2 v : outline.outer) plate.corners.push_back({v.x, v.y, 3});
  e.shape = std::move(plate);
  const ElementId id = e.id;
  document().change(withElement(project(), std::move(e)), "Draw shading plane");
  choose(Tool::Select);
  document().look([&](Looking& l) {
    l.selected = {id};
    l.step = Step::Model;
  });
}

QString TreeTool::hint() const {
  return "Click where a tree stands; each is like the one selected, and its numbers are in the Model sheet; Escape "
         "ends";
}

Tree TreeTool::like() const {
  for (ElementId id : document().looking().selected)
    if (const ElementPtr e = project().element(id); e && e->tree()) return *e->tree();
  for (auto e = project().elements.rbegin(); e != project().elements.rend(); ++e)
    if ((*e)->tree()) return *(*e)->tree();
  return {};
}

void TreeTool::click(const QMouseEvent& e) {
  Tree tree = like();
  const Vec3 spot = stage().spotFor(e.position());
  const auto centimetres = [](double v) { return std::round(v * 100) / 100 + 0.0; }; // and no −0.00
  tree.foot = {centimetres(spot.x), centimetres(spot.y), centimetres(spot.z)};
  Element x;
  x.id = ElementId::fresh();
  x.name = freshName(project(), "Tree");
  x.layer = "Trees";
  x.role = Role::Planting;
  x.shape = tree;
  const ElementId id = x.id;
  document().change(withElement(project(), std::move(x)), "Plant tree");
  document().look([&](Looking& l) { l.selected = {id}; });
}

void TreeTool::paint(QPainter& p) {
  if (!inside()) return;
  const Tree tree = like();
  const Vec3 foot = stage().spotFor(pointer());
  QPolygonF crown;
  for (int k = 0; k < 24; ++k) {
    const double angle = 2 * pi * k / 24;
    if (const auto q = pixelOf(foot + Vec3{std::cos(angle) * tree.width / 2, std::sin(angle) * tree.width / 2, 0}))
      crown << *q;
  }
  p.setPen(QPen(theme().noon, 1.2, Qt::DashLine));
  p.setBrush(Qt::NoBrush);
  p.drawPolygon(crown);
}

bool LineTool::full() {
  if (draft().size() != 2) return false;
  const Vec2 a = draft()[0], b = draft()[1];
  choose(Tool::Select); // ends this tool, once its event is through
  drawn(a, b);
  return true;
}

QString CutTool::hint() const {
  return "Click the two ends of a line: the selected masses are cut along it, all of them where none is selected";
}

void CutTool::drawn(Vec2 a, Vec2 b) {
  std::vector<ElementId> ids = document().looking().selected, made;
  const bool chosen = !ids.empty();
  if (!chosen)
    for (const ElementPtr& e : project().elements)
      if (e->mass() && !e->hidden) ids.push_back(e->id);
  auto cut = withMassesCut(project(), ids, a, b, &made);
  if (!cut) return say(QString::fromStdString(cut.error().text()));
  document().change(std::move(*cut), "Cut masses");
  if (chosen) document().look([&](Looking& l) { l.selected = made; });
}

QString MirrorTool::hint() const {
  return "Click the two ends of the mirror's line: a mirrored copy is made of what is selected; with Shift it is "
         "mirrored itself";
}

void MirrorTool::drawn(Vec2 a, Vec2 b) {
  if (document().looking().selected.empty()) return say("Select what is to be mirrored first");
  const bool copies = !(QGuiApplication::keyboardModifiers() & Qt::ShiftModifier);
  std::vector<ElementId> made;
  auto mirrored = withMirrored(project(), document().looking().selected, a, b, copies, &made);
  if (!mirrored) return say(QString::fromStdString(mirrored.error().text()));
  document().change(std::move(*mirrored), "Mirror");
  document().look([&](Looking& l) { l.selected = made; });
}

QString GuideTool::hint() const {
  return "Click two points of a guide; or, over an edge or a guide, type a distance and Enter for one parallel to it; "
         "Backspace takes the one under the pointer away";
}

void GuideTool::lay(const Guide& guide) {
  Project p = project();
  p.guides.push_back(guide);
  document().change(std::move(p), "Lay guide");
}

void GuideTool::drawn(Vec2 a, Vec2 b) {
  lay({a, b});
}

void GuideTool::enter() {
  const auto distance = typedLength();
  const auto at = onLevel(pointer(), 0);
  if (!draft().empty() || !distance || !at) return LineTool::enter();
  const auto near = lineNear(project(), xy(*at), 14 * metresPerPixel());
  if (!near) return say("Point at an edge or a guide that the new one is to run along");
  forgetTyped();
  const Vec2 by = near->side * *distance;
  lay({near->line.a + by, near->line.b + by});
  update();
}

void GuideTool::back() {
  if (!draft().empty()) return LineTool::back();
  const auto at = onLevel(pointer(), 0);
  if (!at) return;
  Project p = project();
  const double reach = 10 * metresPerPixel();
  if (std::erase_if(p.guides, [&](const Guide& g) { return length(onGuide(g, xy(*at)) - xy(*at)) < reach; }) > 0)
    document().change(std::move(p), "Take guide away");
}

QString SectionTool::hint() const {
  return "Click the two ends of the section in the plan; it is seen toward its left";
}

void SectionTool::drawn(Vec2 a, Vec2 b) {
  document().look([&](Looking& l) { l.section = SectionLine{a, b}; });
  stage().setView(ViewKind::Section);
}

} // namespace noonward
