#include "picture/record_pictures.h"
#include "core/files/project/design_json.h"
#include "core/studies/change.h"
#include "picture/opened_rooms.h"
#include "picture/room_labels.h"
#include "picture/saved_view.h"
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

class Maker {
public:
  Maker(const RecordFacts& facts, RunControl& control, const Theme& theme)
      : f_(facts), p_(facts.project), control_(control), theme_(theme) {}

  Expected<RecordPictures> all() {
    PictureRequest r;
    r.study = "-";
    r.moment = p_.zone().instant({{p_.site.year, p_.site.place.latitude >= 0 ? 3 : 9, 21}, 11 * 3600.0});
    auto model = FurnishedPicture::prepare(p_, r, 1600, 900, control_, nullptr, theme_);
    if (!model) return tl::unexpected(model.error());
    RecordPictures out{std::move(*model), {}};
    for (const YearChapter& y : f_.years)
      if (Outcome o = year(y, out.of[y.study.id.text()]); !o) return tl::unexpected(o.error());
    for (const FieldChapter& x : f_.fields)
      if (x.now)
        if (Outcome o = field(x, out.of[x.study.id.text()]); !o) return tl::unexpected(o.error());
    for (const RecordPart& part : f_.parts)
      if (part.kind == RecordPartKind::View && !out.of.contains(part.of))
        if (Outcome o = view(part, out.of[part.of]); !o) return tl::unexpected(o.error());
    return out;
  }

private:
  /// A plan of the rooms of every storey that the field has values on.
  Outcome storeyPlans(const SensorField& shown, const Study& study, YearMetric metric, const std::string& key,
                      const QString& caption, std::vector<RecordMap>& into) {
    for (const double floor : storeys(p_)) {
      bool any = false;
      for (const SensorGridFacts& g : shown.sensors.groups)
        any |= g.room >= 0 && g.count > 0 && onStorey(p_.rooms[std::size_t(g.room)], floor);
      if (!any) continue;
      Box3 around;
      for (const Box3& b : roomBoxes(p_, floor)) {
        around.add(b.low);
        around.add(b.high);
      }
      const double depthByWidth = around.size().y / std::max(0.1, around.size().x);
      PictureRequest plan;
      plan.view = ViewKind::Plan;
      plan.study = study.id.text();
      plan.known = std::make_shared<const SensorField>(shown);
      plan.metric = metric;
      plan.storey = floor;
      // As wide as the page, as high as the rooms ask for; the legend stands below.
      plan.margin = 0.03;
      plan.foot = 110;
      const double high = std::clamp(1500 * depthByWidth + plan.foot, 560.0, 1700.0);
      if (Outcome o = put(plan, int(high), fmt::format("{}-floor-{:.1f}", key, floor),
                          caption + QString(" · rooms with their floor at %1 m").arg(floor, 0, 'f', 1), into);
          !o)
        return o;
    }
    return {};
  }

  Outcome put(const PictureRequest& request, int height, const std::string& name, const QString& caption,
              std::vector<RecordMap>& into) {
    auto picture = FurnishedPicture::prepare(p_, request, 1500, height, control_, nullptr, theme_);
    if (!picture) return tl::unexpected(picture.error());
    into.push_back({names_(name), caption, std::move(*picture)});
    return {};
  }

  Outcome year(const YearChapter& y, std::vector<RecordMap>& into) {
    const std::string before = &y == &f_.years.front() ? "" : y.study.name + " ";
    for (const YearMetric m : {YearMetric::Autonomy, YearMetric::BeamHours, YearMetric::MeanLux}) {
      const char* key = m == YearMetric::Autonomy ? "autonomy" : m == YearMetric::BeamHours ? "beam-hours" : "mean-lux";
      if (Outcome o = storeyPlans(yearField(y.year.facts, y.year.result, m, p_.units), y.study, m, before + key,
                                  yearMetricName(m), into);
          !o)
        return o;
    }
    return {};
  }

