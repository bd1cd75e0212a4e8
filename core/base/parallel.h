#pragma once
// Loops in fixed chunks: what a chunk holds depends on the problem alone, never on the number of threads, so that the
// same inputs give the same bits. Work runs in an arena of its own; the window's thread never waits in it.

#include <cstddef>
#include <functional>

namespace noonward {

/// Threads to use; 0 asks for all the machine has.
struct Threads {
  int count = 0;
};

/// Calls body(begin, end) for [0, n) cut into pieces of `chunk`, in any order, on `threads` threads. A call that is
/// refused by `before` (if given; asked before each chunk, from the worker) is skipped. Returns chunks carried out.
std::size_t forChunks(std::size_t n, std::size_t chunk, Threads threads,
                      const std::function<void(std::size_t, std::size_t)>& body,
                      const std::function<bool()>& before = {});

} // namespace noonward
