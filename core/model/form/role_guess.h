#pragma once
// What an imported part may be, from what it is called, what it is made of and how it lies. A guess with its reason and
// how sure it is; whoever shows it lets it be corrected.

#include "core/model/project.h"

namespace noonward {

struct RoleHint {
  std::string name, layer;
  double transparency = 0;    ///< 0…1, of the material
  const Mesh* mesh = nullptr; ///< local metres; null for outlines
  std::size_t parts = 1;      ///< of the whole model
  std::string material = {};  ///< its name
};
struct RoleGuess {
  Role role = Role::Neighbour;
  double sure = 0; ///< 0…1: a word of a layer's name 0.9, of a name 0.8, glass by its material 0.8, shape alone 0.4 to
                   ///< 0.6, nothing 0
  std::string why; ///< "its layer says \"glazing\"", "flat and wide"
};
/// `fallback`: where nothing says anything. Words of English, German, French, Spanish, Italian, Dutch, Danish, Swedish,
/// Polish.
RoleGuess guessRole(const RoleHint& hint, Role fallback);

/// With small letters, those with accents too.
std::string smallLetters(const std::string& text);
/// Does a text of small letters hold a word? Words of up to four letters count only where they stand alone.
bool saysWord(const std::string& text, const std::string& word);

} // namespace noonward
