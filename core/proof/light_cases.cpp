#include "core/proof/light_cases.h"
#include "core/light/glazing_optics.h"
#include <cmath>
#include <fmt/format.h>
#include <numeric>

namespace noonward {

double parallelCorner(double a, double b, double h) {
  const double x = a / h, y = b / h, p = std::sqrt(1 + x * x), q = std::sqrt(1 + y * y);
  return (x / p * std::atan(y / p) + y / q * std::atan(x / q)) / (2 * pi);
}

double uprightCorner(double b, double a, double c) {
  const double s = std::sqrt(a * a + c * c);
  return (std::atan(b / c) - c / s * std::atan(b / s)) / (2 * pi);
}

std::shared_ptr<const Weather> madeUpYear(const Place& place) {
  Weather w;
  w.city = "made up";
  w.place = place;
  for (int d = 0; d < 365; ++d)
    for (int h = 1; h <= 24; ++h) {
      const Date date = plusDays({2025, 1, 1}, d);
      WeatherHour hour;
      hour.year = 2025;
      hour.month = date.month;
      hour.day = date.day;
      hour.hour = h;
      hour.minute = 60;
      hour.values.fill(0);
      w.hours.push_back(hour);
    }
  finishWeather(w);
  const std::vector<HourSun> suns = hourSuns(w);
  for (std::size_t i = 0; i < w.hours.size(); ++i) {
    const double s = suns[i].up ? std::sin(suns[i].position.altitude) : 0;
    WeatherHour& h = w.hours[i];
    h[WeatherField::DewPoint] = 8;
    h[WeatherField::DirectNormal] = s > 0 && i / 24 % 3 > 0 ? 1000 * std::exp(-0.25 / std::max(s, 0.05)) : 0;
    h[WeatherField::DiffuseHorizontal] = s > 0 ? 20 + 180 * s : 0;
    h[WeatherField::GlobalHorizontal] = h[WeatherField::DirectNormal] * s + h[WeatherField::DiffuseHorizontal];
  }
  finishWeather(w);
  return std::make_shared<const Weather>(std::move(w));
}

double vscBehindEndless(double t) {
  return 3 / (7 * pi) * (pi / 2 * (1 - std::sin(t)) + 4.0 / 3 * std::cos(t) * std::cos(t));
}

namespace {

void quad(Mesh& m, Vec3 a, Vec3 b, Vec3 c, Vec3 d) {
  const auto n = std::uint32_t(m.points.size());
  m.points.insert(m.points.end(), {a, b, c, d});
  m.triangles.push_back({n, n + 1, n + 2});
  m.triangles.push_back({n, n + 2, n + 3});
}

/// A rectangle with a rectangular hole, as up to four pieces. at(u, v) gives the point.
template <class At>
void holed(Mesh& m, double u0, double v0, double u1, double v1, double a0, double b0, double a1, double b1, At&& at) {
  const auto piece = [&](double x0, double y0, double x1, double y1) {
    if (x1 > x0 && y1 > y0) quad(m, at(x0, y0), at(x1, y0), at(x1, y1), at(x0, y1));
  };
  if (!(a1 > a0 && b1 > b0)) return piece(u0, v0, u1, v1);
  piece(u0, v0, u1, b0);
  piece(u0, b1, u1, v1);
  piece(u0, b0, a0, b1);
  piece(a1, b0, u1, b1);
}

void put(Project& p, std::uint64_t id, Role role, Mesh mesh, const std::string& finish) {
  Element e;
  e.id = {id};
  e.name = roleName(role);
  e.role = role;
  e.finish = finish;
  auto shared = std::make_shared<const Mesh>(std::move(mesh));
  e.shape = Imported{shared, digestOf(*shared), {}, 0, 1};
  p.elements.push_back(std::make_shared<const Element>(std::move(e)));
}

} // namespace

Project boxProject(const BoxRoom& b, const std::vector<PointSensor>& sensors) {
  Project p;
  p.site.groundReflectance = 0;
  p.site.groundLevel = -50; // out of the way
  p.finishes = {{"f", b.floor}, {"w", b.walls}, {"c", b.ceiling}};
  p.glazings = {b.glazing};
  const Vec3 s = b.size;
  Mesh floor, walls, ceiling, glass;
  quad(floor, {0, 0, 0}, {s.x, 0, 0}, {s.x, s.y, 0}, {0, s.y, 0});
  holed(ceiling, 0, 0, s.x, s.y, b.roofX0, b.roofY0, b.roofX1, b.roofY1, [&](double u, double v) {
    return Vec3{u, v, s.z};
  });
  holed(walls, 0, 0, s.x, s.z, b.windowX0, b.windowZ0, b.windowX1, b.windowZ1, [&](double u, double v) {
    return Vec3{u, 0, v};
  });
  quad(walls, {s.x, 0, 0}, {s.x, s.y, 0}, {s.x, s.y, s.z}, {s.x, 0, s.z});
  quad(walls, {s.x, s.y, 0}, {0, s.y, 0}, {0, s.y, s.z}, {s.x, s.y, s.z});
  quad(walls, {0, s.y, 0}, {0, 0, 0}, {0, 0, s.z}, {0, s.y, s.z});
  put(p, 1, Role::Floor, std::move(floor), "f");
  put(p, 2, Role::Wall, std::move(walls), "w");
  put(p, 3, Role::Ceiling, std::move(ceiling), "c");
  if (b.glazed) {
    if (b.roofX1 > b.roofX0)
      quad(glass, {b.roofX0, b.roofY0, s.z}, {b.roofX1, b.roofY0, s.z}, {b.roofX1, b.roofY1, s.z},
           {b.roofX0, b.roofY1, s.z});
    if (b.windowX1 > b.windowX0)
      quad(glass, {b.windowX0, 0, b.windowZ0}, {b.windowX1, 0, b.windowZ0}, {b.windowX1, 0, b.windowZ1},
           {b.windowX0, 0, b.windowZ1});
    put(p, 4, Role::Glazing, std::move(glass), b.glazing.name);
  }
  SensorGroup g;
  g.id = {9};
  g.name = "S";
  g.layout = sensors;
  p.groups.push_back(std::move(g));
  return p;
}

Expected<LightResult> lightOf(const Project& p, StudyKind kind, double error, const SkyChoice& sky) {
  Study s;
  s.kind = kind;
  s.light.error = error;
  s.light.sky = sky;
  const auto in = lightInput(p, s);
  if (!in) return tl::unexpected(in.error());
  RunControl control;
  return runLight(*in, control);
}

double straightFactor(const BoxRoom& b, Vec3 at, const std::function<double(double)>& sky, double horizontal,
                      const std::function<double(double)>& glass) {
  const int n = 1500;
  double sum = 0;
  const auto over = [&](double u0, double u1, double v0, double v1, auto&& point, Vec3 normal) {
    const double cell = (u1 - u0) * (v1 - v0) / n / n;
    for (int i = 0; i < n; ++i)
      for (int j = 0; j < n; ++j) {
        const Vec3 d = point(u0 + (i + 0.5) * (u1 - u0) / n, v0 + (j + 0.5) * (v1 - v0) / n) - at;
        const double r = length(d), sine = d.z / r;
        if (sine <= 0) continue;
        const double facing = std::abs(dot(d, normal)) / r;
        sum += sky(sine) * glass(facing) * sine * facing / (r * r) * cell;
      }
  };
  if (b.roofX1 > b.roofX0)
    over(b.roofX0, b.roofX1, b.roofY0, b.roofY1, [&](double u, double v) { return Vec3{u, v, b.size.z}; }, {0, 0, 1});
  if (b.windowX1 > b.windowX0)
    over(b.windowX0, b.windowX1, b.windowZ0, b.windowZ1, [&](double u, double v) { return Vec3{u, 0, v}; }, {0, 1, 0});
  return 100 * sum / horizontal;
}

namespace {

struct Patch {
  std::array<Vec3, 4> corner;
  Vec3 middle, normal;
  double reflectance = 0;
  bool sky = false;
};

/// Exact factor from a point to a polygon in front of it (Lambert's contour sum); clipped at the point's own plane.
double contourFactor(Vec3 at, Vec3 n, const std::array<Vec3, 4>& corners) {
  std::vector<Vec3> ring;
  for (std::size_t i = 0; i < 4; ++i) {
    const Vec3 a = corners[i] - at, b = corners[(i + 1) % 4] - at;
    const double ha = dot(a, n), hb = dot(b, n);
    if (ha >= 0) ring.push_back(a);
    if ((ha > 0 && hb < 0) || (ha < 0 && hb > 0)) ring.push_back(a + (b - a) * (ha / (ha - hb)));
  }
  double sum = 0;
  for (std::size_t i = 0; i < ring.size(); ++i) {
    const Vec3 a = normalized(ring[i]), b = normalized(ring[(i + 1) % ring.size()]), c = cross(a, b);
    const double l = length(c);
    if (l > 1e-15) sum += std::atan2(l, dot(a, b)) * dot(n, c) / l;
  }
  return std::abs(sum) / (2 * pi);
}

} // namespace

double radiosityFactor(const BoxRoom& b, Vec3 at, Vec3 normal, int n) {
  std::vector<Patch> patches;
  const Vec3 s = b.size;
  const auto face = [&](Vec3 o, Vec3 u, Vec3 v, Vec3 inward, double reflectance, bool roof) {
    for (int i = 0; i < n; ++i)
      for (int j = 0; j < n; ++j) {
        const auto p = [&](double x, double y) { return o + u * (x / n) + v * (y / n); };
        Patch q{{p(i, j), p(i + 1, j), p(i + 1, j + 1), p(i, j + 1)}, p(i + 0.5, j + 0.5), inward, reflectance, false};
        q.sky =
            roof && q.middle.x > b.roofX0 && q.middle.x < b.roofX1 && q.middle.y > b.roofY0 && q.middle.y < b.roofY1;
        patches.push_back(q);
      }
  };
  face({0, 0, 0}, {s.x, 0, 0}, {0, s.y, 0}, {0, 0, 1}, b.floor, false);
  face({0, 0, s.z}, {s.x, 0, 0}, {0, s.y, 0}, {0, 0, -1}, b.ceiling, true);
  face({0, 0, 0}, {s.x, 0, 0}, {0, 0, s.z}, {0, 1, 0}, b.walls, false);
  face({0, s.y, 0}, {s.x, 0, 0}, {0, 0, s.z}, {0, -1, 0}, b.walls, false);
  face({0, 0, 0}, {0, s.y, 0}, {0, 0, s.z}, {1, 0, 0}, b.walls, false);
  face({s.x, 0, 0}, {0, s.y, 0}, {0, 0, s.z}, {-1, 0, 0}, b.walls, false);
  const std::size_t m = patches.size();
  std::vector<float> factors(m * m);
  for (std::size_t i = 0; i < m; ++i)
    for (std::size_t j = 0; j < m; ++j)
      if (i != j && dot(patches[i].normal, patches[j].middle - patches[i].middle) > 1e-9)
        factors[i * m + j] = float(contourFactor(patches[i].middle, patches[i].normal, patches[j].corner));
  // Radiosity B = sky, or ρ Σ F B; in units of the sky's own (100 %).
  std::vector<double> radiosity(m, 0);
  for (std::size_t i = 0; i < m; ++i) radiosity[i] = patches[i].sky ? 100 : 0;
  for (int round = 0; round < 200; ++round) {
    double most = 0;
    for (std::size_t i = 0; i < m; ++i) {
      if (patches[i].sky) continue;
      double sum = 0;
      for (std::size_t j = 0; j < m; ++j) sum += double(factors[i * m + j]) * radiosity[j];
      most = std::max(most, std::abs(patches[i].reflectance * sum - radiosity[i]));
      radiosity[i] = patches[i].reflectance * sum;
    }
    if (most < 1e-6) break;
  }
  double e = 0;
  for (const Patch& p : patches)
    if (dot(p.middle - at, normal) > 1e-9)
      e += contourFactor(at, normal, p.corner) * radiosity[std::size_t(&p - patches.data())];
  return e;
}

std::vector<ProofCase> proveLight() {
  std::vector<ProofCase> out;
  const auto overcast = [](double sine) { return (1 + 2 * sine) / 3; };
  const auto even = [](double) { return 1.0; };
  SkyChoice uniform;
  uniform.kind = SkyKind::Uniform;
  uniform.diffuse = 100;
  // Sky component under a roof opening and beside a window: black rooms, so that nothing is reflected.
  BoxRoom roof;
  roof.roofX0 = 1;
  roof.roofX1 = 3;
  roof.roofY0 = 1.5;
  roof.roofY1 = 2.5;
  BoxRoom window;
  window.size = {5, 6, 3};
  window.windowX0 = 1;
  window.windowX1 = 4;
  window.windowZ0 = 0.9;
  window.windowZ1 = 2.4;
  const Vec3 under{2, 2, 0.8}, beside{2.5, 2, 0.8};
  const double h = roof.size.z - under.z;
  const double roofFactor = 100 * 4 * parallelCorner(1, 0.5, h);
  const double c = beside.y, high = window.windowZ1 - beside.z, low = window.windowZ0 - beside.z;
  const double windowFactor = 100 * 2 * (uprightCorner(1.5, high, c) - uprightCorner(1.5, low, c));
  for (const bool glazed : {false, true}) {
    roof.glazed = window.glazed = glazed;
    const GlazingOptics optics(roof.glazing);
    const auto glass = [&](double cosine) { return glazed ? optics.straight(cosine) : 1.0; };
    const char* what = glazed ? ", double glazing" : "";
    const struct {
      const char* where;
      const BoxRoom* box;
      Vec3 at;
      double closed;
    } cases[] = {{"under a roof opening", &roof, under, roofFactor},
                 {"beside a window", &window, beside, windowFactor}};
    for (const auto& k : cases) {
      const Project p = boxProject(*k.box, {{k.at, {0, 0, 1}, ""}});
      const auto a = lightOf(p, StudyKind::Illuminance, 0.0005, uniform);
      const double expected = glazed ? straightFactor(*k.box, k.at, even, pi, glass) : k.closed;
      out.push_back({fmt::format("sky component {}, uniform sky{}", k.where, what), "%", expected,
                     a ? a->value[0] : NAN, 0.2,
                     glazed ? "fine sum over the opening" : "configuration factor (Howell B-3, B-4)"});
      const auto o = lightOf(p, StudyKind::DaylightFactor, 0.0005);
      out.push_back({fmt::format("sky component {}, CIE overcast sky{}", k.where, what), "%",
                     straightFactor(*k.box, k.at, overcast, 7 * pi / 9, glass), o ? o->value[0] : NAN, 0.2,
                     "fine sum over the opening"});
    }
  }
  // VSC behind an endless obstruction; a canyon.
  for (const double angle : {0.0, 10.0, 25.0, 45.0, 65.0}) {
    Project p;
    if (angle > 0) {
      Element e;
      e.id = {1};
      e.name = "Obstruction";
      e.shape = Mass{rectangle(-2000, -22, 2000, -20), -1, 1 + 20 * std::tan(radians(angle)), 1};
      p.elements.push_back(std::make_shared<const Element>(e));
    }
    SensorGroup g;
    g.id = {9};
    g.layout = std::vector<PointSensor>{{{0, 0, 0}, {0, -1, 0}, ""}};
    p.groups.push_back(g);
    const auto r = lightOf(p, StudyKind::Vsc, 0.01);
    out.push_back({fmt::format("VSC behind an endless obstruction of {:.0f}°", angle), "%",
                   100 * vscBehindEndless(radians(angle)), r ? r->value[0] : NAN, 0.2,
                   "3/(7π)(π/2(1−sin θ)+4/3 cos²θ)"});
  }
  for (const double tall : {5.0, 10.0, 20.0}) {
    Project p;
    for (const double side : {-1.0, 1.0}) {
      Element e;
      e.id = {std::uint64_t(5 + side)};
      e.name = "Side";
      e.shape = Mass{rectangle(side < 0 ? -12 : 10, -2000, side < 0 ? -10 : 12, 2000), -1, tall + 1, 1};
      p.elements.push_back(std::make_shared<const Element>(e));
    }
    SensorGroup g;
    g.id = {9};
    g.layout = std::vector<PointSensor>{{{0, 0, 0}, {0, 0, 1}, ""}};
    p.groups.push_back(g);
    const auto r = lightOf(p, StudyKind::SkyView, 0.01);
    out.push_back({fmt::format("sky view factor in a canyon 20 m wide, {:.0f} m high", tall), "%",
                   100 / std::hypot(1, tall / 10), r ? r->value[0] : NAN, 0.2, "cos atan(2 h / w)"});
  }
  // A closed box with one roof opening: interreflection against radiosity.
  BoxRoom box;
  box.size = {4, 4, 3};
  box.roofX0 = box.roofY0 = 4.0 / 3;
  box.roofX1 = box.roofY1 = 8.0 / 3;
  box.floor = 0.3;
  box.walls = 0.6;
  box.ceiling = 0.8;
  box.glazed = true; // an opening without glass, so that paths can aim at it
  box.glazing = {"Open", 1, 0};
  const std::pair<const char*, PointSensor> spots[] = {{"floor", {{1, 1, 0}, {0, 0, 1}, ""}},
                                                       {"wall", {{4, 2, 1}, {-1, 0, 0}, ""}},
                                                       {"ceiling", {{0.7, 2, 3}, {0, 0, -1}, ""}}};
  std::vector<PointSensor> sensors;
  for (const auto& s : spots) sensors.push_back(s.second);
  const auto r = lightOf(boxProject(box, sensors), StudyKind::Illuminance, 0.001, uniform);
  for (std::size_t i = 0; i < 3; ++i) {
    const double expected = radiosityFactor(box, sensors[i].position, sensors[i].normal, 15);
    out.push_back({fmt::format("closed box with a roof opening, {}", spots[i].first), "%", expected,
                   r ? r->value[i] : NAN, 0.01 * expected, "patch radiosity, 15 × 15 a face"});
  }
  return out;
}

std::vector<ProofCase> proveSky() {
  std::vector<ProofCase> out;
  const Vec3 sun{std::cos(radians(40.0)), 0, std::sin(radians(40.0))};
  const double horizontal = 10000;
  out.push_back({"CIE overcast sky: horizontal over zenith luminance", "sr", 7 * pi / 9,
                 horizontal / SkyLuminance::cieOvercast(horizontal).zenith(), 1e-9, "7π/9"});
  for (int type = 1; type <= 15; ++type) {
    const auto sky = SkyLuminance::cieGeneral(type, sun, horizontal);
    out.push_back({fmt::format("CIE general sky {}: horizontal illuminance by a fine sum", type), "lx", horizontal,
                   sky ? sky->illuminance({0, 0, 1}) : NAN, 10, "0.5° sum over the dome"});
  }
  {
    const auto sky = SkyLuminance::cieGeneral(5, sun, horizontal);
    out.push_back({"CIE general sky 5 is uniform: zenith luminance", "cd/m²", horizontal / pi,
                   sky ? sky->zenith() : NAN, 0.5, "E/π"});
    // The traditional clear sky: L/Lz = (1 − e^(−0.32/cos Z))(0.91 + 10 e^(−3χ) + 0.45 cos²χ) / (0.27385 (0.91 + 10
    // e^(−3 Zs) + 0.45 cos² Zs)).
    const auto clear = SkyLuminance::cieGeneral(12, sun, horizontal);
    const double chi = radians(60.0), z = radians(70.0), zs = radians(50.0);
    // A direction 70° from the zenith and 60° from the sun.
    const double turn = std::acos((std::cos(chi) - std::cos(z) * std::cos(zs)) / (std::sin(z) * std::sin(zs)));
    const Vec3 d{std::sin(z) * std::cos(turn), std::sin(z) * std::sin(turn), std::cos(z)};
    const auto old = [](double c) { return 0.91 + 10 * std::exp(-3 * c) + 0.45 * std::cos(c) * std::cos(c); };
    const double expected = (1 - std::exp(-0.32 / std::cos(z))) * old(chi) / (0.27385 * old(zs));
    out.push_back({"CIE general sky 12 is the traditional clear sky: luminance over zenith", "", expected,
                   clear ? (*clear)(d) / clear->zenith() : NAN, 0.001, "CIE clear sky, 1973"});
  }
  for (const auto& [beam, diffuse] :
       {std::pair{0.0, 150.0}, {100.0, 200.0}, {400.0, 150.0}, {850.0, 70.0}, {300.0, 40.0}}) {
    PerezInput in{beam, diffuse, sun, 10, 172};
    const SkyLuminance sky = SkyLuminance::perez(in);
    const double expected = diffuse * perezState(in).diffuseEfficacy;
    out.push_back(
        {fmt::format("all-weather sky {:.0f}/{:.0f} W/m²: horizontal illuminance by a fine sum", beam, diffuse), "lx",
         expected, sky.illuminance({0, 0, 1}), 0.001 * expected, "0.5° sum over the dome"});
  }
  return out;
}

} // namespace noonward
