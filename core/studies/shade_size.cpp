#include "core/model/rooms/placing.h"
#include "core/studies/shade_rays.h"
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

/// Tries sizes of one rule against the same rays: what else hides the sun is asked once.
class Sizer {
public:
  Sizer(const Project& p, const ShadeRule& rule, const ShadeSizing& sizing, const ShadeSettings& settings,
        Threads threads)
      : p_(p), rule_(rule), sizing_(sizing), settings_(settings), threads_(threads), layout_(placedOpenings(p)) {}

  Outcome prepare(RunControl* control) {
    const auto takes = [&](const PlacedOpening& o) {
      return standsAt(rule_, o, p_.rooms[o.room].id) &&
             (sizing_.windows.empty() ||
              std::find(sizing_.windows.begin(), sizing_.windows.end(), o.opening.id) != sizing_.windows.end());
    };
    const auto count = std::count_if(layout_.openings.begin(), layout_.openings.end(), takes);
    if (count == 0) return fail(fmt::format("\"{}\" stands at no window that could be judged.", rule_.name));
    // Many windows need fewer points each for the same answer.
    int n = std::clamp(settings_.points, 1, 32);
    while (n > 2 && double(count) * n * n > 2500) --n;
    panes_ = glassPanes(p_, layout_, n, takes);
    auto moments = sunMoments(p_, settings_);
    if (!moments) return tl::unexpected(moments.error());
    std::erase_if(*moments, [](const SunMoment& m) { return m.wish != SunWish::KeepOut; });
    if (moments->empty()) return fail("No hour of the year is one to keep sun out: paint some first.");
    sky_.emplace(std::move(*moments));
    const auto model = lightModel(p_);
    if (!model) return tl::unexpected(model.error());
    const Scene bare = sceneOfParts(*model, [](const LightPart& x) { return !isShading(x); });
    const Scene others =
        sceneOfParts(*model, [&](const LightPart& x) { return isShading(x) && x.element != rule_.id.value; });
    const std::size_t each = panes_.front().points.size(), items = panes_.size() * each, blocks = sky_->blocks.size();
    lit_.assign(items * blocks, 0);
    std::vector<double> sums(items, 0);
    forChunks(
        items, 1, threads_,
        [&](std::size_t a, std::size_t b) {
          for (std::size_t i = a; i < b; ++i) {
            const GlassPane& pane = panes_[i / each];
            for (std::size_t k = 0; k < blocks; ++k) {
              Rays8 block = sky_->blocks[k];
              const unsigned front = lanesInFront(block, &sky_->moments[8 * k], pane.frame.outward),
                             free = litLanes(bare, pane.points[i % each], block, front);
              for (unsigned lane = 0; lane < 8; ++lane)
                if (free >> lane & 1) sums[i] += double(sky_->moments[8 * k + lane].hours);
              lit_[i * blocks + k] = std::uint8_t(litLanes(others, pane.points[i % each], block, free));
            }
          }
        },
        [&] { return !control || control->goesOn(); });
    for (std::size_t i = 0; i < items; ++i) bareSum_ += sums[i] * layout_.openings[panes_[i / each].at].area();
    if (!(bareSum_ > 0))
      return fail("No unwanted sun reaches this glass even without shading: there is nothing to size.");
    return {};
  }

  ShadeRule sized(int millimetres) const {
    ShadeRule r = rule_;
    (sizing_.what == ShadeSizing::What::Depth ? r.depth : r.spacing) = millimetres / 1000.0;
    return r;
  }

  /// The share of unwanted sun kept out with a size.
  double kept(int millimetres) {
    ++tried;
    const ShadeRule r = sized(millimetres);
    LightModel model;
    model.finishes.emplace_back();
    for (const PlacedOpening& o : layout_.openings)
      if (standsAt(r, o, p_.rooms[o.room].id)) {
        Mesh mesh = shadeMesh(r, frameOf(o, p_.rooms[o.room]));
        if (mesh.triangles.empty()) continue;
        LightPart part;
        part.element = r.id.value;
        part.mesh = std::make_shared<const Mesh>(std::move(mesh));
        part.role = Role::Shading;
        part.source = SurfaceSource::ShadeRule;
        model.parts.push_back(std::move(part));
      }
    const Scene scene = buildScene(model);
    const std::size_t each = panes_.front().points.size(), items = panes_.size() * each, blocks = sky_->blocks.size();
    std::vector<double> sums(items, 0);
    forChunks(items, 1, threads_, [&](std::size_t a, std::size_t b) {
      for (std::size_t i = a; i < b; ++i)
        for (std::size_t k = 0; k < blocks; ++k) {
          if (lit_[i * blocks + k] == 0) continue;
          Rays8 block = sky_->blocks[k];
          const unsigned lit = litLanes(scene, panes_[i / each].points[i % each], block, lit_[i * blocks + k]);
          for (unsigned lane = 0; lane < 8; ++lane)
            if (lit >> lane & 1) sums[i] += double(sky_->moments[8 * k + lane].hours);
        }
    });
    double lit = 0;
    for (std::size_t i = 0; i < items; ++i) lit += sums[i] * layout_.openings[panes_[i / each].at].area();
    return 1 - lit / bareSum_;
  }
  std::vector<OpeningId> windows() const {
    std::vector<OpeningId> out;
    for (const GlassPane& pane : panes_) out.push_back(layout_.openings[pane.at].opening.id);
    return out;
  }
  int tried = 0;

private:
  const Project& p_;
  const ShadeRule& rule_;
  const ShadeSizing& sizing_;
  const ShadeSettings& settings_;
  Threads threads_;
  OpeningLayout layout_;
  std::vector<GlassPane> panes_;
  std::optional<SunBlocks> sky_;
  std::vector<std::uint8_t> lit_; ///< by point of a pane and block of moments: lanes in sun without the rule
  double bareSum_ = 0;            ///< m² h of unwanted sun on the glass without any shading
};

} // namespace

