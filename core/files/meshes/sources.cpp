// Files that elements came from: how they were taken, and whether they have changed since.

#include "core/base/words.h"
#include "core/files/meshes/mesh_files.h"
#include "core/model/finish.h"
#include "core/model/heat_library.h"
#include <algorithm>
#include <fmt/format.h>

namespace noonward {

std::optional<Placement> placementAsBefore(const Project& project, const Model& model) {
  const std::string name = sourceNameOf(project, model);
  for (const SourceFile& s : project.sources)
    if (s.name == name) return Placement{s.unit, s.yUp, s.origin, s.scale, s.northAngle};
  return {};
}

std::vector<SourceChange> changedSources(const Project& project, SourceWatch& watch) {
  std::vector<SourceChange> out;
  for (const SourceFile& s : project.sources) {
    std::error_code e;
    const auto time = std::filesystem::last_write_time(s.path, e);
    if (e) {
      out.push_back({s.name, s.path, true});
      continue;
    }
    auto& [stamp, content] = watch.seen[s.path];
    if (const auto now = std::int64_t(time.time_since_epoch().count()); stamp != now) {
      const auto bytes = loadFile(s.path);
      if (!bytes) continue; // being written: next time
      stamp = now;
      content = digestOf(*bytes);
    }
    if (content != s.content) out.push_back({s.name, s.path, false});
  }
  return out;
}

std::string outcomeText(const Project& before, const ImportOutcome& o) {
  std::string text = fmt::format("{} new", o.fresh.size());
  if (!o.renewed.empty()) text += fmt::format(", {} renewed, {} of them moved", o.renewed.size(), o.moved.size());
  if (!o.gone.empty()) {
    std::string gone;
    for (std::size_t k = 0; k < o.gone.size() && k < 5; ++k)
      gone += (k ? ", " : "") + o.project.element(o.gone[k])->name;
    text += ". No longer in the file, and kept: " + gone + (o.gone.size() > 5 ? " …" : "");
  }
  text += ".";
  const bool traced = std::any_of(o.renewed.begin(), o.renewed.end(), [&](ElementId id) {
    const ElementPtr was = before.element(id), is = o.project.element(id);
    return was && is && is->ghost && was->imported() && is->imported() &&
           was->imported()->content != is->imported()->content;
  });
  if (traced) text += " The simplified model traced out of it is older now: trace it again.";
  return o.remark.empty() ? text : text + " " + o.remark;
}

Project takenOver(Project now, const Project& before, const ImportOutcome& o) {
  now.elements = o.project.elements;
  now.sources = o.project.sources;
  for (const Glazing& g : o.project.glazings) // that the file states
    if (!findGlazing(now.glazings, g.name)) now.glazings.push_back(g);
  takeStated(now.heat, o.project.heat);
  if (before.elements.empty()) {
    now.site.origin = o.project.site.origin;
    now.site.place = o.project.site.place;
    now.site.zone = o.project.site.zone;
    now.site.northAngle = o.project.site.northAngle;
    now.site.referenceSystem = o.project.site.referenceSystem;
  }
  return now;
}

Expected<ImportOutcome> broughtInAgain(const Project& project, const std::string& name, RunControl* control) {
  const auto at =
      std::find_if(project.sources.begin(), project.sources.end(), [&](const SourceFile& s) { return s.name == name; });
  if (at == project.sources.end()) return fail(fmt::format("No file \"{}\" was imported.", name));
  const auto model = readModel(at->path, control, {at->level});
  if (!model) return tl::unexpected(model.error());
  return broughtIn(project, *model, *placementAsBefore(project, *model), Role::Neighbour, true);
}

Findings checkSourceFiles(const Project& project, SourceWatch& watch) {
  Findings out;
  for (const SourceChange& c : changedSources(project, watch)) {
    Finding f{Rank::WorthKnowing, c.gone ? "source.gone" : "source.changed",
              c.gone ? fmt::format("The file \"{}\" is no longer at {}.", c.name, c.path)
                     : fmt::format("The file \"{}\" has changed since it was imported.", c.name)};
    if (!c.gone) {
      f.mend = "source.again:" + c.name;
      f.mendText = "Import it again";
    }
    for (const ElementPtr& e : project.elements)
      if (e->source == c.name) f.elements.push_back(e->id.value);
    if (f.elements.empty() || project.accepted.contains(f.code)) continue; // nothing of it is left, or the user knows
    out.push_back(std::move(f));
  }
  return out;
}

std::optional<Expected<ImportOutcome>> mendSourceFile(const Project& project, const Finding& f) {
  constexpr std::string_view again = "source.again:";
  if (!f.mend.starts_with(again)) return {};
  return broughtInAgain(project, f.mend.substr(again.size()));
}

} // namespace noonward
