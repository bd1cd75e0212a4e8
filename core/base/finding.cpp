#include "core/base/finding.h"
#include <algorithm>
#include <map>

namespace noonward {

const char* rankText(Rank rank) {
  switch (rank) {
  case Rank::StopsStudy:
    return "stops a study";
  case Rank::BendsResult:
    return "distorts the result";
  case Rank::WorthKnowing:
    return "worth knowing";
  }
  return "";
}

namespace {
constexpr std::size_t mostAlike = 5; ///< that are told one by one

/// A text in two parts round the first name in quotes.
struct Named {
  std::string before, name, after;
};
std::optional<Named> namedIn(const std::string& text) {
  const auto a = text.find('"');
  const auto b = a == text.npos ? a : text.find('"', a + 1);
  if (b == text.npos) return {};
  return Named{text.substr(0, a), text.substr(a, b - a + 1), text.substr(b + 1)};
}

/// Findings that say the same of many things, but for their name and for numbers, become one that names the first few.
Findings together(Findings findings) {
  // What is mended one by one stays apart: its mend needs to know the pair, or the place.
  const auto apart = [](const Finding& f) {
    return f.elements.size() > 1 || !f.ways.empty() || f.mend.find(':') != f.mend.npos || f.mend == "room.one-grid" ||
           f.mend == "room.overlap";
  };
  const auto key = [](const Finding& f) -> std::string {
    const auto named = namedIn(f.text);
    if (!named) return {};
    std::string out = std::string(rankText(f.rank)) + "|" + f.code + "|" + f.mend + "|" + named->before + "|";
    for (char c : named->after)
      if (!(c >= '0' && c <= '9')) out += c;
    return out;
  };
  std::map<std::string, std::vector<std::size_t>> alike;
  for (std::size_t i = 0; i < findings.size(); ++i)
    if (!apart(findings[i]))
      if (std::string k = key(findings[i]); !k.empty()) alike[std::move(k)].push_back(i);
  std::vector<bool> gone(findings.size(), false);
  for (const auto& [k, list] : alike) {
    if (list.size() <= mostAlike) continue;
    Finding& first = findings[list.front()];
    std::string names;
    for (std::size_t n = 1; n < list.size(); ++n) {
      const Finding& f = findings[list[n]];
      if (n < 4) names += (names.empty() ? "" : ", ") + namedIn(f.text)->name;
      first.count += f.count;
      first.elements.insert(first.elements.end(), f.elements.begin(), f.elements.end());
      gone[list[n]] = true;
    }
    first.text += " Likewise " + names + (list.size() > 4 ? " and " + std::to_string(list.size() - 4) + " more." : ".");
  }
  Findings out;
  for (std::size_t i = 0; i < findings.size(); ++i)
    if (!gone[i]) out.push_back(std::move(findings[i]));
  return out;
}
} // namespace

Findings merged(Findings findings) {
  Findings out;
  for (Finding& f : findings) {
    auto same = std::find_if(out.begin(), out.end(), [&](const Finding& o) {
      return o.code == f.code && o.text == f.text && o.rank == f.rank;
    });
    if (same == out.end()) {
      out.push_back(std::move(f));
      continue;
    }
    same->count += f.count;
    same->elements.insert(same->elements.end(), f.elements.begin(), f.elements.end());
  }
  std::stable_sort(out.begin(), out.end(), [](const Finding& a, const Finding& b) { return a.rank < b.rank; });
  return together(std::move(out));
}

bool anyStops(const Findings& findings) {
  return std::any_of(findings.begin(), findings.end(), [](const Finding& f) { return f.rank == Rank::StopsStudy; });
}

} // namespace noonward
