#include "picture/theme.h"
#include <QFontDatabase>
#include <algorithm>
#include <array>
#include <cmath>
#include <span>

namespace noonward {

const Theme& Theme::light() {
  static const Theme t{false,     "#F8F5EF", "#FCFAF6", "#1E2438", "#6B6A72", "#D9D3C7", "#C9791B",
                       "#28746A", "#A5413B", "#2B3048", "#F3EFE6", "#F3EFE6", "#DCD3C2", "#F7F3EA",
                       "#CDC3B0", "#FBF0DC", "#D9B98A", "#E4E2DE", "#5E5A54", "#95590F"};
  return t;
}

const Theme& Theme::darkTheme() {
  static const Theme t{true,      "#171A26", "#202435", "#ECE7DC", "#A19E9C", "#343A50", "#E0953A",
                       "#5BB3A6", "#D9796F", "#0E1019", "#1B1F2D", "#1B1F2D", "#10131D", "#4A5066",
                       "#2A2F42", "#7A6547", "#4A3D30", "#33374A", "#9A9CA8", "#E0953A"};
  return t;
}

bool loadFonts(const QString& resources) {
  bool all = true;
  for (const char* f : {"Inter-Regular.otf", "Inter-Medium.otf", "Inter-SemiBold.otf", "Vollkorn-Regular.ttf",
                        "Vollkorn-SemiBold.ttf", "NoonwardFigures-Regular.otf", "NoonwardFigures-Bold.otf"})
    all = QFontDatabase::addApplicationFont(resources + "/fonts/" + f) >= 0 && all;
  return all;
}

namespace {
QFont font(const char* family, double pixels, QFont::Weight weight) {
  QFont f{QString(family)};
  f.setPixelSize(std::max(1, int(std::lround(pixels))));
  f.setWeight(weight);
  f.setStyleStrategy(QFont::PreferAntialias);
  return f;
}
} // namespace

QFont titleFont(double pixels) {
  return font("Vollkorn", pixels, QFont::DemiBold);
}
QFont textFont(double pixels, bool strong) {
  return font("Inter", pixels, strong ? QFont::DemiBold : QFont::Normal);
}
QFont figureFont(double pixels, bool strong) {
  return font("Noonward Figures", pixels, strong ? QFont::Bold : QFont::Normal);
}

namespace {

struct Lch {
  double l, c, h; // OKLCH, hue in degrees
};

/// Björn Ottosson, "A perceptual color space for image processing" (2020).
QColor fromOklab(double L, double a, double b) {
  const double l = std::pow(L + 0.3963377774 * a + 0.2158037573 * b, 3);
  const double m = std::pow(L - 0.1055613458 * a - 0.0638541728 * b, 3);
  const double s = std::pow(L - 0.0894841775 * a - 1.2914855480 * b, 3);
  const auto gamma = [](double v) {
    v = std::clamp(v, 0.0, 1.0);
    return v <= 0.0031308 ? 12.92 * v : 1.055 * std::pow(v, 1 / 2.4) - 0.055;
  };
  return QColor::fromRgbF(float(gamma(4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s)),
                          float(gamma(-1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s)),
                          float(gamma(-0.0041960863 * l - 0.7034186147 * m + 1.7076147010 * s)));
}

QColor along(std::span<const Lch> stops, double t) {
  t = std::clamp(t, 0.0, 1.0) * double(stops.size() - 1);
  const auto i = std::min(std::size_t(t), stops.size() - 2);
  const double u = t - double(i);
  const auto lab = [](const Lch& s) {
    const double h = s.h * 0.017453292519943295;
    return std::array{s.l, s.c * std::cos(h), s.c * std::sin(h)};
  };
  const auto a = lab(stops[i]), b = lab(stops[i + 1]);
  return fromOklab(a[0] + u * (b[0] - a[0]), a[1] + u * (b[1] - a[1]), a[2] + u * (b[2] - a[2]));
}

} // namespace

QColor paletteColor(Palette palette, double t) {
  static constexpr std::array sun{Lch{0.31, 0.045, 270}, Lch{0.44, 0.085, 335}, Lch{0.58, 0.105, 30},
                                  Lch{0.75, 0.105, 65}, Lch{0.925, 0.085, 97}};
  static constexpr std::array lux{Lch{0.24, 0.06, 275}, Lch{0.40, 0.075, 245}, Lch{0.57, 0.075, 195},
                                  Lch{0.77, 0.07, 130}, Lch{0.95, 0.055, 100}};
  static constexpr std::array difference{Lch{0.47, 0.13, 28}, Lch{0.97, 0.01, 90},
                                         Lch{0.48, 0.085, 185}}; // less is madder
  switch (palette) {
  case Palette::SunHours:
    return along(sun, t);
  case Palette::Illuminance:
    return along(lux, t);
  case Palette::Difference:
    return along(difference, t);
  }
  return {};
}

QColor mixed(const QColor& a, const QColor& b, double t) {
  return QColor::fromRgbF(float(a.redF() + (b.redF() - a.redF()) * t),
                          float(a.greenF() + (b.greenF() - a.greenF()) * t),
                          float(a.blueF() + (b.blueF() - a.blueF()) * t));
}

} // namespace noonward
