#include "core/studies/by_sensor.h"
#include <chrono>
#include <cmath>
#include <mutex>

namespace noonward {

LightResult bySensors(const LightInput& in, RunControl& control, Threads threads,
                      const std::function<void(LightResult&, std::size_t, std::size_t)>& body) {
  const auto start = std::chrono::steady_clock::now();
  LightResult out;
  out.kind = in.kind;
  out.unit = in.unit;
  out.key = in.key;
  const std::size_t n = in.sensors.sensors.size(), chunk = 32, chunks = (n + chunk - 1) / chunk;
  out.value.assign(n, std::nanf(""));
  out.standardError.assign(n, 0);
  out.samples.assign(n, 0);
  if (in.radiant)
    for (auto* part : {&out.direct, &out.sky, &out.reflected}) part->assign(n, std::nanf(""));
  std::mutex lock;
  std::size_t done = 0;
  const std::size_t finished = forChunks(
      n, chunk, threads,
      [&](std::size_t a, std::size_t b) {
        body(out, a, b);
        if (control.progress) {
          const std::lock_guard guard(lock);
          done += b - a;
          control.progress(double(done) / double(n));
        }
      },
      [&] { return control.goesOn(); });
  out.end = control.end(finished == chunks);
  out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  return out;
}

LightResult bySensor(const LightInput& in, RunControl& control, Threads threads, std::uint32_t samples,
                     const std::function<double(std::size_t)>& value) {
  return bySensors(in, control, threads, [&](LightResult& out, std::size_t a, std::size_t b) {
    for (std::size_t i = a; i < b; ++i) {
      out.value[i] = float(value(i));
      out.samples[i] = samples;
    }
  });
}

} // namespace noonward
