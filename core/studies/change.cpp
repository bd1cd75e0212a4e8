#include "core/studies/change.h"
#include <algorithm>
#include <cmath>

namespace noonward {

const char* designStateKey(DesignState s) {
  switch (s) {
  case DesignState::Proposed:
    return "proposed";
  case DesignState::Before:
    return "before";
  case DesignState::Difference:
    return "difference";
  case DesignState::Ratio:
    return "ratio";
  }
  return "";
}

const char* designStateName(DesignState s) {
  switch (s) {
  case DesignState::Proposed:
    return "with the proposal";
  case DesignState::Before:
    return "before it";
  case DesignState::Difference:
    return "difference";
  case DesignState::Ratio:
    return "share of before";
  }
  return "";
}

std::optional<DesignState> designStateFromKey(std::string_view key) {
  for (const DesignState s : allDesignStates)
    if (key == designStateKey(s)) return s;
  return {};
}

namespace {
/// An upper end for changes: 99 of a hundred lie within, rounded up.
double spanOf(const std::vector<float>& values) {
  std::vector<double> sizes;
  for (float v : values)
    if (!std::isnan(v)) sizes.push_back(std::abs(double(v)));
  if (sizes.empty()) return 1;
  std::sort(sizes.begin(), sizes.end());
  const double most = sizes[std::min(sizes.size() - 1, std::size_t(0.99 * double(sizes.size())))];
  if (most < 1e-9) return sizes.back() > 1e-9 ? sizes.back() : 1;
  const double p = std::pow(10, std::floor(std::log10(most)));
  return std::ceil(most / p * 2 - 1e-9) / 2 * p;
}

std::vector<float> errorsOf(const SensorField& f) {
  return f.light ? f.light->standardError : std::vector<float>(f.values().size(), 0);
}

/// The values of a change stand in a result of light of the same kind, whatever they are of.
SensorField changed(SensorField of, std::vector<float> values, std::vector<float> errors) {
  auto r = std::make_shared<LightResult>();
  r->kind = of.kind();
  r->end = of.end();
  r->key = of.key();
  r->value = std::move(values);
  r->standardError = std::move(errors);
  r->samples.assign(r->value.size(), 0);
  of.light = std::move(r);
  of.result.reset();
  of.scale.dotBelow = false;
  of.isChange = true;
  return of;
}
} // namespace

SensorField asChange(SensorField of, std::vector<float> values, std::vector<float> errors) {
  const double span = spanOf(values);
  of.scale.palette = Palette::Difference;
  of.scale.low = -span;
  of.scale.high = span;
  of.scale.threshold = 1e9;
  of.scale.title = "difference of " + of.scale.title;
  if (of.scale.unit == "%") of.scale.unit = "points";
  return changed(std::move(of), std::move(values), std::move(errors));
}

SensorField stateField(const SensorField& now, const SensorField& before, DesignState state) {
  if (state == DesignState::Proposed) return now;
  if (state == DesignState::Before) {
    SensorField out = before;
    out.scale = now.scale;
    out.scale.title += ", before";
    return out;
  }
  const std::vector<float>&a = now.values(), &b = before.values();
  const std::vector<float> ea = errorsOf(now), eb = errorsOf(before);
  std::vector<float> values(a.size(), std::nanf("")), errors(a.size(), 0);
  for (std::size_t i = 0; i < a.size() && i < b.size(); ++i) {
    if (std::isnan(a[i]) || std::isnan(b[i])) continue;
    if (state == DesignState::Difference) {
      values[i] = a[i] - b[i];
      errors[i] = std::hypot(ea[i], eb[i]);
    } else if (b[i] > 0) {
      values[i] = 100 * a[i] / b[i];
      errors[i] = 100 * std::hypot(ea[i], a[i] / b[i] * eb[i]) / b[i];
    }
  }
  if (state == DesignState::Difference) {
    SensorField out = asChange(now, std::move(values), std::move(errors));
    out.scale.title += ", now less before";
    return out;
  }
  SensorField out = changed(now, std::move(values), std::move(errors));
  out.scale = now.scale;
  out.scale.palette = Palette::Illuminance;
  out.scale.low = 0;
  out.scale.high = 120;
  out.scale.threshold = 80; // the share that guidance on sun and sky asks to keep
  out.scale.dotBelow = true;
  out.scale.unit = "% of before";
  out.scale.perSi = 1;
  return out;
}

} // namespace noonward
