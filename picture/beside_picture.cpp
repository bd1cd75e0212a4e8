#include "picture/beside_picture.h"
#include "picture/opened_rooms.h"
#include "picture/paper.h"
#include "picture/picture_export.h"
#include "picture/room_labels.h"
#include <algorithm>
#include <cmath>

namespace noonward {

namespace {

QString lettered(const std::string& text) {
  return QString::fromStdString(text);
}

void paintCells(QPainter& p, QRectF area, const Camera& camera, const SensorField& painted, const FieldScale& scale) {
  p.save();
  p.setPen(Qt::NoPen);
  p.setRenderHint(QPainter::Antialiasing, false);
  for (const SensorGridFacts& g : painted.sensors.groups)
    for (std::size_t i = g.first; i < g.first + g.count; ++i) {
      const double v = double(painted.values()[i]);
      QPolygonF shape;
      for (Vec3 c : painted.sensors.cell(i))
        if (const auto at = camera.seen(c, area.width(), area.height()))
          shape << area.topLeft() + QPointF(at->x, at->y);
      if (shape.size() < 3 || std::isnan(v)) continue;
      p.setBrush(colorOf(scale, v));
      p.drawPolygon(shape);
      if (v > scale.high) p.setBrush(abovePattern(QColor(255, 255, 255, 120))), p.drawPolygon(shape);
      if (v < scale.low) p.setBrush(belowPattern(QColor(255, 255, 255, 120))), p.drawPolygon(shape);
    }
  p.restore();
}

void paintOutline(QPainter& p, QRectF area, const Camera& camera, const Outline& outline, double z) {
  QPolygonF shape;
  for (Vec2 c : outline.outer)
    if (const auto at = camera.seen({c.x, c.y, z}, area.width(), area.height()))
      shape << area.topLeft() + QPointF(at->x, at->y);
  p.drawPolygon(shape);
}

/// Rooms of the storey; of a project without any, and of maps outdoors, the masses.
void paintOutlines(QPainter& p, QRectF area, const Camera& camera, const Project& project, bool rooms, double floor,
                   const Theme& t) {
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(t.ink, rooms ? 1.2 : 0.8));
  if (rooms) {
    for (const Room& r : project.rooms)
      if (onStorey(r, floor)) paintOutline(p, area, camera, r.outline, floor + 1.3);
  } else {
    for (const ElementPtr& e : project.elements)
      if (const Mass* m = e->mass(); m && !e->demolished) paintOutline(p, area, camera, m->outline, m->base);
  }
  p.restore();
}

bool liesFlat(const SensorSet& sensors) {
  const auto flat = std::count_if(sensors.sensors.begin(), sensors.sensors.end(),
                                  [](const Sensor& s) { return std::abs(s.normal[2]) > 0.7f; });
  return 2 * std::size_t(flat) > sensors.sensors.size();
}

QColor barColour(std::size_t k, std::size_t n, const Theme& t) {
  if (k == 0) return t.muted;
  QColor c = t.noon;
  c.setAlphaF(float(1.0 - 0.55 * double(k - 1) / double(std::max<std::size_t>(1, n - 1))));
  return c;
}

int digitsOf(double shown, const std::string& unit) {
  if (unit.empty() && shown == std::round(shown)) return 0; // points, counts
  return std::abs(shown) >= 100 ? 0 : std::abs(shown) >= 10 ? 1 : 2;
}

} // namespace

QString besideFigureText(const BesideFigure& f, std::size_t k, const BesideView& view) {
  if (!std::isfinite(f.of[k].value)) return {};
  const ShownUnit unit = shownUnit(f.unit, view.units);
  return QString::number(unit.shown(f.of[k].value), 'f', digitsOf(unit.shown(f.of[k].value), f.unit));
}

QString besideMovedText(const BesideFigure& f, std::size_t k, const BesideView& view) {
  if (k == 0 || !std::isfinite(f.moved(k))) return {};
  if (!f.sure(k)) return f.moved(k) == 0 && f.error(k) == 0 ? "0" : "≈";
  const ShownUnit unit = shownUnit(f.unit, view.units);
  const double by = unit.shown(f.moved(k));
  return QString("%1%2")
      .arg(by > 0 ? "+" : "−")
      .arg(std::abs(by), 0, 'f', digitsOf(unit.shown(std::abs(f.of[0].value)), f.unit));
}

