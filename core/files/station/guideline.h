#pragma once
// Thresholds of agreement between computed and measured, as an open file that an office can copy and edit:
// {"format": "noonward-agreement-guideline", "name", "edition", "source", "hours": {"nmbe": 10, "cv_rmse": 30, "r2":
// 0.7}, "days": …, "months": …}; nmbe (either way) and cv_rmse in %, at most; r2 at least. What is not there is not
// asked.

#include "core/base/error.h"
#include "core/studies/measured_light.h"
#include <filesystem>

namespace noonward {

struct AgreementBounds {
  std::optional<double> nmbe, cvRmse, r2; ///< shares; share; 0…1
};
struct AgreementGuideline {
  std::string key, name, edition, source; ///< key: the file's name without its ending
  AgreementBounds hours, days, months;
};
Expected<AgreementGuideline> guidelineFromJson(std::string_view text, const std::string& file);
/// Those of a folder, by name; faulty ones are left out.
std::vector<AgreementGuideline> readGuidelines(const std::filesystem::path& folder);

struct AgreementVerdict {
  bool meets = false;
  std::string text; ///< "meets Agreement by …: by hour NMBE +2.1 % (± 10), CV(RMSE) 18 % (30); …"
};
AgreementVerdict judgeAgreement(const Comparison& comparison, const AgreementGuideline& guideline);

} // namespace noonward
