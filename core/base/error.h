#pragma once
// Input errors are values: what happened, and where (a file with line, a JSON path, an element).

#include <stdexcept>
#include <string>
#include <tl/expected.hpp>

namespace noonward {

struct Error {
  std::string message; ///< a whole sentence: what happened and what to do
  std::string place;   ///< "file:line", "elements[3].height", … ; may be empty
  std::string text() const { return place.empty() ? message : place + ": " + message; }
};

template <class T> using Expected = tl::expected<T, Error>;
using Outcome = tl::expected<void, Error>;

inline tl::unexpected<Error> fail(std::string message, std::string place = {}) {
  return tl::unexpected<Error>(Error{std::move(message), std::move(place)});
}

/// A broken invariant of our own, never an input error. Stays on in Release: a wrong number costs more than a stop.
struct BrokenInvariant : std::logic_error {
  using std::logic_error::logic_error;
};
inline void require(bool holds, const char* what) {
  if (!holds) throw BrokenInvariant(what);
}

} // namespace noonward