std::vector<std::shared_ptr<const SensorField>> besideMaps(const Beside& b, const BesideView& view) {
  std::vector<std::shared_ptr<const SensorField>> out;
  for (const BesideDesign& d : b.designs) {
    std::shared_ptr<const SensorField> map;
    if (d.year)
      map = std::make_shared<const SensorField>(yearField(d.year->facts, d.year->result, view.metric, view.units));
    else if (d.field)
      map = std::make_shared<const SensorField>(inUnits(*d.field, view.units));
    if (map && (map->sensors.sensors.empty() || !liesFlat(map->sensors))) map = nullptr;
    out.push_back(std::move(map));
  }
  return out;
}

void paintBesidePlans(QPainter& p, QRectF area, const Beside& b, const BesideView& view, BesidePlans plans,
                      const Theme& t) {
  const auto maps = besideMaps(b, view);
  std::size_t first = 0;
  while (first < maps.size() && !maps[first]) ++first;
  if (first == maps.size()) return;
  const std::size_t n = b.designs.size();
  if (n < 2 || !maps[0]) plans = BesidePlans::Each; // there is nothing to measure against
  const bool both = plans == BesidePlans::Both;
  const double gap = 14, head = 20, foot = 50, rows = both ? 2 : 1,
               w = (area.width() - double(n - 1) * gap) / double(n), h = area.height() / rows - head - foot;
  if (w < 50 || h < 50) return;
  // One scale for all, and one for all differences.
  FieldScale scale = maps[first]->scale;
  Box3 sensors;
  for (const auto& m : maps)
    if (m) {
      scale.low = std::min(scale.low, m->scale.low);
      scale.high = std::max(scale.high, m->scale.high);
      for (const Sensor& s : m->sensors.sensors) sensors.add(s.position);
    }
  const bool rooms = maps[first]->inRooms();
  std::vector<Box3> boxes;
  if (rooms)
    for (const BesideDesign& d : b.designs)
      for (const Box3& box : roomBoxes(d.project, view.storey)) boxes.push_back(box);
  if (boxes.empty()) boxes.push_back(sensors);
  Camera camera = fittedCamera(b.designs[first].project, ViewKind::Plan, w, h);
  camera.fit(boxes, w, h, 0.04);
  const auto plan = [&](double top, std::size_t k, const SensorField& field, const FieldScale& s, bool legend) {
    const QRectF box(area.left() + double(k) * (w + gap), top + head, w, h);
    const Project& project = b.designs[k].project;
    p.save();
    p.setClipRect(box);
    const double floor = storeyNear(project, view.storey);
    paintCells(p, box, camera, rooms ? ofStorey(field, project, view.storey) : field, s);
    paintOutlines(p, box, camera, project, rooms, floor, t);
    p.restore();
    if (legend) paintLegend(p, QRectF(box.left() + 10, box.bottom() + 6, std::min(w - 20, 240.0), 42), s, t, 0.9);
  };
  const auto title = [&](double top, std::size_t k, const QString& text) {
    p.setFont(textFont(12, true));
    p.setPen(t.ink);
    p.drawText(QRectF(area.left() + double(k) * (w + gap), top, w, head), Qt::AlignLeft | Qt::AlignVCenter,
               QFontMetricsF(p.font()).elidedText(text, Qt::ElideRight, w));
  };
  for (std::size_t k = 0; k < n && (plans != BesidePlans::Moves || k == 0); ++k) {
    title(area.top(), k, lettered(b.designs[k].name));
    if (maps[k]) {
      plan(area.top(), k, *maps[k], scale, k == first);
      continue;
    }
    p.setFont(textFont(11));
    p.setPen(t.muted);
    p.drawText(QRectF(area.left() + double(k) * (w + gap), area.top() + head, w, h), Qt::AlignCenter | Qt::TextWordWrap,
               b.designs[k].fault.empty() ? QString("no map") : lettered(b.designs[k].fault));
  }
  const double top = both ? area.top() + area.height() / 2 : area.top();
  std::size_t legendAt = first;
  if (plans != BesidePlans::Each) {
    std::vector<std::optional<SensorField>> moved(n);
    std::optional<FieldScale> widest;
    for (std::size_t k = 1; k < n; ++k) {
      if (!maps[k]) continue;
      std::vector<float> moves =
          differenceMap(maps[0]->sensors, maps[0]->values(), maps[k]->sensors, maps[k]->values());
      const std::vector<float> unknown(moves.size(), 0);
      moved[k] = asChange(*maps[k], std::move(moves), unknown);
      if (!widest || moved[k]->scale.high > widest->high) widest = moved[k]->scale;
    }
    legendAt = 0;
    for (std::size_t k = 1; k < n; ++k) {
      if (!moved[k]) continue;
      title(top, k, lettered(b.designs[k].name + " less " + b.designs[0].name));
      plan(top, k, *moved[k], *widest, legendAt == 0);
      if (legendAt == 0) legendAt = k;
    }
  }
  // North and scale, once: below the last column, right of a legend that stands there.
  const double x = area.left() + double(n - 1) * (w + gap) + (legendAt == n - 1 ? std::min(w - 20, 240.0) + 14 : 10),
               low = top + head + h + foot - 26;
  paintScaleBar(p, QPointF(x, low), camera, h, unitSymbol(view.units.length), metresPer(view.units.length), t, 0.9);
  paintNorth(p, QPointF(x + std::min(w - 30, 150.0), low - 2), camera, b.designs[first].project.site.northAngle, t,
             0.9);
}

