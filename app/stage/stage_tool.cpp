#include "app/stage/stage_tool.h"
#include "app/stage/stage.h"
#include "app/stage/tools/tools.h"
#include "core/model/form/carry.h"
#include "core/model/form/edit.h"

namespace noonward {

namespace {
template <class T> std::unique_ptr<StageTool> make(Stage& stage) {
  return std::make_unique<T>(stage);
}
constexpr struct {
  Tool tool;
  std::unique_ptr<StageTool> (*make)(Stage&);
} tools[] = {
    {Tool::Select, make<SelectTool>},   {Tool::Draw, make<DrawTool>},         {Tool::Move, make<MoveTool>},
    {Tool::Probe, make<ProbeTool>},     {Tool::Area, make<AreaTool>},         {Tool::Room, make<RoomTool>},
    {Tool::Window, make<WindowTool>},   {Tool::Plate, make<PlateTool>},       {Tool::Section, make<SectionTool>},
    {Tool::Corners, make<CornersTool>}, {Tool::Distance, make<DistanceTool>}, {Tool::Spot, make<SpotTool>},
    {Tool::Balcony, make<BalconyTool>}, {Tool::Cut, make<CutTool>},           {Tool::Mirror, make<MirrorTool>},
    {Tool::Tree, make<TreeTool>},       {Tool::Eye, make<EyeTool>},           {Tool::Guide, make<GuideTool>}};
} // namespace

std::unique_ptr<StageTool> makeTool(Tool tool, Stage& stage) {
  for (const auto& t : tools)
    if (t.tool == tool) return t.make(stage);
  throw BrokenInvariant("a tool of the stage has no class");
}

void StageTool::enter() {
  if (typed().isEmpty()) return;
  if (const Element* e = stage_.onlySelected())
    if (const auto h = typedLength(); h && *h > 0.01)
      document().change(
          carried(project(), withEdited(project(), {e->id}, [&](Element& x) { setHeight(x, *h); }), {e->id}),
          "Type height");
  forgetTyped();
  update();
}

Document& StageTool::document() const {
  return stage_.document_;
}

const Project& StageTool::project() const {
  return stage_.document_.project();
}

Studies& StageTool::studies() const {
  return stage_.studies_;
}

const Camera& StageTool::camera() const {
  return stage_.camera_;
}

Camera::Ray StageTool::ray(QPointF at) const {
  return stage_.camera_.ray(at.x(), at.y(), stage_.width(), stage_.height());
}

double StageTool::metresPerPixel() const {
  return stage_.camera_.metresPerPixel(stage_.height());
}

RayHit StageTool::pick(QPointF at, Vec3* where, bool itself) const {
  return stage_.pick(at, where, itself);
}

std::optional<Vec3> StageTool::onLevel(QPointF at, double level) const {
  return stage_.onLevel(at, level);
}

std::optional<QPointF> StageTool::pixelOf(Vec3 p) const {
  return stage_.pixelOf(p);
}

QPointF StageTool::pointer() const {
  return stage_.pointer_;
}

bool StageTool::inside() const {
  return stage_.inside_;
}

const QString& StageTool::typed() const {
  return stage_.typed_;
}

std::optional<double> StageTool::typedLength() const {
  return lengthFromText(stage_.typed_.toStdString(), project().units.length);
}

void StageTool::forgetTyped() const {
  stage_.typed_.clear();
}

void StageTool::say(const QString& text) const {
  emit stage_.said(text);
}

void StageTool::tell(const QString& text) const {
  stage_.hoverText_ = text;
}

void StageTool::choose(Tool tool) const {
  stage_.setTool(tool);
}

void StageTool::update() const {
  stage_.update();
}

void StageTool::hold(std::vector<ElementId> elements) const {
  stage_.moving_ = std::move(elements);
}

const std::vector<ElementId>& StageTool::held() const {
  return stage_.moving_;
}

void StageTool::letGo() const {
  if (stage_.moving_.empty()) return;
  stage_.moving_.clear();
  stage_.studies_.setMoving({});
}

} // namespace noonward
