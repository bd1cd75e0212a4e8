#pragma once
// What pointer and keys do on the stage while a tool is chosen. A tool is made when it is chosen and goes with it, so
// that nothing of a draft outlives it; the stage itself knows the view alone. A new tool is a class in app/stage/tools
// with its row in the table of stage_tool.cpp.

#ifndef Q_MOC_RUN
#include "app/state/document.h"
#include "picture/camera.h"
#include <QCursor>
#include <memory>
#endif

class QMouseEvent;
class QPainter;

namespace noonward {

class Stage;
class Studies;
struct RayHit;

enum class Tool {
  Select,
  Draw,
  Move,
  Probe,
  Area,
  Room,
  Window,
  Plate,
  Section,
  Corners,
  Distance,
  Spot,
  Balcony,
  Cut,
  Mirror,
  Tree,
  Eye,
  Guide
};

class StageTool {
public:
  explicit StageTool(Stage& stage) : stage_(stage) {}
  virtual ~StageTool() = default;
  StageTool(const StageTool&) = delete;
  StageTool& operator=(const StageTool&) = delete;

  virtual QString hint() const { return {}; } ///< told when it is chosen
  virtual QCursor cursor() const { return Qt::CrossCursor; }
  virtual bool turnsView() const { return false; }  ///< a drag that holds nothing orbits or pans
  virtual bool grabsSun() const { return false; }   ///< a press on the sun holds it
  virtual bool takesSizes() const { return false; } ///< "1.8 x 1.5" is typed rather than a length
  /// The left button goes down: true holds the pointer, for drag() and release().
  virtual bool press(const QMouseEvent&) { return false; }
  virtual void drag(QPointF) {}
  virtual void release(bool) {} ///< whether the pointer was moved
  /// The pointer moves freely: true keeps back what lies under it.
  virtual bool hover(QPointF) { return false; }
  virtual void click(const QMouseEvent&) {} ///< the left button, without a drag
  virtual bool doubleClick(QPointF) { return false; }
  virtual void typedOn() {} ///< another sign was typed
  virtual void enter();     ///< by itself: a typed length is the height of what is selected
  virtual void back() {}    ///< Backspace with nothing typed
  virtual void paint(QPainter&) {}
  virtual void cancel() {} ///< another tool is chosen, or the project is another

protected:
  Stage& stage() const { return stage_; }
  Document& document() const;
  const Project& project() const;
  Studies& studies() const;
  const Camera& camera() const;
  Camera::Ray ray(QPointF at) const;
  double metresPerPixel() const;
  /// What is shown under a pixel. A pane or shade of a rule stands for the facade it hangs on, unless `itself`.
  RayHit pick(QPointF at, Vec3* where = nullptr, bool itself = false) const;
  std::optional<Vec3> onLevel(QPointF at, double level) const;
  std::optional<QPointF> pixelOf(Vec3 p) const;
  QPointF pointer() const;
  bool inside() const; ///< is the pointer over the stage?
  const QString& typed() const;
  std::optional<double> typedLength() const; ///< m
  void forgetTyped() const;
  void say(const QString& text) const;  ///< in the status line
  void tell(const QString& text) const; ///< beside the pointer
  void choose(Tool tool) const;         ///< this one is cancelled, and goes when its event is through
  void update() const;
  /// Elements that are about to move, drawn apart so that the others need not be laid out again.
  void hold(std::vector<ElementId> elements) const;
  const std::vector<ElementId>& held() const;
  void letGo() const;

private:
  Stage& stage_;
};

std::unique_ptr<StageTool> makeTool(Tool tool, Stage& stage);

} // namespace noonward
