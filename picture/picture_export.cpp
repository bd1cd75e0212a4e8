#include "picture/picture_export.h"
#include "core/base/words.h"
#include "core/model/form/layers.h"

#include "core/model/form/edit.h"
#include "core/model/mending/check.h"
#include "core/runs/answer.h"
#include "core/studies/model_parts.h"
#include "picture/opened_rooms.h"
#include "picture/result_mesh.h"
#include "picture/room_labels.h"
#include <QBuffer>
#include <QGuiApplication>
#include <QPageSize>
#include <QPdfWriter>
#include <QSvgGenerator>
#include <fmt/format.h>

namespace noonward {

std::optional<ViewKind> viewFromKey(std::string_view key) {
  if (key == "solid") return ViewKind::Solid;
  if (key == "plan") return ViewKind::Plan;
  if (key == "facade") return ViewKind::Facade;
  if (key == "sun") return ViewKind::FromSun;
  return {};
}

std::string momentText(const Project& p, Instant t) {
  const Zone zone = p.zone();
  const CivilTime c = zone.clock(t);
  return fmt::format("{} {} (UTC{})", dayText(c.date), clockText(c.seconds / 60), offsetText(zone.offset(t)));
}

std::string placeText(const Place& p) {
  return fmt::format("{:.2f}° {}, {:.2f}° {}", std::abs(degrees(p.latitude)), p.latitude < 0 ? "S" : "N",
                     std::abs(degrees(p.longitude)), p.longitude < 0 ? "W" : "E");
}

Vec3 sunDirection(const Project& p, Instant t) {
  return toModel(solarPosition(sunOfDate(t), p.site.place).direction, p.site.northAngle);
}

std::vector<Box3> sceneBoxes(const Project& p) {
  std::vector<Box3> out;
  for (const ElementPtr& e : p.elements)
    if (!e->hidden && e->counted) out.push_back(boxOf(*e));
  if (out.empty()) // nothing counts: what is there all the same
    for (const ElementPtr& e : p.elements)
      if (!e->hidden) out.push_back(boxOf(*e));
  for (const SensorGroup& g : p.groups)
    if (const auto* a = std::get_if<GroundArea>(&g.layout)) {
      Box3 box;
      for (Vec2 q : a->outline.outer) box.add({q.x, q.y, a->level});
      out.push_back(box);
    }
  if (out.empty()) {
    Box3 box;
    box.add({-40, -40, 0});
    box.add({40, 40, 12});
    out.push_back(box);
  }
  return out;
}

std::vector<Box3> framedBoxes(const Project& p) {
  std::vector<Box3> all = sceneBoxes(p);
  Box3 whole, proposal;
  for (const Box3& b : all) whole.addBox(b);
  for (const ElementPtr& e : p.elements)
    if (e->proposed && e->counted && !e->hidden) proposal.addBox(boxOf(*e));
  if (proposal.empty()) return all;
  const auto across = [](const Box3& b) { return std::hypot(b.size().x, b.size().y); };
  if (across(whole) < 5 * across(proposal)) return all;
  const double rim = std::max(40.0, 0.5 * across(proposal));
  Box3 near = proposal;
  near.add(proposal.low - Vec3{rim, rim, 0});
  near.add(proposal.high + Vec3{rim, rim, 0});
  return {near};
}

Box3 sceneBox(const Project& p) {
  Box3 box;
  for (const Box3& b : sceneBoxes(p)) box.addBox(b);
  return box;
}

Camera fittedCamera(const Project& p, ViewKind view, double width, double height, const std::optional<Vec3>& sun) {
  Camera c;
  c.kind = view;
  // From the sunny side, a little west of it, so that the day's tracks stand open before the eye.
  c.azimuth = (p.site.place.latitude >= 0 ? pi : 0) + radians(26);
  c.altitude = radians(38);
  if (view == ViewKind::Plan) {
    c.azimuth = pi;
    c.altitude = pi / 2;
  } else if (view == ViewKind::FromSun && sun) {
    c.azimuth = wrapTwoPi(std::atan2(sun->x, sun->y));
    c.altitude = std::asin(std::clamp(sun->z, 0.02, 1.0));
  } else if (view == ViewKind::Facade) {
    c.azimuth = p.site.place.latitude >= 0 ? pi : 0;
    c.altitude = 0;
  }
  c.fit(framedBoxes(p), width, height);
  return c;
}

struct Prepared {
  std::optional<SensorField> painted;
  const Study* study = nullptr;
  std::optional<Vec3> sun;
  Camera camera;
  QImage image;
  std::string title, line, fingerprint, asked;
  std::optional<SectionLine> section;
  bool values = false;
  std::optional<double> storey;
  bool rooms = false; ///< looked into
  std::shared_ptr<const PictureScenes> scenes;
};

namespace {

Expected<Prepared> prepare(const Project& p, const PictureRequest& r, int width, int height, RunControl& control,
                           ResultStore* store, const Theme& theme) {
  Prepared out;
  if (r.study != "-") {
    for (const Study& s : p.studies)
      if (r.study.empty() || s.name == r.study || s.id.text() == r.study) {
        out.study = &s;
        break;
      }
    if (!out.study && !r.study.empty()) return fail(fmt::format("The project has no study \"{}\".", r.study));
  }
  if (out.study) {
    out.asked = std::string(studyName(out.study->kind));
  }
  if (out.study && r.known) {
    out.painted = *r.known;
    out.fingerprint = r.known->key().fingerprint();
  } else if (out.study) {
    StudyQuestion q;
    q.project = p;
    q.study = *out.study;
    q.moment = r.moment;
    q.metric = r.metric;
    q.state = r.state;
    q.key = studyDigest(p, q.study, r.moment);
    q.store = std::shared_ptr<ResultStore>(store, [](ResultStore*) {}); // the caller's
    const AnswerPtr answer = Answerer().answer(q, control, [](const AnswerPtr&) {});
    if (!answer) return fail("The picture was stopped.");
    if (!answer->fault.empty()) return fail(answer->fault);
    out.painted = *answer->painted;
    if (r.threshold > 0 && !answer->year && !answer->painted->isChange)
      out.painted->scale = rescaled(*answer->painted, r.threshold);
    out.asked = answer->asked;
    out.fingerprint = answer->painted->key().fingerprint();
  }
  if (out.painted) out.painted->scale = out.painted->scaled(std::nullopt, r.range);
  out.values = r.values;
  if (r.section && r.section->length() > 0.1) out.section = r.section;
  if (r.moment && !out.section) out.sun = sunDirection(p, *r.moment);
  const ViewKind view = r.camera ? r.camera->kind : r.view;
  const bool rooms = out.painted && out.painted->inRooms() && view != ViewKind::Facade && view != ViewKind::FromSun;
  out.storey = r.storey;
  out.rooms = rooms;
  std::optional<SensorField> shown;
  if (rooms) shown = ofStorey(*out.painted, p, r.storey);
  out.camera = r.camera      ? *r.camera
               : out.section ? sectionCamera(p, *out.section, width, height)
                             : fittedCamera(p, r.view, width, height, out.sun);
  out.title = p.name + (out.study ? " · " + out.study->name : "");
  out.line = fmt::format("{}{}, north {:.1f}°", p.site.name.empty() ? "" : p.site.name + ", ", placeText(p.site.place),
                         degrees(wrapPi(p.site.northAngle)));
  if (out.study) out.line += " · " + out.asked;
  if (out.painted && r.state != DesignState::Proposed)
    out.line += std::string(" · ") + designStateName(r.state) + (out.painted->isChange ? " of the proposal" : "");
  if (out.section)
    out.line += fmt::format(" · section from ({:.1f}, {:.1f}) to ({:.1f}, {:.1f}), seen toward its left",
                            out.section->a.x, out.section->a.y, out.section->b.x, out.section->b.y);
  if (out.sun) out.line += " · shadows " + momentText(p, *r.moment);
  if (!r.camera && !out.section && r.view == ViewKind::Facade && r.side) {
    out.camera.azimuth = wrapTwoPi(double(*r.side) * pi / 2 - p.site.northAngle); // sides by true azimuth, as facings
    out.camera.fit(framedBoxes(p), width, height);
  }
  if (rooms && !r.camera && !out.section && r.view != ViewKind::Facade)
    out.camera.fit(roomBoxes(p, r.storey), width, height - r.foot, r.margin);
  if (rooms && r.foot > 0 && !r.camera) {
    out.camera.height *= height / (height - r.foot);
    out.camera.pan(0, -r.foot / 2, height);
  }
  if (r.scenes) {
    out.scenes = r.scenes;
  } else {
    auto scenes = std::make_shared<PictureScenes>();
    scenes->seen = r.onlyRole                                            ? partsOfRole(p, *r.onlyRole)
                   : !r.onlyGlazing.empty()                              ? panesOf(p, r.onlyGlazing)
                   : out.section || out.camera.kind == ViewKind::FromSun ? allParts(p)
                   : rooms                                               ? openedRooms(p, storeyNear(p, r.storey))
                                                                         : withFittings(p);
    scenes->shown = shownScene(scenes->seen.elements);
    if (out.sun)
      scenes->casters = buildScene(p); // what is cut away, hidden or not of the one role casts its shade all the same
    out.scenes = std::move(scenes);
  }
  const Project& seen = out.scenes->seen;
  RayPictureInput in;
  in.scene = out.scenes->shown;
  if (out.sun) in.casters = out.scenes->casters;
  in.camera = out.camera;
  in.sun = out.sun;
  for (const ElementPtr& e : seen.elements) {
    if (const std::string own = layerColour(p, e->layer); !own.empty()) in.coloured.emplace_back(e->id, own);
    if (e->proposed) in.proposed.push_back(e->id);
    if (!standsInTheLight(*e, true)) in.leftOut.push_back(e->id);
  }
  in.painted = out.section || !out.painted ? nullptr : shown ? &*shown : &*out.painted;
  out.image = rayPicture(in, theme, width, height, std::clamp(r.samples, 1, 4), control);
  if (out.image.isNull()) return fail("The picture was stopped.");
  return out;
}

void furnish(QPainter& p, QRectF area, const Project& project, const Prepared& d, const Theme& theme, double k) {
  p.drawImage(area, d.image);
  const double bottom = area.bottom() - 16 * k;
  if (d.section)
    paintSection(p, area, d.camera, project, *d.section, d.painted ? &*d.painted : nullptr,
                 d.painted ? d.painted->scale : FieldScale{}, theme, k);
  std::vector<QRectF> taken;
  if (!d.section && d.painted) {
    const SensorField shown = ofStorey(*d.painted, project, d.storey);
    if (d.rooms) paintRoomLabels(p, area, d.camera, project, &shown, shown.scale, theme, k, &taken, d.storey);
    if (d.values) paintSensorValues(p, area, d.camera, shown, shown.scale, theme, k, taken);
  }
  if (d.painted)
    paintLegend(p, QRectF(area.left() + 18 * k, bottom - 42 * k, 300 * k, 46 * k), d.painted->scale, theme, k);
  if (!d.section)
    paintNorth(p, QPointF(area.right() - 90 * k, bottom - 14 * k), d.camera, project.site.northAngle, theme, k);
  paintScaleBar(p, QPointF(area.right() - 300 * k, bottom - 12 * k), d.camera, area.height(),
                unitSymbol(project.units.length), metresPer(project.units.length), theme, k);
}

void paintPicture(QPainter& p, QRectF page, const Project& project, const Prepared& d, const Theme& theme, double k) {
  p.fillRect(page, theme.stage);
  furnish(p, page.adjusted(0, 62 * k, 0, 0), project, d, theme, k);
  p.fillRect(QRectF(page.left(), page.top(), page.width(), 62 * k), theme.paper);
  p.setPen(theme.ink);
  p.setFont(titleFont(22 * k));
  p.drawText(QPointF(page.left() + 18 * k, page.top() + 28 * k), QString::fromStdString(d.title));
  p.setFont(textFont(12 * k));
  p.setPen(theme.muted);
  p.drawText(QPointF(page.left() + 18 * k, page.top() + 49 * k), QString::fromStdString(d.line));
  const QString mark = QString::fromStdString((d.fingerprint.empty() ? "" : "run " + d.fingerprint + " · ") +
                                              "Noonward " NOONWARD_VERSION);
  p.drawText(QRectF(page.left(), page.top() + 10 * k, page.width() - 18 * k, 20 * k), Qt::AlignRight | Qt::AlignVCenter,
             mark);
}

/// The one-page record, A4 upright.
void paintRecord(QPainter& p, QRectF page, const Project& project, const Prepared& d,
                 const std::vector<Verdict>& verdicts, const Theme& theme, double k) {
  const double left = page.left(), right = page.right();
  double y = page.top();
  const auto text = [&](const QFont& f, const QColor& c, const QString& s, double x = 0, double lineHeight = 1.35,
                        double width = 0) {
    p.setFont(f);
    p.setPen(c);
    const QRectF box(left + x, y, width > 0 ? width : right - left - x, 4000 * k);
    const QRectF used = p.boundingRect(box, Qt::TextWordWrap, s);
    p.drawText(box, Qt::TextWordWrap, s);
    return std::max(used.height(), f.pixelSize() * lineHeight);
  };
  const auto rule = [&] {
    p.setPen(QPen(theme.rule, 0.8 * k));
    p.drawLine(QPointF(left, y), QPointF(right, y));
    y += 7 * k;
  };
  y += text(titleFont(24 * k), theme.ink, QString::fromStdString(d.title));
  y += text(textFont(10.5 * k), theme.muted, QString::fromStdString(d.line)) + 8 * k;
  const double h = (right - left) * d.image.height() / d.image.width();
  furnish(p, QRectF(left, y, right - left, h), project, d, theme, k * 0.9);
  y += h + 12 * k;

  y += text(titleFont(15 * k), theme.ink, "Verdict") + 2 * k;
  rule();
  for (const Verdict& v : verdicts) {
    const QColor c = v.outcome == Outcome3::Meets        ? theme.meets
                     : v.outcome == Outcome3::FallsShort ? theme.short_
                                                         : theme.muted;
    text(textFont(11 * k, true), theme.ink, QString::fromStdString(v.title), 0, 1.35, 150 * k);
    y += text(textFont(11 * k, true), c, QString::fromStdString(v.text), 158 * k);
    if (!v.detail.empty()) y += text(textFont(10 * k), theme.muted, QString::fromStdString(v.detail), 158 * k);
    for (const std::string& n : v.notes) y += text(textFont(10 * k), theme.muted, QString::fromStdString(n), 158 * k);
    y += 5 * k;
  }
  if (verdicts.empty()) y += text(textFont(11 * k), theme.muted, "No yardstick is laid against this project.");
  y += 6 * k;
  y += text(titleFont(15 * k), theme.ink, "Inputs") + 2 * k;
  rule();
  std::size_t proposed = 0, leftOut = 0;
  for (const ElementPtr& e : project.elements) {
    proposed += e->proposed;
    leftOut += !e->counted || e->role == Role::Ignore;
  }
  std::vector<std::pair<std::string, std::string>> rows{
      {"Place", fmt::format("{}, {}, {:.0f} m, {} · {}", project.site.name, placeText(project.site.place),
                            project.site.place.elevation, project.site.zone, northText(project.site.northAngle))},
      {"Weather", project.site.weather
                      ? fmt::format("{} ({}); used by skies of the weather file and probable sunlight hours only",
                                    project.site.weather->name(), project.site.weather->source)
                      : "none; sun hours need none"},
      {"Model", fmt::format("{}, {} proposed, {} left out", counted(project.elements.size(), "element", "elements"),
                            proposed, leftOut)}};
  if (d.painted) {
    const double threshold = d.painted->scale.threshold;
    if (d.painted->light) {
      const LightResult& r = *d.painted->light;
      const LightStatistics s = lightStatistics(r, 0, r.value.size(), threshold, d.painted->scale.high,
                                                d.painted->sensors.areasOf(0, r.value.size()));
      const std::string unit = d.painted->scale.unit;
      rows.push_back(
          {"Study", fmt::format("{}: {}; {}", d.study->name, d.asked, counted(s.count, "sensor", "sensors"))});
      const bool change = d.painted->scale.low < 0;
      rows.push_back({"Result", fmt::format("mean {:.2f} ± {:.2g} {}, median {:.2f}, min {:.2f}, max {:.2f}; {}. ± is "
                                            "numerical only",
                                            s.mean, s.meanError, unit, s.median, s.least, s.most,
                                            change ? std::string("now less before")
                                                   : fmt::format("{:.1f} % have {:g} {} or more", 100 * s.shareAtLeast,
                                                                 threshold, unit))});
      for (const SensorGridFacts& g : d.painted->sensors.groups) {
        if (g.room < 0 || rows.size() > 16 || change) continue;
        const LightStatistics t =
            lightStatistics(r, g.first, g.count, threshold, 1e30, d.painted->sensors.areasOf(g.first, g.count));
        rows.push_back(
            {"", fmt::format("{}: mean {:.2f} ± {:.2g} {}, median {:.2f}, {:.0f} % have {:g} {} or more", g.name,
                             t.mean, t.meanError, unit, t.median, 100 * t.shareAtLeast, threshold, unit)});
      }
    } else {
      const HourStatistics s = statistics(*d.painted->result, 0, d.painted->result->hours.size(), threshold,
                                          d.painted->sensors.areasOf(0, d.painted->result->hours.size()));
      rows.push_back(
          {"Study", fmt::format("{}: {}; {}", d.study->name, d.asked, counted(s.count, "sensor", "sensors"))});
      rows.push_back(
          {"Result",
           fmt::format("mean {:.2f} h, median {:.2f} h, min {:.2f} h, max {:.2f} h; {:.1f} % have {:g} h or more",
                       s.mean, s.median, s.least, s.most, 100 * s.shareAtLeast, threshold)});
    }
  }
  rows.push_back({"Method", d.painted && d.painted->light
                                ? "Light by paths from the sensors, aimed at panes and weighted against the cosine; "
                                  "interreflections complete (docs/methods.md)"
                                : "Sun from ERFA (IAU 2006/2000B), unrefracted centre of the disc; shade by exact "
                                  "crossing times, stretches of 0.1 s joined"});
  rows.push_back({"Prepared by", (project.preparedBy.empty() ? std::string("not named") : project.preparedBy) +
                                     (project.client.empty() ? "" : " for " + project.client)});
  rows.push_back({"Fingerprint", (d.fingerprint.empty() ? std::string("-") : d.fingerprint) +
                                     " · Noonward " NOONWARD_VERSION " · time zone data " + timeZoneDataVersion()});
  for (const auto& [name, value] : rows) {
    text(textFont(10 * k), theme.muted, QString::fromStdString(name), 0, 1.35, 90 * k);
    y += text(textFont(10 * k), theme.ink, QString::fromStdString(value), 96 * k) + 2 * k;
  }
  Findings findings = checkProject(project);
  y += 6 * k;
  y += text(titleFont(15 * k), theme.ink, "Warnings") + 2 * k;
  rule();
  if (findings.empty()) y += text(textFont(10 * k), theme.muted, "none");
  for (std::size_t i = 0; i < findings.size(); ++i) {
    if (y > page.bottom() - 34 * k) {
      y += text(textFont(10 * k), theme.short_,
                QString("and %1 more; see the list of findings").arg(findings.size() - i));
      break;
    }
    y += text(textFont(10 * k), findings[i].rank == Rank::WorthKnowing ? theme.muted : theme.short_,
              QString::fromStdString(std::string(rankText(findings[i].rank)) + ": " + findings[i].text));
  }
}

} // namespace

Expected<FurnishedPicture> FurnishedPicture::prepare(const Project& project, const PictureRequest& request, int width,
                                                     int height, RunControl& control, ResultStore* store,
                                                     const Theme& theme) {
  FurnishedPicture out;
  out.project_ = std::make_shared<const Project>(project);
  auto d = noonward::prepare(*out.project_, request, width, height, control, store, theme);
  if (!d) return tl::unexpected(d.error());
  out.prepared_ = std::make_shared<const Prepared>(std::move(*d));
  return out;
}

void FurnishedPicture::paint(QPainter& painter, QRectF area, const Theme& theme, double k) const {
  furnish(painter, area, *project_, *prepared_, theme, k);
}
void FurnishedPicture::paintTitled(QPainter& painter, QRectF area, const Theme& theme) const {
  paintPicture(painter, area, *project_, *prepared_, theme, std::max(0.5, area.width() / 1280.0));
}
std::shared_ptr<const SensorField> FurnishedPicture::painted() const {
  if (!prepared_->painted) return nullptr;
  return {prepared_, &*prepared_->painted};
}
std::shared_ptr<const PictureScenes> FurnishedPicture::scenes() const {
  return prepared_->scenes;
}
void FurnishedPicture::paintBare(QPainter& painter, QRectF area) const {
  painter.drawImage(area, prepared_->image);
}
int titledHeight(const PictureRequest& r) {
  return r.height - int(62 * std::max(0.5, r.width / 1280.0));
}
const std::string& FurnishedPicture::title() const {
  return prepared_->title;
}
const std::string& FurnishedPicture::line() const {
  return prepared_->line;
}
double FurnishedPicture::aspect() const {
  return double(prepared_->image.height()) / double(prepared_->image.width());
}

PaintingWithoutWindow::PaintingWithoutWindow() {
  static int argc = 1;
  static char name[] = "noonward";
  static char* argv[] = {name, nullptr};
  if (QCoreApplication::instance()) return; // the window has its own
  qputenv("QT_QPA_PLATFORM", "offscreen");
  gui_ = std::make_unique<QGuiApplication>(argc, argv);
  std::error_code ignored;
  loadFonts(QString::fromStdString(resourcesFolder(std::filesystem::read_symlink("/proc/self/exe", ignored)).string()));
}

PaintingWithoutWindow::~PaintingWithoutWindow() = default;

Theme paperTheme(bool white) {
  Theme theme = Theme::light();
  if (white) {
    theme.paper = Qt::white;
    theme.stage = QColor("#FFFFFF");
    theme.shadow = QColor("#DDD9D1");
  }
  return theme;
}

namespace {
QByteArray pngOf(const Project& project, const Prepared& d, int width, int height, const Theme& theme) {
  QImage image(width, height, QImage::Format_RGB32);
  QPainter p(&image);
  paintPicture(p, QRectF(0, 0, width, height), project, d, theme, std::max(0.5, width / 1280.0));
  p.end();
  image.setText("Title", QString::fromStdString(d.title));
  image.setText("Fingerprint", QString::fromStdString(d.fingerprint));
  QByteArray bytes;
  QBuffer buffer(&bytes);
  buffer.open(QIODevice::WriteOnly);
  if (!image.save(&buffer, "PNG")) bytes.clear();
  return bytes;
}

QByteArray svgOf(const Project& project, const Prepared& d, int width, int height, const Theme& theme) {
  QByteArray bytes;
  QBuffer buffer(&bytes);
  buffer.open(QIODevice::WriteOnly);
  QSvgGenerator svg;
  svg.setOutputDevice(&buffer);
  svg.setSize(QSize(width, height));
  svg.setViewBox(QRect(0, 0, width, height));
  svg.setTitle(QString::fromStdString(d.title));
  QPainter p(&svg);
  paintPicture(p, QRectF(0, 0, width, height), project, d, theme, std::max(0.5, width / 1280.0));
  p.end();
  return bytes;
}
} // namespace

QByteArray pngBytes(const FurnishedPicture& d, int width, int height, const Theme& theme) {
  return pngOf(*d.project_, *d.prepared_, width, height, theme);
}
QByteArray svgBytes(const FurnishedPicture& d, int width, int height, const Theme& theme) {
  return svgOf(*d.project_, *d.prepared_, width, height, theme);
}

Outcome exportPicture(const Project& project, const PictureRequest& request, const std::filesystem::path& file,
                      RunControl& control, ResultStore* store, const YardstickShelf* shelf) {
  const PaintingWithoutWindow painting;
  std::error_code ignored;
  const auto resources = resourcesFolder(std::filesystem::read_symlink("/proc/self/exe", ignored));
  const Theme theme = paperTheme(request.whitePaper);
  const std::string kind = file.extension().string();
  QByteArray bytes;
  QBuffer buffer(&bytes);
  buffer.open(QIODevice::WriteOnly);
  if (kind == ".png" || kind == ".svg") {
    auto d = prepare(project, request, request.width, titledHeight(request), control, store, theme);
    if (!d) return tl::unexpected(d.error());
    const QByteArray picture = kind == ".png" ? pngOf(project, *d, request.width, request.height, theme)
                                              : svgOf(project, *d, request.width, request.height, theme);
    if (picture.isEmpty()) return fail("The picture could not be encoded.", file.string());
    return saveFile(file, std::string_view(picture.constData(), std::size_t(picture.size())));
  } else if (kind == ".ply" || kind == ".glb") { // the result's cells as a coloured mesh
    auto d = prepare(project, request, 320, 200, control, store, theme);
    if (!d) return tl::unexpected(d.error());
    if (!d->painted) return fail("There is no study whose result could be written.", file.string());
    const std::string about = d->title + ": " + d->asked + ", fingerprint " + d->fingerprint;
    return saveFile(file, kind == ".ply" ? resultPly(*d->painted, project.site.origin, about)
                                         : resultGlb(*d->painted, about));
  } else if (kind == ".pdf") {
    YardstickShelf own;
    if (!shelf) {
      own = readYardsticks({resources / "yardsticks"});
      shelf = &own;
    }
    auto d = prepare(project, request, 1560, 900, control, store, theme);
    if (!d) return tl::unexpected(d.error());
    std::vector<Verdict> verdicts;
    StudyRunner runner(store);
    for (const Judgement& j : project.judgements)
      if (const Yardstick* y = shelf->find(j.yardstick)) verdicts.push_back(runner.judgement(project, *y, j, control));
    QPdfWriter pdf(&buffer);
    pdf.setPageSize(QPageSize(QPageSize::A4));
    pdf.setResolution(144);
    pdf.setPageMargins(QMarginsF(15, 14, 15, 14), QPageLayout::Millimeter);
    pdf.setTitle(QString::fromStdString(d->title));
    pdf.setCreator("Noonward " NOONWARD_VERSION);
    QPainter p(&pdf);
    paintRecord(p, QRectF(0, 0, pdf.width(), pdf.height()), project, *d, verdicts, theme, 144 / 72.0 * 0.9);
  } else {
    return fail("Pictures end in .png, .svg or .pdf; a result as a coloured mesh in .ply or .glb.", file.string());
  }
  buffer.close();
  return saveFile(file, std::string_view(bytes.constData(), std::size_t(bytes.size())));
}

} // namespace noonward