double paintBesideBars(QPainter* p, QRectF area, const Beside& b, const BesideView& view, const Theme& t) {
  std::vector<const BesideFigure*> list;
  for (const BesideFigure& f : b.figures) {
    bool moves = b.designs.size() < 2;
    for (std::size_t k = 1; k < f.of.size(); ++k) moves |= f.sure(k);
    if (f.space.empty() && (f.study != "Model" || moves)) list.push_back(&f); // of the model what differs alone
  }
  if (list.empty())
    for (const BesideFigure& f : b.figures) list.push_back(&f);
  const std::size_t n = b.designs.size();
  const double least = 232, gap = 22, line = 16, head = 18;
  const int columns = std::max(1, int((area.width() + gap) / (least + gap)));
  const double w = (area.width() - gap * (columns - 1)) / columns, h = head + line * double(n) + 12;
  const auto rows = (list.size() + std::size_t(columns) - 1) / std::size_t(columns);
  if (!p) return double(rows) * h;
  p->save();
  p->setRenderHint(QPainter::Antialiasing);
  for (std::size_t k = 0; k < list.size(); ++k) {
    const BesideFigure& f = *list[k];
    const double x = area.left() + double(k % std::size_t(columns)) * (w + gap),
                 y = area.top() + double(k / std::size_t(columns)) * h;
    const ShownUnit unit = shownUnit(f.unit, view.units);
    p->setFont(textFont(11, true));
    p->setPen(t.ink);
    const QString what = lettered(f.study == "Model" || f.figure.empty() ? f.figure : f.study + ": " + f.figure) +
                         (unit.symbol.empty() ? QString() : ", " + lettered(unit.symbol));
    p->drawText(QRectF(x, y, w, head), Qt::AlignLeft | Qt::AlignVCenter,
                QFontMetricsF(p->font()).elidedText(what, Qt::ElideMiddle, w));
    double most = 0;
    for (const SweepFigure& one : f.of)
      if (std::isfinite(one.value)) most = std::max(most, std::abs(one.value) + one.error);
    const double names = 0.34 * w, figures = 92, bar = w - names - figures;
    for (std::size_t d = 0; d < n; ++d) {
      const double top = y + head + line * double(d);
      p->setFont(textFont(10.5));
      p->setPen(t.ink);
      p->drawText(QRectF(x, top, names - 6, line), Qt::AlignLeft | Qt::AlignVCenter,
                  QFontMetricsF(p->font()).elidedText(lettered(b.designs[d].name), Qt::ElideRight, names - 6));
      const double v = f.of[d].value;
      p->setPen(QPen(t.rule, 1));
      p->drawLine(QPointF(x + names, top + 1), QPointF(x + names, top + line - 1));
      if (std::isfinite(v) && most > 0) {
        p->setPen(Qt::NoPen);
        p->setBrush(barColour(d, n, t));
        p->drawRect(QRectF(x + names, top + 3, bar * std::abs(v) / most, line - 7));
        if (f.of[d].error > 0) {
          const double from = std::max(0.0, std::abs(v) - f.of[d].error), to = std::abs(v) + f.of[d].error;
          p->setPen(QPen(t.ink, 1));
          p->drawLine(QPointF(x + names + bar * from / most, top + line / 2 - 0.5),
                      QPointF(x + names + bar * to / most, top + line / 2 - 0.5));
        }
      }
      p->setFont(figureFont(10));
      p->setPen(std::isfinite(v) ? t.ink : t.muted);
      p->drawText(QRectF(x + w - figures, top, 46, line), Qt::AlignRight | Qt::AlignVCenter,
                  std::isfinite(v) ? besideFigureText(f, d, view) : QString("–"));
      p->setPen(t.muted);
      p->drawText(QRectF(x + w - 46, top, 46, line), Qt::AlignRight | Qt::AlignVCenter, besideMovedText(f, d, view));
    }
  }
  p->restore();
  return double(rows) * h;
}

