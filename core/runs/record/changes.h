#pragma once
// What changed between two records: inputs, figures, verdicts, and the answers to remarks.

#include "core/base/error.h"
#include "core/base/json.h"
#include <filesystem>

namespace noonward {

struct Project;

struct RecordChange {
  std::string what, was, is;
};
struct RecordChanges {
  std::string earlier;             ///< when the earlier one was made, UTC
  std::string fingerprint;         ///< of the earlier one
  std::vector<std::string> inputs; ///< of the project, in words
  std::vector<RecordChange> verdicts, figures;
  std::vector<std::string> receivers; ///< that passed and no longer do, or the other way round
  bool none() const { return inputs.empty() && verdicts.empty() && figures.empty() && receivers.empty(); }
};

/// A record that was read: its folder and the parsed record.json.
struct ReadRecord {
  std::filesystem::path folder;
  Json json;
  int version = 2;
};
/// `given`: the folder, or its record.json. Errors: no record, another version.
Expected<ReadRecord> readRecord(const std::filesystem::path& given);

/// The claims; those of format 1, which knew one daylight year, in the form of 2.
Json claimsOfTwo(const ReadRecord& record);

/// From an earlier record to claims and a project that are there.
RecordChanges recordChanges(const ReadRecord& earlier, const Json& claims, const std::string& projectText);
Expected<RecordChanges> recordChanges(const std::filesystem::path& earlier, const std::filesystem::path& later);

/// A project as it is compared: without what is no input (views, the record's own plan).
std::string comparedText(const Project& project);

} // namespace noonward
