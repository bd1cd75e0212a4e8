#pragma once
// The stage: the model, its shadows, the sun's tracks and the results, all to be grabbed. Left: what the tool in hand
// does with it, grab the sun; elsewhere orbit (plan: pan). Right: orbit. Middle: pan. Wheel: zoom to the pointer.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/stage/gl_renderer.h"
#include "app/stage/stage_tool.h"
#include "app/state/sight.h"
#include "core/light/scene.h"
#include "core/model/form/facades.h"
#include "core/studies/energy/envelope.h"
#include <QElapsedTimer>
#include <QWidget>
#include <future>
#endif

namespace noonward {

struct Trace;
struct MendPreview;

class Stage : public QWidget {
  Q_OBJECT
public:
  Stage(Document& document, Studies& studies, QWidget* parent = nullptr);
  ~Stage() override;
  /// What it sees; another option is looked at and not changed.
  Sight& sight() { return *sight_; }

  const Camera& camera() const { return camera_; }
  void setCamera(const Camera& camera);
  void setView(ViewKind kind);
  void setPerspective(bool on);
  void fit(bool everything = false); ///< else what a first view frames: in a city what is proposed
  /// Brings an element into the middle.
  void flyTo(const std::vector<std::uint64_t>& elements);
  /// All that stands together of them, beside a panel that covers so many px at the left; nothing is selected.
  void showBeside(const std::vector<std::uint64_t>& elements, int covered);
  /// Everything, beside a panel.
  void fitAllBeside(int covered);
  /// Square to a wall, beside a panel.
  void faceWall(const WallRectangle& wall, int covered);
  /// Brings a place into the middle.
  void flyTo(Vec3 place);
  Tool tool() const { return tool_; }
  void setTool(Tool tool);
  bool hasOpenGl() const { return gl_ && gl_->works(); }
  QString device() const { return gl_ ? gl_->device() : QString(); }
  /// Where a local point shows, px; for tests.
  std::optional<QPointF> pixelOf(Vec3 p) const;
  /// The middle of an eye's sign and the end of its line of sight, px.
  std::optional<std::pair<QPointF, QPointF>> eyeSign(Vec3 at, Vec3 forward) const;
  double lastFrameSeconds() const { return frameSeconds_; }
  double drawnSeconds() const { return drawnSeconds_; } ///< by OpenGL alone, since the start
  /// A simplified model being traced, drawn over the model; null for none. `covered`: px at the left under a panel.
  void setTrace(std::shared_ptr<const Trace> trace, int storey, int covered = 0);
  /// What a mend would change, drawn over the model; null for nothing. Frames it where it is out of sight or a dot;
  /// `covered`: px at the right under a panel.
  void setMendPreview(std::shared_ptr<const MendPreview> preview, int covered = 0);
  bool preparing() const {
    return preparing_.valid() || preparingCasters_.valid();
  } ///< a large model is on its way to the stage
  /// The sensor under a pixel; its grid may lie in an opened room.
  /// Room and edge (HeatSurface) under a pixel, where the stage shows what is behind walls.
  std::optional<std::pair<std::uint64_t, int>> surfaceUnder(QPointF at);
  std::optional<std::size_t> sensorUnder(QPointF at);
  /// The nearest corner that no face hides, or the place on a surface or the ground.
  Vec3 spotFor(QPointF at);
  const OpeningLayout& openings();
  /// Draws in full again, after a drag.
  void settleFrame() { requestFrame(false); }
  /// Draws now, whatever is pending.
  QImage frame(bool quick);

signals:
  void eyeWanted(); ///< to look through the eye that is looked at
  void viewChanged();
  void toolChanged();
  void distanceMeasured(double metres);
  /// A click of Tool::Spot: the nearest corner, or the place on a surface or the ground; which way it faces and whose
  /// it is (0: nobody's).
  void spotPicked(Vec3 place, Vec3 normal, quint64 element);
  void said(const QString& text); ///< what the pointer is doing, for the status line

protected:
  void paintEvent(QPaintEvent*) override;
  void showEvent(QShowEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void leaveEvent(QEvent*) override;
  bool event(QEvent* event) override;

private:
  friend class StageTool;
  enum class Drag { None, Orbit, Pan, Sun };
  // scene
  /// The project as it is shown: opened where rooms are looked into.
  const Project& shown();
  bool looksIntoRooms() const;
  /// What fitting frames: the rooms looked into, or everything.
  std::vector<Box3> framed() const;
  void sceneChanged();
  void lookChanged();
  void resultChanged();
  void rebuild();
  void requestFrame(bool quick);
  void fitBeside(const std::vector<Box3>& boxes, int covered); ///< px at the left; negative: at the right
  void fitWithin(Camera& camera, const std::vector<Box3>& boxes, double margin) const;
  void rayFrame();
  Vec3 sun() const;
  const Scene& pickScene();
  /// What is shown under a pixel. A pane or shade of a rule stands for the facade it hangs on, unless `itself`.
  RayHit pick(QPointF at, Vec3* where = nullptr, bool itself = false);
  std::optional<Vec3> onLevel(QPointF at, double level) const;
  const Element* onlySelected() const;
  void dragSun(QPointF at);
  bool types(const QString& sign) const;
  void cancelTool();
  void sayOtherOption();
  void paintMendPreview(QPainter& p);
  void layUnderlays();
  void paintUnderlays(QPainter& p); ///< where there is no OpenGL
  bool showsUnderlays() const;
  // overlay
  void paintOverlay(QPainter& p);
  void paintTracks(QPainter& p);
  bool tintsRooms() const;
  bool tintsFacades() const;   ///< by the side they look to, the building closed
  bool showsEnvelopes() const; ///< what is behind walls, in place of figures
  const std::vector<RoomEnvelope>& envelopes();
  const RoomTints& tints();
  void paintSunRay(QPainter& p, Vec3 spot);
  void paintFinishKey(QPainter& p, double y);
  void paintEnvelopes(QPainter& p);
  void paintEnvelopeKey(QPainter& p, double x, double y);
  std::optional<QLineF> sideOnStage(const Room& room, int edge) const;
  void paintAreas(QPainter& p);
  void paintGuides(QPainter& p);
  void paintFacadeKey(QPainter& p, double x, double y);
  void paintRooms(QPainter& p);
  void paintEyes(QPainter& p);
  void paintPointer(QPainter& p);
  void paintTrace(QPainter& p);
  struct Sky {
    Vec3 center;
    double radius;
  };
  Sky sky() const;
  std::optional<QPointF> sunPixel() const;
  QString valueAt(QPointF at);

  Document& document_;
  Studies& studies_;
  std::unique_ptr<Sight> sight_;
  std::unique_ptr<GlRenderer> gl_;
  Camera camera_;
  bool fitted_ = false;
  QImage image_;
  QTimer paintTimer_, refineTimer_, rayTimer_;
  bool quickNext_ = false, stale_ = true;
  double drawnSeconds_ = 0;
  double frameSeconds_ = 0;
  // what the GPU holds
  std::vector<ElementPtr> uploadedStill_, uploadedMoving_;
  Digest uploadedCasters_;
  std::future<StageGeometry> preparingCasters_;
  void layCasters(); ///< what casts shade: the building of the studies, whatever is shown of it
  OpeningLayout openings_;
  quint64 openingsRevision_ = ~0ull;
  QString uploadedLook_;
  std::shared_ptr<const SensorField> uploadedCells_;
  QString uploadedScale_;
  std::optional<RoomTints> tints_;
  std::vector<RoomEnvelope> envelopes_;
  std::optional<std::uint64_t> envelopesOf_;
  std::pair<std::uint64_t, RoomFigure> tintsOf_{}; ///< revision and figure
  std::array<FacadeFacts, 4> facades_;
  std::uint64_t facadesOf_ = ~std::uint64_t{0}; ///< revision
  std::future<StageGeometry> preparing_;
  QTimer prepareTimer_;
  Project opened_;
  quint64 openedRevision_ = ~0ull;
  QString openedAs_; ///< what opened_ shows
  bool openedOpen_ = false;
  void followRooms(); ///< frames the rooms when they are opened, and goes back
  std::optional<Camera> beforeRooms_;
  // picking
  Scene pick_;
  quint64 pickRevision_ = ~0ull;
  std::future<Scene> pickFuture_;
  quint64 pickFutureRevision_ = ~0ull;
  std::optional<SunKnots> knots_;
  int knotYear_ = 0;
  const SunKnots& knots();
  // tools
  Tool tool_ = Tool::Select;
  std::shared_ptr<StageTool> inHand_;
  const StageTool* holder_ = nullptr; ///< the tool that holds the pointer
  Drag drag_ = Drag::None;
  bool moved_ = false;
  QPointF pressed_, last_;
  Qt::MouseButton button_ = Qt::NoButton;
  std::vector<ElementId> moving_;
  QString typed_;
  std::shared_ptr<const Trace> trace_;
  int traceStorey_ = 0;
  std::shared_ptr<const MendPreview> mend_;
  std::map<std::string, std::shared_ptr<const QImage>>
      pictures_; ///< decoded, by content; null while that is under way or failed
  QString uploadedUnderlays_;
  QPointF pointer_;
  bool inside_ = false;
  QString hoverText_;
  friend class StageView;
};

} // namespace noonward