  /// Does most of it look sideways, as facades and windows do?
  static bool upright(const SensorField& f) {
    std::size_t n = 0;
    for (const Sensor& s : f.sensors.sensors) n += std::abs(s.normal[2]) < 0.5f;
    return 2 * n > f.sensors.sensors.size();
  }
  /// Of what looks sideways: straight at it and from its own plane on where it lies in one, so that nothing that
  /// stands before hides it; else from above on the side that most of it looks to.
  Camera before(const SensorField& f) const {
    Vec3 sum;
    Box3 box;
    for (const Sensor& s : f.sensors.sensors) {
      box.add(s.position);
      if (std::abs(s.normal[2]) < 0.5f) sum = sum + s.normalVector();
    }
    const double together = length(sum) / double(std::max<std::size_t>(1, f.sensors.sensors.size()));
    Camera c = fittedCamera(p_, ViewKind::Solid, wide, high);
    if (together > 0.1) c.azimuth = wrapTwoPi(std::atan2(sum.x, sum.y));
    c.altitude = radians(52);
    double depth = 0, front = -1e300;
    if (together > 0.95) {
      const Vec3 out = normalized(sum);
      double back = 1e300;
      for (const Sensor& s : f.sensors.sensors) {
        front = std::max(front, dot(s.position, out));
        back = std::min(back, dot(s.position, out));
      }
      depth = front - back;
      if (depth < 4) {
        c.kind = ViewKind::Facade;
        c.altitude = 0;
        c.fromTarget = true;
      }
    }
    const double rim = 0.1 * length(box.high - box.low) + 3;
    box.add(box.low - Vec3{rim, rim, 0.5});
    box.add(box.high + Vec3{rim, rim, rim});
    c.fit({box}, wide, high, 0.12);
    c.height *= 1.22; // the legend stands below
    c.target = c.target - c.up() * (0.09 * c.height);
    if (c.kind == ViewKind::Facade) {
      const Vec3 out = normalized(sum);
      c.target = c.target + out * (front + 0.3 - dot(c.target, out));
    }
    return c;
  }

  Outcome field(const FieldChapter& c, std::vector<RecordMap>& into) {
    // Eyes set one by one cover nothing: a plan of them would be empty. Their table and the worst one's fisheye tell.
    if (const auto& groups = c.now->sensors.groups;
        !groups.empty() &&
        std::all_of(groups.begin(), groups.end(), [](const SensorGridFacts& g) { return g.eyes && g.spacing <= 0; }))
      return {};
    std::vector<std::pair<DesignState, SensorField>> states;
    const SensorField now = inUnits(*c.now, p_.units);
    if (c.before) {
      const SensorField before = inUnits(*c.before, p_.units);
      for (const DesignState s : {DesignState::Before, DesignState::Proposed, DesignState::Difference})
        states.emplace_back(s, stateField(now, before, s));
    } else {
      states.emplace_back(DesignState::Proposed, now);
    }
    for (const auto& [state, shown] : states) {
      const std::string tail = state == DesignState::Proposed ? "" : std::string(" ") + designStateKey(state);
      const QString caption =
          q(c.study.name) + (states.size() == 1                 ? QString()
                             : state == DesignState::Before     ? QString(" · without the proposal")
                             : state == DesignState::Difference ? QString(" · what the proposal changes")
                                                                : QString(" · with the proposal"));
      if (now.inRooms()) {
        if (Outcome o = storeyPlans(shown, c.study, YearMetric::Autonomy, c.study.name + tail, caption, into); !o)
          return o;
        continue;
      }
      PictureRequest r;
      r.study = c.study.id.text();
      r.known = std::make_shared<const SensorField>(shown);
      r.state = state;
      r.view = ViewKind::Plan;
      if (upright(now)) {
        r.camera = before(now);
        r.view = r.camera->kind;
      }
      if (Outcome o = put(r, high, c.study.name + tail, caption, into); !o) return o;
    }
    return {};
  }

  Outcome view(const RecordPart& part, std::vector<RecordMap>& into) {
    const auto at =
        std::find_if(p_.views.begin(), p_.views.end(), [&](const SavedView& v) { return v.id.text() == part.of; });
    if (at == p_.views.end()) return {};
    const auto camera = cameraFromJson(at->camera);
    if (!camera) return fail(at->name + ": " + camera.error().text());
    PictureRequest r;
    r.camera = *camera;
    r.view = camera->kind;
    r.study = "-";
    r.moment = momentOf(*at, p_.zone());
    for (const FieldChapter& c : f_.fields)
      if (c.now && c.study.id.text() == at->study) {
        r.study = at->study;
        r.known = std::make_shared<const SensorField>(inUnits(*c.now, p_.units));
      }
    return put(r, 900, at->name, q(at->name), into);
  }

  static constexpr int wide = 1500, high = 640; ///< px: three to a page
  const RecordFacts& f_;
  const Project& p_;
  RunControl& control_;
  const Theme& theme_;
  FileNames names_;
};

} // namespace

Expected<RecordPictures> recordPictures(const RecordFacts& facts, RunControl& control, const Theme& theme) {
  return Maker(facts, control, theme).all();
}

} // namespace noonward
