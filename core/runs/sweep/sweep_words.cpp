#include "core/runs/sweep/sweep_words.h"
#include "core/base/units.h"
#include "core/geometry/plan_cut.h"
#include "core/model/light_model.h"
#include "core/model/settings/study_fields.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace noonward {

namespace {

std::string trimmed(std::string_view text) {
  const auto blank = [](char c) { return c == ' ' || c == '\t' || c == '\n'; };
  while (!text.empty() && blank(text.front())) text.remove_prefix(1);
  while (!text.empty() && blank(text.back())) text.remove_suffix(1);
  return std::string(text);
}

std::vector<std::string> split(std::string_view text, char by) {
  std::vector<std::string> out;
  for (std::size_t at = 0; at <= text.size();) {
    const std::size_t next = std::min(text.find(by, at), text.size());
    if (std::string part = trimmed(text.substr(at, next - at)); !part.empty()) out.push_back(std::move(part));
    at = next + 1;
  }
  return out;
}

/// "A to B by C" as three numbers.
std::optional<VaryRange> rangeFrom(const std::string& text) {
  const auto to = text.find(" to "), by = text.find(" by ");
  if (to == text.npos || by == text.npos || by < to) return {};
  const auto a = numberFromText(trimmed(text.substr(0, to))),
             b = numberFromText(trimmed(text.substr(to + 4, by - to - 4))),
             c = numberFromText(trimmed(text.substr(by + 4)));
  if (!a || !b || !c) return {};
  return VaryRange{*a, *b, *c};
}

VaryValue valueFromWord(const std::string& word) {
  if (word == "yes" || word == "true") return true;
  if (word == "no" || word == "false") return false;
  if (const auto n = numberFromText(word)) return *n;
  return word;
}

} // namespace

std::string valuesText(const Variable& v) {
  if (v.range) return fmt::format("{:.6g} to {:.6g} by {:.6g}", v.range->from, v.range->to, v.range->step);
  std::string out;
  for (const VaryValue& x : v.values) out += (out.empty() ? "" : ", ") + valueText(x);
  return out;
}

Outcome takeValues(Variable& v, std::string_view text) {
  const std::string plain = trimmed(text);
  if (const auto range = rangeFrom(plain)) {
    v.range = range;
    v.values.clear();
    return {};
  }
  std::vector<VaryValue> values;
  for (const std::string& word : split(plain, plain.find(';') != plain.npos ? ';' : ','))
    values.push_back(valueFromWord(word));
  if (values.empty()) return fail("Values such as \"0 to 1.2 by 0.1\" or \"Clear double, Solar double\" are expected.");
  v.range.reset();
  v.values = std::move(values);
  return {};
}

std::string goalText(const SweepGoal& g) {
  switch (g.kind) {
  case SweepGoal::Kind::AtLeast:
    return fmt::format("at least {:.6g}", g.value);
  case SweepGoal::Kind::AtMost:
    return fmt::format("at most {:.6g}", g.value);
  case SweepGoal::Kind::Most:
    return "most";
  case SweepGoal::Kind::Least:
    return "least";
  }
  return {};
}

Expected<std::optional<SweepGoal>> goalFromText(std::string_view text, const std::string& outcome) {
  const std::string plain = trimmed(text);
  if (plain.empty()) return std::optional<SweepGoal>();
  SweepGoal g;
  g.outcome = outcome;
  if (plain == "most" || plain == "least") {
    g.kind = plain == "most" ? SweepGoal::Kind::Most : SweepGoal::Kind::Least;
    return g;
  }
  for (const auto& [words, kind] : {std::pair<std::string_view, SweepGoal::Kind>{"at least", SweepGoal::Kind::AtLeast},
                                    {"at most", SweepGoal::Kind::AtMost}})
    if (plain.starts_with(words))
      if (const auto n = numberFromText(trimmed(std::string_view(plain).substr(words.size())))) {
        g.kind = kind;
        g.value = *n;
        return g;
      }
  return fail(fmt::format("\"{}\" is no goal: at least 40, at most 10, most or least are.", plain));
}

std::string goalsText(const Sweep& sweep, const std::string& outcome) {
  std::string out;
  for (const SweepGoal& g : sweep.goals)
    if (g.outcome == outcome) out += (out.empty() ? "" : "; ") + goalText(g);
  return out;
}

Outcome takeGoals(Sweep& sweep, const std::string& outcome, std::string_view text) {
  std::vector<SweepGoal> goals;
  for (const std::string& one : split(text, ';')) {
    const auto goal = goalFromText(one, outcome);
    if (!goal) return tl::unexpected(goal.error());
    if (*goal) goals.push_back(**goal);
  }
  std::erase_if(sweep.goals, [&](const SweepGoal& g) { return g.outcome == outcome; });
  sweep.goals.insert(sweep.goals.end(), goals.begin(), goals.end());
  return {};
}

