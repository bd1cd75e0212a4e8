#include "core/base/parallel.h"
#include <algorithm>
#include <atomic>
#include <tbb/parallel_for.h>
#include <tbb/task_arena.h>

namespace noonward {

std::size_t forChunks(std::size_t n, std::size_t chunk, Threads threads,
                      const std::function<void(std::size_t, std::size_t)>& body, const std::function<bool()>& before) {
  if (n == 0) return 0;
  const std::size_t chunks = (n + chunk - 1) / chunk;
  std::atomic<std::size_t> done{0};
  tbb::task_arena arena(threads.count > 0 ? threads.count : tbb::task_arena::automatic);
  arena.execute([&] {
    tbb::parallel_for(
        std::size_t{0}, chunks,
        [&](std::size_t c) {
          if (before && !before()) return;
          body(c * chunk, std::min(n, (c + 1) * chunk));
          done.fetch_add(1, std::memory_order_relaxed);
        },
        tbb::simple_partitioner{});
  });
  return done.load();
}

} // namespace noonward
