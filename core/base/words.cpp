#include "core/base/words.h"
#include <algorithm>
#include <cctype>

namespace noonward {

std::size_t lettersApart(std::string_view a, std::string_view b) {
  const auto same = [](char x, char y) {
    return std::tolower(static_cast<unsigned char>(x)) == std::tolower(static_cast<unsigned char>(y));
  };
  std::vector<std::vector<std::size_t>> apart(a.size() + 1, std::vector<std::size_t>(b.size() + 1));
  for (std::size_t i = 0; i <= a.size(); ++i) apart[i][0] = i;
  for (std::size_t j = 0; j <= b.size(); ++j) apart[0][j] = j;
  for (std::size_t i = 1; i <= a.size(); ++i)
    for (std::size_t j = 1; j <= b.size(); ++j) {
      apart[i][j] = std::min(
          {apart[i - 1][j] + 1, apart[i][j - 1] + 1, apart[i - 1][j - 1] + (same(a[i - 1], b[j - 1]) ? 0 : 1)});
      if (i > 1 && j > 1 && same(a[i - 1], b[j - 2]) && same(a[i - 2], b[j - 1]))
        apart[i][j] = std::min(apart[i][j], apart[i - 2][j - 2] + 1);
    }
  return apart[a.size()][b.size()];
}

std::string meantWord(std::string_view word, const std::vector<std::string>& known) {
  if (word.size() > 200) return {};
  std::string best;
  std::size_t least = 3;
  for (const std::string& k : known) {
    if (k.size() > 200) continue;
    const std::size_t apart = lettersApart(word, k);
    if (apart < least && 2 * apart < k.size()) {
      least = apart;
      best = k;
    }
  }
  return best;
}

} // namespace noonward
