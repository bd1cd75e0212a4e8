#pragma once
// The headless program's commands. Each registers itself on the parser and leaves its exit code in `exit`:
// 0 done, 1 findings that stop, 2 wrong call. Results go to standard output or files, progress to standard error.

#include <CLI/CLI.hpp>
#include <filesystem>
#include <functional>

namespace noonward::cli {

struct Session {
  int exit = 0;
  std::filesystem::path program;
};

void addSun(CLI::App& app, Session& session);
void addWeather(CLI::App& app, Session& session);
void addProjectCommands(CLI::App& app, Session& session); ///< run, probe, check, judge, picture, import
void addLight(CLI::App& app, Session& session); ///< sky, rooms, finishes, why
void addMetrics(CLI::App& app, Session& session); ///< metrics
void addProve(CLI::App& app, Session& session);
void addDemo(CLI::App& app, Session& session);
void addBench(CLI::App& app, Session& session);

/// Writes each tenth of a run on standard error, once.
std::function<void(double)> progressLine();
/// Prints "noonward-cli: …" on standard error and returns `code`.
int complain(const std::string& text, int code = 1);

} // namespace noonward::cli
