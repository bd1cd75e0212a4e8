#include "app/stage/stage.h"
#include "app/theme/style.h"
#include "core/model/form/edit.h"
#include "core/model/form/layers.h"
#include "core/studies/model_parts.h"
#include "picture/opened_rooms.h"
#include "picture/picture_export.h"
#include "picture/ray_picture.h"
#include "picture/room_labels.h"
#include <QPainter>
#include <QPointer>

namespace noonward {

Stage::Stage(Document& document, Studies& studies, QWidget* parent)
    : QWidget(parent), document_(document), studies_(studies), sight_(std::make_unique<Sight>(document, studies)) {
  setAccessibleName("Stage");
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setMinimumSize(320, 240);
  setAttribute(Qt::WA_OpaquePaintEvent);
  inHand_ = makeTool(tool_, *this);
  paintTimer_.setSingleShot(true);
  connect(&paintTimer_, &QTimer::timeout, this, [this] { update(); });
  refineTimer_.setSingleShot(true);
  refineTimer_.setInterval(160);
  connect(&refineTimer_, &QTimer::timeout, this, [this] { requestFrame(false); });
  rayTimer_.setSingleShot(true);
  rayTimer_.setInterval(30);
  connect(&rayTimer_, &QTimer::timeout, this, &Stage::rayFrame);
  prepareTimer_.setInterval(40);
  connect(&prepareTimer_, &QTimer::timeout, this, [this] {
    const auto ready = [](auto& f) {
      return f.valid() && f.wait_for(std::chrono::seconds(0)) == std::future_status::ready;
    };
    if (ready(preparing_)) {
      gl_->upload(GlRenderer::Still, preparing_.get());
      requestFrame(false);
    }
    if (ready(preparingCasters_)) {
      gl_->upload(GlRenderer::Casters, preparingCasters_.get());
      requestFrame(false);
    }
    if (!preparing()) prepareTimer_.stop();
  });
  connect(sight_.get(), &Sight::projectChanged, this, &Stage::sceneChanged);
  connect(sight_.get(), &Sight::lookingChanged, this, &Stage::lookChanged);
  connect(&document_, &Document::replaced, this, [this] {
    beforeRooms_.reset();
    fitted_ = false;
    uploadedStill_.clear();
    uploadedMoving_.clear();
    uploadedCasters_ = {};
    uploadedCells_.reset();
    cancelTool();
    fit();
  });
  connect(sight_.get(), &Sight::answerChanged, this, &Stage::resultChanged);
}

Stage::~Stage() = default;

const SunKnots& Stage::knots() {
  const int year = sight_->project().site.year;
  if (!knots_ || knotYear_ != year) {
    knots_.emplace(SunKnots::ofYear(year));
    knotYear_ = year;
  }
  return *knots_;
}

Vec3 Stage::sun() const {
  return sunDirection(sight_->project(), sight_->looking().moment);
}

void Stage::setCamera(const Camera& camera) {
  if (camera == camera_) return;
  camera_ = camera;
  requestFrame(false);
  emit viewChanged();
}

void Stage::setView(ViewKind kind) {
  const bool perspective = camera_.perspective;
  if (kind == ViewKind::Section) {
    const auto line = sight_->looking().section;
    if (!line) { // in the plan first
      if (camera_.kind != ViewKind::Plan) setView(ViewKind::Plan);
      setTool(Tool::Section);
      emit viewChanged();
      return;
    }
    camera_ = sectionCamera(sight_->project(), *line, width(), std::max(100.0, height() - 120.0));
    camera_.height *= height() / std::max(100.0, height() - 120.0);
    camera_.perspective = perspective;
    requestFrame(false);
    emit viewChanged();
    return;
  }
  Camera c = fittedCamera(sight_->project(), kind, width(), height(), sun());
  c.perspective = perspective;
  if (kind == ViewKind::Facade) { // square to the selected face, or to the long side of what is selected
    const Element* e = onlySelected();
    const Project& p = sight_->project();
    const bool ofRooms = !e && (tool_ == Tool::Window || sight_->looking().step == Step::Rooms);
    for (const ElementPtr& m : p.elements) // the building around the rooms, where nothing is selected
      if (ofRooms && !e && m->mass() && std::any_of(p.rooms.begin(), p.rooms.end(), [&](const Room& r) {
            return contains(m->mass()->outline, centroid(r.outline));
          }))
        e = m.get();
    if (e)
      if (const auto mesh = elementMesh(*e)) {
        Vec3 n;
        for (std::size_t t = 0; t < (*mesh)->triangles.size(); ++t)
          if (sight_->looking().face && (*mesh)->faceOf(t) == *sight_->looking().face) n = n + (*mesh)->areaVector(t);
        if (std::hypot(n.x, n.y) < 1e-9) { // the largest wall that looks to the sunny side
          double best = 0;
          for (std::size_t t = 0; t < (*mesh)->triangles.size(); ++t) {
            const Vec3 a = (*mesh)->areaVector(t);
            const double side = -a.y * (sight_->project().site.place.latitude >= 0 ? 1 : -1);
            if (std::abs(a.z) < 0.1 * length(a) && side > best) {
              best = side;
              n = a;
            }
          }
        }
        if (std::hypot(n.x, n.y) > 1e-9) c.azimuth = wrapTwoPi(std::atan2(n.x, n.y));
        fitWithin(c, {boxOf(*e)}, 0.1);
        c.fromTarget = true; // what stands before it would hide it
        double front = -1e300;
        for (const Vec3& q : (*mesh)->points) front = std::max(front, dot(q - c.target, c.toEye()));
        c.target = c.target + c.toEye() * (front + 3);
        camera_ = c;
        requestFrame(false);
        emit viewChanged();
        return;
      }
  }
  camera_.kind = kind; // what is framed depends on it: rooms are not looked into from a facade
  fitWithin(c, framed(), 0.03);
  camera_ = c;
  requestFrame(false);
  emit viewChanged();
}

void Stage::setPerspective(bool on) {
  camera_.perspective = on;
  requestFrame(false);
  emit viewChanged();
}

void Stage::fitWithin(Camera& c, const std::vector<Box3>& boxes, double margin) const {
  // Room for what lies over the picture: title above, legend, north and scale below.
  const double free = std::max(100.0, height() - 120.0);
  c.fit(boxes, width(), free, margin);
  c.height *= height() / free;
}

void Stage::fit(bool everything) {
  if (width() < 10 || !isVisible()) return;
  Camera fresh = camera_;
  if (!fitted_) {
    fresh = fittedCamera(sight_->project(), ViewKind::Solid, width(), height(), sun());
    fitted_ = true;
  }
  fitWithin(fresh, everything && !looksIntoRooms() ? sceneBoxes(sight_->project()) : framed(), 0.03);
  camera_ = fresh;
  requestFrame(false);
  emit viewChanged();
}

void Stage::flyTo(const std::vector<std::uint64_t>& elements) {
  std::vector<Box3> boxes;
  std::vector<ElementId> ids;
  for (std::uint64_t v : elements)
    if (const ElementPtr e = sight_->project().element({v})) {
      boxes.push_back(boxOf(*e));
      ids.push_back({v});
    }
  if (boxes.empty()) return;
  camera_.fit(boxes, width(), height(), 0.3);
  document_.look([&](Looking& l) { l.selected = ids; });
  requestFrame(false);
  emit viewChanged();
}

void Stage::flyTo(Vec3 place) {
  Box3 b;
  b.add(place - Vec3{3, 3, 2});
  b.add(place + Vec3{3, 3, 2});
  camera_.fit({b}, width(), height(), 0.1);
  requestFrame(false);
  emit viewChanged();
}

std::optional<QPointF> Stage::pixelOf(Vec3 p) const {
  const auto s = camera_.seen(p, width(), height());
  if (!s) return {};
  return QPointF(s->x, s->y);
}

void Stage::sceneChanged() {
  if (!fitted_) fit();
  followRooms();
  requestFrame(document_.previewing());
}

std::vector<Box3> Stage::framed() const {
  return looksIntoRooms() ? roomBoxes(sight_->project(), sight_->looking().storey) : framedBoxes(sight_->project());
}

void Stage::followRooms() {
  if (!fitted_ || !isVisible()) return;
  if (looksIntoRooms() && !beforeRooms_) {
    beforeRooms_ = camera_;
    fitWithin(camera_, framed(), 0.08);
    emit viewChanged();
  } else if (!looksIntoRooms() && beforeRooms_) {
    const ViewKind now = camera_.kind;
    camera_ = *beforeRooms_;
    beforeRooms_.reset();
    if (camera_.kind != now) fit();
    emit viewChanged();
  }
}

void Stage::lookChanged() {
  followRooms();
  if (camera_.kind == ViewKind::FromSun) {
    const Vec3 s = sun();
    if (s.z > 0.02) {
      camera_.azimuth = wrapTwoPi(std::atan2(s.x, s.y));
      camera_.altitude = std::asin(s.z);
    }
  }
  requestFrame(true);
  refineTimer_.start();
}

void Stage::resultChanged() {
  requestFrame(document_.previewing() || drag_ != Drag::None || holder_);
}

void Stage::requestFrame(bool quick) {
  quickNext_ = quick;
  stale_ = true;
  if (quick) refineTimer_.start();
  if (!paintTimer_.isActive()) paintTimer_.start(0);
}

bool Stage::looksIntoRooms() const {
  if (sight_->project().rooms.empty() || camera_.kind == ViewKind::FromSun || camera_.kind == ViewKind::Section ||
      camera_.kind == ViewKind::Facade || tool_ == Tool::Window)
    return false;
  const Step step = sight_->looking().step;
  if (tintsFacades()) return false;
  if (step == Step::Rooms || step == Step::Finishes) return true;
  const Study* s = studies_.activeStudy();
  if (!s || (step != Step::Studies && step != Step::Record)) return false;
  const std::vector<Room>& rooms = sight_->project().rooms;
  const auto inRoom = [&](const PointSensor& at) {
    return std::any_of(rooms.begin(), rooms.end(), [&](const Room& r) {
      return at.position.z > r.floor && at.position.z < r.floor + r.height && contains(r.outline, xy(at.position));
    });
  };
  return std::any_of(sight_->project().groups.begin(), sight_->project().groups.end(), [&](const SensorGroup& g) {
    if (std::find(s->groups.begin(), s->groups.end(), g.id) == s->groups.end()) return false;
    const auto* eyes = g.eyes ? std::get_if<std::vector<PointSensor>>(&g.layout) : nullptr;
    return std::holds_alternative<RoomGrid>(g.layout) ||
           (eyes && std::any_of(eyes->begin(), eyes->end(), inRoom)); // seats set by hand
  });
}

const Project& Stage::shown() {
  const Project& p = sight_->project();
  const Looking& l = sight_->looking();
  openedOpen_ = false;
  QString as;
  if (l.onlyRole)
    as = QString("role %1").arg(int(*l.onlyRole));
  else if (!l.onlyGlazing.empty())
    as = "glazing " + QString::fromStdString(l.onlyGlazing);
  else if (camera_.kind == ViewKind::Section)
    as = "section";
  else if (camera_.kind == ViewKind::FromSun && !p.rooms.empty())
    as = "all";
  else if (looksIntoRooms())
    as = QString("rooms %1").arg(storeyNear(p, l.storey));
  else if (!p.rooms.empty())
    as = "fittings";
  if (as.isEmpty()) return p;
  openedOpen_ = as.startsWith("rooms");
  if (openedAs_ == as && openedRevision_ == sight_->revision()) return opened_;
  if (l.onlyRole)
    opened_ = partsOfRole(p, *l.onlyRole);
  else if (!l.onlyGlazing.empty())
    opened_ = panesOf(p, l.onlyGlazing);
  else if (as == "section")
    opened_ = opaqueParts(p);
  else if (as == "all")
    opened_ = allParts(p);
  else if (openedOpen_)
    opened_ = openedRooms(p, storeyNear(p, l.storey));
  else
    opened_ = withFittings(p);
  openedRevision_ = sight_->revision();
  openedAs_ = as;
  return opened_;
}

void Stage::layCasters() {
  const Project& p = sight_->project();
  const Digest is = [&] {
    Hasher h;
    hashGeometry(h, p);
    return h.digest();
  }();
  if (is == uploadedCasters_ || preparingCasters_.valid()) return; // the next frame asks again
  uploadedCasters_ = is;
  if (triangleCount(p) > 60'000) {
    preparingCasters_ = std::async(std::launch::async, [p] { return casterGeometry(derivedModel(p).parts); });
    prepareTimer_.start();
  } else {
    gl_->upload(GlRenderer::Casters, casterGeometry(derivedModel(p).parts));
  }
}

const OpeningLayout& Stage::openings() {
  if (openingsRevision_ != sight_->revision()) {
    openings_ = placedOpenings(sight_->project());
    openingsRevision_ = sight_->revision();
  }
  return openings_;
}

void Stage::rebuild() {
  const Project& p = shown();
  const Looking& l = sight_->looking();
  const bool byFinish = l.step == Step::Finishes;
  StageLook look{l.selected, l.face, theme().dark, byFinish, tintsFacades()};
  QString key = QString::number(theme().dark) + (l.face ? QString::number(*l.face) : "-");
  if (byFinish || look.byFacing) key += (byFinish ? "f" : "o") + QString::number(sight_->revision());
  for (const auto& [layer, colour] : p.layerColours) key += QString::fromStdString(layer + colour);
  for (ElementId id : l.selected) key += QString::fromStdString(id.text());
  for (ElementId id : moving_) key += "m" + QString::fromStdString(id.text());
  const auto isMoving = [&](ElementId id) { return std::find(moving_.begin(), moving_.end(), id) != moving_.end(); };
  std::vector<ElementPtr> still, moving;
  for (const ElementPtr& e : p.elements) (isMoving(e->id) ? moving : still).push_back(e);
  if (still != uploadedStill_ || key != uploadedLook_) {
    const bool large = triangleCount(p) > 60'000;
    if (large) {
      preparing_ =
          std::async(std::launch::async, [p, look, except = moving_] { return stageGeometry(p, look, {}, except); });
      prepareTimer_.start();
    } else {
      gl_->upload(GlRenderer::Still, stageGeometry(p, look, {}, moving_));
    }
    uploadedStill_ = still;
  }
  if (moving != uploadedMoving_ || key != uploadedLook_) {
    gl_->upload(GlRenderer::Moving, moving.empty() ? StageGeometry{} : stageGeometry(p, look, moving_, {}));
    uploadedMoving_ = moving;
  }
  uploadedLook_ = key;
  layCasters();
  layUnderlays();
  const auto answer = sight_->answer();
  const auto painted = answer && !tintsRooms() && !tintsFacades() ? answer->painted : nullptr;
  const FieldScale scale = painted ? l.scale(*painted) : FieldScale{};
  const QString scaleKey = painted ? QString("%1 %2 %3 %4")
                                         .arg(scale.low)
                                         .arg(scale.high)
                                         .arg(scale.threshold)
                                         .arg(openedOpen_ ? storeyNear(sight_->project(), l.storey) : -1e9)
                           : tintsRooms() ? QString("rooms %1 %2 %3 %4")
                                                .arg(int(l.rooms))
                                                .arg(sight_->revision())
                                                .arg(theme().dark)
                                                .arg(storeyNear(sight_->project(), l.storey))
                                          : QString();
  if (painted != uploadedCells_ || uploadedScale_ != scaleKey) {
    StageGeometry cells;
    if (painted) {
      SensorField shown = openedOpen_ ? ofStorey(*painted, sight_->project(), l.storey) : *painted;
      shown.scale = scale;
      cells = cellGeometry(shown, theme());
    } else if (tintsRooms()) {
      cells = tintGeometry(sight_->project(), tints(), storeyNear(sight_->project(), l.storey), theme());
    }
    gl_->upload(GlRenderer::Cells, cells);
    uploadedCells_ = painted;
    uploadedScale_ = scaleKey;
  }
}

QImage Stage::frame(bool quick) {
  QElapsedTimer clock;
  clock.start();
  rebuild();
  const Vec3 s = sun();
  const double pitch = std::max(0.8, 7 * camera_.metresPerPixel(height()));
  QElapsedTimer drawing;
  drawing.start();
  QImage image = gl_->render({camera_, width(), height(), s, s.z > 0.001, quick, &theme(), pitch});
  drawnSeconds_ += double(drawing.nsecsElapsed()) * 1e-9;
  frameSeconds_ = double(clock.nsecsElapsed()) * 1e-9;
  return image;
}

void Stage::rayFrame() {
  // Without OpenGL: a picture by rays, coarse enough to follow the hand.
  RayPictureInput in;
  in.scene = pickScene();
  in.casters = buildScene(sight_->project());
  in.camera = camera_;
  const Vec3 s = sun();
  if (s.z > 0) in.sun = s;
  for (const ElementPtr& e : sight_->project().elements) {
    if (const std::string own = layerColour(sight_->project(), e->layer); !own.empty())
      in.coloured.emplace_back(e->id, own);
    if (e->proposed) in.proposed.push_back(e->id);
  }
  in.selected = sight_->looking().selected;
  const auto answer = sight_->answer();
  SensorField shown;
  if (answer && answer->painted) {
    shown = *answer->painted;
    shown.scale = sight_->looking().scale(shown);
    in.painted = &shown;
  }
  RunControl control;
  const int scale = quickNext_ ? 4 : 2;
  image_ = rayPicture(in, theme(), std::max(8, width() / scale), std::max(8, height() / scale), 1, control);
  update();
}

void Stage::showEvent(QShowEvent*) {
  if (!gl_) gl_ = std::make_unique<GlRenderer>(); // a second stage that nobody opens costs none
}

void Stage::resizeEvent(QResizeEvent*) {
  if (!fitted_) fit();
  requestFrame(false);
}

void Stage::paintEvent(QPaintEvent*) {
  if (stale_) {
    stale_ = false;
    if (hasOpenGl())
      image_ = frame(quickNext_);
    else
      rayTimer_.start();
  }
  QPainter p(this);
  if (image_.isNull()) {
    p.fillRect(rect(), theme().stage);
  } else {
    p.setRenderHint(QPainter::SmoothPixmapTransform, image_.size() != size());
    p.drawImage(rect(), image_);
  }
  paintOverlay(p);
}

const Scene& Stage::pickScene() {
  const Project& p = shown();
  const quint64 now = qHash(QString::number(sight_->revision()) +
                            (&p == &opened_ ? openedAs_ : QString())); // what is shown of which state
  if (pickRevision_ == now) return pick_;
  if (triangleCount(p) < 60'000) {
    pick_ = shownScene(p.elements, &pick_);
    pickRevision_ = now;
  } else if (pickFuture_.valid()) {
    if (pickFuture_.wait_for(std::chrono::seconds(0)) == std::future_status::ready) {
      pick_ = pickFuture_.get();
      pickRevision_ = pickFutureRevision_;
    }
  } else {
    pickFutureRevision_ = now;
    pickFuture_ = std::async(std::launch::async, [p, old = pick_] { return shownScene(p.elements, &old); });
  }
  return pick_;
}

RayHit Stage::pick(QPointF at, Vec3* where, bool itself) {
  Camera::Ray r = camera_.ray(at.x(), at.y(), width(), height());
  r.origin = camera_.start(r);
  RayHit h = pickScene().firstHit(r.origin, r.direction);
  if (where && h.hit()) *where = r.origin + r.direction * h.distance;
  if (!itself && h.role == Role::Glazing && h.hit() && !sight_->project().element({h.element}))
    for (const PlacedOpening& o : openings().openings)
      if (o.opening.id.value == h.element && o.mass) {
        h.element = o.mass;
        h.face = o.massFace;
        break;
      }
  return h;
}

std::optional<Vec3> Stage::onLevel(QPointF at, double level) const {
  const Camera::Ray r = camera_.ray(at.x(), at.y(), width(), height());
  if (std::abs(r.direction.z) < 1e-6) return {};
  const double t = (level - r.origin.z) / r.direction.z;
  if (t <= 0) return {};
  return r.origin + r.direction * t;
}

const Element* Stage::onlySelected() const {
  const auto& s = sight_->looking().selected;
  if (s.size() != 1) return nullptr;
  const ElementPtr e = sight_->project().element(s.front());
  return e.get();
}

/// Are the rooms coloured by a figure of theirs, in place of a result?
bool Stage::tintsRooms() const {
  const Looking& l = sight_->looking();
  return openedOpen_ && l.step == Step::Rooms && l.rooms != RoomFigure::None;
}

bool Stage::tintsFacades() const {
  const Looking& l = sight_->looking();
  return l.step == Step::Rooms && l.rooms == RoomFigure::Facing;
}

/// Of the project as it is looked at; worked out once for each state of it.
const RoomTints& Stage::tints() {
  const std::pair<std::uint64_t, RoomFigure> now{sight_->revision(), sight_->looking().rooms};
  if (!tints_ || tintsOf_ != now) {
    tints_ = roomTints(sight_->project(), now.second);
    tintsOf_ = now;
  }
  return *tints_;
}

} // namespace noonward
