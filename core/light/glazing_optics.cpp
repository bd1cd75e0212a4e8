#include "core/light/glazing_optics.h"
#include <algorithm>
#include <cmath>

namespace noonward {

namespace {

constexpr double index = glassIndex;

struct Light {
  double through, back;
};

/// `panes` equal panes for one polarisation: r the reflectance of one face, a what is left after one way through a
/// pane.
Light stack(double r, double a, int panes) {
  const double t = (1 - r) * (1 - r) * a / (1 - r * r * a * a), rho = r * (1 + a * t);
  Light all{t, rho};
  for (int k = 1; k < panes; ++k) {
    const double between = 1 - all.back * rho;
    all = {all.through * t / between, all.back + all.through * all.through * rho / between};
  }
  return all;
}

/// Unpolarised light at an angle; `depth` is the optical depth of one pane at normal incidence.
Light glazed(double cosine, double depth, int panes) {
  const double sine = std::sqrt(std::max(0.0, 1 - cosine * cosine)) / index, inside = std::sqrt(1 - sine * sine);
  const double s = (cosine - index * inside) / (cosine + index * inside),
               p = (index * cosine - inside) / (index * cosine + inside);
  const double a = std::exp(-depth / inside);
  const Light x = stack(s * s, a, panes), y = stack(p * p, a, panes);
  return {0.5 * (x.through + y.through), 0.5 * (x.back + y.back)};
}

} // namespace

GlazingOptics::GlazingOptics(const Glazing& g) {
  const int panes = std::clamp(g.panes, 0, 6);
  const double wanted = std::clamp(g.transmittance, 0.0, 1.0), most = mostTransmittance(panes);
  double depth = 0, scale = 1;
  if (panes == 0) {
    transmittance_.fill(float(wanted));
  } else if (wanted >= most) {
    scale = wanted / most; // above what glass can do; the finding "glazing.transmittance" says so
  } else {
    double low = 0, high = 60;
    for (int i = 0; i < 80; ++i) {
      depth = 0.5 * (low + high);
      (glazed(1, depth, panes).through > wanted ? low : high) = depth;
    }
    if (wanted <= 0) scale = 0;
  }
  for (int i = 0; panes > 0 && i <= steps; ++i) {
    const double cosine = double(i) / steps;
    const Light l = i == 0 ? Light{0, 1} : glazed(cosine, depth, panes);
    transmittance_[std::size_t(i)] = float(std::min(1.0, l.through * scale));
    reflectance_[std::size_t(i)] = float(scale > 1 ? std::min(l.back, 1 - std::min(1.0, l.through * scale)) : l.back);
  }
  const double kept = std::clamp(g.frame, 0.0, 1.0) * std::clamp(g.dirt, 0.0, 1.0);
  scatteredShare_ = std::clamp(g.diffuse, 0.0, 1.0) * kept;
  straightShare_ = kept - scatteredShare_;
  diffusing_ = g.diffuse > 0;
  innerReflectance_ = std::clamp(g.reflectance, 0.0, 1.0);
}

namespace {
template <class F> double evenlyFromEverywhere(int steps, F&& f) {
  double sum = 0;
  for (int i = 0; i < steps; ++i) {
    const double c = (i + 0.5) / steps;
    sum += f(c) * 2 * c / steps;
  }
  return sum;
}
} // namespace

double GlazingOptics::hemispherical() const {
  return evenlyFromEverywhere(steps, [this](double c) { return straight(c) + scattered(c); });
}

double GlazingOptics::hemisphericalBack() const {
  return diffuseReflectance() + evenlyFromEverywhere(steps, [this](double c) { return mirrored(c); });
}

} // namespace noonward
