#pragma once
// Reading JSON written by hand: every fault is told with the path of its key, and what is not known is kept.

#include "core/base/error.h"
#include <functional>
#include <limits>
#include <map>
#include <nlohmann/json.hpp>
#include <set>

namespace noonward {

/// Key order is kept, so that a saved file reads as it was written.
using Json = nlohmann::ordered_json;

/// Parses text; // and /* */ comments are allowed. Errors carry line and column.
Expected<Json> parseJson(std::string_view text, const std::string& file);

/// One object being read. The first fault of a whole file is kept in a shared Fault and everything after it is idle.
struct JsonFault {
  std::optional<Error> error;
  std::vector<std::pair<std::string, std::string>>
      unknown; ///< paths of keys nobody asked for, and the known key that is nearest
};

class JsonObject {
public:
  JsonObject(const Json& value, std::string path, JsonFault& fault);
  ~JsonObject(); ///< notes the keys that nobody asked for
  JsonObject(const JsonObject&) = delete;
  JsonObject& operator=(const JsonObject&) = delete;

  /// `key` was called `old` in earlier files: that is read where the key itself is not there.
  void formerly(const char* key, const char* old);
  /// A key that was asked for is a known one.
  bool has(const char* key);
  /// Faulty or missing values give the fallback; a wrong type is a fault.
  double number(const char* key, double fallback, double least = -std::numeric_limits<double>::infinity(),
                double most = std::numeric_limits<double>::infinity());
  double requiredNumber(const char* key, double least = -std::numeric_limits<double>::infinity(),
                        double most = std::numeric_limits<double>::infinity());
  int integer(const char* key, int fallback, int least, int most);
  bool boolean(const char* key, bool fallback);
  std::string text(const char* key, std::string fallback = {});
  std::string requiredText(const char* key);
  /// The raw value, marked as known; null if absent.
  const Json& raw(const char* key);
  /// Calls `each` for every entry of an array with its path; a non-array is a fault.
  void array(const char* key, const std::function<void(const Json&, const std::string&)>& each);
  JsonObject object(const char* key);
  void fault(const char* key, std::string message);
  void fault(std::string message);
  bool sound() const { return !fault_.error; }
  /// Keys nobody asked for, as JSON text; empty if there are none.
  std::string extra() const;
  std::string pathOf(const char* key) const { return path_.empty() ? key : path_ + "." + key; }
  const std::string& path() const { return path_; }
  JsonFault& faults() { return fault_; }

private:
  const Json* find(const char* key);
  const Json& value_;
  std::string path_;
  JsonFault& fault_;
  std::set<std::string> known_;
  std::map<std::string, std::string> old_; ///< former names by key, of those that stand in this object
};

/// Puts the keys of `extra` (JSON text of an object, or empty) behind those of `into`.
void addExtra(Json& into, const std::string& extra);

} // namespace noonward
