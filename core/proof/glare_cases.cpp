// Glare and view against closed forms: the formula by hand, the position index, uniform skies, the sun's disc, windows
// and walls by geometry.

#include "core/proof/light_cases.h"
#include "core/studies/fisheye.h"
#include "core/studies/view_out.h"
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

void formula(std::vector<ProofCase>& out) {
  const GlareSource s{20000, 0.05, {0, 1, 0}, 2, false};
  out.push_back({"DGP of 20 000 cd/m² in 0.05 sr at P = 2, Ev 3000 lx", "", 0.37377974935938874,
                 daylightGlareProbability(3000, std::vector{s}), 1e-7,
                 "Wienold and Christoffersen 2006, eq. 8, by hand"});
  const EyeFrame eye;
  const auto at = [](double right, double up) {
    const double a = radians(right), h = radians(up);
    return Vec3{std::sin(a) * std::cos(h), std::cos(a) * std::cos(h), std::sin(h)};
  };
  out.push_back({"position index 30° above the line of sight", "", std::exp(33.98e-3 * 30 + 21e-5 * 900),
                 positionIndex(at(0, 30), eye), 1e-9, "Guth"});
  out.push_back({"position index 20° below it", "", 1 + 0.8 * std::tan(radians(20)), positionIndex(at(0, -20), eye),
                 1e-9, "Iwata and Tokura"});
}

void pictures(std::vector<ProofCase>& out) {
  Project p;
  p.site.place = {radians(52), 0, 0};
  SkyChoice even;
  even.kind = SkyKind::Uniform;
  even.diffuse = 10000;
  RunControl control;
  FisheyeSettings s;
  s.eye = {0, 0, 2};
  s.pixels = 256;
  s.altitude = pi / 2;
  if (const auto f = fisheye(p, s, even, {}, control)) {
    out.push_back({"Ev of an eye that looks up at a uniform sky of 10 000 lx", "lx", 10000, f->glare.ev, 20, "E"});
    out.push_back({"its mean luminance", "cd/m²", 10000 / pi, f->glare.mean, 1, "E/π"});
  }
  s.altitude = 0;
  if (const auto f = fisheye(p, s, even, {}, control))
    out.push_back({"Ev of an eye that looks level, ground 0.2", "lx", 6000, f->glare.ev, 60, "E (1 + ρ)/2"});
  SkyChoice clear;
  clear.kind = SkyKind::CieGeneral;
  clear.sunAltitude = radians(30);
  clear.sunAzimuth = pi;
  clear.direct = 70000;
  s.azimuth = pi;
  if (const auto f = fisheye(p, s, clear, {}, control))
    out.push_back({"beam of the sun's disc as a source", "lx", 70000,
                   f->sun ? f->sun->luminance * f->sun->solidAngle : 0, 1, "Lω"});
}

void views(std::vector<ProofCase>& out) {
  BoxRoom b;
  b.windowX0 = 1;
  b.windowX1 = 3;
  b.windowZ0 = 0.8;
  b.windowZ1 = 2.4;
  b.glazed = true;
  Project p = boxProject(b, {});
  const auto seen = [&](Vec3 eye) { return viewOutOf(LightScene(*lightModel(p)), seenThings(p), eye); };
  out.push_back({"horizontal sight angle of a window 2 m wide from 2 m", "°", 2 * degrees(std::atan(0.5)),
                 degrees(seen({2, 2, 1.2}).angle), 1.5, "2 atan(w/2d)"});
  Element wall;
  wall.id = {9};
  wall.shape = Mass{rectangle(-200, -14, 200, -12), 0, 15, 1};
  p.elements.push_back(std::make_shared<const Element>(wall));
  out.push_back({"outside distance to a wall 12 m before the pane, median of the directions", "m",
                 12 / std::cos(std::atan(0.5) / 2), seen({2, 2, 1.2}).distance, 0.2, "d/cos(α/2)"});
}

} // namespace

std::vector<ProofCase> proveGlare() {
  std::vector<ProofCase> out;
  formula(out);
  pictures(out);
  views(out);
  return out;
}

} // namespace noonward
