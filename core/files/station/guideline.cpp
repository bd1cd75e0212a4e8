#include "core/files/station/guideline.h"
#include "core/base/json.h"
#include "core/files/save_file.h"
#include <algorithm>
#include <cmath>

namespace noonward {

namespace {
AgreementBounds bounds(JsonObject& o, const char* key) {
  AgreementBounds out;
  if (!o.has(key)) return out;
  JsonObject b = o.object(key);
  const auto take = [&](const char* name, std::optional<double>& into, double most, double by) {
    if (b.has(name)) into = b.requiredNumber(name, 0, most) * by;
  };
  take("nmbe", out.nmbe, 1000, 0.01);
  take("cv_rmse", out.cvRmse, 1000, 0.01);
  take("r2", out.r2, 1, 1);
  return out;
}
bool any(const AgreementBounds& b) {
  return b.nmbe || b.cvRmse || b.r2;
}
} // namespace

Expected<AgreementGuideline> guidelineFromJson(std::string_view text, const std::string& file) {
  const auto root = parseJson(text, file);
  if (!root) return tl::unexpected(root.error());
  AgreementGuideline g;
  g.key = std::filesystem::path(file).stem().string();
  JsonFault fault;
  {
    JsonObject o(*root, "", fault);
    if (o.text("format") != "noonward-agreement-guideline")
      o.fault("format", "\"noonward-agreement-guideline\" is expected here.");
    g.name = o.requiredText("name");
    g.edition = o.text("edition");
    g.source = o.text("source");
    g.hours = bounds(o, "hours");
    g.days = bounds(o, "days");
    g.months = bounds(o, "months");
    if (!any(g.hours) && !any(g.days) && !any(g.months))
      o.fault("A guideline asks something of \"hours\", \"days\" or \"months\".");
  }
  if (fault.error)
    return fail(fault.error->message, file + (fault.error->place.empty() ? "" : ": " + fault.error->place));
  if (!fault.unknown.empty()) return fail(fmt::format("\"{}\" is no key here.", fault.unknown.front().first), file);
  return g;
}

std::vector<AgreementGuideline> readGuidelines(const std::filesystem::path& folder) {
  std::vector<AgreementGuideline> out;
  std::error_code error;
  for (const auto& entry : std::filesystem::directory_iterator(folder, error)) {
    if (entry.path().extension() != ".json") continue;
    const auto bytes = loadFile(entry.path(), 1u << 20);
    if (!bytes) continue;
    if (auto g = guidelineFromJson(*bytes, entry.path().filename().string())) out.push_back(std::move(*g));
  }
  std::sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.name < b.name; });
  return out;
}

AgreementVerdict judgeAgreement(const Comparison& c, const AgreementGuideline& g) {
  AgreementVerdict out;
  out.meets = true;
  std::string told;
  for (const auto& [what, figures, bounds] :
       {std::tuple{"hour", &c.hours, &g.hours}, {"day", &c.days, &g.days}, {"month", &c.months, &g.months}}) {
    if (!any(*bounds)) continue;
    std::string part;
    const auto put = [&](bool holds, std::string text) {
      out.meets = out.meets && holds; // a figure that means nothing (NaN) holds nothing
      part += (part.empty() ? "" : ", ") + text + (holds ? "" : " falls short");
    };
    if (bounds->nmbe)
      put(std::abs(figures->nmbe) <= *bounds->nmbe,
          fmt::format("NMBE {:+.1f} % (± {:g})", 100 * figures->nmbe, 100 * *bounds->nmbe));
    if (bounds->cvRmse)
      put(figures->cvRmse <= *bounds->cvRmse,
          fmt::format("CV(RMSE) {:.1f} % (at most {:g})", 100 * figures->cvRmse, 100 * *bounds->cvRmse));
    if (bounds->r2) put(figures->r2 >= *bounds->r2, fmt::format("R² {:.3f} (at least {:g})", figures->r2, *bounds->r2));
    told += fmt::format("{}by {} {}", told.empty() ? "" : "; ", what, part);
  }
  out.text = fmt::format("{} {}{}: {}", out.meets ? "Meets" : "Falls short of", g.name,
                         g.edition.empty() ? "" : ", " + g.edition, told);
  return out;
}

} // namespace noonward
