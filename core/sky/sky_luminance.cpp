#include "core/sky/sky_luminance.h"
#include <Eigen/Core>
#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <functional>

namespace noonward {

namespace {

// ISO 15469:2004, table 1.
constexpr std::array<CieSkyParameters, 15> cieTypes{{{4, -0.70, 0, -1.0, 0},
                                                     {4, -0.70, 2, -1.5, 0.15},
                                                     {1.1, -0.8, 0, -1.0, 0},
                                                     {1.1, -0.8, 2, -1.5, 0.15},
                                                     {0, -1.0, 0, -1.0, 0},
                                                     {0, -1.0, 2, -1.5, 0.15},
                                                     {0, -1.0, 5, -2.5, 0.30},
                                                     {0, -1.0, 10, -3.0, 0.45},
                                                     {-1.0, -0.55, 2, -1.5, 0.15},
                                                     {-1.0, -0.55, 5, -2.5, 0.30},
                                                     {-1.0, -0.55, 10, -3.0, 0.45},
                                                     {-1.0, -0.32, 10, -3.0, 0.45},
                                                     {-1.0, -0.32, 16, -3.0, 0.30},
                                                     {-1.0, -0.15, 16, -3.0, 0.30},
                                                     {-1.0, -0.15, 24, -2.8, 0.15}}};

// Perez, Seals, Michalsky 1993, table 1: a1…a4, b1…b4, c1…c4, d1…d4, e1…e4 for the eight bins of clearness.
constexpr double distribution[8][20] = {
    {1.3525, -0.2576, -0.2690, -1.4366, -0.7670, 0.0007, 1.2734, -0.1233, 2.8000,  0.6004,
     1.2375, 1.0000,  1.8734,  0.6297,  0.9738,  0.2809, 0.0356, -0.1246, -0.5718, 0.9938},
    {-1.2219, -0.7730, 1.4148,  1.1016,  -0.2054, 0.0367, -3.9128, 0.9156, 6.9750,  0.1774,
     6.4477,  -0.1239, -1.5798, -0.5081, -1.7812, 0.1080, 0.2624,  0.0672, -0.2190, -0.4285},
    {-1.1000,  -0.2515, 0.8952,  0.0156, 0.2782, -0.1812, -4.5000, 1.1766, 24.7219, -13.0812,
     -37.7000, 34.8438, -5.0000, 1.5218, 3.9229, -2.6204, -0.0156, 0.1597, 0.4199,  -0.5562},
    {-0.5484,  -0.6654, -0.2672, 0.7117, 0.7234, -0.6219, -5.6812, 2.6297,  33.3389, -18.3000,
     -62.2500, 52.0781, -3.5000, 0.0016, 1.1477, 0.1062,  0.4659,  -0.3296, -0.0876, -0.0329},
    {-0.6000,  -0.3566, -2.5000, 2.3250,  0.2937, 0.0496, -5.6812, 1.8415, 21.0000, -4.7656,
     -21.5906, 7.2492,  -3.5000, -0.1554, 1.4062, 0.3988, 0.0032,  0.0766, -0.0656, -0.1294},
    {-1.0156, -0.3670, 1.0078,  1.4051,  0.2875,  -0.5328, -3.8500, 3.3750, 14.0000, -0.9999,
     -7.1406, 7.5469,  -3.4000, -0.1078, -1.0750, 1.5702,  -0.0672, 0.4016, 0.3017,  -0.4844},
    {-1.0000, 0.0211,  0.5025,  -0.5119, -0.3000, 0.1922, 0.7023, -1.6317, 19.0000, -5.0000,
     1.2438,  -1.9094, -4.0000, 0.0250,  0.3844,  0.2656, 1.0468, -0.3788, -2.4517, 1.4656},
    {-1.0500,  0.0289,  0.4260,  0.3590, -0.3250, 0.1156, 0.7781, 0.0025,  31.0625, -14.5000,
     -46.1148, 55.3750, -7.2312, 0.4050, 13.3500, 0.6234, 1.5000, -0.6426, 1.8564,  0.5636}};

// Perez et al. 1990, table 4: a, b, c, d.
constexpr double globalEfficacy[8][4] = {{96.63, -0.47, 11.50, -9.16}, {107.54, 0.79, 1.79, -1.19},
                                         {98.73, 0.70, 4.40, -6.95},   {92.72, 0.56, 8.36, -8.31},
                                         {86.73, 0.98, 7.10, -10.94},  {88.34, 1.39, 6.06, -7.60},
                                         {78.63, 1.47, 4.93, -11.37},  {99.65, 1.86, -4.46, -3.15}};
constexpr double diffuseEfficacy[8][4] = {{97.24, -0.46, 12.00, -8.91},   {107.22, 1.15, 0.59, -3.95},
                                          {104.97, 2.96, -5.53, -8.77},   {102.39, 5.59, -13.95, -13.90},
                                          {100.71, 5.94, -22.75, -23.74}, {106.42, 3.83, -36.15, -28.83},
                                          {141.88, 1.90, -53.24, -14.03}, {152.23, 0.35, -45.27, -7.98}};
constexpr double directEfficacy[8][4] = {{57.20, -4.55, -2.98, 117.12}, {98.99, -3.46, -1.21, 12.38},
                                         {109.83, -4.90, -1.71, -8.81}, {110.34, -5.84, -1.99, -4.56},
                                         {106.36, -3.97, -1.75, -6.16}, {107.19, -1.25, -1.51, -26.73},
                                         {105.75, 0.77, -1.26, -34.44}, {101.18, 1.58, -1.10, -8.29}};
constexpr double binFrom[8] = {1, 1.065, 1.230, 1.500, 1.950, 2.800, 4.500, 6.200};

int binOf(double clearness) {
  int bin = 0;
  while (bin < 7 && clearness >= binFrom[bin + 1]) ++bin;
  return bin;
}

double zenithAngle(Vec3 v) {
  return std::acos(std::clamp(v.z, -1.0, 1.0));
}

/// Gauss-Legendre with four nodes on [-1, 1].
constexpr double node[4] = {-0.8611363115940526, -0.3399810435848563, 0.3399810435848563, 0.8611363115940526};
constexpr double weight[4] = {0.3478548451374538, 0.6521451548625461, 0.6521451548625461, 0.3478548451374538};

/// ∫ f over [a, b] in panels.
template <class F> double integrate(double a, double b, int panels, F&& f) {
  double sum = 0;
  const double h = (b - a) / panels / 2;
  for (int k = 0; k < panels; ++k)
    for (int i = 0; i < 4; ++i) sum += weight[i] * f(a + h * (2 * k + 1 + node[i]));
  return sum * h;
}

} // namespace

const CieSkyParameters& cieSky(int type) {
  require(type >= 1 && type <= 15, "cieSky: types 1 to 15");
  return cieTypes[std::size_t(type - 1)];
}

PerezState perezState(const PerezInput& in) {
  PerezState s;
  const double z = std::min(zenithAngle(in.sun), pi / 2), zDegrees = degrees(z);
  const double z3 = 1.041 * z * z * z;
  if (in.diffuseHorizontal > 0)
    s.clearness = ((in.diffuseHorizontal + in.directNormal) / in.diffuseHorizontal + z3) / (1 + z3);
  // Relative air mass of Kasten (1965), as in the papers; extraterrestrial irradiance 1367 W/m² with Spencer's
  // distance.
  const double mass = 1 / (std::cos(z) + 0.15 * std::pow(93.885 - zDegrees, -1.253));
  const double day = 2 * pi * (in.dayOfYear - 1) / 365;
  const double extra = 1367 * (1.00011 + 0.034221 * std::cos(day) + 0.00128 * std::sin(day) +
                               0.000719 * std::cos(2 * day) + 0.000077 * std::sin(2 * day));
  s.brightness = in.diffuseHorizontal * mass / extra;
  const int bin = binOf(s.clearness);
  const double water = std::exp(0.07 * in.dewPoint - 0.075); // cm of precipitable water
  const double brightness = std::max(s.brightness, 0.01);
  const auto of = [&](const double(&t)[4]) {
    return t[0] + t[1] * water + t[2] * std::cos(z) + t[3] * std::log(brightness);
  };
  s.globalEfficacy = of(globalEfficacy[bin]);
  s.diffuseEfficacy = of(diffuseEfficacy[bin]);
  const auto& d = directEfficacy[bin];
  s.directEfficacy = std::max(0.0, d[0] + d[1] * water + d[2] * std::exp(5.73 * z - 5) + d[3] * s.brightness);
  return s;
}

SkyLuminance::SkyLuminance(CieSkyParameters p, Vec3 sun, double horizontal, bool cieIndicatrix, bool scaled)
    : p_(p), sun_(sun), horizontal_(horizontal), scale_(1) {
  form_ = cieIndicatrix ? Form::Standard : Form::AllWeather;
  if (cieIndicatrix) indicatrixOffset_ = std::exp(p.d * pi / 2);
  if (!scaled) return;
  // Half of the sky from the sun's azimuth on, the panels meeting at the sun.
  const double azimuth = std::atan2(sun_.y, sun_.x),
               altitude = std::clamp(std::asin(std::clamp(sun_.z, -1.0, 1.0)), 0.0, pi / 2);
  const auto ring = [&](double gamma) {
    const double sum = integrate(0, pi, 10, [&](double turn) {
      return relative(
          {std::cos(gamma) * std::cos(azimuth + turn), std::cos(gamma) * std::sin(azimuth + turn), std::sin(gamma)});
    });
    return 2 * sum * std::sin(gamma) * std::cos(gamma);
  };
  double whole = 0;
  if (altitude > 1e-6) whole += integrate(0, altitude, std::max(2, int(altitude / 0.15)), ring);
  if (altitude < pi / 2 - 1e-6)
    whole += integrate(altitude, pi / 2, std::max(2, int((pi / 2 - altitude) / 0.15)), ring);
  scale_ = whole > 0 ? horizontal / whole : 0;
}

SkyLuminance SkyLuminance::uniform(double horizontal) {
  SkyLuminance s({}, {0, 0, 1}, 0, true, false);
  s.form_ = Form::Uniform;
  s.horizontal_ = horizontal;
  s.scale_ = horizontal / pi;
  return s;
}

SkyLuminance SkyLuminance::cieOvercast(double horizontal) {
  SkyLuminance s = uniform(horizontal);
  s.form_ = Form::Overcast;
  s.scale_ = horizontal * 9 / (7 * pi); // E = 7π/9 Lz
  return s;
}

Expected<SkyLuminance> SkyLuminance::cieGeneral(int type, Vec3 sun, double horizontal) {
  if (type < 1 || type > 15)
    return fail(fmt::format("The CIE general sky has types 1 to 15; {} is none.", type), "sky.type");
  return SkyLuminance(cieSky(type), normalized(sun), horizontal, true);
}

SkyLuminance SkyLuminance::perez(const PerezInput& in) {
  return perez(in, true);
}
SkyLuminance SkyLuminance::perezUnscaled(const PerezInput& in) {
  return perez(in, false);
}

SkyLuminance SkyLuminance::perez(const PerezInput& in, bool scaled) {
  const PerezState s = perezState(in);
  const double horizontal = std::max(0.0, in.diffuseHorizontal) * std::max(0.0, s.diffuseEfficacy);
  if (in.sun.z <= 0 || in.diffuseHorizontal <= 0) return uniform(horizontal);
  const double z = zenithAngle(in.sun);
  const int bin = binOf(s.clearness);
  double brightness = s.brightness;
  if (s.clearness >= 1.065 && s.clearness < 2.8) brightness = std::max(brightness, 0.2);
  const double* t = distribution[bin];
  // Where the formula gives nothing over most of the sky (bright hours of the tropics), the brightness is raised until
  // it does.
  for (; brightness < 1; brightness += 0.02)
    if (SkyLuminance(parametersOf(t, bin, z, brightness), normalized(in.sun), horizontal, false, false)
            .positiveShare() >= 0.5)
      break;
  return SkyLuminance(parametersOf(t, bin, z, brightness), normalized(in.sun), horizontal, false, scaled);
}

double SkyLuminance::positiveShare() const {
  int positive = 0, all = 0;
  for (int h = 0; h < 9; ++h)
    for (int a = 0; a < 12; ++a, ++all) {
      const double up = (h + 0.5) / 9, r = std::sqrt(1 - up * up),
                   turn = 2 * pi * (a + 0.5 * (h % 2)) / 12; // even by solid angle
      positive += relative({r * std::cos(turn), r * std::sin(turn), up}) > 0;
    }
  return double(positive) / all;
}

CieSkyParameters SkyLuminance::parametersOf(const double* t, int bin, double z, double brightness) {
  const auto of = [&](int k) { return t[k] + t[k + 1] * z + brightness * (t[k + 2] + t[k + 3] * z); };
  CieSkyParameters p{of(0), of(4), of(8), of(12), of(16)};
  if (bin == 0) {
    p.c = std::exp(std::pow(brightness * (t[8] + t[9] * z), t[10])) - t[11];
    p.d = -std::exp(brightness * (t[12] + t[13] * z)) + t[14] + brightness * t[15];
  }
  return p;
}

double SkyLuminance::relative(Vec3 v) const {
  const double up = std::max(v.z, 0.0);
  const double cosChi = std::clamp(dot(v, sun_), -1.0, 1.0), chi = std::acos(cosChi);
  // 1/cos grows without bound at the horizon; b < 0 takes the term to 0 there. A rare b > 0 is held at 89.5°.
  const double gradation = up > 0 || p_.b > 0 ? 1 + p_.a * std::exp(p_.b / (p_.b > 0 ? std::max(up, 0.0087) : up)) : 1;
  const double indicatrix = 1 + p_.c * (std::exp(p_.d * chi) - indicatrixOffset_) + p_.e * cosChi * cosChi;
  return std::max(0.0, gradation * indicatrix);
}

double SkyLuminance::operator()(Vec3 v) const {
  if (v.z < 0) return 0;
  switch (form_) {
  case Form::Uniform:
    return scale_;
  case Form::Overcast:
    return scale_ * (1 + 2 * v.z) / 3;
  case Form::Standard:
  case Form::AllWeather:
    return scale_ * relative(v);
  }
  return 0;
}

void SkyLuminance::luminances(std::span<const double> x, std::span<const double> y, std::span<const double> z,
                              std::span<double> out) const {
  if (form_ == Form::Uniform || form_ == Form::Overcast) {
    for (std::size_t i = 0; i < out.size(); ++i) out[i] = (*this)({x[i], y[i], z[i]});
    return;
  }
  constexpr std::size_t most = 64; // a stretch that stays in the processor's cache
  using Some = Eigen::Array<double, Eigen::Dynamic, 1, 0, int(most), 1>;
  const auto part = [](std::span<const double> all, std::size_t from, std::size_t n) {
    return Eigen::Map<const Eigen::ArrayXd>(all.data() + from, Eigen::Index(n));
  };
  for (std::size_t from = 0; from < out.size(); from += most) {
    const std::size_t n = std::min(most, out.size() - from);
    const Some up = part(z, from, n).max(0.0);
    const Some cosChi =
        (part(x, from, n) * sun_.x + part(y, from, n) * sun_.y + part(z, from, n) * sun_.z).max(-1.0).min(1.0);
    // acos to 2e-8: Abramowitz and Stegun, Handbook of Mathematical Functions, 4.4.46.
    const Some c = cosChi.abs();
    const Some series =
        ((((((-0.0012624911 * c + 0.0066700901) * c - 0.0170881256) * c + 0.0308918810) * c - 0.0501743046) * c +
          0.0889789874) *
             c -
         0.2145988016) *
            c +
        1.5707963050;
    const Some near = (1 - c).sqrt() * series, chi = (cosChi < 0).select(pi - near, near);
    const Some height = p_.b > 0 ? Some(up.max(0.0087)) : Some(up.max(1e-300)); // as in relative()
    const Some gradation = 1 + p_.a * (p_.b / height).exp();
    const Some indicatrix = 1 + p_.c * ((p_.d * chi).exp() - indicatrixOffset_) + p_.e * cosChi.square();
    Eigen::Map<Eigen::ArrayXd>(out.data() + from, Eigen::Index(n)) = scale_ * (gradation * indicatrix).max(0.0);
  }
}

double SkyLuminance::illuminance(Vec3 normal) const {
  const Vec3 n = normalized(normal);
  constexpr int rows = 180, columns = 720;
  double sum = 0;
  for (int r = 0; r < rows; ++r) {
    const double gamma = (r + 0.5) * pi / 2 / rows;
    double ring = 0;
    for (int c = 0; c < columns; ++c) {
      const double a = (c + 0.5) * 2 * pi / columns;
      const Vec3 v{std::cos(gamma) * std::cos(a), std::cos(gamma) * std::sin(a), std::sin(gamma)};
      const double face = dot(n, v);
      if (face > 0) ring += (*this)(v)*face;
    }
    sum += ring * std::cos(gamma);
  }
  return sum * (pi / 2 / rows) * (2 * pi / columns);
}

double typicalDiffuseIlluminance(SkyCondition condition, double altitude) {
  const double s = std::max(0.0, std::sin(altitude));
  switch (condition) {
  case SkyCondition::Clear:
    return 800 + 15500 * std::sqrt(s);
  case SkyCondition::PartlyCloudy:
    return 300 + 45000 * s;
  case SkyCondition::Overcast:
    return 300 + 21000 * s;
  }
  return 0;
}

double typicalDirectIlluminance(SkyCondition condition, double altitude) {
  const double s = std::sin(altitude);
  if (condition == SkyCondition::Overcast || s <= 1e-3) return 0;
  return 127500 * std::exp(-(condition == SkyCondition::Clear ? 0.21 : 0.80) / s);
}

} // namespace noonward
