#include "core/model/form/role_guess.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

struct Word {
  const char* text; ///< lower case, as asciiLower() leaves it
  Role role;
};
// The longest word that is found wins; words of up to four letters only as whole words.
constexpr Word words[] = {{"curtain wall", Role::Glazing},
                          {"ground floor", Role::Floor},
                          {"glass", Role::Glazing},
                          {"glazing", Role::Glazing},
                          {"glaz", Role::Glazing},
                          {"window", Role::Glazing},
                          {"fenster", Role::Glazing},
                          {"glas", Role::Glazing},
                          {"verglasung", Role::Glazing},
                          {"vitrage", Role::Glazing},
                          {"fenetre", Role::Glazing},
                          {"fenêtre", Role::Glazing},
                          {"ventana", Role::Glazing},
                          {"vidrio", Role::Glazing},
                          {"finestra", Role::Glazing},
                          {"vetro", Role::Glazing},
                          {"raam", Role::Glazing},
                          {"vindue", Role::Glazing},
                          {"fönster", Role::Glazing},
                          {"okno", Role::Glazing},
                          {"okna", Role::Glazing},
                          {"skylight", Role::Glazing},
                          {"rooflight", Role::Glazing},
                          {"oberlicht", Role::Glazing},
                          {"pane", Role::Glazing},
                          {"door", Role::Wall},
                          {"doors", Role::Wall},
                          {"tür", Role::Wall},
                          {"tuer", Role::Wall},
                          {"türen", Role::Wall},
                          {"porte", Role::Wall},
                          {"puerta", Role::Wall},
                          {"porta", Role::Wall},
                          {"deur", Role::Wall},
                          {"dør", Role::Wall},
                          {"dörr", Role::Wall},
                          {"drzwi", Role::Wall},
                          {"wall", Role::Wall},
                          {"walls", Role::Wall},
                          {"wand", Role::Wall},
                          {"waende", Role::Wall},
                          {"wände", Role::Wall},
                          {"aussenwand", Role::Wall},
                          {"mur", Role::Wall},
                          {"murs", Role::Wall},
                          {"muro", Role::Wall},
                          {"muros", Role::Wall},
                          {"parete", Role::Wall},
                          {"muur", Role::Wall},
                          {"vaeg", Role::Wall},
                          {"væg", Role::Wall},
                          {"vägg", Role::Wall},
                          {"sciana", Role::Wall},
                          {"ściana", Role::Wall},
                          {"facade", Role::Wall},
                          {"façade", Role::Wall},
                          {"fassade", Role::Wall},
                          {"partition", Role::Partition},
                          {"innenwand", Role::Partition},
                          {"trennwand", Role::Partition},
                          {"cloison", Role::Partition},
                          {"tabique", Role::Partition},
                          {"interior wall", Role::Partition},
                          {"inner wall", Role::Partition},
                          {"skillevaeg", Role::Partition},
                          {"roof", Role::Roof},
                          {"dach", Role::Roof},
                          {"toit", Role::Roof},
                          {"toiture", Role::Roof},
                          {"tejado", Role::Roof},
                          {"cubierta", Role::Roof},
                          {"tetto", Role::Roof},
                          {"dak", Role::Roof},
                          {"tak", Role::Roof},
                          {"dachy", Role::Roof},
                          {"floor", Role::Floor},
                          {"slab", Role::Floor},
                          {"boden", Role::Floor},
                          {"fussboden", Role::Floor},
                          {"plancher", Role::Floor},
                          {"dalle", Role::Floor},
                          {"suelo", Role::Floor},
                          {"losa", Role::Floor},
                          {"pavimento", Role::Floor},
                          {"vloer", Role::Floor},
                          {"gulv", Role::Floor},
                          {"golv", Role::Floor},
                          {"podloga", Role::Floor},
                          {"podłoga", Role::Floor},
                          {"ceiling", Role::Ceiling},
                          {"decke", Role::Ceiling},
                          {"plafond", Role::Ceiling},
                          {"techo", Role::Ceiling},
                          {"soffitto", Role::Ceiling},
                          {"sufit", Role::Ceiling},
                          {"ground", Role::Ground},
                          {"site", Role::Ground},
                          {"grundstück", Role::Ground},
                          {"parcel", Role::Ground},
                          {"landscape", Role::Ground},
                          {"terrain", Role::Ground},
                          {"topography", Role::Ground},
                          {"topo", Role::Ground},
                          {"gelaende", Role::Ground},
                          {"gelände", Role::Ground},
                          {"sol", Role::Ground},
                          {"terreno", Role::Ground},
                          {"terrein", Role::Ground},
                          {"terraen", Role::Ground},
                          {"terræn", Role::Ground},
                          {"teren", Role::Ground},
                          {"road", Role::Ground},
                          {"street", Role::Ground},
                          {"strasse", Role::Ground},
                          {"paving", Role::Ground},
                          {"shade", Role::Shading},
                          {"shading", Role::Shading},
                          {"louvre", Role::Shading},
                          {"louver", Role::Shading},
                          {"fin", Role::Shading},
                          {"fins", Role::Shading},
                          {"overhang", Role::Shading},
                          {"awning", Role::Shading},
                          {"balcony", Role::Shading},
                          {"balkon", Role::Shading},
                          {"canopy", Role::Shading},
                          {"lamelle", Role::Shading},
                          {"lamellen", Role::Shading},
                          {"sonnenschutz", Role::Shading},
                          {"brise", Role::Shading},
                          {"casquette", Role::Shading},
                          {"alero", Role::Shading},
                          {"sunscreen", Role::Shading},
                          {"zonwering", Role::Shading},
                          {"solafskaermning", Role::Shading},
                          {"markise", Role::Shading},
                          {"tree", Role::Planting},
                          {"trees", Role::Planting},
                          {"planting", Role::Planting},
                          {"vegetation", Role::Planting},
                          {"plant", Role::Planting},
                          {"plants", Role::Planting},
                          {"baum", Role::Planting},
                          {"bäume", Role::Planting},
                          {"baeume", Role::Planting},
                          {"arbre", Role::Planting},
                          {"arbol", Role::Planting},
                          {"árbol", Role::Planting},
                          {"albero", Role::Planting},
                          {"alberi", Role::Planting},
                          {"boom", Role::Planting},
                          {"bomen", Role::Planting},
                          {"trae", Role::Planting},
                          {"træ", Role::Planting},
                          {"träd", Role::Planting},
                          {"drzewo", Role::Planting},
                          {"hedge", Role::Planting},
                          {"hecke", Role::Planting},
                          {"context", Role::Neighbour},
                          {"neighbour", Role::Neighbour},
                          {"neighbor", Role::Neighbour},
                          {"surroundings", Role::Neighbour},
                          {"umgebung", Role::Neighbour},
                          {"nachbar", Role::Neighbour},
                          {"voisin", Role::Neighbour},
                          {"entorno", Role::Neighbour},
                          {"contesto", Role::Neighbour},
                          {"omgeving", Role::Neighbour},
                          {"nabo", Role::Neighbour},
                          {"granne", Role::Neighbour},
                          {"existing", Role::Neighbour},
                          {"furniture", Role::Ignore},
                          {"moebel", Role::Ignore},
                          {"möbel", Role::Ignore},
                          {"mobilier", Role::Ignore},
                          {"mobiliario", Role::Ignore},
                          {"muebles", Role::Ignore},
                          {"arredi", Role::Ignore},
                          {"meubilair", Role::Ignore},
                          {"moebler", Role::Ignore},
                          {"møbler", Role::Ignore},
                          {"meble", Role::Ignore},
                          {"people", Role::Ignore},
                          {"entourage", Role::Ignore},
                          {"annotation", Role::Ignore},
                          {"dimensions", Role::Ignore},
                          {"cars", Role::Ignore}};
} // namespace

