#pragma once
// How two JSON values differ, by key and by id: lists of objects that carry an "id" (or, all of them, a "name") are
// matched by it, wherever they stand in the list; other lists count as one value.

#include "core/base/json.h"

namespace noonward {

struct JsonChange {
  std::vector<std::string> at; ///< keys, and ids or names within lists
  Json from, to;               ///< null where there is nothing
  bool operator==(const JsonChange&) const = default;
};

std::vector<JsonChange> differences(const Json& from, const Json& to);

/// With the changes put in. A change whose place is no longer there is left out and told in `lost`, in words.
Json withChanges(Json value, const std::vector<JsonChange>& changes, std::vector<std::string>* lost = nullptr);

/// "rooms · Reading room · height: 2.7 → 3"; ids are told by the names that `from` or `to` give them.
std::string changeText(const JsonChange& change, const Json& from, const Json& to);

} // namespace noonward
