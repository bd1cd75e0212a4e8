#include "core/base/finding.h"
#include <algorithm>

namespace noonward {

const char* rankText(Rank rank) {
  switch (rank) {
  case Rank::StopsStudy: return "stops a study";
  case Rank::BendsResult: return "bends the result";
  case Rank::WorthKnowing: return "worth knowing";
  }
  return "";
}

Findings merged(Findings findings) {
  Findings out;
  for (Finding& f : findings) {
    auto same = std::find_if(out.begin(), out.end(),
                             [&](const Finding& o) { return o.code == f.code && o.text == f.text && o.rank == f.rank; });
    if (same == out.end()) {
      out.push_back(std::move(f));
      continue;
    }
    same->count += f.count;
    same->elements.insert(same->elements.end(), f.elements.begin(), f.elements.end());
  }
  std::stable_sort(out.begin(), out.end(), [](const Finding& a, const Finding& b) { return a.rank < b.rank; });
  return out;
}

bool anyStops(const Findings& findings) {
  return std::any_of(findings.begin(), findings.end(), [](const Finding& f) { return f.rank == Rank::StopsStudy; });
}

} // namespace noonward
