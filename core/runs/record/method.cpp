#include "core/runs/record/record.h"

namespace noonward {

std::string methodText(StudyKind kind) {
  switch (kind) {
  case StudyKind::SunHours:
    return "Rays to the sun's centre at its true position (ERFA); times of sun and shade by bisection to a second "
           "unless "
           "the rule asks for steps. The sun counts while it is in front of the surface and above the lowest altitude. "
           "No numerical error.";
  case StudyKind::DaylightFactor:
    return "Paths from every sensor under the CIE overcast sky, interreflections until less than a thousandth remains; "
           "100 % is the unobstructed horizontal outdoors.";
  case StudyKind::Illuminance:
    return "Paths from every sensor under the sky chosen, the sun's disc at its true position, interreflections until "
           "less than a thousandth remains.";
  case StudyKind::SkyView:
    return "Share of the surface's own hemisphere in which sky is seen, weighted by the cosine; an upright surface "
           "with "
           "nothing in the way has 50 %.";
  case StudyKind::Vsc:
    return "Light of the CIE overcast sky on the outer plane of the receiver, over that on the unobstructed "
           "horizontal; "
           "no reflections; 39.6 % with nothing in the way.";
  case StudyKind::SunlightYear:
  case StudyKind::SunlightWinter:
    return "Probable sunlight: hours in which the sun shines, by the weather year (120 W/m² of beam or more) or by a "
           "table of months, and reaches the receiver, in % of the year's unobstructed total; winter is 21 September "
           "to "
           "21 March.";
  case StudyKind::Year:
    return "Daylight coefficients by paths from every sensor, kept apart by group of windows and by 577 patches of "
           "the sky; interreflections until less than a thousandth remains, light between a room's surfaces "
           "remembered on patches of 0.6 m. "
           "The beam is traced to the true position of the sun in the middle of every hour with sun. sDA and ASE as "
           "in IES LM-83-12; a room's figure weighs its sensors by the area of their cells, the building's weighs "
           "rooms by their floor.";
  case StudyKind::Glare:
    return "Daylight glare probability (Wienold and Christoffersen 2006) in every hour of the schedule: illuminance at "
           "the eye over the whole hemisphere and glare sources among 3072 directions a hemisphere; surfaces by "
           "daylight coefficients and traced beam, the sun's disc through glass, blinds worked hour by hour.";
  case StudyKind::ViewOut:
    return "View out by EN 17037: 7440 looks from each point through clear glass; horizontal sight angle of all "
           "openings together, median outside distance, layers of sky, landscape and ground.";
  case StudyKind::Energy:
    return "Simple hourly method of ISO 13790 (annex C): one capacity and five resistances a room; the sun through "
           "glass from the same sky, beam and shade as light, times g over the visible transmittance; lighting owing "
           "to daylight; blinds worked hour by hour. A design aid, no certificate.";
  case StudyKind::NoSkyLine:
    return "Whether any sky is seen from each point of the working plane through the windows; a room's figure weighs "
           "points by the area of their cells.";
  case StudyKind::Irradiation:
    return "Energy from the same sky and sun as light: the all-weather sky of Perez et al. 1993 on the diffuse "
           "irradiance of every hour, the beam at its true position, interreflections until less than a thousandth "
           "remains.";
  }
  return {};
}

} // namespace noonward
