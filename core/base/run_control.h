#pragma once
// What the user wants of a run, looked at after every chunk; and the way news of it comes out.

#include <atomic>
#include <functional>

namespace noonward {

enum class Wish { GoOn, Enough, Drop };
/// How a run ended. Enough keeps what is whole, with how far it came; Superseded is a run whose inputs changed.
enum class RunEnd { Finished, Enough, Dropped, Superseded, Failed };

struct RunControl {
  std::atomic<Wish> wish{Wish::GoOn};
  std::function<void(double)> progress; ///< share done, 0…1; called from a worker thread, one call at a time
  /// How a run over chunks ended; `all`: every chunk was done.
  RunEnd end(bool all) const {
    return all ? RunEnd::Finished : wish.load() == Wish::Enough ? RunEnd::Enough : RunEnd::Dropped;
  }
  bool goesOn() const { return wish.load(std::memory_order_relaxed) == Wish::GoOn; }
};

} // namespace noonward
