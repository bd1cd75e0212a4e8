#include "core/model/mending/check_size.h"
#include "core/base/words.h"
#include "core/model/form/edit.h"
#include "core/model/form/role_guess.h"
#include <algorithm>
#include <charconv>
#include <cmath>
#include <fmt/format.h>
#include <map>
#include <span>

namespace noonward {

namespace {

constexpr const char* doors[] = {"door",  "doors",  "türen", "tuer", "tür", "innentür", "haustür",
                                 "porte", "puerta", "porta", "deur", "dør", "dörr",     "drzwi"};
constexpr const char* furniture[] = {
    "chair",      "stuhl",    "chaise",  "silla",   "sedia",     "stoel",  "stol",         "krzesło",
    "table",      "tisch",    "mesa",    "tavolo",  "tafel",     "desk",   "schreibtisch", "bureau",
    "escritorio", "sofa",     "couch",   "bed",     "bett",      "basin",  "washbasin",    "waschbecken",
    "lavabo",     "sink",     "spüle",   "bathtub", "badewanne", "toilet", "wc",           "shelf",
    "regal",      "cupboard", "schrank", "armoire", "fridge",    "oven"};
constexpr const char* windows[] = {"window",   "fenster", "fenêtre", "fenetre", "ventana",
                                   "finestra", "raam",    "vindue",  "fönster", "okno"};

/// What a thing of this kind measures, m.
struct Kind {
  const char* name;   ///< "doors"
  const char* usual;  ///< "about 2 m high"
  bool height;        ///< its height, else its longest side
  bool alone;         ///< one of them tells; of the others a layer may be one mesh as high as the house
  double least, most; ///< beyond these no such thing is
  double middle;      ///< what most of them are about
  std::span<const char* const> words;
};
constexpr Kind kinds[] = {{"doors", "about 2 m high", true, true, 1.2, 5, 2.1, doors},
                          {"pieces of furniture", "0.3 to 3 m long", false, true, 0.1, 8, 1.1, furniture},
                          {"windows", "0.5 to 3 m high", true, false, 0.15, 15, 1.4, windows}};

struct Unit {
  double factor;
  const char* text;
};
/// What the numbers may be in, where they were taken for metres, and the other way.
constexpr Unit units[] = {{0.001, "millimetres"}, {0.01, "centimetres"}, {0.0254, "inches"}, {0.3048, "feet"}};
constexpr Unit wrongly[] = {{1000, "millimetres"}, {100, "centimetres"}, {1 / 0.0254, "inches"}, {1 / 0.3048, "feet"}};

double medianOf(std::vector<double> v) {
  std::nth_element(v.begin(), v.begin() + std::ptrdiff_t(v.size() / 2), v.end());
  return v[v.size() / 2];
}

std::string metres(double m) {
  return m >= 100    ? fmt::format("{:.0f} m", m)
         : m >= 1    ? fmt::format("{:.1f} m", m)
         : m >= 0.01 ? fmt::format("{:.0f} cm", 100 * m)
                     : fmt::format("{:.2g} mm", 1000 * m);
}

/// What is odd about a file's sizes, and what they should be times.
struct Odd {
  std::string text;
  double factor = 0; ///< wanted, about; 0: nothing is odd
};

struct Part {
  const Element* element;
  Box3 box;
};

/// m. Of the largest piece of a part that hangs together: a layer may be one mesh with all doors of a house.
double largestPiece(const Element& e, bool height) {
  const auto mesh = elementMesh(e);
  if (!mesh) return 0;
  const std::vector<std::uint32_t> piece = piecesOf(**mesh);
  std::map<std::uint32_t, Box3> boxes;
  for (std::size_t t = 0; t < piece.size(); ++t)
    for (std::uint32_t v : (*mesh)->triangles[t]) boxes[piece[t]].add((*mesh)->points[v]);
  double out = 0;
  for (const auto& [n, b] : boxes)
    out = std::max(out, height ? b.size().z : std::max({b.size().x, b.size().y, b.size().z}));
  return out;
}

/// The first kind of thing that tells: doors before furniture before windows.
Odd oddThings(const std::vector<Part>& parts) {
  constexpr std::size_t asked = 2000; // of many parts, evenly: enough to tell
  std::vector<std::pair<std::string, const Part*>> named;
  for (std::size_t i = 0; i < parts.size(); i += 1 + parts.size() / asked)
    named.emplace_back(smallLetters(parts[i].element->layer + " " + parts[i].element->name), &parts[i]);
  for (const Kind& k : kinds) {
    std::vector<double> sizes;
    for (const auto& [text, part] : named) {
      if (std::none_of(k.words.begin(), k.words.end(), [&, &text = text](const char* w) { return saysWord(text, w); }))
        continue;
      const Vec3 s = part->box.size();
      double size = k.height ? s.z : std::max({s.x, s.y, s.z});
      if (size > k.most) size = largestPiece(*part->element, k.height);
      if (size > 0) sizes.push_back(size);
    }
    if (sizes.empty()) continue;
    const double middle = medianOf(sizes);
    const bool one = sizes.size() < 3 && !k.alone; // only its being small tells then
    if (middle < k.least || (middle > k.most && !one))
      return {fmt::format("{} {} {} in the middle, and are {}", k.name, k.height ? "stand" : "are",
                          metres(middle) + (k.height ? " high" : " long"), k.usual),
              k.middle / middle};
    if (!one) return {}; // they tell that all is well
  }
  return {};
}

Odd oddWhole(const std::vector<Part>& parts) {
  Box3 box;
  double high = 0, wide = 0; // of the largest part: one that was left lying far off says nothing of the others
  std::size_t triangles = 0;
  for (const auto& [e, b] : parts) {
    if (e->role == Role::Ground) continue;
    const Vec3 s = b.size();
    box.addBox(b);
    high = std::max(high, s.z);
    wide = std::max({wide, s.x, s.y});
    triangles += e->imported() && e->imported()->mesh ? e->imported()->mesh->triangles.size() : 20;
  }
  if (box.empty()) return {};
  const double whole = std::max(box.size().x, box.size().y);
  if (high > 500) return {fmt::format("it is {} high", metres(high)), 10 / high};
  if (parts.size() <= 40 && wide > 800) return {fmt::format("a part of it is {} long", metres(wide)), 20 / wide};
  if (triangles >= 20 && whole > 0 && whole < 2)
    return {fmt::format("all of it is {} wide", metres(whole)), 15 / whole};
  return {};
}

} // namespace

std::optional<double> factorOf(const std::string& mend) {
  const auto colon = mend.rfind(':');
  if (colon == mend.npos) return {};
  double v = 0;
  const auto [end, fault] = std::from_chars(mend.data() + colon + 1, mend.data() + mend.size(), v);
  if (fault != std::errc() || end != mend.data() + mend.size() || !(v > 0) || !std::isfinite(v)) return {};
  return v;
}

std::vector<MendWay> unitWays(const std::string& mend, double largest) {
  std::vector<MendWay> out;
  for (const Unit& u : units)
    if (const double then = largest * u.factor; then >= 0.02)
      out.push_back(
          {fmt::format("{}:{}", mend, u.factor), fmt::format("Its numbers are {}: {} long", u.text, metres(then))});
  for (const Unit& u : wrongly)
    if (const double then = largest * u.factor; then <= 5000)
      out.push_back({fmt::format("{}:{}", mend, u.factor),
                     fmt::format("They are metres, not {}: {} long", u.text, metres(then))});
  return out;
}

void checkSizes(const Project& p, Findings& out) {
  std::map<std::string, std::vector<Part>> files;
  for (const ElementPtr& e : p.elements)
    if (!e->source.empty() && !e->ghost && e->layer != spacesLayer)
      if (const Box3 b = boxOf(*e); !b.empty()) files[e->source].push_back({e.get(), b});
  for (const auto& [file, parts] : files) {
    Odd odd = oddThings(parts);
    if (odd.factor == 0) odd = oddWhole(parts);
    if (odd.factor == 0) continue;
    Box3 box;
    for (const Part& part : parts) box.addBox(part.box);
    const Vec3 s = box.size();
    Finding f{Rank::BendsResult,
              "model.size",
              fmt::format("\"{}\": {}. Are its units right?", file, odd.text),
              1,
              {},
              "",
              ""};
    for (const Part& part : parts) f.elements.push_back(part.element->id.value);
    f.ways = unitWays("model.unit", std::max({s.x, s.y, s.z}));
    // What comes nearest to what such things are goes first.
    std::stable_sort(f.ways.begin(), f.ways.end(), [&](const MendWay& a, const MendWay& b) {
      return std::abs(std::log(*factorOf(a.mend) / odd.factor)) < std::abs(std::log(*factorOf(b.mend) / odd.factor));
    });
    std::erase_if(f.ways, [&](const MendWay& w) { return std::abs(std::log10(*factorOf(w.mend) / odd.factor)) > 1.6; });
    if (!f.ways.empty()) {
      f.mend = f.ways.front().mend;
      f.mendText = f.ways.front().text;
      f.ways.erase(f.ways.begin());
    }
    out.push_back(std::move(f));
  }
}

} // namespace noonward
