#pragma once
// What one may want to know of a place, in practitioners' words. A question lays what its answer needs (sensors, a
// study, the rule that usually goes with it) in one step, and says what it did.

#include "core/yardsticks/yardstick.h"
#include <array>

namespace noonward {

struct Question {
  const char* key;   ///< "sun-ground"
  const char* words; ///< "Sun on this ground"
  const char* help;  ///< one sentence: what it lays
};
inline constexpr std::array<Question, 9> questions{{
    {"sun-ground", "Sun on this ground",
     "Hours of direct sun on the areas that are drawn, or on the ground around the masses"},
    {"sun-facades", "Sun on these facades", "Hours of direct sun on the walls of what is selected, or of all masses"},
    {"sun-windows", "Sun at these windows",
     "Sun at the middle of each window: APSH and WPSH where there is a weather year, hours on 21 March else"},
    {"sun-energy", "Sun energy on these roofs",
     "Irradiation of the weather year on the roofs of what is selected, proposed, or there: where panels pay"},
    {"room-daylight", "Daylight in these rooms",
     "Daylight factor on the working plane of regularly occupied rooms, by the European provision"},
    {"room-year", "The daylight year",
     "sDA and ASE of regularly occupied rooms over the weather year, with the credit"},
    {"room-glare", "Glare at these desks",
     "Eyes in regularly occupied rooms, four lines of sight each, and DGP in every hour of the weather year"},
    {"room-view", "The view out of these rooms",
     "Sight angle, outside distance and layers by EN 17037 on a grid at the height of seated eyes"},
    {"room-energy", "What light costs in these rooms",
     "Heating, cooling and lighting of all rooms over the weather year, with their gains and losses by month"},
}};

struct Asked {
  Project project;
  StudyId study;
  std::string told; ///< "Laid: …" in a sentence or two
};

/// Lays the answer's needs; what an earlier asking laid is put right and not laid twice. `selected`: elements meant;
/// none: see each question. Fails where something is missing, and says what; `shelf` without the usual rule is no
/// fault.
Expected<Asked> ask(Project project, std::string_view question, const std::vector<ElementId>& selected,
                    const YardstickShelf& shelf);
/// The same for a rule to meet.
Expected<Asked> askRule(Project project, const Yardstick& rule, const std::vector<ElementId>& selected,
                        const YardstickShelf& shelf);

} // namespace noonward
