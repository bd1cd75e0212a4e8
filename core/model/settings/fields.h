#pragma once
// A settings struct describes its fields once, beside its members: `template <class D> static void describe(D& d)`
// calls d.share(…), d.number(…), d.choice(…) and the like, one a field. Everything else follows from that: reading and
// writing of files, the hash of a question, `--set key=value`, rows of a sheet, the record's table of settings and the
// documentation.
//
// Values inside are SI; a file, a sheet and a command show the unit stated here. A share (0…1) is shown in %, an angle
// (rad) in degrees, minutes of the day as clock times.

#include "core/base/hash.h"
#include "core/base/json.h"
#include "core/base/units.h"
#include "core/sun/time.h"
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <functional>
#include <string>
#include <type_traits>
#include <vector>

namespace noonward {

/// One way of a field that has few: its key in files, its words in the window.
struct FieldChoice {
  std::string key, words;
};

/// What a person sees of a field: a row of a sheet. Clock windows have two, all others one or none.
template <class S> struct FieldRow {
  std::string name, unit, help;
  std::string spoken;                        ///< by which name readers of the screen find it, where that is another
  std::vector<FieldChoice> choices;          ///< where one of these is meant, and not a text
  std::function<std::string(const S&)> text; ///< "50 %", "8:00"; the words of a choice
  /// What was typed, or the words of a choice; returns what would be expected, empty where it was taken.
  std::function<std::string(S&, std::string_view)> take;
};

template <class S> struct Field {
  std::string key, unit, help;
  std::string former;   ///< the key in earlier files, still read; answers found by it are found on
  std::string expected; ///< "0 to 100 %", "standard, never or always"
  std::vector<FieldRow<S>> rows;
  std::function<void(JsonObject&, S&)> read;
  std::function<void(Json&, const S&)> write;
  std::function<void(Hasher&, const S&)> hash;
  std::function<bool(const S&)> matters; ///< does the answer depend on it as the other fields stand? None: always
  std::function<bool(const S&)> kept;    ///< is it written to files? None: always
  bool asked = true;                     ///< part of the question; else it is not hashed here
  bool folded = false;                   ///< a row that most never need

  bool isIn(const S& s) const { return !matters || matters(s); }
  void readFrom(JsonObject& o, S& s) const {
    if (!former.empty()) o.formerly(key.c_str(), former.c_str());
    read(o, s);
  }
  void addTo(Hasher& h, const S& s) const { hash(h.add(former.empty() ? key : former), s); }
};
template <class S> using Fields = std::vector<Field<S>>;

// ---- pieces that do not depend on the struct ----------------------------------------------------------------------

/// A number without the dust of conversions: twelve digits are kept.
double tidyNumber(double value);
/// "50 %" for a number with its unit.
std::string textWithUnit(double value, const std::string& unit);
/// A number typed with or without its unit, by any decimal mark.
std::optional<double> numberWithUnit(std::string_view text, const std::string& unit);
/// What is asked back where "0.4" was typed for a share in %: 40 % or 0.4 %? Empty where it is clear.
std::string shareAskedBack(std::string_view text);
/// "0 to 100 %".
std::string rangeText(double low, double high, const std::string& unit);
/// "a", "a or b", "a, b or c".
std::vector<std::string> quoted(std::vector<std::string> words);
std::string listedWithOr(const std::vector<std::string>& words);
/// The value of `--set key=value`: JSON where it is some, a list where there are commas, else text.
Json valueFromText(std::string_view text);
/// Two clock times [“8:00”, “18:00”] of a file as minutes; a fault where they are none.
/// `ordered`: the beginning before the end.
std::optional<std::array<double, 2>> clocksFromJson(JsonObject& object, const char* key, bool ordered);

/// The text of a row in the units looked at: "27.87 fc" for 300 lx.
template <class S> std::string shownText(const FieldRow<S>& row, const S& s, const DisplayUnits& units) {
  const std::string text = row.text(s);
  if (row.unit == "m")
    if (const auto metres = numberWithUnit(text, row.unit)) return lengthText(*metres, units.length);
  if (row.unit == "%") // a third is 33.33 %
    if (const auto share = numberWithUnit(text, row.unit)) return fmt::format("{:.4g} %", *share);
  const ShownUnit u = shownUnit(row.unit, units);
  const auto v = u.factor == 1 ? std::nullopt : numberWithUnit(text, row.unit);
  return v ? fmt::format("{:.4g} {}", u.shown(*v), u.symbol) : text;
}
/// What was typed in the units looked at, as the row takes it; "300 lx" and "28 fc" are understood whatever is shown.
template <class S> std::string typedText(const FieldRow<S>& row, const std::string& text, const DisplayUnits& units) {
  if (row.unit == "m") {
    const auto metres = lengthFromText(text, units.length);
    return metres ? textWithUnit(*metres, row.unit) : text;
  }
  if (shownUnit(row.unit, {LengthUnit::Foot, LightUnit::FootCandle}).factor == 1) return text; // it has no other unit
  const auto v = quantityFromText(text, row.unit, units);
  return v ? textWithUnit(*v, row.unit) : text;
}

// ---- building -----------------------------------------------------------------------------------------------------

/// Gathers the fields of a struct. Members are pointers to members or callables that return a reference.
template <class S> class FieldsOf {
public:
  Fields<S> list;

  /// Modifiers of the field added last.
  FieldsOf& folded() { return last().folded = true, *this; }
  FieldsOf& quiet() { return last().rows.clear(), *this; } ///< no row in a sheet
  FieldsOf& spoken(const char* name) { return last().rows.front().spoken = name, *this; }
  FieldsOf& formerly(const char* key) { return last().former = key, *this; }
  FieldsOf& notAsked() { return last().asked = false, *this; }
  FieldsOf& matters(std::function<bool(const S&)> when) { return last().matters = std::move(when), *this; }
  FieldsOf& keptWhen(std::function<bool(const S&)> when) { return last().kept = std::move(when), *this; }
  /// Written only where it differs from a fresh struct's.
  FieldsOf& unlessDefault() {
    last().kept = [write = last().write](const S& s) {
      Json now, fresh;
      write(now, s);
      write(fresh, S{});
      return now != fresh;
    };
    return *this;
  }

  /// A number shown as value × factor in `unit`, from low to high as shown.
  template <class M>
  FieldsOf& scaled(const char* key, const char* name, const char* unit, double factor, double low, double high,
                   M member, const char* help) {
    Field<S>& f = add(key, unit, help, rangeText(low, high, unit));
    f.read = [=, k = f.key](JsonObject& o, S& s) {
      if (!o.raw(k.c_str()).is_null()) std::invoke(member, s) = o.number(k.c_str(), 0, low, high) / factor;
    };
    f.write = [=, k = f.key](Json& j, const S& s) { j[k] = tidyNumber(std::invoke(member, s) * factor); };
    f.hash = [=](Hasher& h, const S& s) { // as its file has it, so that what was asked before saving is found again
      h.add(tidyNumber(double(std::invoke(member, s)) * factor));
    };
    f.rows.push_back({name,
                      unit,
                      help,
                      {},
                      {},
                      [=, u = f.unit](const S& s) { return textWithUnit(std::invoke(member, s) * factor, u); },
                      [=, u = f.unit](S& s, std::string_view text) {
                        const auto v = numberWithUnit(text, u);
                        if (!v || *v < low || *v > high) return rangeText(low, high, u);
                        if (std::string back = u == "%" ? shareAskedBack(text) : ""; !back.empty()) return back;
                        std::invoke(member, s) = *v / factor;
                        return std::string();
                      }});
    return *this;
  }
  template <class M>
  FieldsOf& number(const char* key, const char* name, const char* unit, double low, double high, M member,
                   const char* help) {
    return scaled(key, name, unit, 1, low, high, member, help);
  }
  /// A share of 0…1, shown in %.
  template <class M>
  FieldsOf& share(const char* key, const char* name, double low, double high, M member, const char* help) {
    return scaled(key, name, "%", 100, low, high, member, help);
  }
  /// The same, but files state it as 0…1, as they did from the first.
  template <class M>
  FieldsOf& part(const char* key, const char* name, double low, double high, M member, const char* help) {
    share(key, name, low, high, member, help);
    Field<S>& f = last();
    f.unit.clear();
    f.expected = rangeText(low / 100, high / 100, "");
    f.read = [=, k = f.key](JsonObject& o, S& s) {
      if (!o.raw(k.c_str()).is_null()) std::invoke(member, s) = o.number(k.c_str(), 0, low / 100, high / 100);
    };
    f.write = [=, k = f.key](Json& j, const S& s) { j[k] = tidyNumber(std::invoke(member, s)); };
    return *this;
  }
  /// An angle in rad, shown in degrees.
  template <class M>
  FieldsOf& angle(const char* key, const char* name, double low, double high, M member, const char* help) {
    return scaled(key, name, "°", 180 / 3.14159265358979323846, low, high, member, help);
  }
  /// A share that may be absent; `absent`: the words for that in a sheet.
  template <class M>
  FieldsOf& optionalShare(const char* key, const char* name, double low, double high, M member, const char* absent,
                          const char* help) {
    Field<S>& f = add(key, "%", help, rangeText(low, high, "%") + ", or none");
    f.read = [=, k = f.key](JsonObject& o, S& s) {
      if (!o.raw(k.c_str()).is_null()) std::invoke(member, s) = o.number(k.c_str(), 0, low, high) / 100;
    };
    f.write = [=, k = f.key](Json& j, const S& s) {
      if (const auto& v = std::invoke(member, s)) j[k] = tidyNumber(*v * 100);
    };
    f.hash = [=](Hasher& h, const S& s) {
      if (const auto& v = std::invoke(member, s)) h.add(tidyNumber(*v * 100));
    };
    f.rows.push_back({name,
                      "%",
                      help,
                      {},
                      {},
                      [=](const S& s) {
                        const auto& v = std::invoke(member, s);
                        return v ? textWithUnit(*v * 100, "%") : std::string(absent);
                      },
                      [=](S& s, std::string_view text) {
                        if (text.find_first_not_of(" %") == text.npos || text == absent) {
                          std::invoke(member, s).reset();
                          return std::string();
                        }
                        const auto v = numberWithUnit(text, "%");
                        if (!v || *v < low || *v > high) return rangeText(low, high, "%") + ", or nothing";
                        std::invoke(member, s) = *v / 100;
                        return std::string();
                      }});
    return *this;
  }
  /// A whole number.
  template <class M>
  FieldsOf& count(const char* key, const char* name, const char* unit, int low, int high, M member, const char* help) {
    Field<S>& f = add(key, unit, help, rangeText(low, high, unit));
    using T = std::remove_cvref_t<std::invoke_result_t<M, S&>>;
    f.read = [=, k = f.key](JsonObject& o, S& s) {
      if (!o.raw(k.c_str()).is_null()) std::invoke(member, s) = T(o.integer(k.c_str(), low, low, high));
    };
    f.write = [=, k = f.key](Json& j, const S& s) { j[k] = std::invoke(member, s); };
    f.hash = [=](Hasher& h, const S& s) { h.add(std::uint64_t(std::invoke(member, s))); };
    f.rows.push_back({name,
                      unit,
                      help,
                      {},
                      {},
                      [=, u = f.unit](const S& s) { return textWithUnit(double(std::invoke(member, s)), u); },
                      [=, u = f.unit](S& s, std::string_view text) {
                        const auto v = numberWithUnit(text, u);
                        if (!v || *v < low || *v > high || *v != std::floor(*v)) return rangeText(low, high, u);
                        std::invoke(member, s) = T(*v);
                        return std::string();
                      }});
    return *this;
  }
  /// One of few, in the order shown.
  template <class M> using ValueOf = std::remove_cvref_t<std::invoke_result_t<M, S&>>;
  template <class M>
  FieldsOf& choice(const char* key, const char* name,
                   std::type_identity_t<std::vector<std::pair<ValueOf<M>, FieldChoice>>> ways, M member,
                   const char* help) {
    std::vector<FieldChoice> choices;
    std::vector<std::string> keys;
    for (const auto& [value, way] : ways) choices.push_back(way), keys.push_back(way.key);
    Field<S>& f = add(key, "", help, listedWithOr(keys));
    const auto keyOf = [ways, member](const S& s) {
      for (const auto& [value, way] : ways)
        if (value == std::invoke(member, s)) return way;
      return FieldChoice{};
    };
    f.read = [ways, member, k = f.key, wanted = listedWithOr(quoted(keys))](JsonObject& o, S& s) {
      const Json& v = o.raw(k.c_str());
      if (v.is_null()) return;
      for (const auto& [value, way] : ways)
        if (v == way.key) return void(std::invoke(member, s) = value);
      o.fault(k.c_str(), wanted + " is expected here.");
    };
    f.write = [keyOf, k = f.key](Json& j, const S& s) { j[k] = keyOf(s).key; };
    f.hash = [keyOf](Hasher& h, const S& s) { h.add(keyOf(s).key); };
    f.rows.push_back({name,
                      "",
                      help,
                      {},
                      std::move(choices),
                      [keyOf](const S& s) { return keyOf(s).words; },
                      [ways, member, expected = f.expected](S& s, std::string_view text) {
                        for (const auto& [value, way] : ways)
                          if (text == way.words || text == way.key) {
                            std::invoke(member, s) = value;
                            return std::string();
                          }
                        return expected;
                      }});
    return *this;
  }
  /// Yes or no, with the words for no and yes in a sheet.
  template <class M>
  FieldsOf& flag(const char* key, const char* name, const char* no, const char* yes, M member, const char* help) {
    Field<S>& f = add(key, "", help, "true or false");
    f.read = [=, k = f.key](JsonObject& o, S& s) {
      if (!o.raw(k.c_str()).is_null()) std::invoke(member, s) = o.boolean(k.c_str(), false);
    };
    f.write = [=, k = f.key](Json& j, const S& s) { j[k] = bool(std::invoke(member, s)); };
    f.hash = [=](Hasher& h, const S& s) { h.add(bool(std::invoke(member, s))); };
    f.rows.push_back({name,
                      "",
                      help,
                      {},
                      {{"false", no}, {"true", yes}},
                      [=](const S& s) { return std::string(std::invoke(member, s) ? yes : no); },
                      [=](S& s, std::string_view text) {
                        if (text != yes && text != no) return std::string(no) + " or " + yes;
                        std::invoke(member, s) = text == yes;
                        return std::string();
                      }});
    return *this;
  }
  /// A clock window, the beginning before the end: minutes of the day in two members, two rows.
  /// `ordered` false: a file may have them the other way round, as it could before; a sheet takes them in order.
  template <class M>
  FieldsOf& clocks(const char* key, const char* fromName, const char* toName, M begin, M end, const char* help,
                   bool ordered = true) {
    Field<S>& f = add(key, "", help, "two clock times, the beginning before the end");
    f.read = [=, k = f.key](JsonObject& o, S& s) {
      if (const auto m = clocksFromJson(o, k.c_str(), ordered))
        std::invoke(begin, s) = (*m)[0], std::invoke(end, s) = (*m)[1];
    };
    f.write = [=, k = f.key](Json& j, const S& s) {
      j[k] = Json::array({clockText(std::invoke(begin, s)), clockText(std::invoke(end, s))});
    };
    f.hash = [=](Hasher& h, const S& s) { h.add(std::invoke(begin, s)).add(std::invoke(end, s)); };
    for (const bool first : {true, false})
      f.rows.push_back({first ? fromName : toName,
                        "",
                        help,
                        {},
                        {},
                        [=](const S& s) { return clockText(std::invoke(first ? begin : end, s)); },
                        [=](S& s, std::string_view text) {
                          const auto m = minutesFromText(text);
                          if (!m || (first ? *m >= std::invoke(end, s) : *m <= std::invoke(begin, s)))
                            return std::string("a clock time, the beginning before the end");
                          std::invoke(first ? begin : end, s) = *m;
                          return std::string();
                        }});
    return *this;
  }
  /// One clock time, minutes of the day.
  template <class M> FieldsOf& clock(const char* key, const char* name, M member, const char* help) {
    Field<S>& f = add(key, "", help, "a clock time");
    f.read = [=, k = f.key](JsonObject& o, S& s) {
      const Json& v = o.raw(k.c_str());
      if (v.is_null()) return;
      const auto minute = v.is_string() ? minutesFromText(v.get<std::string>()) : std::nullopt;
      if (!minute) return o.fault(k.c_str(), "A time such as \"8:00\" is expected here.");
      std::invoke(member, s) = *minute;
    };
    f.write = [=, k = f.key](Json& j, const S& s) { j[k] = clockText(std::invoke(member, s)); };
    f.hash = [=](Hasher& h, const S& s) { h.add(std::invoke(member, s)); };
    f.rows.push_back({name,
                      "",
                      help,
                      {},
                      {},
                      [=](const S& s) { return clockText(std::invoke(member, s)); },
                      [=](S& s, std::string_view text) {
                        const auto minute = minutesFromText(text);
                        if (!minute) return std::string("a clock time, such as 8:00");
                        std::invoke(member, s) = *minute;
                        return std::string();
                      }});
    return *this;
  }
  /// Anything else: all by hand. Rows and hash are added to what is returned by whoever needs them.
  Field<S>& own(const char* key, const char* expected, const char* help, std::function<void(JsonObject&, S&)> read,
                std::function<void(Json&, const S&)> write) {
    Field<S>& f = add(key, "", help, expected);
    f.read = std::move(read);
    f.write = std::move(write);
    f.hash = [write = f.write](Hasher& h, const S& s) {
      Json j;
      write(j, s);
      h.add(j.dump());
    };
    return f;
  }

private:
  Field<S>& last() { return list.back(); }
  Field<S>& add(const char* key, const char* unit, const char* help, std::string expected) {
    list.emplace_back();
    last().key = key;
    last().unit = unit;
    last().help = help;
    last().expected = std::move(expected);
    return last();
  }
};

// ---- using --------------------------------------------------------------------------------------------------------

/// The description of a struct, made once. Specialised in settings.cpp, one line a struct.
template <class S> const Fields<S>& fieldsOf();

template <class S> void readFields(JsonObject& o, S& s) {
  for (const Field<S>& f : fieldsOf<S>()) f.readFrom(o, s);
}
template <class S> void writeFields(Json& j, const S& s) {
  for (const Field<S>& f : fieldsOf<S>())
    if (!f.kept || f.kept(s)) f.write(j, s);
}
/// What the answer depends on, by name and value, in the order of the description.
template <class S> void hashFields(Hasher& h, const S& s) {
  for (const Field<S>& f : fieldsOf<S>())
    if (f.asked && f.isIn(s)) f.addTo(h, s);
}
/// A table in Markdown of a struct whose first field is its kind: what each key is, and for which kinds.
template <class S> std::string fieldsByKindAsMarkdown(const std::string& required) {
  std::string out = "\n| key | expected | where absent | what it is |\n|---|---|---|---|\n";
  const Fields<S>& fields = fieldsOf<S>();
  for (const Field<S>& f : fields) {
    Json fresh;
    f.write(fresh, S{});
    std::string at;
    for (const auto& kind : fields.front().rows.front().choices) {
      S like;
      fields.front().rows.front().take(like, kind.words);
      if (f.isIn(like)) at += fmt::format("{}`{}`", at.empty() ? "" : ", ", kind.key);
    }
    out += fmt::format("| `{}` | {} | {} | {}{} |\n", f.key, f.expected,
                       f.key == required ? "required" : fresh[f.key].dump(), f.help,
                       f.matters && !at.empty() ? ". For " + at : "");
  }
  return out;
}
/// One field from a value as a file would have it.
template <class S> Outcome setField(const Field<S>& f, S& s, Json value) {
  Json object = Json::object();
  object[f.key] = std::move(value);
  JsonFault fault;
  {
    JsonObject o(object, "", fault);
    f.read(o, s);
  }
  if (!fault.unknown.empty()) return fail("\"" + fault.unknown.front().first + "\" is no key here.", f.key);
  return fault.error ? Outcome(tl::unexpected(*fault.error)) : Outcome{};
}

/// The same field of a struct that holds this one.
template <class Whole, class S> Field<Whole> lifted(const Field<S>& f, S Whole::*part) {
  Field<Whole> out;
  out.key = f.key;
  out.former = f.former;
  out.unit = f.unit;
  out.help = f.help;
  out.expected = f.expected;
  out.asked = f.asked;
  out.folded = f.folded;
  out.read = [=, r = f.read](JsonObject& o, Whole& w) { r(o, w.*part); };
  out.write = [=, r = f.write](Json& j, const Whole& w) { r(j, w.*part); };
  out.hash = [=, r = f.hash](Hasher& h, const Whole& w) { r(h, w.*part); };
  if (f.matters) out.matters = [=, r = f.matters](const Whole& w) { return r(w.*part); };
  if (f.kept) out.kept = [=, r = f.kept](const Whole& w) { return r(w.*part); };
  for (const FieldRow<S>& row : f.rows)
    out.rows.push_back({row.name, row.unit, row.help, row.spoken, row.choices,
                        [=, r = row.text](const Whole& w) { return r(w.*part); },
                        [=, r = row.take](Whole& w, std::string_view text) { return r(w.*part, text); }});
  return out;
}

} // namespace noonward