std::string freshColumn(const Sweep& sweep, const std::string& stem) {
  std::string plain;
  for (const char c : stem)
    plain += std::isalnum(static_cast<unsigned char>(c)) ? char(std::tolower(static_cast<unsigned char>(c))) : '_';
  while (!plain.empty() && plain.back() == '_') plain.pop_back();
  if (plain.empty() || std::isdigit(static_cast<unsigned char>(plain.front()))) plain = "v_" + plain;
  const auto taken = [&](const std::string& name) {
    return std::any_of(sweep.variables.begin(), sweep.variables.end(),
                       [&](const Variable& v) { return v.name == name; }) ||
           std::any_of(sweep.outcomes.begin(), sweep.outcomes.end(),
                       [&](const SweepOutcome& o) { return o.name == name; });
  };
  std::string out = plain;
  for (int n = 2; taken(out); ++n) out = fmt::format("{}_{}", plain, n);
  return out;
}

std::vector<VariableOffer> variableOffers(const Project& p) {
  std::vector<VariableOffer> out;
  const auto offer = [&](const std::string& who, const char* what, const std::string& at, VaryRange range) {
    Variable v;
    v.name = freshColumn({}, who + " " + what);
    v.at = {at};
    v.range = range;
    out.push_back({who + ": " + what, std::move(v)});
  };
  const auto choose = [&](const std::string& words, const std::string& name, const std::string& at,
                          std::vector<VaryValue> values) {
    if (values.size() < 2) return;
    Variable v;
    v.name = freshColumn({}, name);
    v.at = {at};
    v.values = std::move(values);
    out.push_back({words, std::move(v)});
  };
  std::vector<VaryValue> glasses;
  for (const Glazing& g : p.glazings) glasses.emplace_back(g.name);
  for (const Glazing& g : libraryGlazings())
    if (std::none_of(glasses.begin(), glasses.end(), [&](const VaryValue& x) { return valueText(x) == g.name; }))
      glasses.emplace_back(g.name);
  for (const WindowRule& w : p.windowRules) {
    const std::string at = "window-rules/" + w.id.text();
    if (w.kind == WindowRule::Kind::Ratio) offer(w.name, "share of glass", at + "/ratio", {0.2, 0.6, 0.1});
    if (!w.ceiling) {
      offer(w.name, "sill", at + "/sill", {0.3, 1.2, 0.3});
      if (w.kind != WindowRule::Kind::Ratio) offer(w.name, "head", at + "/head", {2.1, 2.7, 0.2});
    }
    choose(w.name + ": glazing", w.name + " glazing", at + "/glazing", glasses);
  }
  for (const Opening& o : p.openings) {
    const std::string at = "openings/" + o.id.text();
    offer(o.name, "width", at + "/width", {0.6, 2.4, 0.3});
    if (o.edge >= 0) offer(o.name, "sill", at + "/sill", {0.3, 1.2, 0.3});
    choose(o.name + ": glazing", o.name + " glazing", at + "/glazing", glasses);
  }
  for (const ShadeRule& s : p.shadeRules) {
    const std::string at = "shading/" + s.id.text();
    if (s.kind != ShadeRule::Kind::Screen)
      offer(s.name, "depth", at + "/depth", {0, std::max(1.2, 2 * s.depth), s.isBladed() ? 0.05 : 0.2});
    if (s.kind == ShadeRule::Kind::Fins) offer(s.name, "count", at + "/count", {2, 6, 1});
    if (s.isBladed()) offer(s.name, "spacing", at + "/spacing", {0.1, 0.5, 0.1});
    if (s.kind == ShadeRule::Kind::Overhang || s.kind == ShadeRule::Kind::Fins || s.isBladed())
      offer(s.name, "angle", at + "/angle", {-30, 30, 15});
    if (s.kind == ShadeRule::Kind::Screen) offer(s.name, "openness", at + "/openness", {10, 50, 10});
  }
  bool anyProposed = false;
  for (const ElementPtr& e : p.elements) {
    anyProposed |= e->proposed;
    if (const Mass* m = e->mass(); m && e->proposed)
      offer(nameOf(*e), "height", "elements/" + e->id.text() + "/mass/height",
            {std::max(2.5, std::round(0.7 * m->height)), std::round(1.3 * m->height) + 1, 1});
  }
  if (anyProposed) {
    offer("The proposal", "bearing", "proposal/bearing", {-45, 45, 15});
    offer("The proposal", "east", "proposal/east", {-6, 6, 3});
    offer("The proposal", "north", "proposal/north", {-6, 6, 3});
  }
  for (const Room& r : p.rooms) offer(r.name, "height", "rooms/" + r.id.text() + "/height", {2.6, 3.4, 0.2});
  std::vector<VaryValue> options;
  for (const Option& o : p.options) options.emplace_back(o.name);
  choose("The option", "design", "option", options);
  for (const Study& s : p.studies)
    if (s.kind == StudyKind::Year || s.kind == StudyKind::Energy)
      choose(s.name + ": blinds", "blinds", "studies/" + s.id.text() + "/blinds",
             {std::string("standard"), std::string("never"), std::string("always")});
  return out;
}

