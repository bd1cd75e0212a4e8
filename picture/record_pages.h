#pragma once
// The record on paper: pages composed for A4 or Letter, and its folder with pictures, tables and the claims.

#include "core/runs/record.h"

namespace noonward {

enum class PageKind { A4, Letter };

/// record.pdf, pictures (PNG and SVG), then everything of writeRecord().
Outcome makeRecordFolder(const RecordFacts& facts, const std::filesystem::path& folder, PageKind page,
                         RunControl& control);

} // namespace noonward
