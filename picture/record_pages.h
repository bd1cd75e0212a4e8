#pragma once
// The record on paper: pages composed for A4, A3 or Letter, and its folder with pictures, tables and the claims.

#include "core/runs/record/record.h"

namespace noonward {

/// record.pdf on the paper of the project's plan, pictures (PNG and SVG), then everything of writeRecord().
Outcome makeRecordFolder(const RecordFacts& facts, const std::filesystem::path& folder, RunControl& control);

} // namespace noonward