std::string smallLetters(const std::string& s) {
  std::string out = s;
  for (std::size_t i = 0; i < out.size(); ++i) {
    const auto c = static_cast<unsigned char>(out[i]);
    if (c < 128)
      out[i] = char(std::tolower(c));
    else if (c == 0xC3 && i + 1 < out.size()) { // Latin capitals with accents: À…Þ lie 32 below their small ones
      const auto d = static_cast<unsigned char>(out[i + 1]);
      if (d >= 0x80 && d <= 0x9E && d != 0x97) out[i + 1] = char(d + 0x20);
      ++i;
    }
  }
  return out;
}

namespace {
bool letter(char c) {
  return std::isalpha(static_cast<unsigned char>(c)) || static_cast<unsigned char>(c) >= 128;
}
} // namespace

bool saysWord(const std::string& text, const std::string& word) {
  for (std::size_t at = text.find(word); at != std::string::npos; at = text.find(word, at + 1)) {
    const bool opens = at == 0 || !letter(text[at - 1]),
               closes = at + word.size() == text.size() || !letter(text[at + word.size()]);
    // In one-word languages the thing itself stands last ("Innenwand", "Dachfenster"), and a plural may follow.
    if (word.size() > 4 || (opens && closes)) return true;
  }
  return false;
}

namespace {
const Word* found(const std::string& text) {
  const std::string t = smallLetters(text);
  const Word* best = nullptr;
  for (const Word& w : words)
    if (saysWord(t, w.text) && (!best || std::string_view(w.text).size() > std::string_view(best->text).size()))
      best = &w;
  return best;
}
} // namespace

RoleGuess guessRole(const RoleHint& h, Role fallback) {
  if (const Word* w = h.layer.empty() ? nullptr : found(h.layer))
    return {w->role, 0.9, fmt::format("its layer says \"{}\"", w->text)};
  if (const Word* w = found(h.name)) return {w->role, 0.8, fmt::format("its name says \"{}\"", w->text)};
  if (const Word* w = h.material.empty() ? nullptr : found(h.material))
    return {w->role, 0.7, fmt::format("its material says \"{}\"", w->text)};
  if (h.transparency > 0.15)
    return {Role::Glazing, 0.8, fmt::format("its material is {:.0f} % transparent", 100 * h.transparency)};
  if (h.mesh && !h.mesh->triangles.empty()) {
    const Box3 box = h.mesh->box();
    const Vec3 s = box.size();
    const double wide = std::max(s.x, s.y), narrow = std::min(s.x, s.y);
    double up = 0, all = 0;
    for (std::size_t t = 0; t < h.mesh->triangles.size(); ++t) {
      const Vec3 a = h.mesh->areaVector(t);
      all += length(a);
      up += std::abs(a.z);
    }
    if (all > 0 && up / all > 0.9 && wide > 60 && s.z < 0.15 * wide && h.parts > 1)
      return {Role::Ground, 0.6, "flat and wide"};
    if (narrow > 4 && s.z > 2.5 && std::abs(volume(*h.mesh)) > 0.3 * s.x * s.y * s.z)
      return {Role::Neighbour, 0.4, "a solid of a building's size"};
  }
  return {fallback, 0, "nothing says what it is"};
}

} // namespace noonward
