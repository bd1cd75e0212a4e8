#pragma once
// Typed ids: 64 bits, random, never reused; 16 hex digits as text. 0 means "none".

#include <compare>
#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <string_view>

namespace noonward {

std::uint64_t randomId();
std::string idText(std::uint64_t value);
/// 16 hex digits, else nothing.
std::optional<std::uint64_t> idFromText(std::string_view text);
/// The id of an element that a hand-written file left without one: a hash of where it stands and its name.
std::uint64_t derivedId(std::string_view key);

template <class Tag> struct Id {
  std::uint64_t value = 0;
  auto operator<=>(const Id&) const = default;
  explicit operator bool() const { return value != 0; }
  static Id fresh() { return {randomId()}; }
  std::string text() const { return idText(value); }
};

using ElementId = Id<struct ElementTag>;
using GroupId = Id<struct GroupTag>;
using StudyId = Id<struct StudyTag>;
using ProjectId = Id<struct ProjectTag>;
using ViewId = Id<struct ViewTag>;
using SeasonId = Id<struct SeasonTag>;
using JudgementId = Id<struct JudgementTag>;
using OptionId = Id<struct OptionTag>;

} // namespace noonward

template <class Tag> struct std::hash<noonward::Id<Tag>> {
  std::size_t operator()(noonward::Id<Tag> id) const noexcept { return std::hash<std::uint64_t>{}(id.value); }
};