std::vector<VariableOffer> variableOffersOf(const Project& p, const std::vector<ElementId>& selected,
                                            OpeningId opening) {
  std::set<std::string> meant; // second step of a place
  std::set<RoomId> rooms;
  bool proposed = false;
  for (const ElementId id : selected) {
    meant.insert(id.text());
    const ElementPtr e = p.element(id);
    proposed |= e && e->proposed;
    const Mass* m = e ? e->mass() : nullptr;
    for (const Room& r : p.rooms)
      if (m && contains(m->outline, pointInside(r.outline)) && r.floor > m->base - 0.5 && r.floor < m->base + m->height)
        rooms.insert(r.id);
  }
  std::set<OpeningId> windows;
  if (opening.value != 0) windows.insert(opening);
  for (const Opening& o : p.openings)
    if (rooms.contains(o.room)) windows.insert(o.id);
  std::set<RoomId> lit = rooms;
  for (const Opening& o : p.openings)
    if (o.id == opening) lit.insert(o.room);
  const auto any = [](const auto& list, const auto& among) {
    return list.empty() ? !among.empty()
                        : std::any_of(list.begin(), list.end(), [&](const auto& id) { return among.contains(id); });
  };
  for (const RoomId id : rooms) meant.insert(id.text());
  for (const OpeningId id : windows) meant.insert(id.text());
  for (const WindowRule& w : p.windowRules)
    if (any(w.rooms, rooms)) meant.insert(w.id.text());
  for (const ShadeRule& s : p.shadeRules)
    if (s.windows.empty() ? any(s.rooms, lit) : any(s.windows, windows)) meant.insert(s.id.text());
  std::vector<VariableOffer> out;
  for (VariableOffer& o : variableOffers(p)) {
    const std::string& at = o.variable.at.front();
    const auto first = at.find('/'), second = at.find('/', first + 1);
    const std::string who = first == at.npos ? "" : at.substr(first + 1, second - first - 1);
    if (meant.contains(who) || (proposed && at.starts_with("proposal/"))) out.push_back(std::move(o));
  }
  return out;
}

std::vector<OutcomeOffer> outcomeOffers(const Project& p, const YardstickShelf& shelf) {
  std::vector<OutcomeOffer> out;
  const auto offer = [&](const std::string& words, SweepOutcome o) {
    Sweep one;
    one.outcomes = {o};
    one.variables.resize(1);
    if (const auto units = outcomeUnits(p, one, shelf))
      out.push_back({units->front().empty() ? words : words + ", " + units->front(), std::move(o)});
  };
  using Of = SweepOutcome::Of;
  const auto study = [&](const Study& s, const char* figure, const char* words) {
    offer(s.name + ": " + words,
          {std::string(words) == "mean" || std::string(words) == "share" ? s.name + " " + words : words, Of::Study,
           s.id.text(), figure, ""});
  };
  for (const Study& s : p.studies) {
    if (s.kind == StudyKind::Year) {
      study(s, "sda", "sDA");
      study(s, "ase", "ASE");
      study(s, "mean", "mean illuminance");
      study(s, "useful", "UDI");
    } else if (s.kind == StudyKind::Energy) {
      study(s, "demand", "energy demand");
      study(s, "heating", "heating");
      study(s, "cooling", "cooling");
      study(s, "lighting", "lighting");
    } else {
      study(s, "mean", "mean");
      study(s, "share", "share");
    }
  }
  for (const Judgement& j : p.judgements)
    if (const Yardstick* y = shelf.find(j.yardstick)) {
      offer(y->title + ": figure", {y->title, Of::Rule, j.id.text(), "figure", ""});
      offer(y->title + ": points", {y->title + " points", Of::Rule, j.id.text(), "points", ""});
      offer(y->title + ": meets, 1 or 0", {y->title + " met", Of::Rule, j.id.text(), "meets", ""});
    }
  for (const ModelFigure& m : modelFigures) {
    std::string name = m.key;
    std::replace(name.begin(), name.end(), '-', ' ');
    offer("Model: " + std::string(m.words), {name, Of::Model, "", m.key, ""});
  }
  return out;
}

} // namespace noonward
