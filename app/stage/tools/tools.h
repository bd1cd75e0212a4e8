#pragma once
// The tools of the stage, one class each.

#include "app/stage/snapping.h"
#include "app/stage/stage_tool.h"

namespace noonward {

/// Select; pull a face of what is selected alone; move with Alt; grab the sun.
class SelectTool : public StageTool {
public:
  using StageTool::StageTool;
  QCursor cursor() const override { return Qt::ArrowCursor; }
  bool turnsView() const override { return true; }
  bool grabsSun() const override { return true; }
  bool press(const QMouseEvent& e) override;
  void drag(QPointF at) override;
  void release(bool moved) override;
  void click(const QMouseEvent& e) override;
  void typedOn() override;
  void enter() override;
  void cancel() override;

protected:
  void beginMove(QPointF at, bool onSelected, Vec3 where);

private:
  void beginPull(const RayHit& hit, Vec3 where);
  void pull(QPointF at);
  void move(QPointF at);
  enum class Grip { None, Pull, Move } grip_ = Grip::None;
  Project before_;
  Vec3 grabbed_;
  std::optional<std::uint32_t> face_; ///< a wall being pulled; none: the top
  double from_ = 0;                   ///< m, height before
  bool ridge_ = false;                ///< the roof's rise is pulled, its walls stay
};

class MoveTool : public SelectTool {
public:
  using SelectTool::SelectTool;
  QString hint() const override {
    return "Drag what is selected; type a distance and Enter for an exact move; arrows move by a metre or by what is "
           "typed";
  }
  QCursor cursor() const override { return Qt::SizeAllCursor; }
  bool grabsSun() const override { return false; }
  bool press(const QMouseEvent& e) override;
};

// ---- outlines -----------------------------------------------------------------------------------------------------

/// Takes the corners of an outline; what becomes of it is the matter of the tools below.
class OutlineTool : public StageTool {
public:
  using StageTool::StageTool;
  void click(const QMouseEvent& e) override { clickAt(e); }
  bool doubleClick(QPointF at) override;
  void enter() override;
  void back() override;
  void paint(QPainter& p) override;
  void cancel() override { draft_.clear(); }

protected:
  virtual void finish(Outline outline) = 0; ///< sound, tidied
  virtual bool full() { return false; }     ///< after a corner: has it all it needs, and is done with?
  const Ring& draft() const { return draft_; }
  void paintMeasured(QPainter& p, Vec2 a, Vec2 b) const;
  QPointF px(Vec2 v, double z = 0) const;

private:
  void clickAt(const QMouseEvent& e);
  void corner(QPointF at);
  void close();
  Snap snapped(QPointF at) const;
  Ring draft_;
};

/// A block, or inside the only selected mass a courtyard of it.
class DrawTool : public OutlineTool {
public:
  using OutlineTool::OutlineTool;
  QString hint() const override;
  bool press(const QMouseEvent& e) override;
  bool hover(QPointF at) override;
  bool doubleClick(QPointF at) override { return !raising_ && OutlineTool::doubleClick(at); }
  void typedOn() override;
  void enter() override;
  void back() override;
  void paint(QPainter& p) override;
  void cancel() override;

protected:
  void finish(Outline outline) override;

private:
  void raise();
  bool raising_ = false;
  Outline outline_;
  double height_ = 9; ///< m
};

class AreaTool : public OutlineTool {
public:
  using OutlineTool::OutlineTool;
  QString hint() const override;

protected:
  void finish(Outline outline) override;
};

class RoomTool : public OutlineTool {
public:
  using OutlineTool::OutlineTool;
  QString hint() const override;

protected:
  void finish(Outline outline) override;
};

class PlateTool : public OutlineTool {
public:
  using OutlineTool::OutlineTool;
  QString hint() const override;

protected:
  void finish(Outline outline) override;
};

/// Two points of a line in plan; what it does is the matter of the tools below.
class LineTool : public OutlineTool {
public:
  using OutlineTool::OutlineTool;

protected:
  virtual void drawn(Vec2 a, Vec2 b) = 0;
  void finish(Outline) override {}
  bool full() override;
};

/// Cuts the selected masses along it.
class CutTool : public LineTool {
public:
  using LineTool::LineTool;
  QString hint() const override;

protected:
  void drawn(Vec2 a, Vec2 b) override;
};

/// Mirrors what is selected in it.
class MirrorTool : public LineTool {
public:
  using LineTool::LineTool;
  QString hint() const override;

protected:
  void drawn(Vec2 a, Vec2 b) override;
};

/// Lays guides, beside each other too.
class GuideTool : public LineTool {
public:
  using LineTool::LineTool;
  QString hint() const override;
  void enter() override; ///< with a distance typed and nothing drawn: parallel to the edge or guide under the pointer
  void back() override;  ///< takes away the guide under the pointer

protected:
  void drawn(Vec2 a, Vec2 b) override;

private:
  void lay(const Guide& guide);
};

class SectionTool : public LineTool {
public:
  using LineTool::LineTool;
  QString hint() const override;

protected:
  void drawn(Vec2 a, Vec2 b) override;
};

/// A tree at each click, alike to the one selected.
class TreeTool : public StageTool {
public:
  using StageTool::StageTool;
  QString hint() const override;
  void click(const QMouseEvent& e) override;
  void paint(QPainter& p) override;

private:
  Tree like() const;
};

/// Sets eyes: a press sets one and the drag turns it; the middle of one is dragged to move it, its end to turn it.
class EyeTool : public StageTool {
public:
  using StageTool::StageTool;
  QString hint() const override {
    return "Press where an eye is and drag where it looks; drag its middle to move it, its end to turn it; type an "
           "azimuth and Enter; Backspace takes it out; double-click looks through it; Escape ends";
  }
  bool press(const QMouseEvent& e) override;
  void drag(QPointF at) override;
  void release(bool moved) override;
  bool hover(QPointF at) override;
  bool doubleClick(QPointF at) override;
  void enter() override; ///< with a figure typed: the azimuth of the eye looked at
  void back() override;
  void cancel() override;

private:
  enum class Grip { None, Set, Move, Turn } grip_ = Grip::None;
  struct Under {
    EyeRef eye;
    bool end = false; ///< of its line of sight, rather than its middle
  };
  std::optional<Under> under(QPointF at) const;
  void look(std::optional<EyeRef> eye) const;
  Project before_; ///< with the eye, as it stood when it was taken
  EyeRef eye_;
};

// ---- on walls -----------------------------------------------------------------------------------------------------

/// Draws rectangles on upright faces.
class FacadeTool : public StageTool {
public:
  using StageTool::StageTool;
  void cancel() override { facade_.reset(); }

protected:
  struct Draft {
    Vec3 at, normal;                   ///< of the first click
    bool proposed = false;             ///< as the wall it hangs on
    std::optional<WallRectangle> seen; ///< of a balcony after the second
    std::string building = {};         ///< whose face it is
  };
  bool begin(QPointF at); ///< false where no upright face is
  std::optional<WallRectangle> rectangleTo(QPointF at) const;
  void paintFacade(QPainter& p, double depth, const std::function<QString(const WallRectangle&)>& words) const;
  std::optional<Draft> facade_;
};

/// A window on the wall of a room; where no room lies behind, a sensor in its middle.
class WindowTool : public FacadeTool {
public:
  using FacadeTool::FacadeTool;
  QString hint() const override;
  bool takesSizes() const override { return true; }
  void click(const QMouseEvent& e) override;
  void enter() override;
  void back() override;
  void paint(QPainter& p) override;
  void cancel() override;

private:
  void clickAt(QPointF at);
  void mark(QPointF at);
  std::optional<Opening> windowTo(QPointF at) const;
  struct WallDraft {
    WallSpot wall;
    Vec3 at, normal; ///< of the first click
    Vec2 from;       ///< along, height
  };
  std::optional<WallDraft> wall_;
};

class BalconyTool : public FacadeTool {
public:
  using FacadeTool::FacadeTool;
  QString hint() const override;
  void click(const QMouseEvent& e) override;
  void enter() override;
  void back() override { facade_.reset(); }
  void paint(QPainter& p) override;

private:
  double depth() const; ///< m, typed or usual
  void finish();
};

// ---- corners and spots --------------------------------------------------------------------------------------------

class CornersTool : public StageTool {
public:
  using StageTool::StageTool;
  QString hint() const override;
  bool turnsView() const override { return true; }
  bool press(const QMouseEvent& e) override;
  void drag(QPointF at) override;
  void release(bool moved) override;
  bool doubleClick(QPointF at) override;
  void enter() override; ///< with a length typed: the corner under the pointer is cut by it
  void paint(QPainter& p) override;
  void cancel() override;

private:
  struct Under { ///< the pointer: a corner, or the edge that begins at one
    std::optional<CornerRef> ref;
    bool corner = false;
  };
  std::vector<CornerRef> correctable() const;
  Under under(QPointF at) const;
  Project before_;
  CornerRef corner_;
  bool holding_ = false, inserted_ = false; ///< the corner being dragged was just put in
  std::vector<CutLine> guides_;
};

class ProbeTool : public StageTool {
public:
  using StageTool::StageTool;
  QString hint() const override { return "Click a spot on the ground or on a surface"; }
  bool grabsSun() const override { return true; }
  void click(const QMouseEvent& e) override;
};

/// A click gives the stage's spotPicked().
class SpotTool : public StageTool {
public:
  using StageTool::StageTool;
  void click(const QMouseEvent& e) override;
};

/// Two clicks give the stage's distanceMeasured().
class DistanceTool : public StageTool {
public:
  using StageTool::StageTool;
  QString hint() const override { return "Click one end of a distance that you know"; }
  void click(const QMouseEvent& e) override;
  void paint(QPainter& p) override;
  void cancel() override { from_.reset(); }

private:
  std::optional<Vec3> from_;
};

} // namespace noonward