Outcome saveBesidePage(const Beside& b, const BesideView& view, const std::filesystem::path& file) {
  const Theme theme = paperTheme();
  const auto maps = besideMaps(b, view);
  const bool mapped = std::any_of(maps.begin(), maps.end(), [](const auto& m) { return m != nullptr; });
  const double width = std::max(960.0, 300.0 * double(b.designs.size()) + 64), inner = width - 64;
  QStringList inputs;
  for (const BesideDesign& d : b.designs) {
    if (!d.fault.empty()) inputs << lettered(d.name + ": " + d.fault);
    for (std::size_t k = 0; k < std::min<std::size_t>(d.inputs.size(), 8); ++k)
      inputs << lettered(d.name + ": " + d.inputs[k]);
    if (d.inputs.size() > 8) inputs << lettered(d.name) + QString(": and %1 more").arg(d.inputs.size() - 8);
  }
  const double plans = mapped ? 2 * std::min(320.0, inner / double(b.designs.size())) + 150 : 0,
               bars = paintBesideBars(nullptr, QRectF(0, 0, inner, 0), b, view, theme),
               told = 18.0 * double(inputs.size()) + (inputs.isEmpty() ? 0 : 26);
  const QSizeF size(width, 92 + plans + bars + told + 40);
  PaperSheet sheet;
  sheet.size = size;
  sheet.title = "Designs beside each other";
  return writePaper(
      file, sheet, {[&](QPainter& p) {
        p.fillRect(QRectF(QPointF(0, 0), size), theme.paper);
        p.setPen(theme.ink);
        p.setFont(titleFont(22));
        p.drawText(QRectF(32, 20, inner, 32), Qt::AlignLeft, "Designs beside each other");
        p.setFont(textFont(11.5));
        p.setPen(theme.muted);
        QString line = lettered(view.project) + (view.place.empty() ? QString() : " · " + lettered(view.place));
        if (b.mapped) line += " · maps: " + lettered(b.mapped->name);
        for (const BesideDesign& d : b.designs)
          if (d.year || d.field) {
            line += " · key " + lettered((d.year ? d.year->facts.key : d.field->key()).fingerprint());
            break;
          }
        p.drawText(QRectF(32, 52, inner, 18), Qt::AlignLeft, line);
        p.drawText(QRectF(32, 68, inner, 18), Qt::AlignLeft,
                   "Right of each bar its figure and how far it moved from the first (≈: within the error); errors are "
                   "numerical alone.");
        double y = 96;
        if (mapped) paintBesidePlans(p, QRectF(32, y, inner, plans - 16), b, view, BesidePlans::Both, theme);
        y += plans;
        y += paintBesideBars(&p, QRectF(32, y, inner, bars), b, view, theme);
        if (inputs.isEmpty()) return;
        p.setFont(textFont(12, true));
        p.setPen(theme.ink);
        p.drawText(QRectF(32, y + 4, inner, 18), Qt::AlignLeft, "Inputs that differ");
        p.setFont(textFont(11));
        for (qsizetype k = 0; k < inputs.size(); ++k)
          p.drawText(QRectF(32, y + 24 + 18.0 * double(k), inner, 18), Qt::AlignLeft,
                     QFontMetricsF(p.font()).elidedText(inputs[k], Qt::ElideRight, inner));
      }});
}

} // namespace noonward
