#include "core/base/json_difference.h"
#include <algorithm>
#include <fmt/format.h>

namespace noonward {

namespace {

/// The key by which a list's entries are told apart; null where it counts as one value.
const char* keyOf(const Json& list) {
  if (!list.is_array()) return nullptr;
  for (const char* key : {"id", "name"})
    if (std::all_of(list.begin(), list.end(),
                    [&](const Json& v) { return v.is_object() && v.contains(key) && v[key].is_string(); }))
      return key;
  return nullptr;
}
const char* commonKey(const Json& a, const Json& b) {
  if (a.empty()) return keyOf(b);
  if (b.empty()) return keyOf(a);
  const char *x = keyOf(a), *y = keyOf(b);
  return x && y && std::string_view(x) == y ? x : nullptr;
}
/// By id, else by name, so that a hand may write either.
const Json* entry(const Json& list, const std::string& wanted) {
  for (const char* key : {"id", "name"})
    for (const Json& v : list)
      if (v.is_object() && v.contains(key) && v[key] == wanted) return &v;
  return nullptr;
}

void compare(const Json& a, const Json& b, std::vector<std::string>& at, std::vector<JsonChange>& out) {
  if (a == b) return;
  const auto under = [&](const std::string& key, const Json& x, const Json& y) {
    at.push_back(key);
    compare(x, y, at, out);
    at.pop_back();
  };
  static const Json nothing;
  if (a.is_object() && b.is_object()) {
    for (const auto& [key, value] : a.items()) under(key, value, b.contains(key) ? b[key] : nothing);
    for (const auto& [key, value] : b.items())
      if (!a.contains(key)) under(key, nothing, value);
    return;
  }
  if (a.is_array() && b.is_array())
    if (const char* key = commonKey(a, b)) {
      const auto find = [&](const Json& list, const Json& wanted) {
        const auto i = std::find_if(list.begin(), list.end(), [&](const Json& v) { return v[key] == wanted; });
        return i == list.end() ? nullptr : &*i;
      };
      for (const Json& v : a) {
        const Json* other = find(b, v[key]);
        under(v[key].get<std::string>(), v, other ? *other : nothing);
      }
      for (const Json& v : b)
        if (!find(a, v[key])) under(v[key].get<std::string>(), nothing, v);
      return;
    }
  out.push_back({at, a, b});
}

/// The keys of a change with names for ids.
std::string placeText(const JsonChange& c, const Json& from, const Json& to) {
  std::string text;
  std::array<const Json*, 2> now{&from, &to};
  for (const std::string& key : c.at) {
    std::string shown = key;
    for (const Json*& v : now) {
      if (!v) continue;
      if (v->is_array()) {
        v = entry(*v, key);
        if (v && v->contains("name") && (*v)["name"].is_string()) shown = (*v)["name"].get<std::string>();
      } else {
        v = v->is_object() && v->contains(key) ? &(*v)[key] : nullptr;
      }
    }
    text += (text.empty() ? "" : " · ") + shown;
  }
  return text;
}

std::string valueText(const Json& v) {
  if (v.is_null()) return "none";
  if (v.is_string()) return v.get<std::string>();
  if (v.is_object())
    return v.contains("name") && v["name"].is_string() ? v["name"].get<std::string>()
                                                       : fmt::format("{} values", v.size());
  if (v.is_number_float()) return fmt::format("{:.6g}", v.get<double>());
  std::string text = v.dump();
  if (text.size() > 48) text = fmt::format("a list of {}", v.size());
  return text;
}

} // namespace

std::vector<JsonChange> differences(const Json& from, const Json& to) {
  std::vector<JsonChange> out;
  std::vector<std::string> at;
  compare(from, to, at, out);
  return out;
}

Json withChanges(Json value, const std::vector<JsonChange>& changes, std::vector<std::string>* lost) {
  for (const JsonChange& c : changes) {
    Json* now = &value;
    bool found = !c.at.empty();
    for (std::size_t k = 0; found && k + 1 < c.at.size(); ++k) {
      if (now->is_array())
        now = const_cast<Json*>(entry(*now, c.at[k]));
      else if (now->is_object() && (now->contains(c.at[k]) || (c.at.size() == 2 && c.to.is_object())))
        now = &(*now)[c.at[k]]; // a list that the base does not have yet
      else
        now = nullptr;
      found = now != nullptr;
    }
    if (!found) {
      if (lost && !c.to.is_null()) lost->push_back(changeText(c, value, value));
      continue;
    }
    const std::string& last = c.at.back();
    if (now->is_null() && c.at.size() == 2) *now = Json::array();
    if (now->is_array()) {
      const Json* there = entry(*now, last);
      const auto i = there ? std::size_t(there - &(*now)[0]) : now->size();
      if (c.to.is_null()) {
        if (there) now->erase(i);
      } else if (there) {
        (*now)[i] = c.to;
      } else if (c.to.is_object()) {
        now->push_back(c.to);
      } else if (lost) {
        lost->push_back(changeText(c, value, value));
      }
    } else if (now->is_object()) {
      if (c.to.is_null())
        now->erase(last);
      else
        (*now)[last] = c.to;
    } else if (lost) {
      lost->push_back(changeText(c, value, value));
    }
  }
  return value;
}

std::string changeText(const JsonChange& c, const Json& from, const Json& to) {
  if (c.from.is_null())
    return fmt::format("{}: {}", placeText(c, from, to), c.to.is_object() ? "added" : valueText(c.to));
  if (c.to.is_null())
    return fmt::format("{}: {}", placeText(c, from, to), c.from.is_object() ? "gone" : valueText(c.from) + " no more");
  return fmt::format("{}: {} → {}", placeText(c, from, to), valueText(c.from), valueText(c.to));
}

} // namespace noonward
