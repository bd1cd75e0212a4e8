#include "core/base/json.h"
#include "core/base/words.h"
#include <fmt/format.h>

namespace noonward {

namespace {
const Json null;
} // namespace

Expected<Json> parseJson(std::string_view text, const std::string& file) {
  if (text.starts_with("\xEF\xBB\xBF")) text.remove_prefix(3);
  try {
    return Json::parse(text, nullptr, true, true);
  } catch (const Json::parse_error& e) {
    std::size_t line = 1, column = 1;
    for (std::size_t i = 0; i + 1 < e.byte && i < text.size(); ++i) {
      ++column;
      if (text[i] == '\n') {
        ++line;
        column = 1;
      }
    }
    return fail("This is not valid JSON here: a comma, quote or bracket is missing or stands too many.",
                fmt::format("{}:{}:{}", file, line, column));
  } catch (const std::exception&) {
    return fail("This JSON can't be read: a number is too large or text is not UTF-8.", file);
  }
}

JsonObject::JsonObject(const Json& value, std::string path, JsonFault& fault)
    : value_(value), path_(std::move(path)), fault_(fault) {
  if (!value_.is_object() && !value_.is_null()) this->fault("An object { … } is expected here.");
}

JsonObject::~JsonObject() {
  if (!value_.is_object()) return;
  for (const auto& item : value_.items()) {
    if (known_.contains(item.key())) continue;
    std::vector<std::string> free; // known keys that are not there
    for (const std::string& k : known_)
      if (!value_.contains(k)) free.push_back(k);
    fault_.unknown.emplace_back(pathOf(item.key().c_str()), meantWord(item.key(), free));
  }
}

void JsonObject::formerly(const char* key, const char* old) {
  if (!value_.is_object() || value_.contains(key) || !value_.contains(old)) return;
  known_.insert(old);
  old_.emplace(key, old);
}

bool JsonObject::has(const char* key) {
  known_.insert(key);
  return value_.is_object() && (value_.contains(key) || old_.contains(key));
}

void JsonObject::fault(std::string message) {
  if (!fault_.error) fault_.error = Error{std::move(message), path_};
}

void JsonObject::fault(const char* key, std::string message) {
  if (!fault_.error) fault_.error = Error{std::move(message), pathOf(old_.contains(key) ? old_.at(key).c_str() : key)};
}

const Json* JsonObject::find(const char* key) {
  known_.insert(key);
  if (!value_.is_object()) return nullptr;
  auto it = value_.find(key);
  if (it == value_.end() && old_.contains(key)) it = value_.find(old_.at(key));
  return it == value_.end() || it->is_null() ? nullptr : &*it;
}

double JsonObject::number(const char* key, double fallback, double least, double most) {
  const Json* v = find(key);
  if (!v) return fallback;
  if (!v->is_number()) {
    fault(key, "A number is expected here.");
    return fallback;
  }
  const double d = v->get<double>();
  if (!(d >= least && d <= most)) {
    fault(key, fmt::format("{} lies outside {} to {}.", d, least, most));
    return fallback;
  }
  return d;
}

double JsonObject::requiredNumber(const char* key, double least, double most) {
  if (!find(key)) fault(key, "This key is missing.");
  return number(key, 0, least, most);
}

int JsonObject::integer(const char* key, int fallback, int least, int most) {
  const double d = number(key, fallback, least, most);
  if (d != std::floor(d)) fault(key, "A whole number is expected here.");
  return int(d);
}

bool JsonObject::boolean(const char* key, bool fallback) {
  const Json* v = find(key);
  if (!v) return fallback;
  if (!v->is_boolean()) {
    fault(key, "true or false is expected here.");
    return fallback;
  }
  return v->get<bool>();
}

std::string JsonObject::text(const char* key, std::string fallback) {
  const Json* v = find(key);
  if (!v) return fallback;
  if (!v->is_string()) {
    fault(key, "Text in quotes is expected here.");
    return fallback;
  }
  return v->get<std::string>();
}

std::string JsonObject::requiredText(const char* key) {
  if (!find(key)) fault(key, "This key is missing.");
  return text(key);
}

const Json& JsonObject::raw(const char* key) {
  const Json* v = find(key);
  return v ? *v : null;
}

void JsonObject::array(const char* key, const std::function<void(const Json&, const std::string&)>& each) {
  const Json* v = find(key);
  if (!v) return;
  if (!v->is_array()) {
    fault(key, "A list [ … ] is expected here.");
    return;
  }
  for (std::size_t i = 0; i < v->size() && sound(); ++i) each((*v)[i], fmt::format("{}[{}]", pathOf(key), i));
}

JsonObject JsonObject::object(const char* key) {
  const Json* v = find(key);
  return JsonObject(v ? *v : null, pathOf(key), fault_);
}

std::string JsonObject::extra() const {
  if (!value_.is_object()) return {};
  Json rest = Json::object();
  for (const auto& [key, v] : value_.items())
    if (!known_.contains(key)) rest[key] = v;
  return rest.empty() ? std::string() : rest.dump();
}

void addExtra(Json& into, const std::string& extra) {
  if (extra.empty()) return;
  const Json rest = Json::parse(extra, nullptr, false);
  if (!rest.is_object()) return;
  for (const auto& [key, v] : rest.items())
    if (!into.contains(key)) into[key] = v;
}

} // namespace noonward
