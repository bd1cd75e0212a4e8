#include "core/runs/sweep/variation.h"
#include "core/files/project/asked_json.h"
#include "core/files/project/design_json.h"
#include "core/model/form/carry.h"
#include "core/model/form/edit.h"
#include "core/model/rooms/placing.h"
#include "core/model/settings/study_fields.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <muParser.h>
#include <set>

namespace noonward {

namespace {

/// What a place is for, beside ways through the design.
enum class Special { None, Option, Bearing, East, North, Up, Study };

struct Spot {
  std::string text;
  std::vector<std::string> way;
  Special special = Special::None;
};

Spot placeOf(const std::string& text) {
  Spot out{text, {}, Special::None};
  for (std::size_t at = 0; at <= text.size();) {
    const std::size_t next = std::min(text.find('/', at), text.size());
    out.way.push_back(text.substr(at, next - at));
    at = next + 1;
  }
  if (text == "option") out.special = Special::Option;
  for (const auto& [name, special] : {std::pair{"proposal/bearing", Special::Bearing},
                                      {"proposal/east", Special::East},
                                      {"proposal/north", Special::North},
                                      {"proposal/up", Special::Up}})
    if (text == name) out.special = special;
  if (out.way.front() == "studies") out.special = Special::Study;
  return out;
}

/// Does an entry of a list answer to a word of a way?
bool answers(const Json& entry, const std::string& word) {
  if (word == "*") return true;
  if (!entry.is_object()) return false;
  if (const auto colon = word.find(':'); colon != word.npos && colon > 0) {
    const auto at = entry.find(word.substr(0, colon));
    return at != entry.end() && at->is_string() && *at == word.substr(colon + 1);
  }
  for (const char* key : {"id", "name"})
    if (const auto at = entry.find(key); at != entry.end() && *at == word) return true;
  return false;
}

/// Every place of the design's JSON that a way leads to; the last word may be a key that the file leaves out.
std::vector<Json::json_pointer> resolved(const Json& design, const std::vector<std::string>& way) {
  std::vector<std::pair<const Json*, Json::json_pointer>> now{{&design, Json::json_pointer()}};
  for (std::size_t k = 0; k < way.size(); ++k) {
    std::vector<std::pair<const Json*, Json::json_pointer>> next;
    const bool last = k + 1 == way.size();
    for (const auto& [value, at] : now) {
      if (value->is_array()) {
        for (std::size_t i = 0; i < value->size(); ++i)
          if (answers((*value)[i], way[k])) next.emplace_back(&(*value)[i], at / i);
      } else if (value->is_object()) {
        if (const auto found = value->find(way[k]); found != value->end())
          next.emplace_back(&*found, at / way[k]);
        else if (last)
          next.emplace_back(nullptr, at / way[k]); // last: nobody looks into it
      }
    }
    now = std::move(next);
  }
  std::vector<Json::json_pointer> out;
  for (auto& [value, at] : now) out.push_back(std::move(at));
  return out;
}

template <class S> std::string unitOfField(const std::string& key) {
  for (const Field<S>& f : fieldsOf<S>())
    if (f.key == key) return f.unit;
  return {};
}
/// Keys of files that are lengths wherever they stand.
bool isLength(const std::string& key) {
  for (const char* length :
       {"height", "floor", "sill", "head", "width", "along", "x", "y", "gap", "depth", "wall", "base", "level"})
    if (key == length) return true;
  return false;
}

std::string unitOf(const Spot& place, const Project& project) {
  const std::string& key = place.way.back();
  switch (place.special) {
  case Special::Option:
    return "";
  case Special::Bearing:
    return "°";
  case Special::East:
  case Special::North:
  case Special::Up:
    return "m";
  case Special::Study:
    for (const Study& s : project.studies)
      for (const Field<Study>& f : studyFields(s.kind))
        if (f.key == key && place.way.size() == 3 && (s.name == place.way[1] || place.way[1] == "*")) return f.unit;
    return "";
  case Special::None:
    break;
  }
  const std::string& list = place.way.front();
  std::string unit = list == "shading" ? unitOfField<ShadeRule>(key) : "";
  if (list == "window-rules") unit = unitOfField<WindowRule>(key);
  if (list == "openings") unit = key == "frame" || key == "pane-at" ? "%" : unitOfField<Raised>(key);
  return unit.empty() && isLength(key) ? "m" : unit;
}

/// The lists of a design that a file's key stands for.
void keepLists(Design& d, const std::set<std::string>& keys) {
  const auto drop = [&](const char* key, auto list) {
    if (!keys.contains(key)) (d.*list) = {};
  };
  drop("elements", &Design::elements);
  drop("rooms", &Design::rooms);
  drop("openings", &Design::openings);
  drop("window-rules", &Design::windowRules);
  drop("shading", &Design::shadeRules);
  drop("finishes", &Design::finishes);
  drop("glazings", &Design::glazings);
  drop("assign", &Design::assignments);
  drop("heat", &Design::heat);
}
void takeLists(Design& into, Design&& from, const std::set<std::string>& keys) {
  const auto take = [&](const char* key, auto list) {
    if (keys.contains(key)) into.*list = std::move(from.*list);
  };
  take("elements", &Design::elements);
  take("rooms", &Design::rooms);
  take("openings", &Design::openings);
  take("window-rules", &Design::windowRules);
  take("shading", &Design::shadeRules);
  take("finishes", &Design::finishes);
  take("glazings", &Design::glazings);
  take("assign", &Design::assignments);
  take("heat", &Design::heat);
}
bool isList(const std::string& key) {
  for (const char* list :
       {"elements", "rooms", "openings", "window-rules", "shading", "finishes", "glazings", "assign", "heat"})
    if (key == list) return true;
  return false;
}

std::vector<ElementId> proposed(const Project& p) {
  std::vector<ElementId> out;
  for (const ElementPtr& e : p.elements)
    if (e->proposed && !e->demolished) out.push_back(e->id);
  return out;
}

/// Faults of rooms, openings and shading that a design must not gain.
std::map<std::string, int> breaks(const Project& p) {
  std::map<std::string, int> out;
  for (const Finding& f : checkRooms(p))
    if (f.rank == Rank::StopsStudy || (f.code.starts_with("opening.") && f.code != "opening.sloped"))
      out[f.text] += f.count;
  return out;
}

/// The cells of a fault of one parser: its message without its place in it.
Outcome parsed(const std::string& condition, const std::vector<Variable>& variables, std::vector<double>& values,
               double* result) {
  try {
    mu::Parser parser;
    parser.SetArgSep(';');
    for (std::size_t k = 0; k < variables.size(); ++k) parser.DefineVar(variables[k].name, &values[k]);
    parser.SetExpr(condition);
    const double r = parser.Eval();
    if (result) *result = r;
    return {};
  } catch (const mu::Parser::exception_type& e) {
    return fail(fmt::format("The condition \"{}\" can't be read: {}", condition, e.GetMsg()));
  }
}

} // namespace

std::string valueText(const VaryValue& value) {
  if (const auto* b = std::get_if<bool>(&value)) return *b ? "yes" : "no";
  if (const auto* d = std::get_if<double>(&value)) return fmt::format("{:.6g}", *d);
  return std::get<std::string>(value);
}

std::optional<double> numberOf(const VaryValue& value) {
  if (const auto* b = std::get_if<bool>(&value)) return *b ? 1 : 0;
  if (const auto* d = std::get_if<double>(&value)) return *d;
  return {};
}

/// A design to put values into, and where they go.
struct Variation::Base {
  std::string option;
  Project project;                                 ///< with the option in hand
  Json json;                                       ///< of the lists that are touched
  std::set<std::string> keys;                      ///< of the file: those lists
  std::vector<std::vector<Json::json_pointer>> at; ///< by variable
  std::map<std::string, int> broken;               ///< what is wrong with it anyway
};

Outcome Variation::takeValues() {
  std::set<std::string> names;
  if (sweep_->variables.empty()) return fail("The sweep varies nothing.", sweep_->name);
  for (const Variable& v : sweep_->variables) {
    const bool plain = !v.name.empty() && !std::isdigit(static_cast<unsigned char>(v.name.front())) &&
                       std::all_of(v.name.begin(), v.name.end(),
                                   [](char c) { return c == '_' || std::isalnum(static_cast<unsigned char>(c)); });
    if (!plain)
      return fail(
          fmt::format("\"{}\" is no name for a variable: letters, digits and _ are expected, no digit first.", v.name),
          sweep_->name);
    if (!names.insert(v.name).second)
      return fail(fmt::format("Two variables are called \"{}\".", v.name), sweep_->name);
    std::vector<VaryValue> values = v.values;
    if (v.range) {
      const VaryRange& r = *v.range;
      if (!values.empty())
        return fail(fmt::format("{} has a range and a list of values: one of them is expected.", v.name), sweep_->name);
      if (!std::isfinite(r.from) || !std::isfinite(r.to) || !(r.step > 0) || !std::isfinite(r.step))
        return fail(fmt::format("{}: a step above 0 is expected, not {:g}.", v.name, r.step), sweep_->name);
      if (r.to < r.from)
        return fail(fmt::format("{}: the range is turned round: from {:g} to {:g}.", v.name, r.from, r.to),
                    sweep_->name);
      if ((r.to - r.from) / r.step > 10'000)
        return fail(fmt::format("{}: {:.0f} steps are too many; 10 000 are taken.", v.name, (r.to - r.from) / r.step),
                    sweep_->name);
      const auto steps = int(std::floor((r.to - r.from) / r.step + 1e-9));
      for (int k = 0; k <= steps; ++k) values.emplace_back(tidyNumber(r.from + k * r.step));
      if (r.from + steps * r.step < r.to - 1e-9 * r.step) values.emplace_back(r.to);
    }
    if (values.empty()) return fail(fmt::format("{} has no values.", v.name), sweep_->name);
    std::vector<VaryValue> once;
    for (VaryValue& x : values)
      if (std::find(once.begin(), once.end(), x) == once.end()) once.push_back(std::move(x));
    values_.push_back(std::move(once));
    units_.push_back(unitOf(placeOf(v.at.front()), *project_));
    if (units_.back() == "%") // one value below 1 % among larger ones is meant; all of them hardly
      if (std::all_of(values_.back().begin(), values_.back().end(),
                      [](const VaryValue& x) {
                        const auto n = numberOf(x);
                        return n && *n <= 1;
                      }) &&
          std::any_of(values_.back().begin(), values_.back().end(),
                      [](const VaryValue& x) { return numberOf(x) > 0.0; }))
        return fail(fmt::format("{} is in %: {} would be {} %. Write 40 for 40 %.", v.name,
                                valueText(values_.back().back()), valueText(values_.back().back())),
                    sweep_->name);
  }
  return {};
}

Outcome Variation::takePlaces() {
  // The design in hand, and every option that a variable names.
  std::vector<std::string> options{""};
  for (std::size_t k = 0; k < sweep_->variables.size(); ++k)
    for (const std::string& at : sweep_->variables[k].at)
      if (at == "option")
        for (const VaryValue& v : values_[k]) options.push_back(valueText(v));
  for (const std::string& option : options) {
    auto base = std::make_shared<Base>();
    base->option = option;
    base->project = *project_;
    if (!option.empty()) {
      const auto found = optionNamed(*project_, option);
      if (!found) return fail(fmt::format("The project has no option \"{}\".", option), sweep_->name);
      base->project = withOption(*project_, *found);
    }
    for (const Variable& v : sweep_->variables)
      for (const std::string& text : v.at)
        if (const Spot place = placeOf(text); place.special == Special::None) base->keys.insert(place.way.front());
    Design part = base->project;
    keepLists(part, base->keys);
    base->json = designJson(part);
    base->broken = breaks(base->project);
    for (std::size_t k = 0; k < sweep_->variables.size(); ++k) {
      const Variable& v = sweep_->variables[k];
      std::vector<Json::json_pointer> at;
      for (const std::string& text : v.at) {
        const Spot place = placeOf(text);
        if (place.special != Special::None) continue;
        if (!isList(place.way.front()) || place.way.size() < 2)
          return fail(
              fmt::format("{}: \"{}\" is no place of a design, such as \"shading/Overhang/depth\".", v.name, text),
              sweep_->name);
        const auto found = resolved(base->json, place.way);
        if (found.empty())
          return fail(fmt::format("{}: nothing in the project is at \"{}\"{}.", v.name, text,
                                  option.empty() ? "" : fmt::format(" in option {}", option)),
                      sweep_->name);
        at.insert(at.end(), found.begin(), found.end());
      }
      base->at.push_back(std::move(at));
    }
    bases_.push_back(std::move(base));
  }
  // As it stands, and whether each place takes what is varied.
  const Base& base = *bases_.front();
  for (std::size_t k = 0; k < sweep_->variables.size(); ++k) {
    const Variable& v = sweep_->variables[k];
    const Spot first = placeOf(v.at.front());
    std::optional<VaryValue> now;
    switch (first.special) {
    case Special::None:
      if (!base.at[k].empty() && base.json.contains(base.at[k].front())) now = varyValue(base.json[base.at[k].front()]);
      break;
    case Special::Option:
      if (!project_->options.empty()) now = VaryValue(project_->options[project_->option].name);
      break;
    case Special::Bearing:
    case Special::East:
    case Special::North:
    case Special::Up:
      now = VaryValue(0.0);
      if (proposed(*project_).empty())
        return fail(fmt::format("{}: nothing is proposed that could be turned or moved.", v.name), sweep_->name);
      break;
    case Special::Study: {
      if (first.way.size() != 3)
        return fail(
            fmt::format("{}: \"{}\" is no setting, such as \"studies/Daylight year/threshold\".", v.name, v.at.front()),
            sweep_->name);
      Json j;
      for (const Study& s : project_->studies)
        if (s.name == first.way[1] || s.id.text() == first.way[1] || first.way[1] == "*") writeStudyFields(j, s);
      if (const auto found = j.find(first.way[2]); found != j.end()) now = varyValue(*found);
      break;
    }
    }
    now_.push_back(now);
  }
  for (std::size_t k = 0; k < values_.size(); ++k) {
    // Each value of a variable alone, the others as they come first.
    for (const VaryValue& value : values_[k]) {
      VaryPoint point;
      for (std::size_t j = 0; j < values_.size(); ++j) point.push_back(j == k ? value : values_[j].front());
      if (const auto made = unchecked(point); !made)
        return fail(fmt::format("{} = {}: {}", sweep_->variables[k].name, valueText(value), made.error().text()),
                    sweep_->name);
      if (value == values_[k].front()) continue;
      if (values_[k].size() > 24) break; // a long range takes what its first two take
    }
  }
  return {};
}

Outcome Variation::takeConditions() const {
  std::vector<Variable> numbers;
  for (std::size_t k = 0; k < values_.size(); ++k)
    if (numberOf(values_[k].front())) numbers.push_back(sweep_->variables[k]);
  std::vector<double> values(numbers.size(), 1);
  for (const std::string& c : sweep_->conditions)
    if (const Outcome o = parsed(c, numbers, values, nullptr); !o) return o;
  return {};
}

Expected<Variation> Variation::of(const Project& project, const Sweep& sweep) {
  Variation out;
  out.project_ = std::make_shared<const Project>(project);
  out.sweep_ = std::make_shared<const Sweep>(sweep);
  if (const Outcome o = out.takeValues(); !o) return tl::unexpected(o.error());
  if (const Outcome o = out.takePlaces(); !o) return tl::unexpected(o.error());
  if (const Outcome o = out.takeConditions(); !o) return tl::unexpected(o.error());
  return out;
}

bool Variation::allowed(const VaryPoint& point) const {
  std::vector<Variable> numbers;
  std::vector<double> values;
  for (std::size_t k = 0; k < point.size(); ++k)
    if (const auto n = numberOf(point[k])) {
      numbers.push_back(sweep_->variables[k]);
      values.push_back(*n);
    }
  for (const std::string& c : sweep_->conditions) {
    double holds = 1;
    if (!parsed(c, numbers, values, &holds) || holds == 0) return false;
  }
  return true;
}

const Variation::Base* Variation::baseOf(const VaryPoint& point) const {
  std::string option;
  for (std::size_t k = 0; k < point.size(); ++k)
    for (const std::string& at : sweep_->variables[k].at)
      if (at == "option") option = valueText(point[k]);
  for (const auto& base : bases_)
    if (base->option == option) return base.get();
  return nullptr;
}

Expected<Project> Variation::unchecked(const VaryPoint& point) const {
  const Base* base = baseOf(point);
  if (!base) return fail("The sweep knows no such option.");
  Project p = base->project;
  if (!base->keys.empty()) {
    Json json = base->json;
    for (std::size_t k = 0; k < point.size(); ++k)
      for (const Json::json_pointer& at : base->at[k]) json[at] = varyJson(point[k]);
    std::vector<UnknownKey> unknown;
    auto design = designFromJson(json, p, {&base->project}, &unknown);
    if (!design) return tl::unexpected(design.error());
    for (const UnknownKey& u : unknown) { // what the project's file has anyway is no fault of the sweep
      const auto dot = u.path.rfind('.');
      const std::string key = dot == u.path.npos ? u.path : u.path.substr(dot + 1);
      for (const Variable& v : sweep_->variables)
        for (const std::string& at : v.at)
          if (placeOf(at).way.back() == key)
            return fail(fmt::format("Nobody reads \"{}\" there{}.", key,
                                    u.nearest.empty() ? "" : fmt::format("; \"{}\" is", u.nearest)),
                        at);
    }
    takeLists(p, std::move(*design), base->keys);
    if (base->keys.contains("elements")) {
      std::vector<ElementId> changed;
      for (const ElementPtr& e : p.elements)
        if (const ElementPtr was = base->project.element(e->id); was && was != e && !(*was == *e))
          changed.push_back(e->id);
      if (!changed.empty()) p = carried(base->project, std::move(p), changed);
    }
  }
  double bearing = 0;
  Vec3 by;
  for (std::size_t k = 0; k < point.size(); ++k)
    for (const std::string& text : sweep_->variables[k].at) {
      const Spot place = placeOf(text);
      if (place.special == Special::None || place.special == Special::Option) continue;
      if (place.special == Special::Study) {
        bool met = false;
        for (Study& s : p.studies) {
          if (s.name != place.way[1] && s.id.text() != place.way[1] && place.way[1] != "*") continue;
          const auto& fields = studyFields(s.kind);
          if (place.way.size() != 3 || (place.way[1] == "*" && std::none_of(fields.begin(), fields.end(), [&](auto& f) {
                                          return f.key == place.way[2];
                                        })))
            continue;
          met = true;
          if (const Outcome o = setStudyField(s, place.way[2] + "=" + varyJson(point[k]).dump(), p.site.year); !o)
            return tl::unexpected(o.error());
        }
        if (!met) return fail(fmt::format("The project has no study for \"{}\".", text));
        continue;
      }
      const auto n = numberOf(point[k]);
      if (!n) return fail(fmt::format("A number is expected, not \"{}\".", valueText(point[k])), text);
      (place.special == Special::Bearing ? bearing
       : place.special == Special::East  ? by.x
       : place.special == Special::North ? by.y
                                         : by.z) = *n;
    }
  const std::vector<ElementId> ids = bearing != 0 || by != Vec3{} ? proposed(p) : std::vector<ElementId>{};
  if (!ids.empty()) {
    Box3 box; // of the design as it stands, so that the middle stays where it is whatever else is varied
    for (const ElementId id : ids)
      if (const ElementPtr e = base->project.element(id)) box.addBox(boxOf(*e));
    const Vec2 middle{(box.low.x + box.high.x) / 2, (box.low.y + box.high.y) / 2};
    Project after = withEdited(p, ids, [&](Element& e) {
      turnElement(e, middle, -radians(bearing));
      moveElement(e, by);
    });
    p = carried(p, std::move(after), ids);
  }
  return p;
}

Expected<Project> Variation::at(const VaryPoint& point) const {
  auto p = unchecked(point);
  if (!p) return p;
  const Base& base = *baseOf(point);
  for (const auto& [text, count] : breaks(*p))
    if (const auto was = base.broken.find(text); was == base.broken.end() || was->second < count)
      return fail("The model breaks: " + text);
  return p;
}

} // namespace noonward