Expected<SizedShade> sizeShade(const Project& p, const ShadeSizing& sizing, const ShadeSettings& settings,
                               RunControl* control, Threads threads) {
  const auto rule =
      std::find_if(p.shadeRules.begin(), p.shadeRules.end(), [&](const ShadeRule& s) { return s.id == sizing.rule; });
  if (rule == p.shadeRules.end()) return fail("There is no such shading.");
  const bool byDepth = sizing.what == ShadeSizing::What::Depth;
  if (byDepth && rule->kind == ShadeRule::Kind::Screen)
    return fail(fmt::format("\"{}\" is a screen: it has an openness and no depth to size.", rule->name));
  if (!byDepth && !rule->isBladed()) return fail(fmt::format("\"{}\" has no spacing to size.", rule->name));
  if (!(sizing.goal > 0) || sizing.goal > 1) return fail("The goal is a share over 0 and up to 100 %.");
  if (!(sizing.most >= 0.01) || sizing.most > 20) return fail("The largest size lies between 1 cm and 20 m.");
  Sizer sizer(p, *rule, sizing, settings, threads);
  if (Outcome o = sizer.prepare(control); !o) return tl::unexpected(o.error());
  const auto stopped = [&] { return control && !control->goesOn(); };
  const auto tell = [&](double share) {
    if (control && control->progress) control->progress(share);
  };
  SizedShade out;
  const int most = int(std::floor(sizing.most * 1000 + 1e-6));
  int size = most;
  double goal = sizing.goal;
  if (byDepth) { // a deeper part holds all of a shallower one: what is kept out rises with it
    const double all = sizer.kept(most);
    out.reached = all >= goal;
    if (!out.reached) goal = all - 1e-3; // as good as it gets, for as little as it takes
    int low = 0, high = most;
    while (high - low > 1 && !stopped()) {
      const int middle = (low + high) / 2;
      (sizer.kept(middle) >= goal ? high : low) = middle;
      tell(0.2 + 0.6 * (1 - std::log(double(high - low)) / std::log(double(most))));
    }
    size = high;
  } else { // blades change places with their spacing: from wide to narrow, then between the last two
    int wide = most, narrow = 0;
    for (int s = most; s >= 20 && !stopped(); s = std::min(s - 1, int(s * 0.95))) {
      if (sizer.kept(s) >= goal) {
        narrow = s;
        break;
      }
      wide = s;
      tell(0.6 * (1 - double(s) / most));
    }
    out.reached = narrow > 0;
    if (!out.reached) narrow = wide;
    while (out.reached && narrow < most && wide - narrow > 1 && !stopped()) {
      const int middle = (wide + narrow) / 2;
      (sizer.kept(middle) >= goal ? narrow : wide) = middle;
    }
    size = narrow;
  }
  if (stopped()) return fail("Sizing was stopped.");
  out.value = size / 1000.0;
  out.project = p;
  for (ShadeRule& s : out.project.shadeRules)
    if (s.id == sizing.rule) s = sizer.sized(size);
  const std::vector<OpeningId> windows = sizer.windows();
  out.windows = windows.size();
  out.tried = sizer.tried;
  const auto all = [](const WindowShade&) { return true; };
  auto before = shadeReport(p, settings, windows, control, threads);
  if (!before) return tl::unexpected(before.error());
  auto after = shadeReport(out.project, settings, windows, control, threads);
  if (!after) return tl::unexpected(after.error());
  out.before = before->sum(all);
  out.after = after->sum(all);
  return out;
}

} // namespace noonward
